"""Whether a row's clicks differ from what is expected by more than chance and the site's usual scatter.

Clicks `k` given expected clicks `E` are gamma–Poisson (negative binomial) with mean `E` and one shape `r` for the site:
Var k = E + E²/r. `1/r` is the squared coefficient of variation of the factor by which rows of this site differ from its curve.

Sources: Greenwood & Yule 1920 for the distribution; Benjamini & Hochberg 1995 for the false discovery rate;
Wilson 1927 (as in Newcombe 1998) for the interval of a proportion.
"""

from typing import Literal

import numpy as np
import numpy.typing as npt
import scipy

Floats = npt.NDArray[np.float64]
Counts = npt.NDArray[np.int64]
Grade = Literal["firm", "likely", "possible", "too little data"]

GRADES: tuple[Grade, ...] = ("firm", "likely", "possible", "too little data")
SURE: tuple[Grade, ...] = ("firm", "likely")
FIRM_Q = 0.01
LIKELY_Q = 0.10
USUAL_SHARE = 0.80  # "usually" means 8 of 10 rows
SHAPE_BOUNDS = (0.05, 1000.0)
EXTREME_TAIL = 0.01
NEAR = 3.0  # the largest factor between two iterations of the shape
SHAPE_TOLERANCE = 0.01  # of its logarithm: a quarter of its standard error
TELLS_ENOUGH = 10.0  # expected clicks
SCATTER_ROWS = 1000  # that many determine the shape to about 5 %
ENOUGH_ROWS = 30
Z_95 = 1.959963984540054


def fit_shape(
    clicks: Counts, expected: Floats, within: tuple[Counts, Counts] | None = None, near: float | None = None
) -> float:
    """The maximum likelihood shape `r` of gamma–Poisson counts with known means.

    `clicks` and `expected` (both of length n, expected > 0). Returns r within `SHAPE_BOUNDS`; at the upper bound the counts
    scatter as plain Poisson. `within`: the lowest and highest count for which each row was included, where extreme rows
    were left out; the likelihood is then that of the truncated distribution. Otherwise leaving out extremes would make the
    scatter look too small, and smaller with each refit. `near`: r is searched within a factor of `NEAR` around it.
    """
    values, times = np.unique(clicks, return_counts=True)
    total = float(clicks.size)

    def minus_log_likelihood(log_shape: float) -> float:
        r = np.exp(log_shape)
        counts = times @ (scipy.special.gammaln(values + r) - scipy.special.gammaln(r))
        # Terms without r do not affect the maximum and are left out.
        means = total * r * log_shape - np.sum((clicks + r) * np.log(expected + r))
        if within is None:
            return -float(counts + means)
        low, high = within
        below = np.where(low > 0, lower_tail(low - 1, expected, r), 0.0)
        inside = np.maximum(lower_tail(high, expected, r) - below, 1e-300)
        return -float(counts + means - np.sum(np.log(inside)))

    low, high = np.log(SHAPE_BOUNDS)
    if near is not None:
        low, high = max(low, np.log(near / NEAR)), min(high, np.log(near * NEAR))
    found = scipy.optimize.minimize_scalar(
        minus_log_likelihood, bounds=(low, high), method="bounded", options={"xatol": SHAPE_TOLERANCE}
    )
    return float(np.exp(found.x))


def fit_scatter(clicks: Counts, expected: Floats, shape: float) -> float:
    """The shape of the scatter from the rows that are not extreme under the previous `shape`, so rows with a problem do not
    widen it; `shape` itself where too few rows are left.
    """
    if clicks.size > SCATTER_ROWS:
        # Beyond a few times the shape, a larger expectation adds little information. So a systematic sample of all
        # sufficiently large rows is used: the very largest are most often the ones with a problem.
        floor = min(TELLS_ENOUGH, float(np.partition(expected, -SCATTER_ROWS)[-SCATTER_ROWS]))
        telling = np.flatnonzero(expected >= floor)
        taken = telling[np.linspace(0, telling.size - 1, SCATTER_ROWS).astype(np.intp)]
        clicks, expected = clicks[taken], expected[taken]
    low, high = central_range(expected, shape, 1 - 2 * EXTREME_TAIL)
    inside = (low <= clicks) & (clicks <= high)
    if np.count_nonzero(inside) < ENOUGH_ROWS:
        return shape
    return fit_shape(clicks[inside], expected[inside], (low[inside], high[inside]), near=shape)


