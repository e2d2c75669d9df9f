"""The page × query rows of each finding, with expected clicks, evidence and opportunity.

- low-ctr: rows with fewer clicks than their positions explain. Evidence: lower tail of the site's scatter (scatter.py).
- striking-distance: rows at positions 4 to 20 (common practice, no source). Evidence: the probability that the target position
  would add nothing.
- outperformers: rows with more clicks than their positions explain that do not rank first yet. Evidence: upper tail.
- query-page-mismatch: striking-distance rows whose page covers the query loosely or not at all (fit.py); evidence likewise.

All require `min_impressions`. The false discovery rate is controlled over all rows that a finding tests, before any filter:
listing fewer rows makes none of them more certain.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt
import polars as pl

from zugzwang.core.clicks.click_curve import ClickCurve, added_up
from zugzwang.core.clicks.device_curves import Curves, Devices, fit_curves
from zugzwang.core.clicks.evidence import (
    GRADES,
    LIKELY_Q,
    SURE,
    Counts,
    Floats,
    can_be_called,
    false_discovery,
    grades,
    low_point,
)
from zugzwang.core.clicks.headroom import Target, at_target, cautious_headroom, clicks_now, demand, headroom, target_position
from zugzwang.core.clicks.possible import probability
from zugzwang.core.clicks.scatter import USUAL, Scatter, scatter_of
from zugzwang.core.facts.search import ROW, ctr, pair_key, sums
from zugzwang.core.results.block_costs import explained

Lens = Literal["low-ctr", "striking-distance", "outperformers", "query-page-mismatch"]
LENSES: tuple[Lens, ...] = ("low-ctr", "striking-distance", "outperformers", "query-page-mismatch")
Part = Literal["lost", "potential"]
# What each finding is about, and sorted by.
OWN_PART: Mapping[Lens, Part] = {
    "low-ctr": "lost", "striking-distance": "potential", "outperformers": "potential", "query-page-mismatch": "potential"
}  # fmt: skip
# What can be listed: rows (page × query), queries over all pages, or pages with all their queries.
ListedBy = Literal["row", "query", "page"]
STRIKING_DISTANCE = (4.0, 20.0)
FEW_SHOWN = 2
POWER_ROWS = 400  # sample size for computing the power
NOTICED_TIMES = 4.0  # times more, or fewer, clicks than usual
MOST_TIMES = 1_000.0
CHOSEN_BETWEEN = (0.8, 1.25)


@dataclass(frozen=True)
class Appraisal:
    """All rows of a period with the site's curves.

    `rows`: page, query, clicks, impressions, position, ctr, expected_clicks, branded, and for each device with its own
    curve `shown_<code>` and `expected_<code>`, impressions and expected clicks there. `curves`: fitted without brand
    queries. `scatter`: how rows scatter around them. `chosen`: the ratio of clicks to expected clicks on facts with one or
    two impressions, where it shows that rows were selected by clicks (`chosen_by_clicks`); otherwise None.
    """

    rows: pl.DataFrame
    curves: Curves
    scatter: Scatter = USUAL
    chosen: float | None = None

    @property
    def curve(self) -> ClickCurve:
        return self.curves.together


def appraise(facts: pl.DataFrame, branded: pl.Series, curves: Curves | None = None) -> Appraisal:
    """Sum daily facts to rows and fit the site's click curves to them.

    `facts`: see core.facts, sorted or not, with or without `device`. `branded`: ids of branded queries. `curves`: used
    instead of fitted ones. Facts without impressions have no position and are skipped.
    """
    daily = facts.filter(pl.col("impressions") > 0).with_columns(key=pair_key())
    rows = daily.group_by("key", maintain_order=True).agg(*sums())
    numbers = rows.select("key", row=pl.int_range(pl.len(), dtype=pl.UInt32))
    row = daily.select("key").join(numbers, on="key", how="left", maintain_order="left")["row"].to_numpy().astype(np.intp)
    position, clicks, shown = (daily[name].to_numpy() for name in ("position", "clicks", "impressions"))
    device = daily["device"].to_numpy() if "device" in daily.columns else None

    rows = rows.select(
        (pl.col("key") // 2**32).cast(pl.UInt32).alias("page"),
        (pl.col("key") % 2**32).cast(pl.UInt32).alias("query"),
        "clicks",
        "impressions",
        "position",
        ctr().alias("ctr"),
    ).with_columns(branded=pl.col("query").is_in(branded.implode()))
    values = curves is not None
    if curves is None:
        curves = _fit_without_brand(rows["branded"].to_numpy(), row, device, position, clicks, shown)
    daily_expected = curves.expected(position, shown, device)
    expected = added_up(row, daily_expected, rows.height)
    by_device = _by_device(row, shown, daily_expected, device, curves, rows.height)
    rows = rows.with_columns(pl.Series("expected_clicks", expected), *by_device)
    plain = ~rows["branded"].to_numpy()[row]
    # A curve set by hand, or fitted to other facts, cannot show how these were selected.
    chosen = None if values else chosen_by_clicks(position[plain], clicks[plain], shown[plain], curves)
    return Appraisal(rows, curves, _scatter_of(rows), chosen)


def _scatter_of(rows: pl.DataFrame) -> Scatter:
    plain = rows.filter(~pl.col("branded"))
    return scatter_of(*(plain[name].to_numpy() for name in ("clicks", "expected_clicks", "position")))


def chosen_by_clicks(position: Floats, clicks: Counts, shown: Counts, curves: Curves) -> float | None:
    """The ratio of clicks to expected clicks on facts with one or two impressions; None where it is near 1.

    A file that contains only rows with clicks looks complete and makes the curve too high: its facts with few impressions
    have far more clicks than the curve says (measured: 1.8 to 2.5 times, on complete files 1.01). Reported from 25 % above
    or 20 % below on, beyond three standard deviations.
    """
    few = shown <= FEW_SHOWN
    expected = float(curves.expected(position[few], shown[few], None).sum())
    seen = float(clicks[few].sum())
    if not expected or abs(seen - expected) < 3 * np.sqrt(expected):
        return None
    ratio = seen / expected
    return None if CHOSEN_BETWEEN[0] <= ratio <= CHOSEN_BETWEEN[1] else ratio


def appraise_pages(totals: pl.DataFrame, named: Appraisal) -> Appraisal:
    """Pages with all their queries, named or anonymised, on the curves of the named rows; their `query` is 0.

    `totals`: facts by page. A page's branded rows are subtracted from its totals. Its expected clicks are those of its
    named rows, plus for anonymised queries what the page's own position would bring:

      E = Σ E_row + max(0, N − Σ n_row) · μ(P)

    Example: 1,000 impressions at 5.0 where μ = 0.06, of which 600 in named rows with E = 30: 30 + 400 · 0.06 = 54.
    """
    rest = (pl.col("impressions") - pl.col("impressions_named")).clip(0)
    places = (pl.col("position") * pl.col("impressions")).sum().alias("places")
    counts = [pl.col(name).cast(pl.Int64).sum() for name in ("clicks", "impressions")]
    of_rows = named.rows.group_by("page", "branded").agg(*counts, places, pl.col("expected_clicks").sum())
    of_brand, plain = (of_rows.filter(pl.col("branded") == branded).drop("branded") for branded in (True, False))
    pages = totals.group_by("page").agg(*counts, places)
    names = ("clicks", "impressions", "places")
    pages = pages.join(of_brand.drop("expected_clicks"), on="page", how="left", suffix="_brand").with_columns(
        pl.max_horizontal(pl.col(name) - pl.col(f"{name}_brand").fill_null(0), 0).alias(name) for name in names
    )
    pages = pages.filter(pl.col("impressions") > 0).with_columns(position=(pl.col("places") / pl.col("impressions")).clip(1.0))
    pages = pages.join(plain.select("page", "impressions", "expected_clicks"), on="page", how="left", suffix="_named")
    pages = pages.with_columns(pl.col("impressions_named", "expected_clicks").fill_null(0)).with_columns(rest=rest)
    anonymised = named.curves.expected(pages["position"].to_numpy(), pages["rest"].to_numpy(), None)
    rows = pages.select(
        "page",
        pl.lit(0, dtype=pl.UInt32).alias("query"),
        pl.min_horizontal("clicks", "impressions").alias("clicks"),
        "impressions",
        "position",
        ctr().alias("ctr"),
        pl.lit(False).alias("branded"),
        pl.col("expected_clicks") + pl.Series(anonymised),
    )
    rows = rows.sort("page")
    return Appraisal(rows, named.curves, _scatter_of(rows), named.chosen)


def _by_device(
    row: np.ndarray, shown: Counts, expected: Floats, device: Devices | None, curves: Curves, rows: int
) -> list[pl.Series]:
    if device is None:
        return []
    return [
        pl.Series(f"{name}_{code}", added_up(row, values * (device == code), rows))
        for code in curves.by_device
        for name, values in (("shown", shown), ("expected", expected))
    ]


def _fit_without_brand(branded: np.ndarray, row: np.ndarray, device: Devices | None, *facts: np.ndarray) -> Curves:
    position, clicks, shown = facts
    if not branded.any():
        return fit_curves(row, position, clicks, shown, branded.size, device)
    number = np.cumsum(~branded) - 1
    included = ~branded[row]
    return fit_curves(
        number[row[included]], position[included], clicks[included], shown[included], int((~branded).sum()),
        None if device is None else device[included],
    )  # fmt: skip


@dataclass(frozen=True)
class Context:
    """Other data about rows. `branded`: None for all rows, otherwise only branded or only other ones. `searches`: query,
    searches (in the whole period). `fits`: page, query, fit, lacking, fit_known_by. `above`: query, factor (the share of
    clicks that SERP features leave, 0…1; core.results.block_costs). `within_strength`: query, place (the best position
    within reach of the page's referring domains; core.results.above).
    """

    branded: bool | None = False
    searches: pl.DataFrame | None = None
    fits: pl.DataFrame | None = None
    above: pl.DataFrame | None = None
    within_strength: pl.DataFrame | None = None


def look(
    appraisal: Appraisal, lens: Lens, min_impressions: int, target: Target = "next-band", context: Context | None = None
) -> pl.DataFrame:
    """The rows of a finding, largest effect first: lost clicks for low-ctr, potential for the others; of possible rows the
    effect times its probability.

    Columns: page, query, clicks, impressions, ctr, position, expected_clicks, expected_ctr (0…1), expected_with_features
    (given its SERP features), explained (whether these explain the low CTR), shortfall (negative above the curve), taken
    (the part that SERP features explain), lost (the rest: clicks lost at the current position), potential (clicks that the
    target position would add), opportunity (the sum of both; all clicks over the period), lost_cautious and
    potential_cautious (their lower bounds under the site's usual scatter), q_value (0…1), evidence (firm, likely, possible,
    too little data), probability (0…1, of being what the finding looks for), by_volume (whether search volumes raised the
    potential); for query-page-mismatch also fit, lacking, fit_known_by.
    """
    context = context or Context()
    tested = tested_rows(appraisal, lens, min_impressions, context)
    clicks, expected, position = (tested[name].to_numpy() for name in ("clicks", "expected_clicks", "position"))
    shape = appraisal.scatter.shape(position)
    there, measured = _at_target(appraisal, tested, target, context)
    gain, _ = headroom(there, clicks, expected, shape)
    _, no_gain = headroom(measured, clicks, expected, shape)
    callable_rows = np.ones(tested.height, dtype=np.bool_)
    if lens == "low-ctr":
        shows, p_values = clicks < expected, appraisal.scatter.lower(clicks, expected, position)
        callable_rows = _can_be_low(appraisal, tested)
    elif lens == "outperformers":
        callable_rows = np.rint(position) > 1
        shows = (clicks > expected) & callable_rows
        p_values = appraisal.scatter.upper(clicks, expected, position)
    else:
        shows, p_values = gain > 0, no_gain
    rows = tested.with_columns(
        q_value=_q_values(appraisal, p_values, callable_rows),
        possible=callable_rows & (appraisal.chosen is None),
        probability=_probability(appraisal, tested, lens, no_gain),
        potential=pl.Series(gain),
        there=pl.Series(measured),
        by_volume=there > measured,
    )
    found = with_stakes(rows.filter(pl.Series(shows)), appraisal, context.above)
    # Sure rows are sorted by their size, possible ones by their size times their probability.
    sure = pl.col("evidence").cast(pl.String).is_in(SURE)
    weighed = pl.col(OWN_PART[lens]) * pl.when(sure).then(1.0).otherwise(pl.col("probability"))
    return found.sort(weighed, "opportunity", "impressions", *ROW, descending=[True, True, True, False, False])


def _probability(appraisal: Appraisal, tested: pl.DataFrame, lens: Lens, no_gain: Floats) -> pl.Series:
    """How probable it is that a row is what the finding looks for; 0 for rows selected by clicks."""
    facts = [tested[name].to_numpy() for name in ("clicks", "expected_clicks", "position")]
    if appraisal.chosen:
        result = np.zeros(tested.height)
    elif lens == "low-ctr":
        result = probability(facts[0], facts[1], facts[2], appraisal.scatter, "problem")
    elif lens == "outperformers":
        result = probability(facts[0], facts[1], facts[2], appraisal.scatter, "success")
    else:
        result = 1.0 - no_gain
    return pl.Series("probability", result)


def tested_rows(appraisal: Appraisal, lens: Lens, min_impressions: int, context: Context) -> pl.DataFrame:
    """The rows over which a finding controls false discovery."""
    tested = appraisal.rows.filter(pl.col("impressions") >= min_impressions)
    if context.branded is not None:
        tested = tested.filter(pl.col("branded") == context.branded)
    if lens in ("striking-distance", "query-page-mismatch"):
        tested = tested.filter(pl.col("position").is_between(*STRIKING_DISTANCE))
    return _misfits(tested, context.fits) if lens == "query-page-mismatch" else tested


def noticed(appraisal: Appraisal, tested: pl.DataFrame, lens: Lens) -> float:
    """The power of low-ctr for a row with a quarter of its usual clicks, or of outperformers for one with four times as many;
    0…1, the mean over the tested rows, each as the only one. "None found" means little where this is small.
    """
    if tested.is_empty() or appraisal.chosen:
        return 0.0
    some = tested.gather_every(max(tested.height // POWER_ROWS, 1))
    expected, position = (some[name].to_numpy() for name in ("expected_clicks", "position"))
    is_low = lens == "low-ctr"
    callable_rows = _can_be_low(appraisal, tested) if is_low else np.rint(tested["position"].to_numpy()) > 1
    level = LIKELY_Q / max(int(callable_rows.sum()), 1)
    tail = appraisal.scatter.lower if is_low else appraisal.scatter.upper
    # By bisection: the most clicks that would be detected (P(K ≤ k) grows with k), or the most that would not (P(K ≥ k)
    # falls).
    low, high = np.full(expected.shape, -1, dtype=np.int64), np.ceil((1 if is_low else MOST_TIMES) * expected).astype(np.int64)
    while (high - low > 1).any():
        middle = (low + high) // 2
        goes_on = (tail(middle, expected, position) <= level) == is_low
        low, high = np.where(goes_on, middle, low), np.where(goes_on, high, middle)
    if is_low:
        return float(tail(low, expected / NOTICED_TIMES, position).mean())
    return float(tail(high, expected * NOTICED_TIMES, position).mean())


def with_stakes(rows: pl.DataFrame, appraisal: Appraisal, above: pl.DataFrame | None = None) -> pl.DataFrame:
    """The columns of `look`, for rows with q_value, potential and clicks at their target (there). `above`: see Context."""
    clicks, expected, position = (rows[name].to_numpy() for name in ("clicks", "expected_clicks", "position"))
    shape = appraisal.scatter.shape(position)
    shortfall = pl.col("expected_clicks") - pl.col("clicks")
    factor = np.ones(rows.height)
    if above is not None:
        frame = rows.select("query").join(above, on="query", how="left", maintain_order="left")["factor"]
        factor = np.minimum(frame.fill_null(1.0).to_numpy(), 1.0)
    with_blocks = expected * factor
    lost = np.where(with_blocks > clicks, with_blocks - clicks, 0.0)
    return rows.select(
        *ROW,
        "clicks",
        "impressions",
        "ctr",
        "position",
        "expected_clicks",
        (pl.col("expected_clicks") / pl.col("impressions")).alias("expected_ctr"),
        pl.Series("expected_with_features", with_blocks),
        pl.Series("explained", explained(clicks, expected, position, appraisal.scatter, factor)),
        shortfall.alias("shortfall"),
        (shortfall.clip(lower_bound=0.0) - pl.Series(lost)).alias("taken"),
        pl.Series("lost", lost),
        "potential",
        (pl.Series(lost) + pl.col("potential")).alias("opportunity"),
        pl.Series("lost_cautious", np.maximum(low_point(with_blocks, shape) - clicks, 0).astype(np.float64)),
        pl.Series("potential_cautious", cautious_headroom(rows["there"].to_numpy(), clicks, expected, shape)),
        "q_value",
        pl.Series("evidence", grades(rows["q_value"].to_numpy(), rows["possible"].to_numpy()), dtype=pl.Enum(GRADES)),
        pl.col("^(probability|by_volume|fit|lacking|fit_known_by)$"),
    )


def stakes(
    appraisal: Appraisal, min_impressions: int, target: Target = "next-band", context: Context | None = None
) -> pl.DataFrame:
    """All tested rows of the site with both levers: the columns of `look`, with `q_value` and `evidence` of low-ctr, and
    `rank_evidence`, how certain the gain at the target is.
    """
    tested = tested_rows(appraisal, "low-ctr", min_impressions, context or Context())
    clicks, expected, position = (tested[name].to_numpy() for name in ("clicks", "expected_clicks", "position"))
    shape = appraisal.scatter.shape(position)
    there, measured = _at_target(appraisal, tested, target, context or Context())
    gain, _ = headroom(there, clicks, expected, shape)
    _, no_gain = headroom(measured, clicks, expected, shape)
    can_be_low = _can_be_low(appraisal, tested)
    q_values = _q_values(appraisal, appraisal.scatter.lower(clicks, expected, position), can_be_low)
    rows = tested.with_columns(
        q_value=q_values,
        possible=can_be_low & (clicks < expected) & (appraisal.chosen is None),
        potential=pl.Series(gain),
        there=pl.Series(measured),
        by_volume=there > measured,
    )
    of_rank = _q_values(appraisal, no_gain, np.ones(tested.height, dtype=np.bool_)).to_numpy()
    may_gain = (gain > 0) & (appraisal.chosen is None)
    rank_evidence = pl.Series("rank_evidence", grades(of_rank, may_gain), dtype=pl.Enum(GRADES))
    return with_stakes(rows, appraisal, context.above if context else None).with_columns(rank_evidence)


def _can_be_low(appraisal: Appraisal, tested: pl.DataFrame) -> npt.NDArray[np.bool_]:
    """Which rows would be called low if they had no clicks at all."""
    none = np.zeros(tested.height, dtype=np.int64)
    return can_be_called(appraisal.scatter.lower(none, *(tested[name].to_numpy() for name in ("expected_clicks", "position"))))


def _q_values(appraisal: Appraisal, p_values: Floats, callable_rows: npt.NDArray[np.bool_]) -> pl.Series:
    """The false discovery rates over the rows that can be called, 1 for the others; all 1 for rows selected by clicks, about
    which nothing can be claimed."""
    result = np.ones(p_values.size)
    if not appraisal.chosen:
        result[callable_rows] = false_discovery(p_values[callable_rows])
    return pl.Series("q_value", result)


def _misfits(tested: pl.DataFrame, fits: pl.DataFrame | None) -> pl.DataFrame:
    if fits is None:
        return tested.clear()
    return tested.join(fits, on=ROW, how="inner", maintain_order="left").filter(pl.col("fit").is_in(["loose", "off"]))


def _at_target(appraisal: Appraisal, tested: pl.DataFrame, target: Target, context: Context) -> tuple[Floats, Floats]:
    """The clicks of each row at its target, D·μ(t)·s, with demand by search volume and by its own impressions only. Volumes
    are others' estimates: they may raise a forecast, never its certainty.
    """
    curves = appraisal.curves
    clicks, shown, position, expected = (
        tested[name].to_numpy() for name in ("clicks", "impressions", "position", "expected_clicks")
    )
    shown_on: Mapping[int, Counts] = {
        code: tested[f"shown_{code}"].to_numpy() for code in curves.by_device if f"shown_{code}" in tested.columns
    }
    searches = _of_queries(tested, context.searches, "searches")
    reached = target_position(position, target, _of_queries(tested, context.within_strength, "rank"))
    shape = appraisal.scatter.shape(position)
    # A row without a better target has its clicks there already. Its days' expectation differs a little from the curve at its
    # mean position, and that is no gain.
    now = clicks_now(clicks, expected, shape)
    better = reached < position
    measured = np.where(better, at_target(curves, clicks, shown, expected, shape, reached, shown_on), now)
    return np.where(better, measured * (demand(shown, position, searches) / shown), now), measured


def _of_queries(tested: pl.DataFrame, known: pl.DataFrame | None, name: str) -> Floats | None:
    """The value known for each row's query, NaN where there is none; None where no query has one."""
    if known is None:
        return None
    rows = tested.select("query").join(known.select("query", name), on="query", how="left", maintain_order="left")[name]
    return rows.cast(pl.Float64).fill_null(float("nan")).to_numpy()
