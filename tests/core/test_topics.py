"""Topics: communities against planted subjects and the karate club, seasonality, intent, people's edits, content gaps."""

from datetime import date

import networkx as nx
import numpy as np
import polars as pl
import pytest
from sklearn.metrics import adjusted_rand_score

from tests.core.topics_site import planted_queries
from zugzwang.core.topics.communities import Evidence, Ties, communities, ties
from zugzwang.core.topics.edits import Edit, apply
from zugzwang.core.topics.intent import by_blocks, by_words, of_topic
from zugzwang.core.topics.season import ready_by, season
from zugzwang.core.topics.writing import groups, outline, wanting


def of_graph(graph: "nx.Graph[int]") -> Ties:
    pairs = np.array(sorted(tuple(sorted(edge)) for edge in graph.edges))
    return Ties(pairs[:, 0], pairs[:, 1], np.ones(len(pairs)), np.ones(len(pairs), bool))


def test_the_karate_club_falls_into_two_to_four_groups() -> None:
    """Zachary 1977, as networkx has it: 34 members, 78 ties, modularity 0.38 and more."""
    club = nx.karate_club_graph()
    found = communities(34, of_graph(club))
    sets = [set(np.flatnonzero(found == one).tolist()) for one in np.unique(found)]
    assert 2 <= len(sets) <= 4
    assert nx.community.modularity(club, sets, weight=None) >= 0.38
    assert adjusted_rand_score([0, 0, 1, 1], [0, 0, 1, 2]) == pytest.approx(0.5714, abs=1e-4)  # Hubert & Arabie 1985


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_planted_subjects_are_found_though_their_wordings_cross(seed: int) -> None:
    for results, least in ((False, 0.8), (True, 0.9)):
        planted = planted_queries(seed, results)
        current = ties(planted.evidence)
        found = communities(len(planted.texts), current)
        assert adjusted_rand_score(planted.topic, found) >= least
        assert current.results_known.all() == results
        assert (communities(len(planted.texts), ties(planted.evidence)) == found).all()  # the same each time


def test_what_goes_with_everything_ties_nothing() -> None:
    """The home page ranks for all queries; nothing else is known about them."""
    shown = pl.DataFrame({"query": range(400), "page": [1] * 400, "impressions": [9] * 400})
    nothing = pl.DataFrame(schema={"query": pl.UInt32, "address": pl.String})
    stems = pl.DataFrame({"query": range(400), "stem": [f"w{number // 2}" for number in range(400)]})
    kinds = {"query": pl.UInt32, "page": pl.UInt32, "impressions": pl.UInt32}
    rows = ties(Evidence(400, stems.cast({"query": pl.UInt32}), shown.cast(kinds), nothing))
    assert sorted(zip(rows.one.tolist(), rows.other.tolist(), strict=True)) == [(2 * one, 2 * one + 1) for one in range(200)]


def test_seasons_are_told_where_queries_agree_and_only_there() -> None:
    rng, months = np.random.default_rng(4), np.arange(12)
    right = false = 0
    for number in range(200):
        peak = int(rng.integers(12))
        size = rng.lognormal(5, 1, int(rng.integers(4, 40)))[:, None]
        noise = rng.lognormal(0, 0.3, (size.shape[0], 12))
        wave = 1 + 0.6 * np.cos(2 * np.pi * (months - peak) / 12)
        found, none = season(size * wave * noise), season(size * noise)
        assert found is not None
        assert none is not None
        right += number < 100 and found.peak is not None and (found.peak - 1 - peak) % 12 in (0, 1, 11)
        false += none.peak is not None
    assert right >= 95  # of the first hundred, to the month next to it where noise is heavy
    assert false <= 1
    assert season(np.zeros((3, 12))) is None
    alone = season(np.array([[100.0] * 5 + [160.0] + [100.0] * 6]))
    assert alone is not None
    assert alone.peak is None  # one query: nothing to agree with
    shape = season(np.tile([5, 5, 5, 8, 13, 20, 20, 14, 8, 5, 5, 4.0], (5, 1)))
    assert shape is not None
    assert (shape.peak, shape.rises) == (6, 5)
    assert ready_by(5, date(2026, 3, 9)) == date(2026, 3, 1)  # too late by now, and said so
    assert ready_by(1, date(2026, 11, 26)) == date(2026, 11, 1)


