"""On-page over HTTP: the strip of a page, its title's file, a query's SERP, a chosen main query."""

from datetime import date, timedelta

import polars as pl
import pytest
from django.test import Client

from tests.conftest import keep
from zugzwang.core.facts.grains import ABOVE, CRAWL_PAGES, RESULTS, STRENGTHS
from zugzwang.data.models import MainQuery, Membership, Page, Query, Site

LAST = date(2026, 11, 15)
PAGE, OTHER = "https://shop.example/dry-bags/", "https://rival.example/bags"
CONTENT = "\n".join(
    [
        "h1\tBags that stay dry",
        f"p\t{'Quiet water under a grey sky. ' * 20}",
        "h2\tHow to pack",
        "p\tRoll a dry bag three times.",
    ]
)


@pytest.fixture
def shop(site: Site) -> Site:
    Page.objects.create(id=1, site=site, text=PAGE)
    Query.objects.bulk_create(Query(id=n, site=site, text=text) for n, text in ((1, "dry bag"), (2, "waterproof bag")))
    days = [LAST - timedelta(days=number) for number in range(28)]
    rows = [(day, 1, query, clicks, 200, 4.0) for day in days for query, clicks in ((1, 12), (2, 9))]
    keep(site, pl.DataFrame(rows, schema=["day", "page", "query", "clicks", "impressions", "position"], orient="row"))
    crawled = {
        "address": [PAGE],
        "status": [200],
        "title": ["Bags | Shop"],
        "content": [CONTENT],
        "headings": [["h1 Bags that stay dry"]],
    }
    keep(site, pl.DataFrame(crawled), grain=CRAWL_PAGES)
    blocks = [
        (1, 0, 1, captured, place, block, None, None, "T", address, None)
        for captured, kinds in ((LAST - timedelta(days=28), ["organic"]), (LAST, ["answer box", "organic"]))
        for place, (block, address) in enumerate([*((kind, OTHER) for kind in kinds), ("organic", PAGE)], start=1)
    ]
    keep(site, pl.DataFrame(blocks, RESULTS.schema, orient="row"), grain=RESULTS)
    keep(site, pl.DataFrame([(OTHER, 3, 9), (PAGE, 5, 9)], STRENGTHS.schema, orient="row"), grain=STRENGTHS)
    above = {
        "address": [OTHER],
        "status": [200],
        "title": ["Dry bag"],
        "content": ["h1\tDry bag\np\tA dry bag keeps water out, if one closes it well."],
    }
    keep(site, pl.DataFrame({**above, "fetched": [LAST]}), grain=ABOVE)
    return site


def got(client: Client, path: str, **asked: object) -> dict[str, object]:
    answer = client.get(f"/api/sites/shop/{path}", asked)
    assert answer.status_code == 200, answer.content
    return answer.json()  # type: ignore[no-any-return]


def test_the_strip_tells_where_a_query_is_said(signed_in: Client, shop: Site) -> None:
    result = got(signed_in, "on-page/1", query_id=1)
    assert (result["on_page"], result["exact_uses"], result["where"]) == ("low on the page", 1, ["text"])
    assert [square["exact"] for square in result["squares"]] == [0, 0, 1]  # type: ignore[attr-defined]
    (on_page,) = result["sayings"]  # type: ignore[misc]
    assert (on_page["sentence"], on_page["exact"]) == ("Roll a dry bag three times.", True)
    assert [one["text"] for one in result["headings"]] == ["Bags that stay dry", "How to pack"]  # type: ignore[attr-defined]
    typed = got(signed_in, "on-page/1", phrase="grey skies")
    assert (typed["exact_uses"], typed["other_form_uses"]) == (0, 20)
    assert "is not on this page" in str(got(signed_in, "on-page/1", query_id=2)["sentence"])
    assert signed_in.get("/api/sites/shop/on-page/99").status_code == 404


def test_a_results_page_is_told_with_what_changed_and_what_stands_above(signed_in: Client, shop: Site) -> None:
    result = got(signed_in, "results/1")
    now, before = result["captures"]  # type: ignore[misc]
    assert (now["blocks_above"], before["blocks_above"], before["changed"]) == (2, 1, None)
    assert now["changed"] == "Since 18 Oct 2026 featured snippet appeared."
    extras = result["side_by_side"]
    assert (extras["rank"], extras["rank_within_reach"], extras["stronger"]) == (2, 1, 0)  # type: ignore[index]
    measures = {one["name"]: (one["ours"], one["above"]) for one in extras["measures"]}  # type: ignore[index]
    assert measures["referring_domains"] == (5.0, [3.0])
    assert measures["in_title"] == (0.0, [1.0])
    box = result["box"]
    assert box["finding"]["opening"]  # type: ignore[index]
    assert box["holder"]["text"].startswith("A dry bag keeps")  # type: ignore[index]
    assert "an answer of 40 to 300 characters right below it" in box["finding"]["lacking"]  # type: ignore[index]


def test_a_main_query_is_chosen_by_those_who_may(signed_in: Client, shop: Site) -> None:
    file = got(signed_in, "titles/1")
    assert (file["main_query_id"], file["chosen"]) == (1, False)
    address = "/api/sites/shop/main-queries/1"
    assert signed_in.put(address, {"query_id": 2}, "application/json").status_code == 204
    file = got(signed_in, "titles/1")
    assert (file["main_query_id"], file["chosen"]) == (2, True)
    assert "lacks-main-query-title" in file["finding"]["problems"]  # type: ignore[index]
    assert signed_in.put(address, {"query_id": 77}, "application/json").status_code == 404
    Membership.objects.update(role=Membership.Role.READER)
    assert signed_in.put(address, {"query_id": None}, "application/json").status_code == 403
    assert MainQuery.objects.get().query_id == 2
    assert signed_in.post("/api/sites/shop/above", {"queries": None}, "application/json").status_code == 403
