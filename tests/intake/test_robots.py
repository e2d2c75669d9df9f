"""What robots.txt and sitemaps allow."""

import gzip

import pytest

from zugzwang.intake.robots import BLOCKED_BY_ROBOTS, read_robots, read_sitemap

RULES = """# RFC 9309, section 5.1 and 5.2, put together
User-Agent: *
Disallow: *.gif$
Disallow: /example/
Allow: /publications/

User-Agent: foobot
Disallow:/
Allow:/example/page.html
Allow:/example/allowed.gif

User-Agent: barbot
User-Agent: bazbot
Disallow: /example/page.html

User-Agent: quxbot

User-Agent: foobot
Disallow: /example/page/
Allow: /example/page/
Disallow: /example/page/disallowed.gif
Sitemap: https://shop.example/map.xml
"""


@pytest.mark.parametrize(
    ("agent", "path", "allowed"),
    [
        ("anybot", "/example/", False), ("anybot", "/publications/", True), ("anybot", "/a.gif", False),
        ("anybot", "/a.gif.html", True),
        ("foobot", "/example/page.html", True), ("foobot", "/example/allowed.gif", True), ("foobot", "/example/", False),
        ("barbot", "/example/page.html", False), ("bazbot", "/example/page.html", False), ("barbot", "/example/a.gif", True),
        ("quxbot", "/anything", True),  # a group without rules allows all
        ("foobot", "/example/page/x", True),  # groups of one agent are merged; of equal matches, allow wins
        ("foobot", "/example/page/disallowed.gif", False),  # the longest match wins (section 5.2)
        ("FooBot", "/example/", False),  # names are compared without case
    ],
)  # fmt: skip
def test_robots_as_rfc_9309_tells(agent: str, path: str, allowed: bool) -> None:
    robots = read_robots(200, RULES.encode(), agent)
    assert robots.allows(f"https://shop.example{path}") is allowed


@pytest.mark.parametrize(("status", "allowed"), [(404, True), (403, True), (503, False), (None, False)])
def test_without_a_robots_txt(status: int | None, allowed: bool) -> None:
    """RFC 9309, sections 2.3.1.3 and 2.3.1.4: unavailable allows all, unreachable forbids all."""
    robots = read_robots(status, b"User-agent: *\nDisallow: /", "bot")
    assert robots.allows("https://shop.example/a") is allowed
    assert (robots.keeps_out == BLOCKED_BY_ROBOTS) is allowed  # what could not be read forbade nothing in words


def test_robots_tell_site_maps() -> None:
    assert read_robots(200, RULES.encode(), "bot").sitemaps == ("https://shop.example/map.xml",)


def test_site_maps_and_their_indexes() -> None:
    """sitemaps.org, protocol 0.9: entities are escaped, sitemaps may be compressed, an index lists sitemaps, plain text is
    allowed.
    """
    schema = 'xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"'
    page = "<url><loc>\n https://a.example/?x=1&amp;y=2 </loc><lastmod>2026-01-01</lastmod></url>"
    one = f'<?xml version="1.0"?><urlset {schema}>{page}</urlset>'
    assert read_sitemap(one.encode()) == (["https://a.example/?x=1&y=2"], [])
    assert read_sitemap(gzip.compress(one.encode())) == (["https://a.example/?x=1&y=2"], [])
    index = f"<sitemapindex {schema}><sitemap><loc>https://a.example/1.xml.gz</loc></sitemap></sitemapindex>"
    assert read_sitemap(index.encode()) == ([], ["https://a.example/1.xml.gz"])
    assert read_sitemap(b"https://a.example/1\nhttps://a.example/2\n") == (["https://a.example/1", "https://a.example/2"], [])
    many = f"<urlset {schema}>" + "<url><loc>https://a.example/</loc></url>" * 50_100
    assert len(read_sitemap(many.encode())[0]) == 50_000
    assert read_sitemap(b"\x1f\x8bbroken") == ([], [])
