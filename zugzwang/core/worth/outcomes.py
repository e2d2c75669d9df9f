"""The result of a move: the days after compared with as many days before, and with control pages, as in a test
(core.trials.effect).

A move is measured after three to four weeks (common practice, no source): four whole weeks after its day where the data
reach so far, otherwise three; as many before it. The day itself is left out. Whole weeks keep weekdays balanced.

The clicks without the move are predicted from control pages nearest in size, given their usual clicks, their clicks just
before, their distance below the site's curve, and their change in the same weeks a year earlier. A page picked because it
was low, had fallen, or is near its season recovers by itself, as similar pages do.

  result = clicks after − expected,  expected = (clicks after + ½) / exp(effect) − ½
  CTR, position:  (after − before) − (after − before of the controls), the difference in differences
                  (Card & Krueger 1994, American Economic Review 84:772–793, table 3)

Certainty: the move is assigned to each of up to 200 controls instead. p = 2 · (1 + controls that moved as far, in its
direction) / (1 + controls): it assumes nothing about the scatter of clicks, and cannot claim more than their number allows.
firm p ≤ 0.01, likely p ≤ 0.05, otherwise too little data. With fewer than 30 controls the scatter is unknown: too little
data, whatever the counts; the chance from counting alone is reported too, by the score test of two Poisson rates (Gu, Ng,
Tang & Schucany 2008).

Example: 280 clicks before, 420 after; 99 similar pages fell by a tenth: expected 252, so the result is 168, 6 a day; none
of them moved as far: p = 0.02.
"""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date, timedelta
from math import erfc, exp, sqrt

import polars as pl

from zugzwang.core.clicks.evidence import Grade
from zugzwang.core.facts.periods import Period
from zugzwang.core.trials.effect import UNTOUCHED_LEAST, as_far, effect
from zugzwang.core.trials.units import HALF, compared_units

WEEKS = (4, 3)
SIZE = 3.0  # the factor within which sizes count as similar
FIRM, LIKELY = 0.01, 0.05


@dataclass(frozen=True)
class Rates:
    """One side of a comparison, a day for each unit, so one page is comparable with the mean of many. CTR and position from
    sums (None without impressions).
    """

    clicks: int
    impressions: int
    clicks_a_day: float
    shown_a_day: float
    ctr: float | None
    position: float | None


@dataclass(frozen=True)
class Outcome:
    """`result_clicks`, `low`, `high`: clicks a day beyond expectation, and the 95 % interval. `unchanged`: the number of
    controls; `as_far`: how many of them moved as far by themselves. `chance`: the probability of such a difference from
    counting alone, 0…1.
    """

    before: Rates
    after: Rates
    controls_before: Rates
    controls_after: Rates
    days: int
    controls: int
    expected_a_day: float
    result_clicks: float
    low: float | None
    high: float | None
    ctr_gained: float | None
    positions_gained: float | None
    as_far: int
    p_value: float
    chance: float
    evidence: Grade


def windows(made_on: date, last_day: date) -> tuple[Period, Period] | None:
    """The days before and after a move; None while fewer than three weeks of data follow it.

    >>> windows(date(2026, 10, 1), date(2026, 10, 22))[1]
    Period(first=datetime.date(2026, 10, 2), last=datetime.date(2026, 10, 22))
    """
    for weeks in WEEKS:
        after = Period(made_on + timedelta(days=1), made_on + timedelta(days=7 * weeks))
        if after.last <= last_day:
            return Period(made_on - timedelta(days=7 * weeks), made_on - timedelta(days=1)), after
    return None


def ready_on(made_on: date) -> date:
    """The last day of the three weeks to wait."""
    return made_on + timedelta(days=7 * min(WEEKS))


