"""The crawler on a small site with typical obstacles: it finds every page, follows the rules, and never leaves the site."""

from collections.abc import Iterator
from datetime import date
from pathlib import Path

import polars as pl
import pytest

from tests.conftest import keep
from tests.standin_server import SITE_HOST, Running, served, site_pages, write_data
from zugzwang.access import OPERATOR
from zugzwang.core.facts.grains import CRAWL_LINKS, CRAWL_PAGES, PAGE
from zugzwang.data.blocks import read_facts
from zugzwang.data.models import Job, JobPart, Load, Page, Site
from zugzwang.intake import crawling, jobs
from zugzwang.intake.sources import sources

pytestmark = pytest.mark.django_db(transaction=True)
HOME = f"http://{SITE_HOST}"


@pytest.fixture
def standins(tmp_path: Path, settings) -> Iterator[Running]:  # type: ignore[no-untyped-def]
    write_data(tmp_path)
    with served(tmp_path) as running:
        settings.HOST_MAP = {SITE_HOST: running.address, "shop.example": running.address}
        yield running


@pytest.fixture
def shop(site: Site) -> Site:
    site.address = HOME
    site.save()
    return site


def crawled(site: Site, **asked: object) -> Job:
    job = jobs.ask_for_crawl(OPERATOR, site.slug, dict(asked))
    jobs.run_job.func(job.id)
    job.refresh_from_db()
    return job


def pages_of(site: Site) -> dict[str, dict[str, object]]:
    return {str(row["address"]).removeprefix(HOME): row for row in read_facts(site, CRAWL_PAGES).iter_rows(named=True)}


