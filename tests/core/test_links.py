"""Links: authority against networkx and a worked chain, phrases against an automaton, needs, faults, plans and links set."""

from datetime import UTC, datetime, timedelta

import ahocorasick_rs
import networkx as nx
import numpy as np
import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zugzwang.core.links.faults import from_other_sites, poor_anchors, wrong_targets
from zugzwang.core.links.graph import DAMPING, NAVIGATION, authority, graph_of, passed
from zugzwang.core.links.mentions import look_for, mentions, sentence_near, sentence_with
from zugzwang.core.links.needs import link_counts, needs
from zugzwang.core.links.plan import LINKS_IN, LINKS_OUT, after, suggestions
from zugzwang.core.links.setting import set_state
from zugzwang.core.links.similarity import alike, most_alike, vectors
from zugzwang.core.words.occurrences import read_texts

LINK = {"source": pl.UInt32, "target": pl.UInt32, "in_body": pl.Boolean, "followed": pl.Boolean, "anchor": pl.String}


def links(*rows: tuple[int, int, bool]) -> pl.DataFrame:
    return pl.DataFrame([(*row, None, "") for row in rows], schema=LINK, orient="row")


def ids(*pages: int) -> pl.Series:
    return pl.Series("page", pages, dtype=pl.UInt32)


def test_authority_is_that_of_the_worked_chain(monkeypatch: pytest.MonkeyPatch) -> None:
    """Manning, Raghavan & Schütze 2008, chapter 21: a ⇄ b ⇄ c with teleport 0.5 gives 5/18, 8/18, 5/18."""
    monkeypatch.setattr("zugzwang.core.links.graph.DAMPING", 0.5)
    chain = graph_of(ids(1, 2, 3), links((1, 2, True), (2, 1, True), (2, 3, True), (3, 2, True)))
    assert authority(chain, np.ones(3)) == pytest.approx([5 / 18, 8 / 18, 5 / 18], abs=1e-8)
    monkeypatch.setattr("zugzwang.core.links.graph.STEPS_MAX", 2)
    with pytest.raises(ArithmeticError, match="in 2 steps"):
        authority(chain, np.ones(3))


@given(st.lists(st.tuples(st.integers(1, 12), st.integers(1, 12), st.booleans()), max_size=60), st.data())
@settings(max_examples=60, deadline=None)
def test_authority_is_that_of_networkx(edges: list[tuple[int, int, bool]], data: st.DataObject) -> None:
    """networkx `pagerank` with the same weights and jumps; several links of a pair count at their best."""
    pages = list(range(1, 13))
    jumps = {page: 1.0 + data.draw(st.integers(0, 5)) for page in pages}
    graph = nx.DiGraph()
    graph.add_nodes_from(pages)
    for source, target, in_body in edges:
        if source != target:
            had = graph.get_edge_data(source, target, {"weight": 0.0})["weight"]
            graph.add_edge(source, target, weight=max(had, 1.0 if in_body else NAVIGATION))
    result = nx.pagerank(graph, alpha=DAMPING, personalization=jumps, tol=1e-12, max_iter=1000)
    ours = authority(graph_of(ids(*pages), links(*edges)), np.array([jumps[page] for page in pages]))
    assert ours == pytest.approx([result[page] for page in pages], abs=1e-7)


@given(st.lists(st.tuples(st.integers(1, 9), st.integers(1, 9), st.booleans()), max_size=40),
       st.sets(st.tuples(st.integers(1, 9), st.integers(1, 9)), max_size=6))  # fmt: skip
@settings(max_examples=60, deadline=None)
def test_a_plan_does_what_a_graph_with_its_links_in_says(
    edges: list[tuple[int, int, bool]], planned: set[tuple[int, int]]
) -> None:
    wanted = pl.DataFrame(
        sorted(pair for pair in planned if pair[0] != pair[1]), schema={"source": pl.UInt32, "target": pl.UInt32}, orient="row"
    )
    before = graph_of(ids(*range(1, 10)), links(*edges))
    whole = graph_of(ids(*range(1, 10)), links(*edges, *((one, other, True) for one, other in wanted.iter_rows())))
    jumps = np.arange(1.0, 10.0)
    result = after(before, jumps, authority(before, jumps), wanted)
    assert result == pytest.approx(authority(whole, jumps), abs=1e-7)


