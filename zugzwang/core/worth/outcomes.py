"""What came of a move: its days after beside as many days before, and beside what was not touched.

Three to four weeks are waited for (common practice, no source): four whole weeks after the day of the move where the data reach
so far, else three; as many before it. The day itself is left out. Whole weeks, so that weekdays meet their like.

What would have come without the move is what came of the untouched: of the rows (or pages, or queries, as the move is about)
that no move changed in those weeks, those of its size: a third to three times its clicks before. Fewer than 20 of these: all
that had any clicks. Their clicks after over before are the trend, so a season that moved all of them is not the move's doing.

Beside the untouched stand the unit's own same weeks a year before, where they are loaded: by which factor it moved then beyond
all others (drawn towards 1 where few clicks tell it). Without that a page before its season "was helped" with nothing done.

Rows are picked because they are low, and what is low by chance comes up by itself (regression towards the mean). By how much,
the untouched tell: the slope of their change on how far each stood from its own twelve weeks before those, as covariate (Deng,
Xu, Kohavi & Walker 2013, WSDM). So a row that had fallen is held against others that had fallen as much.

  expected after = clicks before · trend · own season · (clicks before / usual)^slope
  came of it = clicks after − expected
  CTR, position:  (after − before) − (after − before of the untouched), the difference in differences
                  (Card & Krueger 1994, American Economic Review 84:772–793, table 3)

How sure: among the untouched of its size, how many moved as far from the trend by themselves, in either direction. With N of
them and m as far, p = 2 · (m + 1) / (N + 1): no assumption of how clicks scatter, and it cannot claim more than N allows. firm
p ≤ 0.01, likely p ≤ 0.10, else thin. With fewer than 20 the scatter is not known: thin, whatever the counts; what chance alone
makes of them is told beside it, by the score test of two Poisson rates (Gu, Ng, Tang & Schucany 2008).

Worked: 280 clicks before, 420 after, the untouched of its size fell from 5,000 to 4,500 (trend 0.9): expected 252, so 168 came
of it, 6 a day. Of 99 untouched none went as far: p = 0.02, likely.
"""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date, timedelta
from math import erfc, sqrt

import numpy as np
import polars as pl

from zugzwang.core.clicks.evidence import Grade, grades
from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.search import add_up

WEEKS = (4, 3)
ENOUGH_UNTOUCHED = 20
SEASON_CLICKS = 5.0
OWN_SCATTER = 0.05  # squared, of logarithms: what weighs where counts are large
SIZE = 3.0  # times smaller or larger still is of its size


@dataclass(frozen=True)
class Rates:
    """One side of a comparison; a day of one unit, so that one stands beside the mean of many. CTR and position of the sums
    (None without impressions)."""

    clicks: int
    impressions: int
    clicks_a_day: float
    shown_a_day: float
    ctr: float | None
    position: float | None


@dataclass(frozen=True)
class Outcome:
    """`came_of_it`: clicks a day beyond what was expected. `untouched`: how many were compared with; `as_far`: how many of them
    moved as far by themselves. `chance`: how often counts alone would differ so, 0…1."""

    before: Rates
    after: Rates
    untouched_before: Rates
    untouched_after: Rates
    days: int
    untouched: int
    of_its_size: bool
    expected_a_day: float
    came_of_it: float
    ctr_gained: float | None
    places_gained: float | None
    as_far: int
    p_value: float
    chance: float
    evidence: Grade


def windows(made_on: date, last_day: date) -> tuple[Period, Period] | None:
    """The days before and after a move; None while fewer than three weeks of data lie behind it.

    >>> windows(date(2026, 10, 1), date(2026, 10, 22))[1]
    Period(first=datetime.date(2026, 10, 2), last=datetime.date(2026, 10, 22))
    """
    for weeks in WEEKS:
        after = Period(made_on + timedelta(days=1), made_on + timedelta(days=7 * weeks))
        if after.last <= last_day:
            return Period(made_on - timedelta(days=7 * weeks), made_on - timedelta(days=1)), after
    return None


