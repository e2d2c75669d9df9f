"""The demo's site as HTML pages, served by the stand-in, with planted faults: broken links, redirects and redirect chains, tag
pages, a staging copy, an endless calendar, missing, duplicate and long titles, pages blocked by robots.txt or noindex, an
orphan page.
"""

import gzip
import json
import random
from collections.abc import Iterable
from html import escape
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import polars as pl

from demo.guides import GUIDES
from demo.rivals import RIVALS
from demo.texts import blocks_html, rival_html, shop_html

HOST = "www.marrowbank.example"
STAGING = "staging.marrowbank.example"
SECTIONS = ("canoe", "kayak", "paddle", "clothing", "gear", "guides", "trips", "rental", "workshop")
# Pages about one subject though they are two: the relay and the split of scenario.py.
ONE_SUBJECT = {
    "/guides/how-to-choose-a-kayak-paddle-length/": "/paddle/carbon-paddle/",
    "/guides/canoeing-with-children/": "/canoe/family-canoe/",
}
PRODUCT = '<script type="application/ld+json">{"@context": "https://schema.org", "@type": "Product", "name": "%s"}</script>'
DEAD_LINKS = ("/guides/how-to-build-a-raft/", "/kayak/polo-kayak/", "/trips/old-mill/")
MISSING_DESCRIPTION = "/clothing/sun-hat/"
DOUBLE_TITLE = ("/gear/knee-pads/", "/gear/thwart-bag/")
LONG_TITLE = "/rental/pellow/"
NO_LINK_LEADS_HERE = "/guides/how-heavy-is-a-canoe/"
BLOCKED_BY_ROBOTS = "/staff/"
NO_INDEX = "/tag/sea/"
SAID_BY_HERE = ("/trips/brindle/", "/workshop/paddle-repair/")


def write_site(path: Path, facts: pl.DataFrame, results: pl.DataFrame) -> None:
    """Write every response of the site, and competing pages on SERPs, one JSON object a line: host, target, status, headers,
    body.
    """
    queries = (
        facts.group_by("page", "query").agg(pl.col("impressions").sum()).sort("impressions", "query", descending=[True, False])
    )
    top = queries.group_by("page", maintain_order=True).agg(pl.col("query").head(4))
    pages = {
        urlsplit(page).path: asked
        for page, asked in top.iter_rows()
        if urlsplit(page).netloc == HOST and not urlsplit(page).query
    }
    with path.open("wb") as raw, gzip.GzipFile(fileobj=raw, mode="wb", mtime=0) as file:
        for reply in [*_replies(pages), *_of_others(results)]:
            file.write(json.dumps(reply, ensure_ascii=False).encode() + b"\n")


def _of_others(results: pl.DataFrame) -> Iterable[dict[str, Any]]:
    """Pages of other sites on SERPs, each with its own text."""
    kinds = {one.host: one.kind for one in RIVALS}
    rows = results.filter(pl.col("address").is_not_null()).unique("address", keep="first", maintain_order=True)
    for query, address, title, snippet in rows.select("query", "address", "title", "snippet").iter_rows():
        there = urlsplit(address)
        if there.netloc not in kinds:
            continue
        rng = random.Random(address)
        heading = escape(query[0].upper() + query[1:])
        description = f'<meta name="description" content="{escape(snippet or "")}">'
        yield {
            "host": there.netloc,
            "target": there.path,
            "body": f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{escape(title)}</title>{description}</head>'
            f"<body><nav><a href='/'>Start</a></nav><main><h1>{heading}</h1>"
            f"{rival_html(query, kinds[there.netloc], rng)}</main></body></html>",
        }


def _replies(pages: dict[str, list[str]]) -> Iterable[dict[str, Any]]:
    text = {"Content-Type": "text/plain; charset=utf-8"}
    shown = dict(pages)
    for section in SECTIONS:
        shown.setdefault(f"/{section}/", [section])
    for target, asked in shown.items():
        yield {"host": HOST, "target": target, "body": _page(target, asked, shown)}
    for old, new in (("/kayaks/", "/kayak/"), ("/boats/", "/kayaks/"), ("/guides", "/guides/"), ("/index.html", "/")):
        yield {"host": HOST, "target": old, "status": 301, "headers": {"Location": new}, "body": ""}
    calendar = '<title>Trips by month</title><h1>Trips by month</h1><a href="/trips/calendar/?month={{next}}">Next month</a>'
    for target in ("/trips/calendar/", "/trips/calendar/?*"):
        yield {"host": HOST, "target": target, "body": calendar.replace("{{next}}", "{{next}}" if "*" in target else "1")}
    robots = f"User-agent: *\nDisallow: {BLOCKED_BY_ROBOTS}\nSitemap: https://{HOST}/sitemap.xml\n"
    yield {"host": HOST, "target": "/robots.txt", "headers": text, "body": robots}
    addresses = "".join(
        f"<url><loc>https://{HOST}{target}</loc></url>" for target in sorted(shown) if not target.startswith("/staff/")
    )
    sitemap = f'<?xml version="1.0"?><urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">{addresses}</urlset>'
    yield {"host": HOST, "target": "/sitemap.xml", "headers": {"Content-Type": "application/xml"}, "body": sitemap}
    staging = "/kayak/sea-kayak/"
    yield {"host": STAGING, "target": staging, "body": _page(staging, shown[staging], shown)}


