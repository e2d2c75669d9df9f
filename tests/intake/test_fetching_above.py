"""Competing pages are fetched once, politely, and read like the site's own; failures are reported."""

import gzip
import json
from collections.abc import Iterator
from datetime import date, timedelta
from pathlib import Path

import polars as pl
import pytest
from django.core.management import call_command

from tests.conftest import keep
from tests.standin_server import Running, served
from zugzwang.access import OPERATOR
from zugzwang.core.facts.grains import ABOVE, CRAWL_PAGES, RESULTS
from zugzwang.data.blocks import read_facts
from zugzwang.data.models import Job, JobPart, Query, Site
from zugzwang.errors import Invalid
from zugzwang.intake import fetching_above, jobs
from zugzwang.standins.app import _read_site

pytestmark = pytest.mark.django_db(transaction=True)
PAGES = [
    {"host": "one.rivals.example", "target": "/a", "body": "<title>A</title><h1>Dry bags</h1><p>Roll it three times.</p>"},
    {"host": "one.rivals.example", "target": "/b", "body": "<title>B</title><main><p>Second.</p></main>"},
    {"host": "two.rivals.example", "target": "/moved", "status": 301, "headers": {"Location": "/here"}, "body": ""},
    {"host": "two.rivals.example", "target": "/here", "body": "<title>Here</title><main><h1>Here it is</h1></main>"},
    {"host": "shut.rivals.example", "target": "/x", "body": "<title>No</title>"},
    {
        "host": "shut.rivals.example",
        "target": "/robots.txt",
        "headers": {"Content-Type": "text/plain"},
        "body": "User-agent: *\nDisallow: /\n",
    },
]
ADDRESSES = [
    "https://one.rivals.example/a", "https://one.rivals.example/b#part", "https://two.rivals.example/moved",
    "https://shut.rivals.example/x", "https://one.rivals.example/gone", "http://10.0.0.7/private",
]  # fmt: skip


@pytest.fixture
def standins(tmp_path: Path, settings) -> Iterator[Running]:  # type: ignore[no-untyped-def]
    with gzip.open(tmp_path / "site.ndjson.gz", "wt", encoding="utf-8") as file:
        file.writelines(json.dumps(page) + "\n" for page in PAGES)
    _read_site.cache_clear()
    with served(tmp_path) as running:
        settings.HOST_MAP = {"*.rivals.example": running.address}
        yield running


@pytest.fixture
def captured(site: Site) -> Site:
    Query.objects.bulk_create([Query(id=1, site=site, text="dry bag"), Query(id=2, site=site, text="sea kayak")])
    rows = [
        (1, 0, 1, date(2026, 11, 15), place, "organic", None, None, "T", address, None)
        for place, address in enumerate([*ADDRESSES[:3], "https://shop.example/own", *ADDRESSES[3:]], start=1)
    ]
    rows.append((2, 0, 1, date(2026, 11, 15), 1, "organic", None, None, "T", ADDRESSES[0], None))
    keep(site, pl.DataFrame(rows, RESULTS.schema, orient="row"), grain=RESULTS)
    site.refresh_from_db()
    return site


def fetched(site: Site) -> dict[str, dict[str, object]]:
    return {str(row["address"]): row for row in read_facts(site, ABOVE).iter_rows(named=True)}


def test_each_page_is_fetched_once_and_told_as_it_is(captured: Site, standins: Running) -> None:
    call_command("fetch-above", "--site", "shop", "--query", "dry bag")
    pages = fetched(captured)
    assert set(pages) == {address.partition("#")[0] for address in ADDRESSES}
    first = pages["https://one.rivals.example/a"]
    assert (first["title"], first["content"]) == ("A", "h1\tDry bags\np\tRoll it three times.")
    assert pages["https://two.rivals.example/moved"]["title"] == "Here"
    assert pages["https://shut.rivals.example/x"]["problem"] == "blocked by robots.txt"
    assert pages["https://one.rivals.example/gone"]["status"] == 404
    # A private address is not asked, not even for its robots file; without one nothing of it is fetched.
    assert pages["http://10.0.0.7/private"]["problem"] == "10.0.0.7 is a private address, which is blocked."
    assert not any("shut.rivals.example/x" in asked for asked in standins.asked)
    pages_asked = [asked for asked in standins.asked if "robots" not in asked]
    assert len(pages_asked) == len(set(pages_asked))
    # All of them are fresh now, for the other query too.
    with pytest.raises(Invalid, match="within thirty days"):
        jobs.fetch_competing_pages(OPERATOR, "shop", [2])


def test_what_is_older_than_thirty_days_is_fetched_again(captured: Site, standins: Running, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    call_command("fetch-above", "--site", "shop")
    today = fetching_above.timezone.localdate() + timedelta(days=31)
    monkeypatch.setattr(fetching_above.timezone, "localdate", lambda: today)
    job = jobs.fetch_competing_pages(OPERATOR, "shop", [2])
    jobs.run_job.func(job.id)
    assert fetched(captured)["https://one.rivals.example/a"]["fetched"] == today


def test_a_fetch_that_is_taken_up_again_goes_on_behind_what_it_kept(captured: Site, standins: Running) -> None:
    job = Job.objects.create(site=captured, kind="above", title="Fetch", request={"queries": None})
    kept = pl.DataFrame([{"address": "https://one.rivals.example/a", "status": 200, "title": "kept"}])
    kept = kept.with_columns(
        pl.lit(None, dtype=kind).alias(name) for name, kind in CRAWL_PAGES.schema.items() if name not in kept.columns
    )
    keep_part = fetching_above.keeper(job)
    keep_part(kept.select(CRAWL_PAGES.schema.names()).cast(CRAWL_PAGES.schema), pl.DataFrame())
    jobs.run_job.func(job.id)
    assert fetched(captured)["https://one.rivals.example/a"]["title"] == "kept"
    assert not any("one.rivals.example/a?" in asked for asked in standins.asked)
    assert not JobPart.objects.filter(job=job).exists()
