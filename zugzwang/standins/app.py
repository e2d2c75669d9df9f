"""The stand-ins as one WSGI application: `/search/…`, `/visits/…` and the other services; /mail; POST /behave; a site by its
host.
"""

import base64
import gzip
import hashlib
import json
import os
import threading
import time
from collections.abc import Callable, Iterable
from dataclasses import asdict, dataclass, fields
from functools import lru_cache
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, urlencode

import polars as pl

from zugzwang.standins import mail, text

PAGE_ROWS = 25_000
TOKEN = "marrowbank-token"  # noqa: S105 – public on purpose, like everything in the demo
DATED = {"search": ("page,query", "page", "query", "day"), "visits": ("",)}
SOURCES = ("search", "visits", "links", "volumes", "results", "strengths", "page-queries", "events")

Start = Callable[[str, list[tuple[str, str]]], Any]
Reply = tuple[int, dict[str, str], bytes]


@dataclass
class Behaviour:
    """Planned failures. Counts decrease with each spoiled request; `cap_rows` limits every page of rows."""

    delay_seconds: float = 0.0
    cap_rows: int = PAGE_ROWS
    refuse: int = 0  # 429 with Retry-After
    retry_after_seconds: int = 1
    fail: int = 0  # 503
    stall: int = 0  # responds only after `stall_seconds`
    stall_seconds: float = 5.0
    cut: int = 0  # the body ends in the middle
    nonsense: int = 0  # not JSON
    mail_refuse: int = 0  # mails to defer


