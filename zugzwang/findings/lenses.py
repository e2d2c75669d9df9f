"""Findings on page × query rows: low click-through, striking distance, outperformers, query–page mismatch."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np
import polars as pl

from zugzwang.core.clicks.click_curve import Basis
from zugzwang.core.clicks.evidence import GRADES, SURE, Floats, usual_range
from zugzwang.core.clicks.headroom import Target, target_position
from zugzwang.core.clicks.lenses import (
    LENSES as LENS_NAMES,
)
from zugzwang.core.clicks.lenses import (
    OWN_PART,
    STRIKING_DISTANCE,
    Context,
    Lens,
    ListedBy,
    look,
    noticed,
    stakes,
    tested_rows,
)
from zugzwang.core.facts.grains import PAGE_QUERY
from zugzwang.core.facts.grains import QUERY as BY_QUERY
from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.search import ROW
from zugzwang.core.pages.fit import FITS, advice, closest_pages
from zugzwang.core.words import sentences
from zugzwang.core.worth.moves import Suggestion
from zugzwang.data.cache import cached
from zugzwang.data.decided import settled_rows
from zugzwang.data.snapshot import LISTED, Setting, Snapshot
from zugzwang.errors import Invalid
from zugzwang.findings.clashes import clashes_in
from zugzwang.findings.columns import (
    CHANGE,
    CLICKS,
    CLICKS_BEFORE,
    CTR,
    EVIDENCE,
    IMPRESSIONS,
    IMPRESSIONS_BEFORE,
    LOST_MONTH,
    PAGE,
    PAGES,
    PART,
    POSITION,
    POSITION_BEFORE,
    POSITIONS,
    POTENTIAL_MONTH,
    QUERY,
    STAKES,
    TAKEN,
    TAKEN_MONTH,
)
from zugzwang.findings.finding import Column, Finding, Found, Proposes
from zugzwang.findings.view import View, ViewOptions

OF_BRAND = {"without": False, "only": True, "with": None}
AMOUNTS = ("lost", "potential", "opportunity", "taken")
AS_OPENED = ViewOptions(compare="year")  # the default view of a place


def find_lens(lens: Lens, view: View) -> Found:
    """The rows of such a finding (core.lenses.look), with their figures in the comparison period."""
    by = _by(view, lens)
    rows = lens_rows(
        view.snapshot, view.period, view.setting, lens, by, view.min_impressions, view.options.target, OF_BRAND[view.branded]
    )
    if lens == "outperformers" and not view.by_day:
        likely = pl.col("evidence").cast(pl.String).replace("firm", "likely").cast(pl.Enum(GRADES))
        rows = rows.with_columns(evidence=likely)
    month = view.month_share
    rows = rows.with_columns((pl.col(name) * month).alias(f"{name}_month") for name in AMOUNTS)
    rows = with_before(view, rows, by)
    in_lens = dict(rows.group_by(pl.col("evidence").cast(pl.String)).len().iter_rows())
    number = tested(view, lens).height
    more = {
        "tested": number,
        "in_lens": {grade: in_lens.get(grade, 0) for grade in GRADES},
        "by": by,
        "listable": listable(view),
        "min_impressions": view.min_impressions,
        "brand_patterns": list(view.setting.patterns),
        "curve": view.curve.points(),
        "curve_basis": view.curve.basis,
        "curve_sentence": sentences.curve_basis(view.curve.basis, view.curve.clicks),
        "noticed": _noticed(view, lens, by),
    }
    # A row over all pages, or over all queries, belongs to none of them.
    rows = rows.with_columns(pl.when(pl.col(name) > 0).then(pl.col(name)).alias(name) for name in ROW)
    return Found(rows, {"rows": number}, _lacking(view, lens, by), more)


def with_before(view: View, rows: pl.DataFrame, by: ListedBy) -> pl.DataFrame:
    """The rows with their figures in the comparison period (`<measure>_before`), and the `change` of clicks, both over
    comparable days; unchanged without a comparison.
    """
    periods = view.like(view.grain_of(by))
    if periods is None:
        return rows
    now, then = (view.snapshot.facts.sums(period, view.setting.part, by) for period in periods)
    then = then.rename({name: f"{name}_before" for name in then.columns if name not in ROW})
    rows = rows.join(then, on=ROW, how="left", maintain_order="left")
    rows = rows.join(now.select(*ROW, clicks_now="clicks"), on=ROW, how="left", maintain_order="left")
    # No impressions then means no clicks; where nothing of its kind is loaded for then, the value is unknown.
    if then.height:
        rows = rows.with_columns(pl.col("clicks_before", "impressions_before").fill_null(0))
    return rows.with_columns(change=pl.col("clicks_now").fill_null(0) - pl.col("clicks_before")).drop("clicks_now")


def _by(view: View, lens: Lens) -> ListedBy:
    """What is listed: rows, queries or pages; mismatches exist only for rows. Raises Invalid for pages whose queries are
    known: these are judged in one place, as the sum of their rows (findings.pages).
    """
    if view.by == "page" and "page" not in listable(view):
        raise Invalid("Pages whose queries are known are judged by their rows.", "Look at them in Pages.", "by")
    return "row" if lens == "query-page-mismatch" else view.by


def listable(view: View) -> list[ListedBy]:
    """What can be listed for the period."""
    if view.snapshot.facts.has(PAGE_QUERY, view.period):
        return ["row", "query"]
    return [by for by, grain in LISTED.items() if view.snapshot.facts.has(grain, view.period)]


def _noticed(view: View, lens: Lens, by: ListedBy) -> str | None:
    """The power of the finding, where clicks are compared with expected ones."""
    if lens not in ("low-ctr", "outperformers"):
        return None
    current = view.snapshot.facts.appraisal(view.period, view.setting, by)
    return sentences.noticed(noticed(current, tested(view, lens), lens), lens)


def _lacking(view: View, lens: Lens, by: ListedBy) -> list[str]:
    snapshot, period = view.snapshot, view.period
    lines = []
    finest = snapshot.facts.finest(period)
    if by == "row" and finest != "row":
        lines.append(sentences.needs_rows(finest))
    if by == "query" and not snapshot.facts.has(BY_QUERY, period):
        lines.append(sentences.QUERIES_OF_ROWS)
    if not view.by_day:
        lines.append(sentences.of_totals(lens))
    if ratio := snapshot.facts.appraisal(period, view.setting, by).chosen:
        lines.insert(0, sentences.chosen(ratio))
    return lines


@cached
def lens_rows(
    snapshot: Snapshot,
    period: Period,
    setting: Setting,
    lens: Lens,
    by: ListedBy,
    min_impressions: int,
    target: Target,
    of_brand: bool | None,
) -> pl.DataFrame:
    current = snapshot.facts.appraisal(period, setting, by)
    context = _context(snapshot, period, setting, lens, min_impressions, of_brand)
    return look(current, lens, min_impressions, target, context)


def _context(
    snapshot: Snapshot, period: Period, setting: Setting, lens: Lens, min_impressions: int, of_brand: bool | None
) -> Context:
    fitting = row_fits(snapshot, period, setting, min_impressions) if lens == "query-page-mismatch" else None
    return Context(
        of_brand,
        snapshot.facts.searches(period, setting.part),
        fitting,
        snapshot.serps.above(period, setting),
        snapshot.serps.within_strength(),
    )


@cached
def all_stakes(snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int, target: Target) -> pl.DataFrame:
    """Every row tested, with both levers (core.lenses.stakes)."""
    context = Context(
        searches=snapshot.facts.searches(period, setting.part),
        above=snapshot.serps.above(period, setting),
        within_strength=snapshot.serps.within_strength(),
    )
    return stakes(snapshot.facts.appraisal(period, setting), min_impressions, target, context)


@cached
def row_fits(snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int) -> pl.DataFrame:
    """The fit of rows at striking distance: page, query, fit, kept, fit_known_by, lacking."""
    rows = snapshot.facts.appraisal(period, setting).rows.filter(
        pl.col("impressions") >= min_impressions, pl.col("position").is_between(*STRIKING_DISTANCE)
    )
    return snapshot.pages.fits(rows.select(ROW))


def targets(view: View, position: Floats, queries: Sequence[int]) -> Floats:
    """The target position of some rows, as requested."""
    known = dict(view.snapshot.serps.within_strength().select("query", "rank").iter_rows())
    potential = np.array([float(known.get(query) or np.nan) for query in queries])
    return target_position(position, view.options.target, potential)


def tested(view: View, lens: Lens) -> pl.DataFrame:
    """The rows over which false discovery is controlled; their number is shown."""
    brand = OF_BRAND[view.branded]
    context = _context(view.snapshot, view.period, view.setting, lens, view.min_impressions, brand)
    current = view.snapshot.facts.appraisal(view.period, view.setting, _by(view, lens))
    return tested_rows(current, lens, view.min_impressions, context)


def looked_at(view: View, lens: Lens) -> pl.DataFrame:
    """The rows of the chart: the tested ones, and for outliers of the curve also those on it."""
    return tested(view, "striking-distance" if lens == "query-page-mismatch" else "low-ctr")


def _dress(lens: Lens, view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """The range of CTR that 8 of 10 rows like each get, and for mismatches what each needs."""
    scatter = view.snapshot.facts.appraisal(view.period, view.setting, _by(view, lens)).scatter
    low, high = usual_range(rows["expected_clicks"].to_numpy(), scatter.shape(rows["position"].to_numpy()))
    rows = rows.with_columns(
        usual_ctr_low=pl.Series(low, dtype=pl.Float64) / pl.col("impressions"),
        usual_ctr_high=pl.Series(high, dtype=pl.Float64) / pl.col("impressions"),
    )
    return _dress_fit(view, rows) if lens == "query-page-mismatch" else rows


def _dress_fit(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """What each mismatched row needs. Clashes, which come first, are searched with the view's own minimum of impressions."""
    if rows.is_empty():
        return rows.with_columns(advice=pl.lit(None, dtype=pl.String))
    snapshot = view.snapshot
    clashing = set(clashes_in(snapshot, view.period, view.setting, view.min_impressions).queries["query"])
    closest = closest_pages(snapshot.pages.query_stems(rows["query"]), snapshot.pages.every_page_says())
    frame = [
        advice(fit, lacking, page, closest.get(query), query in clashing)
        for page, query, fit, lacking in rows.select(*ROW, "fit", "lacking").iter_rows()
    ]
    return snapshot.pages.lacking_words(rows).with_columns(pl.Series("advice", frame, dtype=pl.String))


