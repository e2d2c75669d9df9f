"""One query with every page that ranks for it."""

import pytest

from tests.findings.conftest import PAGES, TODAY
from zugzwang.data.models import Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import NotFound
from zugzwang.findings.view import ViewOptions
from zugzwang.subjects.query import tell_query


def test_every_page_of_a_query_stands_with_its_days(shop: Site) -> None:
    result = tell_query(
        Snapshot(shop), ViewOptions(section="/tag/"), 1, TODAY
    )  # a section chooses rows of a list, not the pages of a query
    assert [page["page"] for page in result["pages"]] == [PAGES[1], PAGES[4]]
    guide, listing = result["pages"]
    assert sum(day["clicks"] for day in guide["days"]) == guide["clicks"]
    assert {day["best"] for day in listing["days"]} == {False}  # at 6 behind the guide's 4.6
    assert listing["clicks_before"] == 0  # it appeared 13 weeks ago
    assert (guide["fit"], guide["lacking"]) == ("close", [])
    assert result["clash"].startswith("2 pages ")
    assert result["sentences"][0].startswith("2 pages rank for it")


def test_a_branded_query_is_shown_too_and_an_unknown_one_is_refused(shop: Site) -> None:
    assert tell_query(Snapshot(shop), ViewOptions(), 4, TODAY)["branded"]
    with pytest.raises(NotFound):
        tell_query(Snapshot(shop), ViewOptions(), 99, TODAY)


def test_what_is_told_beside_a_query_counts_pages_too_that_are_shown_no_more(shop: Site) -> None:
    """In the year before, only the guide ranked; the sums are of the facts, not of the listed pages."""
    result = tell_query(Snapshot(shop), ViewOptions(), 1, TODAY)
    extras = {one.name: one for one in result["compared"]}
    assert extras["clicks"].now == sum(page["clicks"] for page in result["pages"])
    assert extras["clicks"].before == result["pages"][0]["clicks_before"]
    assert extras["clicks"].change == sum(page["change"] for page in result["pages"])
    shown = sum(page["impressions"] * page["position"] for page in result["pages"])
    assert extras["position"].now == pytest.approx(shown / sum(page["impressions"] for page in result["pages"]))
