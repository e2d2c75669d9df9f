"""The crawler: polite (robots, a delay, few connections for each host), bounded, resumable; it never leaves the site.

Pages are fetched in the order of discovery. Fetched pages are stored in parts (`JobPart`); a resumed crawl reads its parts,
and the links in them that are not yet fetched are what is left. So however often it stops, in the end every page was
fetched once.
"""

import asyncio
import io
import time
from collections import deque
from collections.abc import Callable, Iterable
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass, replace
from queue import SimpleQueue
from threading import Thread
from typing import Any

import httpx
import polars as pl
from django.conf import settings

from zugzwang.core.facts.addresses import normal, parts
from zugzwang.core.facts.grains import CRAWL_LINKS, CRAWL_PAGES
from zugzwang.core.pages.html import LinkRow, depths
from zugzwang.data import blocks
from zugzwang.data.models import Job, JobPart, Load, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid, ProductError
from zugzwang.intake.kinds.making import know_pages
from zugzwang.intake.outside import Body, OutsideRefused, async_client, mapped
from zugzwang.intake.page_reader import read_in_time, reading_process
from zugzwang.intake.robots import BLOCKED_BY_ROBOTS, Robots, read_robots, read_sitemap

PAGE_MAX_BYTES = 8_000_000
PART_PAGES = 100
PART_SECONDS = 3.0
ATTEMPTS = 3
VARIANTS_OF_A_PATH = 200  # addresses that differ only in parameters: more indicate a trap
ADDRESS_MAX = 2_000
GET_SECONDS = 120.0  # for one response, including its headers
SITEMAPS_MAX = 50_000  # the maximum of an index (sitemaps.org, protocol 0.9)
SITEMAPS_SECONDS = 1_800.0


@dataclass(frozen=True)
class CrawlRequest:
    """How to crawl a site."""

    start: tuple[str, ...]
    hosts: tuple[str, ...]  # in lower case; links to other sites are recorded and not fetched
    pages_max: int = 50_000
    connections: int = 8
    delay_seconds: float = 0.0
    private_allowed: bool = False
    with_sitemaps: bool = True
    shown: tuple[str, ...] = ()  # pages with search data: fetched at the end if no link led to them


Progress = Callable[[str, float], None]


def ask_for(site: Site, result: dict[str, Any]) -> CrawlRequest:
    """The crawl that a job's request describes; defaults for the rest."""
    start = normal(site.address)
    own = parts(start).host.removeprefix("www.")
    hosts = tuple(host.strip().lower() for host in result.get("hosts", ()) if host.strip())
    pages_max, connections = int(result.get("pages_max", 50_000)), int(result.get("connections", 8))
    if not 1 <= pages_max <= 1_000_000 or not 1 <= connections <= 32:
        raise Invalid("Between 1 and 1,000,000 pages, over 1 to 32 connections.", "", "pages_max")
    return CrawlRequest(
        start=(start,),
        hosts=tuple(dict.fromkeys((own, f"www.{own}", *hosts))),
        pages_max=pages_max,
        connections=connections,
        delay_seconds=min(max(float(result.get("delay_seconds", 0.0)), 0.0), 60.0),
        private_allowed=bool(result.get("private_allowed", False)),
    )


def crawl(job: Job, progress: Progress, log: Callable[[str], None]) -> dict[str, Any]:
    """Crawl the job's site and save the result; returns how much there was."""
    wanted = ask_for(job.site, job.request)
    stored = JobPart.objects.filter(job=job)
    if stored.exists():
        log(f"Continued after part {stored.count()}.")
    crawler = Crawler(replace(wanted, shown=tuple(Snapshot(job.site).pages.shown_pages())))
    for part in stored.order_by("number").iterator(chunk_size=20):
        crawler.take_up(*read_part(part))
    run_in_process(crawler, keeper(job), progress)
    if crawler.sitemaps_left_out:
        log(
            f"{crawler.sitemaps_left_out:,} sitemaps were not read: the limit of pages was reached, "
            f"or reading took over {SITEMAPS_SECONDS / 60:.0f} minutes."
        )
    pages, links = crawler.result()
    if pages.filter(pl.col("status") == 200).is_empty():
        why = pages["problem"].drop_nulls().to_list()[:1] or [f"it answered {pages['status'].to_list()[:1]}"]
        raise ProductError(f"No page of {job.site.address} could be fetched: {why[0]}.", "Check its address and robots.txt.")
    rows = {
        "pages": pages.height,
        "links": links.height,
        "statuses": {
            str(status or "none"): count for status, count in pages.group_by("status").len().sort("status").iter_rows()
        },
        "blocked_by_robots": pages.filter(pl.col("problem") == BLOCKED_BY_ROBOTS).height,
        "sitemaps_left_out": crawler.sitemaps_left_out,
    }
    progress("Saving the pages", 0.97)
    _keep(job, pages, links, rows)
    return rows