def outcome(sides: pl.DataFrame, unit: int, touched: Collection[int], days: int, share_of_usual: float) -> Outcome | None:
    """The result of a move on `unit`. `sides`, `share_of_usual`: as core.trials.units.compared_units needs them, `days` days
    before and as many after; `touched`: units changed by something else in the meantime. None where it has impressions in
    neither.
    """
    counts = pl.col("clicks_before", "clicks_after", "impressions_before", "impressions_after")
    filled = sides.with_columns(counts.fill_null(0))
    own = filled.filter(pl.col("unit") == unit)
    if own.is_empty():
        return None
    others = filled.filter(pl.col("unit") != unit, ~pl.col("unit").is_in(list(touched)))
    clicks, clicks_after = int(own["clicks_before"][0]), int(own["clicks_after"][0])
    like = others.filter(pl.col("clicks_before").is_between(clicks / SIZE, clicks * SIZE), pl.col("clicks_before") > 0)
    compared = like if like.height >= UNTOUCHED_LEAST else others.filter(pl.col("clicks_before") > 0)
    trend = int(compared["clicks_after"].sum()) / max(int(compared["clicks_before"].sum()), 1)
    found = effect(compared_units(sides, "clicks", share_of_usual), [unit], list(touched))

    def without(difference: float) -> float:
        """The clicks without the move, had it made this difference (of logarithms)."""
        return max((clicks_after + HALF) / exp(difference) - HALF, 0.0)

    expected = without(found.effect) if found else clicks * trend
    own_before, own_after, their_before, their_after = (
        _rates(one, side, days) for one in (own, compared) for side in ("before", "after")
    )
    rates = (own_before, own_after, their_before, their_after)
    p_value = found.p_value if found else 1.0
    positions = difference_in_differences(*(one.position for one in rates))
    return Outcome(
        before=own_before,
        after=own_after,
        controls_before=their_before,
        controls_after=their_after,
        days=days,
        controls=found.placed.size if found else compared.height,
        expected_a_day=expected / days,
        result_clicks=(clicks_after - expected) / days,
        low=(clicks_after - without(found.low)) / days if found else None,
        high=(clicks_after - without(found.high)) / days if found else None,
        ctr_gained=difference_in_differences(*(one.ctr for one in rates)),
        positions_gained=None if positions is None else -positions,  # a smaller position is a gain
        as_far=as_far(found.effect, found.placed) if found else 0,
        p_value=p_value,
        chance=rates_differ(clicks_after, max(expected, HALF), clicks, max(clicks, HALF)),
        evidence="firm" if p_value <= FIRM else "likely" if p_value <= LIKELY else "too little data",
    )


def difference_in_differences(
    before: float | None, after: float | None, controls_before: float | None, controls_after: float | None
) -> float | None:
    """(after − before) − (unchanged after − unchanged before); None where one of them is unknown.

    >>> round(difference_in_differences(20.44, 21.03, 23.33, 21.17), 2)
    2.75
    """
    if before is None or after is None or controls_before is None or controls_after is None:
        return None
    return (after - before) - (controls_after - controls_before)


def rates_differ(count: float, exposure: float, other: float, other_exposure: float) -> float:
    """The p-value of the two-sided score test that two Poisson rates are equal; 1 for zero counts.

    >>> round(rates_differ(60, 51477.5, 30, 54308.7), 5)
    0.00063
    """
    if not count + other or not exposure or not other_exposure:
        return 1.0
    ratio = exposure / other_exposure
    z = abs(count - ratio * other) / sqrt((count + other) * ratio)
    return erfc(z / sqrt(2))


def _rates(sides: pl.DataFrame, side: str, days: int) -> Rates:
    clicks, impressions = int(sides[f"clicks_{side}"].sum()), int(sides[f"impressions_{side}"].sum())
    ranks = float((sides[f"position_{side}"] * sides[f"impressions_{side}"]).sum())
    return Rates(
        clicks,
        impressions,
        clicks / days / max(sides.height, 1),
        impressions / days / max(sides.height, 1),
        clicks / impressions if impressions else None,
        ranks / impressions if impressions else None,
    )
