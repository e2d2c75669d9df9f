"""Breaks: weeks in which the level of a page (or section) changed for good, apart from season and chance.

Weekly counts enter as logarithms, ln(count + ½). What all pages share – season, holidays – is removed: the median over
pages of the distance from their own level, week by week. (A running sum of medians drifts: it once hid a section's fall.)
The rest is scaled by the series' own noise, the median absolute deviation of its differences (· 1.4826: the standard
deviation of a difference if normal), times the effect of autocorrelation: AR(1) noise with ρ moves the mean of a segment
√(1 + ρ) / (1 − ρ) times as far (after Romano, Rigaill, Runge & Fearnhead 2022, JASA 117:2147–2162). ρ is pooled over the
site, from the lag-1 correlation r of differences: r = −(1 − ρ) / 2, so white noise has r = −½.

Change points of the mean are found by PELT (Killick, Fearnhead & Eckley 2012, JASA 107:1590–1598) with segments of at least
three weeks and a penalty of 4·ln(weeks) for each change, in its exact form for the linear kernel (ruptures).

A break is reported when the level fell or rose by at least 30 %, on enough clicks, and no smooth curve explains the weeks
as well: no slope with a yearly wave over all weeks, no bend (a cubic) over the adjacent segments (alternatives after
Fearnhead, Maidstone & Letchford 2019, JCGS 28:265–275), no similar move in the same weeks a year earlier, where there is a
year of data. The figures of a break are medians of the raw weeks around it, so they agree with the chart.

Limits: fewer than eight weeks cannot be judged; a change in the last two weeks is too recent.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from functools import cache
from itertools import pairwise
from typing import Any, Literal

import numpy as np
import polars as pl

from zugzwang.core.clicks.evidence import Floats, Grade

Level = Literal["page", "section", "site"]
Measure = Literal["clicks", "impressions"]
LEVELS: tuple[Level, ...] = ("page", "section", "site")
MEASURES: tuple[Measure, ...] = ("clicks", "impressions")
SPELL_WEEKS = 3
PENALTY = 4.0  # times ln(weeks)
FALL_OR_RISE = 0.30
ENOUGH_CLICKS = 30.0  # clicks gained or lost over a segment, relative to the level before
WEEKS_NEEDED = 8
FIRM_PENALTIES = 2.0  # a change that exceeds its penalty twice is firm; once, likely
EVENT_DAYS = 10  # the maximum distance between a break and an event
YEAR_WEEKS, SEASON_WEEKS = 52, 6
NORMAL_MAD = 1.4826
MEMORY_MOST = 0.85
LOOKED_AT_PAGES = 500  # a systematic sample by size that determines the shared movement of a larger site
STEADY_PAGES, STEADY_SHARE = 3, 0.2  # the minimum number of series for a shared movement
SMALLEST_NOISE = 0.05  # weekly noise below 5 % is not plausible


@dataclass(frozen=True)
class Break:
    """A change of level: the index of the first week of the new level, its size as a share of the old one (−0.6: it fell by 60
    %), the median of the raw weeks before and after, and by how many penalties it lowers the cost (1: enough).
    """

    week: int
    size: float
    before: float
    after: float
    strength: float


def shared_movement(counts: Floats) -> Floats:
    """What the rows (pages × weeks of counts) share: the median distance of pages from their own level, one value a week."""
    logs = np.log(counts + 0.5)
    return np.asarray(np.median(logs - np.median(logs, axis=1, keepdims=True), axis=0))


def memory(counts: Floats, shared: Floats) -> float:
    """The AR(1) coefficient ρ of the noise, pooled over rows (pages × weeks); 0 without autocorrelation or with too little
    data.
    """
    steps = np.diff(np.log(counts + 0.5) - shared, axis=1)
    if steps.shape[0] == 0 or steps.shape[1] < WEEKS_NEEDED:
        return 0.0
    # Steps far outside the usual range are breaks: they count no more than the largest usual one.
    usual = NORMAL_MAD * np.median(np.abs(steps), axis=1, keepdims=True)
    current = np.clip(steps, -2 * usual, 2 * usual)
    correlation = (current[:, 1:] * current[:, :-1]).sum(axis=1) / np.maximum((current**2).sum(axis=1), 1e-12)
    return float(np.clip(1 + 2 * np.median(correlation), 0.0, MEMORY_MOST))


def noise(series: Floats) -> Floats:
    """The standard deviation of the weekly differences of series (… × weeks), one each; estimated from medians, so level
    changes do not count.
    """
    steps = np.diff(series)
    deviation = np.median(np.abs(steps - np.median(steps, axis=-1, keepdims=True)), axis=-1)
    return np.maximum(NORMAL_MAD * deviation, SMALLEST_NOISE)


def find_breaks(counts: Floats, shared: Floats, rho: float = 0.0) -> list[list[Break]]:
    """The breaks of series of weekly counts (series × weeks), each in order; `shared`: see shared_movement; `rho`: see
    memory."""
    weeks = counts.shape[1]
    if weeks < WEEKS_NEEDED:
        return [[] for _ in counts]
    own = np.log(counts + 0.5) - shared
    scaled = own / (noise(own)[:, np.newaxis] * np.sqrt(1 + rho) / (1 - rho))
    level = ((scaled - scaled.mean(axis=1, keepdims=True)) ** 2).sum(axis=1)
    # Where the levels can explain less than the cost of one change, there is none.
    may = level > PENALTY * np.log(weeks)
    seasonal = _seasonal(scaled)
    rows = zip(may, counts, scaled, seasonal, strict=True)
    return [_breaks_in(one, own_scale, season, shared) if looked_at else [] for looked_at, one, own_scale, season in rows]


def _breaks_in(counts: Floats, scaled: Floats, seasonal: float, shared: Floats) -> list[Break]:
    penalty = PENALTY * np.log(counts.size)
    import ruptures  # imported here: it takes a second to load, and most commands never need it

    ends = ruptures.KernelCPD(kernel="linear", min_size=SPELL_WEEKS).fit(scaled.reshape(-1, 1)).predict(pen=penalty)
    bounds = [0, *ends]
    if len(ends) == 1 or seasonal <= sum(_cost(scaled[start:end]) for start, end in pairwise(bounds)):
        return []
    found = []
    for start, at, end in zip(bounds, bounds[1:-1], bounds[2:], strict=False):
        one = _break(counts, scaled, shared, (start, at, end), penalty)
        if one is not None:
            found.append(one)
    return found


def _break(counts: Floats, scaled: Floats, shared: Floats, spell: tuple[int, int, int], penalty: float) -> Break | None:
    start, at, end = spell
    unseasoned = (counts + 0.5) / np.exp(shared - shared[at])  # as if every week were the one of the break
    before, after = _median(unseasoned[start:at]) - 0.5, _median(unseasoned[at:end]) - 0.5
    before, after = max(before, 0.0), max(after, 0.0)
    size = (after - before) / before if before > 0 else 1.0
    enough = abs(after - before) * (end - at) >= ENOUGH_CLICKS
    if abs(size) < FALL_OR_RISE or not enough or _as_a_year_ago(unseasoned, at):
        return None
    stepped = _cost(scaled[start:at]) + _cost(scaled[at:end])
    if _bent(scaled[start:end]) <= stepped:
        return None
    around = counts[max(start, at - SEASON_WEEKS) : at], counts[at : min(end, at + SEASON_WEEKS)]
    return Break(at, size, _median(around[0]), _median(around[1]), (_cost(scaled[start:end]) - stepped) / penalty)


def _bent(series: Floats) -> float:
    """The cost of the best slope or bend (a cubic) over a stretch."""
    if series.size <= 6:
        return np.inf
    off = series - series.mean()
    current = _cubics(series.size).T @ off
    return float(off @ off - current @ current)


@cache
def _cubics(weeks: int) -> Floats:
    """An orthonormal basis of all cubics over so many weeks (weeks × 4)."""
    return np.linalg.qr(np.vander(np.linspace(-1, 1, weeks), 4))[0]


def _seasonal(series: Floats) -> Floats:
    """The cost of a slope with a yearly wave over all weeks of each series: its own season."""
    at = np.arange(series.shape[1])
    year = 2 * np.pi * at / YEAR_WEEKS
    shape = np.column_stack([np.ones(at.size), at, np.cos(year), np.sin(year)])
    fitted = shape @ np.linalg.lstsq(shape, series.T, rcond=None)[0]
    return np.asarray(np.sum((series.T - fitted) ** 2, axis=0))


def _as_a_year_ago(unseasoned: Floats, at: int) -> bool:
    """Whether the series moved the same way, at least half as far, in the same weeks a year earlier: its own season. Unknown
    without a year of data.
    """
    then = at - YEAR_WEEKS
    if then < SPELL_WEEKS:
        return False
    moved = []
    for week in (then, at):
        before, after = unseasoned[max(week - SEASON_WEEKS, 0) : week], unseasoned[week : week + SEASON_WEEKS]
        moved.append(float(np.log(_median(after) / _median(before))))
    last_year, now = moved
    return last_year * now > 0 and abs(last_year) >= abs(now) / 2


def _cost(series: Floats) -> float:
    off = series - series.mean()
    return float(off @ off)


def _median(series: Floats) -> float:
    """The median of a few weeks; numpy's own takes five times as long for so few, and this runs for segments of every page."""
    ordered, half = np.sort(series), series.size // 2
    return float((ordered[half] + ordered[~half]) / 2)


