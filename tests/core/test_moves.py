"""Moves: their order, their joint gain, and their results."""

from collections.abc import Iterable
from datetime import date, timedelta

import numpy as np
import polars as pl
import pytest

from zugzwang.core.facts.periods import Period
from zugzwang.core.trials.units import SIDES
from zugzwang.core.worth.moves import Suggestion, gain_for_effort, gain_together, suggested_by_lever, suggested_for_clash
from zugzwang.core.worth.outcomes import Outcome, difference_in_differences, outcome, rates_differ, windows


def test_a_difference_in_differences_as_published() -> None:
    """Card & Krueger 1994, American Economic Review 84:772–793, table 3: employment in two states before and after."""
    assert difference_in_differences(20.44, 21.03, 23.33, 21.17) == pytest.approx(2.75, abs=0.005)
    assert difference_in_differences(20.44, None, 23.33, 21.17) is None


def test_two_rates_as_published() -> None:
    """Gu, Ng, Tang & Schucany 2008: 60 in 51,477.5 against 30 in 54,308.7, score p = 0.00063 (also statsmodels
    test_poisson_2indep)."""
    assert rates_differ(60, 51_477.5, 30, 54_308.7) == pytest.approx(0.00063, abs=0.00001)
    assert rates_differ(30, 54_308.7, 60, 51_477.5) == pytest.approx(0.00063, abs=0.00001)
    assert rates_differ(0, 1.0, 0, 1.0) == 1.0


def test_three_weeks_are_waited_for_and_four_are_taken_where_they_are() -> None:
    made = date(2026, 10, 1)
    assert windows(made, made + timedelta(days=20)) is None
    three, four = windows(made, made + timedelta(days=27)), windows(made, made + timedelta(days=60))
    assert three == (Period(date(2026, 9, 10), date(2026, 9, 30)), Period(date(2026, 10, 2), date(2026, 10, 22)))
    assert four is not None
    assert [one.days for one in four] == [28, 28]


Row = tuple[int, int, float]  # clicks, impressions, position


def facts(rows: dict[int, Row]) -> pl.DataFrame:
    current = [(unit, clicks, impressions, position) for unit, (clicks, impressions, position) in rows.items()]
    return pl.DataFrame(current, schema=["unit", "clicks", "impressions", "position"], orient="row")


def sides(before: pl.DataFrame, after: pl.DataFrame, **others: pl.DataFrame) -> pl.DataFrame:
    """Both sides, and those of the `others` that are known: usual, year_before, year_after."""
    rows = pl.concat([before.select("unit"), after.select("unit")]).unique().sort("unit")
    for side in SIDES:
        frame = {"before": before, "after": after, **others}.get(side, before.clear())
        named = frame.rename({name: f"{name}_{side}" for name in ("clicks", "impressions", "position")})
        rows = rows.join(named, on="unit", how="left", maintain_order="left")
    return rows.with_columns(expected_before=pl.lit(None, dtype=pl.Float64))


def came_of(before: dict[int, Row], after: dict[int, Row], unit: int = 1, touched: Iterable[int] = ()) -> Outcome | None:
    return outcome(sides(facts(before), facts(after)), unit, list(touched), 28, 1 / 3)


def test_what_came_of_a_move_is_beyond_what_came_of_the_untouched() -> None:
    """The module's worked example: 280 → 420 while 99 others fall by a tenth."""
    before, after = {1: (280, 2800, 6.0)}, {1: (420, 2800, 4.0)}
    for unit in range(2, 101):
        before[unit], after[unit] = (280, 2800, 5.0), (252, 2800, 5.5)
    result = came_of(before, after)
    assert result is not None
    assert result.expected_a_day == pytest.approx(9.0, abs=0.01)
    assert result.result_clicks == pytest.approx(6.0, abs=0.01)
    assert result.controls_after.clicks_a_day == pytest.approx(252 / 28)  # of one of them, not of all
    assert result.ctr_gained == pytest.approx(0.05 + 0.01)
    assert result.positions_gained == pytest.approx(2.5)  # two positions of its own, half a place that the others lost
    assert (result.controls, result.as_far) == (99, 0)
    assert result.p_value == pytest.approx(0.02)
    assert result.evidence == "likely"


def test_what_other_moves_touched_is_no_measure() -> None:
    before = dict.fromkeys(range(1, 42), (100, 1000, 5.0))
    after = before | {1: (200, 1000, 5.0)} | dict.fromkeys(range(2, 12), (300, 1000, 5.0))
    alone, with_them = came_of(before, after, touched=range(2, 12)), came_of(before, after)
    assert alone is not None
    assert with_them is not None
    assert (alone.controls, alone.as_far) == (30, 0)
    assert alone.result_clicks == pytest.approx(100 / 28, abs=0.02)
    assert with_them.as_far == 10
    assert with_them.evidence == "too little data"


