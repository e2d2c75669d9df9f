"""Page-two candidates: rows on page two whose page covers most of the related terms: the least work to page one."""

from typing import Any

import polars as pl

from zugzwang.core.clicks.headroom import Target
from zugzwang.core.facts.periods import DAYS_A_MONTH, Period
from zugzwang.core.words import draft_sentences, sentences
from zugzwang.data.cache import cached
from zugzwang.data.snapshot import Setting, Snapshot
from zugzwang.findings.columns import PAGE, PAGES, PART, QUERY
from zugzwang.findings.drafting import above_median, drafting
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.lenses import all_stakes
from zugzwang.findings.view import View, ViewOptions

PAGE_TWO = (10.5, 20.5)
MISSING_MOST = 12


@cached
def ready_rows(snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int, target: Target) -> pl.DataFrame:
    """Rows at 11 to 20 with enough fetched competing pages, highest coverage first; missing: essential and common terms that
    the page lacks.
    """
    current = drafting(snapshot, period, setting)
    stakes = all_stakes(snapshot, period, setting, min_impressions, target)
    month = DAYS_A_MONTH / period.days
    rows = stakes.filter(pl.col("position").is_between(*PAGE_TWO)).select(
        "page", "query", "position", "impressions", "evidence", gain=pl.col("potential") * month
    )
    rows = rows.join(current.ours, on=["page", "query"]).join(above_median(current), on="query")
    missing = [
        [one.text for one, times in zip(current.terms[query], lines, strict=True) if not times and one.tier != "optional"][
            :MISSING_MOST
        ]
        for query, lines in rows.select("query", "times_used").iter_rows()
    ]
    frame = rows.drop("times_used").with_columns(pl.Series("missing", missing, dtype=pl.List(pl.String)))
    return frame.sort("coverage", "gain", "page", "query", descending=[True, True, False, False])


def find_ready(view: View) -> Found:
    snapshot = view.snapshot
    rows = ready_rows(snapshot, view.period, view.setting, view.min_impressions, view.options.target)
    current = drafting(snapshot, view.period, view.setting)
    lacking = [] if snapshot.serps.results().height else [sentences.NO_RESULTS]
    if not lacking and snapshot.serps.fetched_above().is_empty():
        lacking = [sentences.NOT_FETCHED]
    goes = current.goes
    more = {"rho": goes and goes.rho, "p_value": goes and goes.p_value, "captures": goes.queries if goes else 0}
    return Found(rows, {"queries": len(current.terms)}, lacking, more)


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    if found.lacking:
        return found.lacking
    as_much = rows.filter(pl.col("coverage") >= pl.col("coverage_above_median")).height
    result = [draft_sentences.page_two_candidates(rows.height, as_much)]
    return [*result, draft_sentences.goes_with_rank(extras["rho"], extras["p_value"], extras["captures"])]


PAGE_TWO_CANDIDATES = Finding(
    name="page-two-candidates",
    place=("pages", 2),
    title="Page-two candidates",
    question="Which pages on page two cover most of what competing pages cover, and need the least work?",
    method="page-two-candidates",
    needs=(("results",), ("above",)),
    claims=("row", "rows"),
    order="coverage",
    makes=(*PART, "min_impressions", "target", "curve"),
    chooses=(*PAGES, "query_group", "topic", "text"),
    columns=(
        QUERY.listed("query, page", "the query, and your page"),
        PAGE,
        Column("position", "position", "position", "where it ranks", shown="list", low=True),
        Column("coverage", "share", "term coverage", "share of the related terms, by weight", shown="list"),
        Column("coverage_above_median", "share", "above", "term coverage of the median competing page", shown="list"),
        Column("gain", "amount", "potential clicks", "clicks that a better position would add", "clicks a month", "list"),
        Column("missing", "words", "missing", "essential and common terms that the page lacks", shown="list"),
        Column("impressions", "count", "impressions", "impressions in search", "in the period", "extra"),
        Column("competing_pages", "count", "compared", "competing pages that were fetched", "pages", "extra"),
        Column("evidence", "grade", "", "how sure the reachable clicks are"),
    ),
    find=find_ready,
    says=_says,
    more={"rho": float | None, "p_value": float | None, "captures": int},
    opens=(ViewOptions(),),
)  # fmt: skip
