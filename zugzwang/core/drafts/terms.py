"""Related terms: terms typical of the competing pages for a query, and how many of them the site's page has.

A term is one to three adjacent content words, by their stems. It counts where at least PAGES_LEAST and a fifth of the
competing pages have it; by share of pages a term is **essential** (70 %), **common** (40 %) or **optional** (20 %). Terms
are ranked by BM25 (Robertson & Zaragoza 2009; k₁ 1.5, b 0.75, the smoothed inverse document frequency ln(1 + (N − n + ½)/(n
+ ½))), summed over the competing pages; N and n count all known pages, the site's and others': what every page says is not
a term of this query. Left out are terms on more than a tenth of all pages, terms that repeat a word, and shorter terms that
occur only inside a longer one.

Coverage is the share of terms on the page, where essential terms count 3, common 2, optional 1. It is a hint: whether
coverage goes with rank at all is computed for each site (`goes_with_rank`) and shown next to it.

Bounds and weights are our own choice, no source.
"""

import re
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, Protocol, get_args

import numpy as np
import numpy.typing as npt
import polars as pl
import scipy

from zugzwang.core.pages.content import pieces_of
from zugzwang.core.words.occurrences import Texts
from zugzwang.core.words.wording import FUNCTION_WORDS, stem, words

Tier = Literal["essential", "common", "optional"]
TIERS: tuple[Tier, ...] = get_args(Tier)
SHARES: Mapping[Tier, float] = {"essential": 0.7, "common": 0.4, "optional": 0.2}
WEIGHTS: Mapping[Tier, float] = {"essential": 3.0, "common": 2.0, "optional": 1.0}
PAGES_LEAST, TERMS_MOST, LONGEST = 3, 40, 3
K1, B = 1.5, 0.75
LETTERS_LEAST = 3
EVERYWHERE = 0.1
Ints = npt.NDArray[np.int64]
_SENTENCE_ENDS = re.compile(r"(?<=[.!?…:;])\s+")


@dataclass(frozen=True)
class Term:
    """`key`: its stems; `pages`: how many competing pages have it; `per_thousand`: lower quartile, median and upper quartile
    of its count in 1,000 words.
    """

    key: tuple[int, ...]
    tier: Tier
    weight: float
    pages: int
    per_thousand: tuple[float, float, float]


@dataclass(frozen=True)
class RelatedTerm:
    """A term as people read it. `text`: its most frequent form on competing pages."""

    text: str
    tier: Tier
    pages: int
    per_thousand: tuple[float, float, float]


class Tiered(Protocol):
    @property
    def tier(self) -> Tier: ...


