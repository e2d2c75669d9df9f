"""Services that refuse, stall, truncate, send nonsense or limit their pages: complete data, no duplicates, no gaps."""

from collections.abc import Iterator
from datetime import UTC
from pathlib import Path
from typing import Any

import polars as pl
import pytest

from tests import standin_server
from tests.standin_server import DAYS, FIRST, TOKEN, Running, served, write_data
from zugzwang.access import OPERATOR
from zugzwang.core.facts.grains import PAGE_QUERY, SEARCH_GRAINS, VISITS, VOLUMES
from zugzwang.data.blocks import read_days, read_facts
from zugzwang.data.models import Connection, Job, JobPart, Site
from zugzwang.errors import Invalid
from zugzwang.intake import jobs, services
from zugzwang.intake.connections import connect
from zugzwang.intake.outside import OutsideRefused, client, get
from zugzwang.intake.services import Service, ServiceFailed, next_address

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("standins")
    write_data(path)
    return path


@pytest.fixture
def standins(folder: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Running]:
    monkeypatch.setattr(services, "WAIT_SECONDS", (0.01,))
    with served(folder) as running:
        yield running


@pytest.fixture
def connection(site: Site, standins: Running) -> Connection:
    return connect(OPERATOR, site.slug, "search", f"{standins.address}/search", TOKEN, True, False)


def refreshed(site: Site) -> Job:
    job = jobs.ask_for_refresh(OPERATOR, site.slug)
    jobs.run_job.func(job.id)
    job.refresh_from_db()
    site.refresh_from_db()
    return job


def assert_complete(site: Site, days: int = DAYS) -> None:
    facts = standin_server.search_facts(days)
    rows = read_facts(site, PAGE_QUERY)
    assert rows.height == facts.height
    assert rows.select(pl.struct("day", "page", "query").n_unique()).item() == facts.height
    assert (rows["clicks"].sum(), rows["impressions"].sum()) == (facts["clicks"].sum(), facts["impressions"].sum())
    for grain in SEARCH_GRAINS:
        assert len(read_days(site, grain)) == days
        assert read_facts(site, grain)["clicks"].sum() == facts["clicks"].sum()


BEHAVIOURS: list[dict[str, Any]] = [
    {},
    {"cap_rows": 1000},
    {"refuse": 3, "retry_after_seconds": 0},
    {"fail": 2, "nonsense": 2, "cut": 3, "cap_rows": 2000},
    {"stall": 1, "stall_seconds": 0.5, "cut": 5},
]


@pytest.mark.parametrize("behaviour", BEHAVIOURS, ids=lambda one: "+".join(one) or "well")
def test_all_grains_come_whole_however_the_service_behaves(
    behaviour: dict[str, Any], site: Site, connection: Connection, standins: Running
) -> None:
    standins.behave(**behaviour)
    job = refreshed(site)
    assert job.state == "done", job.outcome
    assert_complete(site)
    assert not JobPart.objects.exists()


def test_only_what_is_missing_or_not_final_is_fetched(
    site: Site, connection: Connection, standins: Running, folder: Path
) -> None:
    refreshed(site)
    standins.asked.clear()
    result = refreshed(site).outcome["connections"][0]
    assert (result["new"], result["replaced"], result["rows"] > 0) == (0, 0, True)
    days = {
        part
        for asked in standins.asked
        if "grain=page%2Cquery" in asked
        for part in asked.split("?")[1].split("&")
        if "=2026" in part
    }
    assert days == {
        f"from={FIRST.replace(month=10, day=8)}",
        f"to={FIRST.replace(month=10, day=10)}",
    }  # the last three of its days
    try:
        write_data(folder, DAYS + 5)
        refreshed(site)
        assert_complete(site, DAYS + 5)
    finally:
        write_data(folder)


def test_tables_without_days_come_too(site: Site, connection: Connection, standins: Running) -> None:
    for source in ("visits", "volumes"):
        connect(OPERATOR, site.slug, source, f"{standins.address}/{source}", TOKEN, True, False)
    refreshed(site)
    assert read_facts(site, VISITS)["sessions"].sum() == standin_server.search_facts()["clicks"].sum()
    assert read_facts(site, VOLUMES)["searches"].to_list() == [100, 50]


