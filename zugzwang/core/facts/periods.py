"""Periods of whole days, and the periods they are compared with."""

from calendar import monthrange
from collections.abc import Collection, Iterable
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Literal

Comparison = Literal["year", "previous", "none"]

DEFAULT_WEEKS = 13
YEAR_SHIFT_DAYS = 364  # 52 whole weeks keep weekdays aligned
DAYS_A_MONTH = 365.25 / 12
FAIR_SHARE = 0.8  # share of a period's days that must be comparable; own choice
FIRST_DAY_POSSIBLE = date(1995, 1, 1)
DAYS_AHEAD = 366  # the tolerance for days after today; clocks and time zones differ


@dataclass(frozen=True, order=True)
class Period:
    """Whole days from `first` to `last`, both included; `without`: excluded days, in order."""

    first: date
    last: date
    without: tuple[date, ...] = ()

    def __post_init__(self) -> None:
        if self.last < self.first:
            raise ValueError(f"the period ends ({self.last}) before it begins ({self.first})")

    def __repr__(self) -> str:
        # Part of cache keys, so it names excluded days; most periods have none.
        left_out = f", without={self.without}" if self.without else ""
        return f"Period(first={self.first!r}, last={self.last!r}{left_out})"

    @property
    def days(self) -> int:
        return (self.last - self.first).days + 1

    @property
    def is_month(self) -> bool:
        """Whether it is a whole calendar month."""
        return self.first.day == 1 and self.days == monthrange(self.first.year, self.first.month)[1]

    def shifted(self, days: int) -> "Period":
        shift = timedelta(days=days)
        return Period(self.first + shift, self.last + shift, tuple(day + shift for day in self.without))

    def compared(self, comparison: Comparison) -> "Period | None":
        """The period to compare with: the same weekdays a year earlier, or the days just before.

        >>> Period(date(2026, 8, 17), date(2026, 11, 15)).compared("year")
        Period(first=datetime.date(2025, 8, 18), last=datetime.date(2025, 11, 16))
        """
        if comparison == "year":
            return self.shifted(-YEAR_SHIFT_DAYS)
        if comparison == "previous":
            return self.shifted(-self.days)
        return None

    def whole_weeks(self) -> "Period | None":
        """The weeks (ISO 8601: Monday to Sunday) entirely within the period; None where there are none."""
        monday = self.first + timedelta(days=(8 - self.first.isoweekday()) % 7)
        sunday = self.last - timedelta(days=self.last.isoweekday() % 7)
        return Period(monday, sunday) if sunday > monday else None

    def missing(self, present: Iterable[date]) -> list[date]:
        """The days of the period that are not in `present`, in order."""
        current = {*present, *self.without}
        every = (self.first + timedelta(days=offset) for offset in range(self.days))
        return [day for day in every if day not in current]


def like_for_like(now: Period, then: Period, present: Iterable[Collection[date]]) -> tuple[Period, Period] | None:
    """Both periods, each without the days whose counterpart has no data; None where none is left.

    The counterpart of a day is as far from it as `then` from `now`. `present`: the days with data, one collection for each
    kind of data compared; a day counts where all have it.
    """
    shift, current = now.first - then.first, [set(days) for days in present]
    every = [now.first + timedelta(days=offset) for offset in range(now.days)]
    without = tuple(day for day in every if not all({day, day - shift} <= days for days in current))
    if len(without) == now.days:
        return None
    left_out = replace(now, without=without)
    return left_out, left_out.shifted(-shift.days)


def longest_fair(present: Collection[date], shift_days: int) -> Period | None:
    """The longest period within `present`, the days with data, of which at least FAIR_SHARE also have data `shift_days`
    earlier. It ends on the last such day, and is whole weeks where it contains one. None without any such day.
    """
    current, shift = set(present), timedelta(days=shift_days)
    common = sorted(day for day in current if day - shift in current)
    for index, first in enumerate(common):
        found = Period(first, common[-1])
        if len(common) - index >= FAIR_SHARE * found.days:
            return found.whole_weeks() or found
    return None


def default_period(first_day: date, last_day: date) -> Period:
    """The last 13 whole weeks (ISO 8601: Monday to Sunday) of data from `first_day` to `last_day`.

    With fewer than 13 whole weeks: all whole weeks; with none: all days.
    """
    weeks = Period(first_day, last_day).whole_weeks()
    if weeks is None:
        return Period(first_day, last_day)
    return Period(max(weeks.first, weeks.last - timedelta(days=7 * DEFAULT_WEEKS - 1)), weeks.last)
