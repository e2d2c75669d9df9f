"""The competing pages on a SERP: what they have next to the site's own, which of them are stronger, what is within our
strength.

Reachable place = 1 + how many of the results above the site's result have as many referring domains as the site's own or more:
those with fewer can be passed (common practice, no source). One of which nothing is known counts as stronger.

Side by side, the site's own is marked where it lies outside the range of those above it: below their lower or above their upper
quartile.

Worked: above the site's result are pages with 4, 40 and 12 referring domains, the site's own has 15: one is stronger, so place
2 is within our strength."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from zugzwang.core.pages.content import HEADINGS, Kind, pieces_of, running_text
from zugzwang.core.words.missing_queries import asks
from zugzwang.core.words.reading_ease import reading_ease
from zugzwang.core.words.wording import content_stems, words

# What is known of a page next to the others, with its words; those marked are counts or amounts that have a range.
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
RANGE_OF = 3  # fewer pages above have no range


@dataclass(frozen=True)
class Passage:
    """What is below a heading that asks a query: `characters` and `words` of the paragraph right below it (0: none), `items` of
    a list, `rows` of a table (cells, where rows are not reported)."""

    heading: str
    text: str
    characters: int
    words: int
    items: int
    cells: int

    @property
    def is_short_answer(self) -> bool:
        return SHORT_ANSWER[0] <= self.characters <= SHORT_ANSWER[1]


def strength(place: int, ours: int | None, above: Sequence[int | None]) -> tuple[int, int] | None:
    """Reachable place and how many of those above are stronger; None where nothing is known of our own referring domains.

    `place`: the site's own among the organic results; `above`: the referring domains of the results above it, None where not
    known."""
    if ours is None:
        return None
    stronger = sum(one is None or one >= ours for one in above)
    return min(1 + stronger, place), stronger


def facts_of(
    query: str,
    title: str | None,
    description: str | None,
    content: str | None,
    images: int | None,
    language: str,
    referring_domains: int | None = None,
) -> dict[str, float | bool | None]:
    """What a page has of MEASURES and SAYS; None where it is not known."""
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
    """Whether a text has all content words of a query, by their stems."""
    wanted = set(content_stems(query, language))
    return bool(wanted) and wanted <= set(content_stems(text or "", language))


def passage_of(pieces: Sequence[tuple[Kind, str]], query: str, language: str) -> Passage | None:
    """The passage below the first heading that has all content words of a query; or, without one, a paragraph that begins with
    what defines it ("A portage is …"). None where there is neither."""
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
    """Whether a paragraph begins "X is …", X being all of what is asked."""
    head, sign, _ = text.partition(" is ")
    said = content_stems(head, language) if sign else ()
    return bool(wanted) and len(said) <= len(wanted) + 1 and set(wanted) <= set(said)


def out_of_range(ours: Mapping[str, float | bool | None], above: Sequence[Mapping[str, float | bool | None]]) -> dict[str, str]:
    """The measures in which the site's own lies outside the quartiles of those above, and on which side: "low" or "high"; of
    what is said or not, "low" where the site's own says it not and three in four above do."""
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
