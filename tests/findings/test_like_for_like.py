"""Comparisons use the days that both sides have: sixteen months of data, part of the year before, one day lost on either side.
All numbers follow by arithmetic: a page has 10 clicks a day until 23 March 2026 and 7 since.
"""

from datetime import date, timedelta

import polars as pl
import pytest
from django.test import Client

from tests.conftest import keep
from zugzwang.core.facts.grains import DAY, PAGE, PAGE_QUERY, QUERY, VISITS
from zugzwang.core.facts.periods import Period, like_for_like, longest_fair
from zugzwang.core.facts.visits import CHANNELS
from zugzwang.data.models import Page, Query, Site

FIRST, LAST = date(2025, 7, 21), date(2026, 11, 15)  # 69 weeks
LOST_NOW, LOST_THEN = date(2026, 9, 2), date(2025, 8, 20)  # the second is the counterpart of 19 August 2026
YEAR = {"first": "2025-11-17", "last": "2026-11-15", "compare": "year"}  # 52 weeks, of which 17 have a year before
COMMON = 17 * 7 - 2


def made(site: Site) -> None:
    """All search data belong to one page; a second page in its folder with one visit makes the folder a section."""
    Page.objects.create(id=1, site=site, text="https://shop.example/guides/a")
    Page.objects.create(id=2, site=site, text="https://shop.example/guides/b")
    Query.objects.create(id=1, site=site, text="canoe hire")
    days = [FIRST + timedelta(days=day) for day in range((LAST - FIRST).days + 1)]
    days = [day for day in days if day not in (LOST_NOW, LOST_THEN)]
    clicks = pl.Series("clicks", [10 if day < date(2026, 3, 23) else 7 for day in days], dtype=pl.UInt32)
    facts = pl.DataFrame({"day": days}).with_columns(clicks, impressions=pl.lit(100, pl.UInt32), position=pl.lit(4.0))
    for grain in (DAY, PAGE, QUERY, PAGE_QUERY):
        ids = [pl.lit(1, pl.UInt32).alias(name) for name in ("page", "query") if name in grain.schema]
        keep(site, facts.with_columns(ids), grain=grain)
    organic = pl.lit(CHANNELS.index("organic"), pl.UInt8)
    visits = facts.select("day", sessions="clicks").with_columns(page=pl.lit(1, pl.UInt32), channel=organic)
    visits = visits.filter(pl.col("day") >= FIRST + timedelta(days=28))
    other = visits.filter(pl.col("day") == LAST).with_columns(page=pl.lit(2, pl.UInt32), sessions=pl.lit(1, pl.UInt32))
    keep(site, pl.concat([visits, other]), grain=VISITS)
    site.refresh_from_db()


@pytest.fixture
def shop(signed_in: Client, site: Site) -> Client:
    made(site)
    return signed_in


def asked(client: Client, path: str, **more: object) -> dict:
    answer = client.get(f"/api/sites/shop/{path}", {**YEAR, "min_impressions": 0, **more})
    assert answer.status_code == 200, answer.content
    return answer.json()


def measure(result: list[dict], name: str) -> tuple[float, float, float]:
    one = next(one for one in result if one["name"] == name)
    return one["now"], one["before"], one["change_share"]


def test_only_days_that_both_years_have_are_compared(shop: Client) -> None:
    now, then, share = COMMON * 7, COMMON * 10, pytest.approx(-0.3)
    result = asked(shop, "changes")
    assert measure(result["measures"], "clicks") == (now, then, share)
    # The visits began four weeks later; one more was to the other page.
    assert measure(result["measures"], "sessions")[:2] == ((COMMON - 28) * 7 + 1, (COMMON - 28) * 10)
    assert "in the 117 days of 52 weeks to 15 Nov 2026 that can be compared" in result["sentences"][0]
    assert result["change"]["clicks_after"] - result["change"]["clicks_before"] == now - then
    assert result["down"][0]["by"] == now - then
    page, query = asked(shop, "pages/1"), asked(shop, "queries/1")
    for extras in (page["compared"], query["compared"], asked(shop, "rows/1/1", lens="low-ctr")["compared"]):
        assert measure(extras, "clicks") == (now, then, share)
    assert page["account"]["change"] == query["pages"][0]["change"] == now - then
    assert page["change"]["clicks_after"] == now
    for finding in ("pages", "change", "landing-pages"):
        row = asked(shop, f"findings/{finding}")["rows"][0]
        assert (row["clicks_before"], row["change"]) == (then, now - then), finding
    (section,) = (row for row in asked(shop, "findings/sections")["rows"] if row["section"] == "/guides/")
    assert (section["clicks_before"], section["impressions_before"]) == (then, COMMON * 100)


