"""The commands: dry runs and JSON for scripts, services and crawls, and one-line errors with a remedy."""

import io
import json
from collections.abc import Iterator
from pathlib import Path

import polars as pl
import pytest
from django.core.management import call_command
from django.core.management.base import CommandError
from python_calamine import CalamineWorkbook

from tests.conftest import HEADER
from tests.planted import PlantedSite
from tests.standin_server import SITE_HOST, TOKEN, Running, served, write_data
from zugzwang.access import OPERATOR
from zugzwang.core.facts.grains import PAGE_QUERY, VISITS
from zugzwang.data.blocks import read_facts
from zugzwang.data.models import Job, Load, Site
from zugzwang.findings.registry import FINDINGS
from zugzwang.intake import jobs
from zugzwang.intake.connections import connect

ROOT = Path(__file__).parents[2]
pytestmark = pytest.mark.django_db(transaction=True)


def said(*command: str, **options: object) -> str:
    out = io.StringIO()
    call_command(*command, stdout=out, stderr=io.StringIO(), **options)
    return out.getvalue()


@pytest.fixture
def facts(tmp_path: Path) -> Path:
    path = tmp_path / "facts.csv"
    path.write_text(f"{','.join(HEADER)}\n2026-11-09,/a/?utm_source=x,kayak,3,120,4.2\n")
    return path


@pytest.fixture
def standins(tmp_path: Path, settings) -> Iterator[Running]:  # type: ignore[no-untyped-def]
    write_data(tmp_path)
    with served(tmp_path) as running:
        settings.HOST_MAP = dict.fromkeys((SITE_HOST, "shop.example", "data.shop.example"), running.address)
        yield running


def test_a_dry_run_tells_and_changes_nothing(site: Site, facts: Path) -> None:
    result = said("load", str(facts), "--site", "shop", "--dry-run")
    assert "would bring 1 new rows and replace 0; 0 rows would be removed; 1 addresses are merged into other pages" in result
    report = json.loads(said("load", str(facts), "--site", "shop", "--dry-run", "--format", "json"))
    assert (report["rows_new"], report["dry_run"], report["tables"][0]["source"]) == (1, True, "search")
    assert not Load.objects.exists()
    assert "1 of 1 rows loaded, 1 days" in said("load", str(facts), "--site", "shop")


def test_kind_and_columns_by_name(site: Site, tmp_path: Path) -> None:
    path = tmp_path / "visits.csv"
    path.write_text("when,entry,n\n2026-11-09,/a,5\n")
    columns = ["day=when", "page=entry", "sessions=n"]
    said("load", str(path), "--site", "shop", "--kind", "visits", "--map", *columns, "--channel", "organic")
    assert read_facts(site, VISITS).select("sessions", "channel").rows() == [(5, 0)]
    with pytest.raises(CommandError, match="names no column"):
        said("load", str(path), "--site", "shop", "--kind", "visits", "--map", "day=date")
    assert "nothing changed" in said("load", str(path), "--site", "shop", "--channel", "organic")  # the columns are remembered
    path.write_text("when,entry,number\n2026-11-09,/a,5\n")
    with pytest.raises(CommandError, match="no column for page, sessions"):
        said("load", str(path), "--site", "shop", "--kind", "visits", "--map", "day=when")


def test_no_file_and_no_service(site: Site) -> None:
    with pytest.raises(CommandError, match=r"no file visits, and no service is connected"):
        said("load", "visits", "--site", "shop")
    with pytest.raises(CommandError, match="No service is connected"):
        said("refresh", "--site", "shop")


def test_services_by_name_by_site_and_for_all_sites(site: Site, standins: Running) -> None:
    second = Site.objects.create(slug="second", name="Second", address="https://second.example")
    for slug in ("shop", "second"):
        connect(OPERATOR, slug, "search", "http://data.shop.example/search", TOKEN, False, False)
    assert "search:" in said("load", "search", "--site", "shop")
    whole = read_facts(site, PAGE_QUERY).height
    assert whole == 5200
    result = json.loads(said("refresh", "--site", "shop", "--format", "json"))
    assert result["connections"][0]["new"] == 0
    said("refresh", "--all")
    assert read_facts(second, PAGE_QUERY).height == whole
    connect(OPERATOR, "shop", "search", "http://data.shop.example/search", "wrong", False, False)
    with pytest.raises(CommandError, match="does not accept the token"):
        said("refresh", "--site", "shop")


def test_sources_without_days_and_events_come_from_services_too(site: Site, standins: Running, tmp_path: Path) -> None:
    blocks = [[{"block": "ad", "title": "Buy"}, {"block": "organic", "title": "Kayaks"}]]
    tables = {
        "links": pl.DataFrame({"from_address": ["https://club.example/"], "page": ["/a"], "anchor": ["here"]}),
        "results": pl.DataFrame({"query": ["kayak"], "captured": ["2026-11-09"], "blocks": blocks}),
        "events": pl.DataFrame({"first_day": ["2026-11-09"], "title": ["An update"]}),
    }
    for source, table in tables.items():
        table.write_parquet(tmp_path / f"{source}.parquet")
        connect(OPERATOR, "shop", source, f"http://data.shop.example/{source}", TOKEN, False, False)
    result = json.loads(said("refresh", "--site", "shop", "--format", "json"))
    assert {one["source"]: one["rows"] for one in result["connections"]} == {"links": 1, "results": 2, "events": 1}
    assert site.events.get().title == "An update"


