"""Links to a page and from it, folded addresses counted as the page that they are."""

import polars as pl

from tests.conftest import keep
from tests.findings.conftest import PAGES
from zugzwang.core.facts.grains import CRAWL_LINKS, LINKS
from zugzwang.data.models import Page, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.subjects.page import links_of


def test_links_count_pages_not_addresses_and_tell_the_menu_from_the_text(shop: Site) -> None:
    assert links_of(Snapshot(shop), 1) is None  # no crawl told links yet
    Page.objects.create(id=6, site=shop, text=f"{PAGES[2]}?utm_source=letter")  # folds into page 2
    unseen = "https://shop.example/never-shown/"
    rows = [
        (PAGES[2], PAGES[1], "paddle size", True),
        (f"{PAGES[2]}?utm_source=letter", PAGES[1], "paddle size", True),  # the same page once more
        (PAGES[3], PAGES[1], "Guides", False),
        (unseen, PAGES[1], "Guides", False),
        (PAGES[1], PAGES[1], "to the top", True),  # its own link is none
        (PAGES[1], PAGES[3], "boats", True),
        (PAGES[1], unseen, "more", True),
    ]
    names = ["from_address", "to_address", "anchor", "in_body"]
    keep(shop, pl.DataFrame(rows, schema=names, orient="row").with_columns(followed=True), grain=CRAWL_LINKS)
    shop.refresh_from_db()
    told = links_of(Snapshot(shop), 1)
    assert told == {
        "pages_in": 3,
        "pages_in_body": 1,
        "anchors": [{"anchor": "Guides", "pages": 2}, {"anchor": "paddle size", "pages": 1}],
        "from_body": [PAGES[2]],
        "pages_out": 2,
        "sites": None,
    }
    others = pl.DataFrame(
        {"from_address": ["https://a.example/x", "https://www.a.example/y"], "page": [1, 1], "anchor": ["a", "b"]}
    )
    keep(shop, others.with_columns(followed=True), grain=LINKS)
    shop.refresh_from_db()
    told = links_of(Snapshot(shop), 1)
    assert told is not None
    assert told["sites"] == 1  # two pages of one site