def test_every_page_is_found_and_told_as_it_is(shop: Site, standins: Running, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(crawling, "VARIANTS_OF_A_PATH", 5)
    job = crawled(shop)
    assert job.state == "done", job.outcome
    pages = pages_of(shop)
    served_pages = {
        str(page["target"])
        for page in site_pages()
        if page["host"] == SITE_HOST and str(page["target"]).rpartition("?")[2] not in ("*", "/robots.txt", "/sitemap.xml")
    }
    calendar = {f"/calendar/?month={month}" for month in range(1, 6)}  # a trap: it would go on forever
    assert set(pages) == served_pages | calendar | {"/gone/"}
    assert (pages["/old/"]["status"], pages["/old/"]["redirect_to"]) == (301, f"{HOME}/new/")
    assert (pages["/gone/"]["status"], pages["/picture"]["problem"]) == (404, "no page: image/png")
    assert (pages["/private/x/"]["problem"], pages["/private/x/"]["status"]) == ("blocked by robots.txt", None)
    assert not any("/private/" in asked for asked in standins.asked)
    assert (pages["/new/"]["depth"], pages["/chain/60/"]["depth"], pages["/only-in-the-map/"]["depth"]) == (2, 61, None)
    assert pages["/a/"]["title"] == "/a/"
    assert job.outcome["statuses"]["404"] == 1


def test_each_page_is_fetched_once_and_the_site_is_never_left(shop: Site, standins: Running) -> None:
    crawled(shop)
    assert len(standins.asked) == len(set(standins.asked))
    assert {asked.split("/")[0] for asked in standins.asked} == {SITE_HOST}
    links = read_facts(shop, CRAWL_LINKS)
    outside = links.filter(pl.col("to_address").str.contains("elsewhere|staging"))["to_address"].to_list()
    assert sorted(outside) == ["http://staging.shop.example/a/", "https://elsewhere.example/"]
    rows = (
        links.filter(pl.col("from_address") == f"{HOME}/a/").sort("to_address").select("to_address", "anchor", "in_body").rows()
    )
    assert (f"{HOME}/", "home", False) in rows
    assert (f"{HOME}/", "to /", True) in rows


def test_a_crawl_that_is_taken_up_again_equals_an_undisturbed_one(
    shop: Site, standins: Running, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(crawling, "PART_PAGES", 10)
    crawled(shop)
    whole = read_facts(shop, CRAWL_PAGES), read_facts(shop, CRAWL_LINKS).unique().sort(pl.all())
    plain, kept = crawling.keeper, []

    def keeper_that_dies(job: Job):  # type: ignore[no-untyped-def]
        keep = plain(job)

        def keep_then_die(pages: pl.DataFrame, links: pl.DataFrame) -> None:
            keep(pages, links)
            kept.append(pages)
            if len(kept) in (2, 5):
                raise SystemExit("killed")

        return keep_then_die

    monkeypatch.setattr(crawling, "keeper", keeper_that_dies)
    standins.asked.clear()
    job = jobs.ask_for_crawl(OPERATOR, shop.slug, {})
    for _ in range(2):
        with pytest.raises(SystemExit):
            jobs.run_job.func(job.id)
        assert JobPart.objects.filter(job=job).exists()
        Job.objects.filter(id=job.id).update(state=Job.State.WAITING)  # as the reaper does
    jobs.run_job.func(job.id)
    job.refresh_from_db()
    assert job.state == "done"
    assert not JobPart.objects.exists()
    again = read_facts(shop, CRAWL_PAGES), read_facts(shop, CRAWL_LINKS).unique().sort(pl.all())
    assert again[0].equals(whole[0])
    assert again[1].equals(whole[1])
    # What was kept before the worker died is not fetched again; only what was under way may be.
    fetched = [asked for asked in standins.asked if "robots" not in asked and "sitemap" not in asked]
    assert len(fetched) - len(set(fetched)) < 2 * (10 + crawling.CrawlRequest(("",), ()).connections)


def test_pages_that_search_data_tell_of_are_fetched_though_nothing_leads_to_them(shop: Site, standins: Running) -> None:
    Page.objects.create(id=1, site=shop, text=f"{HOME}/lost/")
    facts = {"day": [date(2026, 9, 1)], "page": [1], "clicks": [1], "impressions": [9], "position": [4.0]}
    keep(shop, pl.DataFrame(facts), grain=PAGE)
    shop.refresh_from_db()
    crawled(shop)
    lost = pages_of(shop)["/lost/"]
    assert (lost["status"], lost["depth"]) == (404, None)


def test_a_limit_is_a_limit(shop: Site, standins: Running) -> None:
    crawled(shop, pages_max=12, connections=3)
    assert len(pages_of(shop)) == 12


def test_a_delay_is_kept(shop: Site, standins: Running) -> None:
    import time

    begun = time.monotonic()
    crawled(shop, pages_max=6, delay_seconds=0.2)
    assert time.monotonic() - begun >= 0.95 * 5 * 0.2  # two clocks


def test_a_site_that_forbids_or_is_not_there_is_told(shop: Site, standins: Running, settings) -> None:  # type: ignore[no-untyped-def]
    settings.HOST_MAP = {}
    job = crawled(shop)
    assert (job.state, Load.objects.count()) == ("refused", 0)
    assert "could be fetched: robots.txt was not answered" in job.outcome["message"]  # without a robots.txt nothing may be


def test_what_the_crawl_never_met_and_what_was_never_shown_is_told(shop: Site, standins: Running) -> None:
    crawled(shop)
    stored = {one.source: one for one in sources(Site.objects.get(id=shop.id))}
    assert "without impressions" in stored["crawl"].unsound[0].message
    assert stored["crawl"].rows == len(pages_of(shop))


def of_sitemaps(maps: dict[str, bytes], pages_max: int = 50_000) -> tuple[list[str], int]:
    """The pages listed in sitemaps, and the number of skipped maps, without a server."""
    import asyncio

    crawler = crawling.Crawler(crawling.CrawlRequest((f"{HOME}/",), (SITE_HOST,), pages_max))

    async def follow(address: str, bytes_max: int) -> tuple[int | None, bytes]:
        return (200, maps[address]) if address in maps else (404, b"")

    crawler._follow = follow  # type: ignore[method-assign]
    return asyncio.run(crawler._of_sitemaps()), crawler.sitemaps_left_out


def test_an_index_of_many_sitemaps_is_read_and_what_is_left_out_is_counted() -> None:
    def listed(kind: str, addresses: list[str]) -> bytes:
        return f"<{kind}>{''.join(f'<loc>{one}</loc>' for one in addresses)}</{kind}>".encode()

    names = [f"{HOME}/map-{number}.xml" for number in range(1_200)]
    maps = {name: listed("urlset", [f"{HOME}/page-{number}/"]) for number, name in enumerate(names)}
    maps[f"{HOME}/sitemap.xml"] = listed("sitemapindex", names)
    pages, left_out = of_sitemaps(maps)
    assert (len(pages), left_out) == (1_200, 0)
    pages, left_out = of_sitemaps(maps, pages_max=100)
    assert (len(pages), left_out) == (100, 1_100)
