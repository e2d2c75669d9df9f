"""The content of a page, read from its HTML."""

from zugzwang.core.pages.content import pieces_of
from zugzwang.core.pages.html import depths, read_page, read_reply

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


def test_what_a_page_says_is_kept_in_order_with_what_it_is() -> None:
    """Only the main part of a page; an article's own header belongs to it (HTML standard, 4.3.8)."""
    html = """<body><header><h2>Shop</h2></header><main><article><header><h1>Dry bags</h1></header>
      <p>Keep it <b>dry</b>: see <a href="/sizes">our sizes</a>.<br>Always.</p><ul><li><p>Roll</p></li><li>Clip</li></ul>
      <table><tr><th>Litres</th><td>20</td></tr></table><a href="/a"><h3>More</h3></a><img src="a" alt="A red bag">loose words
      <video></video></article><aside>Offer</aside></main><footer>Imprint</footer>"""
    said = read_page(html, "https://shop.example/")
    assert said.content is not None
    assert said.content.split("\n") == [
        "h1\tDry bags", "p\tKeep it dry: see \x02our sizes\x03. Always.", "ul\t", "li\tRoll", "li\tClip", "table\t",
        "td\tLitres", "td\t20", "h3\t\x02More\x03", "img\tA red bag", "video\t", "p\tloose words",
    ]  # fmt: skip
    assert pieces_of(said.content)[1] == ("p", "Keep it dry: see our sizes. Always.")
    assert (said.words, said.images, said.titles) == (16, 1, 0)


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