def test_crawls(site: Site, standins: Running) -> None:
    Site.objects.filter(id=site.id).update(address=f"http://{SITE_HOST}")
    result = said("crawl", "--site", "shop", "--pages-max", "30", "--connections", "2")
    assert "30 pages and" in result
    with pytest.raises(CommandError, match="Between 1 and 1,000,000 pages"):
        said("crawl", "--site", "shop", "--pages-max", "0")


def test_sites_of_others_are_not_brought_up_to_date(signed_in, site: Site, standins: Running) -> None:  # type: ignore[no-untyped-def]
    other = Site.objects.create(slug="other", name="Other", address="https://other.example")
    for one in (site, other):
        connect(OPERATOR, one.slug, "search", "http://data.shop.example/search", TOKEN, False, False)
    assert signed_in.post("/api/refresh").json() == {"sites": ["Shop"]}
    assert [job.site.slug for job in Job.objects.all()] == ["shop"]
    jobs.run_job.func(Job.objects.get().id)
    result = signed_in.get("/api/portfolio").json()
    assert [(one["slug"], one["first_day"], one["missing_days"], one["connections"]) for one in result] == [
        ("shop", "2026-09-01", 0, 1)
    ]


def test_diagnoses_as_json_and_csv(site: Site, tmp_path: Path) -> None:
    days = [f"2026-{month:02}-{day:02}" for month in (9, 10) for day in range(1, 29)]
    rows = [
        f"{day},/{'a' if number % 8 < 4 else 'b'},kayak,{4 if day < '2026-10' else 2},60,6" for number, day in enumerate(days)
    ]
    path = tmp_path / "facts.csv"
    path.write_text("\n".join([",".join(HEADER), *rows]))
    said("load", str(path), "--site", "shop")
    month = ["--from", "2026-10-01", "--to", "2026-10-28"]
    result = json.loads(said("findings", "change", "--site", "shop", *month, "--compare", "previous"))
    assert result["compared_with"] == {"from": "2026-09-03", "to": "2026-09-30"}
    assert (
        sum(row["clicks_after"] - row["clicks_before"] for row in result["rows"]) == 26 * 2 - 26 * 4
    )  # days with a counterpart
    assert result["missing"][0].startswith("The comparison covers 26 of 28 days")
    clash = json.loads(said("findings", "clashes", "--site", "shop"))["rows"][0]
    assert (clash["query"], clash["kind"], len(clash["contenders"])) == ("kayak", "alternating", 2)
    assert set(clash) >= {"effective_contenders", "hand_offs", "overlap", "loss", "evidence"}
    assert "alternating" in said("findings", "clashes", "--site", "shop", "--format", "csv")
    broken = json.loads(said("findings", "breaks", "--site", "shop"))
    # Whole weeks of all days, not the usual thirteen; and nothing is claimed to be filtered that is not.
    assert (broken["rows"], broken["period"]) == ([], {"from": "2026-09-07", "to": "2026-10-25"})
    assert "brand_left_out" not in result["filters"]
    with pytest.raises(CommandError, match="needs days to compare with"):
        said("findings", "change", "--site", "shop", "--compare", "none")
    assert not set(broken["filters"]) & {"min_impressions", "curve_basis", "evidence"}
    asked = json.loads(said("findings", "breaks", "--site", "shop", "--position-to", "5"))
    assert asked["lacking"][-1] == "Not looked at here: position to."
    book = tmp_path / "clashes.xlsx"
    said("findings", "clashes", "--site", "shop", "--format", "xlsx", "--output", str(book))
    sheets = CalamineWorkbook.from_path(str(book))
    header, first = sheets.get_sheet_by_name("Rows").to_python()[:2]
    assert (first[header.index("query")], first[header.index("kind")]) == ("kayak", "alternating")
    assert dict(sheets.get_sheet_by_name("About").to_python())["lens"] == "clashes"


def test_all_that_can_be_found_is_told_in_the_rules() -> None:
    result = (ROOT / "docs" / "methods.md").read_text()
    listed = result.split("## All lists")[1].split("\n## ")[0]
    for name in FINDINGS:
        assert f"- `{name}`:" in listed


def test_an_option_of_several_values_is_added_to_when_given_again(site: Site, planted: PlantedSite) -> None:
    def brands(*values: str) -> list[str]:
        out = io.StringIO()
        call_command("findings", "low-ctr", "--site", "shop", *values, stdout=out)
        current: list[str] = json.loads(out.getvalue())["filters"]["brand_patterns"]
        return current

    assert brands("--brand", "red", "--brand", "blue kayak") == ["red", "blue kayak"]
    assert brands("--brand", "red", "blue", "--brand", "green") == ["red", "blue", "green"]
    out = io.StringIO()
    call_command("findings", "low-ctr", "--site", "shop", "--evidence", "too little data", "--evidence", "firm", stdout=out)
    assert sorted(json.loads(out.getvalue())["filters"]["evidence"]) == ["firm", "too little data"]  # in place of the default
