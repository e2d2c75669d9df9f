"""Tests on the sites of worlds.outcomes: without effect, or with an effect of the detectable size, computed from other four
weeks.
"""

from collections.abc import Callable

import numpy as np
import polars as pl

from worlds.outcomes import Made, World, make
from zugzwang.core.trials.effect import Effect, effect, smallest_visible
from zugzwang.core.trials.split import SplitEffect, draw, pairs_of, smallest_visible_by_lot, split_effect
from zugzwang.core.trials.units import SIDES, Units, compared_units


def sides_of(made: Made, raised: dict[int, float] | None = None) -> pl.DataFrame:
    """Each page's two sides; the clicks after of some multiplied by a factor."""
    frames = dict(zip(SIDES, (made.earlier, made.before, made.after, *made.year_before), strict=True))
    rows = made.before.select("unit")
    for side, frame in frames.items():
        named = frame.rename({name: f"{name}_{side}" for name in ("clicks", "impressions", "position")})
        rows = rows.join(named, on="unit", how="left", maintain_order="left")
    ctr = float(made.before["clicks"].sum()) / float(made.before["impressions"].sum())
    factor = pl.Series([(raised or {}).get(unit, 1.0) for unit in rows["unit"]])
    clicks = (pl.col("clicks_after") * factor).round().cast(pl.Int64)
    return rows.with_columns(
        expected_before=pl.col("impressions_before") * ctr,
        clicks_after=clicks,
    )


Tried = Callable[[World, int, int, float], tuple[Effect | SplitEffect, float]]


def beside_the_untouched(world: World, seed: int, number: int, raised: float) -> tuple[Effect, float]:
    """A test on some of the selected pages, and the detectable effect, computed from other four weeks."""
    made, then = make(world, seed), make(world, 10_000 + seed)
    changed, before = (np.random.default_rng(seed).permutation(one.picked)[:number].tolist() for one in (made, then))
    visible = smallest_visible(compared_units(sides_of(then), "clicks", 1 / 3), before) or 0.0
    factor = {unit: float(np.exp(visible if raised else 0.0)) for unit in changed}
    found = effect(compared_units(sides_of(made, factor), "clicks", 1 / 3), changed, seed=seed)
    assert found is not None
    return found, visible if raised else 0.0


def randomised(world: World, seed: int, number: int, raised: float) -> tuple[SplitEffect, float]:
    made, then = make(world, seed), make(world, 10_000 + seed)
    drawn = []
    for one in (made, then):
        units = compared_units(sides_of(one), "clicks", 1 / 3, randomised=True)
        known = np.isin(units.unit, one.picked[:number])
        current = Units(
            units.unit[known], units.answers[known], units.covariates[known], units.counted[known], units.size[known]
        )
        drawn.append((units, *draw(pairs_of(current), seed)))
    visible = smallest_visible_by_lot(*drawn[1]) or 0.0
    _, changed, unchanged = drawn[0]
    factor = {unit: float(np.exp(visible if raised else 0.0)) for unit in changed}
    found = split_effect(
        compared_units(sides_of(made, factor), "clicks", 1 / 3, randomised=True), changed, unchanged, seed=seed
    )
    assert found is not None
    return found, visible if raised else 0.0
