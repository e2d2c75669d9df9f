"""Diagnoses of a site with every source: which source each uses, the effect of filters, and decisions."""

from datetime import date, timedelta

import polars as pl
import pytest
from django.contrib.auth.models import User
from django.test import Client

from tests.conftest import keep
from tests.findings.conftest import LAST, PAGES, TODAY, answer, rows
from zugzwang.access import OPERATOR, Actor
from zugzwang.core.facts.grains import DAY, LINKS, PAGE, PAGE_QUERY, VOLUMES
from zugzwang.core.time.change import PARTS
from zugzwang.data.decided import Subject
from zugzwang.data.models import Membership, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid, NotAllowed, NotFound
from zugzwang.findings.table import Answer
from zugzwang.findings.view import ViewOptions
from zugzwang.plan.decisions import Decided, decide, undo
from zugzwang.subjects.clash import tell_clash
from zugzwang.subjects.page import tell_page
from zugzwang.subjects.row import tell_row


@pytest.mark.parametrize("by", ["page", "section", "page-type", "site"])
def test_a_change_sums_to_the_totals_however_it_is_added_up(shop: Site, by: str) -> None:
    found = answer(shop, "change", by=by)
    totals = Snapshot(shop).facts.rows(DAY if by == "site" else PAGE, found.view.period)
    after = sum(row["clicks_after"] for row in found.window())
    assert after == totals["clicks"].sum()
    for row in found.window():
        assert sum(row[part] for part in PARTS) == pytest.approx(row["clicks_after"] - row["clicks_before"], abs=1e-6)
    fell = min(found.window(), key=lambda row: row["rank"])
    assert fell[by.replace("-", "_")] == {"page": PAGES[3], "section": "/kayak/", "page-type": "", "site": "shop"}[by]


def test_what_queries_without_a_name_did_is_not_told_where_some_are_left_out(shop: Site) -> None:
    found = answer(shop, "change", ViewOptions(query_group=("paddles",)), by="query")
    assert [row["query"] for row in found.window()] == ["paddle size"]
    by_page = answer(shop, "change", ViewOptions(query_group=("paddles",)))
    assert {row["page"] for row in by_page.window()} == {PAGES[1], PAGES[4]}
    assert all(row["anonymised"] == 0 for row in by_page.window())
    assert "is unknown" in by_page.lacking[0]


def test_an_understudy_is_led_by_the_page_whose_subject_it_is(shop: Site) -> None:
    clash = next(row for row in rows(shop, "clashes") if row["query"] == "paddle size")
    assert clash["lead"] == PAGES[1]
    assert {one["page_id"] for one in clash["contenders"]} == {1, 4}
    assert rows(shop, "clashes", ViewOptions(section="/kayak/")) == []
    assert [row["query"] for row in rows(shop, "clashes", ViewOptions(section="/tag/"))] == ["paddle size"]


def test_a_clash_opens_into_its_days(shop: Site) -> None:
    clash = next(row for row in rows(shop, "clashes") if row["query"] == "paddle size")
    file = tell_clash(Snapshot(shop), ViewOptions(), clash["query_id"], TODAY)
    assert {lane["page_id"] for lane in file["lanes"]} == {1, 4}
    clicks = {one["page_id"]: one["clicks"] for one in clash["contenders"]}
    assert {lane["page_id"]: sum(day["clicks"] for day in lane["days"]) for lane in file["lanes"]} == clicks
    led = [day["day"] for lane in file["lanes"] for day in lane["days"] if day["best"]]
    assert len(led) == len(set(led)) == 91  # one leader a day
    assert next(lane["title"] for lane in file["lanes"] if lane["page_id"] == 1) == "Paddle size"
    with pytest.raises(NotFound):
        tell_clash(Snapshot(shop), ViewOptions(), 2, TODAY)


def test_off_fit_shows_what_its_pages_do_not_say_and_proves_it(shop: Site) -> None:
    """The page on sea kayaks is called "Boats"; its address has the words in the order of one query, not of the other."""
    found = answer(shop, "query-page-mismatch", min_impressions=1)
    result = {row["query"]: row for row in found.window()}
    assert {query: row["fit"] for query, row in result.items()} == {"sea kayak": "loose"}
    assert result["sea kayak"]["advice"] == "All its words are there: use them together."
    proof = tell_row(found, "query-page-mismatch", 3, 3)
    assert any(said.startswith("The page covers the query loosely") for said in proof["sentences"])


