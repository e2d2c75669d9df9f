"""The units of a test: pages or rows, their figures before and after, and their usual figures.

Effects are reported as ratios. So a unit's outcome is a logarithm: of its clicks after, of impressions, of its CTR;
position is used as it is. The covariates are its figures before, its usual figures in the twelve weeks before those, its
distance below the site's click curve, and its change in the same weeks a year earlier. A page picked because it was low,
had fallen, or is near its season recovers by itself, as similar pages do.
"""

from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
import polars as pl

from zugzwang.core.clicks.evidence import Floats

Measure = Literal["clicks", "impressions", "ctr", "position"]
MEASURES: tuple[Measure, ...] = get_args(Measure)
Design = Literal["before-after", "randomised"]
DESIGNS: tuple[Design, ...] = get_args(Design)
SIDES = ("usual", "before", "after", "year_before", "year_after")
HALF = 0.5
OWN_SCATTER = 0.05  # squared, of logarithms: monthly variation of a unit beyond counting noise


@dataclass(frozen=True)
class Units:
    """Units as arrays. `answers`: outcomes, one a unit; `given`: covariates (units × covariates); `counted`: the approximate
    counting variance of an outcome; `size`: the basis for similarity.
    """

    unit: np.ndarray
    answers: Floats
    covariates: Floats
    counted: Floats
    size: Floats


def compared_units(sides: pl.DataFrame, measure: Measure, share_of_usual: float, randomised: bool = False) -> Units:
    """The units of a comparison. `sides`: unit and, for each of SIDES, clicks_…, impressions_…, position_… (null where those
    days are not loaded), and expected_before (clicks by the site's curve; null: unknown). `share_of_usual`: days before
    divided by the usual days. Their own season is removed, unless `randomised`: both halves share it, and it is one more
    covariate.
    """
    if measure == "position":
        return _positions(sides)
    counts = {side: _counts(sides, side, "impressions" if measure == "impressions" else "clicks") for side in SIDES}
    shown = {side: _counts(sides, side, "impressions") for side in SIDES}
    before, after, usual = counts["before"], counts["after"], counts["usual"] * share_of_usual
    reference = np.where(np.isnan(usual), before, usual)
    level = (before + reference) / 2
    answers, own = np.log(after + HALF), np.log(before + HALF)
    if measure == "ctr":
        per = [np.log(shown[side] + 1) for side in ("after", "before")]
        answers, own = answers - per[0], own - per[1]
        usually = np.log(reference + HALF) - np.log(
            np.where(np.isnan(usual), shown["before"], shown["usual"] * share_of_usual) + 1
        )
    else:
        usually = np.log(reference + HALF)
    expected = sides["expected_before"].cast(pl.Float64).fill_null(float("nan")).to_numpy() if measure == "clicks" else None
    below = own - np.log(expected + HALF) if expected is not None else np.zeros(before.size)
    season, doubt = _season(counts["year_before"], counts["year_after"])
    if measure == "ctr" and season.any():
        # Clicks move with impressions: the rest is the CTR's own season.
        season = season - _moved(shown["year_before"], shown["year_after"])
    values = np.column_stack([own, usually - own, np.nan_to_num(below)])
    counted = 1 / (level + HALF) + OWN_SCATTER
    if randomised:
        values = np.column_stack([values, season])
    else:
        answers, counted = answers - season, counted + doubt
    return Units(sides["unit"].to_numpy(), answers, values, counted, np.log(level + HALF))


def _counts(sides: pl.DataFrame, side: str, name: str) -> Floats:
    """Counts of a side; NaN where it is not loaded, 0 where a unit is absent."""
    column = sides[f"{name}_{side}"].cast(pl.Float64)
    if column.null_count() == column.len() and side not in ("before", "after"):
        return np.full(column.len(), np.nan)
    return column.fill_null(0.0).to_numpy()


def _season(then: Floats, then_after: Floats) -> tuple[Floats, Floats]:
    """The log ratio by which each unit moved a year earlier relative to the others, and its variance."""
    if np.isnan(then).any() or np.isnan(then_after).any() or not then.sum() or not then_after.sum():
        return np.zeros(then.size), np.zeros(then.size)
    tells = 1 / (1 / (then + HALF) + 1 / (then_after + HALF))
    return _moved(then, then_after), 1 / tells + 2 * OWN_SCATTER


def _moved(then: Floats, then_after: Floats) -> Floats:
    """The log ratio by which each unit moved relative to all together."""
    return np.asarray(np.log((then_after + HALF) / (then + HALF)) - np.log(then_after.sum() / then.sum()))


def _positions(sides: pl.DataFrame) -> Units:
    """Positions, where smaller is better; units without impressions on both sides are left out."""
    rows = sides.filter(pl.col("position_before").is_not_null() & pl.col("position_after").is_not_null())
    before, after = (rows[f"position_{side}"].to_numpy() for side in ("before", "after"))
    usual = rows["position_usual"].cast(pl.Float64).fill_null(float("nan")).to_numpy()
    shown = rows["impressions_before"].cast(pl.Float64).fill_null(0.0).to_numpy()
    values = np.column_stack([before, np.where(np.isnan(usual), 0.0, usual - before)])
    return Units(rows["unit"].to_numpy(), after, values, 1 / (shown + HALF) + OWN_SCATTER, np.log(before))
