"""The effect of a change on test units compared with control units, before and after.

The outcome of each unit is predicted from control units of its size: a weighted regression of their outcomes on covariates
(core.trials.units), within a window of the NEIGHBOURS nearest in size. The residual is the unit's effect; the effect of the
change is their weighted mean. Control units are predicted likewise, each without itself.

Certainty: the change is assigned to controls instead – to a neighbour of each test unit, drawn at random, many times – and
the effect is compared with these placebo effects (Fisher 1935, The Design of Experiments, chapter 2: four of four cups
right by chance is 1 in 70). p = 2 · (1 + placebo effects as large, in its direction) / (1 + placebos), at most 1. The
interval contains all effects that this test would not reject: the effect minus the upper and lower 2.5 % of the placebos.

Smallest detectable effect: the smallest rise that is significant at 5 % in four of five cases, from placebo effects of
earlier weeks.

Example: 280 clicks before, 420 after; 200 similar pages fell by a tenth: 252 were expected, the effect is 420/252 = 1.67.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zugzwang.core.clicks.evidence import Floats
from zugzwang.core.trials.units import Units

NEIGHBOURS = 200
UNTOUCHED_LEAST = 30
PLACED = 4_000
SURE, POWER = 0.05, 0.8
RIDGE = 1e-3
Ints = npt.NDArray[np.intp]


@dataclass(frozen=True)
class Effect:
    """`effect`, `low`, `high`: differences of outcomes (logarithms of ratios; positions as they are). `placed`: the placebo
    effects. `unchanged`: the number of control units.
    """

    effect: float
    low: float
    high: float
    p_value: float
    placed: Floats
    controls: int


def effect(units: Units, changed: Sequence[int], out: Sequence[int] = (), seed: int = 0) -> Effect | None:
    """The effect of a change on the units `changed`; units in `out` are neither test nor control units. None where fewer than
    UNTOUCHED_LEAST controls are left, or no test unit is known.
    """
    predicted = predicted_by_controls(units, changed, out)
    if predicted is None:
        return None
    weight = 1 / predicted.scale**2
    weight /= weight.sum()
    found = float(weight @ predicted.beyond)
    placed = _placed(predicted, weight, np.random.default_rng(seed)) * _shared_doubt(predicted, weight)
    p_value = min(2 * (1 + as_far(found, placed)) / (1 + placed.size), 1.0)
    low, high = np.quantile(placed, (SURE / 2, 1 - SURE / 2)).tolist()
    return Effect(found, found - high, found - low, p_value, placed, predicted.controls)


def as_far(found: float, placed: Floats) -> int:
    """The number of placebo effects at least as large, in the same direction."""
    return int(((placed >= found - 1e-12) if found >= 0 else (placed <= found + 1e-12)).sum())


def smallest_visible(units: Units, changed: Sequence[int], out: Sequence[int] = (), seed: int = 0) -> float | None:
    """The smallest significant rise (a difference of outcomes), from weeks without changes."""
    found = effect(units, changed, out, seed)
    if found is None:
        return None
    bound = float(np.quantile(np.abs(found.placed), 1 - SURE))
    return bound - float(np.quantile(found.placed, 1 - POWER))


@dataclass(frozen=True)
class Prediction:
    """For test units: residuals, their scale and noise, and the leverage of their window. For controls, in order of size:
    scaled residuals (`neighbours`), weights and covariates. `first`, `last`: the window of neighbours of each test unit.
    """

    unit: np.ndarray
    beyond: Floats
    scale: Floats
    noise: Floats
    leverage: Floats
    neighbours: Floats
    weight: Floats
    covariates: Floats
    first: Ints
    last: Ints
    controls: int


def predicted_by_controls(units: Units, changed: Sequence[int], out: Sequence[int]) -> Prediction | None:
    """Predictions of test units from controls; None where controls are too few, or no test unit is known."""
    is_changed = np.isin(units.unit, list(changed))
    free = ~is_changed & ~np.isin(units.unit, list(out))
    if free.sum() < UNTOUCHED_LEAST or not is_changed.any():
        return None
    order = np.flatnonzero(free)[np.argsort(units.size[free], kind="stable")]
    values = np.column_stack([np.ones(order.size), units.covariates[order]])
    answers, weight, sizes = units.answers[order], 1 / units.counted[order], units.size[order]
    sums = _Sums(values, answers, weight)
    # Each control is predicted by its window without itself.
    first, last = _windows(sizes, sizes)
    beyond, spread = sums.beyond(values, answers, first, last, without=np.arange(order.size))
    squares = np.concatenate([[0.0], np.cumsum(beyond**2 / (units.counted[order] + spread))])
    noise = np.maximum((squares[last] - squares[first]) / (last - first), 1e-9)
    scaled = beyond / np.sqrt(noise * (units.counted[order] + spread))
    own = np.flatnonzero(is_changed)
    first, last = _windows(sizes, units.size[own])
    own_covariates = np.column_stack([np.ones(own.size), units.covariates[own]])
    own_beyond, _ = sums.beyond(own_covariates, units.answers[own], first, last)
    own_noise = np.maximum((squares[last] - squares[first]) / (last - first), 1e-9)
    scale = np.sqrt(own_noise * units.counted[own])
    leverage = sums.leverage(own_covariates, first, last)
    result = sums.centred(values)
    return Prediction(
        units.unit[own],
        own_beyond,
        scale,
        own_noise,
        leverage,
        scaled,
        weight,
        result,
        first,
        last,
        int(order.size),
    )


def _windows(sizes: Floats, wanted: Floats) -> tuple[Ints, Ints]:
    """The windows of NEIGHBOURS sizes (sorted) around each wanted one; smaller where there are fewer."""
    width = min(NEIGHBOURS, sizes.size)
    first = np.clip(np.searchsorted(sizes, wanted) - width // 2, 0, sizes.size - width)
    return first, first + width


class _Sums:
    """Sums of a weighted regression over any window, from cumulative sums."""

    def __init__(self, values: Floats, answers: Floats, weight: Floats) -> None:
        self.middle = np.average(values[:, 1:], axis=0, weights=weight) if values.shape[1] > 1 else np.zeros(0)
        self.answer = float(np.average(answers, weights=weight))
        current = self.centred(values)
        self.ridge = RIDGE * np.diag([0.0, *np.ones(current.shape[1] - 1)])
        self.own = np.einsum("n,ni,nj->nij", weight, current, current)
        self.own_answers = weight[:, None] * current * (answers - self.answer)[:, None]
        self.products = np.concatenate([np.zeros((1, *self.own.shape[1:])), np.cumsum(self.own, axis=0)])
        self.with_answers = np.concatenate([np.zeros((1, current.shape[1])), np.cumsum(self.own_answers, axis=0)])

    def centred(self, values: Floats) -> Floats:
        """Centred, so cumulative sums keep their precision."""
        return np.column_stack([values[:, 0], values[:, 1:] - self.middle])

    def leverage(self, values: Floats, first: Ints, last: Ints) -> Floats:
        """The prediction is a sum over the window: outcome · weight · (covariates · leverage)."""
        products = self.products[last] - self.products[first] + self.ridge
        return np.asarray(np.linalg.solve(products, self.centred(values)[:, :, None])[:, :, 0])

    def beyond(
        self, values: Floats, answers: Floats, first: Ints, last: Ints, without: Ints | None = None
    ) -> tuple[Floats, Floats]:
        """The residual of each outcome from its window's prediction, and the variance of the prediction, in units of noise."""
        current = self.centred(values)
        products = self.products[last] - self.products[first]
        sums = self.with_answers[last] - self.with_answers[first]
        if without is not None:
            products, sums = products - self.own[without], sums - self.own_answers[without]
        products = products + self.ridge
        slopes = np.linalg.solve(products, sums[:, :, None])[:, :, 0]
        spread = np.einsum("ni,ni->n", current, np.linalg.solve(products, current[:, :, None])[:, :, 0])
        return answers - self.answer - np.einsum("ni,ni->n", current, slopes), spread


