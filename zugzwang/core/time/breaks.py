"""Breaks: weeks in which the level of a page (or section) changed and stayed changed, season and chance taken out.

Weekly counts enter as logarithms, ln(count + ½). What all pages of a group share – season, holidays – is taken out: the median
page's movement from week to week. What is left is scaled by the series' own noise, the median absolute deviation of its
differences (· 1.4826: the standard deviation of a difference, were it normal). Change points of the mean are found by PELT
(Killick, Fearnhead & Eckley 2012, JASA 107:1590–1598) with spells of at least three weeks and a penalty of 4·ln(weeks) a
change, in its exact form for the linear kernel (ruptures).

A break is told when the level fell or rose by 30 % or more, enough clicks rest on it, and the series did not move so in the
same weeks a year before (a season of its own; told only where there is a year of data).

Limits: with fewer than eight weeks there is nothing to tell; a change in the last two weeks is too young.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

import numpy as np
import numpy.typing as npt
import polars as pl
import ruptures

from zugzwang.core.clicks.evidence import Floats, Grade

Level = Literal["page", "section", "site"]
Measure = Literal["clicks", "impressions"]
LEVELS: tuple[Level, ...] = ("page", "section", "site")
MEASURES: tuple[Measure, ...] = ("clicks", "impressions")
SPELL_WEEKS = 3
PENALTY = 4.0  # times ln(weeks)
FALL_OR_RISE = 0.30
ENOUGH_CLICKS = 30.0  # that a spell gained or lost in all, beside the level before
WEEKS_NEEDED = 8
FIRM_PENALTIES = 2.0  # a change that pays its penalty twice is firm; once, likely
EVENT_DAYS = 10  # a break within so many days of an event's first is set beside it
YEAR_WEEKS, SEASON_WEEKS = 52, 6
GROUP_PAGES = 12  # with fewer pages, what they share is told by all pages
NORMAL_MAD = 1.4826
SMALLEST_NOISE = 0.05  # a series quieter than 5 % a week is not trusted to be


@dataclass(frozen=True)
class Break:
    """A change of level: the index of the first week of the new one, its size as a share of the old (−0.6: it fell by 60 %),
    the mean a week before and after, and how far beyond the penalty the change lowers the cost (1: just enough)."""

    week: int
    size: float
    before: float
    after: float
    strength: float


def shared_movement(counts: Floats) -> Floats:
    """What the rows (pages × weeks of counts) share: the running sum of the median page's weekly movement, of length weeks."""
    logs = np.log(counts + 0.5)
    return np.concatenate([[0.0], np.cumsum(np.median(np.diff(logs, axis=1), axis=0))])


def noise(series: Floats) -> float:
    """The standard deviation of a series' weekly differences, told by their median so that changes of level do not count."""
    steps = np.diff(series)
    deviation = float(np.median(np.abs(steps - np.median(steps))))
    return max(NORMAL_MAD * deviation, SMALLEST_NOISE)


def find_breaks(counts: Floats, shared: Floats) -> list[Break]:
    """The breaks of one series of weekly counts, in order; `shared`: see shared_movement."""
    weeks = counts.size
    if weeks < WEEKS_NEEDED:
        return []
    scaled = (np.log(counts + 0.5) - shared) / noise(np.log(counts + 0.5) - shared)
    penalty = PENALTY * np.log(weeks)
    ends = ruptures.KernelCPD(kernel="linear", min_size=SPELL_WEEKS).fit(scaled.reshape(-1, 1)).predict(pen=penalty)
    bounds = [0, *ends]
    found = []
    for start, at, end in zip(bounds, bounds[1:-1], bounds[2:], strict=False):
        one = _break(counts, scaled, shared, (start, at, end), penalty)
        if one is not None:
            found.append(one)
    return found


def _break(counts: Floats, scaled: Floats, shared: Floats, spell: tuple[int, int, int], penalty: float) -> Break | None:
    start, at, end = spell
    unseasoned = (counts + 0.5) / np.exp(shared - shared[at])  # as if every week were the one of the break
    before, after = float(np.median(unseasoned[start:at])) - 0.5, float(np.median(unseasoned[at:end])) - 0.5
    before, after = max(before, 0.0), max(after, 0.0)
    size = (after - before) / before if before > 0 else 1.0
    enough = abs(after - before) * (end - at) >= ENOUGH_CLICKS
    if abs(size) < FALL_OR_RISE or not enough or _as_a_year_ago(unseasoned, at):
        return None
    gain = _cost(scaled[start:end]) - _cost(scaled[start:at]) - _cost(scaled[at:end])
    return Break(at, size, before, after, gain / penalty)


