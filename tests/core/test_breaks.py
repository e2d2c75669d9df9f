"""Breaks: the Nile falls after 1898; planted breaks are found to the week; seasons and chance are not."""

import warnings

import numpy as np
import polars as pl
import pytest
import ruptures

from worlds.breaks import HALVED, WORLDS, World, make
from zugzwang.core.time.breaks import (
    PENALTY,
    SPELL_WEEKS,
    breaks,
    find_breaks,
    half_lost_noticed,
    noise,
    read_series,
    shared_movement,
)

WEEKS = list(range(70))


def test_the_nile_falls_after_1898() -> None:
    """Cobb 1978, Biometrika 65:243–251: the annual flow of the Nile 1871–1970 (statsmodels datasets.nile)."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        from statsmodels.datasets import nile
    flow = nile.load_pandas().data["volume"].to_numpy(dtype=float)
    scaled = (flow / noise(flow)).reshape(-1, 1)
    ends = ruptures.KernelCPD(kernel="linear", min_size=SPELL_WEEKS).fit(scaled).predict(pen=PENALTY * np.log(flow.size))
    assert [1871 + end for end in ends[:-1]] == [1899]


def planted(seed: int, pages: int = 300) -> tuple[pl.DataFrame, dict[int, tuple[int, float]]]:
    """Weekly clicks of pages with a common season and trend, individual scatter, and some with a break."""
    rng = np.random.default_rng(seed)
    week = np.arange(len(WEEKS))
    shared = 0.7 * np.cos(2 * np.pi * (week - 20) / 52) + 0.003 * week
    plants: dict[int, tuple[int, float]] = dict.fromkeys(range(5), (48, 0.3))  # the cliff
    plants |= {page: (int(rng.integers(12, 58)), float(rng.choice([0.4, 0.45, 2.2]))) for page in range(5, 29)}
    rows = []
    for page in range(pages):
        level = rng.uniform(30, 400) if page in plants else np.exp(rng.uniform(np.log(2), np.log(400)))
        mean = level * np.exp(shared + rng.normal(0, 0.12, week.size))
        if page in plants:
            at, factor = plants[page]
            mean[at:] *= factor
        rows += [(page, int(one), int(count)) for one, count in zip(week, rng.poisson(mean), strict=True)]
    return pl.DataFrame(rows, schema=["name", "week", "count"], orient="row"), plants


@pytest.mark.parametrize("seed", range(4))
def test_planted_breaks_are_found_to_the_week_and_next_to_nothing_else(seed: int) -> None:
    weekly, plants = planted(seed)
    found = breaks(read_series(weekly, WEEKS))
    cliff = found.filter(pl.col("name") < 5, pl.col("week") == 48)
    assert cliff["name"].n_unique() == 5
    assert cliff["size"].to_numpy() == pytest.approx(-0.7, abs=0.18)
    near = [
        any(
            abs(week - plants[page][0]) <= 1 and (size > 0) == (plants[page][1] > 1)
            for week, size in found.filter(pl.col("name") == page).select("week", "size").iter_rows()
        )
        for page in plants
    ]
    assert np.mean(near) >= 0.95
    controls = set(range(300)) - set(plants)
    assert len(controls & set(found["name"])) <= 0.05 * len(controls)


def test_an_event_of_a_section_is_a_fall_of_the_section_and_no_rise_of_the_rest() -> None:
    """Sixty of 160 pages lose two thirds in one week, next to a common season: the common series must not follow the fall, or
    the rest would seem to rise.
    """
    rng = np.random.default_rng(5)
    season = 0.4 * np.cos(2 * np.pi * np.arange(70) / 52)
    fall = np.where(np.arange(70) >= 40, 0.35, 1.0)
    rows = []
    for page in range(160):
        mean = 80 * np.exp(season + rng.normal(0, 0.1, 70)) * (fall if page < 60 else 1.0)
        rows += [(page, week, int(count)) for week, count in enumerate(rng.poisson(mean))]
    pages = pl.DataFrame(rows, schema=["name", "week", "count"], orient="row")
    section = pl.when(pl.col("name") < 60).then(pl.lit("boats")).otherwise(pl.lit("rest")).alias("name")
    sections = pages.group_by(section, "week").agg(pl.col("count").sum())
    result = breaks(read_series(sections, WEEKS, pages))
    assert result.select("name", "week").rows() == [("boats", 40)]
    assert result["size"][0] == pytest.approx(-0.65, abs=0.15)
    found = breaks(read_series(pages, WEEKS))
    assert set(found.filter(pl.col("size") < 0)["name"]) >= set(range(55))
    assert found.filter(pl.col("size") > 0).height <= 3


FALSE_BREAKS = list(zip(WORLDS, (1, 3, 15, 40, 40), strict=True))


@pytest.mark.parametrize(("world", "most"), FALSE_BREAKS, ids=[world.name for world in WORLDS])
def test_a_hundred_pages_in_which_nothing_breaks(world: World, most: int) -> None:
    """False breaks by chance, with memory, slow trends, individual seasons and random walks; the mean of three sites."""
    assert np.mean([breaks(read_series(make(world, seed).weekly, range(70))).height for seed in range(3)]) <= most


def test_what_could_be_found_is_what_is_found_of_pages_of_forty_clicks() -> None:
    """Pages that lose half of forty clicks a week: a fall that has lasted six weeks is found on nearly all pages where noise
    has no memory, on few where it has; a page of eight clicks a week cannot show it.
    """
    result = []
    for world in HALVED:
        forty = make(world, 0).weekly.filter(pl.col("name") < world.halved)
        result.append(half_lost_noticed(read_series(forty, range(70))))
    assert result[0] >= 0.9
    assert result[1] <= 0.5
    few = pl.DataFrame([(0, week, 8) for week in WEEKS], schema=["name", "week", "count"], orient="row")
    assert half_lost_noticed(read_series(few, WEEKS)) == 0


def test_half_of_forty_clicks_a_week_is_noticed() -> None:
    made = make(HALVED[0], 3)
    found = breaks(read_series(made.weekly, range(70))).filter(pl.col("size") < 0)
    near = [
        any(abs(week - at) <= 2 for week in found.filter(pl.col("name") == page)["week"]) for page, at in made.broke.items()
    ]
    assert np.mean(near) >= 0.65


def test_the_numbers_beside_a_break_are_those_of_the_weeks() -> None:
    rng = np.random.default_rng(6)
    counts = rng.poisson(np.where(np.arange(70) < 30, 120.0, 40.0))
    ((one,),) = find_breaks(counts.astype(np.float64).reshape(1, -1), np.zeros(70))
    assert (one.week, one.before, one.after) == (30, np.median(counts[24:30]), np.median(counts[30:36]))


def test_too_little_says_nothing() -> None:
    few = pl.DataFrame({"name": [1] * 7, "week": range(7), "count": [90, 90, 90, 5, 5, 5, 5]})
    assert breaks(read_series(few, list(range(7)))).is_empty()
    rng = np.random.default_rng(1)
    rare = pl.DataFrame(
        {"name": np.repeat(np.arange(50), 70), "week": np.tile(np.arange(70), 50), "count": rng.poisson(0.3, 3500)}
    )
    assert breaks(read_series(rare, WEEKS)).is_empty()


def test_what_pages_share_is_the_median_distance_from_their_own_level() -> None:
    counts = np.array([[9.5, 19.5, 19.5], [99.5, 199.5, 199.5], [9.5, 9.5, 0.5]])
    assert shared_movement(counts) == pytest.approx([-np.log(2), 0, 0])


def test_a_season_of_its_own_is_no_break_once_a_year_has_shown_it() -> None:
    """A page that loses two thirds each September, unlike the others: a break in the first year, a season in the second."""
    rng = np.random.default_rng(2)
    summer = np.where((np.arange(70) % 52 >= 8) & (np.arange(70) % 52 < 34), 0.35, 1.0)
    rows = [
        (page, week, int(rng.poisson(90 * (summer[week] if page == 0 else 1.0)))) for page in range(40) for week in range(70)
    ]
    found = breaks(read_series(pl.DataFrame(rows, schema=["name", "week", "count"], orient="row"), WEEKS)).filter(
        pl.col("name") == 0
    )
    assert found["week"].sort().to_list() == [8, 34]  # the fall of week 60 is as that of week 8