def test_too_few_untouched_make_no_finding_and_say_what_chance_does() -> None:
    before = dict.fromkeys(range(1, 30), (100, 1000, 5.0))
    result = came_of(before, before | {1: (400, 1000, 5.0)})
    assert result is not None
    assert (result.evidence, result.low, result.high) == ("too little data", None, None)
    assert result.result_clicks == pytest.approx(300 / 28)
    assert result.chance < 0.001
    assert came_of(before, before, unit=99) is None


def test_moves_that_did_nothing_are_seldom_said_to_have_worked() -> None:
    """400 rows with scatter of shape 30 and Poisson counts, none of them changed: hardly more than one in twenty likely, about
    one in a hundred firm; most intervals contain zero; a doubled row is mostly found.
    """
    rng = np.random.default_rng(5)
    level = rng.gamma(1.5, 60, 400) + 10
    one, other = rng.poisson(level), rng.poisson(level * rng.gamma(30, 1 / 30, 400))
    before, after = (facts({n: (int(k), int(k) * 10 + 10, 5.0) for n, k in enumerate(side)}) for side in (one, other))
    current = sides(before, after)
    found = [rows for unit in range(400) if (rows := outcome(current, unit, [], 28, 1 / 3))]
    assert sum(one.evidence != "too little data" for one in found) / len(found) <= 0.065
    assert sum(one.evidence == "firm" for one in found) / len(found) <= 0.02
    holds = [one.low <= 0 <= one.high for one in found if one.low is not None and one.high is not None]
    assert np.mean(holds) == pytest.approx(0.95, abs=0.02)
    doubled = 0
    for unit in range(40):
        twice = pl.when(pl.col("unit") == unit).then(pl.col("clicks_after") * 2).otherwise(pl.col("clicks_after"))
        rows = outcome(current.with_columns(clicks_after=twice), unit, [], 28, 1 / 3)
        doubled += rows is not None and rows.evidence != "too little data"
    assert doubled >= 25


def helped(rows: pl.DataFrame, units: Iterable[int]) -> float:
    """The share of units reported as improved."""
    result = [outcome(rows, int(unit), [], 28, 1 / 3) for unit in units]
    return float(np.mean([one is not None and one.evidence != "too little data" and one.result_clicks > 0 for one in result]))


def test_a_page_before_its_season_was_not_helped() -> None:
    """One in twenty of 800 pages doubles in these weeks every year without a change: most would be called a success; with the
    year before, few are.
    """
    rng = np.random.default_rng(8)
    level = rng.lognormal(4.0, 0.8, 800)
    season = np.where(np.arange(800) % 20 == 0, 2.0, 1.0)

    def counts(mean: np.ndarray) -> pl.DataFrame:
        scattered = rng.poisson(mean * rng.lognormal(0, 0.1, 800))
        return facts({page: (int(clicks), int(clicks) * 20 + 1, 5.0) for page, clicks in enumerate(scattered)})

    then, then_after, before, after = (counts(level * factor) for factor in (1.0, season, 1.1, 1.1 * season))
    before_their_season = range(0, 800, 20)
    assert helped(sides(before, after), before_their_season) >= 0.5
    assert helped(sides(before, after, year_before=then, year_after=then_after), before_their_season) <= 0.1


def test_rows_picked_because_they_fell_come_up_by_themselves() -> None:
    """The 40 pages that fell most of 800, unchanged, are compared with others that fell as much."""
    rng = np.random.default_rng(5)
    level = rng.lognormal(4.0, 0.8, 800)
    usual, before, after = (
        facts({page: (int(k), int(k) * 20 + 1, 5.0) for page, k in enumerate(rng.poisson(level * rng.lognormal(0, 0.25, 800)))})
        for _ in range(3)
    )
    fell = np.argsort((before["clicks"].to_numpy() + 1) / (usual["clicks"].to_numpy() + 1))[:40]
    thrice = usual.with_columns(pl.col("clicks") * 3)  # twelve weeks of it
    assert helped(sides(before, after, usual=thrice), fell) <= 0.1


def test_the_order_is_gain_for_effort() -> None:
    assert gain_for_effort(40.0, "hour") > gain_for_effort(200.0, "day") > gain_for_effort(400.0, "week") > 0
    assert gain_for_effort(None, "hour") == 0


def test_moves_together_count_nothing_twice() -> None:
    """A page's move with moves for its rows (the worked example), a row with two moves, and a clash over a query."""
    assert gain_together([(1, None, 40.0), (1, 5, 30.0), (1, 6, 20.0)]) == 50.0
    assert gain_together([(1, None, 90.0), (1, 5, 30.0), (1, 6, 20.0)]) == 90.0
    assert gain_together([(1, 5, 30.0), (1, 5, 25.0)]) == 30.0
    assert gain_together([(1, 5, 30.0), (None, 9, 12.0), (None, 9, 10.0)]) == 42.0


def test_without_a_finding_the_largest_lever_decides() -> None:
    assert suggested_by_lever({"snippet": 5.0, "rank": 9.0, "unite": 1.0}) == Suggestion("deepen", "day", "all")
    assert suggested_by_lever({"unite": 3.0}).kind == "unite"
    assert suggested_for_clash("retire").kind == "retire"
    assert suggested_for_clash("accept").kind == "other"
