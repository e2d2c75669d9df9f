"""Related terms: by hand, and against a reference implementation of BM25; term coverage, and whether it goes with rank."""

import bm25s
import numpy as np
import polars as pl
import pytest

from zugzwang.core.drafts.terms import Corpus, coverage, goes_with_rank, separate_sentences
from zugzwang.core.words.occurrences import read_texts

ABOVE = [
    "Canoe carts carry a canoe over land. Wide tyres roll on sand. Straps hold the hull.",
    "A canoe cart with wide tyres. Straps, and again straps. Fold it flat.",
    "Wide tyres for soft sand; two straps. The frame folds flat.",
    "Tie it with straps. A kickstand helps.",
]
OTHERS = ["Wool socks keep feet warm.", "A stove for two, and a pot.", "Maps of the river.", "Straps for bags."] * 5


def corpus(pages: list[str]) -> Corpus:
    rows = [(number, f"Title {number}", separate_sentences(f"p\t{text}")) for number, text in enumerate(pages)]
    return Corpus(read_texts(pl.DataFrame(rows, {"page": pl.UInt32, "title": pl.String, "content": pl.String}, orient="row")))


def test_terms_are_what_the_pages_above_say_and_others_do_not() -> None:
    current = corpus([*ABOVE, *OTHERS])
    above = [0, 1, 2, 3]
    found = {current.form(one, above): one for one in current.related(above)}
    # All four say straps, so do five of twenty others, which is more than a tenth of all pages: no term of this query.
    assert set(found) == {"wide tyres"}  # "wide" and "tyres" never are without each other
    wide = found["wide tyres"]
    assert (wide.tier, wide.pages) == ("essential", 3)
    assert wide.per_thousand[1] == pytest.approx(1000 * 1 / 11.3, rel=0.05)
    assert current.counts(1, [wide]) == [1]
    assert current.counts(5, [wide]) == [0]
    assert coverage([wide], [0]) == 0.0
    assert current.related([0, 1]) == []  # two pages are too few to tell


def test_weights_are_those_of_a_reference_implementation() -> None:
    """bm25s with Lucene's inverse document frequency, k₁ 1.5 and b 0.75, on words only; our version also counts title words."""
    rng = np.random.default_rng(2)
    words = [f"{one}{two}{three}{two}k" for one in "bcdfg" for two in "aeiou" for three in "lmnrt"]
    pages = [" ".join(rng.choice(words, int(rng.integers(20, 60)))) for _ in range(80)]
    rows = [(number, "", f"p\t{text}") for number, text in enumerate(pages)]
    texts = read_texts(pl.DataFrame(rows, {"page": pl.UInt32, "title": pl.String, "content": pl.String}, orient="row"))
    current = Corpus(texts)
    reference = bm25s.BM25(method="lucene", k1=1.5, b=0.75)
    reference.index([text.split() for text in pages], show_progress=False)
    stems = dict(texts.words.select("text", "stem").iter_rows())
    for word in words[:40]:
        scores = reference.get_scores([word])
        key = np.array([stems[word]])
        inverse = current.inverse_frequency(key)[0]
        for page in range(0, 80, 7):
            times = current._counts(page, key)[0]
            length = current._words[page] / current._usual
            # The reference leaves out the factor k₁ + 1, which is the same for all.
            ours = inverse * times / (times + 1.5 * (0.25 + 0.75 * length))
            assert ours == pytest.approx(float(scores[page]), rel=1e-4, abs=1e-6)


def test_whether_coverage_goes_with_place() -> None:
    rng = np.random.default_rng(3)
    none = [rng.random(9).tolist() for _ in range(200)]
    falls = [np.sort(rng.random(9))[::-1].tolist() for _ in range(20)]
    result, found = goes_with_rank(none), goes_with_rank(falls)
    assert result is not None
    assert found is not None
    assert abs(result.rho) < 0.06
    assert (round(found.rho, 6), found.queries) == (-1.0, 20)
    assert goes_with_rank(none[:9]) is None
    claimed = [goes_with_rank([rng.random(8).tolist() for _ in range(30)]) for _ in range(300)]
    assert np.mean([one is not None and one.p_value < 0.05 for one in claimed]) <= 0.075  # 5 of 100, and two deviations
