"""Sums, periods, headroom, brand, words: rules that can be checked with pencil and paper."""

import subprocess
import sys
from datetime import date, timedelta
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from scipy import stats

from tests.facts import filled
from zugzwang import core
from zugzwang.core.clicks.click_curve import own_curve
from zugzwang.core.clicks.device_curves import Curves
from zugzwang.core.clicks.headroom import at_target, cautious_headroom, demand, headroom, target_position
from zugzwang.core.facts.grains import PAGE_QUERY, unite_repeats
from zugzwang.core.facts.patterns import SIZE_MAX, PatternError, check_patterns, compiled_size, matches
from zugzwang.core.facts.periods import Period, default_period
from zugzwang.core.facts.search import SCHEMA, add_up
from zugzwang.core.words import sentences


def facts(*rows: tuple[date, int, int, int, int, float]) -> pl.DataFrame:
    return pl.DataFrame(rows, schema=SCHEMA, orient="row")


MONDAY = date(2026, 11, 9)


def test_positions_are_weighted_by_impressions() -> None:
    added = add_up(facts((MONDAY, 1, 1, 1, 10, 2.0), (MONDAY, 2, 1, 3, 30, 6.0)), ["query"]).to_dicts()[0]
    assert added == {"query": 1, "clicks": 4, "impressions": 40, "position": 5.0, "ctr": 0.1}


def test_without_impressions_there_is_no_position_and_no_ctr() -> None:
    added = add_up(facts((MONDAY, 1, 1, 0, 0, 0.0)), ["query"]).to_dicts()[0]
    assert (added["position"], added["ctr"]) == (None, None)


def test_repeats_of_a_key_are_added_up() -> None:
    repeated = facts((MONDAY, 2, 1, 0, 5, 9.0), (MONDAY, 1, 1, 1, 10, 2.0), (MONDAY, 1, 1, 3, 30, 6.0))
    united = unite_repeats(filled(repeated), PAGE_QUERY)
    assert united.select(SCHEMA.names()).rows() == [(MONDAY, 1, 1, 4, 40, 5.0), (MONDAY, 2, 1, 0, 5, 9.0)]


def test_weeks_are_those_of_iso_8601() -> None:
    """ISO 8601: 2005-01-01 is 2004-W53-6 and 2008-12-29 is 2009-W01-1; so data up to a Saturday end a week earlier."""
    before_week_53 = default_period(date(2004, 1, 1), date(2005, 1, 1)).last
    assert (before_week_53 + timedelta(days=6)).isocalendar()[:] == (2004, 53, 6)
    before_week_1 = default_period(date(2008, 1, 1), date(2008, 12, 29)).last
    assert (before_week_1 + timedelta(days=1)).isocalendar()[:] == (2009, 1, 1)


def test_default_period_is_thirteen_whole_weeks_or_what_there_is() -> None:
    period = default_period(date(2025, 7, 14), date(2026, 11, 18))
    assert period == Period(date(2026, 8, 17), date(2026, 11, 15))
    assert period.compared("year") == Period(date(2025, 8, 18), date(2025, 11, 16))
    assert period.compared("previous") == Period(date(2026, 5, 18), date(2026, 8, 16))
    assert default_period(date(2026, 11, 4), date(2026, 11, 17)) == Period(date(2026, 11, 9), date(2026, 11, 15))
    assert default_period(date(2026, 11, 10), date(2026, 11, 12)) == Period(date(2026, 11, 10), date(2026, 11, 12))


def test_missing_days_are_told() -> None:
    period = Period(date(2026, 11, 9), date(2026, 11, 12))
    missing = period.missing([date(2026, 11, 9), date(2026, 11, 11)])
    assert missing == [date(2026, 11, 10), date(2026, 11, 12)]
    assert sentences.missing_days(missing, "The period").startswith("The period has no data for 2 of its days")


CURVES = Curves(own_curve([(1.0, 0.3), (3.0, 0.11), (5.0, 0.06), (10.0, 0.02), (11.0, 0.01), (100.0, 0.001)]))


CURVE = CURVES.together
SHAPE = np.array([6.0])


def gained(clicks: int) -> tuple[np.ndarray, np.ndarray]:
    """Headroom to position 3 of a row with 1,000 impressions and 60 expected clicks."""
    clicked, expected = np.array([clicks]), np.array([60.0])
    there = at_target(CURVES, clicked, np.array([1000]), expected, SHAPE, np.array([3.0]))
    return headroom(there, clicked, expected, SHAPE)


def test_headroom_by_hand() -> None:
    gain, _ = gained(60)
    assert gain[0] == pytest.approx(50.0)  # 1,000 · 0.11 − 60


