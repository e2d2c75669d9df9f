"""Missing queries: queries that pages rank for but do not mention, mention in other forms, or mention late."""

from typing import Any

import polars as pl

from zugzwang.core.clicks.headroom import Target
from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.search import ROW
from zugzwang.core.pages.fit import closest_pages
from zugzwang.core.words import sentences
from zugzwang.core.words.missing_queries import ON_PAGE, Context, on_page_of, what_to_do
from zugzwang.core.words.occurrences import WHERE, Reader
from zugzwang.core.worth.moves import suggested_for_query
from zugzwang.data.cache import cached
from zugzwang.data.decided import chosen_main_queries
from zugzwang.data.models import Query
from zugzwang.data.snapshot import Setting, Snapshot
from zugzwang.findings.clashes import clashes_in
from zugzwang.findings.columns import EVIDENCE, IMPRESSIONS, LOST, PAGE, PAGES, PART, POSITION, POSITIONS, POTENTIAL, QUERY
from zugzwang.findings.finding import Column, Finding, Found, Proposal, Proposes
from zugzwang.findings.lenses import all_stakes, decided_rows
from zugzwang.findings.titles import Chosen, proposed_main_queries
from zugzwang.findings.view import View, ViewOptions

_SCHEMA: dict[str, Any] = {
    "exact_uses": pl.UInt32, "other_form_uses": pl.UInt32, "first_use_share": pl.Float64, "first_word": pl.UInt32,
    "words": pl.UInt32, "where": pl.List(pl.String), "per_thousand": pl.Float64, "on_page": pl.Enum(ON_PAGE),
    "what_to_do": pl.String,
}  # fmt: skip


@cached
def missing_rows(
    snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int, target: Target, chosen: Chosen
) -> pl.DataFrame:
    """Every row above the minimum of impressions whose page's text is known, with the page's coverage of the query; missing
    ones first, largest gain first.
    """
    stakes = all_stakes(snapshot, period, setting, min_impressions, target)
    rows = stakes.select(*ROW, "impressions", "clicks", "position", "evidence", gain=pl.col("lost") + pl.col("potential"))
    rows = rows.filter(pl.col("query") > 0, pl.col("page") > 0)
    texts = snapshot.pages.page_words()
    rows = rows.join(texts.pages.select("page"), on="page", how="semi")
    reader, queries = Reader(texts), dict(snapshot.names.known_texts(Query, rows["query"].unique()).iter_rows())
    if rows.is_empty():
        return pl.concat([rows, pl.DataFrame(schema={**_SCHEMA, "competing_median": pl.Float64})], how="horizontal")
    extras = _beside_rows(snapshot, period, setting, min_impressions, target, chosen, rows)
    usual = snapshot.serps.competing_usage()
    result: list[tuple[Any, ...]] = []
    for page, query in rows.select(ROW).iter_rows():
        uses = reader.occurrences(page, queries[query])
        high = usual[query][1] if query in usual else None
        to_do = what_to_do(queries[query], uses, Context(*extras[page, query], high))
        result.append(
            (uses.exactly, uses.in_other_forms, uses.first_at, uses.first, uses.words, list(uses.where), uses.per_thousand,
             on_page_of(uses), to_do)
        )  # fmt: skip
    found = pl.concat([rows, pl.DataFrame(result, schema=_SCHEMA, orient="row")], how="horizontal")
    median = {query: middle for query, (middle, _) in usual.items()}
    above = pl.col("query").replace_strict(median, default=None, return_dtype=pl.Float64)
    found = found.with_columns(competing_median=above)
    return found.sort(
        pl.col("on_page").to_physical(), "gain", "impressions", *ROW, descending=[False, True, True, False, False]
    )


def _beside_rows(
    snapshot: Snapshot,
    period: Period,
    setting: Setting,
    min_impressions: int,
    target: Target,
    chosen: Chosen,
    rows: pl.DataFrame,
) -> dict[tuple[int, int], tuple[Any, bool, bool, bool]]:
    """For each row its fit, whether its query clashes, whether another page mentions it, whether it is its page's main
    query."""
    fits = snapshot.pages.fits(rows.select(ROW)).select(*ROW, "fit")
    # Another page can only mention it where this one does not.
    open_queries = fits.filter(pl.col("fit").cast(pl.String) != "close")["query"].unique()
    closest = closest_pages(snapshot.pages.query_stems(open_queries), snapshot.pages.every_page_says())
    clashing = set(clashes_in(snapshot, period, setting, min_impressions).queries["query"])
    main = {**proposed_main_queries(snapshot, period, setting, min_impressions, target), **dict(chosen)}
    return {
        (page, query): (fit, query in clashing, closest.get(query, page) != page and fit != "close", main.get(page) == query)
        for page, query, fit in fits.iter_rows()
    }


