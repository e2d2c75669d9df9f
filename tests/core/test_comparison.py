"""Measures with their comparison: computed from sums, unknown without data."""

import polars as pl
import pytest

from zugzwang.core.facts.comparison import compared, search_sums
from zugzwang.core.words.sentences import THIN_SPACE, where_the_site_stands


def test_rates_are_made_of_sums_and_unknown_is_not_nought() -> None:
    """10 of 100 at 2.0 and 5 of 300 at 6.0: 3.75 % at 5.0; the means of the rows would give 5.8 % at 4.0."""
    pages = pl.DataFrame({"clicks": [10, 5], "impressions": [100, 300], "position": [2.0, 6.0]})
    now = search_sums(pages) | {"sessions": 12.0, "bounces": 3.0, "conversions": None, "value": None}
    result = {one.name: one for one in compared(now, {"clicks": 20.0, "impressions": 0.0, "ranks": 0.0})}
    assert result["ctr"].now == pytest.approx(15 / 400)
    assert result["position"].now == pytest.approx(5.0)
    assert result["bounce_rate"].now == pytest.approx(0.25)
    assert result["clicks"].change == -5
    assert result["clicks"].change_share == pytest.approx(-0.25)
    assert result["ctr"].before is None  # never shown: no rate
    assert result["sessions"].change is None  # not known before: no change of 12
    assert "conversions" not in result  # neither period tells any
    assert all(one.change_share is None for name, one in result.items() if name in ("ctr", "position", "bounce_rate"))


def test_a_change_from_nothing_has_no_share() -> None:
    result = compared({"clicks": 5.0}, {"clicks": 0.0})[0]
    assert (result.change, result.change_share) == (5.0, None)


def test_the_sentence_says_more_fewer_or_as_many() -> None:
    def said(now: float, before: float) -> str:
        clicks = compared({"clicks": now}, {"clicks": before})
        return where_the_site_stands(clicks, "4 weeks to 15 Nov 2026")[0].replace(THIN_SPACE, " ")

    assert said(900, 1000) == "900 clicks in 4 weeks to 15 Nov 2026, 100 fewer (−10 %)."
    assert said(1100, 1000) == "1 100 clicks in 4 weeks to 15 Nov 2026, 100 more (+10 %)."
    assert said(1000, 1000).endswith(", as many as before.")
    assert where_the_site_stands([], "4 weeks") == ["No clicks in 4 weeks."]
