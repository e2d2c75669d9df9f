"""Topics of a large site: `make bench-topics` (QUERIES=100000). Zipf-like queries, ranking pages and, for a tenth, SERPs:
similarities and communities, in seconds and memory.
"""

import os
import resource
import sys
import time

import numpy as np
import polars as pl

from zugzwang.core.topics.communities import Evidence, communities, ties

QUERIES = int(os.environ.get("QUERIES", "100000"))
SECONDS, MEMORY_MB = 20.0, 2_000
WORDS, PAGES, ADDRESSES = 20_000, 6_000, 30_000


def evidence(rng: np.random.Generator) -> Evidence:
    def often(number: int, steep: float, scale: float, most: int) -> np.ndarray:
        return np.asarray(np.minimum((rng.pareto(steep, number) * scale).astype(int), most))

    words = np.repeat(np.arange(QUERIES), rng.integers(1, 6, QUERIES))
    shown = np.repeat(np.arange(QUERIES), rng.integers(1, 4, QUERIES))
    captured = np.repeat(rng.permutation(QUERIES)[: QUERIES // 10], 9)
    stems = pl.DataFrame({"query": words, "stem": often(words.size, 0.7, 8, WORDS)}).unique()
    pages = pl.DataFrame(
        {"query": shown, "page": often(shown.size, 0.8, 20, PAGES), "impressions": rng.integers(1, 500, shown.size)}
    )
    results = pl.DataFrame({"query": captured, "address": often(captured.size, 0.8, 30, ADDRESSES)})
    pages = pages.group_by("query", "page").agg(pl.col("impressions").sum())
    return Evidence(QUERIES, stems.cast({"stem": pl.String}), pages, results.cast({"address": pl.String}))


def main() -> None:
    current = evidence(np.random.default_rng(1))
    begun = time.perf_counter()
    tied = ties(current)
    between = time.perf_counter()
    found = communities(QUERIES, tied)
    took, memory = time.perf_counter() - begun, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"{QUERIES:,} queries, {tied.one.size:,} ties in {between - begun:.1f} s, {np.unique(found).size:,} topics")
    print(f"  topics: {took:.1f} of {SECONDS:.0f} s; memory: {memory:.0f} of {MEMORY_MB:,} MB")
    sys.exit(0 if took <= SECONDS and memory <= MEMORY_MB else 1)


if __name__ == "__main__":
    main()
