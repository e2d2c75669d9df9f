"""The result of a change to some units, next to those that no one changed: before and after.

What each unit would have done is predicted from the unchanged ones of its size: a weighted regression of their answers on what
they are compared with (core.trials.units), within a window of the NEIGHBOURS nearest in size. How far it went beyond is its own
effect; the change's is their mean, each weighing as much as it tells. The unchanged are predicted likewise, each without
itself.

How sure: the change is placed on unchanged ones – for each changed unit one of its neighbours, drawn at random, many times –
and the effect is among the effects placed there (Fisher 1935, The Design of Experiments, chapter 2: all four of four cups right
by chance is 1 in 70). p = 2 · (1 + those placed that went as far, in its direction) / (1 + placed), at most 1. The interval is
that of all effects that such placing would not call: the effect less the upper and lower 2.5 % of those placed.

What could be seen at all: the least rise that is called at 5 % in four of five cases, from the placed effects of earlier weeks.

Worked: 280 clicks before, 420 after; 200 alike fell by a tenth: 252 were expected, the effect is 420/252 = 1.67.
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
    """`effect`, `low`, `high`: differences of answers (logarithms of ratios; positions as they are). `placed`: the effects of
    placing the change on unchanged ones. `unchanged`: how many went with them."""

    effect: float
    low: float
    high: float
    p_value: float
    placed: Floats
    controls: int


def effect(units: Units, changed: Sequence[int], out: Sequence[int] = (), seed: int = 0) -> Effect | None:
    """The result of a change to the units `changed`; those in `out` are neither changed nor compared with. None where fewer
    than UNTOUCHED_LEAST are left, or none of the changed is known."""
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
    """How many of the placed effects went as far as one, in its direction."""
    return int(((placed >= found - 1e-12) if found >= 0 else (placed <= found + 1e-12)).sum())


def smallest_visible(units: Units, changed: Sequence[int], out: Sequence[int] = (), seed: int = 0) -> float | None:
    """The least rise (a difference of answers) that would be called, from weeks in which nothing was changed."""
    found = effect(units, changed, out, seed)
    if found is None:
        return None
    bound = float(np.quantile(np.abs(found.placed), 1 - SURE))
    return bound - float(np.quantile(found.placed, 1 - POWER))


@dataclass(frozen=True)
class Prediction:
    """Of the changed units: how far beyond what was predicted, on which scale and amid which noise, and how that leans on its
    window. Of the unchanged, in the order of their size: how far beyond, in scales (`neighbours`), their weight and what they
    were compared with. `first`, `last`: the window of neighbours of each changed one."""

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
    """What the unchanged predict of the changed; None where they are too few, or no changed one is known."""
    is_changed = np.isin(units.unit, list(changed))
    free = ~is_changed & ~np.isin(units.unit, list(out))
    if free.sum() < UNTOUCHED_LEAST or not is_changed.any():
        return None
    order = np.flatnonzero(free)[np.argsort(units.size[free], kind="stable")]
    values = np.column_stack([np.ones(order.size), units.covariates[order]])
    answers, weight, sizes = units.answers[order], 1 / units.counted[order], units.size[order]
    sums = _Sums(values, answers, weight)
    # Each unchanged one is predicted by its window without itself.
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
    """The windows of NEIGHBOURS sizes (sorted) around each wanted one; fewer where there are fewer."""
    width = min(NEIGHBOURS, sizes.size)
    first = np.clip(np.searchsorted(sizes, wanted) - width // 2, 0, sizes.size - width)
    return first, first + width


class _Sums:
    """Sums of a weighted regression over any window, from running sums."""

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
        """Around their middle, so running sums keep their digits."""
        return np.column_stack([values[:, 0], values[:, 1:] - self.middle])

    def leverage(self, values: Floats, first: Ints, last: Ints) -> Floats:
        """What is predicted for each is a sum over its window: answer · weight · (given · leans)."""
        products = self.products[last] - self.products[first] + self.ridge
        return np.asarray(np.linalg.solve(products, self.centred(values)[:, :, None])[:, :, 0])

    def beyond(
        self, values: Floats, answers: Floats, first: Ints, last: Ints, without: Ints | None = None
    ) -> tuple[Floats, Floats]:
        """How far each answer lies beyond what its window predict, and the variance of the foretelling, in units of noise."""
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
    """By how much more the effect scatters than one placed on neighbours: the changed ones may be apart from them (all had
    fallen, say), and what is predicted there is wrong for all of them at once."""
    leverage = np.zeros((predicted.controls + 1, predicted.leverage.shape[1]))
    np.add.at(leverage, predicted.first, weight[:, None] * predicted.leverage)
    np.add.at(leverage, predicted.last, -weight[:, None] * predicted.leverage)
    # How much each unchanged one's answer counts in what is predicted for all changed ones together.
    counts = predicted.weight * np.einsum("ni,ni->n", np.cumsum(leverage, axis=0)[:-1], predicted.covariates)
    shared = float((counts**2 / predicted.weight).sum()) * float(np.average(predicted.noise, weights=weight))
    return float(np.sqrt(1 + shared / float((weight**2) @ predicted.scale**2)))


def _placed(predicted: Prediction, weight: Floats, rng: np.random.Generator) -> Floats:
    """The effects of placing the change on neighbours. One changed unit is placed on each of its neighbours once."""
    if predicted.beyond.size == 1:
        return np.asarray(predicted.scale[0] * predicted.neighbours[predicted.first[0] : predicted.last[0]])
    width = (predicted.last - predicted.first)[:, None]
    drawn = predicted.first[:, None] + (rng.random((predicted.beyond.size, PLACED)) * width).astype(np.intp)
    return np.asarray((weight * predicted.scale) @ predicted.neighbours[drawn])
