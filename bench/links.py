"""Links of a large site: `make bench-links` (PAGES=100000, LINKS=5000000, TEXTS=20000, PHRASES=5000). Authority as a ratio to
a bare power iteration of scipy; the effect of a plan of 1,000 links; the plan of one page from cached data; phrases in
running text as a ratio to a bare Aho–Corasick pass.
"""

import os
import resource
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar

import ahocorasick_rs
import numpy as np
import polars as pl
from scipy import sparse

from bench.wording import pages_of
from zugzwang.core.links.graph import CLOSE_ENOUGH, DAMPING, Graph, authority, graph_of
from zugzwang.core.links.mentions import mentions
from zugzwang.core.links.plan import after, suggestions
from zugzwang.core.links.similarity import alike, most_alike, vectors
from zugzwang.core.words.occurrences import read_texts

PAGES, LINKS = int(os.environ.get("PAGES", "100000")), int(os.environ.get("LINKS", "5000000"))
TEXTS, PHRASES, PLANNED = int(os.environ.get("TEXTS", "20000")), int(os.environ.get("PHRASES", "5000")), 1_000


@dataclass(frozen=True)
class Bar:
    name: str
    value: float
    most: float
    unit: str

    def told(self) -> bool:
        print(f"  {self.name}: {self.value:.2f} of {self.most:g} {self.unit}{'' if self.value <= self.most else '  MISSED'}")
        return self.value <= self.most


Made = TypeVar("Made")


def timed(make: Callable[[], Made]) -> tuple[Made, float]:
    begun = time.perf_counter()
    made = make()
    return made, time.perf_counter() - begun


def site(rng: np.random.Generator) -> tuple[pl.Series, pl.DataFrame]:
    """Pages and links, half of which lead to a few pages, as on real sites."""
    source = rng.integers(0, PAGES, LINKS)
    target = np.where(rng.random(LINKS) < 0.5, (PAGES * rng.random(LINKS) ** 4).astype(int), rng.integers(0, PAGES, LINKS))
    result = {"source": source, "target": target, "in_body": rng.random(LINKS) < 0.4}
    links = pl.DataFrame(result).with_columns(pl.col("source", "target").cast(pl.UInt32), followed=pl.lit(True))
    return pl.Series("page", np.arange(PAGES), dtype=pl.UInt32), links


def bare(graph: Graph) -> int:
    """A bare power iteration. Returns the number of steps."""
    size = graph.pages.len()
    source, target, weight = (graph.edges[name].to_numpy() for name in ("source", "target", "weight"))
    out = np.bincount(source, weights=weight, minlength=size)
    into = sparse.csr_matrix((weight / out[source], (target, source)), shape=(size, size))
    nowhere, shares = out == 0, np.full(size, 1 / size)
    for step in range(1, 250):
        fresh = DAMPING * (into @ shares) + (DAMPING * shares[nowhere].sum() + 1 - DAMPING) / size
        moved = np.abs(fresh - shares).sum()
        shares = fresh
        if moved < CLOSE_ENOUGH:
            return step
    return step


def of_authority(rng: np.random.Generator) -> tuple[list[Bar], Graph, np.ndarray]:
    pages, links = site(rng)
    graph, built = timed(lambda: graph_of(pages, links))
    jumps = np.ones(PAGES)
    steps, alone = timed(lambda: bare(graph))
    shares, ours = timed(lambda: authority(graph, jumps))
    pairs = pl.DataFrame(rng.integers(0, PAGES, (PLANNED, 2)), schema={"source": pl.UInt32, "target": pl.UInt32})
    planned = pairs.filter(pl.col("source") != pl.col("target")).unique()
    _, effect = timed(lambda: after(graph, jumps, shares, planned))
    print(
        f"{PAGES:,} pages, {graph.edges.height:,} of {LINKS:,} links once a pair; put together in {built:.1f} s, {steps} steps"
    )
    return [
        Bar("authority", ours, 5.0, "s"),
        Bar("authority over a bare power iteration", ours / alone, 3.0, "times"),
        Bar(f"effect of {planned.height:,} links", effect, 2.0, "s"),
    ], graph, shares  # fmt: skip


def of_texts(rng: np.random.Generator, graph: Graph, shares: np.ndarray) -> list[Bar]:
    pages, result = pages_of(rng, TEXTS, PHRASES)
    phrases = sorted({phrase for _, phrase in result})
    texts, read = timed(lambda: read_texts(pages))
    found, looking = timed(lambda: mentions(texts, phrases, exact=True))

    def pass_over() -> int:
        automaton = ahocorasick_rs.AhoCorasick(phrases)
        return sum(len(automaton.find_matches_as_indexes(text.lower(), overlapping=True)) for text in pages["content"])

    hits, alone = timed(pass_over)
    print(
        f"{TEXTS:,} texts, read in {read:.1f} s; {len(phrases):,} phrases, {found['times'].sum():,} mentions in {looking:.1f} s"
    )
    print(f"  a bare pass: {hits:,} hits in {alone:.1f} s")
    words, weighed = timed(lambda: vectors(texts))
    targets = pl.Series("page", [int(pages["page"][TEXTS // 2])], dtype=pl.UInt32)

    def plan() -> pl.DataFrame:
        speak = most_alike(words, targets, 200)
        pairs = speak.select("target", "source").with_columns(phrase=pl.lit(None, dtype=pl.UInt32))
        pairs = pairs.with_columns(alike(words, pairs), about=speak["about"])
        return suggestions(graph, shares, pairs, pages["page"])

    plan()
    links, planning = timed(plan)
    print(f"  weighed in {weighed:.1f} s; {links.height} links planned to one page")
    return [
        Bar("mentions over a bare Aho–Corasick pass", looking / alone, 1.5, "times"),
        Bar("the plan of one page", planning, 0.3, "s"),
    ]  # fmt: skip


def main() -> None:
    rng = np.random.default_rng(1)
    bars, graph, shares = of_authority(rng)
    bars += of_texts(rng, graph, shares)
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    bars.append(Bar("memory", memory, 2_500, "MB"))
    current = [one.told() for one in bars]
    sys.exit(0 if all(current) else 1)


if __name__ == "__main__":
    main()
