"""How numbers, days and words are written in files; a whole file is read in one way.

Most files write numbers and days in one plain way, which is tried first; other ways are tried only where it fails. Whether
`1.234` is a thousand or one and a bit, and whether 03/04 is in March or April, is decided once for each file from all its
values (`Style`), never row by row.
"""

import re
import unicodedata
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

import polars as pl

from zugzwang.core.facts.countries import country_code
from zugzwang.core.facts.grains import DEVICES, NOT_REPORTED
from zugzwang.core.facts.visits import channel_code
from zugzwang.intake.header_words import MONTHS

Decimal = Literal[".", ","]
DayOrder = Literal["day first", "month first"]

# Cells that mean "no value".
MISSING = ("", "-", "–", "—", "n/a", "na", "null", "none", "(not set)", "not set")
_DAY_FORMATS = (
    "%Y-%m-%d",
    "%Y%m%d",
    "%Y/%m/%d",
    "%d.%m.%Y",
    "%d %b %Y",
    "%d %B %Y",
    "%b %d, %Y",
    "%B %d, %Y",
    "%Y.%m.%d",
)
_MONTH_IN_NUMBERS = re.compile(
    r"(?P<year>(?:19|20)\d\d)[-/.]?(?P<month>0[1-9]|1[0-2])|(?P<month_before>0?[1-9]|1[0-2])[-/.](?P<year_behind>(?:19|20)\d\d)"
)
_MONTH_IN_WORDS = re.compile(
    r"(?P<word>[a-z]{3,10})\.?[ -](?P<year>(?:19|20)\d\d)|(?P<year_before>(?:19|20)\d\d)[ -](?P<word_behind>[a-z]{3,10})\.?"
)
# Days as numbers. Spreadsheets count days from 1899-12-30 (ECMA-376 part 1, 18.17.4.1, from memory; exact from March 1900
# on). Programs count seconds or milliseconds from 1970.
_COUNTED_FROM = date(1899, 12, 30)
_SERIAL = r"^[2-7]\d{4}(?:\.\d+)?$"  # 1954 to 2119
_EPOCH = {r"^[01]?\d{9}$": 1, r"^[01]?\d{12}$": 1_000}
COUNTED_DAY = re.compile(rf"{_SERIAL}|{'|'.join(_EPOCH)}")
_SLASHED: dict[DayOrder, tuple[str, ...]] = {
    "day first": ("%d/%m/%Y", "%d-%m-%Y", "%d/%m/%y"),
    "month first": ("%m/%d/%Y", "%m-%d-%Y", "%m/%d/%y"),
}
_SLASHED_DAY = re.compile(r"^(\d{1,2})[/-](\d{1,2})[/-](?:\d{4}|\d\d$)")
_BLANKS = r"[\s\x{00A0}\x{2009}\x{202F}']"
# Currency signs and codes next to an amount (ISO 4217 codes have three capital letters).
_CURRENCY = r"^(?:[A-Z]{3}\b|[A-Z]{0,3}\p{Sc})|(?:\b[A-Z]{3}|\p{Sc})$"
_MONEY = re.compile(r"[$€£¥₹₽₩₺₴₦]|\b[A-Z]{3}\b")
_RANGE = r"(?i)^([\d.,]+) ?([km]?) ?(?:[-–—]|to|bis) ?([\d.,]+) ?([km]?)$"
_TIMES = {"": 1.0, "k": 1e3, "m": 1e6}
_DEVICE_WORDS = {
    "desktop": r"^(desktop|computer|pc|laptop|ordinateur|ordenador|escritorio|bureau)s?$",
    "mobile": r"^(mobile|mobil|mobiel|phone|smartphone|handy|mobile phone|móvil|téléphone|telefoon|cellulare)(s|es)?$",
    "tablet": r"^(tablet|tablette|tableta)s?$",
}


@dataclass(frozen=True)
class Style:
    """How a file writes ambiguous numbers and days."""

    decimal: Decimal = "."
    day_order: DayOrder | None = None  # None: no value is decisive
    of_fields: tuple[tuple[str, Decimal], ...] = ()  # fields with their own style, whatever the others have

    def of(self, field: str) -> "Style":
        """The style of one field."""
        return Style(dict(self.of_fields).get(field, self.decimal), self.day_order)