def test_links_that_are_not_followed_or_lead_to_themselves_pass_nothing() -> None:
    rows = links((1, 2, True), (1, 1, True), (1, 3, True)).with_columns(followed=pl.Series([True, True, False]))
    graph = graph_of(ids(1, 2, 3), rows)
    shares = authority(graph, np.ones(3))
    assert graph.edges.height == 1
    assert shares[1] > shares[2]
    # A second link in the body halves what the first passes on.
    assert passed(graph, shares, np.array([0]))[0] == pytest.approx(DAMPING * shares[0] / 2)


def test_phrases_are_found_as_by_aho_and_corasick() -> None:
    """Aho & Corasick 1975: he, she, his, hers in "ushers": she at 1–4, he at 2–4, hers at 2–6."""
    letters = [[ord(letter) for letter in word] for word in ("he", "she", "his", "hers")]
    hits = look_for(np.array([ord(letter) for letter in "ushers"], dtype=np.uint32), letters)
    found = {
        (int(phrase), int(at), int(at + length)) for phrase, at, length in zip(hits.phrase, hits.at, hits.length, strict=True)
    }
    assert found == {(1, 1, 4), (0, 2, 4), (3, 2, 6)}


@given(st.text("abc", max_size=80), st.lists(st.text("abc", min_size=1, max_size=5), min_size=1, max_size=12, unique=True))
@settings(max_examples=100, deadline=None)
def test_phrases_are_found_as_by_a_reference_library(text: str, phrases: list[str]) -> None:
    hits = look_for(np.array([ord(one) for one in text], dtype=np.uint32), [[ord(one) for one in phrase] for phrase in phrases])
    ours = sorted(zip(hits.phrase.tolist(), hits.at.tolist(), (hits.at + hits.length).tolist(), strict=True))
    assert ours == sorted(ahocorasick_rs.AhoCorasick(phrases).find_matches_as_indexes(text, overlapping=True))


PAGES = pl.DataFrame(
    {
        "page": [1, 2, 3],
        "title": ["Canoe cart", "Trips", "Storage"],
        "content": [
            "h1\tCanoe carts\np\tA canoe cart folds.",
            "h2\tCanoe carts\np\tTake a Canoe Cart along. Our \x02canoe carts\x03 fold; canoe\nli\tcart. Carts of canoes.",
            "p\tHang it up.\nimg\tcanoe cart",
        ],
    },
    schema_overrides={"page": pl.UInt32},
)


def test_mentions_are_of_running_text_alone() -> None:
    texts = read_texts(PAGES)
    found = {row["page"]: row for row in mentions(texts, ["canoe cart"]).to_dicts()}
    result = {
        page: [row[name] for name in ("times", "exactly", "in_links", "in_headings", "word")] for page, row in found.items()
    }
    # A title and a picture's text are no mention, nor are words that are apart or the other way round.
    assert result == {1: [1, 1, 0, 1, 4], 2: [1, 1, 1, 1, 5]}
    plural = mentions(texts, ["canoe carts"], exact=True)
    assert plural.select("page", "times", "in_links", "in_headings").rows() == [(1, 0, 0, 1), (2, 0, 1, 1)]


def test_a_mention_is_told_with_its_sentence_and_its_words() -> None:
    content = PAGES["content"][1]
    assert sentence_with(content, "canoe carts") == ("Take a Canoe Cart along.", "Canoe Cart")
    assert sentence_with(content, "canoe carts", exact=True) is None  # it is in a link, or in a heading
    assert sentence_with("p\tSee \x02this. A canoe cart\x03 helps. A canoe cart folds.", "canoe cart") == (
        "A canoe cart folds.", "canoe cart",
    )  # fmt: skip
    assert sentence_near("p\tWe paddle. A cart for every canoe helps.", "canoe cart") == "A cart for every canoe helps."


def test_words_that_repeat_count_once_where_they_overlap() -> None:
    texts = read_texts(
        pl.DataFrame({"page": [1], "title": [""], "content": ["p\tno no no no no"]}, schema_overrides={"page": pl.UInt32})
    )
    assert mentions(texts, ["no no"])["times"].to_list() == [2]


