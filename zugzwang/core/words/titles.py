"""Problems of titles and descriptions.

  missing              there is none
  several              the page has two or more
  doubled              another indexable page has the same
  too-long             wider than 600 pixels at 20 (a title), 960 at 14 (a description): it is cut off
  site-name-cut        a title too long only by the site name at its end: less harmful than too-long
  same-as-heading      the title repeats the main heading word for word
  lacks-main-query     a word of the page's main query is not in the title; fewer than half of them are in the description
  rewritten-by-engine  a captured SERP shows a different one

Each is reported with -title or -description. Pages that cannot be found – not answered with 200, noindex, canonical to
another page – are skipped. Bounds: common practice, no source.

A page's main query is the non-brand query with the most clicks and opportunity among those that the page fits closely or
loosely (core.pages.fit); without any, the largest.

Example: the title "Dry bags – all sizes" with the main query "waterproof dry bag" lacks "waterproof":
lacks-main-query-title.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

from zugzwang.core.words.pixels import (
    DESCRIPTION_CUT,
    DESCRIPTION_PX,
    TITLE_CUT,
    TITLE_PX,
    shown_of,
    width,
)
from zugzwang.core.words.wording import content_stems, words

Problem = Literal[
    "missing-title", "several-title", "doubled-title", "too-long-title", "site-name-cut-title", "same-as-heading-title",
    "lacks-main-query-title", "rewritten-by-engine-title", "missing-description", "several-description", "doubled-description",
    "too-long-description", "lacks-main-query-description", "rewritten-by-engine-description",
]  # fmt: skip
PROBLEMS: tuple[Problem, ...] = get_args(Problem)
HALF = 0.5
_NAME_SIGNS = re.compile(r"\s[|–—-]\s|\s::\s|\s»\s")
_CUT_SIGN = re.compile(r"\s*(?:…|\.\.\.)\s*$")


@dataclass(frozen=True)
class SnippetTexts:
    """A page's texts for SERPs. `titles`, `descriptions`: how many it has (None: not reported). `shown_title`,
    `shown_description`: from a captured SERP. `main_query`: None where the page has none.
    """

    title: str | None
    description: str | None
    heading: str | None
    titles: int | None = None
    descriptions: int | None = None
    shown_title: str | None = None
    shown_description: str | None = None
    main_query: str | None = None


def problems_of(page: SnippetTexts, same_title: int, same_description: int, language: str = "english") -> list[Problem]:
    """The problems of a page's title and description, titles first. `same_title`, `same_description`: the number of other
    pages with the same.
    """
    found: list[Problem] = []
    if not page.title:
        found.append("missing-title")
    else:
        found += _of_title(page, page.title, same_title, language)
    if (page.titles or 0) > 1:
        found.append("several-title")
    if not page.description:
        found.append("missing-description")
    else:
        found += _of_description(page, page.description, same_description, language)
    if (page.descriptions or 0) > 1:
        found.append("several-description")
    return sorted(set(found), key=PROBLEMS.index)


def _of_title(page: SnippetTexts, title: str, same: int, language: str) -> list[Problem]:
    found: list[Problem] = []
    if same:
        found.append("doubled-title")
    if width(title, TITLE_PX) > TITLE_CUT:
        own, name = without_site_name(title)
        visible = shown_of(title, TITLE_PX, TITLE_CUT)
        found.append("site-name-cut-title" if name and len(visible) >= len(own) else "too-long-title")
    if page.heading and words(title) == words(page.heading):
        found.append("same-as-heading-title")
    if page.main_query and _coverage(page.main_query, title, language) < 1:
        found.append("lacks-main-query-title")
    if page.shown_title and _rewritten(title, page.shown_title):
        found.append("rewritten-by-engine-title")
    return found


def _of_description(page: SnippetTexts, description: str, same: int, language: str) -> list[Problem]:
    found: list[Problem] = []
    if same:
        found.append("doubled-description")
    if width(description, DESCRIPTION_PX) > DESCRIPTION_CUT:
        found.append("too-long-description")
    if page.main_query and _coverage(page.main_query, description, language) < HALF:
        found.append("lacks-main-query-description")
    if page.shown_description and _rewritten(description, page.shown_description):
        found.append("rewritten-by-engine-description")
    return found


def without_site_name(title: str) -> tuple[str, str]:
    """A title split into its text and the site's name after the last separator, which may be empty.

    >>> without_site_name("Dry bags – all sizes | Marrowbank")
    ('Dry bags – all sizes', 'Marrowbank')
    """
    signs = list(_NAME_SIGNS.finditer(title))
    return (title[: signs[-1].start()], title[signs[-1].end() :]) if signs else (title, "")


def _coverage(query: str, text: str, language: str) -> float:
    """The share of a query's words in a text, by stems."""
    wanted, there = content_stems(query, language), set(content_stems(text, language))
    return sum(one in there for one in wanted) / len(wanted) if wanted else 1.0


def _rewritten(own: str, shown: str) -> bool:
    """Whether a SERP shows a different text; a text merely cut off, or shortened at its end, is not different."""
    candidate, result = words(_CUT_SIGN.sub("", shown)), words(own)
    return bool(candidate) and candidate != result[: len(candidate)]


def main_queries(candidates: Mapping[int, Sequence[tuple[int, float, str | None]]]) -> dict[int, int]:
    """The main query of each page; `candidates`: page → (query, clicks and opportunity, fit), in any order."""
    result = {}
    for page, queries in candidates.items():
        ordered = sorted(queries, key=lambda one: (-one[1], one[0]))
        candidate = [one for one in ordered if one[2] in ("close", "loose")]
        if ordered:
            result[page] = (candidate or ordered)[0][0]
    return result


def remedy(problems: Sequence[Problem]) -> str:
    """What to do first, in words."""
    result = {
        "missing-title": "Write a title that starts with the main query.",
        "several": "Keep one of them.",
        "doubled": "Name what distinguishes this page.",
        "lacks-main-query-title": "Add the main query to the title.",
        "too-long": "Shorten it to the visible width.",
        "rewritten-by-engine-title": "Use the query as people search it: the search engine shows another title.",
        "missing-description": "Write a description of what the page offers.",
        "lacks-main-query-description": "Add the main query to the description.",
        "site-name-cut-title": "Shorten it, or drop the site's name.",
        "same-as-heading-title": "Make it different from the heading.",
        "rewritten-by-engine-description": "Answer the query in the description: the search engine shows another one.",
    }
    return next((candidate for name, candidate in result.items() if any(one.startswith(name) for one in problems)), "")
