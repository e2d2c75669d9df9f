"""Topics: communities of queries with the same meaning or the same answers.

Three kinds of evidence join two queries, each 0…1:

  results   the Jaccard index of the organic addresses on their captured SERPs: the search engine answers them alike
  shown     the same pages of the site rank for both: Σ √(aₚ bₚ), where aₚ is page p's share of a query's impressions
  words     the cosine of their weighted stems (TF-IDF: Manning, Raghavan & Schütze 2008, chapter 6)

They are weighted 3 : 1 : 1; evidence that is missing for a pair – an uncaptured SERP, a query without impressions – drops
out with its weight. Pages and addresses that go with more than a tenth of all queries (the home page, an encyclopaedia) are
ignored. Weights and bounds are our own choice, from trials on generated sites with overlapping wording (docs/methods.md).

Each query keeps its NEIGHBOURS strongest ties of at least TIE_LEAST (on a large site OF_MANY, to bound the time).
Communities are found by Leiden (Traag, Waltman & van Eck 2019) on modularity, with igraph. Modularity misses communities
that are small relative to the whole (Fortunato & Barthélemy 2007), so its resolution grows with the number of queries:
topics of a large site are as fine as those of a small one.
"""

import random
from collections.abc import Iterator
from dataclasses import dataclass

import igraph
import numpy as np
import numpy.typing as npt
import polars as pl
import scipy

WEIGHTS = {"results": 3.0, "shown": 1.0, "words": 1.0}
NEIGHBOURS, OF_MANY = 30, 12  # ties of a query, and on sites with more than QUERIES_MANY queries
QUERIES_MANY = 20_000
TIE_LEAST = 0.15
EVERYWHERE = 0.1  # share of all queries, and at least EVERYWHERE_LEAST of them
EVERYWHERE_LEAST = 50
MANY = 400  # queries of a page, stem or address: beyond, each is paired only with the largest of them
CENTRES = 8
QUERIES_FINE = 2_000  # up to this number of queries the resolution is 1
SEED = 1
CHUNK = 2_000
Ints = npt.NDArray[np.int64]
Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Evidence:
    """The evidence about queries, each by its index 0…n − 1, most searched first.

    `stems`: query, stem; `shown`: query, page, impressions; `results`: query, address (organic, from one capture).
    """

    queries: int
    stems: pl.DataFrame
    shown: pl.DataFrame
    results: pl.DataFrame


@dataclass(frozen=True)
class Ties:
    """Pairs of queries (one < other) with the weight of their tie, and which evidence both have."""

    one: Ints
    other: Ints
    weight: Floats
    results_known: npt.NDArray[np.bool_]


def ties(evidence: Evidence) -> Ties:
    """The strongest ties of each query; empty without queries."""
    none = np.zeros(0, np.int64)
    if not evidence.queries:
        return Ties(none, none, np.zeros(0), np.zeros(0, bool))
    words = _unit(_matrix(evidence.queries, evidence.stems.select("query", of="stem").with_columns(value=1.0), inverse=True))
    share = pl.col("impressions") / pl.col("impressions").sum().over("query")
    shown = _matrix(evidence.queries, evidence.shown.select("query", of="page", value=share.sqrt()))
    results = _matrix(evidence.queries, evidence.results.select("query", of="address").unique().with_columns(value=1.0))
    shown, results = _telling(shown), _telling(results)
    pairs = np.sort(np.concatenate([*_near(words), *_near(shown), *_near(results)]))
    pairs = pairs[np.diff(pairs, prepend=-1) > 0]
    if not pairs.size:
        return Ties(none, none, np.zeros(0), np.zeros(0, bool))
    one, other = pairs // evidence.queries, pairs % evidence.queries
    has_shown, has_results = (np.diff(entry.indptr) > 0 for entry in (shown, results))
    both_shown, both_results = has_shown[one] & has_shown[other], has_results[one] & has_results[other]
    weighed = (
        WEIGHTS["words"] * _products(words, one, other)
        + WEIGHTS["shown"] * np.minimum(_products(shown, one, other), 1.0)
        + WEIGHTS["results"] * _jaccard(results, one, other)
    )
    weight = weighed / (WEIGHTS["words"] + WEIGHTS["shown"] * both_shown + WEIGHTS["results"] * both_results)
    keep = _strongest(one, other, weight, _strongest_ties(evidence.queries))
    return Ties(one[keep], other[keep], weight[keep], both_results[keep])


def communities(queries: int, current: Ties) -> Ints:
    """The community of each query, by number; a query without ties is its own."""
    graph = igraph.Graph(n=queries, edges=np.column_stack([current.one, current.other]))
    igraph.set_random_number_generator(random.Random(SEED))  # noqa: S311 – only repeatability matters
    found = graph.community_leiden(
        objective_function="modularity",
        weights=current.weight.tolist(),
        resolution=max(1.0, queries / QUERIES_FINE),
        n_iterations=2,
    )
    return np.asarray(found.membership, dtype=np.int64)


