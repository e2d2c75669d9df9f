"""Worlds for clashes: two pages rank for one query without competing – in two countries, on two devices, or one replaced the
other – and pairs that do compete.
"""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np
import polars as pl

from worlds.lenses import curve

QUERIES = 60
DAYS = 91
FIRST = date(2026, 8, 17)
PHONE, DESKTOP = 2, 1
HERE, THERE = 250, 276
Rng = np.random.Generator
# Of each day, for each of two pages: impressions (of 1), and to whom.
Shown = np.ndarray
Turn = Callable[[Rng], tuple[Shown, Shown]]


def always(rng: Rng) -> tuple[Shown, Shown]:
    return np.ones(DAYS), np.full(DAYS, rng.uniform(0.6, 1.0))


def moved(overlap: int) -> Turn:
    """One page replaces the other on some day, after weeks with both."""

    def turn(rng: Rng) -> tuple[Shown, Shown]:
        at, day = int(rng.integers(25, 60)), np.arange(DAYS)
        return (day < at + overlap).astype(np.float64), (day >= at).astype(np.float64)

    return turn


def taking_turns(rng: Rng) -> tuple[Shown, Shown]:
    first = ((np.arange(DAYS) // int(rng.integers(4, 11))) % 2).astype(np.float64)
    return first, 1 - first


@dataclass(frozen=True)
class World:
    """`separated`: how the two pages split two devices or countries (of the first page's impressions, the share in its own)."""

    name: str
    turn: Turn
    fight: bool = False
    devices: bool = False
    countries: bool = False


@dataclass(frozen=True)
class Made:
    facts: pl.DataFrame
    people: pl.DataFrame


def make(world: World, seed: int) -> Made:
    rng = np.random.default_rng(seed)
    rows: list[tuple[date, int, int, int, int, float]] = []
    people: list[tuple[int, int, int, int, int]] = []
    for query in range(QUERIES):
        shown = rng.uniform(15, 120)
        places = rng.uniform(4.5, 9, 2)
        for number, share in enumerate(world.turn(rng)):
            page = 2 * query + number
            counts = rng.poisson(shown * share)
            at = np.maximum(places[number] * rng.lognormal(0, 0.1, DAYS), 1.0)
            clicks = rng.binomial(counts, curve(at))
            rows += [
                (FIRST + timedelta(days=day), page, query, int(clicks[day]), int(counts[day]), float(at[day]))
                for day in np.flatnonzero(counts).tolist()
            ]
            own = rng.uniform(0.85, 1.0) if world.devices or world.countries else 0.5
            own = own if number == 0 else 1 - own
            of_own = int(own * counts.sum())
            device = (PHONE, DESKTOP) if world.devices else (PHONE, PHONE)
            country = (HERE, THERE) if world.countries else (HERE, HERE)
            people += [
                (page, query, device[0], country[0], of_own),
                (page, query, device[1], country[1], int(counts.sum()) - of_own),
            ]
    kinds = {"day": pl.Date, "page": pl.UInt32, "query": pl.UInt32, "clicks": pl.UInt32, "impressions": pl.UInt32}
    facts = pl.DataFrame(rows, schema={**kinds, "position": pl.Float64}, orient="row")
    result = ["page", "query", "device", "country", "impressions"]
    return Made(facts, pl.DataFrame(people, schema=dict.fromkeys(result, pl.UInt32), orient="row"))


WORLDS = [
    World("a page for each of two countries", always, countries=True),
    World("a page for each of two devices", always, devices=True),
    World("a page moved", moved(0)),
    World("a page moved, three weeks of overlap", moved(21)),
    World("they take turns", taking_turns, fight=True),
    World("they share", always, fight=True),
]
