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

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

import polars as pl

from zugzwang.core.wording import address_words, content_stems

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


@dataclass(frozen=True)
class Fitting:
    """How a query fits a page: the words as shares (0…1), and the query's stems that the page lacks."""

    fit: Fit
    held: float
    in_order: float
    lacking: tuple[str, ...]


def says(address: str, title: str | None, heading: str | None, language: str = "english") -> Says:
    texts = (title or "", heading or "", address_words(address))
    return Says(*(content_stems(text, language) for text in texts))


def fit(query: Sequence[str], page: Says) -> Fitting | None:
    """The fit of a page to a query given as content stems; None where nothing is known of the page or the query."""
    places = [place for place in (page.title, page.heading, page.address) if place]
    if not query or not places:
        return None
    there = set().union(*places)
    lacking = tuple(stem for stem in query if stem not in there)
    held = 1 - len(lacking) / len(query)
    in_order = max(common_in_order(query, place) for place in places) / len(query)
    if not lacking and in_order >= IN_ORDER:
        kind: Fit = "close"
    else:
        kind = "off" if held < HALF else "loose"
    return Fitting(kind, held, in_order, lacking)


def common_in_order(one: Sequence[str], other: Sequence[str]) -> int:
    """The length of the longest common subsequence.

    >>> common_in_order(["canoe", "paddle", "size"], ["paddle", "size", "for", "canoe"])
    2
    """
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
    kinds = {
        "fit": pl.Enum(FITS), "held": pl.Float64, "fit_known_by": pl.String, "lacking": pl.List(pl.String)
    }  # fmt: skip
    return pl.DataFrame(told, schema=kinds, orient="row")


def _told(
    page: int, query: int, pages: dict[int, Says], queries: dict[int, tuple[str, ...]]
) -> tuple[Fit | None, float | None, str | None, list[str]]:
    known = pages.get(page)
    found = fit(queries.get(query, ()), known) if known else None
    if found is None or known is None:
        return None, None, None, []
    return found.fit, found.held, "title and heading" if known.crawled else "address", list(found.lacking)


def closest(query: Sequence[str], pages: Iterable[tuple[int, Says]]) -> int | None:
    """The page that fits a query closely and best, if there is one: the most words in order, the fewest words beside."""
    best: tuple[float, int, int] | None = None
    for number, page in pages:
        found = fit(query, page)
        if found is None or found.fit != "close":
            continue
        score = (-found.in_order, len(page.title) or len(page.address), number)
        best = score if best is None or score < best else best
    return best[2] if best else None
