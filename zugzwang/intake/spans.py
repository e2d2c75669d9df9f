"""The days covered by a table without days, from its surroundings: lines above the header, the file name, column names, a
table of the export's filters.

Only explicit first and last dates count. "Last 3 months" names a length, not days, so a person is asked.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import date
from itertools import pairwise

import polars as pl

from zugzwang.core.facts.countries import COUNTRY_UNKNOWN
from zugzwang.core.facts.grains import DEVICES, NOT_REPORTED
from zugzwang.core.facts.periods import Period
from zugzwang.intake import values
from zugzwang.intake.fields import bare_letters, plain
from zugzwang.intake.header_words import DAYS_OF_FILTERS, EARLIER, FILTER_HEADERS, MONTHS, OTHER_WORDS
from zugzwang.intake.seen import Seen

_WORD = "|".join(sorted(MONTHS, key=len, reverse=True))
_YEAR_FIRST = re.compile(r"(?<!\d)(20\d\d|19\d\d)([-/._]?)(0[1-9]|1[0-2])\2(0[1-9]|[12]\d|3[01])(?!\d)")
_DAY_WORD = re.compile(
    rf"(?<!\d)(\d{{1,2}})\.?(?:st|nd|rd|th)?[ _-](?:de )?({_WORD})\.?,?[ _-](?:de )?((?:20)?\d\d)(?!\d)", re.I
)
_WORD_DAY = re.compile(rf"\b({_WORD})\.? (\d{{1,2}}),? (20\d\d)(?!\d)", re.I)
_NUMBERS = re.compile(r"(?<!\d)(\d{1,2})([/.-])(\d{1,2})\2((?:20)?\d\d)(?!\d)")
MOST_DAYS = 800
FILTERS_MOST = 40
OTHER_DEVICE = DEVICES.index("other")
PART_OF_FILTERS = {
    "device": ("device", "device category", *OTHER_WORDS["device"]),
    "country": ("country", *OTHER_WORDS["country"]),
}


def span_in(text: str) -> Period | None:
    """The stretch of days given by a text's two dates; None where it has none, several, or two readings.

    >>> span_in("Performance 2026-08-16 to 2026-11-15")
    Period(first=datetime.date(2026, 8, 16), last=datetime.date(2026, 11, 15))
    >>> span_in("8/1/26 - 8/12/26") is None  # two readings
    True
    """
    result = _dates(bare_letters(text))
    if len(result) != 2 or result[1] <= result[0] or (result[1] - result[0]).days > MOST_DAYS:
        return None
    return Period(result[0], result[1])


def _dates(text: str) -> list[date]:
    """The dates of a text in order; numeric dates only if all of them can be read in one order."""
    found: list[tuple[int, date | None]] = []
    for match in _YEAR_FIRST.finditer(text):
        found.append((match.start(), _day(match[1], match[3], match[4])))
    for match in _DAY_WORD.finditer(text):
        found.append((match.start(), _day(match[3], MONTHS[match[2].lower()], match[1])))
    for match in _WORD_DAY.finditer(text):
        found.append((match.start(), _day(match[3], MONTHS[match[1].lower()], match[2])))
    if not found:
        found = _in_numbers(text)
    return [day for _, day in sorted(found) if day is not None]


def _in_numbers(text: str) -> list[tuple[int, date | None]]:
    matches = list(_NUMBERS.finditer(text))
    orders = []
    for day_first in (True, False):
        days = [_day(one[4], one[3] if day_first else one[1], one[1] if day_first else one[3]) for one in matches]
        known = [day for day in days if day is not None]
        if len(known) == len(matches) and all(earlier < later for earlier, later in pairwise(known)):
            orders.append([(one.start(), day) for one, day in zip(matches, known, strict=True)])
    points = all(one[2] == "." for one in matches)  # in dates with dots, the day comes first
    if len(orders) == 2 and not points and orders[0] != orders[1]:
        return []
    return list(orders[0]) if orders else []


def _day(year: str, month: str | int, day: str) -> date | None:
    try:
        return date(int(year) + (2000 if len(year) == 2 else 0), int(month), int(day))
    except ValueError:
        return None


def filters_of(header: Sequence[str], rows: Sequence[Sequence[str]]) -> dict[str, str]:
    """The filters of an export, name → value; empty where the table has none."""
    if len(header) != 2 or plain(header[0]) not in FILTER_HEADERS or len(rows) > FILTERS_MOST:
        return {}
    return {row[0]: row[1] for row in rows if len(row) == 2 and row[0]}


def filtered_part(filters: Mapping[str, str]) -> dict[str, int]:
    """The single device and country that an export was filtered by, by code; other values, or several of a kind, say nothing
    about each row.
    """
    result = {}
    for name, value in filters.items():
        cell = re.sub(r"^(?:is|equals|=)\s+", "", value.strip(), flags=re.IGNORECASE)
        for kind, words in PART_OF_FILTERS.items():
            if plain(name) in words:
                read = values.device if kind == "device" else values.country
                code = int(pl.select(read(pl.lit(cell))).item())
                if code not in (NOT_REPORTED, COUNTRY_UNKNOWN, OTHER_DEVICE):
                    result[kind] = code
    return result


def with_filters(seen: "Sequence[Seen]") -> "list[Seen]":
    """The tables of search facts with the device and country from a table of filters, where they have none."""
    result = filtered_part({name: value for one in seen for name, value in one.filters.items()})
    parts = [{name: code for name, code in result.items() if name not in one.mapping} for one in seen]
    return [replace(one, part=part) if one.source == "search" else one for one, part in zip(seen, parts, strict=True)]


def with_spans(seen: "Sequence[Seen]", file: str, inputs: "Mapping[int, Period | None]") -> "list[Seen]":
    """The tables of a file with the days covered by those without days, and the basis: a person; otherwise column names or
    lines above them, the names of table and file, a table of filters, a table of days in the same file.
    """
    of_filters = first_span(value for one in seen for name, value in one.filters.items() if plain(name) in DAYS_OF_FILTERS)
    result: list[Seen] = []
    for number, one in enumerate(seen):
        if not one.needs_span or one.table is None:
            result.append(one)
            continue
        ways: list[tuple[Period | None, str]] = [
            (inputs.get(number), ""),
            (span_in(one.side.words) if one.side else None, "its column names"),
            (first_span([*one.table.above, " ".join(one.table.above)]), "a line above its header"),
            (first_span([one.name, file]), "the file name"),
            (of_filters, "the table of filters"),
            (_days_beside(seen), "the table of days in the same file"),
        ]
        earlier = one.side is not None and bool(result) and result[-1].table is one.table
        if earlier:
            # A span given for a whole file is the later period's: applied to both, it would double the clicks.
            own = [] if inputs.get(number) == result[-1].span else ways[:1]
            ways = [*own, ways[1], _before(result[-1], one)]
        span, cell = next(((span, cell) for span, cell in ways if span is not None), (None, ""))
        result.append(replace(one, span=span, span_from=cell))
    return result


def _before(later: Seen, earlier: Seen) -> tuple[Period | None, str]:
    """The earlier period of a comparison, as its column names it: a year before, or just before."""
    words = plain(earlier.side.words) if earlier.side else ""
    if later.span is None or not words:
        return None, ""
    if "year" in words or any(word in words for word in ("vorjahr", "annee", "vorig jaar", "ano anterior", "anno")):
        return later.span.compared("year"), f"“{earlier.side.words if earlier.side else ''}” says: a year before"
    if any(word in f" {words} " for word in (f" {word} " for word in EARLIER)):
        return later.span.compared("previous"), f"“{earlier.side.words if earlier.side else ''}” says: the days just before"
    return None, ""


def _days_beside(seen: "Sequence[Seen]") -> Period | None:
    """The days of the only table of days in the same file, where all of it was read."""
    for one in seen:
        if one.table is not None and one.source == "search" and "day" in one.mapping and not one.ambiguous_days:
            cells = [row[one.mapping["day"]] for row in one.first_rows if len(row) > one.mapping["day"]]
            days = pl.DataFrame({"day": cells}, schema={"day": pl.String})
            rows = days.select(values.day(days, "day", one.style)).to_series().drop_nulls()
            if one.table.rows_about <= 1.2 * len(cells) and rows.len() == len(cells) > 1:
                return Period(rows.min(), rows.max())  # type: ignore[arg-type]
    return None


def first_span(texts: Iterable[str]) -> Period | None:
    """The first span found in any of the texts."""
    return next((span for text in texts if (span := span_in(text))), None)
