"""Competitor queries: queries that bring competing pages visits, and whether the site ranks for them and mentions them."""

from typing import Any

import polars as pl

from zugzwang.core.facts.grains import PAGE_QUERIES
from zugzwang.core.facts.periods import Period
from zugzwang.core.words import sentences
from zugzwang.core.words.occurrences import Reader
from zugzwang.data.blocks import read_facts
from zugzwang.data.cache import cached
from zugzwang.data.models import Query
from zugzwang.data.snapshot import Setting, Snapshot
from zugzwang.findings.columns import PAGE, PAGES, PART
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.view import View, ViewOptions

_SCHEMA: dict[str, Any] = {
    "page": pl.UInt32, "query": pl.String, "won_by": pl.String, "position": pl.Float64, "searches": pl.UInt32,
    "visits": pl.Float64, "shown": pl.UInt32, "exact_uses": pl.UInt32, "other_form_uses": pl.UInt32, "of_rival": pl.Boolean,
}  # fmt: skip


@cached
def gaps(snapshot: Snapshot, period: Period, setting: Setting) -> pl.DataFrame:
    """Each page of the site with each query that brings visits to a page above it: once for each query, at the page with the
    largest number.
    """
    won = read_facts(snapshot.site, PAGE_QUERIES)
    if won.is_empty():
        return pl.DataFrame(schema=_SCHEMA)
    above = snapshot.serps.results_above().select("query", "plain")
    most = snapshot.facts.appraisal(period, setting).rows.filter(pl.col("page") > 0)
    most = most.sort("impressions", "page", descending=[True, False]).unique("query", keep="first").select("page", "query")
    extras = above.join(most, on="query").select("page", address="plain").unique()
    rows = extras.join(won, on="address").sort("visits", "address", descending=[True, False])
    rows = rows.unique(["page", "query"], keep="first", maintain_order=True)
    shown = snapshot.facts.appraisal(period, setting).rows.select("page", "impressions", number="query")
    texts = snapshot.names.texts(Query).select(number="id", query="text")
    shown = shown.join(texts, on="number").select("page", "query", "impressions")
    rows = rows.join(shown, on=["page", "query"], how="left", maintain_order="left")
    reader = Reader(snapshot.pages.page_words())
    result: list[tuple[Any, ...]] = []
    columns = ("page", "query", "address", "position", "searches", "visits", "impressions")
    for page, query, address, position, searches, visits, impressions in rows.select(columns).iter_rows():
        uses = reader.occurrences(page, query)
        name = name_of(address)
        of_rival = bool(name) and name in query.replace(" ", "").lower()
        result.append(
            (page, query, address, position, searches, visits, impressions or 0, uses.exactly, uses.in_other_forms, of_rival)
        )
    return pl.DataFrame(result, schema=_SCHEMA, orient="row").sort("visits", "query", "page", descending=[True, False, False])


def name_of(address: str) -> str:
    """The name of a site from its host: "https://www.river-club.example/x" → "riverclub"."""
    host = address.partition("//")[2].partition("/")[0].removeprefix("www.")
    return host.rpartition(".")[0].rpartition(".")[2].replace("-", "")


def find_gaps(view: View) -> Found:
    rows = gaps(view.snapshot, view.period, view.setting)
    known = read_facts(view.site, PAGE_QUERIES, columns=["address"]).height
    return Found(rows, {"rows": known}, [] if known else [sentences.NO_PAGE_QUERIES])


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    if found.lacking:
        return found.lacking
    missing_queries = rows.filter(pl.col("exact_uses") + pl.col("other_form_uses") == 0).height
    return [sentences.competitor_queries(rows.height, rows.filter(pl.col("shown") == 0).height, missing_queries)]


def _with_text(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    return rows.filter(pl.col("query").str.to_lowercase().str.contains(view.words.lower(), literal=True))


COMPETITOR_QUERIES = Finding(
    name="competitor-queries",
    place=("on-page", 6),
    title="Competitor queries",
    question="Which queries bring competing pages visits, and are they on your page?",
    method="competitor-queries",
    needs=(("results",), ("page-queries",)),
    claims=("query", "queries"),
    order="visits",
    makes=(*PART, "curve"),
    chooses=(*PAGES, "text"),
    columns=(
        Column("query", "text", "query, page", "the query, and your page ranking below", shown="list", low=True),
        PAGE,
        Column("visits", "amount", "visits", "visits that the query brings the competing page", "visits a month", "list"),
        Column("shown", "count", "impressions", "impressions of your page for it", "times in the period", "list"),
        Column("exact_uses", "count", "on your page", "exact uses on your page", "times", "list"),
        Column("other_form_uses", "count", "in other forms", "uses in other word forms", "times", "extra"),
        Column("position", "position", "their position", "position of the competing page", shown="list", null=True, low=True),
        Column("searches", "count", "searches", "searches a month", "searches a month", "list", null=True),
        Column("won_by", "text", "won by", "the competing page that it brings most visits", shown="list", low=True),
        Column("of_rival", "flag", "their name", "whether the query contains the competitor's name", shown="extra"),
    ),
    find=find_gaps,
    says=_says,
    choose={"text": _with_text},
    opens=(ViewOptions(),),
)  # fmt: skip