def run_in_process(crawler: "Crawler", keep: Callable[[pl.DataFrame, pl.DataFrame], None], progress: Progress) -> None:
    """Run the crawler's fetching in a thread of its own, and handle its messages and storage here: only one thread uses the
    database.
    """
    failed: list[BaseException] = []

    def fetch() -> None:
        try:
            asyncio.run(crawler.run())
        except BaseException as error:
            failed.append(error)
        finally:
            crawler.news.put(None)

    thread = Thread(target=fetch, daemon=True)
    thread.start()
    try:
        while (news := crawler.news.get()) is not None:
            if isinstance(news[0], str):
                progress(*news)
            else:
                keep(*news)
    finally:
        crawler.stopped = True
        thread.join()
    if failed:
        raise failed[0]


def _keep(job: Job, pages: pl.DataFrame, links: pl.DataFrame, result: dict[str, Any]) -> None:
    site = job.site
    while True:
        site.refresh_from_db()
        know_pages(site, pages["address"], pages)
        rewrite = blocks.prepare(site, [(CRAWL_PAGES, pages), (CRAWL_LINKS, links)], "replace")
        if not rewrite.blocks:
            return
        load = Load(
            site=site, source="crawl", name=f"Crawl of {site.address}", user=job.user, job=job, report=result, rows=pages.height
        )
        try:
            blocks.write(site, rewrite, {"crawl": load})
        except blocks.OvertakenError:
            continue
        return


def keeper(job: Job) -> Callable[[pl.DataFrame, pl.DataFrame], None]:
    number = JobPart.objects.filter(job=job).count()

    def keep(pages: pl.DataFrame, links: pl.DataFrame) -> None:
        nonlocal number
        first = _parquet(pages)
        JobPart.objects.create(job=job, number=number, state={"pages_bytes": len(first)}, payload=first + _parquet(links))
        number += 1

    return keep


def _parquet(rows: pl.DataFrame) -> bytes:
    buffer = io.BytesIO()
    rows.write_parquet(buffer, compression="zstd", compression_level=1, statistics=False)
    return buffer.getvalue()


def read_part(part: JobPart) -> tuple[pl.DataFrame, pl.DataFrame]:
    payload, cut = bytes(part.payload), part.state["pages_bytes"]
    return pl.read_parquet(io.BytesIO(payload[:cut])), pl.read_parquet(io.BytesIO(payload[cut:]))


