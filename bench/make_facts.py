"""A CSV of some 4 million search facts: about 480 days, 5,000 pages, 60,000 queries. Invented, for measuring only."""

import sys
from datetime import date
from pathlib import Path

import numpy as np
import polars as pl

DAYS, PAGES, QUERIES, PAIRS = 480, 5_000, 60_000, 150_000
FIRST_DAY = date(2025, 7, 14)


def make(path: Path, rows: int, seed: int = 1) -> int:
    """Write about `rows` facts in order of days. Returns their number."""
    rng = np.random.default_rng(seed)
    page = rng.integers(0, PAGES, PAIRS)
    query = rng.integers(0, QUERIES, PAIRS)
    often = rng.pareto(0.9, PAIRS) + 0.03
    # The chance that a pair is shown on a day, scaled until a day holds as many rows as asked for.
    scale = 1.0
    for _ in range(40):
        scale *= rows / DAYS / np.minimum(often * scale, 1.0).sum()
    chance = np.minimum(often * scale, 1.0)
    home = np.exp(rng.uniform(0, np.log(60), PAIRS))
    factor = rng.gamma(5, 0.2, PAIRS)
    days = []
    for day in range(DAYS):
        shown = np.flatnonzero(rng.random(PAIRS) < chance)
        position = np.maximum(1, (home[shown] * rng.lognormal(0, 0.12, shown.size)).round(2))
        impressions = rng.geometric(1 / (1 + 25 * chance[shown]))
        rate = np.minimum(0.28 * position**-1.1 * factor[shown], 0.9)
        columns = {"day": np.full(shown.size, day), "pair": shown, "clicks": rng.binomial(impressions, rate)}
        days.append(pl.DataFrame({**columns, "impressions": impressions, "position": position}))
    names = pl.DataFrame({"pair": np.arange(PAIRS), "page": page, "query": query}).with_columns(
        page=pl.format("https://large.example/section-{}/page-number-{}/", pl.col("page") % 40, pl.col("page")),
        query=pl.format("words asked for number {}", pl.col("query")),
    )
    facts = (
        pl.concat(days)
        .join(names, on="pair", how="left", maintain_order="left")
        .select(pl.lit(FIRST_DAY) + pl.duration(days=pl.col("day")), "page", "query", "clicks", "impressions", "position")
        .rename({"literal": "date"})
    )
    facts.write_csv(path)
    return facts.height


if __name__ == "__main__":
    print(make(Path(sys.argv[1]), int(sys.argv[2])))
