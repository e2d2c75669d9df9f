"""A randomised test: similar units form pairs, and a random draw decides which of a pair is changed. This is the strongest
evidence there is.

Pairs: units sorted by size, two by two; of an odd number the smallest is left out. The draw is saved with its seed and can
be repeated.

The effect is the mean difference within pairs, adjusted for covariates, with slopes from the site's other units, so nothing
is fitted to the test itself (Deng, Xu, Kohavi & Walker 2013, WSDM: the variance falls by 1 − ρ²). Certainty: each pair
could have been drawn the other way; p is the share of draws with as large a difference – all of them up to LOTS, otherwise
a sample (Fisher 1935). The interval contains all effects that the test would not reject, widened by Student's t over the
normal for few pairs.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np
import scipy

from zugzwang.core.clicks.evidence import Floats
from zugzwang.core.trials.effect import POWER, SURE, predicted_by_controls
from zugzwang.core.trials.units import Units

PAIRS_LEAST = 6  # with fewer pairs, no result is significant at 5 %
LOTS = 4_096


@dataclass(frozen=True)
class SplitEffect:
    """`effect`, `low`, `high`: differences of outcomes; `lots`: the effects under other draws."""

    effect: float
    low: float
    high: float
    p_value: float
    lots: Floats


def pairs_of(units: Units) -> list[tuple[int, int]]:
    """Units in pairs of similar size."""
    order = np.lexsort((units.unit, -units.size))
    current = [int(one) for one in units.unit[order]]
    return list(zip(current[::2], current[1::2], strict=False))


def draw(pairs: Sequence[tuple[int, int]], seed: int) -> tuple[list[int], list[int]]:
    """Draw at random which of each pair is changed: (changed, unchanged).

    >>> draw([(1, 2), (3, 4)], 7) == draw([(1, 2), (3, 4)], 7)
    True
    """
    firsts = np.random.default_rng(seed).random(len(pairs)) < 0.5
    changed = [one if first else other for (one, other), first in zip(pairs, firsts, strict=True)]
    unchanged = [other if first else one for (one, other), first in zip(pairs, firsts, strict=True)]
    return changed, unchanged


def split_effect(
    units: Units, changed: Sequence[int], unchanged: Sequence[int], out: Sequence[int] = (), seed: int = 0
) -> SplitEffect | None:
    """The effect of a change to one of each pair; `out`: units left out of the prediction. None with fewer than PAIRS_LEAST
    pairs.
    """
    beyond = _beyond(units, [*changed, *unchanged], out)
    current = [(one, other) for one, other in zip(changed, unchanged, strict=True) if one in beyond and other in beyond]
    if len(current) < PAIRS_LEAST:
        return None
    index = {int(unit): at for at, unit in enumerate(units.unit)}
    first, second = (np.array([index[one] for one in side]) for side in zip(*current, strict=True))
    differences = np.array([beyond[one] - beyond[other] for one, other in current])
    weight = 1 / (units.counted[first] + units.counted[second])
    weight = weight / weight.sum()
    signs = _signs(len(current), np.random.default_rng(seed))
    found = float(weight @ differences)
    lots = signs @ (weight * differences)
    p_value = (
        float((np.abs(lots) >= abs(found) - 1e-12).mean())
        if len(signs) == 2 ** len(current)
        else float((1 + (np.abs(lots) >= abs(found) - 1e-12).sum()) / (1 + len(signs)))
    )
    around = signs @ (weight * (differences - found)) * _few(weight)
    low, high = np.quantile(around, (SURE / 2, 1 - SURE / 2)).tolist()
    return SplitEffect(found, found - high, found - low, p_value, lots)


def _beyond(units: Units, wanted: Sequence[int], out: Sequence[int]) -> dict[int, float]:
    """The residual of each wanted unit's outcome from the prediction of the site's other units; with few others, from its own
    earlier outcome.
    """
    predicted = predicted_by_controls(units, wanted, out)
    if predicted is not None:
        return dict(zip(predicted.unit.tolist(), predicted.beyond.tolist(), strict=True))
    known = np.isin(units.unit, list(wanted))
    return dict(zip(units.unit[known].tolist(), (units.answers - units.covariates[:, 0])[known].tolist(), strict=True))


def _signs(pairs: int, rng: np.random.Generator) -> Floats:
    """The possible draws: all of them where there are few enough, otherwise a sample."""
    if 2**pairs <= LOTS:
        return np.array(list(product((1.0, -1.0), repeat=pairs)))
    return rng.choice((1.0, -1.0), (LOTS, pairs))


def _few(weight: Floats) -> float:
    """The factor that widens the interval: the mean is estimated, and few pairs estimate their scatter poorly."""
    pairs = 1 / float((weight**2).sum())
    return float(np.sqrt(pairs / (pairs - 1)) * scipy.stats.t.ppf(1 - SURE / 2, pairs - 1) / scipy.stats.norm.ppf(1 - SURE / 2))


def smallest_visible_by_lot(
    units: Units, changed: Sequence[int], unchanged: Sequence[int], out: Sequence[int] = ()
) -> float | None:
    """The smallest rise significant in four of five cases, from the scatter of the site's other units in weeks without
    changes. None where units or pairs are too few.
    """
    predicted = predicted_by_controls(units, [*changed, *unchanged], out)
    if predicted is None or len(changed) < PAIRS_LEAST:
        return None
    scale = dict(zip(predicted.unit.tolist(), predicted.scale.tolist(), strict=True))
    current = [
        scale[one] ** 2 + scale[other] ** 2
        for one, other in zip(changed, unchanged, strict=True)
        if {one, other} <= scale.keys()
    ]
    if len(current) < PAIRS_LEAST:
        return None
    weight = 1 / np.array(current)
    error, pairs = 1 / np.sqrt(weight.sum()), float(weight.sum() ** 2 / (weight**2).sum())
    return float(error * (scipy.stats.t.ppf(1 - SURE / 2, pairs - 1) + scipy.stats.t.ppf(POWER, pairs - 1)))