def test_a_break_stands_beside_its_event_and_sections_break_too(shop: Site) -> None:
    found = answer(shop, "breaks", measure=("clicks", "impressions"))
    fell = next(row for row in found.window() if row["page_id"] == 3 and row["measure"] == "clicks")
    assert (fell["week"], fell["event"], fell["season_known"]) == (date(2026, 8, 17), "New templates", False)
    assert fell["size"] < -0.4
    sections = answer(shop, "breaks", level="section")
    assert "/kayak/" in {row["section"] for row in sections.window()}
    short = answer(shop, "breaks", ViewOptions(first=LAST - timedelta(days=20), last=LAST))
    assert short.window() == []
    assert "8 whole weeks" in short.lacking[0]


def test_sections_landing_pages_and_accounts_agree(shop: Site) -> None:
    pages, sections, landing = (answer(shop, name) for name in ("pages", "sections", "landing-pages"))
    root = next(row for row in sections.window() if row["section"] == "/")
    guides = next(row for row in sections.window() if row["section"] == "/guides/")
    for name in ("clicks", "impressions", "sessions", "value"):
        assert root[name] == pytest.approx(sum(row[name] for row in pages.window()))
        assert root[name] == pytest.approx(sum(row[name] for row in landing.window()))
    assert guides["page"] == PAGES[5]
    assert guides["clicks_itself"] == next(row["clicks"] for row in pages.window() if row["page_id"] == 5)
    roles = {row["page_id"]: row["role"] for row in landing.window()}
    assert (roles[3], roles[1]) == ("earns", "informs")
    sea = next(row for row in pages.window() if row["page_id"] == 3)
    assert sea["worth_basis"] == "visits of the page"
    assert sea["worth"] == pytest.approx(sea["opportunity_month"] * 5)  # a tenth of sessions brings 50


@pytest.mark.parametrize(
    "asked", [ViewOptions(), ViewOptions(target="first", section="/guides/"), ViewOptions(device=("mobile",))]
)
def test_a_figure_of_an_account_opens_into_its_rows(shop: Site, asked: ViewOptions) -> None:
    row = next(row for row in rows(shop, "pages", asked) if row["page_id"] == 1)
    file = tell_page(Snapshot(shop), asked, 1, TODAY)
    for lever in ("snippet", "rank", "unite"):
        assert row[lever] == pytest.approx(sum(one[lever] or 0.0 for one in file["rows"]))
    assert file["change"]["clicks_after"] == row["clicks"]
    assert {one["query"] for one in file["rows"]} == {"paddle size"}
    assert file["crawl"]["title"] == "Paddle size"
    assert sum(week["clicks"] for week in file["weeks"][-13:]) == row["clicks"]


def test_a_part_of_the_facts_is_held_against_the_curve_of_all(shop: Site) -> None:
    whole, desktop = (answer(shop, "low-ctr", min_impressions=1, device=one) for one in ((), ("desktop",)))
    assert desktop.view.curve.points() == whole.view.curve.points()
    assert set(desktop.rows["page"]) <= {1}
    # The parts of a row are compared with the curves of their devices, as the row itself is.
    parts = [answer(shop, "low-ctr", min_impressions=1, device=(one,)) for one in ("desktop", "mobile")]
    expected = [_expected(one, 1, 1) for one in (whole, *parts)]
    assert expected[0] == pytest.approx(expected[1] + expected[2])
    assert expected[1] != expected[2]
    by_page = answer(shop, "pages", ViewOptions(device=("desktop",)))
    (result,) = by_page.window()
    assert (result["page_id"], result["sessions"]) == (1, None)
    assert any("devices" in said for said in by_page.lacking)


def _expected(found: Answer, page: int, query: int) -> float:
    return float(tell_row(found, "low-ctr", page, query)["expected_clicks"])


