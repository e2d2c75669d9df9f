"""The lenses: which page × query rows each one shows, with expectation, evidence and what is at stake on them.

- low-ctr: rows clicked less than their positions explain. Evidence: lower tail of the gamma–Poisson.
- striking-distance: rows at positions 4 to 20 (common practice, no source). Evidence: the chance that the target
  position would bring no gain.
- outperformers: rows clicked more than their positions explain and not yet first. Evidence: upper tail.

All look at non-brand rows with at least `min_impressions`. The false discovery rate is controlled over all rows that a
lens tests, before any filter on what is shown: looking at fewer rows makes none of them surer.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np
import polars as pl

from zugzwang.core.click_curve import ClickCurve, added_up, expected_clicks, fit_click_curve
from zugzwang.core.evidence import false_discovery, grades, lower_tail, upper_tail
from zugzwang.core.facts import ROW, ctr, pair_key, sums
from zugzwang.core.headroom import Target, headroom

Lens = Literal["low-ctr", "striking-distance", "outperformers"]
LENSES: tuple[Lens, ...] = ("low-ctr", "striking-distance", "outperformers")
STRIKING_DISTANCE = (4.0, 20.0)


@dataclass(frozen=True)
class Appraisal:
    """All rows of a period beside the site's curve.

    `rows`: page, query, clicks, impressions, position, ctr, expected_clicks, branded. `curve`: fitted without brand.
    """

    rows: pl.DataFrame
    curve: ClickCurve


def appraise(facts: pl.DataFrame, branded: pl.Series, own_curve: ClickCurve | None = None) -> Appraisal:
    """Add daily facts up to rows and set the site's click curve beside them.

    `facts`: see core.facts, sorted or not. `branded`: ids of branded queries. Facts without impressions say nothing of
    position and are passed over.
    """
    daily = facts.filter(pl.col("impressions") > 0).with_columns(key=pair_key())
    rows = daily.group_by("key", maintain_order=True).agg(*sums())
    numbers = rows.select("key", row=pl.int_range(pl.len(), dtype=pl.UInt32))
    row = daily.select("key").join(numbers, on="key", how="left", maintain_order="left")["row"].to_numpy().astype(np.intp)
    position, clicks, shown = (daily[name].to_numpy() for name in ("position", "clicks", "impressions"))

    rows = rows.select(
        (pl.col("key") // 2**32).cast(pl.UInt32).alias("page"),
        (pl.col("key") % 2**32).cast(pl.UInt32).alias("query"),
        "clicks",
        "impressions",
        "position",
        ctr().alias("ctr"),
    ).with_columns(branded=pl.col("query").is_in(branded.implode()))
    curve = own_curve or _fit_without_brand(rows["branded"].to_numpy(), row, position, clicks, shown)
    expected = added_up(row, expected_clicks(curve, position, shown), rows.height)
    return Appraisal(rows.with_columns(expected_clicks=pl.Series(expected)), curve)


def _fit_without_brand(branded: np.ndarray, row: np.ndarray, *facts: np.ndarray) -> ClickCurve:
    position, clicks, shown = facts
    if not branded.any():
        return fit_click_curve(row, position, clicks, shown, rows=branded.size)
    number = np.cumsum(~branded) - 1
    kept = ~branded[row]
    return fit_click_curve(number[row[kept]], position[kept], clicks[kept], shown[kept], rows=int((~branded).sum()))


def look(appraisal: Appraisal, lens: Lens, min_impressions: int, target: Target = "next-band") -> pl.DataFrame:
    """The rows of a lens, most at stake first.

    Columns: page, query, clicks, impressions, ctr, position, expected_clicks, expected_ctr (0…1), shortfall, headroom and
    at_stake (clicks over the period), q_value (0…1), evidence (firm, likely, thin).
    """
    curve = appraisal.curve
    tested = appraisal.rows.filter(~pl.col("branded"), pl.col("impressions") >= min_impressions)
    if lens == "striking-distance":
        tested = tested.filter(pl.col("position").is_between(*STRIKING_DISTANCE))
    clicks, shown, position, expected = (
        tested[name].to_numpy() for name in ("clicks", "impressions", "position", "expected_clicks")
    )
    gain, no_gain = headroom(curve, position, clicks, shown, expected, target)
    if lens == "low-ctr":
        shows, p_values = clicks < expected, lower_tail(clicks, expected, curve.shape)
    elif lens == "outperformers":
        shows, p_values = (clicks > expected) & (np.rint(position) > 1), upper_tail(clicks, expected, curve.shape)
    else:
        shows, p_values = gain > 0, no_gain
    q_values = false_discovery(p_values)
    shortfall = expected - clicks
    return (
        tested.select(*ROW, "clicks", "impressions", "ctr", "position", "expected_clicks")
        .with_columns(
            expected_ctr=pl.col("expected_clicks") / pl.col("impressions"),
            shortfall=pl.Series(shortfall),
            headroom=pl.Series(gain),
            at_stake=pl.Series(np.maximum(shortfall, 0.0) + gain),
            q_value=pl.Series(q_values),
            evidence=pl.Series(grades(q_values), dtype=pl.Enum(["firm", "likely", "thin"])),
        )
        .filter(pl.Series(shows))
        .sort("at_stake", "impressions", *ROW, descending=[True, True, False, False])
    )
