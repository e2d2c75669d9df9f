import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sklearn.isotonic import IsotonicRegression

from tests.planted import planted_site, true_curve
from zugzwang.core.clicks.click_curve import CENTRES, ClickCurve, falling, fit_click_curve, own_curve

PLANTED = planted_site()


def fitted(facts=PLANTED.facts) -> ClickCurve:  # type: ignore[no-untyped-def]
    columns = [facts[name].to_numpy() for name in ("query", "position", "clicks", "impressions")]
    return fit_click_curve(columns[0].astype(np.intp), *columns[1:], rows=int(columns[0].max()) + 1)


@settings(deadline=None, database=None)
@given(st.lists(st.tuples(st.floats(0.001, 1), st.floats(0.1, 1e4)), min_size=1, max_size=30))
def test_falling_is_scikit_learns_isotonic_regression(points: list[tuple[float, float]]) -> None:
    values, weights = (np.array(column) for column in zip(*points, strict=True))
    reference = IsotonicRegression(increasing=False).fit_transform(np.arange(values.size), values, sample_weight=weights)
    assert falling(values, weights) == pytest.approx(reference, rel=1e-6, abs=1e-9)


def test_curve_is_the_planted_one() -> None:
    curve = fitted()
    near = CENTRES <= 28  # beyond, the planted site has little to tell
    assert np.array(curve.rates)[near] == pytest.approx(true_curve(CENTRES[near]), rel=0.16)
    assert curve.shape == pytest.approx(6.0, rel=0.15)
    assert curve.basis == "site"


def test_step_at_the_end_of_page_one_is_kept() -> None:
    at_10, at_11 = fitted()(np.array([10.0, 11.0]))
    assert at_11 / at_10 < 0.8  # planted: 0.61; a smooth curve would give 0.9


def test_a_giant_row_does_not_hide_itself() -> None:
    """The giant row has 2,500 impressions a day at 4.6 and too few clicks: a plain weighted mean would follow it."""
    extras = PLANTED.facts.filter((PLANTED.facts["position"] > 4.2) & (PLANTED.facts["position"] < 5.0))
    plain = extras["clicks"].sum() / extras["impressions"].sum()
    truth = float(true_curve(np.array([4.6]))[0])
    assert plain < 0.7 * truth
    assert float(fitted()(np.array([4.6]))[0]) == pytest.approx(truth, rel=0.1)


def test_too_little_data_leans_on_the_guess_and_says_so() -> None:
    few = PLANTED.facts.head(40)
    curve = fitted(few)
    assert curve.basis == "prior"
    assert 0.1 < curve(np.array([1.0]))[0] < 0.5


def test_curve_falls_and_stays_level_beyond_its_ends() -> None:
    curve = fitted()
    rates = curve(np.geomspace(1, 100, 500))
    assert np.all(np.diff(rates) <= 1e-12)
    assert curve(np.array([100.0, 250.0])) == pytest.approx([curve.rates[-1]] * 2)


def test_own_curve_passes_through_its_points() -> None:
    curve = own_curve([(1.0, 0.3), (10.0, 0.03)])
    assert curve(np.array([1.0, 10.0, 40.0])) == pytest.approx([0.3, 0.03, 0.03], rel=1e-9)
    assert curve.basis == "own"