def style_of(numbers: Iterable[str], days: Iterable[str]) -> Style:
    """The style of a file's values.

    >>> style_of(["1.234,5"], ["03/12/2026", "25/12/2026"])
    Style(decimal=',', day_order='day first')
    """
    firsts, seconds = [], []
    for day in days:
        if found := _SLASHED_DAY.match(day):
            firsts.append(int(found[1]))
            seconds.append(int(found[2]))
    order: DayOrder | None = None
    if any(first > 12 for first in firsts):
        order = "day first"
    elif any(second > 12 for second in seconds):
        order = "month first"
    return Style(decimal_of(numbers) or ".", order)


def decimal_of(numbers: Iterable[str]) -> Decimal | None:
    """The decimal separator of most numbers; None where none has decimals: "1.118" may be a thousand and more."""
    comma, point = 0, 0
    for number in numbers:
        bare = re.sub(r"[^\d.,]", "", number)
        if re.search(r",\d{1,2}$|,\d{4,}$|\.\d{3},\d*$", bare) or re.fullmatch(r"\d{1,3}(\.\d{3})+,\d+", bare):
            comma += 1
        elif re.search(r"\.\d{1,2}$|\.\d{4,}$|,\d{3}\.\d*$", bare):
            point += 1
    return None if comma == point else "," if comma > point else "."


def text(raw: pl.Expr) -> pl.Expr:
    raw = raw.str.replace_all("\0", "\ufffd", literal=True)  # no database stores it in a text
    return pl.when(raw.str.strip_chars() != "").then(raw.str.strip_chars())


def currency_of(result: Sequence[str]) -> str | None:
    """The currency sign or code of most amounts; None where most have none.

    >>> currency_of(["$1.20", "US$0.45", "0.90"])
    '$'
    """
    found = [match[0] for text in result if (match := _MONEY.search(text))]
    most = max(set(found), key=found.count, default="")
    return most if found.count(most) * 2 > len(result) else None


def _where_all_are(rows: pl.DataFrame, usual: pl.Expr) -> pl.Expr | None:
    """The values read in the plain way, where that works for all of them."""
    read = rows.select(usual).to_series()
    return pl.lit(read) if read.null_count() == 0 else None


def day(rows: pl.DataFrame, name: str, style: Style) -> pl.Expr:
    raw = pl.col(name)
    kind = rows.schema[name]
    if kind == pl.Date:
        return raw
    if isinstance(kind, pl.Datetime):
        return raw.dt.date()
    if kind != pl.String:
        raw = raw.cast(pl.String)
    usual = _where_all_are(rows, raw.str.to_date(_DAY_FORMATS[0], strict=False))
    if usual is not None:
        return usual
    bare = raw.str.strip_chars().str.replace(r"[T ]\d{1,2}:\d{2}.*$", "")
    forms = (*_DAY_FORMATS, *(_SLASHED[style.day_order] if style.day_order else ()))
    written = (bare.str.to_date(form, strict=False) for form in forms)
    # A month is stored as its first day.
    return pl.coalesce(*written, *_counted_days(bare), bare.map_batches(_months, return_dtype=pl.Date))


def month_of(result: str) -> date | None:
    """The first day of the month in a text, in any of the languages of header_words; None without a month.

    >>> month_of("2026-10"), month_of("okt. 2026"), month_of("202610"), month_of("2026-10-05")
    (datetime.date(2026, 10, 1), datetime.date(2026, 10, 1), datetime.date(2026, 10, 1), None)
    """
    plain = "".join(letter for letter in unicodedata.normalize("NFKD", result.strip().casefold()) if letter.isascii())
    if found := _MONTH_IN_NUMBERS.fullmatch(plain):
        year, month = (found["year"], found["month"]) if found["year"] else (found["year_behind"], found["month_before"])
        return date(int(year), int(month), 1)
    found = _MONTH_IN_WORDS.fullmatch(plain)
    month = MONTHS.get(found["word"] or found["word_behind"]) if found else None
    return date(int(found["year"] or found["year_before"]), month, 1) if found and month else None


def _months(rows: pl.Series) -> pl.Series:
    names = rows.drop_nulls().unique()
    firsts = pl.Series([month_of(name) for name in names.to_list()], dtype=pl.Date)
    return rows.replace_strict(names, firsts, default=None, return_dtype=pl.Date)


