"""A planted site of real HTML, read by the crawler's reader: subjects of ten pages each, unlinked mentions and lookalikes,
orphans, links to redirects and missing pages, and pages with high opportunity and few links.
"""

from collections import defaultdict
from dataclasses import dataclass, field
from datetime import date, timedelta

import numpy as np
import polars as pl

from tests.conftest import keep
from zugzwang.core.facts.grains import CRAWL_LINKS, CRAWL_PAGES
from zugzwang.core.pages.html import read_reply
from zugzwang.data.models import Page, Query, Site

SUBJECTS, EACH, DAYS, LAST = 15, 10, 28, date(2026, 11, 15)
PAGES = SUBJECTS * EACH
SYLLABLES = [one + two for one in "ba ce di fo gu ka le mi".split() for two in "nor lat vish dem rop".split()]  # noqa: SIM905
FILLER = "quiet morning under heavy cloud with nobody about and little wind over grey stones".split()  # noqa: SIM905
SITE = "https://shop.example"


@dataclass
class Planted:
    """What was planted, by page number (0 is home, then pages by subject, then the subjects' lists): body links, unlinked
    mentions, orphans, pages that need links, links to moved and missing addresses.
    """

    links: dict[int, set[int]] = field(default_factory=lambda: defaultdict(set))
    mentions: set[tuple[int, int]] = field(default_factory=set)
    orphans: set[int] = field(default_factory=set)
    short: set[int] = field(default_factory=set)
    moved: set[tuple[int, int]] = field(default_factory=set)
    gone: set[tuple[int, int]] = field(default_factory=set)


def subject(page: int) -> int:
    return (page - 1) // EACH


def address(page: int) -> str:
    if page == 0:
        return f"{SITE}/"
    return f"{SITE}/p{page}/" if page <= PAGES else f"{SITE}/list/{page - PAGES}/"


def phrase(page: int) -> str:
    """The main query of a page: a word of its subject, and one that no other page has."""
    return f"{_word(subject(page), 0)} {_own(page)}"


def _word(of: int, number: int) -> str:
    rng = np.random.default_rng(100 * of + number)
    return "".join(str(one) for one in rng.choice(SYLLABLES, 2)) + f"{chr(97 + of)}{chr(97 + number)}"


def _own(page: int) -> str:
    return f"zud{chr(97 + page % 26)}{chr(97 + page // 26)}m"


def plant(site: Site, seed: int = 1, nothing: bool = False) -> Planted:
    """Make the site; `nothing`: random links and opportunity, with nothing planted."""
    rng, planted = np.random.default_rng(seed), Planted()
    pages = np.arange(1, PAGES + 1)
    if not nothing:
        chosen = rng.permutation(pages).tolist()
        planted.orphans, planted.short = set(chosen[:5]), set(chosen[5:17])
    _link(planted, rng)
    extras = {} if nothing else _extras(planted, rng)
    numbers = range(PAGES + SUBJECTS + 1)
    Page.objects.bulk_create(Page(id=page + 1, site=site, text=address(page)) for page in numbers)
    Query.objects.bulk_create(Query(id=page, site=site, text=phrase(page)) for page in pages.tolist())
    rows, links = [], []
    for page in numbers:
        row, found = read_reply(address(page), 200, "text/html", "", None, _html(page, planted, extras, rng).encode())
        rows.append(row)
        links += found
    for _, number in sorted(planted.moved):
        rows.append({"address": f"{SITE}/moved-{number}/", "status": 301, "redirect_to": address(1)})
    for _, number in sorted(planted.gone):
        rows.append({"address": f"{SITE}/gone-{number}/", "status": 404})
    names = CRAWL_PAGES.schema.names()
    crawled = pl.DataFrame([[row.get(name) for name in names] for row in rows], CRAWL_PAGES.schema, orient="row")
    keep(site, crawled, grain=CRAWL_PAGES)
    site.refresh_from_db()
    keep(site, pl.DataFrame(links, CRAWL_LINKS.schema, orient="row"), grain=CRAWL_LINKS)
    site.refresh_from_db()
    _facts(site, planted, rng)
    site.min_impressions = 50
    site.save(update_fields=["min_impressions"])
    site.refresh_from_db()
    return planted


