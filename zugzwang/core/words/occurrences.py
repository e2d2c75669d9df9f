"""Mentions of queries on pages: how often, in which words, where, and at which depth.

A page mentions a query exactly where its words follow each other within one piece (core.pages.content), ignoring case and
possessives. It mentions it in other forms where the stems of the query's content words occur in that order, in one piece,
within a window of twice as many words as the query has. Overlapping mentions count once.

All pages are tokenised together, by columns: each distinct word is stemmed once for the whole site.

Example: "canoe paddle size" in "Sizes. A canoe paddle's size; the paddle for a canoe": once exactly, at the 2nd to 4th of
10 words (the possessive is ignored).
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Literal, get_args

import numpy as np
import numpy.typing as npt
import polars as pl

from zugzwang.core.pages.content import HEADINGS, LINK_CLOSES, LINK_OPENS, RUNNING
from zugzwang.core.words.wording import FUNCTION_WORDS, stem, words

Where = Literal["title", "main heading", "heading", "first 100 words", "text", "picture text", "link"]
WHERE: tuple[Where, ...] = get_args(Where)
FIRST_WORDS = 100
WINDOW = 2  # times the query's words
Ids = npt.NDArray[np.uint32]
KIND_NAMES = ("", "title", *RUNNING, "img")
_WORD = r"[\p{L}\p{M}\p{N}]+(?:['’][\p{L}\p{M}\p{N}]+)*"
_TOKEN = f"[{LINK_OPENS}{LINK_CLOSES}]|{_WORD}"
_GAP = 0  # the id of a gap between two pieces


@dataclass(frozen=True)
class Texts:
    """The words of many pages, one page after another, with gaps between pieces.

    `word`, `stem`: ids of each token, 0 at gaps; `kind`: its index in KIND_NAMES; `linked`: whether it is part of a link;
    `nth`: its number among the page's words, from 1 (0 for titles and picture texts). `pages`: where each page begins, its
    length and its number of words. `words`: each distinct word with its ids.
    """

    word: pl.Series
    stem: pl.Series
    kind: pl.Series
    linked: pl.Series
    nth: pl.Series
    pages: pl.DataFrame  # page, begins, length, words
    words: pl.DataFrame  # text, word, stem
    language: str = "english"


@dataclass(frozen=True)
class Occurrences:
    """How a page mentions a query. `first`: the number of the word where the first mention begins, from 1; None where it is
    only in the title, in a picture text or nowhere. `words`: of the page.
    """

    exactly: int = 0
    in_other_forms: int = 0
    first: int | None = None
    words: int = 0
    where: tuple[Where, ...] = ()

    @property
    def first_at(self) -> float | None:
        """The depth of the first mention: the share of words before it, 0…1."""
        return None if self.first is None or not self.words else (self.first - 1) / self.words

    @property
    def per_thousand(self) -> float:
        """Exact mentions in 1,000 words."""
        return 1000 * self.exactly / self.words if self.words else 0.0


def read_texts(pages: pl.DataFrame, language: str = "english") -> Texts:
    """Tokenise pages. `pages`: page, title, content (core.pages.content)."""
    lines = pages.select(
        "page", line=pl.concat_list(pl.lit("title\t") + pl.col("title").fill_null(""), pl.col("content").str.split("\n"))
    )
    lines = lines.explode("line").select("page", parts=pl.col("line").str.split_exact("\t", 1)).unnest("parts")
    lines = lines.rename({"field_0": "kind", "field_1": "text"}).filter(pl.col("kind").is_in(KIND_NAMES[1:]))
    kinds = {name: number for number, name in enumerate(KIND_NAMES)}
    tokens = lines.select(
        "page",
        pl.col("kind").replace_strict(kinds, return_dtype=pl.UInt8),
        # An empty word after each piece is the gap.
        token=pl.concat_list(pl.col("text").str.extract_all(_TOKEN), pl.lit("")),
    ).explode("token")
    opens, closes = (pl.col("token") == mark for mark in (LINK_OPENS, LINK_CLOSES))
    tokens = tokens.with_columns(linked=opens.cum_sum() > closes.cum_sum()).filter(~opens & ~closes)
    return _numbered(tokens, pages["page"], language)


def _numbered(tokens: pl.DataFrame, pages: pl.Series, language: str) -> Texts:
    # Done once for each distinct token: case, possessives, stems.
    different = tokens["token"].unique()
    clean = pl.col("token").str.normalize("NFKC").str.to_lowercase().str.replace(r"['’]s?$", "")
    rows = different.to_frame().with_columns(text=clean)
    by_text = rows.select("text").unique().filter(pl.col("text") != "").sort("text").with_row_index("word", offset=1)
    by_text = by_text.with_columns(
        name=pl.Series([stem(word, language) for word in by_text["text"].to_list()], dtype=pl.String)
    )
    by_stem = by_text.select("name").unique().sort("name").with_row_index("stem", offset=1)
    by_text = by_text.join(by_stem, on="name").drop("name")
    ids = rows.join(by_text, on="text", how="left").with_columns(pl.col("word", "stem").fill_null(_GAP)).drop("text")
    found = tokens.join(ids, on="token", how="left", maintain_order="left").drop("token")
    counts = (pl.col("word") != _GAP) & (pl.col("kind") > 1) & (pl.col("kind") < len(KIND_NAMES) - 1)
    found = found.with_columns(counts=counts, so_far=counts.cum_sum().cast(pl.UInt32)).with_row_index("at")
    of_page = found.group_by("page", maintain_order=True)
    before = (pl.col("so_far").first() - pl.col("counts").first()).alias("before")
    spans = of_page.agg(
        pl.col("at").first().alias("begins"), pl.len().alias("length"), before, pl.col("counts").sum().alias("words")
    )
    of_its_page = spans["before"].gather(
        spans.select(pl.int_range(pl.len()).repeat_by("length")).explode("literal").to_series()
    )
    found = found.with_columns(nth=pl.when("counts").then(pl.col("so_far") - of_its_page).otherwise(0).cast(pl.UInt32))
    spans = spans.drop("before")
    spans = (
        pages.to_frame()
        .join(spans, on="page", how="left", maintain_order="left")
        .with_columns(pl.col("begins", "length", "words").fill_null(0))
    )
    columns = {name: found[name] for name in ("word", "stem", "kind", "linked", "nth")}
    return Texts(**columns, pages=spans, words=by_text.select("text", "word", "stem"), language=language)


@dataclass
class Reader:
    """Texts prepared for lookups: each page's words as arrays, each query's as ids."""

    texts: Texts
    _of_text: dict[str, tuple[int, int]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        texts = self.texts
        self._word, self._stem, self._kind, self._linked, self._nth = (
            one.to_numpy() for one in (texts.word, texts.stem, texts.kind, texts.linked, texts.nth)
        )
        self._pages = {page: (begins, length, count) for page, begins, length, count in texts.pages.iter_rows()}
        self._of_text = {text: (word, one) for text, word, one in texts.words.iter_rows()}
        self._of_stem: dict[str, int] = {}
        self._query_words: dict[str, tuple[list[int], list[int]]] = {}

    def __contains__(self, page: int) -> bool:
        return page in self._pages

    def occurrences(self, page: int, query: str) -> Occurrences:
        """How a page mentions a query; empty where the page is unknown."""
        begins, length, count = self._pages.get(page, (0, 0, 0))
        query_words, stems = self._ids(query)
        if not length or not query_words:
            return Occurrences(words=count)
        here = slice(begins, begins + length)
        exact = _runs(self._word[here], query_words)
        variants = _in_order(self._stem[here], stems, WINDOW * len(query_words))
        variants = [one for one in variants if not _overlaps(one, exact, len(query_words))]
        starts = [*exact, *(start for start, _ in variants)]
        if not starts:
            return Occurrences(words=count)
        nth = [int(one) for one in self._nth[here][starts] if one]
        where = self._where(begins, [(start, start + len(query_words)) for start in exact] + variants)
        return Occurrences(len(exact), len(variants), min(nth, default=None), count, where)

    def sayings(self, page: int, query: str) -> list[tuple[int, bool]]:
        """The word number where each mention in the running text begins, and whether it is exact; from the top."""
        begins, length, _ = self._pages.get(page, (0, 0, 0))
        query_words, stems = self._ids(query)
        here = slice(begins, begins + length)
        exact = _runs(self._word[here], query_words) if length and query_words else []
        variants = _in_order(self._stem[here], stems, WINDOW * len(query_words)) if length and query_words else []
        result = [(start, True) for start in exact]
        result += [(start, False) for start, end in variants if not _overlaps((start, end), exact, len(query_words))]
        return sorted((int(self._nth[begins + start]), is_exact) for start, is_exact in result if self._nth[begins + start])

    def _where(self, begins: int, sayings: Iterable[tuple[int, int]]) -> tuple[Where, ...]:
        found: set[Where] = set()
        for start, end in sayings:
            kind, nth = KIND_NAMES[self._kind[begins + start]], int(self._nth[begins + start])
            if kind == "title":
                found.add("title")
            elif kind == "img":
                found.add("picture text")
            else:
                found.add("main heading" if kind == "h1" else "heading" if kind in HEADINGS else "text")
                if nth <= FIRST_WORDS:
                    found.add("first 100 words")
                if self._linked[begins + start : begins + end].all():
                    found.add("link")
        return tuple(one for one in WHERE if one in found)

    def _ids(self, query: str) -> tuple[list[int], list[int]]:
        """The ids of a query's words and of its content words' stems; empty where a word occurs nowhere."""
        if query not in self._query_words:
            result = words(query)
            known = [self._of_text.get(word, (0, 0))[0] for word in result]
            content = [word for word in result if word not in FUNCTION_WORDS or self.texts.language != "english"] or result
            stems = [self._stem_id(stem(word, self.texts.language)) for word in content]
            self._query_words[query] = ([] if not result else known, [] if 0 in stems else stems)
        return self._query_words[query]

    def _stem_id(self, name: str) -> int:
        if not self._of_stem:
            self._of_stem = {stem(text, self.texts.language): one for text, _, one in self.texts.words.iter_rows() if text}
        return self._of_stem.get(name, 0)


def _runs(positions: Ids, query_words: Sequence[int]) -> list[int]:
    """Where some ids follow each other; overlapping runs count once."""
    if 0 in query_words or positions.size < len(query_words):
        return []
    last = positions.size - len(query_words) + 1
    hits = positions[:last] == query_words[0]
    for offset, one in enumerate(query_words[1:], start=1):
        hits &= positions[offset : offset + last] == one
    result: list[int] = []
    for start in np.flatnonzero(hits).tolist():
        if not result or start >= result[-1] + len(query_words):
            result.append(start)
    return result


def _in_order(positions: Ids, query_words: Sequence[int], window: int) -> list[tuple[int, int]]:
    """Where some ids occur in order, within a window and without a gap between: (first, end)."""
    if not query_words:
        return []
    result: list[tuple[int, int]] = []
    for start in np.flatnonzero(positions == query_words[0]).tolist():
        if result and start < result[-1][1]:
            continue
        at, stretch = 0, positions[start : start + window].tolist()
        for offset, one in enumerate(stretch):
            if one == _GAP:
                break
            if one == query_words[at]:
                at += 1
                if at == len(query_words):
                    result.append((start, start + offset + 1))
                    break
    return result


def _overlaps(one: tuple[int, int], starts: Sequence[int], length: int) -> bool:
    return any(one[0] < start + length and start < one[1] for start in starts)
