"""Content gaps: groups of queries for which the site has no page, large enough for a page of their own.

A query needs a page where none of the site fits it (core.pages.fit: off), and none ranks for it or says all its words in title,
heading or address. Left out are queries over which pages of the site clash (that comes first), those of the brand, those for
another site, and those that have no word in common with any page of the site: that is not what the site is
about.

Within a topic, such queries are grouped by the same ties as topics are, the loose ones (below TIE_LEAST) left out: one page
must answer all of a group. A group is reported where it is searched at least SEARCHES_LEAST times a month. Our own choice, no
source."""

from collections import Counter
from collections.abc import Iterable, Sequence

import numpy as np
import polars as pl

from zugzwang.core.topics.communities import Ints, Ties, communities
from zugzwang.core.words.missing_queries import asks
from zugzwang.core.words.wording import content_stems

SEARCHES_LEAST = 50.0
TIE_LEAST = 0.4
OUTLINE = 8


def groups(topic: Ints, wanting: Ints, current: Ties) -> Ints:
    """The group of each query by number, −1 where it needs no page. `topic` of each query; `wanting`: places of queries."""
    result = np.full(topic.size, -1, np.int64)
    inside = np.zeros(topic.size, bool)
    inside[wanting] = True
    keep = (
        inside[current.one]
        & inside[current.other]
        & (topic[current.one] == topic[current.other])
        & (current.weight >= TIE_LEAST)
    )
    place = np.full(topic.size, -1, np.int64)
    place[wanting] = np.arange(wanting.size)
    own = Ties(place[current.one[keep]], place[current.other[keep]], current.weight[keep], current.results_known[keep])
    result[wanting] = communities(wanting.size, own) if wanting.size else wanting
    return result


def wanting(queries: pl.DataFrame) -> pl.Series:
    """Whether each query needs a page. `queries`: fits (the best fit of a page of the site that ranks for it; null: none is),
    covered (whether a page says all its words), known_words (whether any page of the site has a word of it), clashed, branded,
    elsewhere (whether it needs someone else's site)."""
    lacks = pl.when(pl.col("fits").is_null()).then(~pl.col("covered")).otherwise(pl.col("fits") == "off")
    out = pl.col("clashed") | pl.col("branded") | pl.col("elsewhere") | ~pl.col("known_words")
    return queries.select((lacks & ~out).alias("wanting"))["wanting"]


def outline(queries: Sequence[str], headings: Iterable[str], language: str = "english") -> list[str]:
    """What a page for some queries (the most searched first) would go through: the questions among them, then what the
    competing pages have headings for, the most frequent first; none that says all of an earlier one.

    >>> outline(["canoe cart", "how to load a canoe"], ["Loading", "Load a canoe", "Straps", "Straps"])
    ['how to load a canoe', 'Straps']
    """
    asked = [query for query in queries if asks(query)]
    counted = Counter(" ".join(one.split()) for one in headings if one.strip())
    result: list[str] = []
    seen: list[frozenset[str]] = []
    for one in [*asked, *(heading for heading, _ in counted.most_common())]:
        content = frozenset(content_stems(one, language))
        says_more = any(content <= other or (len(other) > 1 and other <= content) for other in seen)
        if content and not says_more:
            result.append(one)
            seen.append(content)
        if len(result) == OUTLINE:
            break
    return result