def test_pages_about_one_thing_are_alike_as_the_cosine_says() -> None:
    """scikit-learn's TfidfVectorizer with sublinear tf and smoothed idf, on the same stems."""
    from sklearn.feature_extraction.text import TfidfVectorizer

    rng = np.random.default_rng(3)
    vocabulary = [f"word{one}x" for one in range(40)]
    documents = [" ".join(rng.choice(vocabulary[part : part + 20], 60)) for part in (0, 0, 20, 20, 10)]
    pages = pl.DataFrame({"page": range(1, 6), "title": [""] * 5, "content": [f"p\t{one}" for one in documents]},
                         schema_overrides={"page": pl.UInt32})  # fmt: skip
    current = vectors(read_texts(pages))
    kept = [word for word in vocabulary if sum(word in one.split() for one in documents) > 1]
    # The library's weights count all words in the idf, as the site's own do; words of one document are left out of both.
    matrix = TfidfVectorizer(vocabulary=kept, sublinear_tf=True, norm="l2").fit_transform(documents)
    pairs = pl.DataFrame(
        {"target": [1, 1, 3, 9], "source": [2, 3, 4, 1]}, schema_overrides={"target": pl.UInt32, "source": pl.UInt32}
    )
    result = alike(current, pairs)
    expected = (matrix @ matrix.T).toarray()
    assert result[:3].to_list() == pytest.approx([expected[0, 1], expected[0, 2], expected[2, 3]], abs=1e-5)
    assert result[3] is None
    best = most_alike(current, ids(1, 4), 1)
    assert best.select("target", "source").rows() == [(1, 2), (4, 3)]


def need(page: int, **fields: object) -> dict[str, object]:
    usual = {"type": "guide", "exempt": False, "depth": 2, "start": False, "links_in": 9, "links_in_body": 6, "links_out": 5,
             "wrong": 0, "referring_domains": 0,
             "authority_share": 0.02, "opportunity_share": 0.02, "opportunity_month": 50.0}  # fmt: skip
    return {"page": page, **usual, **fields}


def test_what_a_page_wants_of_links() -> None:
    rows = [need(page) for page in range(1, 7)] + [
        need(11, opportunity_share=0.04, links_in_body=2),
        need(12, opportunity_share=0.039, links_in_body=2),  # not twice
        need(13, opportunity_share=0.08, links_in_body=6),  # as many as its type has
        need(14, opportunity_share=0.04, links_in_body=2, opportunity_month=0.4),
        need(15, links_in=0, links_in_body=0, depth=None),
        need(16, depth=5),
        need(17, links_out=0, referring_domains=3),
        need(18, wrong=1),
        need(19, authority_share=0.05),
        need(20, start=True, links_in=0),
        need(21, opportunity_share=0.08, links_in_body=2, exempt=True),
    ]
    frame = {row["page"]: row for row in needs(pl.DataFrame(rows)).to_dicts()}
    assert {page for page, row in frame.items() if row["action"] == "needs links"} == {11, 15, 16}
    assert {page for page, row in frame.items() if row["action"] == "fix"} == {17, 18}
    assert {page for page, row in frame.items() if row["action"] == "can link out"} == {19}
    assert frame[17]["problems"] == ["dead end", "gives nothing on"]
    assert frame[15]["problems"] == ["orphan"]
    assert frame[20]["problems"] == []


def test_links_are_counted_by_pages() -> None:
    rows = links((1, 2, True), (1, 2, False), (3, 2, False), (2, 2, True)).with_columns(anchor=pl.Series(["a", "A", "b", "c"]))
    result = link_counts(ids(1, 2, 3), rows).rows()
    assert result == [(1, 0, 0, 0, 1, 1), (2, 2, 1, 2, 0, 0), (3, 0, 0, 0, 1, 0)]


def anchored(*rows: tuple[str, str, int, int, str, bool]) -> pl.DataFrame:
    schema = {"from_address": pl.String, "to_address": pl.String, "source": pl.UInt32, "target": pl.UInt32, "anchor": pl.String,
              "in_body": pl.Boolean}  # fmt: skip
    return pl.DataFrame(rows, schema=schema, orient="row")


