"""Which page should own a query, and what to do about the others."""

import pytest

from zugzwang.core.contest.leads import Contender, propose_lead, propose_resolution, settled_since


def test_the_page_whose_subject_it_is_leads_though_the_other_has_the_clicks() -> None:
    listing = Contender(1, clicks=50, position=6.0, fit="loose", listing=True)
    guide = Contender(2, clicks=20, position=8.0, fit="close")
    lead = propose_lead([listing, guide])
    assert lead.page == 2
    assert lead.reasons == ("it is not a listing", "only this page has the query's words in title, heading or address")


def test_without_clear_differences_clicks_decide_and_it_says_so() -> None:
    one, other = Contender(1, 12, 5.2, "close"), Contender(2, 10, 5.0, "close")
    lead = propose_lead([one, other])
    assert lead.page == 1
    assert "no clear difference" in lead.reasons[0]


def test_what_is_not_known_of_one_page_speaks_for_none() -> None:
    known, unknown = Contender(1, 10, 5.0, links=90, conversions=20.0), Contender(2, 11, 5.0, links=None, conversions=None)
    assert propose_lead([known, unknown]).page == 2
    assert propose_lead([known, Contender(2, 11, 5.0, links=4, conversions=1.0)]).page == 1


@pytest.mark.parametrize(
    ("kind", "other", "say", "expected"),
    [
        ("double listing", Contender(2, 9, 5.0), 0.9, "accept"),
        ("alternating", Contender(2, 9, 5.0, listing=True), 0.9, "retire"),
        ("alternating", Contender(2, 9, 5.0, listing=True, own_clicks=400, clicks_in_all=500), 0.9, "refocus"),
        ("wrong page ranks", Contender(2, 9, 5.0, own_clicks=400, clicks_in_all=500), 0.1, "feed"),
        ("alternating", Contender(2, 9, 5.0, own_clicks=300, clicks_in_all=400), 0.6, "refocus"),  # both do well
        ("alternating", Contender(2, 9, 5.0, own_clicks=10, clicks_in_all=400), 0.95, "point"),
        ("split", Contender(2, 9, 5.0, own_clicks=10, clicks_in_all=400), 0.6, "unite"),
        ("split", Contender(2, 9, 5.0, own_clicks=10, clicks_in_all=400), 0.1, "refocus"),
        ("split", Contender(2, 9, 5.0, own_clicks=10, clicks_in_all=400), None, "unite"),
    ],
)
def test_resolutions(kind: str, other: Contender, say: float | None, expected: str) -> None:
    assert propose_resolution(kind, other, say, 0.35)[0] == expected


def test_settled_since() -> None:
    assert settled_since([True, True, False, False]) == 2
    assert settled_since([False, False]) == 0
    assert settled_since([False, True]) is None
    assert settled_since([]) is None
