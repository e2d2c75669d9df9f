"""The click curve: the CTR that this site usually earns at each position.

Fitted on the facts of non-brand rows (a row is a page × query). The steps:

1. A prior curve `a·p^-b`, fitted to the site and kept near `A_GUESS·p^-B_GUESS` where the site has little data (a and b by
   penalised Poisson likelihood).
2. For each bin of positions, the ratio of its clicks to the prior's; shrunk towards 1 by
   `SHRINK_CLICKS` clicks. No bin spans 10 and 11: the step at the end of page one is real.
3. Pool adjacent violators (weighted isotonic regression) makes the bins fall with position.
4. Between bin centres the curve is linear in log–log; beyond the first and last centre it is constant.

A row must not mask itself, nor poor rows each other, so every row has weight 1 / (1 + E/r) – the inverse of its
gamma–Poisson variance relative to chance alone, which limits every row to r effective clicks – and rows in the outer
`EXTREME_TAIL` of the scatter are left out of the next fit. Five iterations.

Facts enter by day, at that day's position: a row that ranked 4 for a month and 30 for two counts at 4 and at 30, never at
17.

The curve falls steeply, so expected clicks are summed by day too: E = Σ n_d·μ(p_d).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np
import numpy.typing as npt
import scipy

from zugzwang.core.clicks.evidence import ENOUGH_ROWS, EXTREME_TAIL, Counts, Floats, fit_scatter, lower_tail, upper_tail

LAST_POSITION = 100.0
_EDGES = np.array([*np.arange(1.5, 12.0, 1.0), 13.5, 16.5, 20.5, 25.5, 30.5, 40.5, 60.5])
CENTRES: Floats = np.array([*np.arange(1.0, 12.0, 1.0), 12.5, 15.0, 18.5, 23.0, 28.0, 35.0, 50.0, 80.0])
_LOG_CENTRES = np.log(CENTRES)

# Used where a site has too little data: common practice, from memory, no source. The screen says so.
A_GUESS, B_GUESS = 0.27, 1.1
_GUESS_SPREAD = np.array([0.7, 0.3])  # standard deviations of log a and log b around the guess
_PRIOR_BOUNDS = [(np.log(1e-4), 0.0), (0.2, 3.0)]
# Positions in logarithmic steps of 0.1 %, so bins and weights are looked up, not computed for each of a million facts.
_GRID = np.exp(np.linspace(0.0, np.log(LAST_POSITION), 4096))
_BIN_OF_GRID = np.searchsorted(_EDGES, _GRID, side="right")
_WORTH_OF_GRID = (_GRID / CENTRES[_BIN_OF_GRID]) ** -B_GUESS
SHAPE_GUESS = 2.0
SHRINK_CLICKS = 10.0
ROUNDS = 5
TELLING_CLICKS = 0.5  # rows with almost no expected clicks carry no information on the scatter
ENOUGH_CLICKS = 200

Basis = Literal["site", "prior", "own"]


@dataclass(frozen=True)
class ClickCurve:
    """μ(p) at `CENTRES` (`rates`, 0…1, falling) and the shape `r` of the scatter around it.

    `basis`: where it comes from: `site` (fitted), `prior` (too little data, near the guess), `own` (set by the analyst).
    """

    rates: tuple[float, ...]
    shape: float
    basis: Basis
    clicks: int
    rows: int
    rows_left_out: int

    def __call__(self, positions: Floats) -> Floats:
        """μ at each position (1…100; larger ones count as 100), 0…1."""
        return np.exp(np.interp(np.log(np.clip(positions, 1.0, LAST_POSITION)), _LOG_CENTRES, np.log(self.rates)))

    def points(self) -> list[dict[str, float]]:
        return [{"position": float(p), "ctr": float(rate)} for p, rate in zip(CENTRES, self.rates, strict=True)]


def added_up(group: npt.NDArray[Any], values: Floats, groups: int) -> Floats:
    """The sum of the values of each group (0…groups-1)."""
    return np.bincount(group, weights=values, minlength=groups).astype(np.float64, copy=False)


@dataclass(frozen=True)
class _Cells:
    """Facts summed by row and bin, for the iterations.

    `as_at_centre`: impressions weighted by the guessed curve relative to the bin's centre: 10 impressions at 1.4 count as
    10·1.4^-1.1 at 1.
    """

    clicks: Floats  # rows × bins
    as_at_centre: Floats  # rows × bins
    row_clicks: Counts

    def expected(self, curve: ClickCurve) -> Floats:
        """Expected clicks of each row."""
        return np.asarray(self.as_at_centre @ np.array(curve.rates))


def fit_click_curve(row: npt.NDArray[np.intp], position: Floats, clicks: Counts, impressions: Counts, rows: int) -> ClickCurve:
    """The site's click curve from daily facts of non-brand rows.

    `row` (its row's number, 0…rows-1), `position` (≥ 1), `clicks` and `impressions`: one value a fact. Returns the curve.
    """
    cells = _cells(row, position, clicks, impressions, rows)
    total = int(cells.row_clicks.sum())
    curve = ClickCurve(tuple(A_GUESS * CENTRES**-B_GUESS), SHAPE_GUESS, "prior", total, rows, 0)
    included, trim, expected = np.ones(rows, dtype=bool), 1.0, cells.expected(curve)
    for _ in range(ROUNDS):
        weight = included / (1.0 + expected / curve.shape)
        curve = replace(curve, rates=_fit_rates(cells, weight, trim))
        expected = cells.expected(curve)
        telling = expected >= TELLING_CLICKS
        if np.count_nonzero(telling) >= ENOUGH_ROWS:
            curve = replace(curve, shape=fit_scatter(cells.row_clicks[telling], expected[telling], curve.shape))
        included = ~_extreme(cells.row_clicks, expected, curve.shape, telling)
        trim = _trimmed_mean(curve.shape)
    enough = total >= ENOUGH_CLICKS and np.count_nonzero(telling) >= ENOUGH_ROWS
    return replace(curve, basis="site" if enough else "prior", rows_left_out=int(rows - included.sum()))


def _cells(row: npt.NDArray[np.intp], position: Floats, clicks: Counts, impressions: Counts, rows: int) -> _Cells:
    steps_per_log = (_GRID.size - 1) / np.log(LAST_POSITION)
    step = np.rint(np.log(np.clip(position, 1.0, LAST_POSITION)) * steps_per_log).astype(np.uint16)
    cell = row * CENTRES.size + _BIN_OF_GRID[step]
    shape = (rows, CENTRES.size)
    by_cell = added_up(cell, clicks.astype(np.float64), rows * CENTRES.size).reshape(shape)
    as_at_centre = added_up(cell, impressions * _WORTH_OF_GRID[step], rows * CENTRES.size).reshape(shape)
    return _Cells(by_cell, as_at_centre, by_cell.sum(axis=1).astype(np.int64))


def refit_shape(curve: ClickCurve, clicks: Counts, expected: Floats) -> ClickCurve:
    """The curve with a shape refitted on rows whose expected clicks come from several curves."""
    telling = expected >= TELLING_CLICKS
    if np.count_nonzero(telling) < ENOUGH_ROWS:
        return curve
    return replace(curve, shape=fit_scatter(clicks[telling], expected[telling], curve.shape))


def _extreme(clicks: Counts, expected: Floats, shape: float, telling: npt.NDArray[np.bool_]) -> npt.NDArray[np.bool_]:
    """Which rows lie in the outer tails of the scatter, on either side."""
    extreme = np.zeros(clicks.size, dtype=bool)
    # The tails are slow to compute, and rows within one standard deviation are not in them.
    far = telling & (np.abs(clicks - expected) > np.sqrt(expected + expected**2 / shape))
    low, high = far & (clicks < expected), far & (clicks > expected)
    extreme[low] = lower_tail(clicks[low], expected[low], shape) < EXTREME_TAIL
    extreme[high] = upper_tail(clicks[high], expected[high], shape) < EXTREME_TAIL
    return extreme


def _trimmed_mean(shape: float) -> float:
    """The mean of the site's factor (1 over all rows) among the remaining rows: the bias from leaving out the tails."""
    low, high = scipy.stats.gamma.ppf([EXTREME_TAIL, 1 - EXTREME_TAIL], shape)
    # ∫ x f(x) over an interval of a gamma with shape r is r times the probability under shape r + 1.
    return float(np.diff(scipy.stats.gamma.cdf([low, high], shape + 1))[0] / (1 - 2 * EXTREME_TAIL))


def _fit_rates(cells: _Cells, row_weight: Floats, trim: float) -> tuple[float, ...]:
    """The curve at the bin centres for given row weights: steps 1 to 3 of the module's docstring.

    `trim`: the mean factor of the weighted rows, by which their clicks fall short of all rows'.
    """
    clicks, shown = row_weight @ cells.clicks / trim, row_weight @ cells.as_at_centre
    a, b = _fit_prior(clicks, shown)
    prior = a * CENTRES**-b
    ratio = (clicks + SHRINK_CLICKS) / (shown * prior + SHRINK_CLICKS)
    return tuple(falling(np.minimum(prior * ratio, 1.0), shown + 1.0))


def _fit_prior(clicks: Floats, shown: Floats) -> tuple[float, float]:
    """a and b of `a·p^-b` by penalised Poisson likelihood on the bins."""

    def cost(free: Floats) -> tuple[float, Floats]:
        """The penalised negative log-likelihood and its gradient."""
        log_rate = free[0] - free[1] * _LOG_CENTRES
        expected, off = shown * np.exp(log_rate), (free - guess) / _GUESS_SPREAD
        surplus = expected - clicks
        value = off @ off / 2 - clicks @ log_rate + expected.sum()
        return float(value), np.array([surplus.sum(), -surplus @ _LOG_CENTRES]) + off / _GUESS_SPREAD

    guess = np.array([np.log(A_GUESS), B_GUESS])
    found = scipy.optimize.minimize(cost, guess, method="L-BFGS-B", jac=True, bounds=_PRIOR_BOUNDS)
    return float(np.exp(found.x[0])), float(found.x[1])


def falling(values: Floats, weights: Floats) -> Floats:
    """The closest decreasing sequence by weighted least squares (pool adjacent violators)."""
    return np.asarray(scipy.optimize.isotonic_regression(values, weights=weights, increasing=False).x)


def own_curve(points: Sequence[tuple[float, float]]) -> ClickCurve:
    """A curve set by hand from (position, CTR 0…1) points, falling; log–log between them, constant beyond."""
    positions, rates = np.log([point[0] for point in points]), np.log([point[1] for point in points])
    return ClickCurve(tuple(np.exp(np.interp(_LOG_CENTRES, positions, rates))), SHAPE_GUESS, "own", 0, 0, 0)


def expected_clicks(curve: ClickCurve, position: Floats, impressions: Counts) -> Floats:
    """Expected clicks of each fact, n·μ(p); their sum over a row is its E."""
    return curve(position) * impressions
