"""Fit of a page to a query: do the page's title, main heading and address say what was searched for?

Of a query's words (stems of wording.py, function words left out) `held` is the share that stands in any of the three, and
`in_order` the largest share that stands in one of them in the query's order (the longest common subsequence of the two).

  close   all of them are there, two thirds or more of them in order in one place
  off     fewer than half are there
  loose   everything between

Bounds are our own choice, no source. A page whose title and heading are not known (it was not crawled) is judged by its address
alone, and that is said; one whose address says nothing either is not judged.

Worked: the query "canoe paddle size chart" and the title "Paddle sizes for canoes": canoe, paddle, size are there, chart is
not: held 3/4; in order in the title: paddle, size = 2/4; so it is loose.

Limits: words of one meaning (oar, paddle) are different words here; what the page's text says further down is not looked at.
"""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import polars as pl
import pyarrow as pa

from zugzwang.core.words.wording import address_words, content_stems

Fit = Literal["close", "loose", "off"]
FITS: tuple[Fit, ...] = ("close", "loose", "off")
IN_ORDER = 2 / 3
HALF = 0.5


@dataclass(frozen=True)
class Says:
    """What a page says where readers and search engines look first: stems of its title, main heading and address."""

    title: tuple[str, ...]
    heading: tuple[str, ...]
    address: tuple[str, ...]

    @property
    def crawled(self) -> bool:
        return bool(self.title or self.heading)

    @cached_property
    def places(self) -> tuple[tuple[str, ...], ...]:
        return tuple(place for place in (self.title, self.heading, self.address) if place)

    @cached_property
    def there(self) -> frozenset[str]:
        return frozenset().union(*self.places)


@dataclass(frozen=True)
class Fitting:
    """How a query fits a page: the share of its words that are there (0…1), and the stems that the page lacks."""

    fit: Fit
    held: float
    lacking: tuple[str, ...]


def says(address: str, title: str | None, heading: str | None, language: str = "english") -> Says:
    texts = (title or "", heading or "", address_words(address))
    return Says(*(content_stems(text, language) for text in texts))


def fit(query: Sequence[str], page: Says) -> Fitting | None:
    """The fit of a page to a query given as content stems; None where nothing is known of the page or the query."""
    if not query or not page.places:
        return None
    lacking = tuple(stem for stem in query if stem not in page.there)
    held = 1 - len(lacking) / len(query)
    if not lacking and in_order(query, page) >= IN_ORDER:
        kind: Fit = "close"
    else:
        kind = "off" if held < HALF else "loose"
    return Fitting(kind, held, lacking)


def in_order(query: Sequence[str], page: Says) -> float:
    """The largest share of a query's words that stand in one place in its order."""
    return max(common_in_order(query, place) for place in page.places) / len(query)


def common_in_order(one: Sequence[str], other: Sequence[str]) -> int:
    """The length of the longest common subsequence.

    >>> common_in_order(["canoe", "paddle", "size"], ["paddle", "size", "for", "canoe"])
    2
    """
    either = set(one)
    other = [word for word in other if word in either]  # mostly none or few: what is left decides
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
    """The fit of each row (page, query): fit (null where unknown), held, fit_known_by ("title and heading" or "address"),
    lacking (list of stems), in the order of the rows."""
    told = [_told(page, query, pages, queries) for page, query in rows.select("page", "query").iter_rows()]
    fit, held, known_by, lacking = zip(*told, strict=True) if told else ((), (), (), ())
    return pl.DataFrame(
        {
            "fit": pl.Series(fit, dtype=pl.Enum(FITS)),
            "held": pl.Series(held, dtype=pl.Float64),
            "fit_known_by": pl.Series(known_by, dtype=pl.String),
            # Polars takes thirty times as long for lists of texts.
            "lacking": pl.Series(pa.array(lacking, type=pa.large_list(pa.large_string()))),
        }
    )


def _told(
    page: int, query: int, pages: dict[int, Says], queries: dict[int, tuple[str, ...]]
) -> tuple[Fit | None, float | None, str | None, list[str]]:
    known = pages.get(page)
    found = fit(queries.get(query, ()), known) if known else None
    if found is None or known is None:
        return None, None, None, []
    return found.fit, found.held, "title and heading" if known.crawled else "address", list(found.lacking)


def closest_pages(queries: dict[int, tuple[str, ...]], pages: dict[int, Says]) -> dict[int, int]:
    """For each query the page that fits it closely and best, where there is one: most words in order, then fewest beside."""
    with_stem: dict[str, set[int]] = defaultdict(set)
    for number, page in pages.items():
        for stem in {*page.title, *page.heading, *page.address}:
            with_stem[stem].add(number)
    found = {}
    for query, stems in queries.items():
        # A close page has every word, so those that lack one need not be looked at.
        candidates = set.intersection(*(with_stem.get(stem, set()) for stem in stems)) if stems else set()
        fitting = {number: fit(stems, pages[number]) for number in candidates}
        close = [number for number, told in fitting.items() if told is not None and told.fit == "close"]
        if close:
            found[query] = min(close, key=lambda one: (-in_order(stems, pages[one]), len(pages[one].title), one))
    return found


def advice(row_fit: Fit, lacking: Sequence[str], page: int, closest: int | None, in_clash: bool) -> str:
    """What a query of striking distance wants whose page is loose or off. A page of its own must not become a new clash, so
    clashes come first."""
    if in_clash:
        return "Settle the clash first: several pages answer this query."
    if closest is not None and closest != page:
        return "Another page of yours says it: link there, and take the query's words off this one."
    if row_fit == "loose":
        return "Put the missing words on the page." if lacking else "All its words are there, apart: say them together."
    return "Write a page of its own, or leave the query."
