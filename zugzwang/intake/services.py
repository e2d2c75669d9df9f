"""Services that provide a source of a site, fetched page by page (the contract: docs/services.md).

A page that fails – refused for now, stalled, truncated, malformed – is requested again after growing waits; a page counts
only when complete. So there are no gaps: a permanent failure stops the fetch, and the next one continues there.
"""

import base64
import hashlib
import json
import random
import re
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, date, datetime
from email.utils import parsedate_to_datetime
from typing import TypeVar
from urllib.parse import urlencode, urljoin

import httpx

from zugzwang.core.facts.grains import SOURCES
from zugzwang.data.models import Connection
from zugzwang.data.sealing import opened
from zugzwang.errors import ProductError
from zugzwang.intake.outside import client, get, origin_of

ATTEMPTS = 8
WAIT_SECONDS = (0.5, 1, 2, 4, 8, 16, 32)
WAIT_MAX_SECONDS = 120.0
PAGES_MAX = 100_000
# RFC 8288, section 3: a target, and parameters whose quoted values may contain any character.
_PARAMETER = r""";\s*([\w!#$%&'*+.^`|~-]+)(?:\s*=\s*("(?:[^"\\]|\\.)*"|[^",;\s]*))?\s*"""
_LINK = re.compile(rf"<([^>]*)>\s*((?:{_PARAMETER})*)")


class ServiceFailed(ProductError):
    """A service that failed after all attempts."""


class _TryAgain(Exception):
    def __init__(self, why: str, wait_seconds: float | None = None) -> None:
        super().__init__(why)
        self.wait_seconds = wait_seconds


@dataclass(frozen=True)
class About:
    """A service's description: its source, its days (None: a table without days), its grains."""

    source: str
    first_day: date | None
    last_day: date | None
    grains: tuple[str, ...]


@dataclass(frozen=True)
class RowPage:
    """A page of rows as NDJSON text, their number, and the address of the next page (None: this is the last)."""

    ndjson: bytes
    rows: int
    next: str | None


Answer = TypeVar("Answer")
Wait = Callable[[str, float], None]  # reason, seconds; returns when the time is over; may raise to cancel


def sleep(why: str, seconds: float) -> None:
    del why
    time.sleep(seconds)


class Service:
    """A connection's service; waits between attempts can be replaced in tests."""

    def __init__(self, connection: Connection, wait: Wait = sleep) -> None:
        self.connection = connection
        self.wait = wait
        self.http = client(connection.private_allowed)

    def __enter__(self) -> "Service":
        return self

    def __exit__(self, *_: object) -> None:
        self.http.close()

    def about(self) -> About:
        return self._patiently(f"{self.connection.address.rstrip('/')}/about", _read_about)

    def first_page(self, **request: str) -> str:
        """The address of the first page of rows; `request`: grain, from, to."""
        return f"{self.connection.address.rstrip('/')}/rows?{urlencode(request)}"

    def page(self, address: str) -> RowPage:
        return self._patiently(address, lambda reply: _read_page(reply, address))

    def pages(self, address: str) -> Iterator[RowPage]:
        for _ in range(PAGES_MAX):
            page = self.page(address)
            yield page
            if page.next is None:
                return
            address = page.next
        raise ServiceFailed("The service never ends: each page names another.", "Tell its maintainer.")

    def _patiently(self, address: str, read: Callable[[httpx.Response], Answer]) -> Answer:
        if origin_of(address) != origin_of(self.connection.address):
            # A token belongs to one service and is sent to no other.
            there = httpx.URL(address).host
            raise ServiceFailed(f"The service names {there} for its next page.", "Connect to that address if intended.")
        headers = {"accept": "application/x-ndjson, application/json"}
        if token := opened(self.connection.token):
            headers["authorization"] = f"Bearer {token}"
        why = ""
        for attempt in range(ATTEMPTS):
            try:
                return read(self._answer(address, headers))
            except _TryAgain as error:
                why = str(error)
                wait = error.wait_seconds
            if attempt < ATTEMPTS - 1:
                usual = WAIT_SECONDS[min(attempt, len(WAIT_SECONDS) - 1)] * random.uniform(0.8, 1.2)  # noqa: S311 – spreads callers
                self.wait(why, min(wait if wait is not None else usual, WAIT_MAX_SECONDS))
        raise ServiceFailed(f"{self.connection.address} gave an unexpected answer: {why}.", "Nothing is lost. Try again later.")

    def _answer(self, address: str, headers: dict[str, str]) -> httpx.Response:
        try:
            reply = get(self.http, address, headers)
        except (httpx.TransportError, httpx.DecodingError) as error:
            raise _TryAgain(str(error) or type(error).__name__) from error
        if reply.status_code == 429 or reply.status_code >= 500:
            raise _TryAgain(f"it answered {reply.status_code}", _retry_after(reply))
        if reply.status_code in (401, 403):
            raise ServiceFailed(f"{self.connection.address} does not accept the token.", "Check the token of the connection.")
        if reply.status_code != 200:
            raise ServiceFailed(
                f"{self.connection.address} answered {reply.status_code}.", "Check the address of the connection."
            )
        _check_digest(reply)
        return reply


