"""Hostile sites for the crawler, by kind and seed: `make hostile-sites`. A real worker crawls each; after `PATIENCE` seconds
the crawl is cancelled. The web process must answer within a second, a cancel must take effect within a second, and the
worker must stay below 1.5 GB.
"""

import gzip
import os
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from random import Random

import httpx

from bench.hostile import WORKER_MB, Asker, installation, memory_mb

SITES = int(os.environ.get("SITES", 40))
PATIENCE = 15.0
CANCEL_SECONDS = 1.5  # to be heard within a second, and reported by the next look
Answer = tuple[int, dict[str, str], bytes]
HTML = {"Content-Type": "text/html"}


def page(body: bytes) -> Answer:
    return 200, HTML, b"<html><body>" + body


def blank_map(path: str, chance: Random) -> Answer:
    if path == "/sitemap.xml":
        return 200, {"Content-Type": "text/xml"}, b"<urlset><loc>" + b" " * chance.choice([3_000, 2_000_000])
    return page(b"<a href=/a>a</a>")


def dense_map(path: str, chance: Random) -> Answer:
    if path == "/sitemap.xml":
        return 200, {"Content-Type": "text/xml"}, gzip.compress(b"<loc>" * chance.choice([10**6, 10**8 // 5]))
    return page(b"<a href=/a>a</a>")


def nested(path: str, chance: Random) -> Answer:
    return page(chance.choice([b"<div>", b"<nav>", b"<b>", b"<table>"]) * 60_000 + b"<a href=/b>b</a>" * 2_000)


def endless(path: str, chance: Random) -> Answer:
    return page(b"".join(b"<a href='/%d?x=%d'>a</a>" % (chance.randrange(10**9), n) for n in range(2_000)))


def redirects(path: str, chance: Random) -> Answer:
    return 302, {"Location": f"/{chance.randrange(10**9)}"}, b""


def large(path: str, chance: Random) -> Answer:
    return page(b"x" * 60_000_000)


def packed(path: str, chance: Random) -> Answer:
    return 200, {**HTML, "Content-Encoding": "gzip"}, gzip.compress(b"<p>a" * 100_000_000)


def robots(path: str, chance: Random) -> Answer:
    if path == "/robots.txt":
        return (
            200,
            {"Content-Type": "text/plain"},
            b"User-agent: *\nDisallow: /" + b"a*" * 5_000 + b"$\n" + b"Allow: /*a*b*c\n" * 20_000,
        )
    return page(b"<a href='/" + b"a" * 1_900 + b"'>a</a>")


def lying(path: str, chance: Random) -> Answer:
    return 200, {**HTML, "Content-Length": "5000000"}, b"<html>"


def drip(path: str, chance: Random) -> Answer:
    time.sleep(60)
    return page(b"")


KINDS: tuple[Callable[[str, Random], Answer], ...] = (
    blank_map, dense_map, nested, endless, redirects, large, packed, robots, lying, drip
)  # fmt: skip


class Site(BaseHTTPRequestHandler):
    def do_GET(self) -> None:
        number = int(self.headers["Host"].split(".")[0].removeprefix("site-"))
        status, headers, body = KINDS[number % len(KINDS)](self.path, Random(f"{number}{self.path}"))
        self.send_response(status)
        for name, value in headers.items():
            self.send_header(name, value)
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, *args: object) -> None:
        pass


class Sites(ThreadingHTTPServer):
    daemon_threads = True

    def handle_error(self, *args: object) -> None:
        pass


def main() -> None:
    served = Sites(("127.0.0.1", 0), Site)
    threading.Thread(target=served.serve_forever, daemon=True).start()
    hosts = [f"site-{number}.example" for number in range(SITES)]
    mapped = ",".join(f"{host}=http://127.0.0.1:{served.server_port}" for host in hosts)
    failed = 0
    with tempfile.TemporaryDirectory() as folder, installation(Path(folder), ZUGZWANG_HOST_MAP=mapped) as (address, processes):
        most, slowest, over = 0.0, 0.0, threading.Event()

        def look() -> None:
            nonlocal most, slowest
            while not over.wait(0.2):
                asked = time.monotonic()
                httpx.get(f"{address}/api/session", timeout=60)
                slowest = max(slowest, time.monotonic() - asked)
                most = max(most, memory_mb(processes["worker"].pid))

        looking = threading.Thread(target=look)
        looking.start()
        asker = Asker(address, "a", "a long password")
        asker.http.delete(
            "/api/sites/shop", headers={"X-CSRFToken": asker.http.cookies["csrftoken"]}
        )  # no one may own more than a hundred
        for number, host in enumerate(hosts):
            slug = f"site-{number}"
            asker.post("/api/sites", json={"name": slug, "address": f"http://{host}", "slug": slug}).raise_for_status()
            job = asker.post(f"/api/sites/{slug}/crawl", json={"pages_max": 60}).json()
            begun, cancelled = time.monotonic(), 0.0
            while job["state"] in ("waiting", "running"):
                time.sleep(0.1)
                now = time.monotonic()
                if not cancelled and now - begun > PATIENCE:
                    cancelled = now
                    asker.post(f"/api/sites/{slug}/jobs/{job['id']}/cancel")
                job = asker.http.get(f"/api/sites/{slug}/jobs/{job['id']}").json()
            heard = time.monotonic() - cancelled if cancelled else 0.0
            wrong = job["state"] == "failed" or heard > CANCEL_SECONDS
            failed += wrong
            result = f"cancel heard in {heard:.1f} s" if cancelled else f"{time.monotonic() - begun:.1f} s"
            said = str(job["outcome"].get("message") or job["outcome"].get("statuses") or "")[:90]
            print(
                f"{'WRONG ' if wrong else ''}{KINDS[number % len(KINDS)].__name__:12}{job['state']:10}{result:24}{said}",
                flush=True,
            )
        over.set()
        looking.join()
        alive = all(process.poll() is None for process in processes.values())
    print(
        f"{SITES} sites; {failed} wrong; {'alive' if alive else 'DEAD'}; slowest answer {slowest:.2f} s; worker {most:.0f} MB"
    )
    sys.exit(0 if alive and not failed and slowest < 1 and most < WORKER_MB else 1)


if __name__ == "__main__":
    main()
