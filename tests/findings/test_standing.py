"""Changes: weeks and measures against the year before, and which pages caused the change."""

from datetime import timedelta

import polars as pl
import pytest

from tests.conftest import keep
from tests.findings.conftest import LAST, PAGES, TODAY
from zugzwang.core.facts.grains import DAY, VISITS
from zugzwang.core.facts.visits import CHANNELS
from zugzwang.core.time.change import PARTS
from zugzwang.data.models import Block, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.findings.view import ViewOptions
from zugzwang.subjects.changes import describe_changes


def test_weeks_stand_beside_the_same_weeks_a_year_before(shop: Site) -> None:
    weeks = describe_changes(Snapshot(shop), ViewOptions(), TODAY)["weeks"]
    facts = Snapshot(shop).facts.rows(DAY, None)  # totals of the site are what it is known by, where it has them
    by_week = dict(facts.group_by(pl.col("day").dt.truncate("1w")).agg(pl.col("clicks").sum()).iter_rows())
    last = weeks[-1]
    assert len(weeks) == 66
    assert last["clicks"] == by_week[last["week"]]
    assert last["clicks_before"] == by_week[last["week"] - timedelta(days=364)]
    assert last["clicks_change"] == last["clicks"] - last["clicks_before"]
    assert weeks[0]["clicks_before"] is weeks[0]["clicks_change"] is None  # there is no year before the first
    assert sum(week["in_period"] for week in weeks) == 13


def test_the_page_that_fell_is_named_and_the_parts_sum(shop: Site) -> None:
    result = describe_changes(Snapshot(shop), ViewOptions(), TODAY)
    change, clicks = result["change"], result["measures"][0]
    assert clicks.change == pytest.approx(sum(change[part] for part in PARTS), abs=1e-6)
    assert result["down"][0]["page"] == PAGES[3]
    assert result["down"][0]["role"] == "earns"  # it alone sells
    assert result["up"][0]["page"] == PAGES[4]
    assert sum(role["by"] for role in result["by_role"]) == pytest.approx(clicks.change)
    assert "fewer" in result["sentences"][0] if clicks.change < 0 else "more" in result["sentences"][0]


def test_a_section_alone_keeps_the_roles_that_its_pages_have_in_the_site(shop: Site) -> None:
    """The guides sell nothing: judged among themselves, conversions would be unknown and no page would count as informing."""
    guides = describe_changes(Snapshot(shop), ViewOptions(section="/guides/"), TODAY)
    assert {row["page"] for row in (*guides["down"], *guides["up"])} <= {PAGES[1], PAGES[2], PAGES[5]}
    assert {role["role"] for role in guides["by_role"]} == {"informs"}


def test_visits_are_compared_over_the_days_that_both_periods_have(shop: Site) -> None:
    """Nine days of visits are missing: the sums must not count them as a fall."""
    Block.objects.filter(site=shop, grain=VISITS.name).delete()
    organic = CHANNELS.index("organic")
    days = [LAST - timedelta(days=number) for number in range(9, 7 * 66)]
    steady = pl.DataFrame({"day": days, "page": 3, "channel": organic, "sessions": 10, "bounces": 1, "conversions": 0.0})
    keep(shop, steady, grain=VISITS)
    shop.refresh_from_db()
    result = describe_changes(Snapshot(shop), ViewOptions(section="/kayak/"), TODAY)
    sessions = next(one for one in result["measures"] if one.name == "sessions")
    weeks = result["weeks"]
    assert (sessions.now, sessions.change) == (820, 0)
    assert weeks[-1]["sessions"] is None  # a week that no visits tell of
    assert weeks[-2]["sessions"] is None  # nor a week of five days
    assert weeks[-3]["sessions"] == 70
    assert "9 of the period's 91 days" in result["lacking"][0]


def test_without_days_to_compare_with_the_rest_is_told(shop: Site) -> None:
    result = describe_changes(Snapshot(shop), ViewOptions(compare="none"), TODAY)
    assert result["change"] is None
    assert result["down"] == result["up"] == []
    assert result["measures"][0].change is None
    assert "needs days to compare with" in result["lacking"][0]
