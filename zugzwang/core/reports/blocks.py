"""The blocks of a report, which all formats show alike, with numbers and dates in the report's language."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal, get_args

from babel import Locale, UnknownLocaleError
from babel.dates import format_date, format_skeleton
from babel.numbers import format_decimal, format_percent, get_group_symbol

from zugzwang.core.facts.periods import Period

Language = Literal["en_GB", "en_US", "de", "fr", "es", "it", "nl"]  # of numbers and dates; sentences are in English
LANGUAGES: tuple[Language, ...] = get_args(Language)


@dataclass(frozen=True)
class Sentence:
    """A paragraph; `lead` marks the one-sentence summary of the part."""

    text: str
    lead: bool = False


@dataclass(frozen=True)
class OwnWords:
    """A person's own text before a part, in Markdown."""

    markdown: str


@dataclass(frozen=True)
class Table:
    """`left`: the text columns; others are numbers and right-aligned."""

    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    left: tuple[int, ...] = (0,)


@dataclass(frozen=True)
class Chart:
    """A chart as SVG, with a sentence that says the same."""

    svg: str
    text: str


Block = Sentence | OwnWords | Table | Chart


@dataclass(frozen=True)
class Part:
    title: str
    blocks: tuple[Block, ...]


ACCENT = "#2e6350"  # of the rules below headings, unless another colour is chosen


@dataclass(frozen=True)
class Logo:
    """The report author's logo, sanitised (plan/logo.py)."""

    kind: Literal["png", "svg"]
    data: bytes


def pixels_of(png: bytes) -> tuple[int, int]:
    """Width and height from the first chunk (PNG, 11.2.1 IHDR)."""
    return int.from_bytes(png[16:20], "big"), int.from_bytes(png[20:24], "big")


@dataclass(frozen=True)
class Document:
    """`name`, `contact`, `logo`: the author's. `accent`: a colour as #rrggbb."""

    title: str
    subtitle: str
    name: str
    contact: str
    parts: tuple[Part, ...]
    accent: str = ACCENT
    logo: Logo | None = None


class Numbers:
    """Formats numbers and dates in a language."""

    def __init__(self, language: str = "en_GB") -> None:
        try:
            self.locale = Locale.parse(language)
        except (UnknownLocaleError, ValueError):
            self.locale = Locale.parse("en_GB")

    def count(self, value: float | None) -> str:
        """A whole number; an en dash for an unknown one."""
        return "–" if value is None else format_decimal(round(value), locale=self.locale).replace("-", "−")

    def sentence(self, sentence: str) -> str:
        """A sentence with thousands separated as in tables."""
        return re.sub(r"(?<=\d)\u202f(?=\d{3})", get_group_symbol(self.locale), sentence)

    def change(self, value: float | None) -> str:
        if value is None:
            return "–"
        return ("+" if round(value) > 0 else "") + self.count(value)

    def position(self, value: float | None) -> str:
        return "–" if value is None else format_decimal(value, format="0.0", locale=self.locale)

    def share(self, value: float | None) -> str:
        return "–" if value is None else format_percent(value, format="0.0%", locale=self.locale)

    def day(self, value: date | None) -> str:
        return "–" if value is None else format_date(value, format="medium", locale=self.locale)

    def period(self, value: Period) -> str:
        """A month by name, other periods by first and last day."""
        if value.is_month:
            return str(format_skeleton("yMMMM", value.first, locale=self.locale))
        return f"{self.day(value.first)} – {self.day(value.last)}"


def table(head: Sequence[str], rows: Sequence[Sequence[str]], left: Sequence[int] = (0,)) -> Table:
    return Table(tuple(head), tuple(tuple(row) for row in rows), tuple(left))
