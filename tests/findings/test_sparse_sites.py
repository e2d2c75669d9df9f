"""Sites with only some sources: every finding answers or says what is missing; and computations after a load succeed."""

from datetime import date, timedelta

import polars as pl
import pytest
from django.test import Client
from django.utils import timezone

from tests.conftest import keep
from zugzwang.core.facts.grains import CRAWL_PAGES, DAY, OF_SPANS, PAGE, PAGE_QUERY, QUERY, RESULTS, VISITS, VOLUMES, Grain
from zugzwang.data.models import Page, Query, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.findings.registry import FINDINGS
from zugzwang.subjects.warming import warm

DAYS = [date(2026, 9, 1) + timedelta(days=day) for day in range(60)]


def rows_of(grain: Grain) -> pl.DataFrame:
    days = pl.DataFrame({"day": DAYS}) if grain.dated else pl.DataFrame({"first": DAYS[:1], "last": DAYS[-1:]})
    things = [name for name in ("page", "query") if grain.schema.get(name) == pl.UInt32]
    for name in things:
        days = days.join(pl.DataFrame({name: pl.Series([1, 2, 3], dtype=pl.UInt32)}), how="cross")
    if grain.source == "visits":
        return days.with_columns(channel=pl.lit(1, pl.UInt8), sessions=pl.lit(5, pl.UInt32))
    return days.with_columns(clicks=pl.lit(3, pl.UInt32), impressions=pl.lit(90, pl.UInt32), position=pl.lit(4.0))


def undated(grain: Grain) -> pl.DataFrame:
    made = {
        CRAWL_PAGES.name: pl.DataFrame({"address": ["https://shop.example/p1"], "status": [200], "content": ["p\tWords."]}),
        VOLUMES.name: pl.DataFrame({"query": pl.Series([1], dtype=pl.UInt32), "searches": [900.0]}),
        RESULTS.name: pl.DataFrame({"query": pl.Series([1], dtype=pl.UInt32), "rank": [1], "captured": [DAYS[-1]]}),
    }[grain.name]
    return made.cast({name: kind for name, kind in grain.schema.items() if name in made.columns})  # type: ignore[arg-type]


@pytest.mark.parametrize(
    "grains",
    [
        (), (DAY,), (PAGE,), (QUERY,), (PAGE_QUERY,), (VISITS,), (CRAWL_PAGES,), (DAY, VOLUMES), (PAGE, RESULTS),
        (OF_SPANS[DAY.name],), (OF_SPANS[PAGE.name],), (OF_SPANS[QUERY.name],), (OF_SPANS[PAGE_QUERY.name],),
        (OF_SPANS[PAGE.name], OF_SPANS[DAY.name]), (OF_SPANS[VISITS.name],),
    ],
    ids=lambda held: "+".join(one.name for one in held) or "nothing",
)  # fmt: skip
def test_every_finding_answers_or_says_what_it_lacks(signed_in: Client, site: Site, grains: tuple[Grain, ...]) -> None:
    for number in (1, 2, 3):
        Page.objects.create(id=number, site=site, text=f"https://shop.example/p{number}")
        Query.objects.create(id=number, site=site, text=f"query {number}")
    for grain in grains:
        keep(site, undated(grain) if grain in (CRAWL_PAGES, VOLUMES, RESULTS) else rows_of(grain), grain=grain)
    site.refresh_from_db()
    if grains:
        warm(Snapshot(site), lambda *_: None, timezone.localdate())
    pages = signed_in.get("/api/sites/shop/findings/pages").json()
    if pages.get("rows") and PAGE_QUERY not in grains and OF_SPANS[PAGE_QUERY.name] not in grains:
        assert "None of" not in " ".join(pages["sentences"])
        file = signed_in.get(f"/api/sites/shop/pages/{pages['rows'][0]['page_id']}").json()
        assert any("Not judged" in reason for reason in file["reasons"]) or file["account"]["lost"]
    for path in ("changes", "pages/1", "queries/1", "titles/1", "links/1", "sources", "report", "facets", "brand/suggestions"):
        answer = signed_in.get(f"/api/sites/shop/{path}")
        assert answer.status_code in (200, 404, 422), (path, answer.content)
    for name in FINDINGS:
        answer = signed_in.get(f"/api/sites/shop/findings/{name}")
        assert answer.status_code in (200, 404, 422), (name, answer.content)


def test_without_the_text_of_a_page_nothing_is_missing_on_it(signed_in: Client, site: Site) -> None:
    """A crawl table with only titles and headings: every query would look missing. One page has its text and is judged."""
    for number in (1, 2, 3):
        Page.objects.create(id=number, site=site, text=f"https://shop.example/p{number}")
        Query.objects.create(id=number, site=site, text=f"query {number}")
    keep(site, rows_of(PAGE_QUERY), grain=PAGE_QUERY)
    crawl = pl.DataFrame({"address": [f"https://shop.example/p{n}" for n in (1, 2, 3)]}).with_columns(
        status=200,
        title=pl.lit("A title"),
        headings=pl.lit(["h1 Heading"]),
        main_text=pl.Series([None, None, "Words and words."]),
    )
    kinds = {name: kind for name, kind in CRAWL_PAGES.schema.items() if name in crawl.columns}
    keep(site, crawl.cast(kinds), grain=CRAWL_PAGES)  # type: ignore[arg-type]
    site.refresh_from_db()
    result = signed_in.get("/api/sites/shop/findings/missing-queries", {"min_impressions": 0}).json()
    assert {row["page_id"] for row in result["rows"]} == {3}
    assert "no text of 2 of 3 pages" in result["lacking"][0]
    assert "load a crawl table with the text" in result["lacking"][0]
