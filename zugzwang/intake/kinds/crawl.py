"""A crawl: the text and links of each page; fetched by the crawler, or loaded as a table of pages."""

from collections.abc import Sequence

import polars as pl

from zugzwang.core.facts.grains import CRAWL_PAGES
from zugzwang.core.words import sentences
from zugzwang.core.words.sentences import few
from zugzwang.data.blocks import read_facts
from zugzwang.data.models import Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.intake.kinds.kind import Field, GrainLoaded, Kind, Making, Unsound
from zugzwang.intake.kinds.making import absolute_addresses, filled, know_pages

EXAMPLES = 20


def _rows(rows: pl.DataFrame, making: Making) -> pl.DataFrame:
    rows = rows.with_columns(absolute_addresses(making.site, rows["address"].cast(pl.String)).alias("address"))
    if making.keep:
        know_pages(making.site, rows["address"], rows)
    if "heading" in rows.columns:
        heading = pl.concat_list(pl.concat_str(pl.lit("h1 "), "heading"))
        rows = rows.with_columns(headings=pl.when(pl.col("heading").is_not_null()).then(heading))
    if "robots" in rows.columns:
        # Some tables state in words whether a page is indexable.
        message = pl.col("robots").str.to_lowercase()
        in_words = (
            pl.when(message.str.contains(r"^non-?\s?indexable"))
            .then(pl.lit("noindex"))
            .when(message != "indexable")
            .then("robots")
        )
        rows = rows.with_columns(robots=in_words)
    return filled(rows, making)


def _says(site: Site) -> str:
    statuses = read_facts(site, CRAWL_PAGES, columns=["status"])["status"]
    good, gone = int((statuses == 200).sum()), int((statuses >= 400).sum())
    others = sentences.count(statuses.len() - good - gone)
    return f"{few(good, 'page', 'pages')} that answered, {sentences.count(gone)} that did not, {others} others."


def _unsound(site: Site, grains: Sequence[GrainLoaded]) -> list[Unsound]:
    """Pages with search data that the crawl did not find, and crawled pages without search data."""
    crawled = read_facts(site, CRAWL_PAGES, columns=["address", "status"])
    shown = Snapshot(site).pages.shown_pages()
    met = crawled.filter(pl.col("status") == 200)["address"]
    never_met = shown.filter(~shown.is_in(crawled["address"].implode())).sort()
    never_shown = met.filter(~met.is_in(shown.implode())).sort()
    found = []
    if never_met.len():
        message = (
            f"{few(never_met.len(), 'page of the search data was', 'pages of the search data were')} not found by the crawl."
        )
        remedy = "They may be gone, or no page links to them. Check their status, or link to them."
        found.append(Unsound(message, remedy, never_met.head(EXAMPLES).to_list(), never_met.len()))
    if never_shown.len():
        message = f"{few(never_shown.len(), 'crawled page is', 'crawled pages are')} without impressions."
        found.append(
            Unsound(message, "New, blocked, or too weak: check which.", never_shown.head(EXAMPLES).to_list(), never_shown.len())
        )
    return found


KIND = Kind(
    name="crawl",
    title="Crawl",
    holds="the text and links of each page",
    needed="a crawl",
    order=30,
    grains=(CRAWL_PAGES,),
    fields=(
        Field("address", "page", ("address", "url", "page", "page url"), required=True),
        Field("status", "status", ("status code", "http status code", "http status", "response code", "status")),
        Field("redirect_to", "text", ("redirect to", "redirect url", "redirects to", "redirect target")),
        Field(
            "canonical",
            "text",
            ("canonical", "canonical link element", "canonical url", "canonical link", "canonical address"),
        ),
        Field("robots", "text", ("robots", "meta robots", "robots directives", "indexability", "indexability status")),
        Field("title", "text", ("title", "page title", "title tag", "titles"), required=True, may_be_empty=True),
        Field("description", "text", ("description", "meta description", "page description")),
        Field("heading", "text", ("h1", "heading", "main heading", "heading 1", "first heading")),
        Field("main_text", "text", ("text", "main text", "content", "body")),
        Field("words", "whole", ("words", "word count")),
    ),
    telling=("title", "status", "canonical", "description", "heading", "words"),
    rows=_rows,
    says=_says,
    unsound=_unsound,
    served=False,
)  # fmt: skip