def _strongest_ties(queries: int) -> int:
    return NEIGHBOURS if queries <= QUERIES_MANY else OF_MANY


def _matrix(rows: int, entries: pl.DataFrame, inverse: bool = False) -> scipy.sparse.csr_matrix:
    """`entries`: query, of, value; `inverse`: weight each column by how few queries have it."""
    columns = entries["of"].rank("dense").cast(pl.Int64).to_numpy() - 1
    value = entries["value"].to_numpy().astype(np.float64)
    if inverse and entries.height:
        value = value * (np.log((1 + rows) / (1 + np.bincount(columns)[columns])) + 1)
    shape = (rows, int(columns.max()) + 1 if columns.size else 1)
    return scipy.sparse.csr_matrix((value, (entries["query"].to_numpy().astype(np.int64), columns)), shape)


def _unit(current: scipy.sparse.csr_matrix) -> scipy.sparse.csr_matrix:
    length = np.sqrt(np.asarray(current.multiply(current).sum(axis=1)).ravel())
    return scipy.sparse.csr_matrix(scipy.sparse.diags(1 / np.maximum(length, 1e-12)) @ current)


def _telling(current: scipy.sparse.csr_matrix) -> scipy.sparse.csr_matrix:
    """The matrix without columns that so many queries share that they are uninformative."""
    known = int((np.diff(current.indptr) > 0).sum())
    of_column = np.bincount(current.indices, minlength=current.shape[1])
    return scipy.sparse.csr_matrix(current[:, of_column <= max(EVERYWHERE * known, EVERYWHERE_LEAST)])


def _near(current: scipy.sparse.csr_matrix) -> Iterator[Ints]:
    """Candidates for ties, as one × rows + other (one < other): from columns with few queries each query's most similar ones,
    from the others each query with the first of the column.
    """
    rows = current.shape[0]
    of_column = np.bincount(current.indices, minlength=current.shape[1])
    few = scipy.sparse.csr_matrix(current[:, of_column <= MANY])
    other_way = few.T.tocsr()
    for start in range(0, rows, CHUNK):
        alike = (few[start : start + CHUNK] @ other_way).tocoo()
        yield (
            _pairs(alike.row + start, alike.col, rows)
            if alike.nnz <= _strongest_ties(rows) * CHUNK
            else _most(alike, start, rows)
        )
    by_column = current.tocsc()
    for column in np.flatnonzero(of_column > MANY):
        members = np.sort(by_column.indices[by_column.indptr[column] : by_column.indptr[column + 1]]).astype(np.int64)
        for centre in members[:CENTRES]:
            yield _pairs(np.full(members.size, centre), members, rows)


def _most(alike: scipy.sparse.coo_matrix, start: int, rows: int) -> Ints:
    """The most similar ones of each row."""
    order = _by(alike.row, alike.data)
    row = alike.row[order]
    first = np.searchsorted(row, row)
    keep = order[np.arange(row.size) - first <= _strongest_ties(rows)]  # one more, for itself
    return _pairs(alike.row[keep] + start, alike.col[keep], rows)


def _by(end: Ints, weight: Floats) -> Ints:
    """The order by end, heaviest first (to a millionth: one sort of whole numbers takes half the time of two)."""
    heaviest = max(float(weight.max()), 1e-12) if weight.size else 1.0
    return np.argsort(end.astype(np.int64) * 1_000_001 + (1_000_000 * (1 - weight / heaviest)).astype(np.int64), kind="stable")


def _pairs(one: Ints, other: Ints, rows: int) -> Ints:
    low, high = np.minimum(one, other).astype(np.int64), np.maximum(one, other).astype(np.int64)
    return (low * rows + high)[low < high]


def _products(current: scipy.sparse.csr_matrix, one: Ints, other: Ints) -> Floats:
    result = [
        np.asarray(current[one[at : at + 200_000]].multiply(current[other[at : at + 200_000]]).sum(axis=1)).ravel()
        for at in range(0, one.size, 200_000)
    ]
    return np.concatenate(result)


def _jaccard(current: scipy.sparse.csr_matrix, one: Ints, other: Ints) -> Floats:
    common, many = _products(current, one, other), np.diff(current.indptr)
    return np.asarray(common / np.maximum(many[one] + many[other] - common, 1))


def _strongest(one: Ints, other: Ints, weight: Floats, most: int) -> npt.NDArray[np.bool_]:
    """Ties of at least TIE_LEAST that are among the `most` strongest of either end."""
    keep = np.zeros(one.size, bool)
    enough = np.flatnonzero(weight >= TIE_LEAST)
    for end in (one, other):
        # In both directions: a tie can be weak for a query with many and strong for one with few.
        order = enough[_by(end[enough], weight[enough])]
        ends = end[order]
        keep[order[np.arange(order.size) - np.searchsorted(ends, ends) < most]] = True
    return keep