def test_searches_beyond_what_was_seen_raise_headroom_beyond_page_one_alone(shop: Site) -> None:
    """Impressions show demand where the site is on page one, and too little beyond it."""
    days = pl.date_range(LAST - timedelta(days=90), LAST, eager=True)
    clicks = [int(day % 5 == 0) for day in range(91)]
    beyond = pl.DataFrame(
        {"day": days, "page": 5, "query": 5, "clicks": clicks, "impressions": 20, "position": 14.0, "device": 2}
    )
    keep(shop, beyond, mode="add")

    def headroom() -> dict[tuple[int, int], float]:
        found = answer(shop, "striking-distance", min_impressions=1).rows
        return {(page, query): value for page, query, value in found.select("page", "query", "potential").iter_rows()}

    seen = headroom()
    keep(shop, pl.DataFrame({"query": [2, 5], "country": [0, 0], "searches": [90_000, 90_000]}), grain=VOLUMES)
    shop.refresh_from_db()
    searched = Snapshot(shop).facts.searches(answer(shop, "pages").view.period)
    assert searched is not None
    assert searched.filter(pl.col("query") == 2)["searches"].item() == pytest.approx(90_000 * 91 / (365.25 / 12))
    result = headroom()
    assert result[5, 5] > 10 * seen[5, 5]
    assert result[2, 2] == pytest.approx(seen[2, 2])


@pytest.mark.parametrize(
    ("lens", "holds"),
    [("low-ctr", pl.lit(True)), ("striking-distance", pl.col("position").is_between(4, 20)), ("outperformers", pl.lit(True))],
)
def test_the_rows_told_as_tested_are_those_that_false_discovery_is_controlled_over(
    shop: Site, lens: str, holds: pl.Expr
) -> None:
    """The smallest q-value of Benjamini and Hochberg cannot be below its p-value times tested rows over listed rows; so the
    reported number is counted again here from the facts.
    """
    found = answer(shop, lens, min_impressions=300)
    facts = Snapshot(shop).facts.listed(found.view.period)
    rows = facts.group_by("page", "query").agg(
        pl.col("impressions").sum(), position=(pl.col("position") * pl.col("impressions")).sum() / pl.col("impressions").sum()
    )
    tested = rows.filter(pl.col("impressions") >= 300, pl.col("query") != 4, holds)  # query 4 is the brand's
    assert found.extras["tested"] == tested.height
    assert f"{tested.height} rows were tested" in found.sentences[0]


def test_off_fit_tests_the_rows_whose_pages_do_not_say_the_query(shop: Site) -> None:
    found = answer(shop, "query-page-mismatch", min_impressions=1)
    assert found.extras["tested"] == 1
    assert found.sentences[0].startswith("1 row was tested")


def test_links_and_conversions_speak_for_a_lead(shop: Site) -> None:
    hosts = [f"https://site{number}.example/" for number in range(6)]
    keep(shop, pl.DataFrame({"from_address": hosts, "page": [1] * 6, "anchor": [""] * 6}), grain=LINKS)
    shop.refresh_from_db()
    clash = next(row for row in rows(shop, "clashes") if row["query"] == "paddle size")
    assert "it has most referring links" in clash["lead_reasons"]


def test_decisions_are_remembered_checked_later_and_taken_back(shop: Site, analyst: User) -> None:
    def standing(days_ago: int) -> str:
        on = LAST - timedelta(days=days_ago)
        decide(OPERATOR, "shop", Decided([Subject(query=1)], "unite", 1, "one guide", decided_on=on))
        found = answer(shop, "clashes")
        row = next(row for row in [*found.window(), *found.extras["no_longer"]] if row["query"] == "paddle size")
        return str(row["decision"]["status"])

    assert standing(10) == "too early"
    assert standing(60) == "contested"
    assert rows(shop, "clashes", ViewOptions(decided="open")) == []
    # After the decision the listing is shown no more.
    gone = Snapshot(shop).facts.rows(PAGE_QUERY, None)
    kept = gone.filter((pl.col("page") != 4) | (pl.col("day") <= LAST - timedelta(days=40)))
    keep(shop, kept)
    shop.refresh_from_db()
    assert standing(40) == "settled"
    [decision] = decide(Actor(analyst), "shop", Decided([Subject(query=1)], "accept"))
    assert [one["decision"]["choice"] for one in answer(shop, "clashes").extras["no_longer"]] == ["accept"]
    undo(Actor(analyst), "shop", [decision.id])
    assert [one["decision"]["choice"] for one in answer(shop, "clashes").extras["no_longer"]] == ["unite"]


