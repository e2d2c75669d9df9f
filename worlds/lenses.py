"""Worlds for the lenses: rows whose clicks scatter in ways that the rules do not assume, with nothing planted or a known share
of rows at a quarter of their clicks.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date

import numpy as np
import numpy.typing as npt
import polars as pl

from zugzwang.core.clicks.evidence import Floats
from zugzwang.core.clicks.headroom import target_position

DAYS = 91
FIRST = date(2026, 8, 17)
Rng = np.random.Generator


def curve(position: Floats) -> Floats:
    """The expected CTR by position in the worlds; not the form of the prior."""
    return np.where(position < 10.5, 0.32 / (0.7 + position**1.15), 0.16 / (0.7 + position**1.15))


def gamma(shape: float) -> Callable[[Rng, Floats], Floats]:
    return lambda rng, home: rng.gamma(shape, 1 / shape, home.size)


def lognormal(width: float) -> Callable[[Rng, Floats], Floats]:
    return lambda rng, home: rng.lognormal(-(width**2) / 2, width, home.size)


def by_position(rng: Rng, home: Floats) -> Floats:
    """Scatter that grows from 0.2 in position 1 to 0.8 on page three."""
    width = 0.2 + 0.6 * np.clip(np.log(home) / np.log(30), 0, 1)
    return np.asarray(rng.lognormal(-(width**2) / 2, width))


@dataclass(frozen=True)
class World:
    """Shares of rows: `poor` get a quarter of their clicks; an unreported featured snippet takes half of the clicks of
    `boxes`; `mixed` alternate between two positions every day. `whole`: positions are integers; `clicked_only`: days
    without clicks are missing.
    """

    name: str
    factor: Callable[[Rng, Floats], Floats]
    rows: int = 1500
    poor: float = 0.0
    boxes: float = 0.0
    mixed: float = 0.0
    whole: bool = False
    clicked_only: bool = False


@dataclass(frozen=True)
class Made:
    """`home`: the position of each row; `factor`: its CTR as a multiple of the curve; `daily`: mean impressions a day."""

    facts: pl.DataFrame
    poor: npt.NDArray[np.bool_]
    home: Floats
    factor: Floats
    daily: Floats


def make(world: World, seed: int) -> Made:
    """The facts of a world; page = query = the row's number."""
    rng = np.random.default_rng(seed)
    rows = world.rows
    home = np.exp(rng.uniform(0, np.log(40), rows))
    daily = np.clip(rng.lognormal(1.2, 1.4, rows), 0.1, 2_000)
    factor = world.factor(rng, home)
    poor = (rng.random(rows) < world.poor) & (home < 15)
    factor = np.where(poor, 0.25 * factor, factor)
    factor = np.where(rng.random(rows) < world.boxes, 0.5 * factor, factor)
    mixed = rng.random(rows) < world.mixed

    row = np.repeat(np.arange(rows), DAYS)
    shown = rng.poisson(daily[row])
    place = np.clip(home[row] * rng.lognormal(0, 0.08, row.size), 1, 100)
    high, low = np.clip(home[row] / 3, 1, 100), np.clip(home[row] * 3, 1, 100)
    at_high = np.where(mixed[row], rng.binomial(shown, 0.5), 0)
    earned = np.where(
        mixed[row],
        (at_high * curve(high) + (shown - at_high) * curve(low)) / np.maximum(shown, 1),
        curve(place),
    )
    position = np.where(mixed[row], (at_high * high + (shown - at_high) * low) / np.maximum(shown, 1), place)
    clicks = rng.binomial(shown, np.minimum(earned * factor[row], 0.95))
    position = np.rint(position) if world.whole else np.round(position, 1)
    kept = (shown > 0) & ((clicks > 0) | ~np.bool_(world.clicked_only))
    facts = pl.DataFrame(
        {
            "day": pl.Series(np.datetime64(FIRST) + np.tile(np.arange(DAYS), rows)).cast(pl.Date),
            "page": row.astype(np.uint32),
            "query": row.astype(np.uint32),
            "clicks": clicks.astype(np.uint32),
            "impressions": shown.astype(np.uint32),
            "position": np.maximum(position, 1.0),
        }
    )
    return Made(facts.filter(pl.Series(kept)), poor, home, factor, daily)


def true_gains(made: Made) -> tuple[Floats, Floats]:
    """The clicks that each row loses by being poor, and the true gain of reaching the next band, over all days."""
    here = DAYS * made.daily * curve(made.home) * made.factor
    target = target_position(made.home, "next-band")
    there = DAYS * made.daily * curve(target) * made.factor
    return np.where(made.poor, 3 * here, 0.0), np.maximum(there - here, 0.0)


def clicks_there(made: Made, rows: npt.NDArray[np.intp], target: Floats, seed: int) -> npt.NDArray[np.int64]:
    """The clicks of rows at their targets, over as many days with as many impressions."""
    rng = np.random.default_rng([seed, 1])
    row = np.repeat(np.arange(rows.size), DAYS)
    shown = rng.poisson(made.daily[rows][row])
    place = np.clip(target[row] * rng.lognormal(0, 0.08, row.size), 1, 100)
    clicks = rng.binomial(shown, np.minimum(curve(place) * made.factor[rows][row], 0.95))
    return np.bincount(row, clicks, rows.size).astype(np.int64)


NULL = [
    World("gamma scatter", gamma(6.0)),
    World("lognormal scatter 0.2", lognormal(0.2)),
    World("lognormal scatter 0.4", lognormal(0.4)),
    World("lognormal scatter 0.6", lognormal(0.6)),
    World("lognormal scatter 0.8", lognormal(0.8)),
    World("scatter by position", by_position),
    World("mixed positions", gamma(6.0), mixed=0.1),
    World("whole positions", lognormal(0.3), whole=True),
    World("unknown featured snippets", gamma(6.0), boxes=0.1),
]
# Where rows of striking distance really move to their targets: what was forecast is compared with what they get.
MOVING = [*NULL[:6], World("gamma scatter, a tenth poor", gamma(6.0), poor=0.1), NULL[7]]
SMALL = [replace(world, name=f"{world.name}, small", rows=25) for world in NULL[:4]]
PLANTED = [replace(world, poor=0.03) for world in NULL]
CLICKED = [World("clicked rows only", lognormal(0.3), clicked_only=True), World("complete file", lognormal(0.3))]
