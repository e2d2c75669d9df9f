"""What a page says, read from its HTML; and what a robots.txt and a site map allow."""

import gzip

import pytest

from zugzwang.core.pages import depths, read_page, read_reply
from zugzwang.intake.robots import read_robots, read_sitemap

HTML = """<!doctype html><html><head><title> Red
  kayak </title><meta name="Description" content="All about it."><meta name="robots" content="index, follow">
<link rel="alternate canonical" href="/kayak/#top"><base href="https://shop.example/boats/">
<script type="application/ld+json">{"@graph": [{"@type": ["Product", "Thing"], "offers": {"@type": "Offer"}}]}</script></head>
<body><header><a href="/">Home</a></header><nav><a href="/gear/">Gear</a></nav>
<main><h1>Red <em>kayak</em></h1><p>Two words, don't count four.</p><h3>Size</h3><h2></h2>
<a href="red?b=2">its <b>page</b></a> <a rel="nofollow" href="https://other.example/x#y">elsewhere</a>
<a href="mailto:a@shop.example">mail</a> <a href="#top">up</a> <a href="JavaScript:go()">go</a>
<a href="/pic"><img alt="A boat"></a>
<img src="a.jpg"><img src="b.jpg" alt=""><script>var hidden = 1;</script></main>
<div itemscope itemtype="https://schema.org/BreadcrumbList"></div>
<footer><a href="/imprint">Imprint</a></footer></body></html>"""


def test_a_page_is_read_whole() -> None:
    said = read_page(HTML, "https://shop.example/kayak/")
    assert (said.title, said.description, said.robots) == ("Red kayak", "All about it.", "index, follow")
    assert said.canonical == "https://shop.example/kayak/"
    assert said.headings == ["h1 Red kayak", "h3 Size"]
    assert said.structured_data == ["Product", "Thing", "Offer", "BreadcrumbList"]
    assert said.images_without_text == 1  # an empty alternative text is one: the picture is decoration
    assert said.main_text is not None
    assert said.main_text.startswith("Red kayak Two words, don't count four. Size")
    assert "hidden" not in said.main_text
    assert said.words == 14


def test_links_are_absolute_and_told_where_they_stand() -> None:
    links = {link.address: link for link in read_page(HTML, "https://shop.example/kayak/").links}
    assert set(links) == {
        "https://shop.example/",
        "https://shop.example/gear/",
        "https://shop.example/boats/red?b=2",  # against the base of the page
        "https://other.example/x",
        "https://shop.example/pic",
        "https://shop.example/imprint",
    }
    red = links["https://shop.example/boats/red?b=2"]
    assert (red.anchor, red.in_body, red.followed) == ("its page", True, True)
    assert links["https://shop.example/pic"].anchor == "A boat"
    assert not links["https://other.example/x"].followed
    assert not any(links[f"https://shop.example/{page}"].in_body for page in ("", "gear/", "imprint"))


def test_a_page_may_ask_that_none_of_its_links_is_followed() -> None:
    page = '<meta name="robots" content="noindex,nofollow"><a href="/a">a</a>'
    assert not read_page(page, "https://shop.example/").links[0].followed


def test_replies_that_are_no_pages() -> None:
    redirect, links = read_reply(
        "https://shop.example/old", 301, "text/html", "", "https://shop.example/new", b"<a href=/x>x</a>"
    )
    assert (redirect["redirect_to"], links) == ("https://shop.example/new", [])
    picture, _ = read_reply("https://shop.example/a.jpg", 200, "image/jpeg", "", None, b"...")
    assert picture["problem"] == "no page: image/jpeg"
    header, _ = read_reply("https://shop.example/a", 200, "text/html", "noindex", None, b"<meta name=robots content=follow>")
    assert header["robots"] == "follow, noindex"


def test_how_far_pages_are_from_the_start() -> None:
    assert depths(["a"], {"a": ["b", "c"], "b": ["d"], "c": ["d", "a"], "x": ["y"]}) == {"a": 0, "b": 1, "c": 1, "d": 2}


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
    assert read_robots(status, b"User-agent: *\nDisallow: /", "bot").allows("https://shop.example/a") is allowed


def test_robots_tell_site_maps() -> None:
    assert read_robots(200, RULES.encode(), "bot").sitemaps == ("https://shop.example/map.xml",)


def test_site_maps_and_their_indexes() -> None:
    """sitemaps.org, protocol 0.9: entities are escaped, maps may be packed, an index names maps, plain text is one too."""
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