def _link(planted: Planted, rng: np.random.Generator) -> None:
    """Each page links to four to six others of its subject; lists link to all but orphans and pages that need links."""
    for page in range(1, PAGES + 1):
        own = [one for one in range(subject(page) * EACH + 1, subject(page) * EACH + EACH + 1) if one != page]
        able = [one for one in own if one not in planted.orphans | planted.short]
        planted.links[page] = set(rng.choice(able, min(int(rng.integers(4, 7)), len(able)), replace=False).tolist())
        if page not in planted.orphans:
            planted.links[PAGES + 1 + subject(page)].add(page)


def _extras(planted: Planted, rng: np.random.Generator) -> dict[int, list[str]]:
    """HTML snippets by page: mentions to find, and lookalikes."""
    pieces: dict[int, list[str]] = defaultdict(list)
    pairs = [(page, other) for page in range(1, PAGES + 1) for other in range(1, PAGES + 1) if page != other]
    rng.shuffle(pairs)
    free = iter((page, other) for page, other in pairs if other not in planted.links[page])
    for number, (page, other) in zip(range(200), free, strict=False):
        said = phrase(other)
        match number % 5:
            case 0 | 1:
                planted.mentions.add((page, other))
                pieces[page].append(f"<p>Many ask for {said.title() if number % 2 else said} in the autumn.</p>")
            case 2:
                pieces[page].append(f"<h2>On {said}</h2><p>Not now.</p>")
            case 3:
                pieces[page].append(f"<nav>{said}</nav>")
            case _:
                elsewhere = min(planted.links[page])
                pieces[page].append(f'<p><a href="{address(elsewhere)}">more on {said}</a></p>')
    for number in range(6):
        page = int(rng.integers(1, PAGES + 1))
        planted.moved.add((page, number))
        planted.gone.add((page, number))
        pieces[page].append(f'<p><a href="/moved-{number}/">moved</a> <a href="/gone-{number}/">gone</a></p>')
    return pieces


def _html(page: int, planted: Planted, extras: dict[int, list[str]], rng: np.random.Generator) -> str:
    lists = "".join(f'<a href="{address(PAGES + one + 1)}">subject {one}</a>' for one in range(SUBJECTS))
    anchors = [f'<a href="{address(one)}">{phrase(one)}</a>' for one in sorted(planted.links[page])]
    words: list[str] = []
    if 0 < page <= PAGES:
        own = [_word(subject(page), int(one)) for one in rng.integers(1, 12, 60)]
        words = [str(one) for one in rng.permutation([*own, *rng.choice(FILLER, 120)])]
        words[40:40] = [*phrase(page).split(), "is", "here."]
    name = phrase(page).title() if 0 < page <= PAGES else f"List {page}"
    text = "".join(f"<p>See {one}.</p>" for one in anchors)
    extra = "".join(extras.get(page, ()))
    body = f"<nav>{lists}</nav><main><h1>{name}</h1><p>{' '.join(words)}</p>{text}{extra}</main>"
    return f"<html><head><title>{name} | Shop</title></head><body>{body}</body></html>"


def _facts(site: Site, planted: Planted, rng: np.random.Generator) -> None:
    """Clicks on one curve; pages that need links have many impressions and few clicks."""
    current = []
    scale = rng.lognormal(0, 0.8, PAGES + 1)
    for page in range(1, PAGES + 1):
        short = page in planted.short
        position, factor = float(rng.uniform(2, 9)), rng.gamma(15, 1 / 15) * (1 / 6 if short else 1.0)
        for day in range(DAYS):
            seen = int(rng.poisson(900 if short else 60 * scale[page]))
            clicks = int(rng.binomial(seen, min(0.3 * position**-1.05 * factor, 0.9)))
            current.append((LAST - timedelta(days=day), page + 1, page, clicks, seen, position))
    names = ["day", "page", "query", "clicks", "impressions", "position"]
    keep(site, pl.DataFrame(current, schema=names, orient="row").filter(pl.col("impressions") > 0))