def ready_on(made_on: date) -> date:
    """The last day of the three weeks that are waited for."""
    return made_on + timedelta(days=7 * min(WEEKS))


def outcome(
    before: pl.DataFrame,
    after: pl.DataFrame,
    unit: int,
    touched: Collection[int],
    days: int,
    year_before: tuple[pl.DataFrame, pl.DataFrame] | None = None,
    earlier: pl.DataFrame | None = None,
) -> Outcome | None:
    """What came of a move on `unit`. `before`, `after`: facts (unit, clicks, impressions, position), `days` days each;
    `touched`: units that other moves changed meanwhile; `year_before`: the same two stretches a year earlier, where they are
    loaded; `earlier`: the weeks before `before`, which tell what is usual, likewise. None where it was shown in neither."""
    sides = add_up(before, ["unit"]).join(add_up(after, ["unit"]), on="unit", how="full", coalesce=True, suffix="_after")
    counts = pl.col("clicks", "impressions", "clicks_after", "impressions_after")
    sides = sides.with_columns(counts.fill_null(0))
    sides = sides.with_columns(season=_season(sides, year_before))
    sides = sides.with_columns(season=pl.col("season") * _comes_up(sides, unit, touched, earlier))
    own = sides.filter(pl.col("unit") == unit)
    if own.is_empty():
        return None
    clicks, clicks_after = int(own["clicks"][0]), int(own["clicks_after"][0])
    others = sides.filter(pl.col("unit") != unit, ~pl.col("unit").is_in(list(touched)))
    like = others.filter(pl.col("clicks").is_between(clicks / SIZE, clicks * SIZE), pl.col("clicks") > 0)
    of_its_size = like.height >= ENOUGH_UNTOUCHED
    compared = like if of_its_size else others.filter(pl.col("clicks") > 0)
    total = float((compared["clicks"] * compared["season"]).sum())
    trend = float(compared["clicks_after"].sum()) / total if total else 1.0
    expected = clicks * trend * float(own["season"][0])
    as_far = _as_far(compared, trend, (clicks_after + 0.5) / (expected + 0.5))
    p_value = min(2 * (as_far + 1) / (compared.height + 1), 1.0)
    graded: Grade = str(grades(np.array([p_value]))[0]) if compared.height >= ENOUGH_UNTOUCHED else "thin"  # type: ignore[assignment]
    own_before, own_after = _rates(own, "", days), _rates(own, "_after", days)
    their_before, their_after = _rates(compared, "", days), _rates(compared, "_after", days)
    ctrs = own_before.ctr, own_after.ctr, their_before.ctr, their_after.ctr
    positions = own_before.position, own_after.position, their_before.position, their_after.position
    return Outcome(
        before=own_before,
        after=own_after,
        untouched_before=their_before,
        untouched_after=their_after,
        days=days,
        untouched=compared.height,
        of_its_size=of_its_size,
        expected_a_day=expected / days,
        came_of_it=(clicks_after - expected) / days,
        ctr_gained=difference_in_differences(*ctrs),
        places_gained=_less(difference_in_differences(*positions)),
        as_far=as_far,
        p_value=p_value,
        chance=rates_differ(clicks_after, trend * float(own["season"][0]), clicks, 1.0),
        evidence=graded,
    )


def _season(sides: pl.DataFrame, year_before: tuple[pl.DataFrame, pl.DataFrame] | None) -> pl.Series:
    """The factor by which each unit moved beyond all others in the same weeks a year before; 1 where that year is not loaded.
    What few clicks tell is drawn towards 1, as if `SEASON_CLICKS` more had told nothing."""
    if year_before is None:
        return pl.Series("season", np.ones(sides.height))
    then, then_after = (one.group_by("unit").agg(pl.col("clicks").cast(pl.Float64).sum()) for one in year_before)
    held = sides.select("unit").join(then, on="unit", how="left", maintain_order="left")
    held = held.join(then_after, on="unit", how="left", suffix="_after", maintain_order="left").fill_null(0.0)
    clicks, clicks_after = (held[name].to_numpy() for name in ("clicks", "clicks_after"))
    if not clicks.sum() or not clicks_after.sum():
        return pl.Series("season", np.ones(sides.height))
    moved = np.log((clicks_after + 0.5) / (clicks + 0.5)) - np.log(clicks_after.sum() / clicks.sum())
    told = 1 / (1 / (clicks + 0.5) + 1 / (clicks_after + 0.5))
    return pl.Series("season", np.exp(moved * told / (told + SEASON_CLICKS)))