def find_missing(view: View) -> Found:
    chosen = tuple(sorted(chosen_main_queries(view.site).items()))
    rows = missing_rows(view.snapshot, view.period, view.setting, view.min_impressions, view.options.target, chosen)
    rows = rows.with_columns((pl.col("gain") * view.month_share).alias("gain"))
    known = view.snapshot.pages.page_words().pages.height
    crawled = view.snapshot.pages.crawled_pages().height
    return Found(rows, {"pages": known, "rows": rows.height}, sentences.needs_texts(known, crawled))


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    if not found.behind["pages"]:
        return found.lacking
    by = extras["by_on_page"]
    open_rows = rows.filter(pl.col("on_page").cast(pl.String).is_in(["missing", "low on the page"]))
    return [
        sentences.missing_queries(
            rows.height, by.get("missing", 0), by.get("low on the page", 0), float(open_rows["gain"].sum())
        )
    ]


def _extras(view: View, found: Found, rows: pl.DataFrame) -> dict[str, Any]:
    return {"by_on_page": dict(found.rows.group_by(pl.col("on_page").cast(pl.String)).len().iter_rows())}


def _with_saying(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    return rows.filter(pl.col("on_page").cast(pl.String).is_in(list(view.options.on_page)))


def _propose(view: View, rows: pl.DataFrame) -> list[Proposal]:
    return [
        Proposal(
            suggested_for_query(row["what_to_do"]), row["gain"], None, row["evidence"],
            sentences.reason_missing(row["on_page"], row["what_to_do"]),
        )
        for row in rows.iter_rows(named=True)
    ]  # fmt: skip


MISSING_QUERIES = Finding(
    name="missing-queries",
    place=("on-page", 1),
    title="Missing queries",
    question="Which queries do pages get impressions for that are not on the page, or low on it?",
    method="missing-queries",
    needs=(("crawl",),),
    claims=("query × page", "queries × pages"),
    order="on_page",
    makes=(*PART, "min_impressions", "target", "curve"),
    chooses=(*PAGES, "query_group", "topic", "text", *POSITIONS, "on_page", "decided"),
    columns=(
        QUERY.listed("query, page", "query, and the page that ranks for it"),
        PAGE,
        Column("gain", "amount", "opportunity", f"{LOST}, and {POTENTIAL}", "clicks a month", "list"),
        Column("on_page", "word", "on the page", "whether the query is on the page", shown="list", choices=ON_PAGE, low=True),
        Column("exact_uses", "count", "times", "exact uses on the page", "times", "list", low=True),
        Column(
            "other_form_uses", "count", "in other forms", "uses in other forms, in order and close together", "times",
            "extra", low=True,
        ),
        Column("first_use_share", "share", "first at", "share of the page before its first use", shown="list", null=True),
        Column("first_word", "count", "at word", "number of the word where it first appears", "", "extra", null=True),
        Column("where", "words", "where", "where it appears: " + ", ".join(WHERE), shown="extra"),
        Column("per_thousand", "amount", "in 1,000 words", "uses per 1,000 words of the page", "", "extra"),
        Column(
            "competing_median", "amount", "above us", "uses per 1,000 words of competing pages (median)", "", "extra",
            null=True,
        ),
        IMPRESSIONS.listed(),
        Column("clicks", "count", "clicks", "clicks in the period", "clicks in the period", "extra"),
        POSITION.listed(null=False),
        EVIDENCE,
        Column("words", "count", "words", "words on the page", "words", "extra"),
        Column("what_to_do", "text", "what to do", "what to do about it", shown="extra"),
    ),
    proposes=Proposes(fill=_propose),
    find=find_missing,
    says=_says,
    extras=_extras,
    more={"by_on_page": dict[str, int]},
    choose={"on_page": _with_saying},
    decided=decided_rows,
    plan=True,
    opens=(ViewOptions(),),
)  # fmt: skip