class Corpus:
    """All known pages, prepared for lookups: the terms of each, and how many pages have each."""

    def __init__(self, texts: Texts) -> None:
        self.texts = texts
        stems = texts.stem.to_numpy().astype(np.int64)
        self._stems = np.where(_says_nothing(texts)[texts.word.to_numpy()], 0, stems)
        self._base = int(stems.max(initial=0)) + 1
        rows = texts.pages.filter(pl.col("length") > 0)
        self._spans = {
            page: (begins, begins + length) for page, begins, length in rows.select("page", "begins", "length").iter_rows()
        }
        self._of: dict[int, tuple[Ints, Ints]] = {page: self._terms(*span) for page, span in self._spans.items()}
        self._df, self._counted = np.unique(
            np.concatenate([keys for keys, _ in self._of.values()] or [np.zeros(0, np.int64)]), return_counts=True
        )
        self._words = {page: max(int((self._stems[one:end] > 0).sum()), 1) for page, (one, end) in self._spans.items()}
        self._usual = float(np.mean(list(self._words.values()))) if self._words else 1.0

    def __contains__(self, page: int) -> bool:
        return page in self._of

    def _terms(self, begins: int, ends: int) -> tuple[Ints, Ints]:
        """The terms of a page as sorted numbers, with their counts. A number holds up to three stems."""
        stems = self._stems[begins:ends]
        keys = [stems[stems > 0]]
        for length in range(2, LONGEST + 1):
            parts = [stems[at : stems.size - length + at + 1] for at in range(length)]
            whole = np.logical_and.reduce([part > 0 for part in parts]) if stems.size >= length else np.zeros(0, bool)
            number = np.zeros(whole.sum(), np.int64)
            for part in parts:
                number = number * self._base + part[whole]
            keys.append(number + self._offset(length))
        return np.unique(np.concatenate(keys), return_counts=True)

    def _offset(self, length: int) -> int:
        """Offsets keep terms of different lengths apart."""
        return sum(self._base**shorter for shorter in range(1, length))

    def _key(self, number: int) -> tuple[int, ...]:
        length = next(one for one in range(LONGEST, 0, -1) if number >= self._offset(one))
        rest, result = number - self._offset(length), []
        for _ in range(length):
            rest, one = divmod(rest, self._base)
            result.append(one)
        return tuple(reversed(result))

    def related(self, above: Sequence[int]) -> list[Term]:
        """The terms of some pages, highest score first; none for fewer than PAGES_LEAST pages."""
        pages = [page for page in above if page in self._of]
        if len(pages) < PAGES_LEAST:
            return []
        keys, page_counts = np.unique(np.concatenate([self._of[page][0] for page in pages]), return_counts=True)
        enough = page_counts >= max(PAGES_LEAST, np.ceil(SHARES["optional"] * len(pages)))
        enough &= self._saying(keys) <= max(EVERYWHERE * len(self._of), len(pages))
        keys, page_counts = keys[enough], page_counts[enough]
        counts = np.stack([self._counts(page, keys) for page in pages])
        length = np.array([self._words[page] for page in pages], float)[:, None]
        many = counts * (K1 + 1) / (counts + K1 * (1 - B + B * length / self._usual))
        weight = self.inverse_frequency(keys) * many.sum(axis=0)
        rate = 1_000 * counts / length
        order = np.argsort(-weight, kind="stable")
        result: list[Term] = []
        for index in order.tolist():
            key, pages_saying = self._key(int(keys[index])), int(page_counts[index])
            if len(set(key)) < len(key):
                continue
            share = pages_saying / len(pages)
            tier = next(one for one in TIERS if share >= SHARES[one])
            low, middle, high = np.quantile(rate[:, index], [0.25, 0.5, 0.75]).tolist()
            result.append(Term(key, tier, float(weight[index]), pages_saying, (low, middle, high)))
        return _without_parts(result)[:TERMS_MOST]

    def inverse_frequency(self, keys: Ints) -> npt.NDArray[np.float64]:
        """ln(1 + (N − n + ½) / (n + ½)) of terms by their numbers."""
        on_page = self._saying(keys)
        return np.asarray(np.log1p((len(self._of) - on_page + 0.5) / (on_page + 0.5)))

    def _saying(self, keys: Ints) -> Ints:
        """How many of all pages have each term."""
        index = np.minimum(np.searchsorted(self._df, keys), max(self._df.size - 1, 0))
        return np.where(self._df[index] == keys, self._counted[index], 0)

    def _counts(self, page: int, keys: Ints) -> npt.NDArray[np.float64]:
        own, counted = self._of[page]
        index = np.minimum(np.searchsorted(own, keys), own.size - 1)
        return np.where(own[index] == keys, counted[index], 0).astype(float)

    def counts(self, page: int, terms: Sequence[Term]) -> list[int]:
        """How often each term occurs on a page."""
        numbers = np.array([self._number(one.key) for one in terms], np.int64)
        return [int(one) for one in self._counts(page, numbers)]

    def _number(self, key: tuple[int, ...]) -> int:
        number = 0
        for one in key:
            number = number * self._base + one
        return number + self._offset(len(key))

    def form(self, term: Term, above: Sequence[int]) -> str:
        """The term's most frequent form on competing pages."""
        positions = [at for page in above if page in self._spans for at in self._positions(page, term.key)]
        words = self.texts.word.to_numpy()
        forms, counted = np.unique([words[at : at + len(term.key)] for at in positions], axis=0, return_counts=True)
        text = dict(self.texts.words.filter(pl.col("word").is_in(np.unique(forms).tolist())).select("word", "text").iter_rows())
        return " ".join(text[int(word)] for word in forms[counted.argmax()])

    def _positions(self, page: int, key: tuple[int, ...]) -> list[int]:
        begins, ends = self._spans[page]
        stems = self._stems[begins:ends]
        here = np.flatnonzero(stems == key[0])
        here = here[here + len(key) <= stems.size]
        for step, one in enumerate(key[1:], start=1):
            here = here[stems[here + step] == one]
        return [int(one) for one in here + begins]


