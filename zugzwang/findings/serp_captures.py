"""SERP captures: what is above the site's result in each, and what that costs."""

from typing import Any

import numpy as np
import polars as pl

from zugzwang.core.facts.search import ROW
from zugzwang.core.results.block_costs import explained
from zugzwang.core.results.blocks import Rival, rivals
from zugzwang.core.words import sentences
from zugzwang.findings.columns import CLICKS, IMPRESSIONS, PAGE, PAGES, PART, POSITION, POSITIONS, QUERY, TAKEN_MONTH
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.shapes import BlockCostShown, RivalShown
from zugzwang.findings.view import View, ViewOptions

RIVALS = 60


def find_results(view: View) -> Found:
    """The newest capture of each query, with the row of its page with the most impressions; most impressions first."""
    depths = (
        view.snapshot.serps.result_ranks()
        .drop("above", "organic_rank")
        .with_columns(pl.col("blocks").list.len().alias("number"))
    )
    shown = depths.join(_most_shown(view, depths["query"]), on="query", how="left", maintain_order="left")
    if view.branded == "without":
        shown = shown.filter(~pl.col("query").is_in(view.of_brand.implode()))
    shown = shown.with_columns(
        pl.col("explained").fill_null(False), pl.col("taken_month", "clicks", "impressions").fill_null(0)
    )
    shown = shown.sort("impressions", "query", descending=[True, False])
    lacking = [] if depths.height else [sentences.NO_RESULTS]
    return Found(shown, {"captures": depths.height}, lacking, {"costs": _costs(view), "rivals": _rivals(view)})


def _most_shown(view: View, queries: pl.Series) -> pl.DataFrame:
    """For each captured query the page with the most impressions, adjusted for SERP features."""
    rows = view.appraisal.rows.filter(pl.col("query").is_in(queries.implode()))
    most = rows.sort("impressions", "page", descending=[True, False]).unique("query", keep="first").sort("query")
    above = view.snapshot.serps.above(view.period, view.setting)
    factor = np.ones(most.height)
    if above is not None:
        frame = most.select("query").join(above, on="query", how="left", maintain_order="left")["factor"]
        factor = np.minimum(frame.fill_null(1.0).to_numpy(), 1.0)
    clicks, expected, position = (most[name].to_numpy() for name in ("clicks", "expected_clicks", "position"))
    taken = np.maximum(expected - clicks, 0) - np.maximum(expected * factor - clicks, 0)
    return most.select(
        *ROW,
        "clicks",
        "impressions",
        "position",
        "expected_clicks",
        pl.Series("expected_with_features", expected * factor),
        pl.Series("explained", explained(clicks, expected, position, view.appraisal.scatter, factor)),
        pl.Series("taken_month", taken * view.month_share),
    )


def _costs(view: View) -> list[dict[str, Any]]:
    """The effect of each kind of feature that is above the site's result on at least two SERPs."""
    found = view.snapshot.serps.block_costs(view.period, view.setting) if view.snapshot.serps.result_ranks().height else []
    return [
        {
            **vars(one),
            "counts": one.counts != 1,
            "sentence": sentences.block_cost(one.kind, one.rows, one.factor, one.low, one.high, one.counts != 1),
        }
        for one in found
        if one.rows
    ]


def _rivals(view: View) -> list[dict[str, Any]]:
    """The hosts above the site's result, by search volume of their queries, or impressions where it is unknown."""
    searches = view.snapshot.facts.searches(view.period, view.setting.part)
    shown = view.appraisal.rows.group_by("query").agg(pl.col("impressions").cast(pl.Float64).sum().alias("searches"))
    weights = shown if searches is None else searches.select("query", pl.col("searches").cast(pl.Float64))
    result: list[Rival] = rivals(view.snapshot.serps.results(), weights)
    return [{"host": one.host, "queries": one.queries, "searches": one.searches * view.month_share} for one in result[:RIVALS]]


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    if found.lacking:
        return found.lacking
    ours, explained = rows.filter(pl.col("own_rank").is_not_null()).height, rows.filter("explained").height
    lines = [sentences.results(rows.height, ours, explained, float(rows["taken_month"].sum()))]
    return lines + [one["sentence"] for one in extras["costs"] if one["counts"]]


RESULTS = Finding(
    name="serp-captures",
    place=("on-page", 4),
    title="SERP captures",
    question="What is above your results on SERPs, and what does it cost?",
    method="serp-captures",
    needs=(("results",),),
    claims=("SERP", "SERPs"),
    order="impressions",
    makes=(*PART, "branded", "curve"),
    chooses=(*PAGES, "query_group", "topic", "text", *POSITIONS, "explained"),
    columns=(
        QUERY.listed("query, page", "query, and your page with most impressions for it"),
        PAGE.listed(null=True, shown="data"),
        Column("captured", "day", "captured", "when the SERP was captured", shown="extra"),
        POSITION.listed(),
        Column(
            "blocks_above", "count", "blocks above", "blocks above your result", "blocks", "list",
            null=True, low=True,
        ),
        Column(
            "screens_down", "amount", "screens down", "screens to scroll to your result: 800 pixels each, 640 on a phone",
            "screens", "list", null=True, low=True,
        ),
        IMPRESSIONS.listed(),
        CLICKS.listed(),
        Column(
            "expected_clicks", "amount", "expected clicks", "clicks that this site usually gets at these positions",
            "clicks in the period", "extra", null=True,
        ),
        Column(
            "expected_with_features", "amount", "expected with features", "expected clicks with the SERP features above it",
            "clicks in the period", "list", null=True,
        ),
        Column("explained", "flag", "explained", "whether SERP features above explain the low CTR", shown="extra"),
        TAKEN_MONTH.listed(shown="extra"),
        Column("blocks", "words", "blocks", "blocks of the SERP, from the top"),
        Column("has_snippet", "flag", "box is yours", "whether you hold the featured snippet", shown="extra"),
        Column("own_rank", "count", "", "which block is yours", null=True),
    ),
    find=find_results,
    says=_says,
    more={"costs": list[BlockCostShown], "rivals": list[RivalShown]},
    choose={"explained": lambda view, rows: rows.filter(pl.col("explained") == (view.options.explained == "only"))},
    opens=(ViewOptions(),),
)  # fmt: skip
