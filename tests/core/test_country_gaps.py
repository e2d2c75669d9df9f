"""Gaps between countries: against scipy's t-test, on planted gaps, and in worlds without any."""

from datetime import date, timedelta

import numpy as np
import polars as pl
import pytest
from scipy import stats

from zugzwang.core.clicks.country_gaps import country_gaps
from zugzwang.core.facts.search import add_up

FIRST = date(2026, 8, 3)  # a Monday
WEEKS = 13


def world(seed: int, scatter: float, gap: float = 0.0, queries: int = 200, weeks: int = WEEKS) -> pl.DataFrame:
    """Queries in two countries; positions drift together and scatter separately. `gap`: how much worse the first twenty
    queries rank in country 2.
    """
    rng = np.random.default_rng(seed)
    query, week, country = (one.ravel() for one in np.meshgrid(range(queries), range(weeks), (1, 2), indexing="ij"))
    common = rng.normal(10, 3, queries)[query] + rng.normal(0, 2, (queries, weeks))[query, week]
    planted = np.where((query < 20) & (country == 2), gap, 0.0)
    shown = rng.poisson(40, query.size) + 1
    position = np.maximum(common + planted + rng.normal(0, scatter, query.size), 1.0)
    days = [FIRST + timedelta(days=7 * int(one)) for one in week]
    result = {
        "day": days,
        "query": query,
        "country": country,
        "clicks": shown // 20,
        "impressions": shown,
        "position": position,
    }
    return pl.DataFrame(result)


def test_a_pair_against_the_t_test_of_scipy() -> None:
    """Differences that alternate have no autocorrelation, so each week counts fully."""
    facts = world(1, scatter=0.0, gap=3.0, queries=1).sort("day", "country")
    off = np.array([[0.0, (0.3 + number / 20) * (-1) ** number] for number in range(WEEKS)]).ravel()
    facts = facts.with_columns(position=pl.col("position") + pl.Series(off))
    found, tested = country_gaps(facts, 1)
    assert (found["country"].to_list(), tested) == ([2], 2)
    row = found.row(0, named=True)
    here, there = (facts.filter(pl.col("country") == one)["position"].to_numpy() for one in (2, 1))
    # Two pairs were tested; the other way round the chance is almost one.
    assert row["q_value"] == pytest.approx(2 * stats.ttest_1samp(here - there, 0, alternative="greater").pvalue)
    sides = {one["country"]: one["position"] for one in add_up(facts, ["country"]).to_dicts()}
    shown = facts.filter(pl.col("country") == 2)["impressions"].sum()
    assert row["share_shown"] == pytest.approx(shown / facts["impressions"].sum())
    assert (row["position"], row["elsewhere"]) == (pytest.approx(sides[2]), pytest.approx(sides[1]))


def test_planted_gaps_are_found() -> None:
    found, _ = country_gaps(world(2, scatter=1.0, gap=4.0), 100)
    assert set(found["query"]) == set(range(20))
    assert set(found["country"]) == {2}


@pytest.mark.parametrize("scatter", [1.0, 3.0])
@pytest.mark.parametrize("wander", [0.0, 0.5, 0.9])
def test_nothing_is_claimed_where_nothing_is(scatter: float, wander: float) -> None:
    """Worlds in which each country's positions drift for weeks, with heavy tails: at most 0.1 % of pairs claimed."""
    claimed = 0
    for seed in range(5):
        rng = np.random.default_rng(seed)
        off = rng.standard_t(2.5, (200, WEEKS, 2))
        for week in range(1, WEEKS):
            off[:, week] = wander * off[:, week - 1] + np.sqrt(1 - wander**2) * off[:, week]
        facts = world(seed, scatter=0.0).sort("query", "day", "country")
        moved = np.maximum(facts["position"].to_numpy() + scatter * off.ravel(), 1.0)
        claimed += country_gaps(facts.with_columns(position=pl.Series(moved)), 100)[0].height
    assert claimed <= 2  # of 2,000


def test_what_cannot_be_told_is_not() -> None:
    facts = world(3, scatter=0.1, gap=5.0)
    assert country_gaps(facts.filter(pl.col("day") < FIRST + timedelta(days=7 * 7)), 100)[1] == 0  # seven weeks
    assert country_gaps(facts, 100_000)[1] == 0
    assert country_gaps(facts.with_columns(country=pl.lit(0)), 1)[1] == 0  # country not reported
    assert country_gaps(facts.filter(pl.col("country") == 2), 1)[1] == 0  # nothing to compares it with
    assert country_gaps(facts.clear(), 1)[0].height == 0
