"""A page's account: its clicks, its opportunity by lever, and the evidence. Nothing is counted twice.

Levers of a page, in clicks of the period:

  snippet   lost: the shortfalls of its rows (evidence.py), which get fewer clicks than their positions explain, without the
            part that SERP features explain (taken)
  unite     lost: the cost of clashes (clashes.py), counted once, at the leading page
  rank      potential: the headroom of its rows (headroom.py), which a better position would add

Lost clicks are missing at the current position; potential clicks are a possibility, not a fault. Opportunity is the sum of
both.

A row in a costly clash is not counted in addition to it: of all contenders only the lead's row counts, and only with the
part beyond the clash's loss. So a query counts with the larger of the two, never with their sum.

Each figure has a cautious version: for a shortfall, the part below the clicks that nine of ten such rows of the site get;
for headroom, the gain that nine of ten would reach; for a clash, the part below the low end likewise. Pages are ranked by
the lower of the two figures, which is always the cautious one: uncertain rows may be many, but they never lead the list.

A page's evidence is about its lost clicks: firm where firm rows carry at least half of its cautious loss, likely where firm
and likely ones do, otherwise too little data. Potential never affects the grade.

Example: a page's rows lose 40 and 5, and could gain 20 and 0; the second row is the lead's in a clash that costs 12. Its 5
+ 0 is less than 12, so it adds nothing: snippet 40, rank 20, unite 12: lost 52, potential 20, opportunity 72.
"""

from typing import Literal

import polars as pl

from zugzwang.core.clicks.evidence import GRADES
from zugzwang.core.facts.search import ROW

Lever = Literal["snippet", "rank", "unite"]
LEVERS: tuple[Lever, ...] = ("snippet", "unite", "rank")
SESSIONS_ENOUGH = 100  # sessions for a page's own value; with fewer, its type's or the site's is used
LOST: tuple[Lever, ...] = ("snippet", "unite")
POTENTIAL: Lever = "rank"
_AMOUNTS = [*LEVERS, *(f"{lever}_cautious" for lever in LEVERS)]


def entries(stakes: pl.DataFrame, contested: pl.DataFrame) -> pl.DataFrame:
    """What each row adds to its page's account.

    `stakes`: see lenses.stakes. `contested`: page, query, lead (whether the page leads the query), loss, loss_cautious,
    clash_evidence, for each contender of a costly clash. Returns page, query, clicks, impressions, position, snippet, rank,
    unite, their cautious versions, taken, explained, evidence (snippet), rank_evidence, clash_evidence (null without a
    clash).
    """
    rows = stakes.join(contested, on=ROW, how="full", coalesce=True, maintain_order="left_right")
    own, own_cautious = (
        pl.col(f"lost{twin}").fill_null(0.0) + pl.col(f"potential{twin}").fill_null(0.0) for twin in ("", "_cautious")
    )
    is_contested, is_lead = pl.col("lead").is_not_null(), pl.col("lead").fill_null(False)

    def beyond(amount: str, of_row: pl.Expr, loss: str) -> pl.Expr:
        value = pl.col(amount).clip(lower_bound=0.0).fill_null(0.0)
        left = pl.when(of_row > 0).then((of_row - pl.col(loss)).clip(lower_bound=0.0) / of_row).otherwise(0.0)
        return pl.when(~is_contested).then(value).when(is_lead).then(value * left).otherwise(0.0)

    return rows.select(
        *ROW,
        pl.col("clicks", "impressions").fill_null(0),
        "position",
        beyond("lost", own, "loss").alias("snippet"),
        beyond("potential", own, "loss").alias("rank"),
        pl.when(is_lead).then(pl.col("loss")).otherwise(0.0).fill_null(0.0).alias("unite"),
        beyond("lost_cautious", own_cautious, "loss_cautious").alias("snippet_cautious"),
        beyond("potential_cautious", own_cautious, "loss_cautious").alias("rank_cautious"),
        pl.when(is_lead).then(pl.col("loss_cautious")).otherwise(0.0).fill_null(0.0).alias("unite_cautious"),
        pl.when(is_contested).then(0.0).otherwise(pl.col("taken").fill_null(0.0)).alias("taken"),
        pl.col("explained").fill_null(False),
        pl.col("evidence").fill_null("too little data"),
        pl.col("rank_evidence").fill_null("too little data"),
        "clash_evidence",
    )


