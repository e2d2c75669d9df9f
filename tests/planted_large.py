"""A planted site of 520 pages and 65 weeks: season, weekdays, drifting ranks, scatter; and planted rows with a low CTR,
clashes of each kind, a cliff of five pages, and falls of demand, rank and snippet.
"""

from dataclasses import dataclass
from datetime import date

import numpy as np
import polars as pl

from tests.planted import true_curve
from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.search import SCHEMA

WEEKS, FIRST_DAY = 65, date(2025, 8, 18)
DAYS = 7 * WEEKS
PERIOD = Period(date(2026, 8, 17), date(2026, 11, 15))
BEFORE = PERIOD.shifted(-364)
PAGES, QUERIES_A_PAGE, SHAPE = 520, 6, 6.0
CLIFF_WEEK, FALL_DAY = 45, 300
CLIFF = range(5)
FALLS = {"shown": range(10, 25), "rank": range(25, 40), "snippet": range(40, 55)}
KINDS = ("alternating", "split", "double listing", "hardly shown")
CLASHES_A_KIND = 15


@dataclass(frozen=True)
class LargeSite:
    facts: pl.DataFrame
    poor: set[int]  # queries clicked at a tenth of what their positions earn
    kinds: dict[int, str]  # query → the kind of clash, or "hardly shown", that was planted

    def of(self, period: Period) -> pl.DataFrame:
        return self.facts.filter(pl.col("day").is_between(period.first, period.last))


def large_site(seed: int) -> LargeSite:
    rng = np.random.default_rng(seed)
    pairs = PAGES * QUERIES_A_PAGE
    page, query = np.repeat(np.arange(PAGES), QUERIES_A_PAGE), np.arange(pairs)
    home = np.exp(rng.uniform(0, np.log(40), pairs))
    shown = np.clip(rng.pareto(1.1, pairs) * 5 + 1, 1, 300)
    factor = rng.gamma(SHAPE, 1 / SHAPE, pairs)
    planted_pages = np.isin(page, [*CLIFF, *(one for pages in FALLS.values() for one in pages)])
    home[planted_pages], shown[planted_pages] = rng.uniform(2, 8, planted_pages.sum()), rng.uniform(15, 80, planted_pages.sum())
    poor = rng.choice(np.flatnonzero((home < 9) & ~planted_pages), 40, replace=False)
    shown[poor], factor[poor] = np.maximum(shown[poor], 60), 0.1
    clashes = np.arange(pairs, pairs + len(KINDS) * CLASHES_A_KIND)
    kinds = {int(one): KINDS[number % len(KINDS)] for number, one in enumerate(clashes)}

    # Two pages for each query that clashes, among those where nothing else is planted.
    free = np.arange(60, PAGES)
    page = np.concatenate([page, *(rng.choice(free, 2, replace=False) for _ in clashes)])
    query = np.concatenate([query, np.repeat(clashes, 2)])
    at = {"alternating": (6.0, 7.5), "split": (6.0, 7.0), "double listing": (1.3, 5.0), "hardly shown": (5.0, 30.0)}
    home = np.concatenate([home, *(np.array(at[kind]) * rng.uniform(0.85, 1.15) for kind in kinds.values())])
    weak = {"split": 0.85, "hardly shown": 0.04}
    level = rng.uniform(20, 120, clashes.size)
    shown = np.concatenate(
        [shown, *((one, one * weak.get(kind, 1.0)) for one, kind in zip(level, kinds.values(), strict=True))]
    )
    factor = np.concatenate([factor, rng.gamma(SHAPE, 1 / SHAPE, 2 * clashes.size)])
    return LargeSite(_facts(rng, page, query, home, shown, factor, kinds), set(poor.tolist()), kinds)


def _facts(rng, page, query, home, shown, factor, kinds) -> pl.DataFrame:  # type: ignore[no-untyped-def]
    day = np.arange(DAYS)
    season = np.exp(0.5 * np.cos(2 * np.pi * (day - 300) / 365.25)) * np.where(day % 7 >= 5, 0.7, 1.1)
    mean = shown[:, None] * season[None, :] * rng.lognormal(0, 0.1, (page.size, DAYS))
    position = home[:, None] * rng.lognormal(0, 0.08, (page.size, DAYS))
    strength = np.repeat(factor[:, None], DAYS, axis=1)
    mean[np.isin(page, CLIFF), 7 * CLIFF_WEEK :] *= 0.3
    mean[np.isin(page, FALLS["shown"]), FALL_DAY:] *= 0.4
    position[np.isin(page, FALLS["rank"]), FALL_DAY:] *= 2.3
    strength[np.isin(page, FALLS["snippet"]), FALL_DAY:] *= 0.4
    for first in range(PAGES * QUERIES_A_PAGE, page.size, 2):
        if kinds[int(query[first])] == "alternating":
            turn = (day // int(rng.integers(5, 11))) % 2 == 0
            mean[first, ~turn], mean[first + 1, turn] = 0, 0
    impressions = rng.poisson(mean)
    position = np.clip(position, 1, 100).round(1)
    clicks = rng.binomial(impressions, np.minimum(true_curve(position) * strength, 0.95))
    seen = impressions > 0
    columns = {
        "day": np.datetime64(FIRST_DAY) + np.broadcast_to(day, seen.shape)[seen],
        "page": np.broadcast_to(page[:, None], seen.shape)[seen],
        "query": np.broadcast_to(query[:, None], seen.shape)[seen],
        "clicks": clicks[seen],
        "impressions": impressions[seen],
        "position": position[seen],
    }
    return pl.DataFrame(columns).cast(dict(SCHEMA))
