"""Periods: whole days, and the days they are compared with."""

from calendar import monthrange
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

Comparison = Literal["year", "previous", "none"]

DEFAULT_WEEKS = 13
YEAR_SHIFT_DAYS = 364  # 52 whole weeks, so that weekdays meet their like
DAYS_A_MONTH = 365.25 / 12
FIRST_DAY_POSSIBLE = date(1995, 1, 1)
DAYS_AHEAD = 366  # of today, beyond which no day of any table can lie; clocks and time zones differ


@dataclass(frozen=True, order=True)
class Period:
    """Whole days from `first` to `last`, both included."""

    first: date
    last: date

    def __post_init__(self) -> None:
        if self.last < self.first:
            raise ValueError(f"the period ends ({self.last}) before it begins ({self.first})")

    @property
    def days(self) -> int:
        return (self.last - self.first).days + 1

    @property
    def is_month(self) -> bool:
        """Whether it is a whole month of the calendar."""
        return self.first.day == 1 and self.days == monthrange(self.first.year, self.first.month)[1]

    def shifted(self, days: int) -> "Period":
        return Period(self.first + timedelta(days=days), self.last + timedelta(days=days))

    def compared(self, comparison: Comparison) -> "Period | None":
        """The period to compare with: the same weekdays a year before, or the days just before.

        >>> Period(date(2026, 8, 17), date(2026, 11, 15)).compared("year")
        Period(first=datetime.date(2025, 8, 18), last=datetime.date(2025, 11, 16))
        """
        if comparison == "year":
            return self.shifted(-YEAR_SHIFT_DAYS)
        if comparison == "previous":
            return self.shifted(-self.days)
        return None

    def whole_weeks(self) -> "Period | None":
        """The weeks (ISO 8601: Monday to Sunday) that lie whole in the period; None without any."""
        monday = self.first + timedelta(days=(8 - self.first.isoweekday()) % 7)
        sunday = self.last - timedelta(days=self.last.isoweekday() % 7)
        return Period(monday, sunday) if sunday > monday else None

    def missing(self, present: Iterable[date]) -> list[date]:
        """The days of the period that `present` does not hold, in order."""
        held = set(present)
        every = (self.first + timedelta(days=offset) for offset in range(self.days))
        return [day for day in every if day not in held]


def default_period(first_day: date, last_day: date) -> Period:
    """The last 13 whole weeks (ISO 8601: Monday to Sunday) of data that reach from `first_day` to `last_day`.

    With fewer than 13 whole weeks: all whole weeks; with none: all days.
    """
    weeks = Period(first_day, last_day).whole_weeks()
    if weeks is None:
        return Period(first_day, last_day)
    return Period(max(weeks.first, weeks.last - timedelta(days=7 * DEFAULT_WEEKS - 1)), weeks.last)