class Crawler:
    """One crawl: a queue of addresses, a few fetchers, a process that reads pages."""

    page_bytes_max = PAGE_MAX_BYTES

    def __init__(self, wanted: CrawlRequest) -> None:
        self.wanted = wanted
        # Progress, or a part to store; None when it is over.
        self.news: SimpleQueue[tuple[str, float] | tuple[pl.DataFrame, pl.DataFrame] | None] = SimpleQueue()
        self.stopped = False
        self.stored_pages: list[pl.DataFrame] = []
        self.stored_links: list[pl.DataFrame] = []
        self.fresh_pages: list[dict[str, Any]] = []
        self.fresh_links: list[LinkRow] = []
        self.done = 0
        self.known: set[str] = set()
        self.variants: dict[str, int] = {}
        self.waiting: deque[str] = deque()
        self.robots: dict[str, Robots] = {}
        self.turns: dict[str, float] = {}
        self.stored_at = time.monotonic()
        self.sitemaps_left_out = 0

    def take_up(self, pages: pl.DataFrame, links: pl.DataFrame) -> None:
        """Restore what an earlier run of this crawl stored."""
        self.stored_pages.append(pages)
        self.stored_links.append(links)
        self.done += pages.height

    async def run(self) -> None:
        self.news.put(("Reading robots.txt and sitemaps", 0.0))
        async with async_client(self.wanted.private_allowed, self.wanted.connections) as http:
            self.http = http
            self.readers = reading_process()
            try:
                # Pages from an earlier run are known, so they are not fetched again; all their links are queued.
                for pages in self.stored_pages:
                    self._know(pages["address"])
                self._offer(self.wanted.start)
                if self.wanted.with_sitemaps:
                    self._offer(await self._of_sitemaps())
                for pages, links in zip(self.stored_pages, self.stored_links, strict=True):
                    self._offer(pages["redirect_to"].drop_nulls())
                    self._offer(links["to_address"].unique(maintain_order=True))
                await self._fetch_all()
                self._offer(self.wanted.shown)
                await self._fetch_all()
                self._keep_part()
            finally:
                self.readers.shutdown()

    def _know(self, addresses: Iterable[str]) -> None:
        for address in addresses:
            self.known.add(address)
            path, asks, _ = address.partition("?")
            if asks:
                self.variants[path] = self.variants.get(path, 0) + 1

    def _offer(self, addresses: Iterable[str]) -> None:
        """Queue addresses of the site that are new."""
        for address in addresses:
            if address in self.known or len(address) > ADDRESS_MAX or not self._is_own(parts(address).host):
                continue
            self._know([address])
            if self.variants.get(address.partition("?")[0], 0) <= VARIANTS_OF_A_PATH or "?" not in address:
                self.waiting.append(address)

    async def _fetch_all(self) -> None:
        running: set[asyncio.Task[None]] = set()
        started = self.done
        while (self.waiting or running) and not self.stopped:
            while self.waiting and len(running) < self.wanted.connections and started < self.wanted.pages_max:
                running.add(asyncio.create_task(self._fetch(self.waiting.popleft())))
                started += 1
            if not running:
                break
            finished, running = await asyncio.wait(running, return_when=asyncio.FIRST_COMPLETED)
            for task in finished:
                task.result()
            self._tell()
        # A cancelled crawl leaves nothing half stored.
        for task in running:
            task.cancel()
        await asyncio.gather(*running, return_exceptions=True)

    def _tell(self) -> None:
        left = len(self.waiting)
        self.news.put((f"{self.done:,} pages fetched, {left:,} known to come", 0.95 * self.done / max(self.done + left, 1)))
        if len(self.fresh_pages) >= PART_PAGES or time.monotonic() - self.stored_at > PART_SECONDS:
            self._keep_part()

    def _keep_part(self) -> None:
        if self.fresh_pages:
            pages, links = _frame(self.fresh_pages), pl.DataFrame(self.fresh_links, schema=CRAWL_LINKS.schema, orient="row")
            self.news.put((pages, links))
            self.stored_pages.append(pages)
            self.stored_links.append(links)
        self.fresh_pages, self.fresh_links, self.stored_at = [], [], time.monotonic()

    async def _fetch(self, address: str) -> None:
        robots = await self._robots_of(address)
        if not robots.allows(address):
            self._note({"address": address, "problem": robots.keeps_out}, [])
            return
        for attempt in range(ATTEMPTS):
            await self._wait_turn(address, robots)
            try:
                status, headers, body = await self._get_page(address)
            except (httpx.HTTPError, httpx.InvalidURL) as error:
                problem: str | None = f"no answer: {str(error) or type(error).__name__}"[:200]
            except OutsideRefused as error:
                self._note({"address": address, "problem": error.message}, [])
                return
            else:
                if status not in (429, 502, 503, 504) or attempt == ATTEMPTS - 1:
                    await self._read(address, status, headers, body)
                    return
                problem = None
                result = headers.get("retry-after", "")
                await asyncio.sleep(min(float(result) if result.isdigit() else 2.0**attempt, 30.0))
        self._note({"address": address, "problem": problem}, [])

    async def _read(self, address: str, status: int, headers: httpx.Headers, body: bytes) -> None:
        location = None
        if 300 <= status < 400 and "location" in headers:
            location = normal(str(httpx.URL(address).join(headers["location"]))).partition("#")[0]
        kind, robots = headers.get("content-type", "").lower(), headers.get("x-robots-tag", "")
        row, links = await self._read_apart(address, status, kind, robots, location, body)
        self._note(row, links)
        if location:
            self._offer([location])
        self._offer(link[1] for link in links)

    async def _read_apart(self, address: str, status: int, *more: Any) -> tuple[dict[str, Any], list[LinkRow]]:
        """Read pages in another process while fetching goes on. A page that takes too long ends it; then each page in its
        queue is read in its own process, which finds the one at fault.
        """
        loop, readers = asyncio.get_running_loop(), self.readers
        try:
            return await loop.run_in_executor(readers, read_in_time, address, status, *more)
        except BrokenProcessPool:
            if self.readers is readers:
                self.readers = reading_process()
        with reading_process() as alone:
            try:
                return await loop.run_in_executor(alone, read_in_time, address, status, *more)
            except BrokenProcessPool:
                return {"address": address, "status": status, "problem": "its HTML takes too long to be read"}, []

    def _note(self, row: dict[str, Any], links: list[LinkRow]) -> None:
        self.fresh_pages.append(row)
        self.fresh_links += links
        self.done += 1

    async def _wait_turn(self, address: str, robots: Robots) -> None:
        """Wait for the delay between two requests to a host, as configured or as the host asks."""
        delay = max(self.wanted.delay_seconds, robots.delay_seconds)
        if delay <= 0:
            return
        host, now = parts(address).host, time.monotonic()
        turn = max(self.turns.get(host, 0.0), now)
        self.turns[host] = turn + delay
        await asyncio.sleep(turn - now)

    async def _get_page(self, address: str) -> tuple[int, httpx.Headers, bytes]:
        return await self._get(address, self.page_bytes_max)

    def _is_own(self, host: str) -> bool:
        """Whether a host is part of the crawl."""
        return host in self.wanted.hosts

    async def _get(self, address: str, bytes_max: int) -> tuple[int, httpx.Headers, bytes]:
        """Status, headers and the first `bytes_max` of a response. Raises httpx's errors where it fails or takes too long."""
        real, headers = mapped(address)
        try:
            async with asyncio.timeout(GET_SECONDS), self.http.stream("GET", real, headers=headers) as reply:
                body = Body(address, reply.headers, bytes_max)
                async for piece in reply.aiter_raw():
                    body.add(piece)
                    if body.full:
                        break
        except TimeoutError:
            raise httpx.ReadTimeout(f"the whole reply took over {GET_SECONDS:.0f} seconds") from None
        return reply.status_code, reply.headers, bytes(body.bytes)

    async def _robots_of(self, address: str) -> Robots:
        values = parts(address)
        origin = f"{values.scheme}://{values.authority}"
        if origin not in self.robots:
            agent = settings.USER_AGENT.partition("/")[0]
            try:
                self.robots[origin] = read_robots(*await self._follow(f"{origin}/robots.txt", 600_000), agent)
            except OutsideRefused as error:
                self.robots[origin] = Robots(None, agent, keeps_out=error.message)
        return self.robots[origin]

    async def _follow(self, address: str, bytes_max: int) -> tuple[int | None, bytes]:
        """Status and body after up to five redirects within the site; None without a response."""
        for _ in range(6):
            try:
                status, headers, body = await self._get(address, bytes_max)
            except (httpx.HTTPError, httpx.InvalidURL):
                return None, b""
            if not (300 <= status < 400 and "location" in headers):
                return status, body
            address = str(httpx.URL(address).join(headers["location"]))
            if not self._is_own(parts(address).host):
                break
        return 404, b""

    async def _of_sitemaps(self) -> list[str]:
        """The pages in the sitemaps, including sitemaps in an index."""
        start = parts(self.wanted.start[0])
        named = (await self._robots_of(self.wanted.start[0])).sitemaps
        left = deque(named or [f"{start.scheme}://{start.authority}/sitemap.xml"])
        seen, pages = set(left), dict[str, None]()
        begun, beyond = time.monotonic(), 0
        while left and len(pages) < self.wanted.pages_max and time.monotonic() - begun < SITEMAPS_SECONDS:
            address = left.popleft()
            if not self._is_own(parts(address).host):
                continue
            try:
                status, body = await self._follow(address, 52_428_800)
            except OutsideRefused:
                continue
            if status != 200:
                continue
            found, maps = read_sitemap(body)
            pages |= dict.fromkeys(normal(page).partition("#")[0] for page in found)
            new = [one for one in dict.fromkeys(maps) if one not in seen]
            room = max(SITEMAPS_MAX - len(seen), 0)
            beyond += len(new[room:])
            left.extend(new[:room])
            seen |= set(new[:room])
        self.sitemaps_left_out = len(left) + beyond
        return list(pages)

    def result(self) -> tuple[pl.DataFrame, pl.DataFrame]:
        """The result as CRAWL_PAGES (with click depth) and CRAWL_LINKS."""
        pages = pl.concat([CRAWL_PAGES.schema.to_frame(), *self.stored_pages])
        links = pl.concat([CRAWL_LINKS.schema.to_frame(), *self.stored_links])
        steps = links.select("from_address", "to_address").unique().group_by("from_address").agg("to_address")
        leads_to: dict[str, list[str]] = dict(steps.iter_rows())
        for address, target in pages.filter(pl.col("redirect_to").is_not_null()).select("address", "redirect_to").iter_rows():
            leads_to.setdefault(address, []).append(target)
        far = depths(self.wanted.start, leads_to)
        result = [far.get(address) for address in pages["address"]]
        return pages.with_columns(pl.Series("depth", result, dtype=pl.UInt16)), links


def _frame(pages: list[dict[str, Any]]) -> pl.DataFrame:
    names = CRAWL_PAGES.schema.names()
    return pl.DataFrame([[row.get(name) for name in names] for row in pages], schema=CRAWL_PAGES.schema, orient="row")