def test_links_that_lead_wrong_and_navigation_told_once() -> None:
    answers = pl.DataFrame(
        {"address": ["/old", "/gone", "/fine"], "status": [301, 404, 200], "redirect_to": ["/new", None, None]},
        schema_overrides={"status": pl.UInt16},
    )
    rows = anchored(("/a", "/old", 1, 5, "old", True), ("/b", "/old", 2, 5, "old", True), ("/a", "/gone", 1, 6, "g", False),
                    ("/b", "/gone", 2, 6, "g", False), ("/a", "/fine", 1, 7, "f", True))  # fmt: skip
    frame = wrong_targets(rows, answers).select("from", "to", "fault", "pages", "leads_to").sort("fault", "from").rows()
    assert frame == [("/a", "/old", "to a redirect", 1, "/new"), ("/b", "/old", "to a redirect", 1, "/new"),
                    ("/a", "/gone", "to a missing page", 2, None)]  # fmt: skip
    outer = pl.DataFrame(
        {"from_address": ["x"], "page": [6], "address": ["/gone"], "anchor": ["g"]}, schema_overrides={"page": pl.UInt32}
    )
    assert from_other_sites(outer, answers)["fault"].to_list() == ["from another site, to a missing page"]


def test_anchors_that_say_nothing_or_mean_another_page() -> None:
    rows = anchored(
        ("/a", "/b", 1, 2, "Click here", True), ("/c", "/b", 3, 2, "read more »", True), ("/a", "/c", 1, 3, "here", True),
        ("/b", "/c", 2, 3, "storage", True), ("/b", "/d", 2, 4, "the size chart", True),
        ("/b", "/e", 2, 5, "the size chart", True), ("/a", "/e", 1, 5, "the size chart", True),
        ("/d", "/e", 4, 5, "Canoe carts", True), ("/a", "/f", 1, 6, "canoe cart", True), ("/a", "/f", 1, 6, "menu", False),
    )  # fmt: skip
    frame = poor_anchors(rows, {6: "canoe cart", 4: "paddle size"}).select("from", "to", "fault").sort("fault", "from", "to")
    assert frame.rows() == [
        ("/a", "/b", "vague anchor"), ("/c", "/b", "vague anchor"), ("/a", "/e", "one anchor, several pages"),
        ("/b", "/d", "one anchor, several pages"), ("/d", "/e", "another page's main query"),
    ]  # fmt: skip


def test_a_plan_asks_no_page_too_much_and_repeats_no_link() -> None:
    pages = ids(*range(1, 41))
    graph = graph_of(pages, links((1, 40, True), (2, 40, False), *((page, 1, True) for page in range(2, 40))))
    shares = authority(graph, np.ones(40))
    rows: list[tuple[int, int, float | None, int | None]]
    rows = [(source, target, 0.4, None) for source in range(1, 31) for target in range(31, 41)]
    rows += [(31, 3, None, 3), (32, 4, 0.0, 4)]
    schema = {"source": pl.UInt32, "target": pl.UInt32, "similarity": pl.Float64, "phrase": pl.UInt32}
    values = pl.DataFrame(rows, schema=schema, orient="row").with_columns(about=0.3)
    result = suggestions(graph, shares, values, pages)
    assert result.group_by("target").len()["len"].max() == LINKS_IN
    assert result.group_by("source").len()["len"].max() == LINKS_OUT
    assert result.filter(pl.col("source") == 1, pl.col("target") == 40).is_empty()  # it is there
    assert result.filter(pl.col("source") == 1).height == LINKS_OUT  # the home page passes on most
    assert result["source"].to_list()[:2] == [31, 1]  # what mentions it comes first, then who passes on most
    # A mention whose page is not known to be alike counts; one next to words of something else does not.
    assert result.filter(pl.col("mentioned")).select("source", "target").rows() == [(31, 3)]
    only = suggestions(graph, shares, values, ids(5))
    assert only["source"].unique().to_list() == [5]


def test_whether_a_link_was_set_says_the_crawl_after_it() -> None:
    taken = datetime(2026, 11, 1, tzinfo=UTC)
    later = taken + timedelta(days=1)
    assert set_state("canoe carts", taken, None, None) == "waiting"
    assert set_state("canoe carts", taken, taken, None) == "waiting"
    assert set_state("canoe carts", taken, later, None) == "missing"
    assert set_state("canoe carts", taken, later, ["Canoe Carts!"]) == "set"
    assert set_state("canoe carts", taken, later, ["here"]) == "set otherwise"
