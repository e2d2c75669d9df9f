"""The crawler compared with a bare loop of the same libraries, and with an independent walk of the files: `make bench-crawl`.
A folder of HTML is served locally (DOCS, for example Debian's openjdk-17-doc or python3-doc). Measured: pages a second of a
whole crawl job, as a ratio to a loop that only fetches with httpx and collects links with selectolax over as many
connections; and whether pages and links equal those that the standard library finds.
"""

import asyncio
import http.server
import json
import multiprocessing
import os
import statistics
import sys
import tempfile
import time
from collections import deque
from functools import partial
from html.parser import HTMLParser
from pathlib import Path
from typing import Any
from urllib.parse import quote, unquote, urldefrag, urljoin, urlsplit

CONNECTIONS = 8
REPEATS = int(os.environ.get("REPEATS", "3"))


class _Handler(http.server.SimpleHTTPRequestHandler):
    protocol_version = "HTTP/1.1"
    extensions_map = {"": "application/octet-stream", ".html": "text/html", ".htm": "text/html", ".txt": "text/plain"}

    def log_message(self, *args: object) -> None:
        pass

    def list_directory(self, path: Any) -> None:
        self.send_error(404)


def _serve(folder: str, port: int) -> None:
    http.server.ThreadingHTTPServer(("127.0.0.1", port), partial(_Handler, directory=folder)).serve_forever()


async def _bare(start: str) -> int:
    """Fetch with httpx and collect links with selectolax; nothing else."""
    import httpx
    from selectolax.lexbor import LexborHTMLParser

    host, known, waiting, pages = urlsplit(start).netloc, {start}, deque([start]), 0
    limits = httpx.Limits(max_connections=CONNECTIONS, max_keepalive_connections=CONNECTIONS)
    async with httpx.AsyncClient(limits=limits, follow_redirects=False) as client:

        async def fetch(address: str) -> None:
            nonlocal pages
            reply = await client.get(address)
            if reply.status_code != 200 or not reply.headers["content-type"].startswith("text/html"):
                return
            pages += 1
            for node in LexborHTMLParser(reply.content).css("a[href]"):
                target = urldefrag(urljoin(address, node.attributes["href"] or ""))[0]
                if target not in known and urlsplit(target).netloc == host:
                    known.add(target)
                    waiting.append(target)

        running: set[asyncio.Task[None]] = set()
        while waiting or running:
            while waiting and len(running) < CONNECTIONS:
                running.add(asyncio.create_task(fetch(waiting.popleft())))
            _, running = await asyncio.wait(running, return_when=asyncio.FIRST_COMPLETED)
    return pages


class _Links(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.found: list[str] = []
        self.base: str | None = None

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        result = dict(attrs)
        if tag == "a" and result.get("href"):
            self.found.append(result["href"] or "")
        elif tag == "base" and result.get("href") and self.base is None:
            self.base = result["href"]


def _walk(folder: Path, start: str) -> tuple[set[str], set[tuple[str, str]]]:
    """Pages and links reachable from the start, found in the files with the standard library."""
    host, known, waiting = urlsplit(start).netloc, {start}, deque([start])
    pages, links = set(), set()
    while waiting:
        address = waiting.popleft()
        file = folder / unquote(urlsplit(address).path).lstrip("/")
        file = file / "index.html" if file.is_dir() and address.endswith("/") else file
        if not file.is_file() or file.suffix not in (".html", ".htm"):
            continue
        pages.add(address)
        parser = _Links()
        parser.feed(file.read_text(encoding="utf-8", errors="replace"))
        base = urljoin(address, parser.base) if parser.base else address
        for reference in parser.found:
            target = urldefrag(urljoin(base, reference.strip()))[0]
            if reference.strip().startswith("#") or not target.startswith(("http://", "https://")):
                continue
            links.add((address, _same(target)))
            if _same(target) not in known and urlsplit(target).netloc == host:
                known.add(_same(target))
                waiting.append(_same(target))
    return pages, links


def _same(address: str) -> str:
    """Normalise addresses like the files: percent-encoding and host case, with the standard library."""
    parts = urlsplit(address)
    path = quote(unquote(parts.path or "/"), safe="/-._~!$&'()*+,;=:@")
    return parts._replace(scheme=parts.scheme.lower(), netloc=parts.netloc.lower(), path=path).geturl()


def _ours(start: str) -> tuple[int, set[str], set[tuple[str, str]]]:
    import polars as pl

    from zugzwang.core.facts.grains import CRAWL_LINKS, CRAWL_PAGES
    from zugzwang.data.blocks import read_facts
    from zugzwang.data.models import Job, Site
    from zugzwang.intake import jobs

    site = Site.objects.create(slug=f"docs{Site.objects.count()}", name="Docs", address=start)
    job = Job.objects.create(site=site, kind=Job.Kind.CRAWL, request={"connections": CONNECTIONS, "private_allowed": True})
    jobs.run_job.func(job.id)
    job.refresh_from_db()
    assert job.state == "done", job.outcome
    pages = read_facts(site, CRAWL_PAGES).filter(pl.col("status") == 200, pl.col("problem").is_null())
    links = read_facts(site, CRAWL_LINKS)
    found = {(_same(a), _same(b)) for a, b in links.select("from_address", "to_address").iter_rows()}
    return pages.height, {_same(one) for one in pages["address"]}, found


def main() -> None:
    folder, first = Path(sys.argv[1]), sys.argv[2]
    port = 18_765
    server = multiprocessing.get_context("spawn").Process(target=_serve, args=(str(folder), port), daemon=True)
    server.start()
    time.sleep(1.5)
    start = f"http://127.0.0.1:{port}/{first}"
    with tempfile.TemporaryDirectory() as data:
        os.environ.update(ZUGZWANG_DATA_DIR=data, DJANGO_SETTINGS_MODULE="zugzwang.settings")
        import django
        from django.core.management import call_command

        django.setup()
        call_command("migrate", verbosity=0)
        rates: dict[str, list[float]] = {"bare": [], "ours": []}
        for _ in range(REPEATS):
            begun = time.perf_counter()
            count = asyncio.run(_bare(start))
            rates["bare"].append(count / (time.perf_counter() - begun))
            begun = time.perf_counter()
            ours, pages, links = _ours(start)
            rates["ours"].append(ours / (time.perf_counter() - begun))
    server.terminate()
    walked, walked_links = _walk(folder, start)
    bare, mine = (statistics.median(rates[name]) for name in ("bare", "ours"))
    print(f"{ours:,} pages, {len(links):,} links; the bare loop met {count:,} pages")
    rate = f"{mine / bare:.2f} × (at least 0.8 ×) – {mine:.0f} against {bare:.0f} pages a second"
    print(f"{'held' if mine >= 0.8 * bare else 'MISSED':7}rate: {rate}")
    same = pages == walked and links == walked_links
    print(f"{'held' if same else 'DIFFER':7}pages and links of an independent walk: {len(walked):,} and {len(walked_links):,}")
    differ: dict[str, set[Any]] = {
        "more": pages - walked,
        "fewer": walked - pages,
        "more links": links - walked_links,
        "fewer links": walked_links - links,
    }
    print(json.dumps({"rates": rates, **{name: sorted(entry)[:5] for name, entry in differ.items()}}))
    sys.exit(0 if same and mine >= 0.8 * bare else 1)


if __name__ == "__main__":
    main()
