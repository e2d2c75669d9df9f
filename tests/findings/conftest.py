"""A small shop with every source: five pages, eight rows, one page that lost rank, one competing listing."""

from dataclasses import replace
from datetime import date, timedelta
from functools import cache
from typing import Any

import numpy as np
import polars as pl
import pytest

from tests.conftest import keep
from zugzwang.access import OPERATOR
from zugzwang.core.facts.cleaning import PageType, QueryGroup, Rules
from zugzwang.core.facts.grains import CRAWL_PAGES, DAY, PAGE, VISITS
from zugzwang.core.facts.visits import CHANNELS
from zugzwang.data.models import Event, Page, Query, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.findings.registry import FINDINGS
from zugzwang.findings.table import Answer, ask
from zugzwang.findings.view import ViewOptions
from zugzwang.intake import cleaning

TODAY = date(2026, 11, 23)
LAST = date(2026, 11, 15)
DAYS = 7 * 66
FIRST = LAST - timedelta(days=DAYS - 1)
PAGES = {
    1: "https://shop.example/guides/paddle-size/",
    2: "https://shop.example/guides/canoe-care/",
    3: "https://shop.example/kayak/sea/",
    4: "https://shop.example/tag/paddles/",
    5: "https://shop.example/guides/",
}
QUERIES = {1: "paddle size", 2: "canoe care", 3: "sea kayak", 4: "shop hours", 5: "kayak for the sea"}
# page, query, position, shown a day, clicked next to the usual, days (from the first), device
ROWS = [
    (1, 1, 5.0, 60, 1.0, (0, DAYS), 2),
    (1, 1, 4.0, 40, 1.0, (0, DAYS), 1),
    (2, 2, 7.0, 80, 1.0, (0, DAYS), 2),
    (3, 3, 3.0, 90, 1.0, (0, DAYS - 91), 2),
    (3, 3, 9.0, 90, 1.0, (DAYS - 91, DAYS), 2),  # lost rank 13 weeks ago
    (3, 5, 6.0, 30, 1.0, (0, DAYS), 2),
    (4, 1, 6.0, 70, 1.0, (DAYS - 91, DAYS), 2),  # a listing is shown next to the guide
    (5, 4, 1.2, 50, 1.6, (0, DAYS), 2),
]


def answer(shop: Site, finding: str, asked: ViewOptions | None = None, today: date = TODAY, **more: Any) -> Answer:
    """The answer of a finding for the shop."""
    shop.refresh_from_db()
    return ask(Snapshot(shop), FINDINGS[finding], replace(asked or ViewOptions(), **more), today)


def rows(shop: Site, finding: str, asked: ViewOptions | None = None, today: date = TODAY, **more: Any) -> list[dict[str, Any]]:
    """All its rows, as returned."""
    return answer(shop, finding, asked, today, **more).window()


@cache
def _facts() -> pl.DataFrame:
    rng = np.random.default_rng(3)
    current = []
    for page, query, position, shown, factor, (first, last), device in ROWS:
        for day in range(first, last):
            seen = int(rng.poisson(shown))
            clicks = int(rng.binomial(seen, min(0.28 * position**-1.1 * factor, 0.9)))
            current.append((FIRST + timedelta(days=day), page, query, device, clicks, seen, position))
    names = ["day", "page", "query", "device", "clicks", "impressions", "position"]
    return pl.DataFrame(current, schema=names, orient="row")


@pytest.fixture
def shop(site: Site) -> Site:
    Page.objects.bulk_create(Page(id=n, site=site, text=text) for n, text in PAGES.items())
    Query.objects.bulk_create(Query(id=n, site=site, text=text) for n, text in QUERIES.items())
    facts = _facts()
    keep(site, facts)
    by_page = facts.group_by("day", "page").agg(pl.col("clicks", "impressions").sum() + 1, pl.col("position").mean())
    keep(site, by_page, grain=PAGE)
    keep(site, by_page.group_by("day").agg(pl.col("clicks", "impressions").sum() + 2, pl.col("position").mean()), grain=DAY)
    organic = CHANNELS.index("organic")
    visits = by_page.select("day", "page", channel=pl.lit(organic), sessions="clicks", bounces=pl.col("clicks") // 2)
    sold = pl.when(pl.col("page") == 3).then(pl.col("sessions") / 10).otherwise(0.0)
    keep(site, visits.with_columns(conversions=sold, value=sold * 50), grain=VISITS)
    crawl = {"address": list(PAGES.values()), "title": ["Paddle size", "Canoe care", "Boats", "Tag: paddle size", "Guides"]}
    keep(site, pl.DataFrame({**crawl, "status": [200] * 5, "main_text": ["words"] * 5}), grain=CRAWL_PAGES)
    rules = Rules(
        page_types=(PageType("listing", ("/tag/",), exempt=("queries",)), PageType("guide", ("/guides/",))),
        query_groups=(QueryGroup("paddles", ("paddle",)),),
    )
    Event.objects.create(site=site, first_day=LAST - timedelta(days=88), last_day=LAST, title="New templates")
    site.refresh_from_db()
    cleaning.keep(OPERATOR, "shop", rules)
    site.brand_patterns = ["shop"]
    site.min_impressions = 50
    site.save(update_fields=["brand_patterns", "min_impressions"])
    site.refresh_from_db()
    return site
