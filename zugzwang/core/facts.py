"""Search facts in the grain page × query × day, and how they add up.

A frame of facts has the columns of `SCHEMA`: `day`; `page` and `query` as ids; `clicks` and `impressions` as counts;
`position`, the mean rank of the page's best result that day, 1 = first.

Sums: clicks = Σ clicks, impressions = Σ impressions, CTR = Σ clicks / Σ impressions,
position = Σ(position · impressions) / Σ impressions. Without impressions, CTR and position do not exist (null, never 0).

Worked: 10 impressions at 2.0 and 30 at 6.0 add up to 40 impressions at (20 + 180) / 40 = 5.0; the mean of the
means would have said 4.0.
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
KEY = ["page", "query", "day"]
ROW = ["page", "query"]


def sums() -> list[pl.Expr]:
    """The expressions that add facts up within a group: clicks, impressions (Int64), position (null without impressions)."""
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


def in_order(facts: pl.DataFrame) -> pl.DataFrame:
    """The facts sorted by page, query, day."""
    by_day = facts if facts["day"].is_sorted() else facts.sort("day")
    return by_day.with_columns(key=pair_key()).sort("key", maintain_order=True).drop("key")


def unite_repeats(facts: pl.DataFrame) -> pl.DataFrame:
    """The facts sorted by page, query, day, with rows of the same page, query and day added into one."""
    facts = in_order(facts)
    as_before = facts.select(
        pl.all_horizontal(pl.col(name) == pl.col(name).shift(1) for name in KEY).fill_null(False)
    ).to_series()
    if not as_before.any():
        return facts
    # Grouping is slow and repeats are few: only they are grouped.
    repeated = as_before | as_before.shift(-1).fill_null(False)
    united = facts.filter(repeated).group_by(KEY).agg(*sums()).select(facts.columns).cast(SCHEMA)
    return in_order(pl.concat([facts.filter(~repeated), united]))