def _as_a_year_ago(unseasoned: Floats, at: int) -> bool:
    """Whether the series moved the same way in the same weeks a year before, at least half as far: a season of its own, that
    the others do not share. Without a year of data it cannot be told."""
    then = at - YEAR_WEEKS
    if then < SPELL_WEEKS:
        return False
    moved = []
    for week in (then, at):
        before, after = unseasoned[max(week - SEASON_WEEKS, 0) : week], unseasoned[week : week + SEASON_WEEKS]
        moved.append(float(np.log(np.median(after) / np.median(before))))
    last_year, now = moved
    return last_year * now > 0 and abs(last_year) >= abs(now) / 2


def _cost(series: Floats) -> float:
    return float(np.sum((series - series.mean()) ** 2))


def breaks(weekly: pl.DataFrame, weeks: Sequence[object], groups: pl.DataFrame | None = None) -> pl.DataFrame:
    """The breaks of many series.

    `weekly`: name (page, section …), week, count; weeks that a series lacks count 0. `weeks`: all of them, in order.
    `groups`: name, group, within which what is shared is told, where it has pages enough.
    → name, week (first of the new level), size, before, after (a week), strength; the largest falls in clicks first.
    """
    names, counts = _matrix(weekly, weeks)
    told: list[str] = ["size", "before", "after", "strength"]
    schema = pl.Schema({**weekly.select("name", "week").schema, **dict.fromkeys(told, pl.Float64())})
    if len(names) == 0 or counts.shape[1] < WEEKS_NEEDED:
        return pl.DataFrame(schema=schema)
    shared_by_row = _shared(names, counts, groups)
    rows = [
        (name, weeks[one.week], one.size, one.before, one.after, one.strength)
        for name, series, shared in zip(names, counts, shared_by_row, strict=True)
        for one in find_breaks(series, shared)
    ]
    return pl.DataFrame(rows, schema=schema, orient="row").sort(pl.col("after") - pl.col("before"), "name", "week")


def _matrix(weekly: pl.DataFrame, weeks: Sequence[object]) -> tuple[list[object], Floats]:
    names = weekly["name"].unique(maintain_order=True).sort()
    row = dict(zip(names.to_list(), range(names.len()), strict=True))
    column = dict(zip(weeks, range(len(weeks)), strict=True))
    counts = np.zeros((names.len(), len(weeks)))
    for name, week, count in weekly.select("name", "week", "count").iter_rows():
        if week in column:
            counts[row[name], column[week]] += count
    return names.to_list(), counts


def _shared(names: Sequence[object], counts: Floats, groups: pl.DataFrame | None) -> npt.NDArray[np.float64]:
    # Pages with next to no clicks move by chance alone and would hide what the others share.
    telling = counts.mean(axis=1) >= 1.0
    of_all = shared_movement(counts[telling]) if telling.sum() >= 3 else np.zeros(counts.shape[1])
    shared = np.tile(of_all, (len(names), 1))
    if groups is not None:
        group_of = dict(groups.select("name", "group").iter_rows())
        told = np.array([str(group_of.get(name)) for name in names])
        for group in np.unique(told):
            within = (told == group) & telling
            if within.sum() >= GROUP_PAGES:
                shared[told == group] = shared_movement(counts[within])
    return shared


def grade(strength: float) -> Grade:
    """How sure a break is: firm where it pays its penalty twice, else likely. What pays it once only is no break at all."""
    return "firm" if strength >= FIRM_PENALTIES else "likely"


def season_known(week: date, first_week: date) -> bool:
    """Whether there is a year of data before a break, from which a season of the series' own would have been seen."""
    return week - first_week >= timedelta(weeks=YEAR_WEEKS + SPELL_WEEKS)


def nearest_event(week: date, events: Sequence[tuple[date, str]]) -> str | None:
    """The title of the event (first day, title) nearest to a break's week, if one lies within EVENT_DAYS."""
    near = [(abs((first_day - week).days), title) for first_day, title in events]
    return min((one for one in near if one[0] <= EVENT_DAYS), default=(0, None))[1]
