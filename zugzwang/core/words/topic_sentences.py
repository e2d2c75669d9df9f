"""The plain words for topics and for pages to write."""

from collections.abc import Sequence

from zugzwang.core.words.sentences import count

NEEDS_MONTHS = "Load search volumes by month, or a year of search data by day: without them no season is known."
NEEDS_VOLUMES = "Load search volumes: without them topics are ranked by how often our pages are shown, and no share is known."
NEEDS_PAGES = "Crawl the site: without titles and headings it is not known which queries our pages answer."


def topics(number: int, queries: int, seasonal: int, soon: Sequence[str]) -> list[str]:
    """What the topics of a site are.

    >>> topics(2, 40, 1, ["canoe trips"])[1:]
    ['1 has a season.', 'A page should be ready within two months for: canoe trips.']
    """
    if not number:
        return ["No query is known yet of which topics could be made."]
    said = [
        f"{count(queries)} {'query' if queries == 1 else 'queries'} in {count(number)} {'topic' if number == 1 else 'topics'}."
    ]
    if seasonal:
        said.append(f"{count(seasonal)} {'has' if seasonal == 1 else 'have'} a season.")
    if soon:
        said.append(f"A page should be ready within two months for: {', '.join(soon)}.")
    return said


def to_write(groups: int, searches: float) -> str:
    if not groups:
        return (
            "No page is missing: every query that is searched often enough has a page that fits it, or is not ours to answer."
        )
    what = "page is" if groups == 1 else "pages are"
    return f"{count(groups)} {what} missing, for {count(searches)} searches a month."


def reason(queries: int, shown: int, searches: float | None) -> str:
    """Why a page is to be written.

    >>> reason(3, 1, 400)
    '3 queries, 400 searches a month. Ours is shown for 1 of them, and no page of ours fits.'
    """
    many = "1 query" if queries == 1 else f"{count(queries)} queries"
    searched = "" if searches is None else f", {count(searches)} searches a month"
    ours = f"Ours is shown for {count(shown)} of them, and no page of ours fits" if shown else "Ours is shown for none of them"
    return f"{many}{searched}. {ours}."
