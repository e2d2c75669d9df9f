"""A file as a table: its header, its rows in batches, and the line of each row.

Every format becomes the same: columns `row` (counted from 0 below the header, including blank ones), `c0` … `cN` and
`overflow` (the first surplus field; null without one). Delimited text gives text; formats with types give numbers and days.
"""

from abc import ABC, abstractmethod
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

import polars as pl

from zugzwang.core.facts.periods import Period
from zugzwang.errors import FileRefused, Problem, Refusals
from zugzwang.intake.fields import plain
from zugzwang.intake.kinds import KINDS
from zugzwang.intake.kinds.kind import ROW

BATCH_ROWS = 400_000
OVERFLOW = "overflow"
HEADER_WITHIN_ROWS = 30
_WORDS = frozenset(word for kind in KINDS.values() for field in kind.fields for word in field.every_word)


def column(index: int) -> str:
    return f"c{index}"


def refuse(name: str, message: str, remedy: str, line: int | None = None, column: str = "", value: str = "") -> FileRefused:
    """Refuse the whole file for one reason."""
    problem = Problem(line, column, value, message, remedy)
    return FileRefused(name, Refusals(first=[problem], counts={message: 1}))


Repeats = Literal["once", "each"]


@dataclass(frozen=True)
class Choices:
    """A person's choices where a file is ambiguous; None: as suggested."""

    sheet: str | None = None
    encoding: str | None = None
    header_line: int | None = None
    decimal: str | None = None
    day_order: str | None = None
    channel: str | None = None  # for all visits in a file without channels
    span: Period | None = None  # the days that a table without days covers
    any_host: bool = False  # all hosts belong to this site
    repeats: Repeats | None = None  # how exact duplicates of a row count


@dataclass
class Table(ABC):
    """One table of one file. `name`: its name for the owner; `line` of the header counts from 1."""

    path: Path
    name: str
    header: list[str]
    header_line: int
    rows_about: int
    notices: list[str]
    sheets: list[str]  # of a workbook, for choosing
    sheet: str | None
    encoding: str | None  # of text
    # A row's name for people: a line of text, a row of a sheet, a record of a data file.
    unit = "line"

    @property
    def above(self) -> list[str]:
        """The lines above the header."""
        return []

    @abstractmethod
    def batches(self) -> Iterator[pl.DataFrame]:
        """The rows below the header, in order."""

    @abstractmethod
    def lines_of(self, records: Sequence[int]) -> dict[int, int]:
        """The line on which each row (numbered from 0) starts."""

    def first_rows(self, rows: int) -> list[list[str]]:
        """The first non-empty rows, as text."""
        cells = [column(index) for index in range(len(self.header))]
        for batch in self.batches():
            frame = batch.head(10 * rows).filter(~pl.all_horizontal(pl.col(cells).is_null()))
            return [[cell or "" for cell in row] for row in frame.select(pl.col(cells).cast(pl.String)).head(rows).iter_rows()]
        return []


@dataclass
class CellTable(Table):
    """A table with its cells in memory: a sheet, a calendar."""

    cells: list[list[str]] = field(default_factory=list)
    unit = "row"

    @property
    def above(self) -> list[str]:
        return [" ".join(row) for row in self.cells[: max(self.header_line - 1, 0)]]

    def batches(self) -> Iterator[pl.DataFrame]:
        width = len(self.header)
        schema = pl.Schema(
            {ROW: pl.UInt32(), **dict.fromkeys([*(column(index) for index in range(width)), OVERFLOW], pl.String())}
        )
        below = self.cells[self.header_line :]
        for start in range(0, len(below), BATCH_ROWS):
            rows = []
            for number, cells in enumerate(below[start : start + BATCH_ROWS], start=start):
                texts = [cell or None for cell in cells]
                more = next((text for text in texts[width:] if text), None)
                rows.append((number, *texts[:width], *[None] * (width - len(texts)), more))
            yield pl.DataFrame(rows, schema=schema, orient="row")

    def lines_of(self, records: Sequence[int]) -> dict[int, int]:
        return {record: record + self.header_line + 1 for record in records}


def find_header(rows: Sequence[Sequence[str]]) -> int | None:
    """Which of the first rows is the header: the one with the most header words, otherwise the first with as many cells as
    most rows; None where most rows have fewer than two.
    """
    looked_at = rows[:HEADER_WITHIN_ROWS]
    words = [sum(plain(cell) in _WORDS for cell in row) for row in looked_at]
    if words and max(words) >= 2:
        return words.index(max(words))
    cells = [sum(bool(cell.strip()) for cell in row) for row in looked_at]
    usual = max({count for count in cells if count > 1}, key=cells.count, default=None)
    return None if usual is None else next(index for index, count in enumerate(cells) if count >= usual)