def lower_tail(clicks: Counts, expected: Floats, shape: float | Floats) -> Floats:
    """P(K ≤ clicks) for gamma–Poisson K with mean `expected` and `shape`; 0…1.

    >>> float(lower_tail(np.array([0]), np.array([1.0]), 1.0)[0])  # shape 1 is geometric: 1 / (1 + 1)
    0.5
    """
    return np.asarray(scipy.special.betainc(shape, clicks + 1.0, shape / (shape + expected)))


def upper_tail(clicks: Counts, expected: Floats, shape: float | Floats) -> Floats:
    """P(K ≥ clicks) for gamma–Poisson K with mean `expected` and `shape`; 0…1, and 1 for no clicks."""
    at_least_one = np.maximum(clicks, 1)
    return np.where(clicks > 0, scipy.special.betainc(at_least_one, shape, expected / (shape + expected)), 1.0)


def false_discovery(p_values: Floats) -> Floats:
    """q-values after Benjamini & Hochberg 1995: the smallest false discovery rate at which each p-value is rejected."""
    if not p_values.size:
        return p_values
    return np.asarray(scipy.stats.false_discovery_control(np.clip(p_values, 0.0, 1.0), method="bh"))


def can_be_called(least: Floats, level: float = LIKELY_Q) -> npt.NDArray[np.bool_]:
    """Which rows could be called at all, given the smallest p-value that each could have: with `K` the smallest number such
    that at most K rows reach level / K, those rows. The others need not be tested, which keeps the false discovery rate and
    leaves more power to the rest (Tarone 1990, Biometrics 46:515–522; Gilbert 2005, J R Stat Soc C 54:143–158).

    >>> can_be_called(np.array([0.001, 0.02, 0.2, 0.5]))  # K = 2: two rows reach 0.1 / 2
    array([ True,  True, False, False])
    """
    numbers = np.arange(1, least.size + 2)
    reach = np.searchsorted(np.sort(least), level / numbers, side="right")
    return np.asarray(least <= level / numbers[np.argmax(reach <= numbers)])


def grades(q_values: Floats, possible: npt.NDArray[np.bool_] | None = None) -> npt.NDArray[np.str_]:
    """Evidence grades: firm (q ≤ 0.01), likely (q ≤ 0.10), else possible where the data could have shown more, else too
    little data."""
    may_be = np.zeros(q_values.shape, dtype=np.bool_) if possible is None else possible
    return np.select([q_values <= FIRM_Q, q_values <= LIKELY_Q, may_be], ["firm", "likely", "possible"], "too little data")


def wilson_interval(clicks: Counts, impressions: Counts) -> tuple[Floats, Floats]:
    """The Wilson 95 % interval of clicks / impressions; NaN without impressions."""
    with np.errstate(divide="ignore", invalid="ignore"):
        rate = clicks / impressions
        squared = Z_95**2 / impressions
        centre = rate + squared / 2
        reach = np.sqrt(squared * (rate * (1 - rate) + squared / 4))
        low, high = (centre - reach) / (1 + squared), (centre + reach) / (1 + squared)
    return np.maximum(low, 0.0), np.minimum(high, 1.0)


def usual_range(expected: Floats, shape: Floats) -> tuple[Counts, Counts]:
    """The range of clicks that 8 of 10 rows with these expected clicks and shapes get: the 10 % and 90 % points, whole
    clicks."""
    return central_range(expected, shape, USUAL_SHARE)


def central_range(expected: Floats, shape: float | Floats, share: float) -> tuple[Counts, Counts]:
    """The range of whole clicks that holds the middle `share` (0…1) of gamma–Poisson rows."""
    tail = (1 - share) / 2
    chance = shape / (shape + expected)
    low, high = scipy.stats.nbinom.ppf(tail, shape, chance), scipy.stats.nbinom.ppf(1 - tail, shape, chance)
    return low.astype(np.int64), high.astype(np.int64)


def low_point(expected: Floats, shape: float | Floats) -> Counts:
    """The 10 % point: what nine of ten such rows get at least, whole clicks."""
    return np.asarray(scipy.stats.nbinom.ppf((1 - USUAL_SHARE) / 2, shape, shape / (shape + expected))).astype(np.int64)


def usual_factors(shape: Floats) -> tuple[Floats, Floats]:
    """The range of factors around the curve for 8 of 10 rows with these shapes (the band drawn around it)."""
    tail = (1 - USUAL_SHARE) / 2
    return scipy.stats.gamma.ppf(tail, shape) / shape, scipy.stats.gamma.ppf(1 - tail, shape) / shape
