"""Cliffs: several pages that broke at the same time, and the dated event nearby; drop-outs from the results.

Breaks (breaks.py) of pages in a week within ten days of an event are grouped under it. The list also shows how many would
have broken so near by chance: the breaks in other weeks, spread evenly, over as many weeks as the event's. Breaks without
an event form a cliff where more pages broke in one week and direction than chance explains: at least three, with a Poisson
probability of so many, at the rate of all other weeks, of at most 1 % after Bonferroni's correction for the weeks examined.

A page has dropped out when it has no impressions for three or more weeks in which its earlier rate would have given at
least twenty (the probability of none is then e^−20). It is back when it has impressions again.

Example: 6 breaks under an event that spans 3 of 65 weeks, 10 elsewhere: by chance 10 · 3 / 62 = 0.48.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from statistics import mode

import numpy as np
import polars as pl
import scipy

from zugzwang.core.clicks.evidence import Floats
from zugzwang.core.time.breaks import EVENT_DAYS

CLIFF_PAGES = 3
CHANCE = 0.01
NEAR_CHANCE = 0.05
OUT_WEEKS = 3
PACE_WEEKS = 13
WOULD_HAVE_SHOWN = 20.0


@dataclass(frozen=True)
class Event:
    day: date
    title: str


@dataclass(frozen=True)
class Cliff:
    """Breaks that belong together: their rows in the table of breaks, the event (None: none nearby), the week of most of them,
    whether levels fell, and how many breaks chance would explain.
    """

    rows: tuple[int, ...]
    event: Event | None
    week: date
    fell: bool
    by_chance: float

    @property
    def beyond_chance(self) -> bool:
        """Whether chance would give so many in one of twenty such stretches or less."""
        return (
            len(self.rows) > 1 and float(scipy.stats.poisson.sf(len(self.rows) - 1, max(self.by_chance, 1e-9))) <= NEAR_CHANCE
        )


def cliffs(breaks: pl.DataFrame, events: Sequence[Event], weeks: Sequence[date]) -> list[Cliff]:
    """The cliffs of a table of breaks (week, size), most pages first. `weeks`: all weeks examined."""
    result: list[Cliff] = []
    numbered = list(enumerate(breaks.select("week", "size").iter_rows()))
    explained: set[int] = set()
    for event in events:
        near_weeks = [week for week in weeks if abs((event.day - week).days) <= EVENT_DAYS]
        for fell in (True, False):
            near = [row for row, (week, size) in numbered if week in near_weeks and (size < 0) == fell]
            elsewhere = sum(1 for _, (week, size) in numbered if week not in near_weeks and (size < 0) == fell)
            if near:
                others = max(len(weeks) - len(near_weeks), 1)
                most = mode([breaks["week"][row] for row in near])
                result.append(Cliff(tuple(near), event, most, fell, elsewhere * len(near_weeks) / others))
                explained.update(near)
    for fell in (True, False):
        left = [(row, week) for row, (week, size) in numbered if row not in explained and (size < 0) == fell]
        for week in sorted({week for _, week in left}):
            here = tuple(row for row, its in left if its == week)
            rate = (len(left) - len(here)) / max(len(weeks) - 1, 1)
            by_chance = float(scipy.stats.poisson.sf(len(here) - 1, max(rate, 1e-9)))
            if len(here) >= CLIFF_PAGES and by_chance <= CHANCE / len(weeks):
                result.append(Cliff(here, None, week, fell, rate))
    return sorted(result, key=lambda cliff: (-len(cliff.rows), cliff.week))


def spells_out(shown: Floats, weeks: Sequence[date]) -> list[tuple[date, date | None]]:
    """When a page was out of the results: the first week, and the week in which it came back (None: it has not).

    `shown`: impressions of each week. Weeks before the page's first impression do not count.

    >>> from datetime import timedelta
    >>> weeks = [date(2026, 1, 5) + timedelta(days=7 * number) for number in range(8)]
    >>> spells_out(np.array([30, 40, 35, 0, 0, 0, 25, 30]), weeks)
    [(datetime.date(2026, 1, 26), datetime.date(2026, 2, 16))]
    """
    found: list[tuple[date, date | None]] = []
    absent = np.flatnonzero(np.diff(np.concatenate([[0], (shown == 0).astype(np.int8), [0]])))
    for start, end in absent.reshape(-1, 2):
        before = shown[max(start - PACE_WEEKS, 0) : start]
        pace = float(before.mean()) if before.size >= OUT_WEEKS else 0.0
        if end - start >= OUT_WEEKS and pace * (end - start) >= WOULD_HAVE_SHOWN:
            found.append((weeks[start], weeks[end] if end < len(weeks) else None))
    return found
