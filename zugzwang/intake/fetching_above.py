"""Pages of other sites from captured SERPs, fetched once and politely, and read like the site's own.

Robots files are respected, each host gets one request at a time, bytes and time are bounded, private addresses are refused.
Pages fetched within thirty days are not fetched again. A resumed fetch continues after what it stored.
"""

import asyncio
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

import httpx
import polars as pl
from django.utils import timezone

from zugzwang.core.facts.addresses import parts
from zugzwang.core.facts.grains import ABOVE
from zugzwang.data import blocks
from zugzwang.data.models import Job, JobPart, Load, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid
from zugzwang.intake.crawling import Crawler, CrawlRequest, Progress, keeper, read_part, run_in_process
from zugzwang.intake.outside import async_client
from zugzwang.intake.page_reader import reading_process
from zugzwang.intake.robots import BLOCKED_BY_ROBOTS

KEPT_DAYS = 30
PLACES = 10  # organic results for each SERP
PAGES_MAX = 5_000
PAGE_MAX_BYTES = 3_000_000
PAGE_SECONDS = 30.0
REDIRECTS = 5
CONNECTIONS = 8


@dataclass(frozen=True)
class Selection:
    """The addresses to fetch, and how many were fetched recently."""

    addresses: list[str]
    fresh: int


def wanted(site: Site, queries: Iterable[int] | None = None) -> Selection:
    """Other sites' pages in the newest captures of some queries, or of all; topmost first. Raises Invalid without captures."""
    snapshot = Snapshot(site)
    results = snapshot.serps.competing_results(PLACES)
    if queries is not None:
        results = results.filter(pl.col("query").is_in(list(queries)))
    if results.is_empty():
        raise Invalid("These queries have no SERP captures.", "Load SERP captures first.", "queries")
    addresses = results.sort("rank", "query")["plain"].unique(maintain_order=True)
    since = timezone.localdate() - timedelta(days=KEPT_DAYS)
    fresh = snapshot.serps.fetched_above().filter(pl.col("fetched") > since)["address"]
    left = addresses.filter(~addresses.is_in(fresh.implode())).head(PAGES_MAX)
    return Selection(left.to_list(), addresses.len() - addresses.filter(~addresses.is_in(fresh.implode())).len())


def fetch_above(job: Job, progress: Progress, log: Callable[[str], None]) -> dict[str, Any]:
    """Fetch and save what a job asks for; returns how much there was."""
    asked = wanted(job.site, job.request.get("queries"))
    fetcher = Fetcher(asked.addresses, bool(job.request.get("private_allowed", False)))
    for part in JobPart.objects.filter(job=job).order_by("number").iterator(chunk_size=20):
        fetcher.take_up(*read_part(part))
    run_in_process(fetcher, keeper(job), progress)
    pages = fetcher.pages()
    rows = {
        "pages": pages.filter(pl.col("status") == 200).height,
        "failed": pages.filter(pl.col("status").is_null() | (pl.col("status") != 200)).height,
        "fresh": asked.fresh,
        "blocked_by_robots": pages.filter(pl.col("problem") == BLOCKED_BY_ROBOTS).height,
    }
    if pages.height:
        log(f"{pages.height} pages were asked for; {asked.fresh} are up to date.")
        progress("Saving the pages", 0.97)
        _keep(job, pages, rows)
    return rows


def _keep(job: Job, pages: pl.DataFrame, result: dict[str, Any]) -> None:
    site = job.site
    while True:
        site.refresh_from_db()
        rewrite = blocks.prepare(site, [(ABOVE, pages)], "add")
        load = Load(site=site, source="above", name="Competing pages", user=job.user, job=job, report=result, rows=pages.height)
        try:
            blocks.write(site, rewrite, {"above": load})
        except blocks.OvertakenError:
            continue
        return


class Fetcher(Crawler):
    """The crawler over a list of addresses on many hosts: it follows no links, and sends each host one request at a time."""

    page_bytes_max = PAGE_MAX_BYTES

    def __init__(self, addresses: list[str], private_allowed: bool) -> None:
        super().__init__(CrawlRequest(tuple(addresses), (), len(addresses), CONNECTIONS, private_allowed=private_allowed))
        self.locks: dict[str, asyncio.Lock] = {}

    async def run(self) -> None:
        self.news.put(("Fetching competing pages", 0.0))
        done = {address for pages in self.stored_pages for address in pages["address"]}
        self.waiting.extend(address for address in self.wanted.start if address not in done)
        async with async_client(self.wanted.private_allowed, self.wanted.connections) as http:
            self.http = http
            self.readers = reading_process()
            try:
                await self._fetch_all()
                self._keep_part()
            finally:
                self.readers.shutdown()

    def _offer(self, addresses: Iterable[str]) -> None:
        """Fetch nothing beyond the list."""

    def _is_own(self, host: str) -> bool:
        return True

    async def _fetch(self, address: str) -> None:
        async with self.locks.setdefault(parts(address).host, asyncio.Lock()):
            try:
                await asyncio.wait_for(super()._fetch(address), PAGE_SECONDS)
            except TimeoutError:
                self._note({"address": address, "problem": f"no answer within {PAGE_SECONDS:.0f} seconds"}, [])

    async def _get_page(self, address: str) -> tuple[int, httpx.Headers, bytes]:
        """A page, after redirects that robots files allow."""
        for _ in range(REDIRECTS):
            status, headers, body = await self._get(address, self.page_bytes_max)
            if not (300 <= status < 400 and "location" in headers):
                break
            address = str(httpx.URL(address).join(headers["location"]))
            if not (await self._robots_of(address)).allows(address):
                break
        return status, headers, body

    def pages(self) -> pl.DataFrame:
        """The fetched pages as ABOVE."""
        if not self.stored_pages:
            return ABOVE.schema.to_frame()
        today = pl.lit(timezone.localdate()).alias("fetched")
        return pl.concat(self.stored_pages).drop("depth").with_columns(today).select(ABOVE.schema.names())
