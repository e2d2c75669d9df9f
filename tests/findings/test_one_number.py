"""A number shown in two places is the same in both: on three sites, lists against panes, sums and page files."""

import re
from collections.abc import Callable
from datetime import timedelta
from typing import Any

import polars as pl
import pytest
from django.test import Client

from tests.conftest import keep
from tests.findings.conftest import TODAY
from tests.planted import PlantedSite, planted_site
from zugzwang.core.facts.grains import PAGE, PAGE_QUERY
from zugzwang.core.words.sentences import THIN_SPACE
from zugzwang.data.models import Page, Query, Site

SIGNED = rf"[+−][\d{THIN_SPACE}]+"
Ask = Callable[..., dict[str, Any]]
ALL = {"evidence": ["firm", "likely", "possible", "too little data"], "min_impressions": 20}


def _planted(site: Site, several: bool = False) -> PlantedSite:
    """A site of 200 pages with eight queries each, some of them brand queries; or its page totals alone."""
    made = planted_site(queries=400, poor=12, movers=8)
    facts = made.facts.with_columns(page=pl.col("page") // 4 + 1, query=pl.col("query") + 1)
    Page.objects.bulk_create(Page(id=n, site=site, text=f"https://shop.example/p{n}") for n in facts["page"].unique())
    names = {n: f"{'shop ' if n % 11 == 0 else ''}query {n}" for n in facts["query"].unique()}
    Query.objects.bulk_create(Query(id=n, site=site, text=text) for n, text in names.items())
    by_page = facts.group_by("day", "page").agg(
        pl.col("clicks", "impressions").sum(),
        position=(pl.col("position") * pl.col("impressions")).sum() / pl.col("impressions").sum(),
    )
    if several:
        keep(site, facts, grain=PAGE_QUERY)
        # Search engines withhold some queries: pages have more than their rows add up to.
        keep(site, by_page.with_columns(pl.col("clicks") + 1, pl.col("impressions") + 5), grain=PAGE)
    else:
        keep(site, by_page, grain=PAGE)
    site.brand_patterns = ["shop"]
    site.save()
    return made


@pytest.fixture(params=["small shop", "planted rows", "pages alone"])
def ask(request: pytest.FixtureRequest, signed_in: Client) -> Ask:
    if request.param == "small shop":
        request.getfixturevalue("shop")
    else:
        _planted(request.getfixturevalue("site"), several=request.param == "planted rows")

    def asked(path: str, **more: Any) -> dict[str, Any]:
        answer = signed_in.get(f"/api/sites/shop/{path}", {**ALL, **more})
        assert answer.status_code == 200, answer.content
        return answer.json()

    return asked


def same(one: dict[str, Any], other: dict[str, Any], *names: str) -> None:
    for name in names:
        assert one.get(name) == (pytest.approx(other.get(name)) if isinstance(one.get(name), float) else other.get(name)), name


def test_a_page_in_its_list_and_its_file(ask: Ask) -> None:
    listed = ask("findings/pages", compare="year")
    for row in listed["rows"][:12]:
        result = ask(f"pages/{row['page_id']}", compare="year")
        account = result["account"]
        names = ("clicks", "impressions", "position", "ctr", "lost_month", "gain_month", "potential_month", "evidence")
        same(row, account, *names, "clicks_before", "change")
        # As printed: the parts of each column add up to its total, which is the list's.
        for name, total in (("expected", "opportunity_month"), ("at_least", "gain_month")):
            months = result["months"][name]
            assert months["together"] == months["snippet"] + months["unite"] + months["rank"] == round(row[total])
        rows = result["rows"]
        if rows:
            assert sum(one["lost"] for one in rows) == pytest.approx(account["lost"], abs=1e-6)
            assert sum(one["opportunity"] for one in rows) == pytest.approx(account["opportunity"], abs=1e-6)
        extras = {one["name"]: one for one in result["compared"]}
        assert extras["clicks"]["change"] == row.get("change")
        assert extras["clicks"]["now"] == row["clicks"]
        if result["change"]:
            assert result["change"]["clicks_after"] - result["change"]["clicks_before"] == row["change"]


@pytest.mark.parametrize("lens", ["low-ctr", "striking-distance", "outperformers"])
def test_a_row_in_its_lens_its_pane_and_its_pages_account(ask: Ask, lens: str) -> None:
    listed = ask(f"findings/{lens}", compare="year", limit=500)
    for row in listed["rows"][:8]:
        result = ask(f"rows/{row['page_id'] or 0}/{row['query_id'] or 0}", lens=lens, compare="year")
        same(row, result, "clicks", "impressions", "ctr", "position", "expected_ctr")
        same(row, result["finding"], "lost_month", "potential_month", "evidence", "q_value")
        if row["page_id"] and row["query_id"] and lens == "low-ctr":
            rows = ask(f"pages/{row['page_id']}", compare="year")["rows"]
            (in_file,) = (one for one in rows if one["query_id"] == row["query_id"])
            same(row, in_file, "clicks", "impressions", "position", "lost_month", "potential_month")
    shown = listed["rows"]
    if len(shown) == listed["total"]:
        for name in ("lost_month", "potential_month", "opportunity_month"):
            assert sum(row[name] for row in shown) == pytest.approx(listed[name])


def test_sums_of_the_site_its_pages_and_what_changed(ask: Ask) -> None:
    standing = ask("changes", compare="year")
    clicks = next(one for one in standing["measures"] if one["name"] == "clicks")
    change = ask("findings/change", by="site", branded="with", compare="year") if standing["change"] else None
    if change:
        row = change["rows"][0]
        assert row["clicks_after"] == clicks["now"] == standing["change"]["clicks_after"]
        assert row["change"] == clicks["change"]
        total, parts = (
            [int(one.replace("−", "-").replace(THIN_SPACE, "")) for one in re.findall(SIGNED, said)]
            for said in standing["change"]["sentences"]
        )
        assert sum(parts) == sum(total)  # as they are printed
        assert sum(one["change"] for one in ask("findings/change", branded="with", limit=500)["rows"]) == clicks["change"]
    sections = ask("findings/sections", branded="with", limit=500)["rows"]
    top = [one for one in sections if one["depth"] == min(row["depth"] for row in sections)]
    pages = ask("findings/landing-pages", branded="with", limit=500)["rows"]
    assert sum(one["clicks"] for one in pages) == sum(one["clicks"] for one in top)


def test_a_week_alone_and_among_the_weeks(ask: Ask) -> None:
    standing = ask("changes", compare="none", first=str(TODAY - timedelta(days=14)), last=str(TODAY - timedelta(days=8)))
    (week,) = (week for week in standing["weeks"] if week["in_period"])
    clicks = next(one["now"] for one in standing["measures"] if one["name"] == "clicks")
    assert week["days"] == 7
    assert week["clicks"] == clicks > 0
