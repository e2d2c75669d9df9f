"""Search volumes."""

import polars as pl

from zugzwang.core.facts.grains import VOLUMES
from zugzwang.core.words.sentences import few
from zugzwang.data.blocks import read_facts
from zugzwang.data.models import Site
from zugzwang.intake.kinds.kind import COUNTRY, QUERY_WORDS, Field, Kind, Making
from zugzwang.intake.kinds.making import filled


def _rows(rows: pl.DataFrame, making: Making) -> pl.DataFrame:
    if "month" in rows.columns:
        rows = rows.with_columns(pl.col("month").dt.month_start())
    return filled(rows, making)


def _says(site: Site) -> str:
    rows = read_facts(site, VOLUMES, columns=["query", "month"])
    months = rows["month"].n_unique()
    return f"{few(rows['query'].n_unique(), 'query', 'queries')}, {few(months, 'month', 'months')} each at most."


KIND = Kind(
    name="volumes",
    title="Search volumes",
    holds="monthly searches and price per click by query",
    needed="search volumes",
    order=50,
    grains=(VOLUMES,),
    fields=(
        Field("query", "query", QUERY_WORDS, required=True),
        COUNTRY,
        Field("month", "day", ("month", "date", "year month")),
        Field(
            "searches",
            "volume",
            (
                "searches", "volume", "search volume", "monthly searches", "monthly volume", "avg monthly searches",
                "average monthly searches",
            ),
            required=True,
        ),
        Field("price_per_click", "real", ("price per click", "cpc", "cost per click", "avg cpc", "average cpc", "click price")),
    ),
    telling=("searches", "price_per_click"),
    rows=_rows,
    says=_says,
    notes={"month": "none: the mean of a year"},
)  # fmt: skip
