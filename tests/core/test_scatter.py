"""Scatter around the curve in worlds that violate the rule's assumptions, and what it can detect there."""

import numpy as np
import polars as pl
import pytest
from scipy import stats

from worlds.lenses import World, gamma, lognormal, make
from zugzwang.core.clicks.lenses import Appraisal, Context, appraise, look, noticed
from zugzwang.core.clicks.lenses import tested_rows as rows_tested
from zugzwang.core.clicks.scatter import USUAL_WIDTH, scatter_of, tail

NO_BRAND = pl.Series([], dtype=pl.UInt32)


def sure(current: Appraisal, lens: str) -> set[int]:
    rows = look(current, lens, 100)  # type: ignore[arg-type]
    return set(rows.filter(pl.col("evidence").cast(pl.String).is_in(["firm", "likely"]))["query"])


def test_the_tail_is_that_of_a_poisson_lognormal() -> None:
    """Against counts drawn from the distribution; without width, against scipy's Poisson."""
    rng = np.random.default_rng(1)
    drawn = rng.poisson(40 * rng.lognormal(-0.1, 0.5, 400_000))
    for clicks in (10, 25, 40, 90):
        result = float(tail(np.array([clicks]), np.array([40.0]), np.array([-0.1]), np.array([0.5]))[0])
        assert result == pytest.approx((drawn <= clicks).mean(), abs=3e-3)
    plain = tail(np.array([3]), np.array([5.0]), np.array([0.0]), np.array([0.0]))
    assert plain[0] == pytest.approx(stats.poisson.cdf(3, 5.0))


def test_the_width_comes_from_the_middle_half_and_few_rows_do_not_know_it() -> None:
    rng = np.random.default_rng(2)
    expected = rng.uniform(20, 200, 3_000)
    factor = rng.lognormal(0.0, 0.6, 3_000)
    factor[:300] *= 0.05  # a tenth of the rows is poor: they widen nothing
    current = scatter_of(rng.poisson(expected * factor), expected, np.full(3_000, 5.0))
    assert current.width[1] == pytest.approx(0.6, abs=0.12)
    assert current.middle[1] == pytest.approx(-0.06, abs=0.1)
    unknown = scatter_of(np.array([20]), np.array([20.0]), np.array([5.0]))
    assert min(unknown.width) > USUAL_WIDTH


@pytest.mark.parametrize(
    ("world", "most"),
    [(World("wide", lognormal(0.8)), 3), (World("gamma", gamma(6.0)), 1), (World("mixed", gamma(6.0), mixed=0.1), 20)],
)
def test_nothing_planted_and_little_claimed(world: World, most: int) -> None:
    current = appraise(make(world, 11).facts, NO_BRAND)
    assert len(sure(current, "outperformers")) <= most
    assert len(sure(current, "low-ctr")) <= 1


def test_poor_rows_are_found_where_rows_lie_close_and_power_says_how_many() -> None:
    made = make(World("close", lognormal(0.2), poor=0.03), 5)
    current = appraise(made.facts, NO_BRAND)
    enough = current.rows.filter(pl.col("expected_clicks") >= 20, pl.col("impressions") >= 100)["query"]
    poor = set(np.flatnonzero(made.poor)) & set(enough)
    found = sure(current, "low-ctr")
    assert len(found & poor) >= 0.7 * len(poor)
    assert len(found - set(np.flatnonzero(made.poor))) <= 2
    close, wide = (appraise(make(World("", lognormal(width)), 5).facts, NO_BRAND) for width in (0.2, 0.8))
    for lens in ("low-ctr", "outperformers"):
        power = [noticed(one, rows_tested(one, lens, 100, Context()), lens) for one in (close, wide)]
        assert power[0] > 0.3 > power[1]


def test_what_would_be_noticed_is_what_the_tails_say() -> None:
    """One row of 20 expected clicks, tested alone: detectable from the counts with a tail probability of at most 0.1."""
    current = appraise(make(World("", lognormal(0.3)), 5).facts, NO_BRAND)
    row = current.rows.head(1).with_columns(expected_clicks=pl.lit(20.0), position=pl.lit(5.0))
    one, at = np.array([20.0]), np.array([5.0])
    counts = np.arange(0, 400)
    lower = [current.scatter.lower(np.array([k]), one, at)[0] for k in counts]
    upper = [current.scatter.upper(np.array([k]), one, at)[0] for k in counts]
    few, many = max(k for k in counts if lower[k] <= 0.1), min(k for k in counts if upper[k] <= 0.1)
    assert noticed(current, row, "low-ctr") == pytest.approx(current.scatter.lower(np.array([few]), one / 4, at)[0])
    assert noticed(current, row, "outperformers") == pytest.approx(current.scatter.upper(np.array([many]), one * 4, at)[0])


def test_rows_chosen_by_their_clicks_are_told_and_nothing_is_graded() -> None:
    made = make(World("clicked", lognormal(0.3), poor=0.03, clicked_only=True), 4)
    current = appraise(made.facts, NO_BRAND)
    assert current.chosen is not None
    assert current.chosen > 1.5
    assert sure(current, "low-ctr") == sure(current, "outperformers") == sure(current, "striking-distance") == set()
    assert appraise(make(World("whole", lognormal(0.3)), 4).facts, NO_BRAND).chosen is None
