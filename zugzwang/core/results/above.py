"""The competing pages on a SERP: how they compare with the site's page, which are stronger, and which position is within
reach.

Reachable position = 1 + the number of results above that have at least as many referring domains as the site's page: those
with fewer can be passed (common practice, no source). A page with unknown referring domains counts as stronger.

In the comparison, a measure of the site's page is marked where it lies outside the quartiles of the pages above.

Example: the pages above have 4, 40 and 12 referring domains, the site's page 15: one is stronger, so position 2 is within
reach.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from zugzwang.core.pages.content import HEADINGS, Kind, pieces_of, running_text
from zugzwang.core.words.missing_queries import asks
from zugzwang.core.words.reading_ease import reading_ease
from zugzwang.core.words.wording import content_stems, words

# The measures of a page in the comparison, with their labels; those marked are counts or amounts with a range.
MEASURES: Mapping[str, str] = {
    "referring_domains": "referring domains", "words": "words", "headings": "headings",
    "questions": "questions among the headings",
    "ordered_lists": "numbered lists", "lists": "lists", "tables": "tables", "pictures": "pictures", "videos": "videos",
    "reading_ease": "reading ease", "short_answer": "characters of a short answer",
}  # fmt: skip
SAYS: Mapping[str, str] = {
    "in_title": "query in the title", "in_heading": "query in the main heading",
    "in_first_words": "query in the first 100 words", "in_description": "query in the description",
}  # fmt: skip
FIRST_WORDS = 100
SHORT_ANSWER = (40, 300)
RANGE_OF = 3  # with fewer pages above there is no range


@dataclass(frozen=True)
class Passage:
    """The passage below a heading that asks a query: `characters` and `words` of the paragraph right below it (0: none),
    `items` of a list, `rows` of a table (cells, where rows are unknown).
    """

    heading: str
    text: str
    characters: int
    words: int
    items: int
    cells: int

    @property
    def is_short_answer(self) -> bool:
        return SHORT_ANSWER[0] <= self.characters <= SHORT_ANSWER[1]


def strength(rank: int, ours: int | None, above: Sequence[int | None]) -> tuple[int, int] | None:
    """The reachable position and the number of stronger pages above; None where the site's own referring domains are unknown.

    `rank`: the site's position among organic results; `above`: the referring domains of the results above, None where
    unknown.
    """
    if ours is None:
        return None
    stronger = sum(one is None or one >= ours for one in above)
    return min(1 + stronger, rank), stronger


def facts_of(
    query: str,
    title: str | None,
    description: str | None,
    content: str | None,
    images: int | None,
    language: str,
    referring_domains: int | None = None,
) -> dict[str, float | bool | None]:
    """A page's values for MEASURES and SAYS; None where the page is unknown."""
    if content is None:
        return {**dict.fromkeys((*MEASURES, *SAYS), None), "referring_domains": referring_domains}
    pieces = pieces_of(content)
    text = running_text(content)
    headings = [(kind, said) for kind, said in pieces if kind in HEADINGS]
    main = next((said for kind, said in headings if kind == "h1"), "")
    counted = {kind: sum(one == kind for one, _ in pieces) for kind in ("ol", "ul", "table", "video", "img")}
    passage = passage_of(pieces, query, language)
    return {
        "referring_domains": referring_domains,
        "words": len(words(text)),
        "headings": len(headings),
        "questions": sum(asks(said) for _, said in headings),
        "ordered_lists": counted["ol"],
        "lists": counted["ul"],
        "tables": counted["table"],
        "pictures": images if images is not None else counted["img"],
        "videos": counted["video"],
        "reading_ease": reading_ease(text, language),
        "short_answer": passage.characters if passage else 0,
        "in_title": _says(title, query, language),
        "in_heading": _says(main, query, language),
        "in_first_words": _says(" ".join(words(text)[:FIRST_WORDS]), query, language),
        "in_description": _says(description, query, language),
    }


def _says(text: str | None, query: str, language: str) -> bool:
    """Whether a text contains all content words of a query, by stems."""
    wanted = set(content_stems(query, language))
    return bool(wanted) and wanted <= set(content_stems(text or "", language))


def passage_of(pieces: Sequence[tuple[Kind, str]], query: str, language: str) -> Passage | None:
    """The passage below the first heading with all content words of a query; without one, a paragraph that starts with a
    definition ("A portage is …"). None where there is neither.
    """
    for number, (kind, text) in enumerate(pieces):
        if kind in HEADINGS and _says(text, query, language):
            return _below(text, pieces[number + 1 :])
    wanted = content_stems(query, language)
    for kind, text in pieces:
        if kind == "p" and _defines(text, wanted, language):
            return Passage("", text, len(text), len(words(text)), 0, 0)
    return None


def _below(heading: str, after: Sequence[tuple[Kind, str]]) -> Passage:
    below: list[tuple[Kind, str]] = []
    for kind, text in after:
        if kind in HEADINGS:
            break
        below.append((kind, text))
    first = next((text for kind, text in below if kind != "img"), "") if below and _begins_with_text(below) else ""
    items, cells = (sum(kind == one for kind, _ in below) for one in ("li", "td"))
    return Passage(heading, first, len(first), len(words(first)), items, cells)


def _begins_with_text(below: Sequence[tuple[Kind, str]]) -> bool:
    return next((kind for kind, _ in below if kind != "img"), "") == "p"


def _defines(text: str, wanted: Sequence[str], language: str) -> bool:
    """Whether a paragraph starts "X is …", where X is the whole query."""
    head, sign, _ = text.partition(" is ")
    said = content_stems(head, language) if sign else ()
    return bool(wanted) and len(said) <= len(wanted) + 1 and set(wanted) <= set(said)


def out_of_range(ours: Mapping[str, float | bool | None], above: Sequence[Mapping[str, float | bool | None]]) -> dict[str, str]:
    """Measures in which the site's page lies outside the quartiles of the pages above, with the side: "low" or "high"; for
    yes/no measures "low" where the site's page says no and three in four above say yes.
    """
    result = {}
    for name in (*MEASURES, *SAYS):
        own = ours.get(name)
        known = [float(value) for one in above if (value := one.get(name)) is not None]
        if own is None or len(known) < RANGE_OF:
            continue
        low, high = np.quantile(known, (0.25, 0.75))
        if name in SAYS:
            if not own and np.mean(known) >= 0.75:
                result[name] = "low"
        elif float(own) < low:
            result[name] = "low"
        elif float(own) > high:
            result[name] = "high"
    return result