def test_a_row_takes_its_own_strength_with_it_below_the_curve_as_above_it() -> None:
    poor, _ = gained(45)
    assert poor[0] == pytest.approx((110 - 60) * (45 + 6) / (60 + 6))  # and not its shortfall again
    assert gained(5)[0][0] == pytest.approx((110 - 60) * (5 + 6) / (60 + 6))  # a sixth of the curve, there as here
    strong, _ = gained(66)
    assert strong[0] == pytest.approx((110 - 60) * (66 + 6) / (60 + 6))
    # At the target no row is stronger than the site's best tenth; what it has now is not cut.
    best_tenth = stats.gamma.ppf(0.9, 6) / 6
    assert gained(150)[0][0] == pytest.approx(110 * best_tenth - 60 * 156 / 66)
    assert gained(1_000)[0][0] == 0


def test_searches_count_where_impressions_undercount_them() -> None:
    """Only beyond page one, only where searches exceed impressions, and at most five times."""
    cases = [(14.0, 400.0, 400), (14.0, 4_000.0, 500), (14.0, 40.0, 100), (14.0, float("nan"), 100), (7.0, 400.0, 100)]
    for position, searches, wanted in cases:
        assert demand(np.array([100]), np.array([position]), np.array([searches]))[0] == wanted, (position, searches)
    assert demand(np.array([100]), np.array([14.0]), None)[0] == 100


def test_cautious_headroom_by_hand() -> None:
    """60 clicks, 110 expected there, shape 6: the 10 % point of a gamma-Poisson of mean 110 and shape 1/(1/66 + 0.1²) = 39.8 is
    85 (scipy nbinom)."""
    shape = 1 / (1 / 66 + 0.01)
    low = stats.nbinom.ppf(0.1, shape, shape / (shape + 110))
    assert low == 85
    assert cautious_headroom(np.array([110.0]), np.array([60]), np.array([60.0]), SHAPE)[0] == low - 60
    assert cautious_headroom(np.array([3.0]), np.array([1]), np.array([1.5]), np.array([2.0]))[0] == 0


def test_bands() -> None:
    positions = np.array([1.0, 1.4, 2.6, 3.4, 3.6, 10.4, 10.6, 20.4, 33.0])
    # A row at 2 or 3, or beyond 20, has a target only where one asks for it.
    assert target_position(positions, "next-band").tolist() == [1, 1.4, 2.6, 3.4, 3, 3, 10, 10, 33]
    assert target_position(np.array([2.0, 50.0]), "third").tolist() == [2, 3]  # never worse than it is
    assert target_position(np.array([2.0, 50.0]), "three-up").tolist() == [1, 47]


def test_the_step_from_eleven_to_ten_is_the_largest() -> None:
    """Common practice, no source: few people open page two."""
    gains = [float(CURVE(np.array([p - 1.0]))[0] / CURVE(np.array([float(p)]))[0]) for p in range(6, 20)]
    assert int(np.argmax(gains)) + 6 == 11


def test_brand_patterns_are_words_or_expressions() -> None:
    queries = pl.Series(["Marrow Bank jobs", "marrowbank", "canoe", "marrow bankside"]).to_frame("text")
    found = queries.select(matches(pl.col("text"), [r"marrow ?bank\b"])).to_series().to_list()
    assert found == [True, True, False, False]
    assert queries.select(matches(pl.col("text"), [])).to_series().to_list() == [False]
    assert check_patterns([" a ", "a", ""]) == ("a",)
    with pytest.raises(PatternError, match=r"“\(” cannot be used: unclosed group$"):
        check_patterns(["("])


def test_the_sentence_of_a_row() -> None:
    said = sentences.row(11, 4120, 5.4, (190, 260)).replace(sentences.THIN_SPACE, " ")
    assert said == "4 120 impressions at position 5.4, 11 clicks; your pages at these positions usually get 190 to 260 clicks."
    assert "Too little data" in sentences.evidence("low-ctr", "too little data", 0.4)
    assert sentences.period(Period(date(2026, 8, 17), date(2026, 11, 15))) == "13 weeks to 15 Nov 2026"


def test_the_core_stands_alone() -> None:
    folder = Path(core.__file__).parent
    names = ", ".join(f"zugzwang.core.{path.parent.name}.{path.stem}" for path in folder.glob("*/[a-z]*.py"))
    code = f"import sys, {names}; print('django' in sys.modules)"
    assert subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout == "False\n"


@pytest.mark.parametrize(
    ("pattern", "fits"),
    [("red kayak", True), (r"\bmarrow ?bank\b", True), (r"\w+\s\w+", True), (r"\w{40}", True), (r"\w{200}0", False),
     (r"(?:\w{14}){14}", False), (r"(?P<a>\p{L}{9}){9}", False), (r"[\w&&[^\d]]{90}", False), ("(" * 90, True)],
)  # fmt: skip
def test_patterns_are_bounded_by_the_size_that_they_are_compiled_to(pattern: str, fits: bool) -> None:
    """The sizes were measured with polars 2.1: the first that does not fit takes 0.15 s to compile."""
    assert (compiled_size(pattern) <= SIZE_MAX) is fits
    if not fits:
        with pytest.raises(PatternError, match="repeats too much"):
            check_patterns([pattern])
