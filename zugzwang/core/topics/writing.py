"""Content gaps: groups of queries without a page on the site, large enough for a page of their own.

A query needs a page where none of the site's pages fits it (core.pages.fit: off), and none ranks for it or has all its
words in title, heading or address. Left out are queries with a clash (which comes first), branded queries, queries for
another site, and queries that share no word with any page: the site is not about them.

Within a topic, such queries are grouped by the ties that topics use, without the weak ones (below TIE_LEAST): one page must
answer all queries of a group. A group is reported from SEARCHES_LEAST searches a month. Our own choice, no source.
"""

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
    """The group of each query by number, −1 where it needs no page. `topic` of each query; `wanting`: indices of queries."""
    result = np.full(topic.size, -1, np.int64)
    inside = np.zeros(topic.size, bool)
    inside[wanting] = True
    keep = (
        inside[current.one]
        & inside[current.other]
        & (topic[current.one] == topic[current.other])
        & (current.weight >= TIE_LEAST)
    )
    index = np.full(topic.size, -1, np.int64)
    index[wanting] = np.arange(wanting.size)
    own = Ties(index[current.one[keep]], index[current.other[keep]], current.weight[keep], current.results_known[keep])
    result[wanting] = communities(wanting.size, own) if wanting.size else wanting
    return result


def wanting(queries: pl.DataFrame) -> pl.Series:
    """Whether each query needs a page. `queries`: fits (the best fit of a page that ranks for it; null: none ranks), covered
    (whether a page has all its words), known_words (whether any page shares a word with it), clashed, branded, elsewhere
    (whether it is for another site).
    """
    lacks = pl.when(pl.col("fits").is_null()).then(~pl.col("covered")).otherwise(pl.col("fits") == "off")
    out = pl.col("clashed") | pl.col("branded") | pl.col("elsewhere") | ~pl.col("known_words")
    return queries.select((lacks & ~out).alias("wanting"))["wanting"]


def outline(queries: Sequence[str], headings: Iterable[str], language: str = "english") -> list[str]:
    """An outline for a page on some queries (most searched first): the questions among them, then the headings of competing
    pages, most frequent first, without any that repeats an earlier one.

    >>> outline(["canoe cart", "how to load a canoe"], ["Loading", "Load a canoe", "Straps", "Straps"])
    ['how to load a canoe', 'Straps']
    """
    questions = [query for query in queries if asks(query)]
    counted = Counter(" ".join(one.split()) for one in headings if one.strip())
    result: list[str] = []
    seen: list[frozenset[str]] = []
    for one in [*questions, *(heading for heading, _ in counted.most_common())]:
        content = frozenset(content_stems(one, language))
        says_more = any(content <= other or (len(other) > 1 and other <= content) for other in seen)
        if content and not says_more:
            result.append(one)
            seen.append(content)
        if len(result) == OUTLINE:
            break
    return result
