"""Clashes (cannibalisation): several pages of a site compete for one query.

A contender for a query is a page with at least 10 % of its impressions, on at least 3 days. For queries with two or more
contenders:

- shares sᵢ of impressions; effective contenders = 1 / Σ sᵢ², the inverse of the Herfindahl–Hirschman index (Horizontal Merger
  Guidelines, US DOJ & FTC 2010, section 5.3: shares 30, 30, 20, 20 have an index of 2,600, which is 3.8 of equal size);
- hand-offs: how often the best-placed page of the day changes, per 100 days on which the query was shown;
- overlap: the share of those days on which two or more contenders were shown; gaps: days in between without any;
- loss: the clicks that the query would have had at its settled best position (the lower quartile of the day's best
  position), minus its actual clicks, not below 0. A search that shows two pages is one search: a day's demand is the
  impressions of the contender that has the most.

Two pages with similar positions on the same day swap ranks by chance alone, so hand-offs make a relay only with little
overlap. Kinds, with bounds of our own choice (no source):

  double      shown together, both on page one, one of them steadily in the top three: a strength
  relay       they alternate: at least 5 hand-offs in 100 days (and 3 in all), overlap below a half
  split       shown together, none in the top three, the second with at least half of the first's share
  understudy  the page with the most impressions does not fit the query (a listing, or a mismatch), while another does

A query whose contenders fit none of these is not a clash: a page with a weaker companion, or one that replaced another
once.

Pages compete only for the same people. Where the data have devices or countries, the two contenders with the most
impressions are compared by their shares in each: Σ min(c₁, c₂), 1 where both are shown to the same people, 0 where one is
for phones and one for desktops, or each for its own country. Below `SAME_PEOPLE` it is not a clash. A relay or split must
still go on: in the last three weeks (in a short period its last half) a second contender appears on three or more days;
otherwise one page has replaced the other.

Totals of a span have no days, so hand-offs and overlap are unknown. There a contender needs only its share, every clash is
graded "too little data", and none is a double: that would claim that both pages were shown at once.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np
import polars as pl

from zugzwang.core.clicks.click_curve import ClickCurve
from zugzwang.core.clicks.evidence import GRADES, false_discovery, grades, low_point, lower_tail
from zugzwang.core.facts.search import add_up

Kind = Literal["double listing", "alternating", "split", "wrong page ranks"]
KINDS: tuple[Kind, ...] = ("double listing", "alternating", "split", "wrong page ranks")
CONTENDER_SHARE = 0.10
CONTENDER_DAYS = 3
TOGETHER = 0.5
HAND_OFFS = 5.0  # in 100 days
HAND_OFFS_IN_ALL = 3
SIMILAR = 0.5
TOP_THREE, PAGE_ONE = 3.5, 10.5
SETTLED_QUANTILE = 0.25
SAME_PEOPLE = 0.35
LATELY_DAYS = 21
LATELY_SHOWN = 3  # days


@dataclass(frozen=True)
class Clashes:
    """`queries`: one row a clash: query, kind, contenders (count), effective_contenders, hand_offs, overlap, gaps (days),
    days, clicks, impressions, best_position, spread (of the day's best position, interquartile), loss (clicks of the
    period), loss_cautious (a lower bound, reached by nine of ten), q_value, evidence; largest loss first. `contenders`:
    query, page, share, clicks, impressions, position, days, subject (whether the page is about the query; null where
    unknown).
    """

    queries: pl.DataFrame
    contenders: pl.DataFrame


def contenders_of(
    facts: pl.DataFrame, min_impressions: int, rows: pl.DataFrame | None = None, by_day: bool = True
) -> pl.DataFrame:
    """The contenders of queries that have two or more: query, page, share, clicks, impressions, position, days; most
    impressions first within each query.

    `facts`: non-brand facts (day, page, query, clicks, impressions, position). `min_impressions`: of a query over the
    period. `rows`: the facts already summed by page and query, if available. `by_day`: whether the facts have days; totals
    of a span have one row for each page and query, which counts for all of its days.
    """
    if rows is None:
        rows = add_up(facts, ["query", "page"])
    rows = rows.select("query", "page", "clicks", "impressions", "position")
    of_query = pl.col("impressions").sum().over("query")
    shares = rows.filter(of_query >= min_impressions).with_columns(share=pl.col("impressions") / of_query)
    frame = shares.filter(pl.col("share") >= CONTENDER_SHARE).filter(pl.len().over("query") >= 2)
    # Only for the few remaining pairs: counting days for every row is the slowest part.
    days = facts.join(frame.select("query", "page"), on=["query", "page"], how="semi").group_by("query", "page")
    counted = frame.join(days.agg(pl.col("day").n_unique().alias("days")), on=["query", "page"])
    enough = counted.filter(pl.col("days") >= (CONTENDER_DAYS if by_day else 1)).filter(pl.len().over("query") >= 2)
    listed = enough.select("query", "page", "share", "clicks", "impressions", "position", "days")
    return listed.sort("query", "impressions", "page", descending=[False, True, False])


def subject() -> pl.Expr:
    """Whether a page is about a query, from `listing` and `fit`: False for a listing or a mismatch; True where it covers the
    query closely; otherwise null.
    """
    elsewhere = pl.col("listing") | (pl.col("fit") == "off")
    return pl.when(elsewhere).then(False).when(pl.col("fit") == "close").then(True)


def find_clashes(
    facts: pl.DataFrame, contenders: pl.DataFrame, curve: ClickCurve, people: pl.DataFrame | None = None, by_day: bool = True
) -> Clashes:
    """The clashes among contenders (see contenders_of). They may have a column `subject`: True where the page is about the
    query, False for a listing or a mismatch, null where unknown. `people`: page, query, device, country, impressions, where
    facts have those. `by_day`: see contenders_of.
    """
    if people is not None:
        contenders = _before_the_same_people(contenders, people)
    if "subject" not in contenders.columns:
        contenders = contenders.with_columns(subject=pl.lit(None, dtype=pl.Boolean))
    daily = (
        facts.join(contenders.select("page", "query"), on=["page", "query"], how="semi")
        .group_by("query", "page", "day")
        .agg(pl.col("impressions").cast(pl.Int64).sum(), pl.col("position").min())
    )
    rows = _by_query(contenders).join(_by_day(daily), on="query").join(_lately(daily), on="query")
    rows = _with_loss(rows.with_columns(kind=_kind()).filter(pl.col("kind").is_not_null()), curve)
    if not by_day:
        thin = pl.lit("too little data", dtype=pl.Enum(GRADES))
        rows = rows.filter(pl.col("kind") != "double listing").with_columns(
            q_value=pl.lit(1.0), loss_cautious=pl.lit(0.0), evidence=thin
        )
    return Clashes(rows, contenders.join(rows.select("query"), on="query", how="semi"))


def _before_the_same_people(contenders: pl.DataFrame, people: pl.DataFrame) -> pl.DataFrame:
    """The contenders of queries whose two largest are shown to the same people."""
    two = contenders.group_by("query", maintain_order=True).head(2).select("query", "page")
    cell = ["query", "device", "country"]
    shown = (
        people.join(two, on=["query", "page"], how="semi")
        .group_by(*cell, "page")
        .agg(pl.col("impressions").cast(pl.Int64).sum())
    )
    shares = shown.with_columns(share=pl.col("impressions") / pl.col("impressions").sum().over("query", "page"))
    # Where only one of the two has impressions, the smaller share is 0.
    common = shares.group_by(cell).agg(pl.when(pl.len() == 2).then(pl.col("share").min()).otherwise(0.0).alias("common"))
    same = common.group_by("query").agg(pl.col("common").sum()).filter(pl.col("common") >= SAME_PEOPLE)
    return contenders.join(same.select("query"), on="query", how="semi", maintain_order="left")


def _lately(daily: pl.DataFrame) -> pl.DataFrame:
    """Whether a second contender of each query is still shown: query, goes_on."""
    first, last = daily.select(pl.min("day"), last=pl.max("day")).row(0)
    span = (last - first).days + 1 if daily.height else 0
    if span < 2:  # totals
        return daily.select("query").unique().with_columns(goes_on=pl.lit(True))
    begins = pl.lit(last) - pl.duration(days=min(LATELY_DAYS, max(span // 2, 1)))
    days = daily.group_by("query", "page").agg((pl.col("day") > begins).sum().alias("lately"))
    second = pl.col("lately").sort(descending=True).get(1)
    return days.group_by("query").agg((second >= LATELY_SHOWN).alias("goes_on"))


def _by_query(contenders: pl.DataFrame) -> pl.DataFrame:
    best = pl.col("position").min()
    return contenders.group_by("query").agg(
        pl.len().alias("contenders"),
        # Shares among contenders only: other pages' impressions are not contested.
        (1 / ((pl.col("impressions") / pl.col("impressions").sum()) ** 2).sum()).alias("effective_contenders"),
        pl.col("clicks").sum(),
        pl.col("impressions").sum(),
        best.alias("best_position"),
        pl.col("position").sort().get(1).alias("second_position"),
        (pl.col("share").sort(descending=True).get(1) / pl.col("share").max()).alias("similar"),
        pl.col("subject").first().alias("first_subject"),
        pl.col("subject").slice(1).any().alias("other_subject"),
    )


def _by_day(daily: pl.DataFrame) -> pl.DataFrame:
    """Daily measures: overlap, hand-offs, gaps and the position of the best contender."""
    # Query and day as one number: sorting and summing by it takes half the time.
    day = pl.col("query").cast(pl.Int64) * 2**32 + pl.col("day").cast(pl.Int32)
    days = (
        daily.with_columns(query_day=day)
        .sort("query_day", "position", "page")
        .group_by("query_day", maintain_order=True)
        .agg(
            pl.col("query", "day").first(),
            pl.len().alias("shown"),
            pl.col("position").first().alias("best"),
            pl.col("page").first().alias("leader"),
            pl.col("impressions").max().alias("demand"),
        )
    )
    changed = (pl.col("leader") != pl.col("leader").shift(1)).fill_null(False)
    quartiles = {name: pl.col("best").quantile(at, "linear") for name, at in (("settled", SETTLED_QUANTILE), ("upper", 0.75))}
    return days.group_by("query").agg(
        pl.len().alias("days"),
        (pl.col("shown") >= 2).mean().alias("overlap"),
        changed.sum().alias("changes"),
        (changed.sum() * 100 / pl.len()).alias("hand_offs"),
        ((pl.col("day").max() - pl.col("day").min()).dt.total_days() + 1 - pl.len()).alias("gaps"),
        pl.col("demand").sum(),
        **quartiles,
    )


def _kind() -> pl.Expr:
    together = pl.col("overlap") >= TOGETHER
    steady = (pl.col("best_position") <= TOP_THREE) & (pl.col("upper") <= TOP_THREE)
    takes_turns = (pl.col("hand_offs") >= HAND_OFFS) & (pl.col("changes") >= HAND_OFFS_IN_ALL)
    wrong_page = (pl.col("first_subject") == False) & pl.col("other_subject").fill_null(False)  # noqa: E712 – null is neither
    return (
        pl.when(wrong_page)
        .then(pl.lit("wrong page ranks"))
        .when(together & steady & (pl.col("second_position") <= PAGE_ONE))
        .then(pl.lit("double listing"))
        .when(~together & takes_turns & pl.col("goes_on"))
        .then(pl.lit("alternating"))
        .when(together & (pl.col("best_position") > TOP_THREE) & (pl.col("similar") >= SIMILAR) & pl.col("goes_on"))
        .then(pl.lit("split"))
    )


def _with_loss(rows: pl.DataFrame, curve: ClickCurve) -> pl.DataFrame:
    expected = rows["demand"].to_numpy() * curve(rows["settled"].to_numpy())
    clicks = rows["clicks"].to_numpy()
    # A double gets clicks from two positions, so nothing is lost.
    loss = np.where(rows["kind"].to_numpy() == "double listing", 0.0, np.maximum(expected - clicks, 0.0))
    low = low_point(np.maximum(expected, 1e-12), curve.shape)
    cautious = np.where(loss > 0, np.maximum(low - clicks, 0.0), 0.0)
    q_values = false_discovery(lower_tail(clicks, np.maximum(expected, 1e-12), curve.shape))
    return (
        rows.with_columns(
            spread=pl.col("upper") - pl.col("settled"),
            loss=pl.Series(loss),
            loss_cautious=pl.Series(cautious),
            q_value=pl.Series(q_values),
            evidence=pl.Series(grades(q_values), dtype=pl.Enum(GRADES)),
        )
        .select(
            "query", "kind", "contenders", "effective_contenders", "hand_offs", "overlap", "gaps", "days", "clicks",
            "impressions", "best_position", "spread", "loss", "loss_cautious", "q_value", "evidence",
        )
        .sort("loss", "impressions", "query", descending=[True, True, False])
    )  # fmt: skip
