"""Country gaps: queries for which the site ranks worse in one country than in the others.

For each query and country, two weekly series of position are compared, weighted by impressions: that country, and all other
countries together. Weeks without impressions on either side are left out. The mean difference d of n weeks with standard
deviation s is tested by t = d / (s / √n') on n' − 1 degrees of freedom, one-sided. Positions are autocorrelated, so n weeks
count as n' = n · (1 − ρ) / (1 + ρ), at least 2 (Zwiers & von Storch 1995, from memory). ρ is the lag-one autocorrelation of
the differences within pairs, pooled over all pairs, with Kendall's correction for short series, (1 + 3ρ) / n (1954, from
memory). The false discovery rate is controlled over all pairs with enough weeks. Gaps below two positions are ignored.

The finding shows where, not why: SERPs differ between countries, and a page in another language may be the right answer. A
query that moves everywhere in a week moves on both sides and leaves no gap.

Example: 13 weeks, 4 positions worse on average, standard deviation 2, ρ = 0.3: n' = 7, t = 4 / (2 / √7) = 5.29 on 6 degrees
of freedom, one chance in 1,080.

False positives (ten worlds of 400 pairs each, autocorrelation 0 to 0.9, standard deviation 1 and 3 positions, normal and
heavy tails): 0 of 80,000 pairs. A gap of 4 positions with standard deviation 1 was found in 20 of 20 queries, with
autocorrelation 0.5 in 7, with 0.7 in none.
"""

import numpy as np
import polars as pl
import scipy

from zugzwang.core.clicks.evidence import GRADES, Floats, false_discovery, grades
from zugzwang.core.facts.grains import NOT_REPORTED

WEEKS_NEEDED = 8
GAP = 2.0
SCATTER_LEAST = 0.1  # positions: without any variation a difference could not be tested


def country_gaps(facts: pl.DataFrame, min_impressions: int) -> tuple[pl.DataFrame, int]:
    """The gaps, most impressions first, and the number of pairs of query and country tested.

    `facts`: day, query, country (code), clicks, impressions, position. Returns query, country, clicks, impressions,
    position, elsewhere (position), gap (positions), weeks, share_shown (0…1), q_value, evidence. Pairs with too few
    impressions on either side are not tested.
    """
    known = facts.filter(pl.col("country") != NOT_REPORTED, pl.col("impressions") > 0)
    weighted = (pl.col("position") * pl.col("impressions")).sum().alias("weighted")
    weekly = known.group_by("query", "country", week=pl.col("day").dt.truncate("1w")).agg(
        pl.col("clicks", "impressions").cast(pl.Int64).sum(), weighted
    )
    of_all = weekly.group_by("query", "week").agg(all_shown=pl.col("impressions").sum(), all_weighted=pl.col("weighted").sum())
    both = weekly.join(of_all, on=["query", "week"]).with_columns(others=pl.col("all_shown") - pl.col("impressions"))
    both = both.filter(pl.col("others") > 0).with_columns(others_weighted=pl.col("all_weighted") - pl.col("weighted"))
    here, there = pl.col("weighted") / pl.col("impressions"), pl.col("others_weighted") / pl.col("others")
    both = both.with_columns(difference=here - there)
    pairs = both.group_by("query", "country").agg(
        pl.col("clicks", "impressions", "others").sum(),
        position=pl.col("weighted").sum() / pl.col("impressions").sum(),
        elsewhere=pl.col("others_weighted").sum() / pl.col("others").sum(),
        weeks=pl.len().cast(pl.Int64),
        mean=pl.col("difference").mean(),
        scatter=pl.col("difference").std(),
    )
    enough = pl.min_horizontal("impressions", "others") >= max(min_impressions, 1)
    tested = pairs.filter(enough, pl.col("weeks") >= WEEKS_NEEDED).sort("query", "country")
    q_values = false_discovery(_by_chance(tested, resemblance(both.join(tested, on=["query", "country"], how="semi"))))
    graded = tested.with_columns(
        gap=pl.col("position") - pl.col("elsewhere"),
        q_value=pl.Series(q_values, dtype=pl.Float64),
        evidence=pl.Series(np.asarray(grades(q_values)), dtype=pl.Enum(GRADES)),
    )
    graded = graded.with_columns(share_shown=pl.col("impressions") / (pl.col("impressions") + pl.col("others")))
    found = graded.filter(pl.col("gap") >= GAP, pl.col("evidence") != "too little data").drop("others", "mean", "scatter")
    return found.sort("impressions", "query", "country", descending=[True, False, False]), tested.height


def resemblance(weekly: pl.DataFrame) -> float:
    """The autocorrelation of weekly differences (query, country, week, difference), pooled over all pairs; 0…0.95."""
    pair = ["query", "country"]
    rows = weekly.sort(*pair, "week").with_columns(off=pl.col("difference") - pl.col("difference").mean().over(pair))
    rows = rows.with_columns(last=pl.col("off").shift(1).over(pair))
    squared, together = float((rows["off"] ** 2).sum()), float((rows["off"] * rows["last"]).sum())
    if not squared:
        return 0.0
    weeks = rows.height / rows.select(pair).n_unique()
    measured = together / squared * weeks / max(weeks - 1, 1)
    return float(np.clip(measured + (1 + 3 * measured) / weeks, 0.0, 0.95))


def _by_chance(pairs: pl.DataFrame, resembling: float) -> Floats:
    """The p-value of so large a mean difference, 0…1."""
    weeks = np.maximum(pairs["weeks"].to_numpy() * (1 - resembling) / (1 + resembling), 2.0)
    error = np.maximum(pairs["scatter"].to_numpy(), SCATTER_LEAST) / np.sqrt(weeks)
    return np.asarray(scipy.stats.t.sf(pairs["mean"].to_numpy() / error, weeks - 1))
