"""Open moves as calendar to-dos (RFC 5545, VTODO), for people who keep tasks elsewhere."""

from collections.abc import Iterable, Mapping
from datetime import UTC, datetime
from typing import Any

from icalendar import Calendar, Todo

from zugzwang.core.worth.moves import EFFORT_HOURS
from zugzwang.data.models import Site

STATUS = {"to do": "NEEDS-ACTION", "in progress": "IN-PROCESS", "done": "COMPLETED", "measured": "COMPLETED"}


def todo_calendar(site: Site, rows: Iterable[Mapping[str, Any]]) -> bytes:
    """Rows of the list of moves as to-dos, without dismissed ones."""
    calendar = Calendar()
    calendar.add("prodid", "-//Zugzwang//moves//EN")
    calendar.add("version", "2.0")
    for row in rows:
        if row["state"] in STATUS:
            calendar.add_component(_todo(site, row))
    return bytes(calendar.to_ical())


def _todo(site: Site, row: Mapping[str, Any]) -> Todo:
    todo = Todo()
    subject = " on ".join(one for one in (row["query"] and f"“{row['query']}”", row["page"]) if one)
    todo.add("uid", f"move-{row['id']}@{site.slug}.zugzwang")
    todo.add("dtstamp", row["made_at"].astimezone(UTC))
    todo.add("summary", f"{row['kind_words'].capitalize()}: {subject}")
    result = [row["reason"], row["note"], f"Effort: {EFFORT_HOURS[row['effort']]:.0f} h."]
    if row["gain_cautious"] is not None:
        result.append(f"Gain: at least {row['gain_cautious']:.0f} clicks a month.")
    todo.add("description", "\n".join(one for one in result if one))
    todo.add("status", STATUS[row["state"]])
    if row["due"]:
        todo.add("due", row["due"])
    if row["made_on"]:
        todo.add("completed", datetime.combine(row["made_on"], datetime.min.time(), UTC))
    if row["page"]:
        todo.add("url", row["page"])
    return todo
