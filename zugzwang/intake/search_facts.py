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
TEXT_MAX_BYTES = 4_000
_load_numbers = count()


@dataclass(frozen=True)
class Check:
    """What makes a row bad, in terms of the typed columns, and what its owner can do about it."""

    field: str
    bad: pl.Expr
    message: str
    remedy: str
    of_text: bool = False  # holds for a text wherever it stands


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
        Check("page", pl.col("page").is_null(), "the page is missing", "Give every row its page."),
        Check("query", pl.col("query").is_null(), "the query is missing", "Give every row its query."),
    ]
    for name in ("page", "query"):
        raw = pl.col(name).cast(pl.String)
        not_utf8, two_lines = (raw.str.contains(part, literal=True) for part in (NOT_UTF8, "\n"))
        too_long = raw.str.len_bytes() > TEXT_MAX_BYTES
        many = f"the text is longer than {TEXT_MAX_BYTES:,} bytes"
        checks += [
            Check(name, not_utf8, "the text is not UTF-8", "Save the file as CSV (UTF-8).", of_text=True),
            Check(name, two_lines, "the text runs over a line's end", "Close the quote that stays open.", of_text=True),
            Check(name, too_long, many, "Look for a quote that stays open.", of_text=True),
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

    texts_sound: bool = True
    stripping: bool = False
    texts_seen: dict[str, int] = field(default_factory=lambda: {"page": -1, "query": -1})

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
        # With a share of files from spreadsheets, blank lines stand below or between the rows.
        rows = batch.filter(~pl.all_horizontal(pl.col(cells).is_null()))
        fields = {name: pl.col(column(index)) for name, index in self.mapping.items()}
        typed = rows.select(
            ROW,
            OVERFLOW,
            _text(fields["page"], self.stripping).cast(self.pages).alias("page"),
            _text(fields["query"], self.stripping).cast(self.queries).alias("query"),
            _day(rows, fields["day"]).alias("day"),
            _whole(rows, fields["clicks"]).alias("clicks"),
            _whole(rows, fields["impressions"]).alias("impressions"),
            _real(rows, fields["position"]).alias("position"),
            *([_ctr(fields["ctr"]).alias("ctr")] if "ctr" in fields else []),
        )
        if not self._look_at_new_texts(typed):
            self._take(batch)
            return
        self.rows += batch.height
        self.blank += batch.height - rows.height
        failed = self._failed(typed)
        good = typed
        if failed.null_count() < failed.len():
            refused = rows.with_columns(failed=failed).filter(pl.col("failed").is_not_null())
            self.refused.append(refused.select(ROW, "failed", *cells, OVERFLOW))
            good = typed.filter(failed.is_null())
        if "ctr" in fields:
            self._check_ctr(good)
        shown = good.filter(pl.col("impressions") > 0)
        self.never_shown += good.height - shown.height
        self.facts.append(shown.select("day", "page", "query", pl.col("clicks", "impressions").cast(pl.UInt32), "position"))

    def _failed(self, typed: pl.DataFrame) -> pl.Series:
        """The number of the first check that each row fails; null where it fails none."""
        checks = {number: check.bad for number, check in enumerate(CHECKS) if not (check.of_text and self.texts_sound)}
        if not typed.select(pl.any_horizontal(*checks.values()).any()).item():
            return pl.Series("failed", [None], dtype=pl.UInt8).new_from_index(0, typed.height)
        first = (pl.when(bad).then(pl.lit(number, dtype=pl.UInt8)) for number, bad in checks.items())
        return typed.select(failed=pl.coalesce(*first))["failed"]

    def _look_at_new_texts(self, typed: pl.DataFrame) -> bool:
        """Learn from the texts that came with these rows whether any is bad, or has blanks around it. False: the rows must
        be taken again, with blanks stripped. Texts repeat and are numbered as they come, so that looking at the new numbers
        alone is looking at each text once."""
        for name in ("page", "query"):
            last = typed.select(pl.col(name).to_physical().max()).item()
            seen, self.texts_seen[name] = self.texts_seen[name], max(self.texts_seen[name], -1 if last is None else last)
            codes = pl.Series(name, range(seen + 1, self.texts_seen[name] + 1), dtype=pl.UInt32)
            new = codes.cat.to(typed.schema[name]).cast(pl.String).to_frame()
            if not self.stripping and new.select((pl.col(name).str.strip_chars() != pl.col(name)).any()).item():
                self.stripping = True
                return False
            bad = pl.any_horizontal(check.bad for check in CHECKS if check.of_text and check.field == name)
            self.texts_sound = self.texts_sound and not new.select(bad.any()).item()
        return True

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


def _text(text: pl.Expr, stripping: bool) -> pl.Expr:
    """The text, null where it is empty. Most files have no blanks around it, and stripping costs a tenth of the load."""
    text = text.str.strip_chars() if stripping else text
    return pl.when(text != "").then(text)


# Numbers and days are read as they stand; only where that fails for some are blanks and other ways of writing tried.


def _day(rows: pl.DataFrame, text: pl.Expr) -> pl.Expr:
    usual = text.str.to_date(DAY_FORMATS[0], strict=False)
    if rows.select(usual.null_count()).item() == 0:
        return usual
    return pl.coalesce(*(text.str.strip_chars().str.to_date(form, strict=False) for form in DAY_FORMATS))


def _whole(rows: pl.DataFrame, text: pl.Expr) -> pl.Expr:
    """A whole number, also when written as 12.0; null when it is none."""
    usual = text.cast(pl.Int64, strict=False)
    if rows.select(usual.null_count()).item() == 0:
        return usual
    bare = text.str.strip_chars()
    real = bare.cast(pl.Float64, strict=False)
    whole = pl.when(real == real.floor()).then(real.cast(pl.Int64, strict=False))
    return pl.coalesce(bare.cast(pl.Int64, strict=False), whole)


def _real(rows: pl.DataFrame, text: pl.Expr) -> pl.Expr:
    usual = text.cast(pl.Float64, strict=False)
    if rows.select(usual.null_count()).item() == 0:
        return usual
    return text.str.strip_chars().cast(pl.Float64, strict=False)


def _ctr(text: pl.Expr) -> pl.Expr:
    """A CTR written as 3.4 %, 3.4% or 0.034, as 0…1; null when it is neither."""
    text = text.str.strip_chars()
    percent = text.str.strip_suffix("%").str.strip_chars().cast(pl.Float64, strict=False) / 100
    return pl.when(text.str.ends_with("%")).then(percent).otherwise(text.cast(pl.Float64, strict=False))


def first_rows(table: Table, rows: int) -> Iterator[list[str]]:
    """The first rows as they stand in the file."""
    cells = [column(index) for index in range(len(table.header))]
    for batch in batches(table):
        for row in batch.head(rows).select(cells).iter_rows():
            yield [cell or "" for cell in row]
        return
