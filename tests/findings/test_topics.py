"""Topics of a known site: subjects, seasons, shares, and content gaps."""

from datetime import date, timedelta
from typing import Any

import numpy as np
import polars as pl
import pytest

from tests.conftest import keep
from tests.findings.conftest import answer, rows
from zugzwang.access import OPERATOR
from zugzwang.core.facts.grains import CRAWL_PAGES, PAGE_QUERY, RESULTS, VOLUMES
from zugzwang.data.decided import Subject
from zugzwang.data.models import Page, Query, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid
from zugzwang.findings.view import ViewOptions
from zugzwang.plan.proposals import propose
from zugzwang.plan.topics import edit, undo

SUBJECTS = ["canoe", "kayak", "rudder", "anchor", "helmet", "lantern"]
KINDS = ["storage", "sizes", "repair", "straps", "paint"]
MISSING = ["insurance", "auction", "museum", "festival", "licence", "carving"]
# Someone else's site, what the site is not about, what a page says in full, what hardly anybody searches.
DECOYS = {
    "riverclub canoe": 900, "pizza oven": 800, "pizza dough oven": 700, "kayak repair": 400, "helmet glue": 9, "glue helmet": 8,
}  # fmt: skip
WORDS = ("north", "south", "cheaply", "law")
PEAKS = {0: 6, 1: 12, 2: 3}  # subjects with a season: their month
LAST = date(2026, 11, 15)
TODAY = date(2026, 11, 23)


