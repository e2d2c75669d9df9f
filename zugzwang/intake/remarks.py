"""Remarks on how a table is read where there is more than one way."""

import re
from collections.abc import Mapping, Sequence
from datetime import date

import polars as pl
from django.utils import timezone

from zugzwang.intake.delimited import Delimited
from zugzwang.intake.encoded_twice import example_of
from zugzwang.intake.fields import plain
from zugzwang.intake.kinds.kind import MONTH_WORDS
from zugzwang.intake.reading import Reading
from zugzwang.intake.tables import Table
from zugzwang.intake.values import COUNTED_DAY, Style, day, is_range, month_of

CUT_OFF_ROWS = (1_000, 5_000, 25_000, 50_000)  # row limits at which sources cut off exports: common practice, no source
FIRST_OF_MONTH = re.compile(r"^(?:\d{4}[-/.]?\d\d[-/.]?01|0?1[./-]\d{1,2}[./-]\d{4})(?:\D|$)")


def tells_months(table: Table, samples: Sequence[Sequence[str]], mapping: Mapping[str, int]) -> bool:
    """Whether a table's rows are monthly sums: their day is a month, or the first of one under that name."""
    cells = [row[mapping["day"]].strip() for row in samples if "day" in mapping and row[mapping["day"]].strip()]
    if not cells:
        return False
    named = plain(table.header[mapping["day"]]) in MONTH_WORDS
    return all(month_of(cell) is not None or (named and bool(FIRST_OF_MONTH.search(cell))) for cell in cells)


def counted_days(samples: Sequence[Sequence[str]], mapping: Mapping[str, int]) -> list[str]:
    """How dates written as numbers are read."""
    index = next((mapping[name] for name in ("day", "first_day", "captured") if name in mapping), None)
    found = next((row[index] for row in samples if index is not None and COUNTED_DAY.search(row[index].strip())), None)
    if found is None:
        return []
    read = pl.DataFrame({"day": [found]}).select(day(pl.DataFrame({"day": [found]}), "day", Style())).item()
    return [f"Its days are numbers, as in spreadsheets: “{found}” is read as {read}."] if read else []


def encoded_twice(table: Table, samples: Sequence[Sequence[str]]) -> list[str]:
    """A warning that a file's text was encoded twice and cannot be repaired here."""
    found = None if isinstance(table, Delimited) else example_of(cell for row in samples for cell in row)
    remedy = "Save it as CSV to have it repaired."
    return [f"Its text seems encoded twice: “{found[0]}” is “{found[1]}”. {remedy}"] if found else []


def cut_off(reading: Reading) -> list[str]:
    """A warning about a table with exactly its source's maximum of rows."""
    rows = reading.read - reading.blank - reading.totals
    if reading.source != "search" or rows not in CUT_OFF_ROWS:
        return []
    return [f"It has exactly {rows:,} rows: its source probably cut it off there."]


def ranges(samples: Sequence[Sequence[str]], mapping: Mapping[str, int]) -> list[str]:
    """How ranges of search volume are read."""
    index = mapping.get("searches")
    values = [row[index] for row in samples if index is not None and index < len(row)]
    rows = pl.Series("value", values, dtype=pl.String).to_frame().filter(is_range(pl.col("value")))["value"]
    return (
        [f"Search volumes given as a range, such as “{rows[0]}”, are taken as its geometric mean and marked as rough."]
        if len(rows)
        else []
    )


MONTHLY = "Its rows are monthly totals; each month is saved as a span."
RANKS_ALONE = (
    "It tells positions of queries without clicks and impressions, as rank tracking does: these are not used. "
    "Search volumes in it can be loaded as such."
)


def months(rows: pl.DataFrame) -> list[str]:
    """A remark on monthly rows (`first`, `last`)."""
    last: date = rows["last"].max()  # type: ignore[assignment]
    is_over = last < timezone.localdate()
    return [] if is_over else [f"The month that ends on {last} is not over; its rows are loaded as a full month."]
