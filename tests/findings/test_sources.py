"""The data of each source, and checks of their soundness."""

from datetime import date, timedelta

import polars as pl
import pytest
from django.test import Client

from tests.conftest import keep
from zugzwang.core.facts.grains import CRAWL_PAGES, DAY, PAGE, PAGE_QUERY, VISITS, Grain, withheld
from zugzwang.core.facts.soundness import sudden_days
from zugzwang.data.models import Page, Site
from zugzwang.intake.sources import SourceLoaded, sources

FIRST = date(2026, 10, 1)


def days(counts: list[int | None], grain: Grain = PAGE_QUERY) -> pl.DataFrame:
    """One row a day with the clicks (or sessions); None: the day is missing."""
    rows = [(FIRST + timedelta(days=number), count) for number, count in enumerate(counts) if count is not None]
    frame = pl.DataFrame(rows, schema=["day", "clicks"], orient="row")
    if grain is VISITS:
        return frame.select("day", page=pl.lit(1), channel=pl.lit(0), sessions="clicks")
    ids = {name: pl.lit(1) for name in ("page", "query") if name in grain.schema}
    return frame.with_columns(**ids, impressions=pl.col("clicks") + 100, position=pl.lit(3.0))


def held(site: Site) -> dict[str, SourceLoaded]:
    return {one.source: one for one in sources(Site.objects.get(id=site.id))}


def test_holes_and_sudden_days_are_told(site: Site) -> None:
    keep(site, days([100, 90, None, 110, 95, 8, 100, None, 105]))
    result = held(site)["search"]
    grain = result.grains[0]
    assert (grain.first_day, grain.last_day, [day.day for day in grain.missing]) == (FIRST, date(2026, 10, 9), [3, 8])
    assert [one.message for one in result.unsound] == [
        "2 days are missing between its first and last day (page × query).",
        "1 day has at most a tenth of the days around it (page × query).",
    ]
    assert result.unsound[1].examples == ["6 Oct 2026"]
    assert (result.loaded_from, result.rows) == ("a test's", 7)


def test_a_tenth_of_little_is_chance() -> None:
    assert sudden_days([(FIRST + timedelta(days=n), count) for n, count in enumerate([9, 8, 0, 9, 10])]) == []
    worked = [(FIRST + timedelta(days=n), count) for n, count in enumerate([100, 90, 8, 110, 95])]
    assert sudden_days(worked) == [FIRST + timedelta(days=2)]  # the example of the docstring


def test_a_source_that_is_older_than_the_others_is_told(site: Site) -> None:
    keep(site, days([100] * 20))
    keep(site, days([50] * 9, VISITS), grain=VISITS)
    assert [one.message for one in held(site)["visits"].unsound] == ["It ends on 9 Oct 2026, 11 days before the newest source."]


def test_clicks_without_pages_are_told(site: Site) -> None:
    keep(site, days([100] * 10, DAY), grain=DAY)
    keep(site, days([80] * 7))
    assert "3 days have clicks but no pages that were clicked." in [one.message for one in held(site)["search"].unsound]


def test_what_is_withheld_is_the_difference_and_never_invented(site: Site) -> None:
    keep(site, days([100] * 5, PAGE), grain=PAGE)
    keep(site, days([70] * 3))  # on the days of both alone: 3 · (100 − 70)
    page = next(grain for grain in held(site)["search"].grains if grain.name == "page")
    assert (page.clicks, page.withheld_clicks) == (500, 90)
    anonymised = withheld(days([50], PAGE), days([32]), ["page"])
    assert anonymised.rows() == [(1, 18, 18)]  # the example of the docstring
    assert withheld(days([50], PAGE), days([60]), ["page"])["clicks"].to_list() == [-10]  # unsound, and reported as it is


def test_pages_that_crawl_and_search_do_not_share_are_told(site: Site) -> None:
    Page.objects.create(id=1, site=site, text="https://shop.example/shown")
    keep(site, days([10] * 3))
    assert held(site)["crawl"].unsound == []
    addresses = ["https://shop.example/met", "https://shop.example/gone"]
    keep(site, pl.DataFrame({"address": addresses, "status": [200, 404]}), grain=CRAWL_PAGES)
    result = held(site)["crawl"]
    assert [one.examples for one in result.unsound] == [["https://shop.example/shown"], ["https://shop.example/met"]]
    assert result.says == "1 page that answered, 1 that did not, 0 others."


@pytest.mark.django_db(transaction=True)
def test_loads_are_listed_reported_and_taken_back_over_http(signed_in: Client, site: Site) -> None:
    keep(site, days([10] * 3))
    keep(site, days([20, 20]))
    listed = signed_in.get("/api/sites/shop/loads").json()
    assert (listed["total"], [one["source"] for one in listed["loads"]]) == (2, ["search", "search"])
    assert signed_in.get("/api/sites/shop/sources").json()[0]["grains"][0]["clicks"] == 50
    newest = listed["loads"][0]["id"]
    back = signed_in.post(f"/api/sites/shop/loads/{newest}/undo").json()
    assert back["taken_back_by"] == "analyst"
    assert signed_in.get("/api/sites/shop/sources").json()[0]["grains"][0]["clicks"] == 30
    assert signed_in.post(f"/api/sites/shop/loads/{newest}/undo").status_code == 422
    assert signed_in.get("/api/sites/shop/loads/999999").status_code == 404