@pytest.fixture
def shop(site: Site) -> Site:
    rng = np.random.default_rng(3)
    pages = [(subject, kind) for subject in range(6) for kind in range(5)]
    shown = [f"{SUBJECTS[subject]} {KINDS[kind]} {word}" for subject, kind in pages for word in ("plan", "box", "list")]
    missing = [f"{SUBJECTS[subject]} {MISSING[subject]} {word}" for subject in range(6) for word in WORDS]
    texts = [*shown, *missing, *DECOYS]
    addresses = [f"https://shop.example/{SUBJECTS[subject]}/{KINDS[kind]}/" for subject, kind in pages]
    Page.objects.bulk_create(Page(id=number + 1, site=site, text=text) for number, text in enumerate(addresses))
    Query.objects.bulk_create(Query(id=number + 1, site=site, text=text) for number, text in enumerate(texts))
    facts = [(number + 1, number // 3 + 1, 40.0) for number in range(len(shown))]
    # Three of the missing ones rank for, on pages that say half of nothing of them.
    facts += [(len(shown) + 4 * subject + word + 1, 5 * subject + 1, 15.0) for subject in range(3) for word in range(4)]
    result = [
        (LAST - timedelta(days=day), page, query, int(rng.binomial(seen, 0.05)), seen, 4.0 + query % 5)
        for query, page, usual in facts
        for day in range(28)
        if (seen := int(rng.poisson(usual)))
    ]
    names = ["day", "page", "query", "clicks", "impressions", "position"]
    keep(site, pl.DataFrame(result, schema=names, orient="row"), grain=PAGE_QUERY)
    _crawl(site, addresses, pages)
    _volumes(site, texts, len(shown), rng)
    _results(site, texts, len(shown))
    site.refresh_from_db()
    return site


def _crawl(site: Site, addresses: list[str], pages: list[tuple[int, int]]) -> None:
    site.refresh_from_db()
    titles = [f"{SUBJECTS[subject]} {KINDS[kind]}".title() for subject, kind in pages]
    keep(site, pl.DataFrame({"address": addresses, "status": [200] * 30, "title": titles}), grain=CRAWL_PAGES)


def _volumes(site: Site, texts: list[str], shown: int, rng: np.random.Generator) -> None:
    site.refresh_from_db()
    result = []
    for number, text in enumerate(texts):
        subject = next((place for place, word in enumerate(SUBJECTS) if text.startswith(word)), None)
        usual = DECOYS.get(text, 300 if number < shown else 200)
        for month in range(1, 13):
            wave = np.exp(np.cos(2 * np.pi * (month - PEAKS[subject]) / 12)) if subject in PEAKS else 1.0
            searches = int(usual * wave * rng.lognormal(0, 0.1))
            first = date(2026 if month < 11 else 2025, month, 1)
            result.append((number + 1, 826, first, searches, 0.5 + (subject or 0), False))
    keep(site, pl.DataFrame(result, VOLUMES.schema, orient="row"), grain=VOLUMES)


def _results(site: Site, texts: list[str], shown: int) -> None:
    """SERPs for a third of the queries: each subject and kind has its own ten results."""
    site.refresh_from_db()
    blocks = []
    for number, text in enumerate(texts):
        if number % 3 and number < shown:
            continue
        key = "-".join(text.split()[:2])
        if text in DECOYS:
            key = "pizza" if "pizza" in text else text.replace(" ", "-")
        for place in range(1, 10):
            host = "riverclub" if text == "riverclub canoe" and place == 1 else f"{text.split()[0]}{place % 3}"
            of = key if place % 2 else text.split()[0]  # half of them represent all of a subject
            address = f"https://{host}.example/{of}/{place}"
            blocks.append((number + 1, 826, 1, LAST, place, "organic", None, 100, text, address, None))
    keep(site, pl.DataFrame(blocks, RESULTS.schema, orient="row"), grain=RESULTS)


def by_name(site: Site) -> dict[str, dict[str, Any]]:
    return {row["topic"].split()[0]: row for row in rows(site, "topics", today=TODAY)}


def test_topics_are_the_subjects_with_their_seasons_and_what_is_won(shop: Site) -> None:
    found = by_name(shop)
    assert set(SUBJECTS) <= set(found)
    of_topic = {row["query"]: row["topic"] for row in rows(shop, "topic-queries")}
    for word in SUBJECTS:
        own = [topic for query, topic in of_topic.items() if query.startswith(word)]
        assert own.count(found[word]["topic"]) >= 0.95 * len(own)
    for number, word in enumerate(SUBJECTS):
        row = found[word]
        assert row["peak_month"] == PEAKS.get(number), word
        assert row["price_per_click"] == pytest.approx(0.5 + number, abs=0.05)
        assert row["pages"] == 5
        assert row["share_won"] == pytest.approx(row["clicks"] / row["searches"], rel=0.01)
    assert found["kayak"]["ready_by"] == date(2027, 8, 1)  # the index passes 1 in October; this season is under way
    assert found["canoe"]["instead"][0].startswith("canoe")


def test_the_pages_that_are_missing_and_no_others(shop: Site) -> None:
    result = rows(shop, "content-gaps", today=TODAY)
    assert {frozenset(row["queries"]) for row in result} == {
        frozenset(f"{subject} {missing} {word}" for word in WORDS) for subject, missing in zip(SUBJECTS, MISSING, strict=True)
    }
    assert {row["ranking_queries"] for row in result if row["topic"].startswith("helmet")} == {0}
    assert all(700 < row["searches"] < 1_100 for row in result)  # 4 × 200, with a season 4 × 253
    first = result[0]
    proposal = propose(Snapshot(shop), ViewOptions(), [Subject(None, first["query_id"])], "content-gaps", TODAY)[0]
    assert (proposal["kind"], proposal["effort"], proposal["gain"]) == ("write", "week", None)
    assert proposal["reason"] == first["reason"]


def test_what_people_change_holds_and_can_be_taken_back(shop: Site) -> None:
    before = by_name(shop)
    ids = {word: before[word]["topic_id"] for word in SUBJECTS}
    edit(OPERATOR, "shop", "join", [ids["canoe"], ids["kayak"]])
    edit(OPERATOR, "shop", "name", [ids["helmet"]], "Heads")
    dropped = edit(OPERATOR, "shop", "drop", [ids["lantern"]])
    now = {row["topic"]: row for row in rows(shop, "topics")}
    joined = next(row for name, row in now.items() if name.split()[0] in ("canoe", "kayak"))
    assert joined["queries"] >= before["canoe"]["queries"] + before["kayak"]["queries"] - 2
    assert "Heads" in now
    assert not any(name.startswith("lantern") for name in now)
    # A topic is a part of the site everywhere.
    low = answer(shop, "striking-distance", min_impressions=1, topic=("Heads",))
    assert {row["query"].split()[0] for row in low.window()} == {"helmet"}
    assert {row["page"].split("/")[3] for row in rows(shop, "pages", topic=("Heads",)) if row["rows"]} == {"helmet"}
    # An address that was kept before still leads there; a topic that was dropped has nothing.
    former = before["helmet"]["topic"]
    assert answer(shop, "topic-queries", topic=(former,)).rows["topic"].unique().to_list() == ["Heads"]
    assert rows(shop, "topic-queries", topic=(before["lantern"]["topic"],)) == []
    with pytest.raises(Invalid, match="no topic “Tails”"):
        rows(shop, "pages", topic=("Tails",))
    undo(OPERATOR, "shop", dropped["id"])
    assert any(name.startswith("lantern") for name in {row["topic"] for row in rows(shop, "topics")})
    for kind, queries, name in (("join", [1], ""), ("name", [1], " "), ("twist", [1], "")):
        with pytest.raises(Invalid):
            edit(OPERATOR, "shop", kind, queries, name)
