"""A planted site of real HTML, read by the crawler's reader: titles with one problem each, phrases at a known word, featured
snippets that take two thirds of the clicks, competing pages with known referring domains.
"""

from dataclasses import dataclass, field
from datetime import date, timedelta

import numpy as np
import polars as pl

from tests.conftest import keep
from zugzwang.core.facts.grains import ABOVE, CRAWL_PAGES, RESULTS, STRENGTHS
from zugzwang.core.pages.html import read_reply
from zugzwang.data.models import Page, Query, Site

PAGES, DAYS, LAST = 120, 28, date(2026, 11, 15)
SYLLABLES = [one + two for one in "ba ce di fo gu ka le mi".split() for two in "nor lat vish dem rop".split()]  # noqa: SIM905
FILLER = "quiet morning under heavy cloud with nobody about and little wind over grey stones".split()  # noqa: SIM905
SITE = "https://shop.example"
# The problem planted on every so many'th page; the others have none.
PROBLEMS = (
    "missing-title", "several-title", "doubled-title", "too-long-title", "site-name-cut-title", "same-as-heading-title",
    "lacks-main-query-title", "rewritten-by-engine-title", "missing-description", "several-description",
    "doubled-description", "too-long-description", "lacks-main-query-description",
)  # fmt: skip


@dataclass
class Planted:
    """What was planted: problems by page; (page, query) → occurrences and the first word; queries below a featured snippet,
    and with poor titles; openings; potential rank by query.
    """

    problems: dict[int, set[str]] = field(default_factory=dict)
    said: dict[tuple[int, int], tuple[int, int | None]] = field(default_factory=dict)
    boxed: set[int] = field(default_factory=set)
    poor: set[int] = field(default_factory=set)
    openings: set[int] = field(default_factory=set)
    potential: dict[int, int] = field(default_factory=dict)


def phrase(page: int, number: int) -> str:
    """Three words that occur nowhere else."""
    rng = np.random.default_rng(1_000 * number + page)
    return " ".join(
        [
            *(str(one) for one in rng.choice(SYLLABLES, 2, replace=False)),
            f"{'xyz'[number]}ud{chr(97 + page % 26)}{chr(97 + page // 26)}",
        ]
    )


