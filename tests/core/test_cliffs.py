"""Breaks that belong together, and periods without a listing."""

from datetime import date, timedelta

import numpy as np
import polars as pl
import pytest

from zugzwang.core.time.cliffs import Event, cliffs, spells_out

MONDAY = date(2025, 9, 1)
WEEKS = [MONDAY + timedelta(days=7 * number) for number in range(65)]


def broken(*at: tuple[int, float]) -> pl.DataFrame:
    return pl.DataFrame({"week": [WEEKS[week] for week, _ in at], "size": [size for _, size in at]})


def test_breaks_near_an_event_stand_under_it_beside_what_chance_would_put_there() -> None:
    """Six near the event, ten elsewhere: the event's ten days either side have 3 of 65 weeks, so chance would give 10 · 3 /
    62.
    """
    elsewhere = [(week, -0.5) for week in (2, 5, 9, 14, 20, 50, 54, 58, 60, 62)]
    near = [(30, -0.6)] * 4 + [(31, -0.4)] * 2
    found = cliffs(broken(*elsewhere, *near), [Event(WEEKS[30] + timedelta(days=3), "Core update")], WEEKS)
    assert len(found) == 1
    assert found[0].rows == tuple(range(10, 16))
    assert found[0].week == WEEKS[30]
    assert found[0].by_chance == pytest.approx(10 * 3 / 62)


def test_rises_and_falls_under_one_event_are_told_apart() -> None:
    found = cliffs(broken((30, -0.6), (30, -0.5), (30, 0.9)), [Event(WEEKS[30], "Release")], WEEKS)
    assert [(len(one.rows), one.fell) for one in found] == [(2, True), (1, False)]


def test_a_cliff_without_an_event_needs_more_than_chance() -> None:
    cliff = cliffs(broken(*[(40, -0.5)] * 5, (3, -0.5), (20, -0.4)), [], WEEKS)
    assert [(one.rows, one.event) for one in cliff] == [((0, 1, 2, 3, 4), None)]
    # Where two pages break in every week, three in one are nothing.
    usual = [(week, -0.5) for week in range(3, 60) for _ in range(2)]
    assert cliffs(broken(*usual, (40, -0.5)), [], WEEKS) == []


def test_a_week_is_one_of_many_that_were_looked_at() -> None:
    """Twenty falls elsewhere in 64 weeks give three in a given week in 4 of 1,000 cases, but in some week of 65 in one of
    four: no cliff.
    """
    usual = [(week, -0.5) for week in range(2, 62, 3)]
    assert cliffs(broken(*usual, *[(40, -0.5)] * 3), [], WEEKS) == []
    assert len(cliffs(broken(*usual, *[(40, -0.5)] * 6), [], WEEKS)) == 1


def test_spells_out_of_the_results() -> None:
    shown = np.array([0, 0, 0, 0, 30, 40, 35, 0, 0, 0, 25, 30, 28, 31, 0, 0, 0])
    assert spells_out(shown, WEEKS[: shown.size]) == [(WEEKS[7], WEEKS[10]), (WEEKS[14], None)]


def test_a_page_that_is_hardly_shown_is_not_out() -> None:
    assert spells_out(np.array([1, 0, 2, 1, 0, 0, 0, 1, 2]), WEEKS) == []
    assert spells_out(np.array([30, 30, 30, 0, 0, 30, 30]), WEEKS) == []  # two weeks may be a hole in the data
