"""Search volumes: how often a query was searched in a period, and its cost per click.

Known months count as they are. Where no month of the period is known, the source's yearly average month is used, otherwise
the mean of its other months. Countries are summed; their costs are weighted by search volume.

Example: August 100 and September 200 searches; over 1 Aug to 30 Sep, 61 days or 2.004 months, 150 · 2.004 = 300.6.
"""

from datetime import date

import polars as pl

from zugzwang.core.facts.periods import DAYS_A_MONTH, Period


def searches_in(volumes: pl.DataFrame, period: Period) -> pl.DataFrame:
    """How often each query was searched.

    `volumes`: query, country, month (the first of a month; null: the yearly average month), searches, price_per_click,
    rough. Returns query, searches (in the period), price_per_click (null: not reported), rough (whether any was reported as
    a range).
    """
    named = pl.col("month").is_not_null()
    inside = pl.col("month").dt.month().is_in([month.month for month in _months_of(period)])
    by_country = volumes.group_by("query", "country").agg(
        pl.coalesce(
            pl.col("searches").filter(named & inside).mean(),
            pl.col("searches").filter(~named).mean(),
            pl.col("searches").mean(),
        ).alias("a_month"),
        pl.col("price_per_click").mean(),
        pl.col("rough").any(),
    )
    priced = pl.col("price_per_click").is_not_null()
    price = (pl.col("price_per_click") * pl.col("a_month")).sum() / pl.col("a_month").filter(priced).sum()
    return by_country.group_by("query").agg(
        (pl.col("a_month").sum() * (period.days / DAYS_A_MONTH)).alias("searches"),
        pl.when(pl.col("price_per_click").count() > 0).then(price).alias("price_per_click"),
        pl.col("rough").any(),
    )


def _months_of(period: Period) -> list[date]:
    return pl.date_range(period.first, period.last, "1d", eager=True).dt.month_start().unique().sort().to_list()
