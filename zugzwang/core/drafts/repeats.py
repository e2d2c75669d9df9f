"""Passages that a text shares with other pages of the site, word by word.

Every run of RUN words of a page is hashed (a polynomial modulo 2⁶⁴). For large sites only one in `every` hashes is stored,
selected by the hash itself, so equal runs are always selected together (Manber 1994, "Finding similar files in a large file
system"). A passage is reported where a run of the text matches one of a page; adjacent runs form one passage. RUN is our
own choice, no source: shorter runs are common phrases.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from zlib import crc32

import numpy as np
import numpy.typing as npt
import polars as pl

from zugzwang.core.words.occurrences import Texts
from zugzwang.core.words.wording import words

RUN = 12
KEPT_MOST = 5_000_000  # runs
Numbers = npt.NDArray[np.uint64]
_BASE = np.uint64(0x9E3779B97F4A7C15)


@dataclass(frozen=True)
class Runs:
    """`numbers`: hashes, sorted; `pages`: a page for each; `every`: one in so many is stored."""

    numbers: Numbers
    pages: npt.NDArray[np.uint32]
    every: int


@dataclass(frozen=True)
class Repeated:
    """A passage of a text: words `first` to `end` (exclusive), and a page that contains it too."""

    first: int
    end: int
    page: int


def runs_of(texts: Texts, kept_most: int = KEPT_MOST) -> Runs:
    """The runs of all pages' running text."""
    number_of = np.zeros(texts.words.height + 1, np.uint64)
    number_of[texts.words["word"].to_numpy()] = [_number(text) for text in texts.words["text"].to_list()]
    running = (texts.nth > 0).to_numpy()
    numbers = number_of[texts.word.to_numpy()[running]]
    page = texts.pages.select(pl.col("page").repeat_by("words")).explode("page", empty_as_null=False)["page"].to_numpy()
    runs, of = _runs(numbers), page[: max(numbers.size - RUN + 1, 0)]
    within = of == page[RUN - 1 :][: of.size]  # a run does not continue into the next page
    runs, of = runs[within], of[within]
    every = max(-(-runs.size // kept_most), 1)
    chosen = runs % np.uint64(every) == 0
    found, first = np.unique(runs[chosen], return_index=True)
    return Runs(found, of[chosen][first].astype(np.uint32), every)


def repeated(text: str, runs: Runs, besides: Iterable[int] = ()) -> list[Repeated]:
    """The passages of a text that pages contain too, from the top; pages in `besides` are skipped."""
    numbers = np.array([_number(one) for one in words(text)], np.uint64)
    own = _runs(numbers)
    if not own.size or not runs.numbers.size:
        return []
    index = np.minimum(np.searchsorted(runs.numbers, own), runs.numbers.size - 1)
    hits = (runs.numbers[index] == own) & ~np.isin(runs.pages[index], list(besides))
    result: list[Repeated] = []
    for at in np.flatnonzero(hits).tolist():
        page = int(runs.pages[index[at]])
        if result and at <= result[-1].end + 2 * runs.every:
            result[-1] = Repeated(result[-1].first, at + RUN, result[-1].page)
        else:
            result.append(Repeated(at, at + RUN, page))
    return result


def _number(word: str) -> int:
    return crc32(word.encode())


def _runs(numbers: Numbers) -> Numbers:
    """The hash of each run of RUN words."""
    if numbers.size < RUN:
        return np.zeros(0, np.uint64)
    result = np.zeros(numbers.size - RUN + 1, np.uint64)
    with np.errstate(over="ignore"):
        for step in range(RUN):
            result = result * _BASE + numbers[step : step + result.size]
        result ^= result >> np.uint64(29)  # the lowest bits are uniform
    return result
