"""The rows of a table read as one source's fields and checked; good and refused rows separated."""

from collections.abc import Callable
from dataclasses import dataclass, field
from itertools import chain, count

import polars as pl

from zugzwang.core.facts.grains import Source
from zugzwang.errors import Problem
from zugzwang.intake import values
from zugzwang.intake.checks import HAS_VALUE, NAMES, checks_for
from zugzwang.intake.fields import field_of
from zugzwang.intake.kinds import KINDS
from zugzwang.intake.kinds.kind import ROW, Check, Field
from zugzwang.intake.tables import OVERFLOW, Choices, Table, column
from zugzwang.intake.values import Style

SAMPLE_ROWS = 2_000
# Names of a table's row of sums or means, in the languages of header words.
TOTAL = (
    r"^(?:all|overall|gesamt|total general|averages?|mean|durchschnitt|mittelwert|moyenne|media|promedio|gemiddelde|"
    r"(?:sub-?|grand )?total(?:s|e|en)?|sum|(?:gesamt|zwischen)?summe|somme|suma|somma|totaal)"
    r"(?: (?:for|of|over|from|für|aus|de|di|van) .{1,40})?:?$"
)
_load_numbers = count()


@dataclass
class Reading:
    """The result of reading a table.

    In `rows`, each field of the mapping has a typed column; page and query are categories of this reading, not ids yet.
    """

    table: Table
    source: Source
    mapping: dict[str, int]
    style: Style
    rows: list[pl.DataFrame] = field(default_factory=list)
    refused: list[pl.DataFrame] = field(default_factory=list)
    read: int = 0
    blank: int = 0
    totals: int = 0

    texts_sound: bool = True
    stripping: bool = False
    texts_seen: dict[str, int] = field(default_factory=lambda: dict.fromkeys(NAMES, -1))

    def __post_init__(self) -> None:
        number = next(_load_numbers)
        self.categories = {name: pl.Categorical(pl.Categories(f"{name}-{number}", "load")) for name in NAMES}
        self.checks = checks_for(self.source, set(self.mapping))
        self.fields = [entry for entry in KINDS[self.source].fields if entry.name in self.mapping]

    def read_all(self, progress: Callable[[int], None]) -> None:
        """Read the whole table; `progress` gets the number of rows read."""
        for batch in self.table.batches():
            self._take(batch)
            progress(self.read)

    def _take(self, batch: pl.DataFrame) -> None:
        cells = [column(index) for index in range(len(self.table.header))]
        # Files from spreadsheets often have blank lines below or between rows.
        rows = batch.filter(~pl.all_horizontal(pl.col(cells).is_null()))
        typed = rows.select(ROW, OVERFLOW, *(piece for entry in self.fields for piece in self._typed(entry, rows)))
        if not self._look_at_new_texts(typed):
            self._take(batch)
            return
        self.read += batch.height
        self.blank += batch.height - rows.height
        failed = self._failed(typed)
        good = typed
        if failed.null_count() < failed.len():
            bad = rows.with_columns(failed=failed).filter(pl.col("failed").is_not_null())
            is_total = self._is_total(bad)
            self.totals += int(is_total.sum())
            self.refused.append(bad.filter(~is_total).select(ROW, "failed", pl.col(cells).cast(pl.String), OVERFLOW))
            good = typed.filter(failed.is_null())
        self.rows.append(good.drop(OVERFLOW, *(name for name in good.columns if name.startswith(HAS_VALUE))))

    def _typed(self, current: Field, rows: pl.DataFrame) -> list[pl.Expr]:
        name = column(self.mapping[current.name])
        raw, style = pl.col(name), self.style.of(current.name)
        readers: dict[str, Callable[[], pl.Expr]] = {
            "day": lambda: values.day(rows, name, style),
            "whole": lambda: values.whole(rows, name, style),
            "real": lambda: values.real(rows, name, style),
            "share": lambda: values.share(rows, name, style),
            "volume": lambda: values.volume(rows, name, style),
            "status": lambda: values.status(rows, name, style),
            "yes": lambda: values.yes(raw),
            "placement": lambda: values.placement(raw),
            "device": lambda: values.device(raw),
            "country": lambda: values.country(raw),
            "channel": lambda: values.channel(raw),
        }
        if current.name in NAMES:
            return [self._name(raw.cast(pl.String)).cast(self.categories[current.name]).alias(current.name)]
        if current.form in ("text", "page", "query"):
            return [values.text(raw.cast(pl.String)).alias(current.name)]
        said = (
            [] if current.required and not current.may_be_empty else [values.is_said(raw).alias(f"{HAS_VALUE}{current.name}")]
        )
        rough = [values.is_range(raw).alias("rough")] if (self.source, current.name) == ("volumes", "searches") else []
        return [readers[current.form]().alias(current.name), *rough, *said]

    def _name(self, raw: pl.Expr) -> pl.Expr:
        """The text, null where it is empty. Most files have no spaces around texts, and stripping takes a tenth of the load."""
        raw = raw.str.strip_chars() if self.stripping else raw
        return pl.when(raw != "").then(raw)

    def _failed(self, typed: pl.DataFrame) -> pl.Series:
        """The index of the first check that each row fails; null where it fails none."""
        current = {number: check.bad for number, check in enumerate(self.checks) if not (check.of_text and self.texts_sound)}
        if not typed.select(pl.any_horizontal(*current.values()).any()).item():
            return pl.Series("failed", [None], dtype=pl.UInt8).new_from_index(0, typed.height)
        first = (pl.when(bad).then(pl.lit(number, dtype=pl.UInt8)) for number, bad in current.items())
        return typed.select(failed=pl.coalesce(*first))["failed"]

    def _is_total(self, bad: pl.DataFrame) -> pl.Series:
        """Which bad rows are sums of the others: they lack a day or a name, and one of their words is "total", or they have no
        words.
        """
        number_of_first = {
            name: index
            for index, check in reversed([*enumerate(self.checks)])
            if (name := check.field) in ("day", "first_day", *NAMES)
        }
        lacking = pl.col("failed").is_in(list(number_of_first.values()))
        words = [
            pl.col(column(index)).cast(pl.String).str.strip_chars().str.to_lowercase()
            for index in range(len(self.table.header))
        ]
        is_sum = pl.any_horizontal(*(word.str.contains(TOTAL) for word in words))
        # A row with only numbers has no day and no page: a sum without a label.
        of_names = [self.mapping[name] for name in number_of_first if name in self.mapping]
        named = [pl.col(column(index)).cast(pl.String).fill_null("") for index in of_names]
        is_bare = pl.all_horizontal(
            *(word.fill_null("").str.contains(r"^[^\p{L}]*$") for word in words),
            *(name.str.strip_chars() == "" for name in named),
        )
        return bad.select((lacking & (is_sum | is_bare)).fill_null(False).alias("total"))["total"]

    def _look_at_new_texts(self, typed: pl.DataFrame) -> bool:
        """Check the texts that first appear in these rows. Returns False where they have spaces around them: the rows must
        then be read again, stripped. Texts repeat and are numbered as they arrive, so checking new numbers checks each text
        once.
        """
        for name in set(NAMES) & set(typed.columns):
            last = typed.select(pl.col(name).to_physical().max()).item()
            seen, self.texts_seen[name] = self.texts_seen[name], max(self.texts_seen[name], -1 if last is None else last)
            codes = pl.Series(name, range(seen + 1, self.texts_seen[name] + 1), dtype=pl.UInt32)
            new = codes.cat.to(typed.schema[name]).cast(pl.String).to_frame()
            if not self.stripping and new.select((pl.col(name).str.strip_chars() != pl.col(name)).any()).item():
                self.stripping = True
                return False
            bad = pl.any_horizontal(check.bad for check in self.checks if check.of_text and check.field == name)
            self.texts_sound = self.texts_sound and not new.select(bad.any()).item()
        return True

    def good(self) -> pl.DataFrame:
        """Every good row: `row`, and a typed column for each field of the table."""
        return pl.concat(self.rows) if self.rows else pl.DataFrame({ROW: []})

    def all_refused(self) -> pl.DataFrame:
        """Every refused row: `row`, `failed` (index in `checks`), its cells."""
        return pl.concat(self.refused) if self.refused else pl.DataFrame({ROW: [], "failed": []})

    def problem(self, refused_row: dict[str, object], line: int | None) -> Problem:
        """What is wrong with a refused row, in words."""
        check: Check = self.checks[int(str(refused_row["failed"]))]
        index = self.mapping.get(check.field.partition("+")[0])
        name = self.table.header[index] if index is not None else ""
        value = refused_row[column(index)] if index is not None else refused_row[OVERFLOW]
        return Problem(line, name, str(value if value is not None else "")[:80], check.message, check.remedy)


def style_for(
    table: Table, source: Source, mapping: dict[str, int], choices: Choices, samples: list[list[str]] | None = None
) -> Style:
    """How the table writes numbers and days, from its first rows, or as chosen."""
    samples = table.first_rows(SAMPLE_ROWS) if samples is None else samples

    def of_form(*forms: str) -> dict[str, list[str]]:
        columns = {name: index for name, index in mapping.items() if field_of(source, name).form in forms}
        return {name: [row[index] for row in samples if index < len(row)] for name, index in columns.items()}

    numbers = of_form("whole", "real", "share")
    shown = values.style_of(chain(*numbers.values()), chain(*of_form("day").values()))
    decimal = choices.decimal if choices.decimal in (".", ",") else shown.decimal
    order = choices.day_order if choices.day_order in ("day first", "month first") else shown.day_order
    own = {} if choices.decimal else {name: values.decimal_of(entry) for name, entry in numbers.items()}
    return Style(decimal, order, tuple((name, sign) for name, sign in own.items() if sign))  # type: ignore[arg-type]
