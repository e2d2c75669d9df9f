"""The results pages captured for some rows, and how far down one's own result stands."""

from typing import Any

import polars as pl

from zugzwang.core.facts.grains import RESULTS
from zugzwang.core.pages.sections import path_of
from zugzwang.core.words import sentences
from zugzwang.data.blocks import read_facts
from zugzwang.data.rules import host_of
from zugzwang.data.snapshot import WHOLE
from zugzwang.findings.view import View


def results_of(view: View, rows: pl.Expr) -> dict[str, Any]:
    """`results`: the blocks captured for the queries of some rows, the most shown query's first, the latest capture of each;
    `results_sentence`: how far down the first of them one's own result is (None without a results page)."""
    blocks = _blocks(view, rows)
    if not blocks:
        return {"results": [], "results_sentence": None}
    first = [(one["block"], one["own"]) for one in blocks if one["query_id"] == blocks[0]["query_id"]]
    return {"results": blocks, "results_sentence": sentences.results_page(first)}


def _blocks(view: View, rows: pl.Expr) -> list[dict[str, Any]]:
    results = read_facts(view.site, RESULTS)
    if results.is_empty() or view.setting.part != WHOLE:
        return []
    by_query = view.held.rows.filter(rows).group_by("query").agg(pl.col("impressions").sum())
    held = results.join(by_query, on="query").filter(pl.col("captured") == pl.col("captured").max().over("query"))
    path = path_of(pl.col("address"), host_of(view.site))
    own = (path.str.starts_with("/") & ~path.str.starts_with("//")).fill_null(False)
    named = view.snapshot.named(held.with_columns(own=own), ("query",))
    order = ["impressions", "query", "device", "country", "place"]
    columns = ["captured", "device", "country", "place", "block", "title", "address", "snippet"]
    return named.sort(order, descending=[True, *[False] * 4]).select("query_id", "query", *columns, "own").to_dicts()
