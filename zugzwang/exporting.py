"""Lists as files. Cells that a spreadsheet would take for a formula are written as text."""

import json
from collections.abc import Iterator, Mapping
from typing import Any

import polars as pl

FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")
BATCH_ROWS = 5_000


def safe_cell(text: str) -> str:
    """The text, with an apostrophe before a sign that would make it a formula."""
    return f"'{text}" if text.startswith(FORMULA_STARTS) else text


def csv_lines(rows: pl.DataFrame, made_by: Mapping[str, Any] | None = None) -> Iterator[str]:
    """CSV (RFC 4180, UTF-8) in pieces.

    `made_by`, what made the list, stands in a last column on the first row: inside the file, and in no reader's way.
    """
    if made_by is not None:
        note = json.dumps(made_by, ensure_ascii=False)
        rows = rows.with_columns(filters=pl.when(pl.int_range(pl.len()) == 0).then(pl.lit(note)))
    text = [name for name, kind in rows.schema.items() if kind == pl.String]
    safe = rows.with_columns(
        pl.when(pl.col(name).str.contains(r"^[=+\-@\t\r]")).then(pl.concat_str(pl.lit("'"), name)).otherwise(name).alias(name)
        for name in text
    )
    yield safe.clear().write_csv(line_terminator="\r\n")
    for part in safe.iter_slices(BATCH_ROWS):
        yield part.write_csv(include_header=False, line_terminator="\r\n")
