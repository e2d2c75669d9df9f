"""The effect of SERP features above the site's result: a factor on expected clicks for each kind, from the site's own rows.

Clicks K of the rows with a known SERP are gamma–Poisson with mean E · Π f_j over the kinds j above the site's result, and
shape r, the row's scatter. Each factor has a gamma prior around 1 worth ten expected clicks. The factors maximise the
posterior (Newton's method in ln f; all factors at once), and their 95 % intervals come from its curvature there. Rows in
the outer 2.5 % of the fit, on either side, are left out of the next of four iterations: poor titles under a feature must
not be attributed to it. With fewer than five rows under a kind there is no estimate; and a factor within chance of 1 (99 %)
counts as 1 where rows are compared with it.

Example: one kind, no scatter (r → ∞): f = (10 + ΣK) / (10 + ΣE). Forty clicks where 110 were expected: 50 / 120 = 0.42.

Limits: SERPs are mostly captured for low rows; anything else that such rows have in common is attributed to the feature.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zugzwang.core.clicks.evidence import Counts, Floats, lower_tail, upper_tail
from zugzwang.core.clicks.scatter import Scatter

PRIOR_CLICKS = 10.0
ROWS_ENOUGH = 5
EXPLAINED_P = 0.10
NORMAL_95, NORMAL_99 = 1.959964, 2.575829
OUTER = 0.01
TRIMMED_ROUNDS = 4
_ROUNDS = 50


@dataclass(frozen=True)
class BlockCost:
    """The effect of a kind of SERP feature above the site's result: a factor on clicks (0.3: seven of ten are gone) with its
    95 % interval; None where fewer than five rows have it.
    """

    kind: str
    rows: int
    factor: float | None
    low: float | None
    high: float | None

    @property
    def counts(self) -> float:
        """The factor used to compare rows."""
        if self.factor is None or self.high is None:
            return 1.0
        reach = np.log(self.high / self.factor) * NORMAL_99 / NORMAL_95
        return self.factor if abs(np.log(self.factor)) > reach else 1.0


def block_costs(
    clicks: Counts, expected: Floats, shape: Floats, above: npt.NDArray[np.bool_], kinds: Sequence[str]
) -> list[BlockCost]:
    """The effects. `above`: rows × kinds, whether one is above the site's result."""
    rows = above.sum(axis=0)
    known = np.flatnonzero(rows >= ROWS_ENOUGH)
    current, included = above[:, known], np.ones(clicks.size, dtype=bool)
    for _ in range(TRIMMED_ROUNDS):
        factor, reach = highest(clicks[included], expected[included], shape[included], current[included])
        mean = expected * np.exp(current.astype(np.float64) @ factor)
        inside = (lower_tail(clicks, mean, shape) > OUTER) & (upper_tail(clicks, mean, shape) > OUTER)
        if (inside == included).all() or not (current[inside].sum(axis=0) >= ROWS_ENOUGH).all():
            break
        included = inside
    result: dict[int, tuple[float, float, float]] = {
        int(kind): (float(np.exp(at)), float(np.exp(at - far)), float(np.exp(at + far)))
        for kind, at, far in zip(known, factor, reach, strict=True)
    }
    nothing = (None, None, None)
    return [BlockCost(kind, int(rows[number]), *result.get(number, nothing)) for number, kind in enumerate(kinds)]


def highest(clicks: Counts, expected: Floats, shape: Floats, above: npt.NDArray[np.bool_]) -> tuple[Floats, Floats]:
    """ln f at the maximum of the posterior, and the half-width of its 95 % interval: infinite, so nothing is claimed, where
    the iteration does not converge.
    """
    x = above.astype(np.float64)
    result = np.zeros(x.shape[1])
    curvature = np.eye(x.shape[1])
    for _ in range(_ROUNDS):
        mean = expected * np.exp(x @ result)
        # Of a gamma–Poisson: d/dη = (k − m) · r / (r + m), −d²/dη² = m · r · (r + k) / (r + m)².
        slope = x.T @ ((clicks - mean) * shape / (shape + mean)) + PRIOR_CLICKS * (1 - np.exp(result))
        weight = mean * shape * (shape + clicks) / (shape + mean) ** 2
        curvature = x.T @ (x * weight[:, None]) + np.diag(PRIOR_CLICKS * np.exp(result))
        step = np.clip(np.linalg.solve(curvature, slope), -1.0, 1.0)
        result = result + step
        if np.abs(step).max(initial=0.0) < 1e-9:
            return result, NORMAL_95 * np.sqrt(np.diag(np.linalg.inv(curvature)))
    return result, np.full(result.size, np.inf)


def factors(costs: Sequence[BlockCost], above: npt.NDArray[np.bool_]) -> Floats:
    """The product of the factors above each row; kinds with too little data count as 1."""
    logs = np.array([np.log(one.counts) for one in costs])
    return np.asarray(np.exp(above.astype(np.float64) @ logs))


def explained(clicks: Counts, expected: Floats, position: Floats, scatter: Scatter, factor: Floats) -> npt.NDArray[np.bool_]:
    """Whether the features above each row explain its low CTR: below the curve's expectation, but with the factors no longer
    in the tail (p > 0.10). Only factors below 1 explain anything.
    """
    p_values = scatter.lower(clicks, expected * factor, position)
    return np.asarray((clicks < expected) & (factor < 1.0) & (p_values > EXPLAINED_P))
