"""Which column of a file holds what, proposed from the header's words."""

import re
from collections.abc import Mapping, Sequence

from zugzwang.errors import Invalid

# The words of the trade for each field, letters only, most usual first.
WORDS: dict[str, tuple[str, ...]] = {
    "day": ("day", "date"),
    "page": ("page", "address", "url", "landing page", "page url", "page address", "page path", "pages", "top pages"),
    "query": ("query", "search term", "keyword", "term", "search query", "queries", "top queries", "keywords", "search terms"),
    "clicks": ("clicks", "click", "url clicks"),
    "impressions": ("impressions", "impression", "shown", "times shown"),
    "position": ("position", "average position", "avg position", "mean position", "rank", "average rank", "avg pos"),
    "ctr": ("ctr", "click through rate", "clickthrough rate", "click through", "url ctr", "site ctr", "average ctr"),
}
REQUIRED = ("day", "page", "query", "clicks", "impressions", "position")
FIELDS = (*REQUIRED, "ctr")


def plain(header: str) -> str:
    """A header in small letters with single blanks: "Avg. Position" → "avg position"."""
    return " ".join(re.findall(r"[^\W_]+", header.casefold()))


def propose(header: Sequence[str]) -> dict[str, int]:
    """Field → index of the column, for each field whose word is in the header; the more usual word wins."""
    names = [plain(name) for name in header]
    found: dict[str, int] = {}
    for field, words in WORDS.items():
        index = next((names.index(word) for word in words if word in names), None)
        if index is not None:
            found[field] = index
    return found


def check_mapping(mapping: Mapping[str, int], header: Sequence[str]) -> dict[str, int]:
    """The mapping, if every required field has a column of its own; Invalid says which has not."""
    unknown = [field for field in mapping if field not in FIELDS]
    if unknown:
        raise Invalid(f"There is no field “{unknown[0]}”.", f"Fields: {', '.join(FIELDS)}.", "mapping")
    for field, index in mapping.items():
        if not 0 <= index < len(header):
            raise Invalid(f"There is no column {index + 1} for {field}.", f"Columns: {', '.join(header)}.", "mapping")
    twice = [field for field in mapping if list(mapping.values()).count(mapping[field]) > 1]
    if twice:
        raise Invalid(f"One column cannot be {' and '.join(twice)} at once.", "Give each field its own column.", "mapping")
    return dict(mapping)


def missing(mapping: Mapping[str, int]) -> list[str]:
    return [field for field in REQUIRED if field not in mapping]


def by_names(pairs: Sequence[str], header: Sequence[str]) -> dict[str, int]:
    """The columns named by hand, as `field=Header text`."""
    chosen: dict[str, int] = {}
    for pair in pairs:
        field, equals, name = pair.partition("=")
        if not equals or name.strip() not in header:
            raise Invalid(f"“{pair}” names no column of the file.", f"Write FIELD=COLUMN; columns: {', '.join(header)}.", "map")
        chosen[field.strip()] = list(header).index(name.strip())
    return chosen
