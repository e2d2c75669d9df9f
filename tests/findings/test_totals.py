"""Findings from totals without days, and lenses on queries or pages alone."""

from datetime import date

import numpy as np
import polars as pl
import pytest
from django.test import Client

from tests.conftest import keep
from tests.planted import planted_site
from zugzwang.core.clicks.lenses import Appraisal, appraise, appraise_pages
from zugzwang.core.facts.grains import DAY, OF_SPANS, PAGE_QUERY, QUERY, VISITS
from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.search import add_up
from zugzwang.data.blocks import read_facts
from zugzwang.data.models import Page, Query, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid
from zugzwang.findings.registry import FINDINGS
from zugzwang.findings.table import Answer, ask
from zugzwang.findings.view import ViewOptions
from zugzwang.subjects.changes import describe_changes
from zugzwang.subjects.row import tell_row

SPAN = Period(date(2026, 8, 17), date(2026, 11, 15))
EARLIER = SPAN.compared("year") or SPAN
TODAY = date(2026, 11, 25)
SURE = ("firm", "likely")


def totals(facts: pl.DataFrame, by: list[str], span: Period = SPAN) -> pl.DataFrame:
    """Facts as in most exports: totals over all days, positions with one decimal."""
    summed = add_up(facts, by).filter(pl.col("impressions") > 0).with_columns(pl.col("position").round(1))
    return summed.with_columns(first=pl.lit(span.first), last=pl.lit(span.last))


def named(site: Site, ids: int) -> None:
    Page.objects.bulk_create(Page(id=number, site=site, text=f"https://shop.example/{number}") for number in range(1, ids + 1))
    Query.objects.bulk_create(Query(id=number, site=site, text=f"query {number}") for number in range(1, ids + 1))


def found(site: Site, lens: str, **asked: object) -> Answer:
    return ask(Snapshot(Site.objects.get(id=site.id)), FINDINGS[lens], ViewOptions(evidence=SURE, **asked), TODAY)  # type: ignore[arg-type]


@pytest.fixture
def facts() -> pl.DataFrame:
    return planted_site(queries=1500).facts.with_columns(pl.col("page", "query") + 1)


def test_totals_name_most_of_what_the_days_name_and_nothing_firm_above_the_curve(site: Site, facts: pl.DataFrame) -> None:
    """The bar: two thirds of the clear rows found with daily facts."""
    other = Site.objects.create(slug="by-day", name="By day", address="https://shop.example")
    keep(other, facts)
    keep(site, totals(facts, ["page", "query"]), grain=OF_SPANS[PAGE_QUERY.name])
    days, spans = (set(found(one, "low-ctr").rows["query"]) for one in (other, site))
    assert len(days) >= 30
    assert len(days & spans) >= 2 / 3 * len(days)
    above = found(site, "outperformers")
    assert set(above.rows["evidence"].cast(pl.String)) <= {"likely"}
    assert "no row is called firm" in above.lacking[0]
    assert above.shown()["period"]["sentence"] == "totals of 13 weeks to 15 Nov 2026"


def test_a_site_of_queries_alone_lists_queries(site: Site, facts: pl.DataFrame) -> None:
    named(site, 1500)
    keep(site, totals(facts, ["query"]), grain=OF_SPANS[QUERY.name])
    low = found(site, "low-ctr")
    assert low.view.by == "query"
    assert low.rows.height >= 20
    first = low.window(limit=1)[0]
    assert (first["page"], first["page_id"]) == (None, None)
    assert first["query"] == f"query {first['query_id']}"
    assert found(site, "low-ctr", by="row").rows.is_empty()
    assert "Only queries without their pages are loaded" in " ".join(found(site, "pages").lacking)
    assert "daily data" in found(site, "breaks").sentences[0]
    proof = tell_row(low, "low-ctr", 0, first["query_id"])
    assert (proof["query"], proof["page"], proof["days"]) == (first["query"], None, [])
    assert proof["finding"]["q_value"] == first["q_value"]


def test_the_totals_of_the_site_head_standing_and_a_year_before_is_compared(site: Site, facts: pl.DataFrame) -> None:
    keep(site, totals(facts, ["page", "query"]), grain=OF_SPANS[PAGE_QUERY.name])
    for span, clicks in ((SPAN, 90_000), (EARLIER, 80_000)):
        day = {"clicks": [clicks], "impressions": [2_000_000], "position": [9.0], "first": [span.first], "last": [span.last]}
        keep(site, pl.DataFrame(day), grain=OF_SPANS[DAY.name])
    visits = {"page": [1], "channel": [0], "sessions": [700], "first": [SPAN.first], "last": [SPAN.last]}
    keep(site, pl.DataFrame(visits), grain=OF_SPANS[VISITS.name])
    stored = describe_changes(Snapshot(Site.objects.get(id=site.id)), ViewOptions(compare="year"), TODAY)
    now = {one.name: (one.now, one.before) for one in stored["measures"]}
    assert now["clicks"] == (90_000, 80_000)
    assert now["sessions"][0] == 700
    assert stored["weeks"] == []
    assert stored["before"]["first"] == EARLIER.first
    with pytest.raises(Invalid, match="no totals of those days"):
        found(site, "low-ctr", first=date(2026, 9, 1), last=date(2026, 9, 30))