def _name(target: str, asked: list[str]) -> str:
    """The anchor text for a page: its name, or words from its address; "here" for some."""
    if target in SAID_BY_HERE:
        return "here"
    return asked[0] if asked else target.strip("/").partition("?")[0].rpartition("/")[2].replace("-", " ") or "home"


def _page(target: str, asked: list[str], pages: dict[str, list[str]]) -> str:
    rng = random.Random(target)
    section = target.strip("/").split("/")[0]
    subject = (asked[0] if asked else section).capitalize()
    guide = GUIDES.get(target.strip("/").rpartition("/")[2]) if section == "guides" else None
    title = f"{guide[0] if guide else subject} | Marrowbank"
    if target in DOUBLE_TITLE:
        title = "Gear for your boat | Marrowbank Paddle Supply"
    elif target == LONG_TITLE:
        title = f"{subject}: prices, times, boats, paddles, places to start and all that you may want to know | Marrowbank"
    description = (
        ""
        if target == MISSING_DESCRIPTION
        else f'<meta name="description" content="{escape(guide[1] if guide else _description(section, subject, rng))}">'
    )
    robots = '<meta name="robots" content="noindex, follow">' if target == NO_INDEX else ""
    product = PRODUCT % escape(subject) if section in SECTIONS[:5] and target.count("/") >= 3 else ""
    menu = "".join(f'<a href="/{name}/">{name.capitalize()}</a> ' for name in SECTIONS)
    near = [page for page in pages if page.startswith(f"/{section}/") and page not in (target, NO_LINK_LEADS_HERE)]
    children = [
        page for page in near if page.startswith(target) and page.strip("/").count("/") == target.strip("/").count("/") + 1
    ]
    linked = children or rng.sample(near, min(5, len(near)))
    if target == "/":
        linked = [
            "/contact/",
            "/boats/",
            "/trips/calendar/",
            *(page for page in pages if page.startswith(("/tag/", "/staff/"))),
        ]
    if target in ("/guides/canoe-camping-checklist/", "/kayak/", "/trips/ossel/"):
        linked = [*linked, DEAD_LINKS[len(target) % 3], "/kayaks/?utm_source=inside"]
    body_links = "".join(f'<li><a href="{page}">{escape(_name(page, pages.get(page, [])))}</a></li>' for page in linked)
    # Pages of ONE_SUBJECT say the same.
    own = random.Random(ONE_SUBJECT.get(target, target) + " words")
    if target in ONE_SUBJECT.values():
        guide = GUIDES[next(page for page, other in ONE_SUBJECT.items() if other == target).strip("/").rpartition("/")[2]]
    text = blocks_html(guide[2]) if guide else shop_html(section, subject.lower(), asked, own)
    heading = subject if target in ONE_SUBJECT.values() or not guide else guide[0].partition(":")[0]
    picture = (
        '<img src="/pictures/boat.jpg">' if rng.random() < 0.2 else f'<img src="/pictures/boat.jpg" alt="{escape(subject)}">'
    )
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{escape(title)}</title>{description}{robots}'
        f'<link rel="canonical" href="https://{HOST}{target}">{product}</head><body><header><nav>{menu}</nav></header>'
        f"<main><h1>{escape(heading)}</h1>{picture}{text}<h2>See also</h2><ul>{body_links}</ul></main>"
        f'<footer><a href="/contact/">Contact</a> <a href="https://www.river-club.example/">Our club</a></footer></body></html>'
    )


def _description(section: str, subject: str, rng: random.Random) -> str:
    result = {
        "trips": ("{}: stretches, levels, camps and the way back.", "{} by canoe, as our guides paddle it."),
        "rental": ("{}: boats, prices and how to find us.", "Book {} until six on the day before."),
        "workshop": ("{} in our workshop: what it costs and how long it takes.",),
    }
    usual = (
        "{} from our shop on the river: try it before you buy.",
        "{}: sizes, weights and what goes with it.",
        "{} in stock, cut and fitted while you wait.",
    )
    return rng.choice(result.get(section, usual)).format(subject)