@pytest.mark.parametrize("path", ["changes", "findings/pages", "findings/change", "queries/1"])
def test_too_few_common_days_are_said_first_with_a_period_that_can_be_compared(shop: Client, path: str) -> None:
    result = asked(shop, path)["comparison"]
    assert result["sentence"].startswith(f"The comparison covers {COMMON} of 364 days")
    assert result["fair"] == {"first": "2026-07-20", "last": "2026-11-15"}
    fair = asked(shop, path, **result["fair"])["comparison"]
    assert (fair["days"], fair["fair"]) == (COMMON, None)
    assert asked(shop, path, first="2026-10-05")["comparison"] is None


def test_a_file_names_the_days_that_are_compared(shop: Client) -> None:
    answer = shop.get("/api/sites/shop/findings/pages/file", {**YEAR, "format": "json"})
    assert f"covers {COMMON} of 364 days" in b"".join(answer).decode()  # type: ignore[arg-type]


def test_without_a_common_day_nothing_is_compared(shop: Client) -> None:
    result = asked(shop, "changes", first="2025-07-21", last="2025-09-28")
    assert result["before"] is result["change"] is None
    assert result["comparison"]["sentence"].startswith("No comparison: none of the 70 days")
    assert result["measures"][0]["change_share"] is None
    assert result["measures"][0]["now"] == 690
    row = asked(shop, "findings/pages", first="2025-07-21", last="2025-09-28")["rows"][0]
    assert row.get("change") is None


def test_a_kind_of_data_without_a_year_before_is_not_compared(signed_in: Client, site: Site) -> None:
    """The site's totals go back a year further than its rows: totals are compared, rows are not."""
    Page.objects.create(id=1, site=site, text="https://shop.example/a")
    Query.objects.create(id=1, site=site, text="canoe hire")
    counts = {"clicks": pl.lit(7, pl.UInt32), "impressions": pl.lit(100, pl.UInt32), "position": pl.lit(4.0)}
    for grain, weeks in ((DAY, 69), (PAGE_QUERY, 20)):
        days = pl.DataFrame({"day": [LAST - timedelta(days=day) for day in range(7 * weeks)]}).with_columns(**counts)
        ids = [pl.lit(1, pl.UInt32).alias(name) for name in ("page", "query") if name in grain.schema]
        keep(site, days.with_columns(ids), grain=grain)
    site.refresh_from_db()
    days = {"first": "2026-08-17"}
    result = asked(signed_in, "changes", **days)
    assert measure(result["measures"], "clicks") == (637, 637, 0)
    assert result["change"] is None
    assert asked(signed_in, "findings/pages", **days)["rows"][0]["change"] is None
    assert asked(signed_in, "pages/1", **days)["compared"][0]["before"] is None


def test_both_periods_leave_out_the_same_days() -> None:
    now, then = Period(date(2026, 3, 2), date(2026, 3, 8)), Period(date(2026, 2, 23), date(2026, 3, 1))
    present = {date(2026, 2, 23) + timedelta(days=day) for day in (0, 1, 2, 4, 5, 6, 7, 8, 9, 10, 11)}
    pair = like_for_like(now, then, [present])
    assert pair is not None
    assert [day.day for day in pair[0].without] == [5, 7, 8]
    assert [day.day for day in pair[1].without] == [26, 28, 1]
    assert like_for_like(now, then, [present, set()]) is None
    assert longest_fair(present, 7) == Period(date(2026, 3, 2), date(2026, 3, 6))
    assert longest_fair(present, 70) is None
