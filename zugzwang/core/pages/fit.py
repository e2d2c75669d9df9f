"""Fit of a page to a query: do its title, main heading and address contain what was searched for?

Of a query's words (stems of wording.py, without function words), `kept` is the share found in any of the three, and
`in_order` the largest share found in one of them in the query's order (longest common subsequence).

  close   all words are there, at least two thirds of them in order in one place
  off     fewer than half are there
  loose   everything between

Bounds are our own choice, no source. A page whose title and heading are unknown (not crawled) is judged by its address
alone, and the result says so; one whose address has no words is not judged.

Example: the query "canoe paddle size chart" and the title "Paddle sizes for canoes": canoe, paddle and size are there,
chart is not: kept 3/4; in order in the title: paddle, size = 2/4; so the fit is loose.

Limits: synonyms (oar, paddle) count as different words; the page's running text is not considered.
"""

from collections import defaultdict
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import chain
from typing import Literal

import polars as pl

from zugzwang.core.words.wording import address_words, content_stems

Fit = Literal["close", "loose", "off"]
FITS: tuple[Fit, ...] = ("close", "loose", "off")
IN_ORDER = 2 / 3
HALF = 0.5


@dataclass(frozen=True)
class Says:
    """Where readers and search engines look first: stems of a page's title, main heading and address."""

    title: tuple[str, ...]
    heading: tuple[str, ...]
    address: tuple[str, ...]

    @property
    def crawled(self) -> bool:
        return bool(self.title or self.heading)

    @cached_property
    def fields(self) -> tuple[tuple[str, ...], ...]:
        return tuple(field for field in (self.title, self.heading, self.address) if field)

    @cached_property
    def there(self) -> frozenset[str]:
        return frozenset().union(*self.fields)


def says(address: str, title: str | None, heading: str | None, language: str = "english") -> Says:
    texts = (title or "", heading or "", address_words(address))
    return Says(*(content_stems(text, language) for text in texts))


def in_order(query: Sequence[str], page: Says) -> float:
    """The largest share of a query's words that occur in one place in the query's order."""
    return max(common_in_order(query, field) for field in page.fields) / len(query)


def common_in_order(one: Sequence[str], other: Sequence[str]) -> int:
    """The length of the longest common subsequence.

    >>> common_in_order(["canoe", "paddle", "size"], ["paddle", "size", "for", "canoe"])
    2
    """
    either = set(one)
    other = [word for word in other if word in either]  # few have any, so check the rest
    if len(other) < 2:
        return len(other)
    best = [0] * (len(other) + 1)
    for left in one:
        before = 0
        for index, right in enumerate(other, start=1):
            kept = best[index]
            best[index] = before + 1 if left == right else max(best[index], best[index - 1])
            before = kept
    return best[-1]


def fits(rows: pl.DataFrame, pages: dict[int, Says], queries: dict[int, tuple[str, ...]]) -> pl.DataFrame:
    """The fit of each row (page, query), with queries as content stems: fit (null where the page or query is unknown), kept,
    fit_known_by ("title and heading" or "address"), lacking (list of stems), in the order of the rows.
    """
    pairs = rows.select(pl.col("page", "query").cast(pl.Int64)).with_row_index("row")
    judged = pairs.join(_known_by(pages), on="page", maintain_order="left").join(
        _words("query", queries), on="query", maintain_order="left"
    )
    there = _words("page", {number: page.there for number, page in pages.items()})
    judged = judged.join(there.with_columns(there=True), on=["page", "stem"], how="left", maintain_order="left")
    lacks = pl.col("there").is_null()
    frame = judged.group_by("row", maintain_order=True).agg(
        pl.col("page", "query", "fit_known_by").first(),
        covered=1 - lacks.sum() / pl.len(),
        lacking=pl.col("stem").filter(lacks),
    )
    frame = frame.with_columns(fit=pl.Series(_kinds(frame, pages, queries), dtype=pl.Enum(FITS)))
    found = pairs.select("row").join(frame, on="row", how="left", maintain_order="left")
    return found.select("fit", "covered", "fit_known_by", pl.col("lacking").fill_null([]))


def _known_by(pages: dict[int, Says]) -> pl.DataFrame:
    """The basis for judging each page: page, fit_known_by."""
    known = {number: "title and heading" if page.crawled else "address" for number, page in pages.items() if page.fields}
    return pl.DataFrame(
        {"page": list(known), "fit_known_by": list(known.values())}, {"page": pl.Int64, "fit_known_by": pl.String}
    )


def _words(name: str, texts: Mapping[int, Collection[str]]) -> pl.DataFrame:
    """The stems of texts, one row each: `name` (the number of the text), stem."""
    numbers = [number for number, stems in texts.items() for _ in stems]
    return pl.DataFrame({name: numbers, "stem": list(chain(*texts.values()))}, {name: pl.Int64, "stem": pl.String})


def _kinds(rows: pl.DataFrame, pages: dict[int, Says], queries: dict[int, tuple[str, ...]]) -> Iterator[Fit]:
    """The kinds of fit; word order is checked only where all words are there."""
    for page, query, entry in rows.select("page", "query", "covered").iter_rows():
        if entry == 1 and in_order(queries[query], pages[page]) >= IN_ORDER:
            yield "close"
        else:
            yield "off" if entry < HALF else "loose"


def closest_pages(queries: dict[int, tuple[str, ...]], pages: dict[int, Says]) -> dict[int, int]:
    """For each query the page with the best close fit, if any: most words in order, then fewest other words."""
    with_stem: dict[str, set[int]] = defaultdict(set)
    for number, page in pages.items():
        for stem in {*page.title, *page.heading, *page.address}:
            with_stem[stem].add(number)
    found = {}
    for query, stems in queries.items():
        # A page with a close fit has every word, so others need not be checked.
        candidates = set.intersection(*(with_stem.get(stem, set()) for stem in stems)) if stems else set()
        close = [number for number in candidates if in_order(stems, pages[number]) >= IN_ORDER]
        if close:
            found[query] = min(close, key=lambda one: (-in_order(stems, pages[one]), len(pages[one].title), one))
    return found


def advice(row_fit: Fit, lacking: Sequence[str], page: int, closest: int | None, in_clash: bool) -> str:
    """What to do about a striking-distance query whose page fits loosely or not at all. A new page must not cause a clash, so
    clashes come first.
    """
    if in_clash:
        return "Resolve the clash first: several pages answer this query."
    if closest is not None and closest != page:
        return "Another page of yours covers it: link there, and remove the query's words from this one."
    if row_fit == "loose":
        return "Add the missing words to the page." if lacking else "All its words are there: use them together."
    return "Write a new page, or leave the query."
