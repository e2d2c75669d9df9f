"""Dated events from a calendar (iCalendar, RFC 5545): each event becomes a row, as in a table of events.

A recurring event becomes a row for each occurrence within a window of days, because some rules never end.
"""

from datetime import date, datetime, timedelta
from pathlib import Path
from typing import Any

import recurring_ical_events
from django.utils import timezone
from icalendar import Calendar

from zugzwang.intake.tables import CellTable, refuse

DAYS_BEFORE, DAYS_AHEAD = 3 * 365, 365  # the window for recurring events
TIMES_MAX = 2_000  # the maximum number of occurrences
BY_DAY = ("DAILY", "WEEKLY", "MONTHLY", "YEARLY")
HEADER = ["first day", "last day", "title", "kind", "note"]


def open_calendar(path: Path, name: str) -> CellTable:
    """The events as a table. Raises FileRefused where it is not a calendar, or has no event with a day."""
    try:
        calendar = Calendar.from_ical(path.read_bytes())
        events = calendar.walk("VEVENT")
        once = [event for event in events if not _recurs(event)]
        times = _times([event for event in events if _recurs(event)], name)
        rows = [_row(event) for event in [*once, *times]]
    except (ValueError, KeyError, IndexError, AttributeError, TypeError) as error:
        raise refuse(name, f"the calendar cannot be read ({error})", "Export it again as iCalendar (.ics).") from error
    if not rows:
        raise refuse(name, "the calendar has no events", "Export the events of the site.")
    notices = (
        [f"{len(times):,} rows are events that recur, from {DAYS_BEFORE // 365} years ago to a year ahead."] if times else []
    )
    table = CellTable(path, name, HEADER, 1, len(rows), notices, [], None, None, [HEADER, *rows])
    table.unit = "event"
    return table


def _recurs(event: Any) -> bool:
    return any(name in event for name in ("RRULE", "RDATE", "RECURRENCE-ID"))


def _times(events: list[Any], name: str) -> list[Any]:
    """The occurrences of recurring events within the window. Raises FileRefused where they recur hourly, or too often."""
    for event in events:
        rules = event.get("RRULE", [])
        for rule in rules if isinstance(rules, list) else [rules]:
            if str(rule.get("FREQ", [""])[0]).upper() not in BY_DAY or rule.get("INTERVAL", [1])[0] < 1:
                title = event.get("SUMMARY", "an event")
                raise refuse(name, f"“{title}” recurs more often than daily", "Export the calendar without it.")
    if not events:
        return []
    calendar = Calendar()
    for event in events:
        calendar.add_component(event)
    today = timezone.localdate()
    window = today - timedelta(days=DAYS_BEFORE), today + timedelta(days=DAYS_AHEAD)
    times = recurring_ical_events.of(calendar).between(*window)
    if len(times) > TIMES_MAX:
        raise refuse(name, f"its events recur {len(times):,} times in four years", "Export only those that matter to the site.")
    return sorted(times, key=lambda event: _day(event.get("DTSTART")) or today)


def _row(event: Any) -> list[str]:
    start = _day(event.get("DTSTART"))
    end_value = event.get("DTEND")
    end = _day(end_value) or start
    # A whole-day event ends on the day after its last (RFC 5545, section 3.6.1).
    whole_days = end_value is not None and not isinstance(end_value.dt, datetime)
    if whole_days and start and end and end > start:
        end -= timedelta(days=1)
    kinds = event.get("CATEGORIES")
    kind = ", ".join(str(one) for one in kinds.cats) if hasattr(kinds, "cats") else ""
    shown = [start.isoformat() if start else "", end.isoformat() if end else ""]
    return [*shown, str(event.get("SUMMARY", "")), kind, str(event.get("DESCRIPTION", ""))]


def _day(value: Any) -> date | None:
    if value is None:
        return None
    return value.dt.date() if isinstance(value.dt, datetime) else value.dt