@dataclass(frozen=True)
class Series:
    """Several series: their `names` and `weeks` (`kinds`: the types of both), `counts` (names × weeks), what all pages share a
    week, and ρ of the noise (memory).
    """

    names: list[object]
    weeks: Sequence[object]
    kinds: pl.Schema
    counts: Floats
    shared: Floats
    rho: float


def read_series(weekly: pl.DataFrame, weeks: Sequence[object], pages: pl.DataFrame | None = None) -> Series:
    """`weekly`: name (page, section …), week, count; missing weeks count 0. `weeks`: all weeks, in order. `pages`: the series
    that determine the shared movement, where the series are not pages themselves.
    """
    names, counts = by_weeks(weekly, weeks)
    kinds = weekly.select("name", "week").schema
    if len(names) == 0 or counts.shape[1] < WEEKS_NEEDED:
        return Series(names, weeks, kinds, counts, np.zeros(counts.shape[1]), 0.0)
    # Pages with almost no clicks move by chance and would hide what the others share.
    telling = counts if pages is None else by_weeks(pages, weeks)[1]
    return Series(names, weeks, kinds, counts, *_of_the_steady(telling[telling.mean(axis=1) >= 1.0]))


def breaks(series: Series) -> pl.DataFrame:
    """The breaks of several series. Returns name, week (first of the new level), size, before, after (clicks a week),
    strength; the largest falls in clicks first.
    """
    rows = [
        (name, series.weeks[one.week], one.size, one.before, one.after, one.strength)
        for name, found in zip(series.names, find_breaks(series.counts, series.shared, series.rho), strict=True)
        for one in found
    ]
    schema = pl.Schema({**series.kinds, **dict.fromkeys(("size", "before", "after", "strength"), pl.Float64())})
    return pl.DataFrame(rows, schema=schema, orient="row").sort(pl.col("after") - pl.col("before"), "name", "week")


