"""Worlds for the decomposition of a change: rows that only lose rank, next to rows with falling demand. Few people go beyond
page one, so a row that crosses its edge has fewer impressions at the same demand.
"""

from dataclasses import dataclass

import numpy as np
import polars as pl

from worlds.lenses import curve
from zugzwang.core.clicks.evidence import Floats

ROWS = 600
SEEN_BEYOND_PAGE_ONE = 0.4  # of those who search, how many see a result on page two


@dataclass(frozen=True)
class World:
    """`first`, `last`: the range of positions before; `fall`: the factor by which positions worsen; `less`: the remaining
    share of demand; `mixed`: the log-normal scatter of each day's position.
    """

    name: str
    first: float
    last: float
    fall: float = 1.0
    less: float = 1.0
    mixed: float = 0.0


@dataclass(frozen=True)
class Made:
    before: pl.DataFrame
    after: pl.DataFrame


def make(world: World, seed: int) -> Made:
    rng = np.random.default_rng(seed)
    searched = np.exp(rng.normal(6, 1, ROWS))
    places = rng.uniform(world.first, world.last, ROWS)
    liked = rng.lognormal(0, 0.3, ROWS)
    return Made(
        _period(rng, searched, places, liked, world.mixed),
        _period(rng, searched * world.less, places * world.fall, liked, world.mixed),
    )


def _period(rng: np.random.Generator, searched: Floats, places: Floats, liked: Floats, mixed: float) -> pl.DataFrame:
    """Thirteen weeks of days summed, as the product sums them."""
    days = 91
    at = np.maximum(places[:, None] * rng.lognormal(0, mixed, (ROWS, days)), 1.0)
    shown = rng.poisson(searched[:, None] * np.where(at < 10.5, 1.0, SEEN_BEYOND_PAGE_ONE) / days)
    expected = shown * curve(at)
    clicks = rng.poisson(expected * liked[:, None])
    impressions = shown.sum(axis=1)
    rows = pl.DataFrame(
        {
            "page": np.arange(ROWS) // 10,
            "query": np.arange(ROWS),
            "clicks": clicks.sum(axis=1),
            "impressions": impressions,
            "position": (shown * at).sum(axis=1) / np.maximum(impressions, 1),
            "expected_clicks": expected.sum(axis=1),
        }
    )
    return rows.filter(pl.col("impressions") > 0)


WORLDS = [
    World("positions lost within page one", 2, 5, fall=1.8),
    World("positions lost across the edge of page one", 7, 9, fall=1.6),
    World("the same, each day at another position", 7, 9, fall=1.6, mixed=0.25),
    World("searched for half as often", 2, 9, less=0.5),
]