class StandIns:
    """The application; one process serves all sources of one folder."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.mail_folder = folder / "mail"
        self.behaviour = Behaviour()
        self.lock = threading.Lock()

    def __call__(self, environ: dict[str, Any], start: Start) -> Iterable[bytes]:
        status, headers, body = self.answer(environ)
        cut = headers.pop("X-Cut", None)
        sent = body[: len(body) // 2] if cut else body
        start(f"{status} {'OK' if status < 400 else 'Refused'}", [*headers.items(), ("Content-Length", str(len(sent)))])
        return [sent]

    def answer(self, environ: dict[str, Any]) -> Reply:
        host = environ.get("HTTP_HOST", "").partition(":")[0].lower()
        path, query = environ.get("PATH_INFO", "/"), environ.get("QUERY_STRING", "")
        if path == "/behave" and environ["REQUEST_METHOD"] == "POST":
            return self.behave(environ)
        source = path.strip("/").split("/")[0]
        if source == "mail" and host not in self.site_hosts():
            return mail.show(self.mail_folder, path)
        if source == "text" and host not in self.site_hosts():
            return self.serve_text(environ)
        if source in SOURCES and host not in self.site_hosts():
            return self.serve_source(source, path, query, environ)
        return self.serve_site(host, f"{path}?{query}" if query else path)

    def behave(self, environ: dict[str, Any]) -> Reply:
        result = json.loads(environ["wsgi.input"].read(int(environ.get("CONTENT_LENGTH") or 0)) or b"{}")
        known = {field.name for field in fields(Behaviour)}
        with self.lock:
            self.behaviour = Behaviour(**{name: value for name, value in result.items() if name in known})
        return _json(200, asdict(self.behaviour))

    def spoil(self, name: str) -> bool:
        """Whether to spoil this request in this way."""
        with self.lock:
            left = getattr(self.behaviour, name)
            if left > 0:
                setattr(self.behaviour, name, left - 1)
            return bool(left > 0)

    # --- services --------------------------------------------------------------------------------------------------

    def serve_source(self, source: str, path: str, query: str, environ: dict[str, Any]) -> Reply:
        spoilt = self.spoilt(environ)
        if spoilt is not None:
            return spoilt
        if path.endswith("/about"):
            return self.about(source)
        reply = self.rows(source, path, {name: values[0] for name, values in parse_qs(query).items()})
        if self.spoil("cut"):
            reply[1]["X-Cut"] = "1"
        return reply

    def serve_text(self, environ: dict[str, Any]) -> Reply:
        """Suggestions of the text service (zugzwang.standins.text)."""
        result = environ["wsgi.input"].read(int(environ.get("CONTENT_LENGTH") or 0))
        return self.spoilt(environ) or _json(200, text.propose(json.loads(result or b"{}")))

    def spoilt(self, environ: dict[str, Any]) -> Reply | None:
        """The response to a spoiled request; None for a normal one."""
        if environ.get("HTTP_AUTHORIZATION") != f"Bearer {TOKEN}":
            return _json(401, {"detail": "the token is missing or wrong"})
        time.sleep(self.behaviour.delay_seconds)
        if self.spoil("refuse"):
            return 429, {"Retry-After": str(self.behaviour.retry_after_seconds)}, b""
        if self.spoil("fail"):
            return 503, {}, b""
        if self.spoil("stall"):
            time.sleep(self.behaviour.stall_seconds)
        if self.spoil("nonsense"):
            return 200, {"Content-Type": "application/x-ndjson"}, b"<html>come back later</html>"
        return None

    def about(self, source: str) -> Reply:
        if source not in DATED:
            return _json(200, {"source": source})
        days = self.table(source, DATED[source][0])["day"]
        result = {"source": source, "first_day": str(days.min()), "last_day": str(days.max()), "grains": DATED[source]}
        return _json(200, result)

    def rows(self, source: str, path: str, asked: dict[str, str]) -> Reply:
        try:
            table = self.table(source, asked.get("grain", DATED.get(source, ("",))[0]))
            start, limit = int(asked.get("start", 0)), int(asked.get("limit", PAGE_ROWS))
        except (OSError, ValueError):
            return _json(400, {"detail": "there is no such grain or page"})
        if source in DATED:
            first, last = pl.lit(asked.get("from", "")), pl.lit(asked.get("to", "9999"))
            table = table.filter(pl.col("day").cast(pl.String).is_between(first, last))
        size = max(min(limit, self.behaviour.cap_rows, PAGE_ROWS), 1)
        body = table.slice(start, size).write_ndjson().encode()
        headers = {"Content-Type": "application/x-ndjson", "Content-Digest": _digest(body)}
        if start + size < table.height:
            headers["Link"] = f'<{path}?{urlencode({**asked, "start": str(start + size)})}>; rel="next"'
        return 200, headers, body

    def table(self, source: str, grain: str) -> pl.DataFrame:
        return _read_table(self.folder / f"{source}{'-' + grain.replace(',', '-') if grain else ''}.parquet")

    # --- the site --------------------------------------------------------------------------------------------------

    def site_hosts(self) -> set[str]:
        return {host for host, _ in _read_site(self.folder / "site.ndjson.gz")}

    def serve_site(self, host: str, target: str) -> Reply:
        pages = _read_site(self.folder / "site.ndjson.gz")
        current = pages.get((host, target)) or pages.get((host, f"{target.partition('?')[0]}?*"))
        if current is None:
            return 404, {"Content-Type": "text/html; charset=utf-8"}, b"<title>Not found</title><h1>Not found</h1>"
        body = current.get("body", "")
        if "?*" in current["target"]:
            body = body.replace("{{next}}", _next_of(target))
        headers = {"Content-Type": "text/html; charset=utf-8", **current.get("headers", {})}
        return current.get("status", 200), headers, body.encode()


def _next_of(target: str) -> str:
    """The month after the requested one: an endless calendar."""
    digits = "".join(sign for sign in target.partition("month=")[2] if sign.isdigit())
    return str(int(digits or 0) + 1)


def _digest(body: bytes) -> str:
    return f"sha-256=:{base64.b64encode(hashlib.sha256(body).digest()).decode()}:"


def _json(status: int, result: object) -> Reply:
    return status, {"Content-Type": "application/json"}, json.dumps(result).encode()


@lru_cache(maxsize=16)
def _read_table(path: Path) -> pl.DataFrame:
    return pl.read_parquet(path)


@lru_cache(maxsize=2)
def _read_site(path: Path) -> dict[tuple[str, str], dict[str, Any]]:
    if not path.is_file():
        return {}
    with gzip.open(path, "rt", encoding="utf-8") as file:
        pages = [json.loads(line) for line in file]
    return {(page["host"], page["target"]): page for page in pages}


def application(environ: dict[str, Any], start: Start) -> Iterable[bytes]:
    """The WSGI application for the stand-ins of ZUGZWANG_STANDINS_DIR."""
    return standins()(environ, start)


@lru_cache(maxsize=1)
def standins() -> StandIns:
    usual = Path(os.environ.get("ZUGZWANG_DATA_DIR", "data")) / "standins"
    return StandIns(Path(os.environ.get("ZUGZWANG_STANDINS_DIR", usual)))
