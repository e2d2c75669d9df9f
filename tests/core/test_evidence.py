"""Outside checks of the evidence: published tables and reference libraries, each named."""

import numpy as np
import pytest
from scipy import stats
from statsmodels.stats.proportion import proportion_confint

from zugzwang.core.clicks.evidence import (
    can_be_called,
    central_range,
    false_discovery,
    fit_shape,
    grades,
    lower_tail,
    upper_tail,
    usual_range,
    wilson_interval,
)

# Newcombe 1998, Statistics in Medicine 17:857-872, table I, method 3.
NEWCOMBE = [(81, 263, 0.2553, 0.3662), (15, 148, 0.0624, 0.1605), (0, 20, 0.0, 0.1611), (1, 29, 0.0061, 0.1718)]


@pytest.mark.parametrize(("clicks", "shown", "low", "high"), NEWCOMBE)
def test_wilson_interval_is_that_of_newcombe_and_statsmodels(clicks: int, shown: int, low: float, high: float) -> None:
    ours = [float(edge[0]) for edge in wilson_interval(np.array([clicks]), np.array([shown]))]
    assert ours == pytest.approx([low, high], abs=5e-5)
    assert ours == pytest.approx(proportion_confint(clicks, shown, method="wilson"), abs=1e-12)


def test_no_interval_without_impressions() -> None:
    assert all(np.isnan(edge[0]) for edge in wilson_interval(np.array([0]), np.array([0])))


def red_mites() -> np.ndarray:
    """Red mites on 150 apple leaves: Bliss & Fisher 1953, Biometrics 9:176-200, table 1."""
    return np.repeat(np.arange(8), [70, 38, 17, 10, 9, 3, 2, 1])


def test_shape_is_that_of_bliss_and_fisher() -> None:
    mites = red_mites()
    assert mites.mean() == pytest.approx(1.1467, abs=5e-5)
    assert fit_shape(mites, np.full(150, mites.mean())) == pytest.approx(1.0246, abs=0.002)


def test_shape_of_what_is_left_when_the_tails_are_cut_off() -> None:
    """Excluding extremes makes the scatter look smaller; the truncated likelihood does not."""
    rng = np.random.default_rng(11)
    expected = rng.uniform(5, 400, 4_000)
    clicks = rng.poisson(expected * rng.gamma(4, 1 / 4, expected.size))
    low, high = central_range(expected, 4.0, 0.9)
    kept = (low <= clicks) & (clicks <= high)
    naive = fit_shape(clicks[kept], expected[kept])
    result = fit_shape(clicks[kept], expected[kept], (low[kept], high[kept]))
    assert naive > 5.0
    assert result == pytest.approx(4.0, rel=0.08)


def test_tails_are_those_of_scipy() -> None:
    clicks, expected, shape = np.array([0, 3, 11, 400]), np.array([0.4, 9.0, 11.0, 380.0]), 2.7
    chance = shape / (shape + expected)
    assert lower_tail(clicks, expected, shape) == pytest.approx(stats.nbinom.cdf(clicks, shape, chance), rel=1e-9)
    assert upper_tail(clicks, expected, shape) == pytest.approx(stats.nbinom.sf(clicks - 1, shape, chance), rel=1e-9)


# Benjamini & Hochberg 1995, JRSS B 57:289-300, section 3.2 (thrombolysis trial).
BENJAMINI_HOCHBERG = [
    *(0.0001, 0.0004, 0.0019, 0.0095, 0.0201, 0.0278, 0.0298, 0.0344),
    *(0.0459, 0.3240, 0.4262, 0.5719, 0.6528, 0.7590, 1.0),
]


def test_false_discovery_rejects_what_benjamini_and_hochberg_reject() -> None:
    q_values = false_discovery(np.array(BENJAMINI_HOCHBERG))
    assert np.count_nonzero(q_values <= 0.05) == 4
    assert false_discovery(np.array([])).size == 0


def test_grades() -> None:
    assert grades(np.array([0.0, 0.01, 0.0101, 0.1, 0.11])).tolist() == ["firm", "firm", "likely", "likely", "too little data"]


@pytest.mark.parametrize(("clicks", "shown", "result"), [(2, 67, False), (10, 125, True), (20, 300, True), (1, 412, True)])
def test_how_much_is_enough_to_judge(clicks: int, shown: int, result: bool) -> None:
    """Common practice, no source: 2 of 67 is too little to act on, 10 of 125 and 20 of 300 are enough, 1 of 412 on page one is
    bad. Enough: at a typical site's scatter fewer than one row in twenty with four times the CTR (on page one: 3 in 100)
    does as badly by chance.
    """
    usual = 0.03 if clicks == 1 else 4 * clicks / shown
    assert bool(lower_tail(np.array([clicks]), np.array([usual * shown]), 6.0)[0] <= 0.05) is result


def test_usual_range_holds_eight_rows_of_ten() -> None:
    rng = np.random.default_rng(5)
    clicks = rng.poisson(200 * rng.gamma(6, 1 / 6, 20_000))
    low, high = usual_range(np.array([200.0]), 6.0)
    assert np.mean((low <= clicks) & (clicks <= high)) == pytest.approx(0.8, abs=0.01)


def test_rows_that_can_never_be_called_are_not_tested() -> None:
    # Gilbert's example has K = 2: two rows can reach 0.1 / 2.
    assert can_be_called(np.array([0.001, 0.02, 0.2, 0.5])).tolist() == [True, True, False, False]
    assert can_be_called(np.array([])).tolist() == []
    # Leaving out a thousand hopeless rows changes nothing for the others, and gives them the power of a small family.
    hopeful = np.array([1e-9, 0.004, 0.03])
    with_hopeless = can_be_called(np.concatenate([hopeful, np.full(1_000, 0.4)]))
    assert with_hopeless[:3].all()
    assert not with_hopeless[3:].any()


def test_possible_is_what_could_have_shown_more() -> None:
    q_values, could = np.array([0.001, 0.05, 0.5, 0.5]), np.array([True, True, True, False])
    assert grades(q_values, could).tolist() == ["firm", "likely", "possible", "too little data"]
