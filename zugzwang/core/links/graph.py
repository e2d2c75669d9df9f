"""The graph of a site's internal links, and the authority that flows along them.

A link in the body of a page weighs 1, one in its navigation 0.2 (our own choice, no source: a link on every page says
little about one). Several links from one page to another count once, with the largest weight. Nofollow links and links of a
page to itself are left out.

Authority is PageRank (Brin & Page 1998; Manning, Raghavan & Schütze 2008, chapter 21) with damping 0.85: the share of time
on a page of a random reader who follows links by weight and jumps with probability 0.15, or from a page without links.
Jumps go to pages in proportion to 1 + their referring domains, because readers and crawlers arrive there. All shares add up
to 1.

Example (from the book, with teleport 0.5): a ⇄ b ⇄ c: 5/18, 8/18, 5/18.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt
import polars as pl
import scipy

BODY, NAVIGATION = 1.0, 0.2
DAMPING = 0.85
CLOSE_ENOUGH = 1e-9  # total change of shares between two steps
STEPS_MAX = 250
Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Graph:
    """`pages`: ids, sorted; `edges`: source, target (indices into `pages`), weight."""

    pages: pl.Series
    edges: pl.DataFrame

    def __getstate__(self) -> dict[str, object]:
        return {"pages": self.pages, "edges": self.edges}

    @cached_property
    def into(self) -> scipy.sparse.csr_matrix:
        """Weights by target and source."""
        source, target, weight = (self.edges[name].to_numpy() for name in ("source", "target", "weight"))
        size = self.pages.len()
        return scipy.sparse.csr_matrix((weight, (target, source)), shape=(size, size))

    @cached_property
    def out(self) -> Floats:
        """The total weight of each page's outgoing links."""
        source, weight = (self.edges[name].to_numpy() for name in ("source", "weight"))
        return np.bincount(source, weights=weight, minlength=self.pages.len()).astype(np.float64)

    def indices(self, pages: pl.Series) -> npt.NDArray[np.int64]:
        """Indices of pages in `pages`; all must be present."""
        return self.pages.search_sorted(pages).to_numpy().astype(np.int64)


def graph_of(pages: pl.Series, links: pl.DataFrame) -> Graph:
    """The graph. `pages`: ids of all pages; `links`: source, target (ids), in_body, followed (null counts as followed)."""
    ids = pages.unique().sort()
    known = links.filter(
        pl.col("source") != pl.col("target"),
        pl.col("followed").fill_null(True),
        pl.col("source").is_in(ids.implode()),
        pl.col("target").is_in(ids.implode()),
    )
    best = known.group_by("source", "target").agg(pl.col("in_body").fill_null(True).any())
    edges = best.select(
        pl.Series("source", ids.search_sorted(best["source"]), dtype=pl.UInt32),
        pl.Series("target", ids.search_sorted(best["target"]), dtype=pl.UInt32),
        weight=pl.when("in_body").then(BODY).otherwise(NAVIGATION),
    )
    return Graph(ids, edges.sort("source", "target"))


def authority(graph: Graph, jumps: Floats, planned: pl.DataFrame | None = None, start: Floats | None = None) -> Floats:
    """The share of each page, in the order of `graph.pages`; they add up to 1.

    `jumps`: the weight of jumps to each page, in any unit. `planned`: links that do not exist yet (source, target: ids),
    counted as body links. `start`: shares near the solution, such as those without the plan; they change only the speed.
    Raises ArithmeticError if the iteration does not converge.
    """
    if not graph.pages.len():
        return np.zeros(0)
    to = jumps / jumps.sum()
    into, out = graph.into, graph.out
    more = _planned(graph, planned)
    if more is not None:
        out = out + np.asarray(more.sum(axis=0)).ravel()
    inverse = np.divide(1.0, out, out=np.zeros_like(out), where=out > 0)
    leads_nowhere = out == 0
    shares: Floats = to.copy() if start is None else start.copy()
    for _ in range(STEPS_MAX):
        values = shares * inverse
        arrives = into @ values
        if more is not None:
            arrives += more @ values
        fresh = DAMPING * arrives + (DAMPING * shares[leads_nowhere].sum() + 1 - DAMPING) * to
        moved = np.abs(fresh - shares).sum()
        shares = fresh
        if moved < CLOSE_ENOUGH:
            return shares
    raise ArithmeticError(f"Link authority did not converge in {STEPS_MAX} steps.")


def passed(graph: Graph, shares: Floats, sources: npt.NDArray[np.int64]) -> Floats:
    """The authority that one more body link of each source would pass on: its share, damped, divided among its links by
    weight.
    """
    return np.asarray(DAMPING * shares[sources] * BODY / (graph.out[sources] + BODY))


def _planned(graph: Graph, planned: pl.DataFrame | None) -> scipy.sparse.csr_matrix | None:
    """The weights that planned links add; for a link already in the navigation, only the difference."""
    if planned is None or planned.is_empty():
        return None
    size = graph.pages.len()
    pairs = planned.select("source", "target").unique()
    source, target = (graph.indices(pairs[name]) for name in ("source", "target"))
    has = np.asarray(graph.into[target, source]).ravel()
    return scipy.sparse.csr_matrix((BODY - has, (target, source)), shape=(size, size))
