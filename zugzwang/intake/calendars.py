"""Dated events from a calendar (iCalendar, RFC 5545): each event a row, as a table of events would have it."""

from datetime import date, datetime, timedelta
from pathlib import Path
from typing import Any

from icalendar import Calendar

from zugzwang.intake.tables import CellTable, refuse

HEADER = ["first day", "last day", "title", "kind", "note"]


def open_calendar(path: Path, name: str) -> CellTable:
    """FileRefused where it is no calendar, or holds no event with a day."""
    try:
        calendar = Calendar.from_ical(path.read_bytes())
        rows = [_row(event) for event in calendar.walk("VEVENT")]
    except (ValueError, KeyError, IndexError, AttributeError, TypeError) as error:
        raise refuse(name, f"the calendar cannot be read ({error})", "Export it again as iCalendar (.ics).") from error
    if not rows:
        raise refuse(name, "the calendar holds no events", "Export the events of the site.")
    table = CellTable(path, name, HEADER, 1, len(rows), [], [], None, None, [HEADER, *rows])
    table.unit = "event"
    return table


def _row(event: Any) -> list[str]:
    start = _day(event.get("DTSTART"))
    end_value = event.get("DTEND")
    end = _day(end_value) or start
    # The end of an event of whole days is the day after its last (RFC 5545, section 3.6.1).
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