def test_days_without_any_facts_and_a_site_of_days_alone_say_nothing_and_break_nothing(site: Site, facts: pl.DataFrame) -> None:
    keep(site, facts.head(2_000))
    for lens in ("low-ctr", "outperformers", "query-page-mismatch"):
        assert found(site, lens, first=date(2020, 1, 6), last=date(2020, 2, 2)).shown()["total"] == 0
    whole = Site.objects.create(slug="whole", name="Whole", address="https://shop.example")
    keep(whole, facts.group_by("day").agg(pl.col("clicks", "impressions").sum(), pl.col("position").mean()), grain=DAY)
    assert found(whole, "low-ctr").shown()["total"] == 0


def test_totals_by_device_and_by_country_are_each_the_whole(site: Site) -> None:
    """Loaded together, as from an archive, they are not added up."""
    row = {"clicks": 10, "impressions": 100, "position": 3.0, "first": SPAN.first, "last": SPAN.last}
    by_device = [{**row, "device": code, "country": 0} for code in (1, 2)]
    by_country = [{**row, "device": 0, "country": code} for code in (276, 250)]
    keep(site, pl.DataFrame([*by_device, *by_country]), grain=OF_SPANS[DAY.name])
    assert Snapshot(site).facts.rows(DAY, SPAN)["clicks"].sum() == 20
    keep(site, pl.DataFrame(by_country), grain=OF_SPANS[DAY.name])
    assert read_facts(site, OF_SPANS[DAY.name])["device"].sort().to_list() == [0, 0, 1, 2]


def test_pages_are_held_against_their_named_queries_and_the_rest_against_their_own_position() -> None:
    """By hand: 1,000 impressions at 5.0, of which 600 have named queries with E = 30; 30 + 400 · μ(5)."""
    named_rows = appraise(planted_site(queries=400).facts, pl.Series([], dtype=pl.UInt32))
    of_page = {
        "page": 1,
        "query": 1,
        "clicks": 20,
        "impressions": 600,
        "position": 5.0,
        "branded": False,
        "expected_clicks": 30.0,
    }
    rows = Appraisal(pl.DataFrame([of_page]).cast({"page": pl.UInt32, "query": pl.UInt32}), named_rows.curves)
    whole = pl.DataFrame({"page": [1], "clicks": [40], "impressions": [1_000], "position": [5.0]}).cast({"page": pl.UInt32})
    page = appraise_pages(whole, rows).rows.row(0, named=True)
    at_five = float(named_rows.curve(np.array([5.0]))[0])
    assert (page["clicks"], page["impressions"]) == (40, 1_000)
    assert page["expected_clicks"] == pytest.approx(30 + 400 * at_five, rel=1e-6)


def test_undated_tables_tell_of_possible_clashes_by_shares(signed_in: Client, site: Site) -> None:
    """Two pages share one query evenly below the top three, two another within it, one page has the third alone."""
    Page.objects.bulk_create(Page(id=n, site=site, text=f"https://shop.example/p{n}") for n in range(1, 6))
    Query.objects.bulk_create(Query(id=n, site=site, text=f"query {n}") for n in range(1, 4))
    rows = [(1, 1, 20, 900, 7.0), (2, 1, 15, 800, 8.0), (3, 2, 300, 900, 1.4), (4, 2, 200, 800, 2.2), (5, 3, 90, 900, 5.0)]
    facts = pl.DataFrame(rows, schema=["page", "query", "clicks", "impressions", "position"], orient="row")
    keep(site, facts.with_columns(first=SPAN.first, last=SPAN.last), grain=OF_SPANS[PAGE_QUERY.name])
    result = signed_in.get("/api/sites/shop/findings/clashes", {"min_impressions": 0}).json()
    assert [(row["query"], row["kind"], row["evidence"]) for row in result["rows"]] == [("query 1", "split", "too little data")]
    assert {one["page_id"] for one in result["rows"][0]["contenders"]} == {1, 2}
    assert "take turns from day to day" in " ".join(result["lacking"])
