"""Search facts in the grain page × query × day, and how they add up.

A frame of facts has the columns of `SCHEMA`: `day`; `page` and `query` as ids; `clicks` and `impressions` as counts;
`position`, the mean rank of the page's best result that day, 1 = first.

Sums: clicks = Σ clicks, impressions = Σ impressions, CTR = Σ clicks / Σ impressions, position = Σ(position · impressions) /
Σ impressions. Without impressions, CTR and position are null, never 0.

Example: 10 impressions at 2.0 and 30 at 6.0 add up to 40 impressions at (20 + 180) / 40 = 5.0; the mean of the means would
be 4.0.
"""

import polars as pl

SCHEMA = pl.Schema(
    {
        "day": pl.Date(),
        "page": pl.UInt32(),
        "query": pl.UInt32(),
        "clicks": pl.UInt32(),
        "impressions": pl.UInt32(),
        "position": pl.Float64(),
    }
)
ROW = ["page", "query"]


def sums() -> list[pl.Expr]:
    """Expressions that sum facts within a group: clicks, impressions (Int64), position (null without impressions)."""
    impressions = pl.col("impressions").cast(pl.Int64).sum()
    weighted = (pl.col("position") * pl.col("impressions")).sum()
    return [
        pl.col("clicks").cast(pl.Int64).sum(),
        impressions,
        pl.when(impressions > 0).then(weighted / impressions).alias("position"),
    ]


def add_up(facts: pl.DataFrame, by: list[str]) -> pl.DataFrame:
    """One row for each value of `by`, in no particular order: `by`, clicks, impressions, position, ctr (0…1)."""
    return facts.group_by(by).agg(*sums()).with_columns(ctr=ctr())


def ctr() -> pl.Expr:
    """Clicks over impressions, 0…1; null without impressions."""
    return pl.when(pl.col("impressions") > 0).then(pl.col("clicks") / pl.col("impressions"))


def pair_key() -> pl.Expr:
    """Page and query as one 64-bit number: grouping and sorting by it takes half the time of two columns."""
    return pl.col("page").cast(pl.UInt64) * 2**32 + pl.col("query").cast(pl.UInt64)