def test_rows_left_alone_or_set_aside_are_settled_until_their_day(shop: Site) -> None:
    decide(OPERATOR, "shop", Decided([Subject(2, 2)], "dismiss", note="a poor fit"))
    decide(OPERATOR, "shop", Decided([Subject(3, 5)], "snooze", until=TODAY + timedelta(days=3)))

    def rows(decided: str, today: date = TODAY) -> set[tuple[int, int]]:
        found = answer(shop, "striking-distance", min_impressions=1, decided=decided, today=today)
        return set(found.rows.select("page", "query").rows())

    assert rows("settled") == {(2, 2), (3, 5)}
    assert rows("open") == rows("any") - {(2, 2), (3, 5)}
    assert rows("settled", TODAY + timedelta(days=3)) == {(2, 2)}


@pytest.mark.parametrize(
    ("decided", "field"),
    [
        (Decided([], "unite"), "subjects"),
        (Decided([Subject()], "unite"), "subjects"),
        (Decided([Subject(1, 1)], "unite"), "choice"),
        (Decided([Subject(query=1)], "dismiss"), "choice"),
        (Decided([Subject(1, 1)], "snooze"), "until"),
        (Decided([Subject(query=99)], "unite"), "subjects"),
    ],
)
def test_decisions_that_make_no_sense_are_refused_whole(shop: Site, decided: Decided, field: str) -> None:
    with pytest.raises(Invalid) as refused:
        decide(OPERATOR, "shop", decided)
    assert refused.value.field == field
    assert not shop.decisions.exists()


def test_readers_decide_nothing(shop: Site, analyst: User) -> None:
    Membership.objects.filter(user=analyst).update(role=Membership.Role.READER)
    with pytest.raises(NotAllowed):
        decide(Actor(analyst), "shop", Decided([Subject(query=1)], "unite"))


@pytest.mark.parametrize(
    "wrong",
    [
        ViewOptions(device=("phone",)),
        ViewOptions(country=("Atlantis",)),
        ViewOptions(page_type=("x",)),
        ViewOptions(query_group=("x",)),
    ],
)
def test_what_the_site_does_not_have_is_said(shop: Site, wrong: ViewOptions) -> None:
    with pytest.raises(Invalid, match=r"There is no|has no"):
        answer(shop, "pages", wrong)


def test_windows_and_order_over_http(shop: Site, signed_in: Client) -> None:
    url = "/api/sites/shop/findings/pages"
    every = signed_in.get(url).json()
    assert (every["total"], len(every["rows"])) == (5, 5)
    by_clicks = signed_in.get(url, {"sort": "clicks", "limit": 2, "offset": 1}).json()["rows"]
    assert [row["clicks"] for row in by_clicks] == sorted((row["clicks"] for row in every["rows"]), reverse=True)[1:3]
    wrong = signed_in.get(url, {"sort": "nothing"})
    assert (wrong.status_code, wrong.json()["fields"][0]["field"]) == (422, "sort")
    before = signed_in.get("/api/sites/shop/findings/clashes").json()["rows"][0]
    assert before["decision"] is None
    values = {"subjects": [{"query": before["query_id"]}], "choice": "unite", "lead": before["lead_id"], "note": "one guide"}
    made = signed_in.post("/api/sites/shop/decisions", values, "application/json").json()[0]
    after = signed_in.get("/api/sites/shop/findings/clashes").json()["rows"][0][
        "decision"
    ]  # what was kept of the answer is not
    assert (after["note"], after["by"]) == ("one guide", "analyst")
    assert signed_in.post("/api/sites/shop/decisions/taken-back", {"ids": [made["id"]]}, "application/json").status_code == 200
    assert signed_in.get("/api/sites/shop/findings/clashes").json()["rows"][0]["decision"] is None


def test_rules_open_from_the_document(signed_in: Client) -> None:
    names = {one["name"] for one in signed_in.get("/api/methods").json()}
    assert {"evidence", "the-click-curve", "the-account-of-a-page", "overlapping-pages", "fit", "breaks"} <= names


def test_days_that_look_cut_short_are_told(shop: Site) -> None:
    facts = Snapshot(shop).facts.rows(PAGE_QUERY, None)
    day = LAST - timedelta(days=20)
    few = pl.when(pl.col("day") == day).then(0).otherwise(pl.col("clicks")).alias("clicks")
    keep(shop, facts.with_columns(few))
    shop.refresh_from_db()
    assert answer(shop, "change").view.missing() == [
        "26 Oct 2026 has at most a tenth of the days around it: it may be incomplete."
    ]
