"""The decomposition of a change: Ang's worked example by hand, exactness for any data, and planted falls attributed to the
right part.
"""

import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from worlds import changes as changes_worlds
from zugzwang.core.time.change import PARTS, change, log_mean, rolled_up, split

SCHEMA = {"page": pl.UInt32, "query": pl.UInt32, "clicks": pl.Int64, "impressions": pl.Int64, "expected_clicks": pl.Float64}


def frame(*rows: tuple[int, int, int, int, float]) -> pl.DataFrame:
    return pl.DataFrame(rows, schema=SCHEMA, orient="row").with_columns(position=pl.lit(5.0))


def test_the_two_factor_case_by_hand() -> None:
    """Ang 2005, Energy Policy 33:867–871: 100·0.05 → 200·0.04; the logarithmic mean of 5 and 8 is 6.3829."""
    assert log_mean(np.array([8.0]), np.array([5.0]))[0] == pytest.approx(6.3829, abs=5e-5)
    assert log_mean(np.array([7.0]), np.array([7.0]))[0] == 7.0
    demand, rate = split([np.array([100.0]), np.array([0.05])], [np.array([200.0]), np.array([0.04])])
    assert (demand[0], rate[0]) == (pytest.approx(4.42, abs=5e-3), pytest.approx(-1.42, abs=5e-3))
    assert demand[0] + rate[0] == pytest.approx(3.0)


positive = st.floats(1e-3, 1e6)
factors = st.lists(st.tuples(positive, positive, positive), min_size=1, max_size=5)


@given(factors, st.data())
def test_parts_of_any_positive_product_sum_to_its_change(before: list[tuple[float, ...]], data: st.DataObject) -> None:
    after = data.draw(st.lists(st.tuples(positive, positive, positive), min_size=len(before), max_size=len(before)))
    then, now = (list(np.array(entry, dtype=np.float64).T) for entry in (before, after))
    parts = split(then, now)
    moved = np.prod(now, axis=0) - np.prod(then, axis=0)
    scale = np.maximum(np.prod(now, axis=0), np.prod(then, axis=0))
    assert np.abs(np.sum(parts, axis=0) - moved).max() <= 1e-6 * max(float(scale.max()), 1.0)
    backwards = split(now, then)
    assert np.allclose(np.array(parts), -np.array(backwards), rtol=1e-6, atol=1e-6 * float(scale.max()))


shown = st.tuples(st.integers(0, 3), st.integers(0, 3), st.integers(0, 40), st.integers(1, 400), st.floats(0.01, 90))


@given(
    st.lists(shown, max_size=12, unique_by=lambda row: row[:2]),
    st.lists(shown, max_size=12, unique_by=lambda row: row[:2]),
    st.floats(0.2, 50),
)
def test_rows_of_any_kind_sum_to_the_click(before: list[tuple], after: list[tuple], shape: float) -> None:  # type: ignore[type-arg]
    rows = change(frame(*before), frame(*after), shape)
    named = [part for part in PARTS if part != "anonymised"]
    difference = rows.select(pl.sum_horizontal(named) - (pl.col("clicks_after") - pl.col("clicks_before"))).to_series()
    assert difference.abs().max() is None or float(difference.abs().max()) < 1e-6  # type: ignore[arg-type]
    totals = pl.DataFrame(
        {"page": pl.Series([0, 1, 2, 3], dtype=pl.UInt32), "clicks_before": [500] * 4, "clicks_after": [700] * 4}
    )
    by_page = rolled_up(rows, ["page"], totals)
    assert by_page.select(pl.sum_horizontal(PARTS)).to_series().to_list() == pytest.approx([200] * 4, abs=1e-6)


def test_rows_that_come_and_go_are_parts_of_their_own() -> None:
    rows = change(frame((1, 1, 9, 90, 9.0)), frame((1, 2, 4, 40, 4.0)), 5.0).sort("query")
    assert rows["lost_queries"].to_list() == [-9, 0]
    assert rows["new_queries"].to_list() == [0, 4]
    total = rolled_up(rows, ["page"]).to_dicts()[0]
    assert (total["clicks_before"], total["clicks_after"], total["shown"]) == (9, 4, 0)


def test_a_row_with_many_clicks_is_split_as_ang_tells() -> None:
    rows = change(frame((1, 1, 50_000, 1_000_000, 50_000.0)), frame((1, 1, 80_000, 2_000_000, 100_000.0)), 5.0)
    assert rows["shown"][0] == pytest.approx(44_200, rel=2e-3)
    assert rows["snippet"][0] == pytest.approx(-14_200, rel=5e-3)
    assert rows["rank"][0] == pytest.approx(0, abs=1)


