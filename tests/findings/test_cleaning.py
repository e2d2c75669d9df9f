"""A site's rules: their effect before saving, who may save them, and how to restore earlier ones; and their effect on the
lenses.
"""

from datetime import date, timedelta

import polars as pl
import pytest
from django.contrib.auth.models import User
from django.test import Client

from tests.conftest import keep
from zugzwang.access import OPERATOR, Actor
from zugzwang.core.facts.cleaning import PageType, QueryGroup, Rules
from zugzwang.core.facts.grains import CRAWL_PAGES
from zugzwang.core.facts.search import SCHEMA
from zugzwang.data.models import Membership, Page, Query, RuleChange, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid, NotAllowed
from zugzwang.findings.registry import FINDINGS
from zugzwang.findings.table import ask
from zugzwang.findings.view import ViewOptions
from zugzwang.intake import cleaning
from zugzwang.subjects.row import tell_row

MONDAY = date(2026, 11, 9)
PAGES = [
    "https://shop.example/a/",
    "https://shop.example/a/?utm_source=x",
    "https://staging.shop.example/a/",
    "https://shop.example/tag/b/",
]


@pytest.fixture
def shop(site: Site) -> Site:
    """Four addresses of two pages and a copy, each with one query on seven days."""
    Page.objects.bulk_create(Page(id=n, site=site, text=text) for n, text in enumerate(PAGES, start=1))
    Query.objects.create(id=1, site=site, text="kayak hire")
    rows = [(MONDAY + timedelta(days=day), page, 1, page, 40, 3.0) for day in range(7) for page in range(1, 5)]
    keep(site, pl.DataFrame(rows, schema=SCHEMA, orient="row"))
    return site


def test_the_effect_is_told_before_anything_is_kept(shop: Site) -> None:
    rules = Rules(
        left_out=("//staging\\.",),
        page_types=(PageType("listing", ("/tag/",)), PageType("product", structured_data=("Product",))),
        query_groups=(QueryGroup("hire", ("hire",)), QueryGroup("none", ("zzz",))),
    )
    result = cleaning.effect(shop, rules)
    assert (result["pages"], result["pages_counting"], result["folded"], result["left_out"]) == (4, 2, 1, 1)
    assert result["folded_by_reason"] == {"parameters": 1}
    assert result["folded_examples"] == [{"from": PAGES[1], "to": PAGES[0], "reasons": ["parameters"], "clicks": 14}]
    assert result["left_out_clicks_share"] == pytest.approx(21 / 70)
    assert [(one["name"], one["count"], one["clicks"]) for one in result["types"]] == [
        ("listing", 1, 28),
        ("product", 0, 0),
        ("", 1, 21),
    ]
    assert [(one["name"], one["count"]) for one in result["groups"]] == [("hire", 1), ("none", 0), ("", 0)]
    assert result["hosts"] == [{"host": "staging.shop.example", "pages": 1, "clicks": 21}]
    shop.refresh_from_db()
    assert shop.rules == {}


def test_structured_data_of_the_crawl_tells_types(shop: Site) -> None:
    crawl = pl.DataFrame({"address": [PAGES[0]], "status": [200], "structured_data": [["Product"]]})
    keep(shop, crawl, grain=CRAWL_PAGES)
    result = cleaning.effect(shop, Rules(page_types=(PageType("product", structured_data=("Product",)),)))
    assert result["types"][0]["examples"] == [PAGES[0]]


def test_lenses_count_pages_as_the_rules_say_and_go_back_with_them(shop: Site) -> None:
    def counted() -> dict[str, int]:
        site = Site.objects.get(id=shop.id)
        found = ask(Snapshot(site), FINDINGS["low-ctr"], ViewOptions(min_impressions=0), date(2026, 11, 16))
        facts = found.view.snapshot.names.named(found.view.snapshot.facts.listed(found.view.period))
        return dict(facts.group_by("page").agg(pl.col("clicks").cast(pl.Int64).sum()).iter_rows())

    as_is = {PAGES[0]: 7 + 14, PAGES[2]: 21, PAGES[3]: 28}
    assert counted() == as_is
    cleaning.keep(OPERATOR, "shop", Rules(left_out=("//staging\\.",), separate=("utm_source",)))
    assert counted() == {PAGES[0]: 7, PAGES[1]: 14, PAGES[3]: 28}
    cleaning.restore(OPERATOR, "shop", RuleChange.objects.get().id)
    assert counted() == as_is


def test_addresses_of_one_page_on_one_day_are_one_day_of_evidence(shop: Site) -> None:
    asked = ViewOptions(min_impressions=0, compare="previous")
    answer = ask(Snapshot(shop), FINDINGS["low-ctr"], asked, date(2026, 11, 16))
    result = tell_row(answer, "low-ctr", 1, 1)
    assert [(day["clicks"], day["impressions"]) for day in result["days"]] == [(3, 80)] * 7
    assert result["clicks"] == 21


def test_only_who_may_change_the_site_keeps_rules(shop: Site) -> None:
    reader = User.objects.create_user("reader")
    Membership.objects.create(site=shop, user=reader, role=Membership.Role.READER)
    with pytest.raises(NotAllowed):
        cleaning.keep(Actor(reader), "shop", Rules())


@pytest.mark.parametrize(
    ("rules", "message"),
    [
        (Rules(left_out=("[",)), "cannot be used"),
        (Rules(own_networks=("192.0.2.0/99",)), "is not a network"),
        (Rules(page_types=(PageType(" "),)), "needs a name"),
        (Rules(page_types=(PageType("a"), PageType("a"))), "same name"),
        (Rules(page_types=(PageType("a", exempt=("everything",)),)), "cannot be exempt"),
    ],
)
def test_rules_that_make_no_sense_are_refused(shop: Site, rules: Rules, message: str) -> None:
    with pytest.raises(Invalid, match=message):
        cleaning.keep(OPERATOR, "shop", rules)
    assert not RuleChange.objects.exists()


def test_rules_over_http(signed_in: Client, shop: Site) -> None:
    rules = signed_in.get("/api/sites/shop/rules").json()
    assert [one["name"] for one in rules["page_types"]] == ["contact", "listing", "utility"]
    wrong = signed_in.post("/api/sites/shop/rules/effect", {**rules, "left_out": ["["]}, "application/json")
    assert (wrong.status_code, wrong.json()["fields"][0]["field"]) == (422, "left_out")
    kept = signed_in.put("/api/sites/shop/rules", {**rules, "left_out": ["/tag/"]}, "application/json").json()
    assert kept["left_out"] == ["/tag/"]
    again = signed_in.put("/api/sites/shop/rules", kept, "application/json")
    assert again.status_code == 200
    changes = signed_in.get("/api/sites/shop/rules/changes").json()
    assert [(one["by"], one["words"]) for one in changes] == [("analyst", "Changed: pages left out")]
    back = signed_in.post(f"/api/sites/shop/rules/changes/{changes[0]['id']}/restore").json()
    assert back["left_out"] == []
