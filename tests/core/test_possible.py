"""The probability of rows that are neither firm nor likely: calibrated, ordered, and quiet where nothing is planted."""

import numpy as np
import scipy

from zugzwang.core.clicks.possible import density, probability
from zugzwang.core.clicks.scatter import Scatter

SCATTER = Scatter(width=(0.35, 0.35, 0.35))


def rows(seed: int, planted: float, factor: float, count: int = 2_000) -> tuple[np.ndarray, ...]:
    rng = np.random.default_rng(seed)
    expected = rng.lognormal(2.5, 1.2, count)
    defect = rng.random(count) < planted
    means = expected * rng.lognormal(0, 0.35, count) * np.where(defect, factor, 1.0)
    return rng.poisson(means), expected, np.full(count, 5.0), defect


def test_density_is_that_of_a_poisson_with_a_lognormal_mean() -> None:
    """Against the integral over a fine grid; on both sides of the border of quadrature and formula."""
    clicks = np.array([0, 3, 12, 29, 30, 60, 400])
    expected = np.array([2.0, 5.0, 10.0, 40.0, 40.0, 90.0, 300.0])
    z = np.linspace(-8, 8, 20_001)
    means = expected[:, None] * np.exp(0.35 * z)
    truth = (scipy.stats.poisson.pmf(clicks[:, None], means) * scipy.stats.norm.pdf(z)).sum(axis=1) * (z[1] - z[0])
    assert np.allclose(density(clicks, expected, np.zeros(clicks.size), np.full(clicks.size, 0.35)), truth, rtol=0.03)
    # Without scatter it is Poisson.
    none = density(clicks[:3], expected[:3], np.zeros(3), np.full(3, 1e-9))
    assert np.allclose(none, scipy.stats.poisson.pmf(clicks[:3], expected[:3]), rtol=1e-3)


def test_of_rows_told_one_in_three_about_a_third_are_planted() -> None:
    told = planted = 0
    for seed in range(10):
        clicks, expected, position, defect = rows(seed, 0.03, 0.3)
        found = probability(clicks, expected, position, SCATTER, "problem")
        third = (found > 0.25) & (found < 0.45)
        told += third.sum()
        planted += (third & defect).sum()
    assert told > 50
    assert 0.25 <= planted / told <= 0.45


def test_fewer_clicks_are_never_less_probably_a_problem() -> None:
    clicks = np.arange(0, 100)
    found = probability(clicks, np.full(100, 100.0), np.full(100, 5.0), SCATTER, "problem")
    assert (np.diff(found) <= 1e-9).all()
    assert found[5] > 0.9
    assert found[95] < 0.05


def test_a_success_is_the_other_side() -> None:
    clicks, expected, position, defect = rows(3, 0.03, 2.4)
    found = probability(clicks, expected, position, SCATTER, "success")
    assert (found[clicks <= expected] == 0).all()
    assert found[defect].mean() > 5 * found[~defect].mean()


def test_with_nothing_planted_almost_nothing_is_probable() -> None:
    for seed in range(5):
        clicks, expected, position, _ = rows(seed, 0.0, 1.0)
        assert (probability(clicks, expected, position, SCATTER, "problem") > 0.45).sum() <= 5


def test_no_rows_have_no_probability() -> None:
    none = np.zeros(0)
    assert probability(none.astype(int), none, none, SCATTER, "problem").size == 0