def half_lost_noticed(series: Series) -> float:
    """The power: the share of series in which a fall by half that lasted six weeks would exceed its penalty on enough
    clicks."""
    weeks = series.counts.shape[1]
    if not series.names or weeks < WEEKS_NEEDED:
        return 0.0
    lasted = min(SEASON_WEEKS, weeks // 2)
    pull = np.log(2) ** 2 * (weeks - lasted) * lasted / weeks  # the reduction in cost from a step of ln 2, before scaling
    memory_adds = (1 + series.rho) / (1 - series.rho) ** 2
    scale = noise(np.log(series.counts + 0.5) - series.shared) ** 2 * memory_adds
    enough = np.median(series.counts, axis=1) / 2 * lasted >= ENOUGH_CLICKS
    return float(np.mean((pull / scale >= PENALTY * np.log(weeks)) & enough))


def _of_the_steady(counts: Floats) -> tuple[Floats, float]:
    """The shared movement and autocorrelation estimated from pages without breaks: where a section falls, the median of all
    pages falls too, and the others would seem to rise.
    """
    if len(counts) < STEADY_PAGES:
        return np.zeros(counts.shape[1]), 0.0
    if len(counts) > LOOKED_AT_PAGES:
        counts = counts[np.argsort(counts.sum(axis=1))[np.linspace(0, len(counts) - 1, LOOKED_AT_PAGES).astype(np.intp)]]
    shared = shared_movement(counts)
    rho = memory(counts, shared)
    steady = np.array([not found for found in find_breaks(counts, shared, rho)])
    if steady.sum() >= max(STEADY_PAGES, STEADY_SHARE * len(counts)):
        shared = shared_movement(counts[steady])
        rho = memory(counts[steady], shared)
    return shared, rho


def by_weeks(weekly: pl.DataFrame, weeks: Sequence[object]) -> tuple[list[Any], Floats]:
    """Counts (name, week, count) as sorted names and an array names × weeks; missing weeks are 0."""
    names = weekly["name"].unique().sort()
    rows = names.to_frame().with_row_index("row")
    columns = pl.DataFrame({"week": pl.Series(weeks, dtype=weekly.schema["week"])}).with_row_index("column")
    placed = weekly.join(rows, on="name").join(columns, on="week")
    counts = np.zeros((names.len(), len(weeks)))
    np.add.at(counts, (placed["row"].to_numpy(), placed["column"].to_numpy()), placed["count"].to_numpy())
    return names.to_list(), counts


def grade(strength: float) -> Grade:
    """The grade of a break: firm where it exceeds its penalty twice, otherwise likely. What exceeds it only once is not
    reported.
    """
    return "firm" if strength >= FIRM_PENALTIES else "likely"


def season_known(week: date, first_week: date) -> bool:
    """Whether there is a year of data before a break, which would show the series' own season."""
    return week - first_week >= timedelta(weeks=YEAR_WEEKS + SPELL_WEEKS)


def nearest_event(week: date, events: Sequence[tuple[date, str]]) -> str | None:
    """The title of the event (first day, title) nearest to a break's week, if one lies within EVENT_DAYS."""
    near = [(abs((first_day - week).days), title) for first_day, title in events]
    return min((one for one in near if one[0] <= EVENT_DAYS), default=(0, None))[1]
