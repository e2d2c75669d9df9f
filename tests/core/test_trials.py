"""Tests: against hand-worked values and reference libraries; claims where there is no effect, also on units selected as people
select; interval coverage and power.
"""

from math import comb, log

import numpy as np
import polars as pl
import pytest
import statsmodels.api as sm
from scipy import stats
from statsmodels.stats.meta_analysis import combine_effects

from worlds.outcomes import WORLDS, World, at_random, clicked_little, make, that_fell
from worlds.trials import Tried, beside_the_untouched, randomised, sides_of
from zugzwang.core.trials.effect import effect, predicted_by_controls, smallest_visible
from zugzwang.core.trials.split import LOTS, draw, pairs_of, smallest_visible_by_lot, split_effect
from zugzwang.core.trials.summing import sum_up, variance_of
from zugzwang.core.trials.units import SIDES, Measure, Units, compared_units

SITES = 100  # the command `make worlds` looks at 400
LEVEL = (0.0, 0.10)  # of 100 at 5 %: 5 and two and a half deviations


def flat(clicks: list[int], after: list[int], measure: Measure = "clicks", **more: list[float]) -> Units:
    """Units with the two sides only."""
    number = len(clicks)
    result: dict[str, object] = {"unit": list(range(number)), "expected_before": [None] * number}
    for side in SIDES:
        known = {"before": clicks, "after": after}.get(side, [None] * number)
        result |= {
            f"clicks_{side}": known,
            f"impressions_{side}": known,
            f"position_{side}": more.get(f"position_{side}", [None] * number),
        }
    return compared_units(pl.DataFrame(result, strict=False), measure, 1 / 3)


def test_an_effect_by_hand() -> None:
    """280 before, 420 after; 200 similar pages fell by a tenth: 252 were expected."""
    rng = np.random.default_rng(1)
    before = rng.integers(200, 400, 200)
    units = flat([280, *before.tolist()], [420, *np.rint(before * 0.9).astype(int).tolist()])
    found = effect(units, [0])
    assert found is not None
    assert found.effect == pytest.approx(log(420.5 / 252.5), abs=0.01)
    assert found.controls == 200
    assert found.p_value == pytest.approx(2 / 201)  # none of them went as far
    assert effect(flat([9] * 20, [9] * 20), [0]) is None  # 19 unchanged are too few


def test_positions_are_told_as_they_are() -> None:
    before, after = [5.0] * 60, [5.0 + 0.1 * (number % 5) for number in range(60)]
    after[0] = 3.0
    units = flat([50] * 60, [50] * 60, "position", position_before=before, position_after=after)
    found = effect(units, [0])
    assert found is not None
    assert found.effect == pytest.approx(-2.2, abs=0.05)  # the others fell by 0.2 in the middle


def test_a_season_of_demand_is_no_season_of_the_ctr() -> None:
    """A year before, a page had twice the impressions and clicks: its CTR had no season, so the effect is zero."""
    number, rng = 80, np.random.default_rng(4)
    shown = rng.integers(4_000, 6_000, number)
    result: dict[str, object] = {"unit": list(range(number)), "expected_before": [None] * number}
    for side in SIDES:
        factor = np.where(np.arange(number) == 0, 2, 1) if side == "year_after" else np.ones(number, int)
        result |= {
            f"impressions_{side}": shown * factor,
            f"clicks_{side}": shown * factor // 20,
            f"position_{side}": [5.0] * number,
        }
    sides = pl.DataFrame(result, strict=False)
    found = effect(compared_units(sides, "ctr", 1.0), [0])
    clicks = effect(compared_units(sides, "clicks", 1.0), [0])
    assert found is not None
    assert clicks is not None
    assert found.effect == pytest.approx(0.0, abs=0.01)
    assert clicks.effect == pytest.approx(-log(2), abs=0.05)  # of its clicks the season is taken off, and it did not come


