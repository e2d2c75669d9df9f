"""Worlds for breaks: a hundred pages over seventy weeks without breaks but with other movements; and pages that lose half of
forty clicks a week.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import polars as pl

from zugzwang.core.clicks.evidence import Floats

WEEKS = 70
PAGES = 100
Rng = np.random.Generator
Moves = Callable[[Rng], Floats]


def still(rng: Rng) -> Floats:
    del rng
    return np.zeros(WEEKS)


def with_memory(rng: Rng) -> Floats:
    """AR(1) with ρ = 0.6 and a standard deviation of 0.25."""
    result, last = np.zeros(WEEKS), 0.0
    for week in range(WEEKS):
        last = 0.6 * last + rng.normal(0, 0.2)
        result[week] = last
    return result


def slow_trend(rng: Rng) -> Floats:
    return np.asarray(rng.normal(0, 0.6) * np.linspace(-1, 1, WEEKS) + rng.normal(0, 0.1, WEEKS))


def own_season(rng: Rng) -> Floats:
    return 0.5 * np.cos(2 * np.pi * (np.arange(WEEKS) - rng.uniform(0, 52)) / 52) + rng.normal(0, 0.1, WEEKS)


def random_walk(rng: Rng) -> Floats:
    return np.cumsum(rng.normal(0, 0.1, WEEKS))


@dataclass(frozen=True)
class World:
    """`halved`: how many pages, each with forty clicks a week, lose half of them in some week."""

    name: str
    moves: Moves
    halved: int = 0


@dataclass(frozen=True)
class Made:
    weekly: pl.DataFrame
    broke: dict[int, int]  # page → week


def make(world: World, seed: int) -> Made:
    rng = np.random.default_rng(seed)
    shared = 0.3 * np.cos(2 * np.pi * (np.arange(WEEKS) - 20) / 52)
    broke, rows = {}, []
    for page in range(PAGES):
        level = np.exp(rng.uniform(np.log(5), np.log(300)))
        mean = np.full(WEEKS, 40.0 if page < world.halved else level) * np.exp(shared + world.moves(rng))
        if page < world.halved:
            broke[page] = int(rng.integers(12, WEEKS - 10))
            mean[broke[page] :] *= 0.5
        rows += [(page, week, int(count)) for week, count in enumerate(rng.poisson(mean))]
    return Made(pl.DataFrame(rows, schema=["name", "week", "count"], orient="row"), broke)


WORLDS = [
    World("chance alone", still),
    World("noise with memory", with_memory),
    World("slow trends", slow_trend),
    World("own seasons", own_season),
    World("random walks", random_walk),
]
HALVED = [World("half of 40 clicks lost", still, 20), World("the same, noise with memory", with_memory, 20)]