def _counted_days(bare: pl.Expr) -> Iterator[pl.Expr]:
    number = bare.cast(pl.Float64, strict=False)
    serial = pl.when(bare.str.contains(_SERIAL)).then(number.floor().cast(pl.Int64, strict=False))
    yield pl.lit(_COUNTED_FROM) + pl.duration(days=serial)
    for pattern, in_second in _EPOCH.items():
        seconds = pl.when(bare.str.contains(pattern)).then(number.cast(pl.Int64, strict=False) // in_second)
        yield pl.from_epoch(seconds, time_unit="s").dt.date()


def _plain_number(raw: pl.Expr, style: Style) -> pl.Expr:
    """A number as text without spaces and thousands separators, with a decimal point; unchanged where it is not a number."""
    bare = raw.str.strip_chars().str.replace(_CURRENCY, "").str.replace_all(_BLANKS, "").str.strip_suffix("%")
    group = "," if style.decimal == "." else r"\."
    grouped = bare.str.contains(rf"^[+-]?\d{{1,3}}(?:{group}\d{{3}})+(?:[.,]\d+)?$")
    bare = pl.when(grouped).then(bare.str.replace_all("," if style.decimal == "." else ".", "", literal=True)).otherwise(bare)
    return bare.str.replace(",", ".", literal=True) if style.decimal == "," else bare


def whole(rows: pl.DataFrame, name: str, style: Style) -> pl.Expr:
    """A whole number, also when written as 12.0 or 1,200; null for anything else."""
    raw, kind = pl.col(name), rows.schema[name]
    if kind.is_integer():
        return raw.cast(pl.Int64)
    if kind.is_float():
        return pl.when(raw == raw.floor()).then(raw.cast(pl.Int64, strict=False))
    usual = _where_all_are(rows, raw.cast(pl.Int64, strict=False))
    if usual is not None:
        return usual
    # A whole number has no decimals, so separators before groups of three digits are thousands separators.
    bare = raw.str.replace_all(_BLANKS, "")
    thousands = bare.str.contains(r"^[+-]?\d{1,3}(?:\.\d{3})+$|^[+-]?\d{1,3}(?:,\d{3})+$")
    as_whole = pl.when(thousands).then(bare.str.replace_all(r"[.,]", "")).otherwise(bare).cast(pl.Int64, strict=False)
    number = _plain_number(raw, style).cast(pl.Float64, strict=False)
    return pl.coalesce(as_whole, pl.when(number == number.floor()).then(number.cast(pl.Int64, strict=False)))


def real(rows: pl.DataFrame, name: str, style: Style) -> pl.Expr:
    raw = pl.col(name)
    if rows.schema[name].is_numeric():
        return raw.cast(pl.Float64)
    # With a decimal comma, points separate thousands: the slower way below handles such numbers.
    pointed = raw if style.decimal == "." else raw.str.replace(",", ".", literal=True)
    bare = pl.when(~raw.str.contains(".", literal=True)).then(pointed) if style.decimal == "," else pointed
    usual = _where_all_are(rows, bare.cast(pl.Float64, strict=False))
    if usual is not None:
        return usual
    clock = raw.str.extract_groups(r"^\s*(?:(\d+):)?(\d{1,2}):(\d{2})\s*$")
    seconds = (
        clock.struct[0].cast(pl.Float64).fill_null(0) * 3600
        + clock.struct[1].cast(pl.Float64) * 60
        + clock.struct[2].cast(pl.Float64)
    )
    return pl.coalesce(_plain_number(raw, style).cast(pl.Float64, strict=False), seconds)


def volume(rows: pl.DataFrame, name: str, style: Style) -> pl.Expr:
    """Searches a month; for a range such as "1K – 10K" the geometric mean, at the same ratio from both ends."""
    number = whole(rows, name, style)
    if rows.schema[name].is_numeric():
        return number
    text_of = pl.col(name).cast(pl.String).str.strip_chars().str.replace_all(_BLANKS, " ")
    ends = text_of.str.extract_groups(_RANGE)
    low, high = (_end(ends.struct[at], ends.struct[at + 1]) for at in (0, 2))
    alone = text_of.str.extract_groups(r"(?i)^([\d.,]+) ?([km])$")
    single = _end(alone.struct[0], alone.struct[1])
    return pl.coalesce(
        number, (low * high).sqrt().round().cast(pl.Int64, strict=False), single.round().cast(pl.Int64, strict=False)
    )


def _end(digits: pl.Expr, unit: pl.Expr) -> pl.Expr:
    # With K or M the separator is decimal ("1.5K"), otherwise it separates thousands ("1,000").
    bare = pl.when(unit == "").then(digits.str.replace_all(r"[.,]", "")).otherwise(digits.str.replace(",", ".", literal=True))
    return bare.cast(pl.Float64, strict=False) * unit.str.to_lowercase().replace_strict(_TIMES, default=None)


def is_range(raw: pl.Expr) -> pl.Expr:
    """Whether searches are a range, such as "1K – 10K"."""
    return raw.cast(pl.String).str.strip_chars().str.replace_all(_BLANKS, " ").str.contains(_RANGE)


def status(rows: pl.DataFrame, name: str, style: Style) -> pl.Expr:
    """A status code, also followed by its name ("301 Moved Permanently"); null without a response."""
    number = whole(rows, name, style)
    if rows.schema[name].is_numeric():
        return number
    frame = pl.col(name).cast(pl.String).str.extract(r"^\s*(\d{3})\b").cast(pl.Int64, strict=False)
    return pl.coalesce(number, frame)


def share(rows: pl.DataFrame, name: str, style: Style) -> pl.Expr:
    """A share written as 3.4 %, 3,4% or 0.034, as 0…1; null for anything else."""
    number = real(rows, name, style)
    if rows.schema[name].is_numeric():
        return number
    return pl.when(pl.col(name).str.strip_chars().str.ends_with("%")).then(number / 100).otherwise(number)


def yes(raw: pl.Expr) -> pl.Expr:
    """True or false as files write them; null for anything else."""
    words = raw.cast(pl.String).str.strip_chars().str.to_lowercase()
    not_followed = ["false", "no", "0", "nofollow", "not followed", "ugc", "sponsored"]
    return (
        pl.when(words.is_in(["true", "yes", "1", "follow", "followed", "dofollow"]))
        .then(True)
        .when(words.is_in(not_followed) | words.str.contains(r"\b(nofollow|ugc|sponsored)\b"))
        .then(False)
    )


def placement(raw: pl.Expr) -> pl.Expr:
    """Whether a link is in the body of its page; null where a file does not say."""
    words = raw.cast(pl.String).str.strip_chars().str.to_lowercase()
    extras = words.str.contains(r"^(false|no|0)$|\b(nav|navigation|header|footer|aside|sidebar|menu|breadcrumbs?)\b")
    body = words.str.contains(r"^(true|yes|1)$|\b(content|body|main|article|text)\b")
    return pl.when(extras).then(False).when(body).then(True)


def device(raw: pl.Expr) -> pl.Expr:
    """The index in DEVICES; unknown devices are "other"."""
    words = raw.cast(pl.String).str.strip_chars().str.to_lowercase()
    found: pl.Expr = pl.lit(DEVICES.index("other"))
    for name, pattern in _DEVICE_WORDS.items():
        found = pl.when(words.str.contains(pattern)).then(pl.lit(DEVICES.index(name))).otherwise(found)
    return pl.when(words.is_null() | words.is_in(list(MISSING))).then(pl.lit(NOT_REPORTED)).otherwise(found).cast(pl.UInt8)


def country(raw: pl.Expr) -> pl.Expr:
    """The ISO 3166-1 number for a name or a two- or three-letter code; NOT_REPORTED, COUNTRY_UNKNOWN."""
    return raw.cast(pl.String).map_batches(_country_codes, return_dtype=pl.UInt16)


def _country_codes(rows: pl.Series) -> pl.Series:
    names = rows.unique()
    codes = pl.Series(
        [NOT_REPORTED if _says_nothing(name) else country_code(name) for name in names.to_list()], dtype=pl.UInt16
    )
    return rows.replace_strict(names, codes, return_dtype=pl.UInt16)


def _says_nothing(text: str | None) -> bool:
    return (text or "").strip().lower() in MISSING


def channel(raw: pl.Expr) -> pl.Expr:
    return channel_code(raw.cast(pl.String))


def is_said(raw: pl.Expr) -> pl.Expr:
    """Whether a cell has a value."""
    words = raw.cast(pl.String)
    return words.is_not_null() & ~words.str.strip_chars().str.to_lowercase().is_in(list(MISSING))
