"""Monthly volumes over a period: by hand, no source."""

from datetime import date

import polars as pl
import pytest

from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.volumes import searches_in

PERIOD = Period(date(2026, 8, 1), date(2026, 9, 30))
MONTHS = 61 / (365.25 / 12)


def searched(*rows: tuple[int, date | None, int, float | None]) -> dict[str, float | None]:
    """One query's searches and price; rows: country, month, searches, price."""
    names = {"country": pl.UInt16, "month": pl.Date, "searches": pl.UInt32, "price_per_click": pl.Float64}
    volumes = pl.DataFrame(list(rows), schema=names, orient="row").with_columns(query=pl.lit(1), rough=False)
    (result,) = searches_in(volumes, PERIOD).select("searches", "price_per_click").to_dicts()
    return result


def test_months_of_the_period_count_for_themselves_and_others_do_not() -> None:
    months = [(1, date(2026, 8, 1), 100, None), (1, date(2026, 9, 1), 200, None)]
    assert searched(*months)["searches"] == pytest.approx(150 * MONTHS)
    summer = searched(*months, (1, date(2026, 7, 1), 9_000, None), (1, None, 5_000, None))
    assert summer["searches"] == pytest.approx(150 * MONTHS)
    assert searched((1, date(2025, 8, 1), 100, None))["searches"] == pytest.approx(100 * MONTHS)  # the season of another year


def test_without_its_months_a_mean_month_does() -> None:
    assert searched((1, date(2026, 1, 1), 10, None), (1, None, 70, None))["searches"] == pytest.approx(70 * MONTHS)
    assert searched((1, date(2026, 1, 1), 10, None), (1, date(2026, 2, 1), 30, None))["searches"] == pytest.approx(20 * MONTHS)


def test_countries_add_up_and_prices_weigh_by_searches() -> None:
    result = searched((1, None, 300, 1.0), (2, None, 100, 3.0), (3, None, 600, None))
    assert result["searches"] == pytest.approx(1_000 * MONTHS)
    assert result["price_per_click"] == pytest.approx((300 * 1 + 100 * 3) / 400)  # a country without a price says nothing
    assert searched((1, None, 300, None))["price_per_click"] is None
