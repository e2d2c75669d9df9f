"""Mentions: where pages mention other pages' main queries, and whether they link there."""

from typing import Any

import polars as pl

from zugzwang.core.clicks.headroom import Target
from zugzwang.core.facts.periods import Period
from zugzwang.core.links.mentions import MENTIONS, mentions, sentence_with
from zugzwang.core.words import link_sentences
from zugzwang.core.words.wording import stems
from zugzwang.data.cache import cached
from zugzwang.data.decided import chosen_main_queries
from zugzwang.data.snapshot import Setting, Snapshot
from zugzwang.findings.columns import PAGE, PAGES, PART
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.linking import phrases_of, stakes_of_pages
from zugzwang.findings.titles import Chosen
from zugzwang.findings.view import View, ViewOptions

_KIND = pl.Enum(MENTIONS)


@cached
def main_mentions(
    snapshot: Snapshot,
    period: Period,
    setting: Setting,
    min_impressions: int,
    target: Target,
    chosen: Chosen,
    phrases: tuple[tuple[str, int | None], ...],
    exact: bool,
) -> pl.DataFrame:
    """Every mention of some phrases (text, and the page that it means): phrase (text), target, page, the columns of
    core.links.mentions, linked (whether the page's body links there), kind.
    """
    numbered = pl.DataFrame(
        [(number, text, page) for number, (text, page) in enumerate(phrases)],
        schema={"phrase": pl.UInt32, "text": pl.String, "target": pl.UInt32},
        orient="row",
    )
    found = mentions(snapshot.pages.page_words(), [text for text, _ in phrases], exact).join(numbered, on="phrase")
    links = snapshot.links.inner_links().filter(pl.col("in_body").fill_null(True)).drop_nulls(["source", "target"])
    there = links.select(page="source", target="target").unique().with_columns(linked=pl.lit(True))
    found = found.join(there, on=["page", "target"], how="left").with_columns(pl.col("linked").fill_null(False))
    own = (pl.col("page") == pl.col("target")).fill_null(False)
    alone = own & (pl.col("page").n_unique().over("phrase") == 1)
    found = found.filter(~own | (alone & (pl.col("times") + pl.col("in_headings") > 0)))
    kind = (
        pl.when(own)
        .then(pl.lit("no internal mention"))
        .when(pl.col("linked"))
        .then(pl.lit("linked"))
        .when(pl.col("times") > 0)
        .then(pl.lit("not linked"))
        .when(pl.col("in_headings") > 0)
        .then(pl.lit("heading only"))
        .otherwise(pl.lit("in another link"))
    )
    stakes = stakes_of_pages(snapshot, period, setting, min_impressions, target).select(target="page", stake="opportunity")
    rows = (
        found.drop("phrase")
        .rename({"text": "phrase"})
        .with_columns(kind=kind.cast(_KIND))
        .join(stakes, on="target", how="left")
    )
    return rows.sort(
        pl.col("kind").to_physical(), pl.col("stake").fill_null(0.0), "times", "phrase", "page",
        descending=[False, True, True, False, False],
    )  # fmt: skip


def phrases_asked(view: View) -> list[tuple[str, int | None]]:
    """The phrases to search with the page that each means: for a typed phrase that is no page's main query, the requested
    page; otherwise main queries and their variants.
    """
    known = phrases_of(view)
    typed = [phrase for phrase in dict.fromkeys(" ".join(one.split()) for one in view.options.phrase) if phrase]
    if not typed:
        return list(known.select("phrase", "target").iter_rows())
    language = view.snapshot.rules.language
    by_stems = {stems(phrase, language): page for phrase, page in known.reverse().select("phrase", "target").iter_rows()}
    return [(phrase, by_stems.get(stems(phrase, language), view.one_page)) for phrase in typed]


def find_mentions(view: View) -> Found:
    snapshot = view.snapshot
    phrases = phrases_asked(view)
    chosen = tuple(sorted(chosen_main_queries(view.site).items()))
    rows = main_mentions(
        snapshot, view.period, view.setting, view.min_impressions, view.options.target, chosen, tuple(phrases),
        view.options.forms == "exact",
    )  # fmt: skip
    if view.one_page is not None:
        rows = rows.filter((pl.col("target") == view.one_page) | (pl.col("page") == view.one_page))
    known = snapshot.pages.page_words().pages.height
    return Found(rows, {"phrases": len(phrases), "pages": known}, [] if known else [link_sentences.NEEDS_TEXTS])


def _dress(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """The first sentence of each page that mentions the phrase."""
    frame = dict(view.snapshot.pages.contents(rows["page"].unique()).select("page", "content").iter_rows())
    language, exact = view.snapshot.rules.language, view.options.forms == "exact"
    listed = [
        sentence_with(frame.get(page, ""), phrase, language, exact) if times else None
        for page, phrase, times in rows.select("page", "phrase", "times").iter_rows()
    ]
    return rows.with_columns(pl.Series("sentence", [one[0] if one else None for one in listed], dtype=pl.String))


def _by_kind(rows: pl.DataFrame) -> dict[str, int]:
    return {kind: number for kind in MENTIONS if (number := rows.filter(pl.col("kind") == kind).height)}


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    if found.lacking:
        return found.lacking
    return [link_sentences.mentions(found.behind["phrases"], _by_kind(rows), bool(view.options.phrase))]


def _extras(view: View, found: Found, rows: pl.DataFrame) -> dict[str, Any]:
    return {"by_kind": _by_kind(found.rows)}


def _of_kind(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    return rows.filter(pl.col("kind").cast(pl.String).is_in(list(view.options.mention)))


def _with_text(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    of_page = view.chosen(rows.select("page").unique())["page"]
    holds = pl.col("phrase").str.to_lowercase().str.contains(view.words.lower(), literal=True)
    return rows.filter(holds | pl.col("page").is_in(of_page.implode()))


MENTIONS_FOUND = Finding(
    name="mentions",
    place=("links", 4),
    title="Mentions",
    question="Which pages say what another page is searched for, and do not link to it?",
    method="mentions",
    needs=(("crawl",),),
    claims=("mention", "mentions"),
    order="kind",
    makes=(*PART, "min_impressions", "target", "curve", "phrase", "forms", "page"),
    chooses=(*PAGES, "text", "mention"),
    columns=(
        Column("phrase", "text", "phrase, page", "phrase, and the page that has it", shown="list", low=True),
        PAGE,
        Column("target", "page", "means", "page whose main query it is", shown="list", null=True),
        Column("kind", "word", "mention", "kind of mention", shown="list", choices=MENTIONS, low=True),
        Column("times", "count", "times", "uses in running text, without a link", "times", "list"),
        Column("exactly", "count", "exactly", "exact uses among them", "times", "extra"),
        Column("in_links", "count", "in links", "uses in anchor texts", "times", "extra"),
        Column("in_headings", "count", "in headings", "uses in headings", "times", "extra"),
        Column("linked", "flag", "linked", "whether the body links to that page"),
        Column("sentence", "text", "sentence", "first sentence with it", shown="extra", null=True, late=True),
    ),
    find=find_mentions,
    says=_says,
    dress=_dress,
    extras=_extras,
    more={"by_kind": dict[str, int]},
    choose={"mention": _of_kind, "text": _with_text},
    plan=True,
    opens=(ViewOptions(),),
    key=("page", "phrase"),
)  # fmt: skip
