"""Pages for the same queries: against hand-worked sums, scikit-learn's TF-IDF and Zachary's karate club."""

import networkx as nx
import numpy as np
import polars as pl
import pytest
from sklearn.feature_extraction.text import TfidfVectorizer

from zugzwang.core.contest.overlapping_pages import SAY_ALIKE, groups, kind_of, say_alike, shown_alike, tf_idf

TEXTS = [
    "paddle length for tall paddlers",
    "how long a paddle should be",
    "spray deck sizes for kayaks",
    "paddle paddle paddle length",
]


def shown(rows: list[tuple[int, int, int]]) -> pl.DataFrame:
    kinds = {"page": pl.UInt32, "query": pl.UInt32, "impressions": pl.Int64}
    return pl.DataFrame(rows, schema=kinds, orient="row")


def test_weighted_jaccard_by_hand() -> None:
    """80 : 20 and 50 : 50 give (0.5 + 0.2) / (0.8 + 0.5), whatever the pages' sizes."""
    rows = shown([(1, 1, 80), (1, 2, 20), (2, 1, 500), (2, 2, 500), (3, 3, 900)])
    pairs = shown_alike(rows, 100)
    assert pairs.select("page", "other", "queries").rows() == [(1, 2, 2)]
    assert pairs["shared_queries"][0] == pytest.approx(0.7 / 1.3)
    assert shown_alike(rows, 101).is_empty()
    assert shown_alike(rows, 100, at_least=0.6).is_empty()


def test_the_same_queries_in_the_same_shares_are_one_and_none_is_nothing() -> None:
    rows = shown([(1, 1, 300), (1, 2, 100), (2, 1, 30), (2, 2, 10), (3, 4, 50)])
    pairs = shown_alike(rows, 0, at_least=0.0)
    assert pairs["shared_queries"].to_list() == [pytest.approx(1.0)]


def test_tf_idf_is_that_of_the_reference_library() -> None:
    documents = [text.split() for text in TEXTS]
    ours = tf_idf(documents)
    reference = TfidfVectorizer(sublinear_tf=True, analyzer=str.split).fit_transform(TEXTS)
    assert np.allclose((ours @ ours.T).toarray(), (reference @ reference.T).toarray())


def test_what_pages_say() -> None:
    texts = {number: text.split() for number, text in enumerate(TEXTS)}
    (alike, separate, unknown), much = say_alike([(0, 3), (0, 2), (0, 9)], texts)
    assert much == SAY_ALIKE  # four pages say nothing of a site's habit
    assert alike is not None
    assert separate is not None
    assert alike > 0.4 > separate
    assert unknown is None
    assert [kind_of(say, much) for say in (alike, separate, unknown)] == ["same subject", "mixed topics", "texts unknown"]


def test_a_site_whose_pages_all_speak_alike_has_a_higher_bound() -> None:
    rng = np.random.default_rng(1)

    def bound(own_share: float) -> float:
        """200 pages of 80 words, most of which come from 30 words that all pages use."""
        texts = {
            page: [f"own{page}-{rng.integers(30)}" if rng.random() < own_share else f"all{rng.integers(30)}" for _ in range(80)]
            for page in range(200)
        }
        return say_alike([], texts)[1]

    assert bound(0.9) == SAY_ALIKE
    assert bound(0.02) > 0.5


def test_communities_of_the_karate_club() -> None:
    """Zachary 1977: 34 members, 78 ties; two to four groups, modularity 0.38 or more."""
    club = nx.karate_club_graph()
    found = groups((one, other, 1.0) for one, other in club.edges)
    assert sorted(member for group in found for member in group) == sorted(club.nodes)
    assert 2 <= len(found) <= 4
    assert nx.community.modularity(club, found, weight=None) >= 0.38
    assert groups([]) == []