def test_a_fetch_that_failed_goes_on_where_it_stopped(site: Site, connection: Connection, standins: Running) -> None:
    standins.behave(cap_rows=500)
    pages, plain_page = [], Service.page

    def page_until_it_breaks(self: Service, address: str) -> services.RowPage:
        if len(pages) == 7:
            standins.behave(fail=10**6)
        pages.append(address)
        return plain_page(self, address)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(Service, "page", page_until_it_breaks)
        job = refreshed(site)
    assert (job.state, JobPart.objects.count()) == ("refused", 7)
    assert "Nothing is lost" in job.outcome["remedy"]
    assert read_facts(site, PAGE_QUERY).is_empty()  # nothing half loaded
    standins.behave(cap_rows=500)
    standins.asked.clear()
    again = jobs.retry_job(OPERATOR, site.slug, job.id, False)
    jobs.run_job.func(again.id)
    site.refresh_from_db()
    assert_complete(site)
    assert not {page.split("//")[1] for page in pages[:7]} & set(standins.asked)


def test_it_waits_as_long_as_the_service_asks(site: Site, connection: Connection, standins: Running) -> None:
    waited: list[float] = []
    standins.behave(refuse=1, retry_after_seconds=17)
    with Service(connection, lambda why, seconds: waited.append(seconds)) as service:
        assert service.about().grains == ("page,query", "page", "query", "day")
    assert waited == [17.0]


def test_wrong_tokens_and_other_sources_are_told(site: Site, connection: Connection, standins: Running) -> None:
    connect(OPERATOR, site.slug, "search", f"{standins.address}/visits", TOKEN, True, False)
    assert "holds visits, not search" in refreshed(site).outcome["message"]
    connect(OPERATOR, site.slug, "search", f"{standins.address}/search", "wrong", True, False)
    assert "does not accept the token" in refreshed(site).outcome["message"]


def test_private_addresses_are_refused_unless_allowed(site: Site, standins: Running) -> None:
    """Without the guard the same request reaches this machine; with it, it does not, whatever its name."""
    with client(private_allowed=True) as open_client:
        assert get(open_client, f"{standins.address}/search/about", {}).status_code == 401
    standins.asked.clear()
    port = standins.address.rpartition(":")[2]
    for host in ("127.0.0.1", "localhost", "[::1]", "0.0.0.0", "169.254.169.254", "10.0.0.1"):
        with client(private_allowed=False) as guarded, pytest.raises(OutsideRefused, match="private address"):
            get(guarded, f"http://{host}:{port}/search/about", {})
    assert standins.asked == []


def test_only_the_operator_allows_private_addresses(signed_in, site: Site) -> None:  # type: ignore[no-untyped-def]
    body = {"address": "http://127.0.0.1:8010/search", "private_allowed": True}
    assert signed_in.put(f"/api/sites/{site.slug}/connections/search", body, "application/json").status_code == 422
    kept = signed_in.put(
        f"/api/sites/{site.slug}/connections/search", {**body, "private_allowed": False, "token": "x"}, "application/json"
    ).json()
    assert (kept["has_token"], "token" in kept) == (True, False)  # it is reported to the service alone


@pytest.mark.parametrize(
    ("link", "expected"),
    [
        ('<https://a.example/TheBook/chapter2>; rel="previous"; title="previous chapter"', None),  # RFC 8288, section 3.5
        ('</>; rel="http://example.net/foo"', None),
        ('</terms>; rel="copyright"; anchor="#foo", </p2>; rel="start next"', "https://a.example/p2"),
        ("<?page=2>; rel=next", "https://a.example/rows?page=2"),
        ('<a,b>; title="; rel=\\"next\\""; rel=prev, <c>; REL="NEXT"', "https://a.example/c"),
        ("", None),
    ],
)
def test_links_as_rfc_8288_tells(link: str, expected: str | None) -> None:
    assert next_address(link, "https://a.example/rows?page=1") == expected


def test_a_service_that_never_ends_is_left(connection: Connection, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(services, "PAGES_MAX", 5)
    monkeypatch.setattr(Service, "page", lambda self, address: services.RowPage(b"", 0, address))
    with Service(connection) as service, pytest.raises(ServiceFailed, match="never ends"):
        list(service.pages("https://a.example/rows"))


def test_two_refreshes_at_once_are_one(site: Site, connection: Connection) -> None:
    jobs.ask_for_refresh(OPERATOR, site.slug)
    with pytest.raises(Invalid, match="already"):
        jobs.ask_for_refresh(OPERATOR, site.slug)


def test_nightly_asks_once_a_night(site: Site, standins: Running) -> None:
    from datetime import datetime, timedelta

    connect(OPERATOR, site.slug, "search", f"{standins.address}/search", TOKEN, True, True)
    evening = datetime(2026, 11, 9, 22, 0, tzinfo=UTC)
    assert jobs.nightly(evening) == 1  # it has never been asked
    Job.objects.update(state="done")
    assert jobs.nightly(evening + timedelta(hours=1)) == 0
    assert jobs.nightly(evening + timedelta(hours=6)) == 1
    Job.objects.update(state="done")
    assert jobs.nightly(evening + timedelta(hours=7)) == 0