def test_intent_by_words_then_by_blocks() -> None:
    """Kinds of intent after Broder 2002; queries like his examples, from memory, and the trade's own words."""
    result = {
        "american airlines home page": "navigational", "how to varnish a paddle": "informational",
        "buy sea kayak": "transactional",
        "best sea kayak": "comparing", "canoe hire near me": "local", "wie packt man ein kanu": "informational",
        "kajak kaufen": "transactional", "sea kayak": None, "shopping list": None,
    }  # fmt: skip
    assert {query: (by_words(query) or (None,))[0] for query in result} == result
    assert by_words("river club boats", ["riverclub"]) == ("navigational", "riverclub")
    assert by_blocks(["organic", "ads", "shopping", "questions"]) == ("transactional", "ads")
    assert by_blocks(["organic"]) is None
    how, ads = ("informational", "how"), ("transactional", "ads")
    intent, reasons = of_topic([(300, how, None), (100, None, ads), (50, None, None)])  # type: ignore[list-item]
    assert intent == "informational"
    assert reasons == ["75 % of the searches have this intent: to know", "words: how"]
    assert of_topic([(9, None, None)]) == (None, [])


def test_what_people_change_survives_new_data() -> None:
    queries, topic = np.array([1, 2, 3, 4, 5, 6]), np.array([0, 0, 1, 1, 2, 2])
    edits = [
        Edit("join", (1, 3)), Edit("split", (2, 6, 99)), Edit("name", (4,), "Boats"), Edit("drop", (5,)),
        Edit("name", (98,), "Gone"),
    ]  # fmt: skip
    current = apply(queries, topic, edits)
    together = [[int(one) for one in queries[current.topic == topic]] for topic in dict.fromkeys(current.topic.tolist())]
    assert together == [[1, 3, 4], [2, 6], [5]]
    assert current.names == {int(current.topic[3]): "Boats"}
    assert current.dropped == {int(current.topic[4])}
    # New data number and order everything again, and a query is gone.
    later = apply(np.array([6, 4, 3, 1, 7]), np.array([5, 8, 8, 2, 2]), edits)
    assert later.topic[1] == later.topic[2] == later.topic[3] == later.topic[4]
    assert later.topic[0] not in later.topic[1:]
    assert "Boats" in later.names.values()


def test_pages_to_write_are_groups_of_what_no_page_answers() -> None:
    ties_of = [(0, 1, 0.9), (1, 2, 0.6), (3, 4, 0.8), (2, 3, 0.2), (4, 5, 0.9)]
    one, other, weight = (np.array(part) for part in zip(*ties_of, strict=True))
    current = Ties(one, other, weight.astype(float), np.zeros(5, bool))
    found = groups(np.array([7, 7, 7, 7, 7, 8]), np.array([0, 1, 2, 3, 4]), current)
    assert [found[0] == found[number] for number in range(6)] == [True, True, True, False, False, False]
    assert found[3] == found[4]
    assert found[5] == -1
    usual = {"fits": "off", "covered": False, "known_words": True, "clashed": False, "branded": False, "elsewhere": False}
    changed: list[dict[str, object]] = [{}, {"fits": "close"}, {"fits": None}, {"fits": None, "covered": True}]
    changed += [{name: True} for name in ("clashed", "branded", "elsewhere")] + [{"known_words": False}]
    frame = pl.DataFrame([{**usual, **one} for one in changed], schema_overrides={"fits": pl.String})
    assert wanting(frame).to_list() == [True, False, True, False, False, False, False, False]
    heads = ["Straps", "straps", "Tie it down", "Straps", "Load a canoe"]
    assert outline(["canoe straps", "how to load a canoe"], heads) == ["how to load a canoe", "Straps", "Tie it down"]
