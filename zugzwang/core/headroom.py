"""Headroom: the clicks that a better rank would bring.

headroom(t) = max(0, D·μ(t)·s − max(k, E)), with target position t, demand D = n impressions and the row's own click
strength s = (k + r) / (E + r) (its gamma posterior mean), or 1 for a row below the curve: what a better title would
bring is its shortfall and must not be counted again here.

Worked: n = 1,000 at position 5, μ(5) = 0.06, μ(3) = 0.11, k = 60 = E: s = 1, headroom to third = 110 − 60 = 50 clicks.
"""

from typing import Literal

import numpy as np

from zugzwang.core.click_curve import ClickCurve
from zugzwang.core.evidence import Counts, Floats, lower_tail

Target = Literal["next-band", "third", "first", "three-up"]
TARGETS: tuple[Target, ...] = ("next-band", "third", "first", "three-up")
PLACES_UP = 3.0


def target_position(position: Floats, target: Target) -> Floats:
    """The position to reach for; never worse than the one held.

    The next band up: 21 and beyond → 20, 11–20 → 10, 4–10 → 3, 2–3 → 1, by the rounded position.
    """
    if target == "next-band":
        place = np.rint(position)
        reached = np.select([place > 20, place > 10, place > 3], [20.0, 10.0, 3.0], 1.0)
    elif target == "three-up":
        reached = np.maximum(position - PLACES_UP, 1.0)
    else:
        reached = np.full_like(position, 1.0 if target == "first" else 3.0)
    return np.asarray(np.minimum(reached, position))


def click_strength(clicks: Counts, expected: Floats, shape: float) -> Floats:
    """How much better than the curve a row is clicked, shrunk towards 1; 1 for a row below the curve."""
    return np.maximum((clicks + shape) / (expected + shape), np.float64(1.0))


def headroom(
    curve: ClickCurve, position: Floats, clicks: Counts, impressions: Counts, expected: Floats, target: Target
) -> tuple[Floats, Floats]:
    """Clicks over the period that the target position would bring, and the chance that it would bring none.

    The chance is the gamma–Poisson posterior predictive P(clicks at the target ≤ max(k, E)), with mean D·μ(t)·s and shape
    k + r: what the row's own clicks leave uncertain. It is the p-value of the striking-distance lens.
    """
    there = impressions * curve(target_position(position, target)) * click_strength(clicks, expected, curve.shape)
    now = np.maximum(clicks, expected)
    no_gain = lower_tail(np.ceil(now).astype(np.int64), np.maximum(there, 1e-12), clicks.astype(np.float64) + curve.shape)
    return np.maximum(there - now, 0.0), no_gain
