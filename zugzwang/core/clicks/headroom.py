"""Headroom: the clicks that a better rank would add. Columns call it potential.

headroom(t) = max(0, D·μ(t)·s − E·s), with target position t, demand D (n impressions, see `demand`) and the row's own
click strength s = (k + r) / (E + r) (its gamma posterior mean), below as well as above the curve: a result that gets half
the usual clicks at 8 will at 3 too. What a better title would add is the row's shortfall and is not counted again here.

Example: n = 1,000 at position 5, μ(5) = 0.06, μ(3) = 0.11, k = 60 = E: s = 1, headroom to third = 110 − 60 = 50 clicks.
"""

from collections.abc import Mapping
from typing import Literal

import numpy as np

from zugzwang.core.clicks.device_curves import Curves
from zugzwang.core.clicks.evidence import Counts, Floats, low_point, lower_tail, usual_factors

Target = Literal["next-band", "third", "first", "three-up", "within-strength"]
PLACES_UP = 3.0
PAGE_ONE = 10.0
SEARCHES_MOST = 5.0  # the most that search volume may raise the demand, times own impressions; own choice
CURVE_UNSURE = 0.10  # relative standard deviation of the curve itself at a target


def target_position(position: Floats, target: Target, within_strength: Floats | None = None) -> Floats:
    """The position to aim for, never worse than the current one. `within_strength`: the best position that the page's
    referring domains allow (core.results.above), NaN where unknown: such a row has no target then.

    The next band up: 11–20 → 10, 4–10 → 3, by rounded position. A row at 2 or 3 has a target only on request: the curve
    from 2 to 1 is steep and poorly known, and first place is rarely attainable. Rows beyond 20 have none.
    """
    if target == "next-band":
        rank = np.rint(position)
        reached = np.select([rank > 20, rank > 10, rank > 3], [position, 10.0, 3.0], position)
    elif target == "three-up":
        reached = np.maximum(position - PLACES_UP, 1.0)
    elif target == "within-strength":
        known = np.full_like(position, np.nan) if within_strength is None else within_strength
        reached = np.where(np.isnan(known), position, known)
    else:
        reached = np.full_like(position, 1.0 if target == "first" else 3.0)
    return np.asarray(np.minimum(reached, position))


def click_strength(clicks: Counts, expected: Floats, shape: Floats) -> Floats:
    """How much better or worse than the curve a row is clicked, shrunk towards 1; capped at the site's best tenth of rows."""
    return np.minimum((clicks + shape) / (expected + shape), usual_factors(shape)[1])


def clicks_now(clicks: Counts, expected: Floats, shape: Floats) -> Floats:
    """The clicks that a row's own strength brings at its position, E·s: what its clicks would be without this period's chance.
    A gain is over these, so the row's strength is on both sides; at the target it is capped (click_strength), here it is not.

    Example: 45 clicks of 60 expected, r = 6: 60 · 51/66 = 46.4.
    """
    return np.asarray(expected * (clicks + shape) / (expected + shape))


def demand(impressions: Counts, position: Floats, searches: Floats | None) -> Floats:
    """The possible impressions, n or more: beyond page one few people see a result, and its impressions understate the demand.
    There the period's search volume counts where it is known (`searches`: one a row, NaN where not) and larger, up to
    SEARCHES_MOST times the impressions: measurements of the site outrank others' estimates.

    Example: 90 impressions at 14 of a query searched 100 times a month, over 3 months: 300; searched 400 times: 450, not
    1,200; at position 7: 90.
    """
    shown = impressions.astype(np.float64)
    if searches is None:
        return shown
    return np.where(position > PAGE_ONE, np.fmax(shown, np.minimum(searches, SEARCHES_MOST * shown)), shown)


def at_target(
    curves: Curves,
    clicks: Counts,
    impressions: Counts,
    expected: Floats,
    shape: Floats,
    target: Floats,
    shown_on: Mapping[int, Counts] | None = None,
) -> Floats:
    """The clicks that each row would get at its target position from its current impressions, n·μ(t)·s. `shown_on`: see
    Curves.earned_at.
    """
    earned = curves.earned_at(target, impressions, shown_on or {})
    return np.asarray(earned * click_strength(clicks, expected, shape))


def headroom(there: Floats, clicks: Counts, expected: Floats, shape: Floats) -> tuple[Floats, Floats]:
    """The clicks over the period that a target position would add, and the probability that it adds none.

    `there`: see at_target and demand. The probability is the gamma–Poisson posterior predictive P(clicks at the target ≤
    E·s), with mean `there` and the shape of `sureness`. It is the p-value of striking-distance, where it uses the row's own
    impressions only.
    """
    now = clicks_now(clicks, expected, shape)
    no_gain = lower_tail(np.ceil(now).astype(np.int64), np.maximum(there, 1e-12), sureness(clicks, shape))
    return np.maximum(there - now, 0.0), no_gain


def sureness(clicks: Counts, shape: Floats) -> Floats:
    """The shape of the prediction at the target: k + r for the uncertainty of the row's own clicks, reduced because the curve
    itself is known to about 10 %. Squared coefficients of variation add up: 1/(k + r) + 0.1².
    """
    return 1.0 / (1.0 / (clicks + shape) + CURVE_UNSURE**2)


def cautious_headroom(there: Floats, clicks: Counts, expected: Floats, shape: Floats) -> Floats:
    """A cautious headroom, reached by nine of ten such rows: the 10 % point of the posterior predictive clicks at the target,
    minus the current clicks; 0 where the row has too few clicks of its own.

    Example: 60 clicks, 110 expected at the target, r = 6: shape 1/(1/66 + 0.01) = 39.8, 10 % point of the gamma–Poisson 85:
    85 − 60 = 25 clicks.
    """
    low = low_point(np.maximum(there, 1e-12), sureness(clicks, shape))
    return np.maximum(low - clicks_now(clicks, expected, shape), 0.0)
