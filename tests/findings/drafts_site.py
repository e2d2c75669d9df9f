"""A shop with twelve subjects: the terms of competing pages and the site's coverage are known."""

from datetime import date, timedelta

import polars as pl

from tests.conftest import keep
from zugzwang.core.facts.grains import ABOVE, CRAWL_PAGES, RESULTS, VOLUMES
from zugzwang.data.models import Page, Query, Site

LAST, TODAY = date(2026, 11, 15), date(2026, 11, 23)
SUBJECTS = ["canoe", "rudder", "lantern", "anchor", "helmet", "kettle", "tarp", "stove", "sail", "oar", "whistle", "compass"]
# Of each subject: three phrases that all pages above say, and one that two of five do.
PHRASES = ("folding frame", "wide tyres", "steel buckle")
SAID = {0: 3, 1: 2, 2: 0}  # of the needed ones; all other pages say one


def needed(subject: str) -> list[str]:
    return [f"{subject}ish {phrase.split()[0]}{subject}" for phrase in PHRASES]


def plant(site: Site) -> Site:
    Page.objects.bulk_create(Page(id=n + 1, site=site, text=f"https://shop.example/{one}/") for n, one in enumerate(SUBJECTS))
    Query.objects.bulk_create(Query(id=n + 1, site=site, text=f"{one} cart") for n, one in enumerate(SUBJECTS))
    facts = [
        (LAST - timedelta(days=day), number + 1, number + 1, 1, 150, 12.0 + number % 6)
        for number in range(len(SUBJECTS))
        for day in range(28)
    ]
    names = ["day", "page", "query", "clicks", "impressions", "position"]
    keep(site, pl.DataFrame(facts, schema=names, orient="row"))
    own = [_content(one, needed(one)[: SAID.get(number, 1)]) for number, one in enumerate(SUBJECTS)]
    addresses = [f"https://shop.example/{one}/" for one in SUBJECTS]
    crawled = {"address": addresses, "status": [200] * len(SUBJECTS), "title": [f"{one} cart".title() for one in SUBJECTS]}
    for grain, frame in (
        (CRAWL_PAGES, pl.DataFrame({**crawled, "content": own})),
        (RESULTS, _results()),
        (ABOVE, _above()),
        (
            VOLUMES,
            pl.DataFrame([(n + 1, 826, None, 100 * (n + 1), 0.5, False) for n in range(12)], VOLUMES.schema, orient="row"),
        ),
    ):
        site.refresh_from_db()
        keep(site, frame, grain=grain)
    site.refresh_from_db()
    return site


def _content(subject: str, phrases: list[str], extra: str = "") -> str:
    sentences = " ".join(f"It has a {phrase}." for phrase in phrases)
    return f"h1\t{subject.title()} cart\nh2\tHow to load it\np\tSome words of our own on boats. {sentences} {extra}"


def _others(subject: str) -> list[str]:
    return [f"https://r{place}.example/{subject}" for place in range(1, 6)]


def _results() -> pl.DataFrame:
    blocks = [
        (number + 1, 826, 1, LAST, place, "organic", None, 100, "T", address, None)
        for number, subject in enumerate(SUBJECTS)
        for place, address in enumerate([*_others(subject), f"https://shop.example/{subject}/"], start=1)
    ]
    return pl.DataFrame(blocks, RESULTS.schema, orient="row")


def _above() -> pl.DataFrame:
    """Lower pages cover less: the first three cover everything, the fourth and fifth lack the last phrase."""
    result = []
    for subject in SUBJECTS:
        for place, address in enumerate(_others(subject)):
            strap = f"Mind the {subject}ish strap." if place < 3 else ""
            content = _content(subject, needed(subject)[: 3 if place < 4 else 2], strap)
            result.append((address, 200, subject, content, LAST))
    return pl.DataFrame(result, schema=["address", "status", "title", "content", "fetched"], orient="row")
