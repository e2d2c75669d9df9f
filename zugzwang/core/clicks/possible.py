"""How probable it is that a row is not ordinary but has a problem, or is an exceptional success: two groups of rows.

Most rows are ordinary: their clicks scatter around the site's curve as `scatter.Scatter` says. A share π is not: their clicks
are those of an ordinary row times a factor, lognormal around 0.3 for problems and 2.4 for successes. The probability that a
row belongs to the second group is its share of both densities (Efron 2008, Statistical Science 23:1–22). π is found by
iteration (expectation–maximisation), shrunk towards a usual share as if `WEIGHT` rows had shown it. (Usual share and factors:
common practice, no source.)

Measured on the worlds of docs/methods.md: see there, "about 1 in 3".
"""

from typing import Literal

import numpy as np
import scipy

from zugzwang.core.clicks.evidence import Counts, Floats
from zugzwang.core.clicks.scatter import NODES, WEIGHTS, Scatter

Kind = Literal["problem", "success"]
USUAL_SHARE = 0.03
WEIGHT = 300.0
FACTOR = {"problem": 0.3, "success": 2.4}
FACTOR_WIDTH = 0.5
MANY = 30  # clicks from which on a Poisson count is as good as continuous
ROUNDS = 60
SETTLED = 1e-5


def probability(clicks: Counts, expected: Floats, position: Floats, scatter: Scatter, kind: Kind) -> Floats:
    """The probability (0…1) of each row to be a problem, or a success; all arrays of the same length.

    Rows on the other side of their expectation have probability 0.
    """
    if not clicks.size:
        return np.zeros(0)
    middle, width = scatter.at(position)
    ordinary = density(clicks, expected, middle, width)
    other = density(clicks, expected, middle + np.log(FACTOR[kind]), np.hypot(width, FACTOR_WIDTH))
    on_its_side = clicks < expected if kind == "problem" else clicks > expected
    share = USUAL_SHARE
    result = np.zeros(clicks.size)
    for _ in range(ROUNDS):
        weighed = share * other
        result = np.where(on_its_side, weighed / np.maximum(weighed + (1 - share) * ordinary, 1e-300), 0.0)
        before, share = share, float((result.sum() + USUAL_SHARE * WEIGHT) / (clicks.size + WEIGHT))
        if abs(before - share) < SETTLED:
            break
    return result


def density(clicks: Counts, expected: Floats, middle: Floats, width: Floats) -> Floats:
    """P(K = clicks) for Poisson–lognormal K.

    By quadrature where counts are small. Beyond that the nodes lie further apart than the Poisson distribution is wide, and
    the lognormal density with the Poisson variance added is within 2 % of it.
    """
    few = np.zeros(clicks.size)
    ways = scipy.special.gammaln(clicks + 1.0)
    for node, weight in zip(NODES, WEIGHTS, strict=True):  # node by node: all at once would take 31 times the memory
        means = expected * np.exp(middle + width * node)
        few += weight * np.exp(clicks * np.log(means) - means - ways)
    counted = np.maximum(clicks, 1.0)
    scale = np.sqrt(width**2 + 1 / counted)
    many = scipy.stats.norm.pdf((np.log(counted / expected) - middle) / scale) / (scale * counted)
    return np.asarray(np.where(clicks >= MANY, many, few))
