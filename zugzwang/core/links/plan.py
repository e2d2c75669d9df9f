"""Suggested internal links: which pages should link to a page, and the effect on its authority.

A page qualifies as a source where it is about the target – its text is as similar as that of pages on one subject
(similarity.py), it ranks for the same queries, or it mentions the target's main query –, responds, does not link to it from
its body yet, and does not need links itself. A mention in a text with little else in common (less than half the similarity
of pages on one subject) does not count.

Pages that mention the main query in a sentence come first: the words to link exist already. Within both groups, suggestions
are ranked by similarity × the authority that the link would pass on (graph.passed). Each page gets at most LINKS_IN links
and gives at most LINKS_OUT, best first. Both bounds are our own choice, no source: people carry out the plan by hand.
"""

import numpy as np
import polars as pl

from zugzwang.core.links.graph import Floats, Graph, authority, passed

LINKS_IN, LINKS_OUT = 10, 5
MENTION_LEAST = 0.5  # share of the similarity of pages on one subject
SCHEMA = pl.Schema(
    {
        "source": pl.UInt32(), "target": pl.UInt32(), "similarity": pl.Float64(), "phrase": pl.UInt32(),
        "mentioned": pl.Boolean(), "authority_passed": pl.Float64(),
    }
)  # fmt: skip


def suggestions(graph: Graph, shares: Floats, candidates: pl.DataFrame, givers: pl.Series) -> pl.DataFrame:
    """The suggested links, best first.

    `candidates`: source, target, similarity (null: unknown), about (the threshold of similarity for pages on the target's
    subject), phrase (number of the mentioned phrase; null: none). `givers`: pages that may link. Returns the columns of
    SCHEMA.
    """
    mentioned = pl.col("phrase").is_not_null()
    alike = pl.col("similarity").fill_null(pl.when(mentioned).then(pl.col("about")).otherwise(0.0))
    enough = pl.when(mentioned).then(MENTION_LEAST * pl.col("about")).otherwise(pl.col("about"))
    known = candidates.filter(
        pl.col("source") != pl.col("target"),
        pl.col("source").is_in(givers.implode()),
        pl.col("source").is_in(graph.pages.implode()),
        pl.col("target").is_in(graph.pages.implode()),
        alike >= enough,
    ).with_columns(similarity=alike, mentioned=mentioned)
    in_bodies = graph.edges.filter(pl.col("weight") == 1.0)
    there = in_bodies.select(source=graph.pages.gather(in_bodies["source"]), target=graph.pages.gather(in_bodies["target"]))
    wanted = known["target"].unique()
    known = known.join(there.filter(pl.col("target").is_in(wanted.implode())), on=["source", "target"], how="anti")
    known = known.sort("mentioned", "similarity", descending=True).unique(["source", "target"], keep="first")
    gives = passed(graph, shares, graph.indices(known["source"])) if known.height else np.zeros(0)
    ranked = known.with_columns(authority_passed=pl.Series(gives, dtype=pl.Float64))
    worth = pl.col("similarity") * pl.col("authority_passed")
    ranked = ranked.sort("mentioned", worth, "source", "target", descending=[True, True, False, False])
    return _within_bounds(ranked).select(pl.col(name).cast(kind) for name, kind in SCHEMA.items())


def _within_bounds(ranked: pl.DataFrame) -> pl.DataFrame:
    """The suggestions in order, as many for each target and source as the bounds allow."""
    gets: dict[int, int] = {}
    gives: dict[int, int] = {}
    keep = []
    for number, (source, target) in enumerate(ranked.select("source", "target").iter_rows()):
        if gets.get(target, 0) < LINKS_IN and gives.get(source, 0) < LINKS_OUT:
            gets[target] = gets.get(target, 0) + 1
            gives[source] = gives.get(source, 0) + 1
            keep.append(number)
    return ranked[keep]


def after(graph: Graph, jumps: Floats, shares: Floats, planned: pl.DataFrame) -> Floats:
    """The authority of all pages after adding the planned links (source, target) to their bodies."""
    return authority(graph, jumps, planned, start=shares) if planned.height else shares
