"""What a host allows a crawler: robots.txt after RFC 9309 (matched by protego), and its sitemaps.

RFC 9309, section 2.3.1: without a robots.txt (4xx) everything may be fetched; where it is unavailable (5xx, no response)
nothing may. Sitemaps (sitemaps.org, protocol 0.9): at most 50,000 addresses and 50 MB each, and index files of them.
"""

import gzip
import re
import zlib
from collections.abc import Iterator
from dataclasses import dataclass, field
from html import unescape
from itertools import islice

from protego import Protego

ROBOTS_MAX_BYTES = 512_000  # RFC 9309, section 2.5: at least 500 KiB are read
SITEMAP_MAX_BYTES = 52_428_800
SITEMAP_MAX_ADDRESSES = 50_000
CRAWL_DELAY_MAX_SECONDS = 10.0
BLOCKED_BY_ROBOTS = "blocked by robots.txt"
_LOCATION = re.compile(rb"<(?:\w{1,30}:)?loc>")
_END = re.compile(rb"</(?:\w{1,30}:)?loc>")
LOCATION_MAX_BYTES = 4_000
_CDATA = re.compile(r"^<!\[CDATA\[(.*)\]\]>$", re.DOTALL)


@dataclass(frozen=True)
class Robots:
    """What a host allows one user agent."""

    rules: Protego | None  # None: nothing may be fetched
    agent: str
    sitemaps: tuple[str, ...] = field(default=())
    keeps_out: str = BLOCKED_BY_ROBOTS  # the reason given for a forbidden address

    def allows(self, address: str) -> bool:
        return self.rules is not None and bool(self.rules.can_fetch(address, self.agent))

    @property
    def delay_seconds(self) -> float:
        result = self.rules.crawl_delay(self.agent) if self.rules is not None else None
        return min(float(result or 0), CRAWL_DELAY_MAX_SECONDS)


def read_robots(status: int | None, body: bytes, agent: str) -> Robots:
    """The rules of a robots.txt. `status`: of its response; None without a response."""
    if status is None or status >= 500:
        words = "was not answered" if status is None else f"was answered with {status}"
        return Robots(None, agent, keeps_out=f"robots.txt {words}")
    text = body[:ROBOTS_MAX_BYTES].decode("utf-8-sig", errors="replace") if status < 300 else ""
    rules = Protego.parse(text)
    return Robots(rules, agent, tuple(rules.sitemaps))


def read_sitemap(body: bytes) -> tuple[list[str], list[str]]:
    """The pages of a sitemap, or the sitemaps of an index: (pages, sitemaps)."""
    if body[:2] == b"\x1f\x8b":
        try:
            unpacked = zlib.decompressobj(wbits=31).decompress(body, SITEMAP_MAX_BYTES)
        except (zlib.error, gzip.BadGzipFile):
            return [], []
        body = unpacked
    locations = list(islice(_locations(body[:SITEMAP_MAX_BYTES]), SITEMAP_MAX_ADDRESSES))
    is_index = re.search(rb"<(?:\w+:)?sitemapindex[\s>]", body[:10_000]) is not None
    if not locations and not body.lstrip().startswith(b"<"):
        # A sitemap can be plain text, one address a line.
        lines = body[:SITEMAP_MAX_BYTES].decode("utf-8-sig", errors="replace").split()
        locations = [line for line in lines if line.startswith(("http://", "https://"))][:SITEMAP_MAX_ADDRESSES]
    return ([], locations) if is_index else (locations, [])


def _locations(body: bytes) -> Iterator[str]:
    """The addresses in a sitemap. Each is searched in a bounded stretch, so the time is proportional to the text's length."""
    for begin in _LOCATION.finditer(body):
        end = _END.search(body, begin.end(), begin.end() + LOCATION_MAX_BYTES)
        if end is not None:
            yield _plain(body[begin.end() : end.start()])


def _plain(found: bytes) -> str:
    text = found.decode("utf-8", errors="replace").strip()
    cdata = _CDATA.match(text)
    return cdata[1].strip() if cdata else unescape(text)