def _retry_after(reply: httpx.Response) -> float | None:
    """Seconds to wait, given as seconds or as a date (RFC 9110, section 10.2.3)."""
    result = reply.headers.get("retry-after", "").strip()
    if result.isdigit():
        return float(result)
    try:
        return max((parsedate_to_datetime(result) - datetime.now(UTC)).total_seconds(), 0.0)
    except (ValueError, TypeError):
        return None


def _check_digest(reply: httpx.Response) -> None:
    """A response whose Content-Digest (RFC 9530) does not match was truncated or changed on its way."""
    result = re.search(r"sha-256=:([^:]*):", reply.headers.get("content-digest", ""))
    if result and base64.b64encode(hashlib.sha256(reply.content).digest()).decode() != result[1]:
        raise _TryAgain("the reply is incomplete or changed")


def _read_about(reply: httpx.Response) -> About:
    try:
        result = json.loads(reply.content)
        days = [date.fromisoformat(result[name]) if result.get(name) else None for name in ("first_day", "last_day")]
        about = About(str(result["source"]), days[0], days[1], tuple(str(grain) for grain in result.get("grains", ())))
    except (ValueError, KeyError, TypeError, AttributeError) as error:
        raise _TryAgain("its description cannot be read") from error
    if about.source not in SOURCES:
        raise ServiceFailed(f"The service holds “{about.source}”, which is unknown.", f"Sources: {', '.join(SOURCES)}.")
    return about


def _read_page(reply: httpx.Response, address: str) -> RowPage:
    text = reply.content
    try:
        if "ndjson" in reply.headers.get("content-type", ""):
            rows = [json.loads(line) for line in text.split(b"\n") if line.strip()]
        else:
            rows = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise _TryAgain("the rows are not JSON") from error
    if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
        raise _TryAgain("the reply is not a list of rows")
    lines = b"".join(json.dumps(row, ensure_ascii=False).encode() + b"\n" for row in rows)
    return RowPage(lines, len(rows), next_address(reply.headers.get("link", ""), address))


def next_address(link: str, address: str) -> str | None:
    """The target of the first link with the relation `next` in a Link header (RFC 8288), resolved against the page's own.

    >>> next_address('<?page=3>; title="a, b"; rel="prev next"', "https://data.example/rows?page=2")
    'https://data.example/rows?page=3'
    """
    for found in _LINK.finditer(link):
        parameters = {name.lower(): value.strip('"') for name, value in re.findall(_PARAMETER, found[2])}
        if "next" in parameters.get("rel", "").lower().split() and "anchor" not in parameters:
            return str(urljoin(address, found[1]))
    return None