def _comes_up(sides: pl.DataFrame, unit: int, touched: Collection[int], earlier: pl.DataFrame | None) -> pl.Series:
    """The factor by which each unit comes up (or down) by itself for having stood below (or above) its usual level; 1 where the
    days before are not loaded. The slope is that of the untouched, between none and all of the way back."""
    if earlier is None:
        return pl.Series("factor", np.ones(sides.height))
    usual = earlier.group_by("unit").agg(usual=pl.col("clicks").cast(pl.Float64).sum())
    held = sides.join(usual, on="unit", how="left", maintain_order="left").with_columns(pl.col("usual").fill_null(0.0))
    before, after, then, season = (held[name].to_numpy() for name in ("clicks", "clicks_after", "usual", "season"))
    stood = np.log((before + 0.5) / (then + 0.5))
    moved = np.log((after + 0.5) / (before * season + 0.5))
    others = ~held["unit"].is_in([unit, *touched]).to_numpy() & (before > 0) & (then > 0)
    if others.sum() < ENOUGH_UNTOUCHED:
        return pl.Series("factor", np.ones(sides.height))
    weight = 1 / (1 / (before[others] + 0.5) + 1 / (then[others] + 0.5) + OWN_SCATTER)
    middle = np.average(stood[others], weights=weight)
    apart = stood[others] - middle
    slope = np.average(apart * moved[others], weights=weight) / max(np.average(apart**2, weights=weight), 1e-9)
    return pl.Series("factor", np.exp(np.clip(slope, -1.0, 0.0) * (stood - middle)))


def difference_in_differences(
    before: float | None, after: float | None, untouched_before: float | None, untouched_after: float | None
) -> float | None:
    """(after − before) − (untouched after − untouched before); None where one of them does not exist.

    >>> round(difference_in_differences(20.44, 21.03, 23.33, 21.17), 2)
    2.75
    """
    if before is None or after is None or untouched_before is None or untouched_after is None:
        return None
    return (after - before) - (untouched_after - untouched_before)


def rates_differ(count: float, exposure: float, other: float, other_exposure: float) -> float:
    """The two-sided score test that two Poisson rates are equal, as a p-value; 1 where nothing was counted.

    >>> round(rates_differ(60, 51477.5, 30, 54308.7), 5)
    0.00063
    """
    if not count + other or not exposure or not other_exposure:
        return 1.0
    ratio = exposure / other_exposure
    z = abs(count - ratio * other) / sqrt((count + other) * ratio)
    return erfc(z / sqrt(2))


def _as_far(compared: pl.DataFrame, trend: float, factor: float) -> int:
    """How many of the untouched went as far from the trend, in the direction of `factor`."""
    factors = (pl.col("clicks_after") + 0.5) / (pl.col("clicks") * pl.col("season") * trend + 0.5)
    further = factors >= factor if factor >= 1 else factors <= factor
    return compared.filter(further).height


def _rates(sides: pl.DataFrame, ending: str, days: int) -> Rates:
    clicks, impressions = int(sides[f"clicks{ending}"].sum()), int(sides[f"impressions{ending}"].sum())
    ranks = float((sides[f"position{ending}"] * sides[f"impressions{ending}"]).sum())
    return Rates(
        clicks,
        impressions,
        clicks / days / max(sides.height, 1),
        impressions / days / max(sides.height, 1),
        clicks / impressions if impressions else None,
        ranks / impressions if impressions else None,
    )


def _less(value: float | None) -> float | None:
    """A position that falls in number has gained places."""
    return None if value is None else -value