def plant(site: Site, seed: int = 1) -> Planted:
    rng, planted = np.random.default_rng(seed), Planted()
    for page in range(PAGES):
        planted.problems[page + 1] = (
            {PROBLEMS[page // 4 % len(PROBLEMS)]} if page % 4 == 0 and page // 4 < 2 * len(PROBLEMS) else set()
        )
    queries = {3 * page + number + 1: phrase(page, number) for page in range(PAGES) for number in range(3)}
    Page.objects.bulk_create(Page(id=page + 1, site=site, text=f"{SITE}/p{page}/") for page in range(PAGES))
    Query.objects.bulk_create(Query(id=query, site=site, text=text) for query, text in queries.items())
    rows = [_page(page, planted, rng) for page in range(PAGES)]
    # Doubled ones are doubled with the page after them.
    for name in ("title", "description"):
        for page in [page for page, found in planted.problems.items() if f"doubled-{name}" in found]:
            rows[page][name] = rows[page - 1][name]
            planted.problems[page + 1] = {f"doubled-{name}", *planted.problems[page + 1]}
            planted.problems[page + 1] |= {f"lacks-main-query-{name}"}
    columns = CRAWL_PAGES.schema.names()
    keep(
        site,
        pl.DataFrame([[row.get(name) for name in columns] for row in rows], CRAWL_PAGES.schema, orient="row"),
        grain=CRAWL_PAGES,
    )
    _facts(site, planted, rng)
    _results(site, queries, planted, rng, [row["title"] for row in rows])
    site.min_impressions = 50
    site.save(update_fields=["min_impressions"])
    site.refresh_from_db()
    return planted


def _page(page: int, planted: Planted, rng: np.random.Generator) -> dict[str, object]:
    main, second = phrase(page, 0), phrase(page, 1)
    problems = planted.problems[page + 1]
    title, description = f"{main.title()} for all | Shop", f"All about {main}, and where to find it."
    heading = f"{main.title()}, told on page {page}"
    if "missing-title" in problems:
        title = ""
    if "too-long-title" in problems:
        title = f"{main} " + "with a very long story about it all " * 3
    if "site-name-cut-title" in problems:
        title = f"{main.title()} in a wide and warm room near you | {'Long Name Of The Shop ' * 3}".strip()
    if "same-as-heading-title" in problems:
        heading = title
    if "lacks-main-query-title" in problems:
        title = f"Something else number {page}"
    if "missing-description" in problems:
        description = ""
    if "too-long-description" in problems:
        description = f"{main}: " + "one more thing that you should know before you go. " * 4
    if "lacks-main-query-description" in problems:
        description = f"Nothing of what page {page} is for."
    filler = [str(one) for one in rng.choice(FILLER, int(rng.integers(80, 300)))]
    at, times = int(rng.integers(0, len(filler))), int(rng.integers(1, 4))
    words = [*filler[:at], *[second] * times, *filler[at:]]
    head = f"<title>{title}</title>" + ("<title>Another</title>" if "several-title" in problems else "")
    meta = f'<meta name="description" content="{description}">' * (2 if "several-description" in problems else 1)
    body = f"<nav>{phrase(page, 2)}</nav><main><h1>{heading}</h1><p>{' '.join(words)}</p></main>"
    html = f"<html><head>{head}{meta}</head><body>{body}</body></html>"
    row, _ = read_reply(f"{SITE}/p{page}/", 200, "text/html", "", None, html.encode())
    in_heading = len(heading.replace(",", " ").split()) if "|" not in heading else len(heading.replace("|", " ").split())
    planted.said[page + 1, 3 * page + 2] = (times, in_heading + at + 1)
    planted.said[page + 1, 3 * page + 3] = (0, None)
    return row


def _facts(site: Site, planted: Planted, rng: np.random.Generator) -> None:
    current = []
    for page in range(PAGES):
        planted.boxed |= {3 * page + 1} if page % 8 == 0 else set()
        planted.poor |= {3 * page + 1} if page % 10 == 1 else set()
        for number, shown in enumerate((150, 40, 30)):
            query = 3 * page + number + 1
            position = float(rng.uniform(1.6, 9)) if number == 0 else float(rng.uniform(5, 14))
            factor = rng.gamma(15, 1 / 15) * (1 / 3 if query in planted.boxed else 1 / 8 if query in planted.poor else 1.0)
            for day in range(DAYS):
                seen = int(rng.poisson(shown))
                clicks = int(rng.binomial(seen, min(0.3 * position**-1.05 * factor, 0.9)))
                current.append((LAST - timedelta(days=day), page + 1, query, clicks, seen, position))
    keep(site, pl.DataFrame(current, schema=["day", "page", "query", "clicks", "impressions", "position"], orient="row"))


def _results(site: Site, queries: dict[int, str], planted: Planted, rng: np.random.Generator, titles: list[object]) -> None:
    blocks, strengths = [], {}
    for page in range(PAGES):
        query, own = 3 * page + 1, int(rng.integers(1, 11))
        strengths[f"{SITE}/p{page}/"] = ours = int(rng.integers(1, 30))
        place, above = 1, []
        if query in planted.boxed:
            blocks.append((query, 0, 1, LAST, place, "answer box", "paragraph", 200, None, f"https://box{page}.example/", "so"))
            place += 1
            planted.openings |= {query} if own >= 2 else set()
        for organic in range(1, 11):
            address = f"{SITE}/p{page}/" if organic == own else f"https://r{organic}.example/{page}"
            if organic != own:
                strengths[address] = int(rng.integers(1, 30))
                above += [strengths[address]] if organic < own else []
            title = f"Shown otherwise {page}" if "rewritten-by-engine-title" in planted.problems[page + 1] else titles[page]
            blocks.append((query, 0, 1, LAST, place, "organic", None, 100, title if organic == own else "T", address, None))
            place += 1
        planted.potential[query] = 1 + sum(one >= ours for one in above)
    keep(site, pl.DataFrame(blocks, RESULTS.schema, orient="row"), grain=RESULTS)
    rows = [(address, sites, None) for address, sites in strengths.items()]
    keep(site, pl.DataFrame(rows, STRENGTHS.schema, orient="row"), grain=STRENGTHS)
    page, _ = read_reply(
        "https://box0.example/",
        200,
        "text/html",
        "",
        None,
        f"<main><h2>{queries[1]}</h2><p>{'so it is ' * 12}</p></main>".encode(),
    )
    fetched = {**page, "fetched": LAST}
    keep(site, pl.DataFrame([[fetched.get(name) for name in ABOVE.schema.names()]], ABOVE.schema, orient="row"), grain=ABOVE)
