"""Rows of a file turned into search facts, each one checked; the good and the refused told apart.

A row is refused for the first of `checks` that it fails. Nothing is repaired by guessing.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from datetime import date
from itertools import count

import polars as pl

from zugzwang.errors import Problem
from zugzwang.intake.delimited import NOT_UTF8, OVERFLOW, ROW, Table, batches, column

DAY_FORMATS = ("%Y-%m-%d", "%Y%m%d", "%Y/%m/%d", "%d.%m.%Y")
FIRST_DAY_POSSIBLE = date(1995, 1, 1)
COUNT_MAX = 2**32 - 1
CTR_TOLERANCE = 0.0006  # a CTR written as 3.4 % or 0.034 is off by up to half of 0.1 %
TEXT_MAX_CHARACTERS = 4_000
_load_numbers = count()


@dataclass(frozen=True)
class Check:
    """What makes a row bad, in terms of the typed and raw columns, and what its owner can do about it."""

    field: str
    bad: pl.Expr
    message: str
    remedy: str


def _checks() -> list[Check]:
    day, clicks, impressions, position = (pl.col(name) for name in ("day", "clicks", "impressions", "position"))
    shown = impressions > 0
    number = "Write a whole number without signs or letters."
    checks = [
        Check(
            "",
            pl.col(OVERFLOW).is_not_null(),
            "more fields than the header has",
            "Put quotes around text with a delimiter in it.",
        ),
        Check("day", day.is_null() | (day < FIRST_DAY_POSSIBLE), "this is no date", "Write the day as 2026-11-15."),
        Check("page", pl.col("raw_page").is_null(), "the page is missing", "Give every row its page."),
        Check("query", pl.col("raw_query").is_null(), "the query is missing", "Give every row its query."),
    ]
    for name in ("page", "query"):
        raw = pl.col(f"raw_{name}")
        bad_text = raw.str.contains(NOT_UTF8, literal=True)
        too_long = raw.str.len_bytes() > TEXT_MAX_CHARACTERS
        checks += [
            Check(name, bad_text, "the text is not UTF-8", "Save the file as CSV (UTF-8)."),
            Check(
                name,
                raw.str.contains("\n", literal=True),
                "the text runs over a line's end",
                "Close the quote that stays open.",
            ),
            Check(
                name, too_long, f"the text is longer than {TEXT_MAX_CHARACTERS:,} bytes", "Look for a quote that stays open."
            ),
        ]
    for name, value in (("clicks", clicks), ("impressions", impressions)):
        checks += [
            Check(name, value.is_null(), f"{name} is no whole number", number),
            Check(name, value < 0, f"{name} is negative", "Counts start at 0."),
            Check(name, value > COUNT_MAX, f"{name} is larger than can be", f"At most {COUNT_MAX:,}."),
        ]
    return [
        *checks,
        Check("clicks", clicks > impressions, "more clicks than impressions", "Look whether two columns are swapped."),
        Check("position", shown & (position.is_null() | ~position.is_finite()), "position is no number", "Write it as 7.4."),
        Check("position", shown & (position < 1), "position is below 1", "The first place is 1; look for a shifted column."),
    ]


CHECKS = _checks()


@dataclass
class Reading:
    """What a file held, as it is read. In `facts`, page and query are categories of this reading, not yet ids."""

    table: Table
    mapping: dict[str, int]
    facts: list[pl.DataFrame] = field(default_factory=list)
    refused: list[pl.DataFrame] = field(default_factory=list)
    rows: int = 0
    blank: int = 0
    never_shown: int = 0
    ctr_differs: int = 0
    ctr_differs_first: int | None = None

    def __post_init__(self) -> None:
        number = next(_load_numbers)
        self.pages = pl.Categorical(pl.Categories(f"page-{number}", "load"))
        self.queries = pl.Categorical(pl.Categories(f"query-{number}", "load"))

    def read(self, progress: Callable[[int], None]) -> None:
        """Read the whole file; `progress` hears how many rows are read."""
        for batch in batches(self.table):
            self._take(batch)
            progress(self.rows)

    def _take(self, batch: pl.DataFrame) -> None:
        cells = [column(index) for index in range(len(self.table.header))]
        self.rows += batch.height
        # With a share of files from spreadsheets, blank lines stand below or between the rows.
        rows = batch.filter(~pl.all_horizontal(pl.col(cells).is_null()))
        self.blank += batch.height - rows.height
        fields = {name: _stripped(rows, column(index)) for name, index in self.mapping.items()}
        typed = rows.select(
            ROW,
            OVERFLOW,
            _non_empty(fields["page"]).alias("raw_page"),
            _non_empty(fields["query"]).alias("raw_query"),
            _day(rows, fields["day"]).alias("day"),
            _whole(rows, fields["clicks"]).alias("clicks"),
            _whole(rows, fields["impressions"]).alias("impressions"),
            fields["position"].cast(pl.Float64, strict=False).alias("position"),
            *([_ctr(fields["ctr"]).alias("ctr")] if "ctr" in fields else []),
        )
        failed = pl.coalesce(*(pl.when(check.bad).then(pl.lit(number, dtype=pl.UInt8)) for number, check in enumerate(CHECKS)))
        typed = typed.with_columns(failed=failed)
        self._keep_refused(rows, typed, cells)
        good = typed.filter(pl.col("failed").is_null())
        if "ctr" in fields:
            self._check_ctr(good)
        shown = good.filter(pl.col("impressions") > 0)
        self.never_shown += good.height - shown.height
        self.facts.append(
            shown.select(
                "day",
                pl.col("raw_page").cast(self.pages).alias("page"),
                pl.col("raw_query").cast(self.queries).alias("query"),
                pl.col("clicks", "impressions").cast(pl.UInt32),
                "position",
            )
        )

    def _keep_refused(self, rows: pl.DataFrame, typed: pl.DataFrame, cells: list[str]) -> None:
        if typed["failed"].null_count() < typed.height:
            refused = rows.with_columns(failed=typed["failed"]).filter(pl.col("failed").is_not_null())
            self.refused.append(refused.select(ROW, "failed", *cells, OVERFLOW))

    def _check_ctr(self, good: pl.DataFrame) -> None:
        told = good.filter(pl.col("impressions") > 0, pl.col("ctr").is_not_null())
        differs = told.filter((pl.col("ctr") - pl.col("clicks") / pl.col("impressions")).abs() > CTR_TOLERANCE)
        self.ctr_differs += differs.height
        if differs.height and self.ctr_differs_first is None:
            self.ctr_differs_first = differs[ROW][0]

    def all_refused(self) -> pl.DataFrame:
        """Every refused row: `row`, `failed` (index in CHECKS), its cells."""
        return pl.concat(self.refused) if self.refused else pl.DataFrame({ROW: [], "failed": []})

    def problem(self, refused_row: dict[str, object], line: int | None) -> Problem:
        """What is wrong with a refused row, in words."""
        check = CHECKS[int(str(refused_row["failed"]))]
        index = self.mapping.get(check.field)
        name = self.table.header[index] if index is not None else ""
        value = refused_row[column(index)] if index is not None else refused_row[OVERFLOW]
        return Problem(line, name, str(value if value is not None else "")[:80], check.message, check.remedy)


def _non_empty(text: pl.Expr) -> pl.Expr:
    return pl.when(text != "").then(text)


def _day(rows: pl.DataFrame, text: pl.Expr) -> pl.Expr:
    """The day in the first of the formats that fits; the usual one alone where it fits all, for speed."""
    usual = text.str.to_date(DAY_FORMATS[0], strict=False)
    if rows.select(usual.null_count()).item() == 0:
        return usual
    return pl.coalesce(usual, *(text.str.to_date(form, strict=False) for form in DAY_FORMATS[1:]))


def _whole(rows: pl.DataFrame, text: pl.Expr) -> pl.Expr:
    """A whole number, also when written as 12.0; null when it is none."""
    usual = text.cast(pl.Int64, strict=False)
    if rows.select(usual.null_count()).item() == 0:
        return usual
    real = text.cast(pl.Float64, strict=False)
    return pl.coalesce(usual, pl.when(real == real.floor()).then(real.cast(pl.Int64, strict=False)))


def _stripped(rows: pl.DataFrame, name: str) -> pl.Expr:
    """The text of a column without blanks around it. Most files have none, and stripping costs a tenth of the load."""
    text = pl.col(name)
    around = text.str.starts_with(" ") | text.str.ends_with(" ")
    return text.str.strip_chars() if rows.select(around.any()).item() else text


def _ctr(text: pl.Expr) -> pl.Expr:
    """A CTR written as 3.4 %, 3.4% or 0.034, as 0…1; null when it is neither."""
    percent = text.str.strip_suffix("%").str.strip_chars().cast(pl.Float64, strict=False) / 100
    return pl.when(text.str.ends_with("%")).then(percent).otherwise(text.cast(pl.Float64, strict=False))


def first_rows(table: Table, rows: int) -> Iterator[list[str]]:
    """The first rows as they stand in the file."""
    cells = [column(index) for index in range(len(table.header))]
    for batch in batches(table):
        for row in batch.head(rows).select(cells).iter_rows():
            yield [cell or "" for cell in row]
        return
