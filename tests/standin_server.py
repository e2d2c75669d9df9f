"""The stand-ins on a free local port, with a small site and a few weeks of data."""

import gzip
import json
import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date, timedelta
from pathlib import Path
from socketserver import ThreadingMixIn
from wsgiref.simple_server import WSGIRequestHandler, WSGIServer, make_server

import polars as pl

from zugzwang.standins.app import TOKEN, Behaviour, StandIns, _read_site, _read_table

FIRST, DAYS, ROWS_A_DAY = date(2026, 9, 1), 40, 130
SITE_HOST = "www.shop.example"
__all__ = ["DAYS", "FIRST", "ROWS_A_DAY", "SITE_HOST", "TOKEN", "Running", "served", "write_data"]


class _Server(ThreadingMixIn, WSGIServer):
    daemon_threads = True


class _Quiet(WSGIRequestHandler):
    def log_message(self, *args: object) -> None:
        pass


class Running:
    """The running stand-ins: `address`, and `behave` to make them misbehave."""

    def __init__(self, app: StandIns, address: str) -> None:
        self.app = app
        self.address = address
        self.asked: list[str] = []

    def behave(self, **how: float) -> None:
        self.app.behaviour = Behaviour(**how)  # type: ignore[arg-type]


def search_facts(days: int = DAYS) -> pl.DataFrame:
    rows = [
        (
            FIRST + timedelta(days=day),
            f"https://{SITE_HOST}/page-{row % 13}/",
            f"query {row}",
            row % 7,
            20 + row,
            1 + row % 30 + 0.5,
        )
        for day in range(days)
        for row in range(ROWS_A_DAY)
    ]
    return pl.DataFrame(rows, schema=["day", "page", "query", "clicks", "impressions", "position"], orient="row")


def write_data(folder: Path, days: int = DAYS) -> pl.DataFrame:
    """Write what the stand-ins serve. Returns the search facts by page and query."""
    facts = search_facts(days)
    weighted = (pl.col("position") * pl.col("impressions")).sum() / pl.col("impressions").sum()
    added = [pl.col("clicks", "impressions").sum(), weighted.alias("position")]
    facts.write_parquet(folder / "search-page-query.parquet")
    for name, by in {"search-page": ["day", "page"], "search-query": ["day", "query"], "search-day": ["day"]}.items():
        facts.group_by(by).agg(added).sort(by).write_parquet(folder / f"{name}.parquet")
    visits = facts.group_by("day", "page").agg(pl.col("clicks").sum().alias("sessions")).sort("day", "page")
    visits.with_columns(channel=pl.lit("organic"), bounces=pl.lit(0)).write_parquet(folder / "visits.parquet")
    pl.DataFrame({"query": ["query 1", "query 2"], "searches": [100, 50]}).write_parquet(folder / "volumes.parquet")
    with gzip.open(folder / "site.ndjson.gz", "wt", encoding="utf-8") as file:
        for page in site_pages():
            file.write(json.dumps(page) + "\n")
    _read_table.cache_clear()
    _read_site.cache_clear()
    return facts


def site_pages() -> list[dict[str, object]]:
    """A small site with the typical obstacles for a crawler."""

    def page(target: str, *links: str, **more: object) -> dict[str, object]:
        body = "".join(f'<a href="{link}">to {link}</a>' for link in links)
        html = f"<title>{target}</title><nav><a href='/'>home</a></nav><main><h1>{target}</h1>{body}</main>"
        return {"host": SITE_HOST, "target": target, "body": html, **more}

    plain = {"headers": {"Content-Type": "text/plain"}}
    chain = [page(f"/chain/{n}/", f"/chain/{n + 1}/") for n in range(60)]
    return [
        page(
            "/",
            "/a/",
            "/old/",
            "/private/x/",
            "/gone/",
            "https://elsewhere.example/",
            "/calendar/?month=1",
            "/chain/0/",
            "/a/#part",
        ),
        page("/a/", "/", "/b/?utm_source=x", "//staging.shop.example/a/"),
        page("/b/?utm_source=x"),
        page("/private/x/"),
        page("/only-in-the-map/"),
        {"host": SITE_HOST, "target": "/old/", "status": 301, "headers": {"Location": "/new/"}, "body": ""},
        page("/new/"),
        page("/calendar/?*", "/calendar/?month={{next}}"),
        {"host": SITE_HOST, "target": "/picture", "headers": {"Content-Type": "image/png"}, "body": "..."},
        {"host": SITE_HOST, "target": "/robots.txt", "body": "User-agent: *\nDisallow: /private/\n", **plain},
        {
            "host": SITE_HOST,
            "target": "/sitemap.xml",
            "body": f"<urlset><url><loc>http://{SITE_HOST}/only-in-the-map/</loc></url></urlset>",
        },
        *chain,
        page("/chain/60/", "/picture"),
        *rivals(),
    ]


def rivals() -> list[dict[str, object]]:
    """Competing pages above the site's result: all mention "broken glass" and "flood cover", two "yearly premium"."""
    more = ("A yearly premium is usual.", "A yearly premium is paid first.", "Ask before you sign.")
    return [
        {
            "host": f"{name}.rival.example",
            "target": "/lantern/",
            "body": f"<title>Lantern insurance</title><main><h1>Lantern insurance</h1><h2>What does it pay for?</h2>"
            f"<p>Lantern insurance pays for broken glass and for flood cover at home. {text}</p>"
            f"<h2>Who needs it?</h2><p>{name.capitalize()} thinks: whoever lends lanterns.</p></main>",
        }
        for name, text in zip(("ash", "birch", "cedar"), more, strict=True)
    ]


def free_port() -> int:
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port: int = free.getsockname()[1]
    return port


@contextmanager
def served(folder: Path) -> Iterator[Running]:
    app = StandIns(folder)
    running = Running(app, "")

    def noting(environ, start):  # type: ignore[no-untyped-def]
        running.asked.append(f"{environ.get('HTTP_HOST', '')}{environ['PATH_INFO']}?{environ.get('QUERY_STRING', '')}")
        return app(environ, start)

    server = make_server("127.0.0.1", 0, noting, _Server, _Quiet)
    running.address = f"http://127.0.0.1:{server.server_port}"
    thread = threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.02}, daemon=True)
    thread.start()
    try:
        yield running
    finally:
        server.shutdown()
        thread.join()
        server.server_close()