def test_a_row_that_slips_over_the_edge_of_page_one_is_told_as_place_or_demand() -> None:
    """1,000 impressions at position 9, then 300 at 12: fewer searches or fewer people who saw it; the data cannot say."""
    before = frame((1, 1, 20, 1_000, 20.0)).with_columns(position=pl.lit(9.0))
    after = frame((1, 1, 4, 300, 4.0)).with_columns(position=pl.lit(12.0))
    result = change(before, after, 1e6).row(0, named=True)
    assert result["shown"] == 0
    assert result["rank_or_demand"] < -5
    stayed = change(before, after.with_columns(position=pl.lit(9.4)), 1e6).row(0, named=True)
    assert (stayed["shown"], stayed["rank_or_demand"]) == (pytest.approx(result["rank_or_demand"]), 0)


def test_another_mix_of_devices_is_a_part_of_its_own() -> None:
    """By hand: at the same ranks desktops earn 0.10 and phones 0.05 clicks an impression. From half and half to phones alone
    at 1,000 impressions: 75 → 50 clicks, all due to devices, none to ranks.
    """
    half = pl.DataFrame({"shown_1": [500], "expected_1": [50.0], "shown_2": [500], "expected_2": [25.0]})
    phones = pl.DataFrame({"shown_1": [0], "expected_1": [0.0], "shown_2": [1_000], "expected_2": [50.0]})
    before, after = (
        pl.concat([frame((1, 1, clicks, 1_000, float(clicks))), devices], how="horizontal")
        for clicks, devices in ((75, half), (50, phones))
    )
    result = change(before, after, 1e6).row(0, named=True)
    assert result["device_mix"] == pytest.approx(-25, rel=1e-3)
    assert result["rank"] == pytest.approx(0, abs=1e-6)
    assert sum(result[part] for part in PARTS if part != "anonymised") == pytest.approx(-25)


PLANTS = {"shown": (0.4, 1.0, 1.0), "rank": (1.0, 0.4, 1.0), "snippet": (1.0, 1.0, 0.4)}


@pytest.mark.parametrize("seed", range(3))
def test_planted_falls_are_put_down_to_the_right_part(seed: int) -> None:
    """Pages of 30 queries, most with a click or two: 90 % of falls must be explained mainly by what was planted."""
    rng = np.random.default_rng(seed)
    plants = [name for name in PLANTS for _ in range(40)]
    before, after = [], []
    for page, name in enumerate(plants):
        by_shown, by_rank, by_snippet = PLANTS[name]
        for query in range(30):
            factor, shown_before, rate = rng.gamma(6, 1 / 6), rng.pareto(1.0) * 60 + 5, rng.uniform(0.01, 0.08)
            n0, n1 = rng.poisson(shown_before) + 1, rng.poisson(shown_before * by_shown) + 1
            before.append((page, query, int(rng.binomial(n0, min(rate * factor, 0.9))), int(n0), n0 * rate))
            rate_after = rate * by_rank
            clicks = int(rng.binomial(n1, min(rate_after * factor * by_snippet, 0.9)))
            after.append((page, query, clicks, int(n1), n1 * rate_after))
    by_page = rolled_up(change(frame(*before), frame(*after), 6.0), ["page"]).sort("page")
    largest = by_page.select(pl.concat_list(*PLANTS).list.arg_min()).to_series().to_list()
    right = [list(PLANTS)[place] == name for place, name in zip(largest, plants, strict=True)]
    assert np.mean(right) >= 0.9


def test_rows_that_are_hardly_clicked_do_not_put_demand_down_to_snippets() -> None:
    """300 rows at 0.4 of their demand, most without a click in one period: a plain logarithm would attribute the fall to the
    snippet.
    """
    rng = np.random.default_rng(4)
    before = [(1, query, int(rng.poisson(0.5)), 25, 0.5) for query in range(300)]
    after = [(1, query, int(rng.poisson(0.2)), 10, 0.2) for query in range(300)]
    result = rolled_up(change(frame(*before), frame(*after), 6.0), ["page"]).to_dicts()[0]
    assert result["shown"] == pytest.approx(-300 * (0.5 - 0.2), rel=0.1)


@pytest.mark.parametrize("world", changes_worlds.WORLDS, ids=lambda world: world.name)
def test_places_lost_are_not_told_as_demand(world: changes_worlds.World) -> None:
    """Where only positions change, at most 15 % of lost clicks are attributed to demand alone; where only demand changes,
    nearly all.
    """
    made = changes_worlds.make(world, 0)
    result = change(made.before, made.after, 10.0)
    lost = float((result["clicks_after"].cast(pl.Int64) - result["clicks_before"].cast(pl.Int64)).sum())
    of_demand = float(result["shown"].sum()) / lost
    assert of_demand >= 0.9 if world.less < 1 else of_demand <= 0.15