def accounts(rows: pl.DataFrame, by: str = "page") -> pl.DataFrame:
    """The accounts of pages, or of another column `by`, largest gain first; `rows`: see entries.

    Returns `by`, rows, snippet, rank, unite, their cautious versions, taken, lost, potential, opportunity (their sum),
    lost_cautious, gain (the lower of the opportunity and the cautious sum), evidence (of lost clicks).
    """
    graded = {"snippet": "evidence", "unite": "clash_evidence"}
    carried = {
        grade: pl.sum_horizontal(
            pl.when(pl.col(column) == grade).then(pl.col(f"{lever}_cautious")).otherwise(0.0)
            for lever, column in graded.items()
        )
        for grade in GRADES
    }
    pages = rows.with_columns(**carried).group_by(by).agg(pl.len().alias("rows"), pl.col(*_AMOUNTS, "taken", *GRADES).sum())
    opportunity, cautious = pl.sum_horizontal(*LEVERS), pl.sum_horizontal(f"{lever}_cautious" for lever in LEVERS)
    frame = pages.with_columns(
        lost=pl.sum_horizontal(*LOST),
        potential=pl.col(POTENTIAL),
        opportunity=opportunity,
        gain=pl.min_horizontal(opportunity, cautious),
        lost_cautious=pl.sum_horizontal(f"{lever}_cautious" for lever in LOST),
    )
    firm = (pl.col("firm") > 0) & (pl.col("firm") >= pl.col("lost_cautious") / 2)
    likely = (pl.col("firm") + pl.col("likely") > 0) & (pl.col("firm") + pl.col("likely") >= pl.col("lost_cautious") / 2)
    grade = pl.when(firm).then(pl.lit("firm")).when(likely).then(pl.lit("likely")).otherwise(pl.lit("too little data"))
    return (
        frame.with_columns(evidence=grade.cast(pl.Enum(GRADES)))
        .drop(*GRADES)
        .sort("gain", "opportunity", by, descending=[True, True, False])
    )


def with_page_verdicts(rows: pl.DataFrame, whole: pl.DataFrame) -> pl.DataFrame:
    """The accounts of pages with the better of two grades: from single rows, and from the page as a whole, which detects a
    loss spread over many rows.

    `kept`: see accounts. `whole`: page, evidence of its total clicks (lenses.look, low-ctr, by page). A page without lost
    clicks keeps its grade.
    """
    both = rows.join(whole.select("page", as_a_whole="evidence"), on="page", how="left", maintain_order="left")
    surer = pl.min_horizontal(pl.col("evidence").to_physical(), pl.col("as_a_whole").to_physical())
    grade = surer.replace_strict(dict(enumerate(GRADES)), return_dtype=pl.Enum(GRADES))
    return both.with_columns(evidence=pl.when(pl.col("lost") > 0).then(grade).otherwise("evidence")).drop("as_a_whole")


def value_per_click(pages: pl.DataFrame) -> pl.DataFrame:
    """The value of a click to each page, and its basis.

    `pages`: page, type, sessions, value (null: not reported), price (null: unknown). Returns page, value_per_click (null:
    unknown), worth_basis: "visits of the page", "visits of its type", "visits of the site", "price per click" or null.
    """
    rows = pages.with_columns(pl.when(pl.col("value").is_not_null()).then(pl.col("sessions")).alias("_sessions"))
    of_type = (pl.col("value").sum() / pl.col("_sessions").sum()).over("type")
    type_known = (pl.col("_sessions").sum() >= SESSIONS_ENOUGH).over("type") & pl.col("type").is_not_null()
    of_site = pl.col("value").sum() / pl.col("_sessions").sum()
    site_known = pl.col("_sessions").sum() >= SESSIONS_ENOUGH
    own_known = pl.col("_sessions").fill_null(0) >= SESSIONS_ENOUGH
    known = [
        (own_known, pl.col("value") / pl.col("_sessions"), "visits of the page"),
        (type_known, of_type, "visits of its type"),
        (site_known, of_site, "visits of the site"),
        (pl.col("price").is_not_null(), pl.col("price"), "price per click"),
    ]
    value = pl.coalesce(pl.when(holds).then(what) for holds, what, _ in known)
    basis = pl.coalesce(pl.when(holds).then(pl.lit(words)) for holds, _, words in known)
    return rows.select("page", value.alias("value_per_click"), basis.alias("worth_basis"))
