"""Delimited text (RFC 4180: CSV, and the same with tabs or semicolons) as batches of rows.

Two readers give the same rows. The fast one (Polars) reads well-formed files; where it gives up – a stray quote, bytes
that are not UTF-8 – the patient one (Python's csv) reads on and leaves the bad places to be refused row by row.
"""

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import polars as pl

from zugzwang.errors import FileRefused, Problem, Refusals

BATCH_ROWS = 400_000
SAMPLE_BYTES = 262_144
OVERFLOW = "overflow"  # the column that takes the first field too many
ROW = "row"  # counts records from 0, blank lines included
NOT_UTF8 = "\ufffd"
_DELIMITERS = ",\t;|"
_SIGNATURES = {
    b"PK\x03\x04": "a spreadsheet or a ZIP archive",
    b"\xd0\xcf\x11\xe0": "an old spreadsheet or document",
    b"%PDF": "a PDF",
    b"\x1f\x8b": "compressed with gzip",
    b"PAR1": "a Parquet file",
    b"\xff\xfe": "text in UTF-16",
    b"\xfe\xff": "text in UTF-16",
}


@dataclass(frozen=True)
class Table:
    """A delimited file: where it is, what it is called to its owner, and its header."""

    path: Path
    name: str
    delimiter: str
    header: list[str]
    rows_about: int


def refuse(name: str, message: str, remedy: str, line: int | None = None, column: str = "", value: str = "") -> FileRefused:
    """The whole file is refused for one reason."""
    problem = Problem(line, column, value, message, remedy)
    return FileRefused(name, Refusals(first=[problem], counts={message: 1}))


def open_table(path: Path, name: str) -> Table:
    """Look at the beginning of a file; FileRefused when it is no delimited text with a header."""
    with path.open("rb") as file:
        sample = file.read(SAMPLE_BYTES)
    if not sample.strip():
        raise refuse(name, "the file is empty", "Export it again, with the header.")
    kind = next((kind for start, kind in _SIGNATURES.items() if sample.startswith(start)), None)
    if kind is None and b"\0" in sample:
        kind = "binary"
    if kind:
        raise refuse(name, f"the file is {kind}, not plain text", "Save or export it as CSV (UTF-8) and load that.")
    text = sample.decode("utf-8-sig", errors="replace")
    first_line = text.splitlines()[0]
    delimiter = max(_DELIMITERS, key=first_line.count)
    header = [cell.strip() for cell in next(csv.reader(io.StringIO(text), delimiter=delimiter))]
    if NOT_UTF8 in "".join(header):
        raise refuse(name, "the header is not UTF-8 text", "Save the file as CSV (UTF-8) and load that.", line=1)
    if len(header) < 2:
        raise refuse(
            name, "the first line is no header of columns", "Put the column names on line 1.", 1, value=first_line[:80]
        )
    lines = path.stat().st_size / len(sample) * sample.rstrip().count(b"\n")
    return Table(path, name, delimiter, header, round(lines))


def column(index: int) -> str:
    return f"c{index}"


def batches(table: Table) -> Iterator[pl.DataFrame]:
    """The rows below the header, in order, all as text: `row`, `c0` … `cN`, `overflow` (null where there is none)."""
    given = 0
    try:
        for batch in _fast(table):
            yield batch
            given = batch[ROW][-1] + 1
    except pl.exceptions.ComputeError:
        # Batches come in order, so what was given stands; the patient reader goes on behind it.
        yield from _patient(table, skip=given)


def _fast(table: Table) -> Iterator[pl.DataFrame]:
    # Read without a header: names in it may repeat, and what does not fit must land in a column of its own.
    numbered = {f"column_{index + 1}": column(index) for index in range(len(table.header))}
    numbered[f"column_{len(numbered) + 1}"] = OVERFLOW
    scan = pl.scan_csv(
        table.path,
        has_header=False,
        schema=dict.fromkeys(numbered, pl.String()),
        separator=table.delimiter,
        missing_columns="insert",
        truncate_ragged_lines=True,
        row_index_name=ROW,
        raise_if_empty=False,
        glob=False,
    )
    records = scan.rename(numbered).filter(pl.col(ROW) > 0).with_columns(pl.col(ROW) - 1)
    for batch in records.collect_batches(chunk_size=BATCH_ROWS):
        if batch.height:
            yield batch


def _patient(table: Table, skip: int) -> Iterator[pl.DataFrame]:
    names = [column(index) for index in range(len(table.header))] + [OVERFLOW]
    schema = pl.Schema({ROW: pl.UInt32(), **dict.fromkeys(names, pl.String())})
    held: list[tuple[object, ...]] = []
    for number, _, fields in _records(table):
        if number < skip:
            continue
        cells = [cell if cell else None for cell in fields[: len(names)]]
        held.append((number, *cells, *[None] * (len(names) - len(cells))))
        if len(held) >= BATCH_ROWS:
            yield pl.DataFrame(held, schema=schema, orient="row")
            held = []
    if held:
        yield pl.DataFrame(held, schema=schema, orient="row")


def _records(table: Table) -> Iterator[tuple[int, int, list[str]]]:
    """Record number from 0 below the header, the line of the file on which it begins, its fields."""
    with table.path.open(encoding="utf-8-sig", errors="replace", newline="") as file:
        reader = csv.reader(file, delimiter=table.delimiter)
        begins = 1
        try:
            for number, fields in enumerate(reader, start=-1):
                if number >= 0:
                    yield number, begins, fields
                begins = reader.line_num + 1
        except csv.Error as error:
            raise refuse(
                table.name, f"the text cannot be split into fields ({error})", "Look for a quote that is never closed.", begins
            ) from error


def lines_of(table: Table, records: list[int]) -> dict[int, int]:
    """The line of the file on which each of the records (numbers from 0) begins."""
    wanted, found = set(records), {}
    last = max(wanted, default=-1)
    for number, line, _ in _records(table):
        if number in wanted:
            found[number] = line
        if number >= last:
            break
    return found
