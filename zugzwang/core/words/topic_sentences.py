"""Sentences about topics and content gaps."""

from collections.abc import Sequence

from zugzwang.core.words.sentences import count

NEEDS_MONTHS = "Load monthly search volumes, or a year of daily search data: without them seasonality is unknown."
NEEDS_VOLUMES = "Load search volumes: without them topics are ranked by your impressions, and their share is unknown."
NEEDS_PAGES = "Crawl the site: without titles and headings, the queries that your pages answer are unknown."


def topics(number: int, queries: int, seasonal: int, soon: Sequence[str]) -> list[str]:
    """The topics of a site.

    >>> topics(2, 40, 1, ["canoe trips"])[1:]
    ['1 is seasonal.', 'A page should be ready within two months for: canoe trips.']
    """
    if not number:
        return ["No queries to group into topics yet."]
    result = [
        f"{count(queries)} {'query' if queries == 1 else 'queries'} in {count(number)} {'topic' if number == 1 else 'topics'}."
    ]
    if seasonal:
        result.append(f"{count(seasonal)} {'is' if seasonal == 1 else 'are'} seasonal.")
    if soon:
        result.append(f"A page should be ready within two months for: {', '.join(soon)}.")
    return result


def to_write(groups: int, searches: float) -> str:
    if not groups:
        return "No content gaps: every query with enough searches has a page that fits, or belongs to another site."
    what = "page is" if groups == 1 else "pages are"
    return f"{count(groups)} {what} missing, for {count(searches)} searches a month."


def reason(queries: int, shown: int, searches: float | None) -> str:
    """Why a page should be written.

    >>> reason(3, 1, 400)
    '3 queries, 400 searches a month. You rank for 1 of them, but no page fits.'
    """
    many = "1 query" if queries == 1 else f"{count(queries)} queries"
    searched = "" if searches is None else f", {count(searches)} searches a month"
    ours = f"You rank for {count(shown)} of them, but no page fits" if shown else "You rank for none of them"
    return f"{many}{searched}. {ours}."