def separate_sentences(content: str) -> str:
    r"""Content (core.pages.content) with each sentence as a separate piece: no term spans two sentences.

    >>> separate_sentences("h1\tCarts\np\tWide tyres. Two straps!")
    'h1\tCarts\np\tWide tyres.\np\tTwo straps!'
    """
    result = []
    for line in content.split("\n"):
        kind, mark, text = line.partition("\t")
        result += [f"{kind}{mark}{one}" for one in _SENTENCE_ENDS.split(text)]
    return "\n".join(result)


def says_nothing(word: str) -> bool:
    """Whether a lower-case word carries no meaning."""
    return word in FUNCTION_WORDS or len(word) < LETTERS_LEAST or word.isdigit()


def uses(content: str, title: str, terms: Sequence[RelatedTerm], language: str = "english") -> list[int]:
    r"""How often each term occurs in a text outside the corpus, counted as in the corpus.

    >>> cart = RelatedTerm("canoe cart", "essential", 3, (1.0, 2.0, 3.0))
    >>> uses("h1\tCanoe carts\np\tThe canoe. A cart, the canoe’s cart.", "Cart", [cart])
    [2]
    """
    stem_of: dict[str, str] = {}

    def stems_in(text: str) -> list[str]:
        result = words(text)
        for word in result:
            if word not in stem_of:
                stem_of[word] = "" if says_nothing(word) else stem(word, language)
        return [stem_of[word] for word in result]

    used: Counter[tuple[str, ...]] = Counter()
    for _, text in [("title", title), *pieces_of(separate_sentences(content))]:
        stems = stems_in(text)
        for length in range(1, LONGEST + 1):
            runs = zip(*(stems[at:] for at in range(length)), strict=False)
            used.update(run for run in runs if all(run))
    return [used[tuple(stems_in(one.text))] for one in terms]


def _says_nothing(texts: Texts) -> npt.NDArray[np.bool_]:
    """Whether each word, by its id, carries no meaning: function words, numbers, single letters."""
    current = np.zeros(texts.words.height + 1, dtype=np.bool_)  # ids start at 1, without gaps
    for text, word in texts.words.select("text", "word").iter_rows():
        current[word] = says_nothing(text)
    current[0] = True
    return current


def _without_parts(terms: Sequence[Term]) -> list[Term]:
    """Terms without those that as many pages have within a longer one."""
    longer: dict[tuple[int, ...], int] = {}
    for one in terms:
        for length in range(1, len(one.key)):
            for at in range(len(one.key) - length + 1):
                part = one.key[at : at + length]
                longer[part] = max(longer.get(part, 0), one.pages)
    return [one for one in terms if longer.get(one.key, 0) < one.pages]


def coverage(terms: Sequence[Tiered], counts: Sequence[int]) -> float:
    """The weighted share of terms that occur, 0…1.

    >>> coverage([Term((1,), "essential", 1, 9, (0, 0, 0)), Term((2,), "optional", 1, 3, (0, 0, 0))], [2, 0])
    0.75
    """
    whole = sum(WEIGHTS[one.tier] for one in terms)
    used = sum(WEIGHTS[one.tier] for one, times in zip(terms, counts, strict=True) if times)
    return used / whole if whole else 0.0


@dataclass(frozen=True)
class GoesWith:
    """How coverage goes with rank: Spearman's ρ of both within queries (negative: higher coverage ranks better), its p-value,
    and the number of queries.
    """

    rho: float
    p_value: float
    queries: int


def goes_with_rank(captures: Sequence[Sequence[float]]) -> GoesWith | None:
    """`captures`: for each query the coverage of its ranking pages, from position 1 down. None for fewer than ten queries."""
    ranks = [
        (scipy.stats.rankdata(one) - (len(one) + 1) / 2, np.arange(len(one)) - (len(one) - 1) / 2)
        for one in captures
        if len(one) >= PAGES_LEAST and len(set(one)) > 1
    ]
    if len(ranks) < 10:
        return None
    together = sum(float(covers @ index) for covers, index in ranks)
    sizes = [(float(covers @ covers), float(index @ index), len(index)) for covers, index in ranks]
    rho = together / np.sqrt(sum(one for one, _, _ in sizes) * sum(other for _, other, _ in sizes))
    # Under the null hypothesis, all orders within a query are equally likely: the variance of the sum is that of random
    # permutations.
    chance = np.sqrt(sum(one * other / (number - 1) for one, other, number in sizes))
    return GoesWith(float(rho), float(2 * scipy.stats.norm.sf(abs(together) / chance)), len(ranks))