def _explained(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """The rows that SERP features explain, or the others."""
    return rows.filter(pl.col("explained") if view.options.explained == "only" else ~pl.col("explained"))


def decided_rows(view: View, rows: pl.DataFrame) -> pl.Series:
    """Which rows have a decision, of their own or on their page."""
    done, pages = settled_rows(view.site, view.today)
    rows = rows.select(pl.col(ROW).cast(pl.UInt32))
    itself = rows.join(done.with_columns(done=True), on=ROW, how="left", maintain_order="left", nulls_equal=True)["done"]
    return itself.fill_null(False) | rows["page"].is_in(pages.implode()).fill_null(False)


def _says(lens: Lens, view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    lines = [sentences.lens(lens, found.more["in_lens"], found.more["tested"], found.more["by"])]
    if lens == "low-ctr" and (number := extras["explained"]):
        lines.append(sentences.explained_rows(number, extras["sure"]))
    return lines


def _extras(view: View, found: Found, rows: pl.DataFrame) -> dict[str, Any]:
    sure = rows.filter(pl.col("evidence").cast(pl.String).is_in(SURE))
    sums = {name: float(rows[name].sum()) for name in ("lost_month", "potential_month", "opportunity_month")}
    return {**sums, "sure": sure.height, "explained": sure.filter("explained").height}


MORE: Mapping[str, Any] = {
    "tested": int,
    "in_lens": dict[str, int],
    "sure": int,
    "explained": int,
    "lost_month": float,
    "potential_month": float,
    "opportunity_month": float,
    "by": ListedBy,
    "listable": list[ListedBy],
    "min_impressions": int,
    "brand_patterns": list[str],
    "curve": list[dict[str, float]],
    "curve_basis": Basis,
    "curve_sentence": str,
    "noticed": str | None,
}
FIT_COLUMNS = (
    Column("fit", "word", "fit", "how well the page covers the query", choices=FITS, low=True),
    Column("lacking", "words", "missing words", "words of the query that the page lacks"),
    Column("fit_known_by", "text", "", "what the page is judged by"),
    Column("advice", "text", "what to do", "next step", late=True),
)
PAGE_OF_ROW = replace(PAGE, null=True)
COLUMNS = (
    QUERY.listed("query, page", "query, and the page that ranks for it", null=True),
    PAGE_OF_ROW,
    CLICKS.listed(),
    IMPRESSIONS.listed(),
    CTR.listed(null=False),
    Column("expected_ctr", "share", "expected CTR", "CTR that this site usually gets at these positions", shown="extra"),
    POSITION.listed(null=False),
    EVIDENCE.listed(shown="extra"),
    *STAKES,
    Column("explained", "flag", "explained", "whether SERP features above it explain the low CTR"),
    Column("by_volume", "flag", "by volume", "whether potential clicks use search volume"),
    TAKEN_MONTH.listed(shown="extra"),
    Column("taken", "amount", "", TAKEN, "clicks in the period"),
    Column("expected_with_features", "amount", "", "expected clicks with the SERP features above it", "clicks in the period"),
    Column("shortfall", "amount", "", "clicks that its positions usually bring, less its own", "clicks in the period"),
    Column(
        "expected_clicks", "amount", "expected clicks", "clicks that this site usually gets at these positions",
        "clicks in the period", "extra",
    ),
    Column("probability", "share", "probability", "how probable it is that the row is what the list looks for", shown="extra"),
    Column("usual_ctr_low", "share", "", "CTR that 9 of 10 rows like it get at least", late=True),
    Column("usual_ctr_high", "share", "", "CTR that 9 of 10 rows like it get at most", late=True),
    Column("q_value", "rate", "", "the share of false alarms among rows at least as sure as this one"),
    CHANGE,
    CLICKS_BEFORE.listed(shown="extra"),
    IMPRESSIONS_BEFORE,
    Column("ctr_before", "share", "CTR then", "CTR in the comparison period", null=True, compared=True),
    POSITION_BEFORE,
)  # fmt: skip


def _lens(lens: Lens, title: str, question: str, claims: tuple[str, str], method: str, proposes: Proposes) -> Finding:
    fit = lens == "query-page-mismatch"
    # The finding's own measure comes first in its list; the other one is optional.
    parts = [LOST_MONTH, POTENTIAL_MONTH] if OWN_PART[lens] == "lost" else [POTENTIAL_MONTH, LOST_MONTH]
    columns = (*COLUMNS[:2], parts[0].listed(), parts[1].listed(shown="extra"), *COLUMNS[2:])
    return Finding(
        name=lens,
        place=("queries", 1 + LENS_NAMES.index(lens)),
        title=title,
        question=question,
        method=method,
        claims=claims,
        order=f"{OWN_PART[lens]}_month",
        makes=(*PART, "by", "min_impressions", "branded", "target", "compare", "curve"),
        chooses=(*PAGES, "query_group", "topic", "text", *POSITIONS, "evidence", "explained", "decided"),
        columns=columns + (FIT_COLUMNS if fit else ()),
        find=partial(find_lens, lens),
        says=partial(_says, lens),
        dress=partial(_dress, lens),
        extras=_extras,
        more=MORE,
        choose={"explained": _explained},
        decided=decided_rows,
        opens=(AS_OPENED,),
        proposes=proposes,
    )


LENSES = (
    _lens(
        "low-ctr",
        "Low click-through",
        "Which rows get fewer clicks than their positions should bring?",
        ("row gets fewer clicks than its positions should bring", "rows get fewer clicks than their positions should bring"),
        "evidence",
        Proposes(Suggestion("rewrite", "hour", "snippet"), explained=Suggestion("answer", "hour", "snippet")),
    ),
    _lens(
        "striking-distance",
        "Striking distance",
        "Which rows are within reach of a better position?",
        ("row would gain from a better position", "rows would gain from a better position"),
        "lost-and-potential-clicks",
        Proposes(Suggestion("deepen", "day", "rank")),
    ),
    _lens(
        "outperformers",
        "Outperformers",
        "Which rows get more clicks than their positions should bring, and are not first yet?",
        ("row gets more clicks than its positions should bring", "rows get more clicks than their positions should bring"),
        "evidence",
        Proposes(Suggestion("links", "hour", "rank")),
    ),
    _lens(
        "query-page-mismatch",
        "Query–page mismatch",
        "Which rows within reach rank with a page that does not cover the query?",
        (
            "row within reach is on a page that says the query loosely or not at all",
            "rows within reach are on pages that match the query loosely or not at all",
        ),
        "fit",
        Proposes(Suggestion("phrase", "hour", "rank")),
    ),
)
