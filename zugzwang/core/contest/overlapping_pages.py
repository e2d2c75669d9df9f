"""Overlapping pages: pages that rank for the same queries, whether or not their text is similar.

Two similarities of each pair of pages, both 0…1:

- by queries: the weighted Jaccard index of their queries, Σ min(xᵩ, yᵩ) / Σ max(xᵩ, yᵩ), where xᵩ is a query's share of the
  page's impressions. Shares make large and small pages comparable.
- by text: the cosine of their TF-IDF vectors over stems of title, headings and main text (term frequency 1 + ln tf, smoothed
  inverse document frequency ln((1 + N) / (1 + df)) + 1, unit length: Manning, Raghavan & Schütze 2008, chapter 6).

Similar in both: two pages on one subject. Similar queries with different text: the search engine treats two subjects as
one. Where a page was not crawled its text is unknown, and the pair is reported for its queries only. `SHOWN_ALIKE` is our
own choice, no source. How similar a site's pages are by habit differs between sites, so two texts count as similar above
the 99th percentile of the site's pairs, and at least `SAY_ALIKE`.

Pairs form a graph; its communities (Louvain, Blondel et al. 2008) are groups of pages that one decision settles.

Example: a page with 80 % of its impressions for "canoe cart" and 20 % for "kayak cart", another half and half: min 0.5 +
0.2, max 0.8 + 0.5: 0.7 / 1.3 = 0.54.
"""

import random
from collections.abc import Iterable, Mapping, Sequence
from typing import Literal

import igraph
import numpy as np
import polars as pl
import scipy

FoldKind = Literal["same subject", "mixed topics", "texts unknown"]
FOLDS: tuple[FoldKind, ...] = ("same subject", "mixed topics", "texts unknown")
SHOWN_ALIKE = 0.25
SAY_ALIKE = 0.3
USUAL_SHARE, USUAL_PAGES = 0.99, 400
# The minimum share of a query's impressions for a page to count; the maximum number of pages paired for a query.
SHARE_OF_QUERY = 0.01
PAGES_OF_QUERY = 25
COMMUNITY_SEED = 1


def shown_alike(rows: pl.DataFrame, min_impressions: int, at_least: float = SHOWN_ALIKE) -> pl.DataFrame:
    """The pairs of pages that rank for the same queries, most similar first.

    `rows`: page, query, impressions (sums of a period). Pages with fewer than `min_impressions` are skipped. Returns page,
    other (page < other), shared_queries (0…1), queries (that both rank for), impressions (of both, for these).
    """
    enough = rows.filter(pl.col("impressions").sum().over("page") >= min_impressions)
    shares = enough.with_columns(share=pl.col("impressions") / pl.col("impressions").sum().over("page"))
    meeting = (
        shares.filter(pl.col("impressions") >= SHARE_OF_QUERY * pl.col("impressions").sum().over("query"))
        .filter(pl.col("impressions").rank("ordinal", descending=True).over("query") <= PAGES_OF_QUERY)
        .filter(pl.len().over("query") > 1)
        .select("page", "query", "share", "impressions")
    )
    pairs = (
        meeting.join(meeting, on="query", suffix="_other")
        .filter(pl.col("page") < pl.col("page_other"))
        .group_by("page", other="page_other")
        .agg(
            pl.min_horizontal("share", "share_other").sum().alias("common"),
            pl.len().alias("queries"),
            (pl.col("impressions") + pl.col("impressions_other")).sum().alias("impressions"),
        )
    )
    # Both sides' shares add up to 1, so the maxima add up to 2 minus the minima.
    frame = pairs.with_columns(shared_queries=pl.col("common") / (2 - pl.col("common"))).drop("common")
    return frame.filter(pl.col("shared_queries") >= at_least).sort(
        "shared_queries", "page", "other", descending=[True, False, False]
    )


def say_alike(pairs: Iterable[tuple[int, int]], texts: Mapping[int, Sequence[str]]) -> tuple[list[float | None], float]:
    """The TF-IDF cosine of each pair of pages (None where a text is unknown), and the threshold above which two pages of this
    site are similar. `texts`: the stems of every known page, not only of the pairs': words on all pages must not count.
    """
    pages = [page for page, stems in texts.items() if stems]
    row = {page: number for number, page in enumerate(pages)}
    vectors = tf_idf([texts[page] for page in pages])
    alike = [
        float(vectors[row[one]].multiply(vectors[row[other]]).sum()) if one in row and other in row else None
        for one, other in pairs
    ]
    return alike, _much_the_same(vectors)


def _much_the_same(vectors: scipy.sparse.csr_matrix) -> float:
    """The 99th percentile over pairs of the site's pages, at least `SAY_ALIKE`."""
    step = max(vectors.shape[0] // USUAL_PAGES, 1)
    sampled = vectors[::step]
    if sampled.shape[0] < 20:
        return SAY_ALIKE
    cosines = (sampled @ sampled.T).toarray()
    return max(SAY_ALIKE, float(np.quantile(cosines[np.triu_indices(sampled.shape[0], 1)], USUAL_SHARE)))


def tf_idf(documents: Sequence[Sequence[str]]) -> scipy.sparse.csr_matrix:
    """Documents (lists of stems) as rows of unit length, one column for each stem."""
    column: dict[str, int] = {}
    rows: list[int] = []
    columns: list[int] = []
    for number, stems in enumerate(documents):
        rows.extend([number] * len(stems))
        columns.extend(column.setdefault(stem, len(column)) for stem in stems)
    shape = (len(documents), max(len(column), 1))
    counts = scipy.sparse.csr_matrix((np.ones(len(rows)), (rows, columns)), shape=shape)
    counts.sum_duplicates()
    in_documents = np.bincount(counts.indices, minlength=shape[1])
    counts.data = 1 + np.log(counts.data)
    weighted = counts @ scipy.sparse.diags(np.log((1 + len(documents)) / (1 + in_documents)) + 1)
    length = np.sqrt(weighted.multiply(weighted).sum(axis=1)).A1 if len(documents) else np.ones(0)
    return scipy.sparse.csr_matrix(scipy.sparse.diags(1 / np.maximum(length, 1e-12)) @ weighted)


def kind_of(say: float | None, much_the_same: float) -> FoldKind:
    """The kind of an overlapping pair."""
    if say is None:
        return "texts unknown"
    return "same subject" if say >= much_the_same else "mixed topics"


def groups(pairs: Iterable[tuple[int, int, float]]) -> list[list[int]]:
    """Groups of pages: the communities of the graph of pairs (page, other, weight), largest first."""
    graph = igraph.Graph.TupleList(pairs, weights=True)
    igraph.set_random_number_generator(random.Random(COMMUNITY_SEED))  # noqa: S311 – only repeatability matters
    found = graph.community_multilevel(weights="weight") if graph.vcount() else []
    named = (sorted(graph.vs[group]["name"]) for group in found)
    return sorted(named, key=lambda group: (-len(group), group))
