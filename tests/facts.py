"""Facts for tests, without Django, so the core's tests can use them."""

import polars as pl

from zugzwang.core.facts.grains import PAGE_QUERY, Grain


def filled(rows: pl.DataFrame, grain: Grain = PAGE_QUERY) -> pl.DataFrame:
    """Facts with all columns of a grain; missing ones are "not reported"."""
    lacking = {name: pl.lit(0 if name in ("device", "country") else None) for name in grain.schema if name not in rows.columns}
    return rows.with_columns(**lacking).select(pl.col(name).cast(kind) for name, kind in grain.schema.items())
