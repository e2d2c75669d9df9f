"""Worlds for outcomes: eight hundred pages without interventions, some selected as people select: at random, because they
fell, because of low CTR, or before their season.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import polars as pl

from zugzwang.core.clicks.evidence import Floats

PAGES = 800
PICKED = 40
SHOWN = 25.0  # impressions a click
Rng = np.random.Generator
Picked = npt.NDArray[np.intp]


@dataclass(frozen=True)
class Made:
    """Facts (unit, clicks, impressions, position) of the four weeks before a move, the four after, the twelve before those,
    and the same four weeks a year earlier.
    """

    before: pl.DataFrame
    after: pl.DataFrame
    earlier: pl.DataFrame
    year_before: tuple[pl.DataFrame, pl.DataFrame]
    picked: Picked


def at_random(rng: Rng, earlier: Floats, before: Floats) -> Picked:
    return rng.choice(PAGES, PICKED, replace=False)


def that_fell(rng: Rng, earlier: Floats, before: Floats) -> Picked:
    return np.argsort((before + 1) / (earlier + 1))[:PICKED]


def clicked_little(rng: Rng, earlier: Floats, before: Floats) -> Picked:
    """Impressions equal relative to the page's level, so few clicks mean a low CTR."""
    return np.argsort(before)[:PICKED]


@dataclass(frozen=True)
class World:
    """`memory`: the standard deviation of each page's random walk between periods of four weeks, in logarithms. `season`: the
    selected pages double in the following weeks, every year.
    """

    name: str
    pick: Callable[[Rng, Floats, Floats], Picked]
    wandering: float = 0.25
    season: bool = False


def make(world: World, seed: int) -> Made:
    rng = np.random.default_rng(seed)
    level = rng.lognormal(4.0, 0.8, PAGES)

    def counted(factor: Floats | float = 1.0) -> npt.NDArray[np.int64]:
        return rng.poisson(level * factor * rng.lognormal(0, world.wandering, PAGES))

    season: Floats | float = np.where(np.arange(PAGES) % (PAGES // PICKED) == 0, 2.0, 1.0) if world.season else 1.0
    weeks_before, before, after = [counted() for _ in range(3)], counted(1.1), counted(1.1 * season)
    year = counted(), counted(season)
    picked = np.arange(0, PAGES, PAGES // PICKED) if world.season else None
    if picked is None:
        usual = level if world.pick is clicked_little else np.ones(PAGES)
        picked = world.pick(rng, weeks_before[-1] / usual, before / usual)

    def facts(counts: npt.NDArray[np.int64]) -> pl.DataFrame:
        shown = np.maximum(np.rint(level * SHOWN), counts).astype(np.int64)
        return pl.DataFrame({"unit": np.arange(PAGES), "clicks": counts, "impressions": shown, "position": np.full(PAGES, 5.0)})

    return Made(facts(before), facts(after), facts(np.sum(weeks_before, axis=0)), (facts(year[0]), facts(year[1])), picked)


WORLDS = [
    World("picked at random", at_random),
    World("picked after a fall", that_fell),
    World("picked for a low CTR", clicked_little),
    World("before their season", at_random, season=True),
]