def test_placing_is_that_of_the_tasting_lady_and_of_scipy() -> None:
    """Fisher 1935: four of four cups right out of eight is 1 in 70. And two groups against scipy's permutation test."""
    assert comb(8, 4) == 70
    lots = [sum(1.0 for one in cups if one < 4) for cups in __import__("itertools").combinations(range(8), 4)]
    assert np.mean(np.array(lots) == 4) == pytest.approx(1 / 70)
    # By lot, of pairs: the share of all signs that go as far, as scipy's `permutation_test` tells it.
    rng = np.random.default_rng(3)
    for seed in range(4):
        number = 2 * (6 + seed)
        own, other = rng.normal(0.3, 1, number // 2), rng.normal(0, 1, number // 2)
        units = Units(np.arange(number), np.concatenate([own, other]), np.zeros((number, 1)), np.ones(number), np.ones(number))
        found = split_effect(units, list(range(number // 2)), list(range(number // 2, number)))
        assert found is not None
        reference = stats.permutation_test(
            (own, other), lambda one, two, axis: np.mean(one - two, axis=axis), permutation_type="samples", vectorized=True,
            n_resamples=np.inf,
        )  # fmt: skip
        assert found.p_value == pytest.approx(reference.pvalue)
        assert found.effect == pytest.approx(reference.statistic)


def test_what_is_foretold_is_a_weighted_regression() -> None:
    """Against statsmodels, where the window includes all others."""
    rng = np.random.default_rng(5)
    values, counted = rng.normal(size=(120, 2)), rng.uniform(0.5, 2, 120)
    answers = 1 + values @ [0.7, -0.4] + rng.normal(size=120) * np.sqrt(counted)
    units = Units(np.arange(120), answers, values, counted, rng.normal(size=120))
    found = predicted_by_controls(units, [3, 50], [7])
    assert found is not None
    others = ~np.isin(units.unit, [3, 7, 50])
    reference = sm.WLS(answers[others], sm.add_constant(values[others]), weights=1 / counted[others]).fit()
    expected = reference.predict(sm.add_constant(values)[[3, 50]])
    assert found.beyond == pytest.approx(answers[[3, 50]] - expected, abs=2e-3)  # a ridge keeps it from breaking


def test_before_values_take_off_what_they_explain() -> None:
    """Deng et al. 2013: the variance falls by 1 − ρ²; with a correlation of 0.7, to about a half."""
    rng = np.random.default_rng(7)
    number, effects, plain = 400, [], []
    for _ in range(120):
        before = rng.normal(size=number)
        answers = 0.7 * before + np.sqrt(1 - 0.7**2) * rng.normal(size=number)
        units = Units(np.arange(number), answers, before[:, None], np.ones(number), rng.normal(size=number))
        order = rng.permutation(number)[:40]
        found = split_effect(units, order[:20].tolist(), order[20:].tolist())
        assert found is not None
        effects.append(found.effect)
        plain.append(np.mean(answers[order[:20]] - answers[order[20:]]))
    assert np.var(effects) / np.var(plain) == pytest.approx(1 - 0.7**2, abs=0.16)


def test_trials_are_summed_as_published() -> None:
    """Borenstein, Hedges, Higgins & Rothstein 2009, chapter 14, and statsmodels' combine_effects (DerSimonian & Laird)."""
    effects, variances = [0.095, 0.277, 0.367, 0.664, 0.462, 0.185], [0.033, 0.031, 0.050, 0.011, 0.043, 0.023]
    result = sum_up(effects, variances)
    assert result is not None
    assert (round(result.mean, 3), round(result.between, 3)) == (0.358, 0.036)
    reference = combine_effects(np.array(effects), np.array(variances), method_re="dl").summary_frame()
    assert [result.mean, result.low, result.high] == pytest.approx(
        reference.loc["random effect", ["eff", "ci_low", "ci_upp"]].tolist()
    )
    assert sum_up([], []) is None
    alone = sum_up([0.2], [0.01])
    assert alone is not None
    assert variance_of(alone.low, alone.high) == pytest.approx(0.01)


def test_a_lot_is_drawn_once_and_can_be_made_again() -> None:
    units = flat(list(range(10, 51)), list(range(10, 51)))
    pairs = pairs_of(units)
    assert pairs[0] == (40, 39)
    assert len(pairs) == 20  # the smallest stays out
    changed, unchanged = draw(pairs, 4)
    assert (changed, unchanged) == draw(pairs, 4)
    assert {frozenset(one) for one in zip(changed, unchanged, strict=True)} == {frozenset(one) for one in pairs}
    assert draw(pairs, 5) != draw(pairs, 4)
    assert split_effect(units, changed[:5], unchanged[:5]) is None  # five pairs could never be called at 5 %
    found = split_effect(units, changed, unchanged)
    assert found is not None
    assert len(found.lots) == LOTS


# --- on sites to which nothing was done, and on sites of which the effect is known ----------------------------------------


@pytest.mark.parametrize("tried", [beside_the_untouched, randomised])
@pytest.mark.parametrize("world", WORLDS, ids=lambda world: world.name)
def test_little_is_called_where_nothing_was_done_and_intervals_hold(tried: Tried, world: World) -> None:
    result = [tried(world, seed, 20, 0.0)[0] for seed in range(SITES)]
    assert LEVEL[0] <= np.mean([one.p_value <= 0.05 for one in result]) <= LEVEL[1]
    assert np.mean([one.low <= 0 <= one.high for one in result]) >= 0.91
    assert abs(np.mean([one.effect for one in result])) < 0.04  # it goes neither up nor down by itself


@pytest.mark.parametrize("tried", [beside_the_untouched, randomised])
@pytest.mark.parametrize("pick", [at_random, that_fell, clicked_little], ids=lambda pick: pick.__name__)
def test_what_could_be_seen_is_seen_as_often_as_told(tried: Tried, pick) -> None:  # type: ignore[no-untyped-def]
    result = [tried(World("", pick), seed, 20, 1.0) for seed in range(SITES)]
    assert np.mean([one.p_value <= 0.05 for one, _ in result]) == pytest.approx(0.8, abs=0.11)  # of 100: near three deviations
    assert np.mean([one.low <= there <= one.high for one, there in result]) >= 0.91


def test_a_lot_sees_more_than_standing_beside_the_untouched() -> None:
    made = make(WORLDS[0], 1)
    picked = made.picked.tolist()
    units = compared_units(sides_of(made), "clicks", 1 / 3, randomised=True)
    known = np.isin(units.unit, picked)
    current = Units(units.unit[known], units.answers[known], units.covariates[known], units.counted[known], units.size[known])
    changed, unchanged = draw(pairs_of(current), 1)
    lot = smallest_visible_by_lot(units, changed, unchanged)
    extras = smallest_visible(compared_units(sides_of(made), "clicks", 1 / 3), changed)
    alone = smallest_visible(compared_units(sides_of(made), "clicks", 1 / 3), changed[:1])
    assert lot is not None
    assert extras is not None
    assert alone is not None
    assert lot < extras < alone
