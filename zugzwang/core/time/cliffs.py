"""Cliffs: several pages that broke at once, and the dated event that they may have to do with; spells in and out of the
results.

Breaks (breaks.py) of pages whose week lies within ten days of an event are set under it. Next to them is how many would have
broken so near by chance: the breaks that fall on the other weeks, spread evenly, for as many weeks as the event's are. Breaks
that no event explains form a cliff of their own where more pages broke in one week and direction than chance makes likely: at
least three, and the Poisson chance of so many, at the rate of all other weeks, at most 1 % after Bonferroni's correction for
the weeks looked at.

A spell is a run of weeks in which a page was shown, or was not. A page is said to be out when it is not shown for three weeks
or more, while as long a stretch at its pace before would have shown it twenty times or more (the chance of none is then
e^−20). It is back when it is shown again.

Worked: 6 breaks under an event that spans 3 of 65 weeks, 10 elsewhere: by chance 10 · 3 / 62 = 0.48.
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
    """Breaks that belong together: their rows in the table of breaks, the event (None: no event is near), the week of most of
    them, whether levels fell, and how many breaks chance would have put there."""

    rows: tuple[int, ...]
    event: Event | None
    week: date
    fell: bool
    by_chance: float

    @property
    def beyond_chance(self) -> bool:
        """Whether so many would come by chance in one of twenty such stretches, or less."""
        return (
            len(self.rows) > 1 and float(scipy.stats.poisson.sf(len(self.rows) - 1, max(self.by_chance, 1e-9))) <= NEAR_CHANCE
        )


def cliffs(breaks: pl.DataFrame, events: Sequence[Event], weeks: Sequence[date]) -> list[Cliff]:
    """The cliffs of a table of breaks (week, size), the one with most pages first. `weeks`: all that were looked at."""
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
    """When a page was out of the results: the first week of each spell, and the week in which it came back (None: it has not).

    `shown`: impressions of each week. A spell before the page was ever shown is none.

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