def _shared_doubt(predicted: Prediction, weight: Floats) -> float:
    """How much more the effect varies than a placebo: test units may differ from their neighbours in common (all had fallen,
    say), and the prediction is then wrong for all of them at once.
    """
    leverage = np.zeros((predicted.controls + 1, predicted.leverage.shape[1]))
    np.add.at(leverage, predicted.first, weight[:, None] * predicted.leverage)
    np.add.at(leverage, predicted.last, -weight[:, None] * predicted.leverage)
    # The weight of each control's outcome in the predictions of all test units together.
    counts = predicted.weight * np.einsum("ni,ni->n", np.cumsum(leverage, axis=0)[:-1], predicted.covariates)
    shared = float((counts**2 / predicted.weight).sum()) * float(np.average(predicted.noise, weights=weight))
    return float(np.sqrt(1 + shared / float((weight**2) @ predicted.scale**2)))


def _placed(predicted: Prediction, weight: Floats, rng: np.random.Generator) -> Floats:
    """The placebo effects of assigning the change to neighbours. With one test unit, each neighbour is used once."""
    if predicted.beyond.size == 1:
        return np.asarray(predicted.scale[0] * predicted.neighbours[predicted.first[0] : predicted.last[0]])
    width = (predicted.last - predicted.first)[:, None]
    drawn = predicted.first[:, None] + (rng.random((predicted.beyond.size, PLACED)) * width).astype(np.intp)
    return np.asarray((weight * predicted.scale) @ predicted.neighbours[drawn])
