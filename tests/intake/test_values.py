"""Numbers, days and words as files write them: the style is decided once a file, and a value has one meaning."""

from datetime import date

import polars as pl
import pytest

from zugzwang.core.facts.countries import COUNTRY_UNKNOWN, country_code
from zugzwang.intake import values
from zugzwang.intake.values import Style, style_of


def read(reader: str, *texts: str, style: Style | None = None) -> list[object]:
    rows = pl.DataFrame({"c0": texts})
    return rows.select(getattr(values, reader)(rows, "c0", style or Style())).to_series().to_list()


@pytest.mark.parametrize(
    ("numbers", "decimal"),
    [
        (["1.234,5"], ","), (["7,4", "1.234"], ","), (["3,4 %"], ","), (["1,234.5"], "."), (["7.4", "1,234"], "."),
        (["1,234", "2,500"], "."), (["12"], "."), ([], "."), (["1.234", "12,25", "3,5"], ","),
    ],
)  # fmt: skip
def test_the_sign_before_decimals_is_settled_by_all_values(numbers: list[str], decimal: str) -> None:
    assert style_of(numbers, []).decimal == decimal


@pytest.mark.parametrize(
    ("days", "order"),
    [
        (["03/04/2026", "25/04/2026"], "day first"),
        (["03/04/2026", "04/25/2026"], "month first"),
        (["03/04/2026"], None),
        ([], None),
    ],
)
def test_the_order_of_days_is_settled_by_all_values(days: list[str], order: str | None) -> None:
    assert style_of([], days).day_order == order


def test_numbers_in_either_style() -> None:
    comma = Style(",")
    assert read("whole", "1,200", "1.200", "1\u00a0200", "1 200", "12.0", "12", "1'200") == [
        1200,
        1200,
        1200,
        1200,
        12,
        12,
        1200,
    ]
    assert read("whole", "1.200", "12,0", "1.5", style=comma) == [1200, 12, None]
    assert read("whole", "1.5", "x", "") == [None, None, None]
    assert read("real", "7.4", "1,234.5", "0:01:30", "x") == [7.4, 1234.5, 90.0, None]
    assert read("real", "7,4", "1.234,5", "-3,5", style=comma) == [7.4, 1234.5, -3.5]
    assert read("share", "3.4 %", "3.4%", "0.034") == pytest.approx([0.034, 0.034, 0.034])
    assert read("share", "3,4 %", style=comma) == pytest.approx([0.034])


def test_days_in_the_usual_ways() -> None:
    the_day = date(2026, 11, 9)
    ways = [
        "2026-11-09",
        "20261109",
        "2026/11/09",
        "09.11.2026",
        "9 Nov 2026",
        "9 November 2026",
        "Nov 9, 2026",
        "2026-11-09 13:45",
    ]
    assert read("day", *ways) == [the_day] * len(ways)
    assert read("day", "2026-11") == [date(2026, 11, 1)]  # a month represents its first day
    assert read("day", "09/11/2026", style=Style(day_order="day first")) == [the_day]
    assert read("day", "11/09/2026", style=Style(day_order="month first")) == [the_day]
    assert read("day", "09/11/2026", "2026-02-30") == [None, None]  # nothing is guessed


def test_typed_columns_are_taken_as_they_are() -> None:
    rows = pl.DataFrame({"c0": [1.0, 2.5], "c1": [3, 4]})
    whole = rows.select(values.whole(rows, "c0", Style()), values.whole(rows, "c1", Style()))
    assert whole.rows() == [(1, 3), (None, 4)]


def test_countries_after_iso_3166() -> None:
    """Codes of ISO 3166-1 (the package pycountry): France is 250, FR, FRA."""
    assert [country_code(name) for name in ("fr", "FRA", "France", "zzz", "", "Atlantis")] == [
        250,
        250,
        250,
        0,
        0,
        COUNTRY_UNKNOWN,
    ]


def test_devices_and_yes() -> None:
    rows = pl.DataFrame({"c0": ["Desktop", "MOBILE", "smartphone", "tablets", "smart tv", "-"]})
    assert rows.select(values.device(pl.col("c0"))).to_series().to_list() == [1, 2, 2, 3, 4, 0]
    said = pl.DataFrame({"c0": ["Follow", "nofollow", "TRUE", "0", "perhaps"]})
    assert said.select(values.yes(pl.col("c0"))).to_series().to_list() == [True, False, True, False, None]
