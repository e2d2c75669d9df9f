"""A planted site: rows scatter by a factor around a known curve, ranks drift, and some are poor on purpose."""

from dataclasses import dataclass
from datetime import date

import numpy as np
import polars as pl

from zugzwang.core.facts.search import SCHEMA

DAYS = 91
FIRST_DAY = date(2026, 8, 17)


def true_curve(position: np.ndarray) -> np.ndarray:
    """0.3·p^-1.05 on page one, and a third less beyond it."""
    return 0.3 * position**-1.05 * np.where(position < 10.5, 1.0, 0.67)


@dataclass(frozen=True)
class PlantedSite:
    facts: pl.DataFrame
    poor: set[int]  # query ids clicked at a tenth of what their positions would earn
    giant: int  # of these, the one that is shown more than all others of its position together
    movers: set[int]  # a third of the days at 4, the rest at 30; nothing wrong with them


def planted_site(seed: int = 7, queries: int = 2500, poor: int = 40, movers: int = 60, shape: float = 6.0) -> PlantedSite:
    """One page for each query. Impressions are heavy-tailed, ranks drift, demand varies by weekday."""
    rng = np.random.default_rng(seed)
    home = np.exp(rng.uniform(0, np.log(45), queries))
    daily_shown = np.clip(rng.pareto(1.1, queries) * 4 + 1, 1, 400)
    factor = rng.gamma(shape, 1 / shape, queries)
    poor_ids = rng.choice(np.flatnonzero(home < 12), poor, replace=False)
    daily_shown[poor_ids] = np.maximum(daily_shown[poor_ids], 30)
    factor[poor_ids] = 0.1
    giant = int(poor_ids[0])
    home[giant], daily_shown[giant], factor[giant] = 4.6, 2500.0, 0.01
    others = np.setdiff1d(np.arange(queries), poor_ids)
    mover_ids = rng.choice(others, movers, replace=False)
    daily_shown[mover_ids] = np.maximum(daily_shown[mover_ids], 40)

    day = np.tile(np.arange(DAYS), queries)
    query = np.repeat(np.arange(queries), DAYS)
    position = home[query] * rng.lognormal(0, 0.08, query.size)
    moving = np.isin(query, mover_ids)
    position[moving] = np.where(day[moving] < 30, 4.0, 30.0) * rng.lognormal(0, 0.05, moving.sum())
    position = np.clip(position.round(1), 1, 100)
    weekday = np.where(day % 7 >= 5, 0.7, 1.1)
    impressions = rng.poisson(daily_shown[query] * weekday)
    clicks = rng.binomial(impressions, np.minimum(true_curve(position) * factor[query], 0.95))
    facts = pl.DataFrame(
        {
            "day": np.datetime64(FIRST_DAY) + day,
            "page": query,
            "query": query,
            "clicks": clicks,
            "impressions": impressions,
            "position": position,
        }
    ).filter(pl.col("impressions") > 0)
    return PlantedSite(facts.cast(pl.Schema(SCHEMA)), set(poor_ids.tolist()), giant, set(mover_ids.tolist()))
