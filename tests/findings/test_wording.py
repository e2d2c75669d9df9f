"""On-page sentences and competing pages, on a known site."""

from datetime import date

import pytest

from tests.findings.conftest import answer, rows
from tests.findings.wording_site import PAGES, Planted, plant
from zugzwang.access import OPERATOR
from zugzwang.data.decided import Subject
from zugzwang.data.models import MainQuery, Page, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.findings.view import ViewOptions
from zugzwang.plan import main_queries
from zugzwang.plan.proposals import propose

TODAY = date(2026, 11, 23)


@pytest.fixture
def planted(site: Site) -> Planted:
    return plant(site)


def test_every_planted_problem_of_a_title_and_no_other(site: Site, planted: Planted) -> None:
    found = {row["page_id"]: set(row["problems"]) for row in rows(site, "titles")}
    wanted = {page: problems for page, problems in planted.problems.items() if problems}
    assert found == wanted
    assert {one for problems in found.values() for one in problems} >= {"several-title", "rewritten-by-engine-title"}


def test_unsaid_and_said_to_the_word(site: Site, planted: Planted) -> None:
    result = {(row["page_id"], row["query_id"]): row for row in rows(site, "missing-queries")}
    wrong = [
        one
        for one, (times, first) in planted.said.items()
        if one in result and (result[one]["exact_uses"], result[one]["first_word"]) != (times, first)
    ]
    assert len(wrong) <= 0.02 * len(planted.said)
    assert len([one for one in planted.said if one in result]) > 1.9 * PAGES
    unsaid = [result[one] for one, (times, _) in planted.said.items() if not times and one in result]
    assert {row["on_page"] for row in unsaid} == {"missing"}
    assert {row["what_to_do"] for row in unsaid} <= {"write a page for it", "add it to the text"}
    # Unsaid ones come first, of these the most to gain.
    first = rows(site, "missing-queries")[: len(unsaid)]
    assert [row["gain"] for row in first] == sorted((row["gain"] for row in first), reverse=True)


def test_what_stands_above_explains_its_rows_and_no_poor_title(site: Site, planted: Planted) -> None:
    low = {row["query_id"]: row for row in rows(site, "low-ctr")}
    boxed, poor = ([row["explained"] for query, row in low.items() if query in some] for some in (planted.boxed, planted.poor))
    assert min(len(boxed), len(poor)) >= 8
    assert sum(boxed) >= 0.9 * len(boxed)
    assert sum(poor) <= 0.05 * len(poor)
    result = answer(site, "serp-captures")
    cost = next(one for one in result.extras["costs"] if one["kind"] == "featured snippet")
    # The curve is fitted on boxed rows too and lies a little low, so the factor lies a little high.
    assert 0.28 <= cost["factor"] <= 0.42
    # The page's account keeps what is left; a move proposed on such a row is an answer and no title.
    query = next(query for query, row in low.items() if row["explained"])
    row = low[query]
    assert row["lost"] + row["taken"] == pytest.approx(row["shortfall"])
    assert {one["query_id"] for one in rows(site, "low-ctr", explained="without")}.isdisjoint(
        one["query_id"] for one in rows(site, "low-ctr", explained="only")
    )
    (move,) = propose(Snapshot(site), ViewOptions(), [Subject(row["page_id"], query)], "low-ctr", TODAY)
    assert move["kind"] == "answer"


def test_openings_and_what_is_within_strength_are_exact(site: Site, planted: Planted) -> None:
    boxes = rows(site, "featured-snippets")
    assert {row["query_id"] for row in boxes if row["opening"]} == planted.openings
    assert all(row["kind"] == "paragraph" and row["gain"] >= 0 for row in boxes)
    assert boxes[0]["lacking"] != []
    reach = {row["query_id"]: row for row in rows(site, "competing-pages")}
    assert {query: row["rank_within_reach"] for query, row in reach.items()} == {
        query: min(place, reach[query]["rank"]) for query, place in planted.potential.items()
    }
    # It is a target of headroom: nothing is potential where the site's own is as strong as those above are.
    current = {row["query_id"]: row for row in rows(site, "striking-distance", target="within-strength")}
    assert all(planted.potential[query] < row["position"] for query, row in current.items() if query in planted.potential)


def test_a_main_query_that_was_chosen_is_remembered(site: Site, planted: Planted) -> None:
    page, other = 2, 3 * 1 + 3
    assert next((row for row in rows(site, "titles") if row["page_id"] == page), None) is None
    main_queries.choose(OPERATOR, "shop", page, other)
    (row,) = [row for row in rows(site, "titles") if row["page_id"] == page]
    assert (row["main_query_id"], "lacks-main-query-title" in row["problems"]) == (other, True)
    assert MainQuery.objects.get(page_id=page).query_id == other
    main_queries.choose(OPERATOR, "shop", page, None)
    assert [row for row in rows(site, "titles") if row["page_id"] == page] == []
    assert Page.objects.filter(site=site).count() == PAGES
