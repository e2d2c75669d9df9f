"""Lists as files. Cells that a spreadsheet would take for a formula are written as text."""

import io
import json
import math
import re
from collections.abc import Iterator, Mapping
from datetime import date
from typing import Any

import polars as pl
import xlsxwriter

# Spreadsheets of some languages treat fullwidth characters as their normal forms.
FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r", "＝", "＋", "－", "＠")
_FORMULA = "^[" + "".join(re.escape(sign) for sign in FORMULA_STARTS) + "]"
BATCH_ROWS = 5_000
CELL_MAX = 32_767  # maximum characters of a workbook's cell


def safe_cell(text: str) -> str:
    """The text, with an apostrophe before a character that would make it a formula."""
    return f"'{text}" if text.startswith(FORMULA_STARTS) else text


def as_table(rows: pl.DataFrame) -> pl.DataFrame:
    """Rows as cells: lists and objects as JSON within a cell; times without their zone (UTC), which workbooks do not
    support."""
    result = []
    for entry in rows.iter_columns():
        if isinstance(entry.dtype, pl.List | pl.Struct | pl.Object):
            cells = [None if cell is None else json.dumps(cell, ensure_ascii=False, default=str) for cell in entry.to_list()]
            entry = pl.Series(entry.name, cells, dtype=pl.String)
        elif isinstance(entry.dtype, pl.Enum):
            entry = entry.cast(pl.String)
        elif isinstance(entry.dtype, pl.Datetime):
            entry = entry.dt.replace_time_zone(None).dt.truncate("1s")
        result.append(entry)
    return pl.DataFrame(result)


def csv_lines(rows: pl.DataFrame, made_by: Mapping[str, Any] | None = None) -> Iterator[str]:
    """CSV (RFC 4180, UTF-8) in pieces.

    `made_by`, the description of the list, is in a last column on the first row: inside the file, without disturbing
    readers.
    """
    if made_by is not None:
        note = json.dumps(made_by, ensure_ascii=False)
        rows = rows.with_columns(filters=pl.when(pl.int_range(pl.len()) == 0).then(pl.lit(note)))
    text = [name for name, kind in rows.schema.items() if kind == pl.String]
    safe = rows.with_columns(
        pl.when(pl.col(name).str.contains(_FORMULA)).then(pl.concat_str(pl.lit("'"), name)).otherwise(name).alias(name)
        for name in text
    )
    yield safe.clear().write_csv(line_terminator="\r\n")
    for part in safe.iter_slices(BATCH_ROWS):
        yield part.write_csv(include_header=False, line_terminator="\r\n")


def xlsx_file(rows: pl.DataFrame, made_by: Mapping[str, Any]) -> bytes:
    """A workbook: the rows on one sheet, their description on another. Text is always written as text, never as a formula."""
    file = io.BytesIO()
    with xlsxwriter.Workbook(file, {"strings_to_formulas": False, "strings_to_urls": False, "in_memory": True}) as workbook:
        bold = workbook.add_format({"bold": True})
        day = workbook.add_format({"num_format": "yyyy-mm-dd"})
        sheet = workbook.add_worksheet("Rows")
        sheet.freeze_panes(1, 0)
        sheet.write_row(0, 0, rows.columns, bold)
        for column, name in enumerate(rows.columns):
            sheet.set_column(column, column, 48 if rows.schema[name] == pl.String else 14)
            for number, cell in enumerate(rows[name].to_list(), start=1):
                _write_cell(sheet, number, column, cell, day)
        if rows.height and rows.width:
            sheet.autofilter(0, 0, rows.height, rows.width - 1)
        about = workbook.add_worksheet("About")
        about.set_column(0, 0, 24)
        about.set_column(1, 1, 100)
        for number, (name, value) in enumerate(made_by.items()):
            about.write_string(number, 0, name, bold)
            about.write_string(number, 1, value if isinstance(value, str) else json.dumps(value, ensure_ascii=False))
    return file.getvalue()


def _write_cell(sheet: Any, number: int, column: int, cell: object, day: Any) -> None:
    if cell is None or (isinstance(cell, float) and not math.isfinite(cell)):
        return
    if isinstance(cell, bool):
        sheet.write_boolean(number, column, cell)
    elif isinstance(cell, int | float):
        sheet.write_number(number, column, cell)
    elif isinstance(cell, date):
        sheet.write_datetime(number, column, cell, day)
    else:
        sheet.write_string(number, column, str(cell)[:CELL_MAX])


def json_of(found: Mapping[str, Any]) -> str:
    """An answer as JSON, with its frame of rows as objects."""
    rows = {name: value.to_dicts() if isinstance(value, pl.DataFrame) else value for name, value in found.items()}
    return json.dumps(rows, ensure_ascii=False, allow_nan=False, default=str)
