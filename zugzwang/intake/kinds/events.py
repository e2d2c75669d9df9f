"""Dated events."""

import polars as pl

from zugzwang.core.words import sentences
from zugzwang.data.models import Event, Site
from zugzwang.intake.kinds.kind import DAY_WORDS, Check, Field, Kind


def _says(site: Site) -> str:
    newest_event = Event.objects.filter(site=site).last()
    return f"The last: {newest_event.title}, {sentences.day(newest_event.first_day)}." if newest_event else ""


def _count(site: Site) -> int:
    return Event.objects.filter(site=site).count()


KIND = Kind(
    name="events",
    title="Dated events",
    holds="updates, releases, campaigns",
    needed="dated events",
    order=110,
    grains=(),
    fields=(
        Field("first_day", "day", ("first day", "from", "start", "start date", "begin", "begins", *DAY_WORDS), required=True),
        Field("last_day", "day", ("last day", "to", "until", "end", "end date", "ends")),
        Field("title", "text", ("title", "event", "name", "summary", "what"), required=True),
        Field("kind", "text", ("kind", "type", "category")),
        Field("note", "text", ("note", "notes", "description", "comment", "details")),
    ),
    telling=("first_day", "title"),
    checks=(
        Check(
            "last_day+first_day", pl.col("last_day") < pl.col("first_day"), "the event ends before it begins",
            "Swap the two days.",
        ),
    ),
    says=_says,
    count=_count,
)  # fmt: skip
