"""What makes a row bad. A row is refused for the first check that it fails; nothing is repaired by guessing."""

from datetime import timedelta

import polars as pl
from django.utils import timezone

from zugzwang.core.facts.countries import COUNTRY_UNKNOWN
from zugzwang.core.facts.grains import Source
from zugzwang.core.facts.periods import DAYS_AHEAD, FIRST_DAY_POSSIBLE
from zugzwang.intake.delimited import NOT_UTF8
from zugzwang.intake.kinds import KINDS
from zugzwang.intake.kinds.kind import Check, Field
from zugzwang.intake.tables import OVERFLOW

COUNT_MAX = 2**32 - 1
TEXT_MAX_BYTES = 4_000
HAS_VALUE = "said_"  # prefix of a column that says whether a field's cell has a value; only for optional fields
NAMES = ("page", "query")  # fields whose texts repeat, so each text is checked once


def checks_for(source: Source, mapped: set[str]) -> list[Check]:
    """The checks of a file with these fields, in order of precedence."""
    fields = [field for field in KINDS[source].fields if field.name in mapped]
    remedy = "Put quotes around text with a delimiter in it."
    checks = [Check("", pl.col(OVERFLOW).is_not_null(), "more fields than the header has", remedy)]
    for field in fields:
        checks += _of_field(field)
    return checks + [check for check in KINDS[source].checks if set(check.field.split("+")) <= mapped]


def _of_field(field: Field) -> list[Check]:
    value = pl.col(field.name)
    absent = (
        value.is_null() if field.required and not field.may_be_empty else value.is_null() & pl.col(f"{HAS_VALUE}{field.name}")
    )
    if field.form == "day":
        is_none = absent | (value < FIRST_DAY_POSSIBLE)
        ahead = value > timezone.localdate() + timedelta(days=DAYS_AHEAD)
        return [
            Check(field.name, is_none, "this is not a readable date", "Write the day as 2026-11-15."),
            Check(field.name, ahead, "this day is more than a year ahead", "Check the year."),
        ]
    if field.name in NAMES:
        missing = Check(field.name, value.is_null(), f"the {field.name} is missing", f"Give every row its {field.name}.")
        return [missing, *_of_name(field.name)]
    if field.form in ("text", "page") and field.required and not field.may_be_empty:
        return [Check(field.name, value.is_null(), f"{field.name.replace('_', ' ')} is missing", "Every row needs one.")]
    if field.form in ("whole", "volume", "status"):
        return _of_number(field, absent, "no whole number", "Write a whole number without letters.")
    if field.form in ("real", "share"):
        return _of_number(field, absent | ~value.is_finite(), "no number", "Write it as 7.4.")
    if field.form == "yes":
        return [Check(field.name, absent, "this is neither yes nor no", "Write yes or no.")]
    if field.form == "country":
        unknown = value == COUNTRY_UNKNOWN
        return [
            Check(
                field.name, unknown, "this is not a country of ISO 3166", "Write its name, or its code of two or three letters."
            )
        ]
    return []


def _of_name(name: str) -> list[Check]:
    raw = pl.col(name).cast(pl.String)
    not_utf8, two_lines = (raw.str.contains(part, literal=True) for part in (NOT_UTF8, "\n"))
    too_long = raw.str.len_bytes() > TEXT_MAX_BYTES
    long = f"the text is longer than {TEXT_MAX_BYTES:,} bytes"
    return [
        Check(name, not_utf8, "the text is not UTF-8", "Save the file as CSV (UTF-8).", of_text=True),
        Check(name, two_lines, "the text continues on the next line", "Close the open quote.", of_text=True),
        Check(name, too_long, long, "Look for an open quote.", of_text=True),
    ]


def _of_number(field: Field, absent: pl.Expr, message: str, remedy: str) -> list[Check]:
    value, name = pl.col(field.name), field.name.replace("_", " ")
    # Rows without impressions have no position; they are left out later, not refused.
    counts = pl.col("impressions") > 0 if field.name == "position" and field.required else pl.lit(True)
    checks = [Check(field.name, counts & absent, f"{name} is {message}", remedy)]
    if field.least == 0:
        checks.append(Check(field.name, value < 0, f"{name} is negative", "Counts start at 0."))
    elif field.least is not None:
        below = "The first position is 1; check for a shifted column."
        checks.append(Check(field.name, counts & (value < field.least), f"{name} is below {field.least:g}", below))
    if field.form in ("whole", "volume"):
        checks.append(Check(field.name, value > COUNT_MAX, f"{name} is impossibly large", f"At most {COUNT_MAX:,}."))
    return checks
