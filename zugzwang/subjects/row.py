"""One row – a page that ranks for a query – with its evidence, and the chart of all rows around it."""

from typing import Any

import numpy as np
import polars as pl

from zugzwang.core.clicks.evidence import usual_factors, usual_range, wilson_interval
from zugzwang.core.clicks.lenses import Lens, ListedBy
from zugzwang.core.facts.search import sums
from zugzwang.core.words import sentences
from zugzwang.errors import NotFound
from zugzwang.findings.lenses import looked_at, targets
from zugzwang.findings.measures import facts_compared
from zugzwang.findings.table import Answer, returned_rows
from zugzwang.findings.view import View

FIELD_DOTS = 4_000


def tell_field(answer: Answer, lens: Lens) -> dict[str, Any]:
    """The chart: one dot for each selected row, up to `FIELD_DOTS` with the most impressions, with the curve and its usual
    band.
    """
    view = answer.view
    every = looked_at(view, lens)
    listed = answer.rows.select(pl.col("page", "query").fill_null(0), grade=pl.col("evidence").cast(pl.String))
    dots = every.top_k(FIELD_DOTS, by="impressions").join(listed, on=["page", "query"], how="left", maintain_order="left")
    of_pages = dots.height > 0 and dots["query"].max() == 0
    named = view.snapshot.names.named(dots, ("page" if of_pages else "query",))
    dots = named.rename(
        {"grade": "evidence", "page": "name", "query": "query_id"}
        if of_pages
        else {"grade": "evidence", "query": "name", "page": "page_id"}
    )
    devices = view.setting.part.devices
    curve = view.appraisal.curves.of(devices[0]) if len(devices) == 1 else view.curve
    points = curve.points()
    low, high = usual_factors(view.appraisal.scatter.shape(np.array([point["position"] for point in points])))
    names = ["page_id", "query_id", "name", "position", "ctr", "impressions", "evidence"]
    return {
        "dots": dots.select(names).to_dicts(),
        "tested": every.height,
        "curve": [
            {**point, "low": point["ctr"] * less, "high": min(point["ctr"] * more, 1.0)}
            for point, less, more in zip(points, low, high, strict=True)
        ],
        "basis": sentences.curve_basis(curve.basis, curve.clicks),
    }


def tell_row(answer: Answer, lens: Lens, page: int, query: int) -> dict[str, Any]:
    """The evidence of one row: its numbers, sentences, and days (also of the comparison period)."""
    view = answer.view
    of_row = (pl.col("page") == page) & (pl.col("query") == query)
    by: ListedBy = "row" if page and query else "query" if query else "page"
    facts = view.snapshot.facts.listed(view.period, view.setting.part, by).filter(of_row).sort("day")
    if facts.is_empty():
        raise NotFound("This row had no impressions in the period.", "Choose other days, or another row.")
    device = facts["device"].to_numpy() if "device" in facts.columns else None
    current = view.snapshot.facts.appraisal(view.period, view.setting, by)
    listed = current.rows.filter(of_row).to_dicts()[0]  # as in the list: for a page, without its branded queries
    clicks, shown, position = int(listed["clicks"]), int(listed["impressions"]), float(listed["position"])
    expected = current.curves.expected(facts["position"].to_numpy(), facts["impressions"].to_numpy(), device)
    if by == "page":
        # A page's own position mixes those of its queries: its expectation is their sum.
        expected = expected * (listed["expected_clicks"] / expected.sum() if expected.sum() else 0.0)
    # Several addresses of one merged page may be shown for the query on the same day.
    days = facts.with_columns(expected_clicks=pl.Series(expected)).group_by("day").agg(*sums(), pl.col("expected_clicks").sum())
    names = view.snapshot.names.named(facts.select("page", "query").head(1)).to_dicts()[0]
    low, high = wilson_interval(np.array([clicks]), np.array([shown]))
    usual_low, usual_high = usual_range(np.array([expected.sum()]), current.scatter.shape(np.array([position])))
    usual = (int(usual_low[0]), int(usual_high[0]))
    target = float(targets(view, np.array([position]), [query])[0])
    of_listed = (pl.col("page").fill_null(0) == page) & (pl.col("query").fill_null(0) == query)
    in_lens = returned_rows(view, answer.finding, answer.rows.filter(of_listed)).to_dicts()
    found = in_lens[0] if in_lens else None
    lines = [sentences.row(clicks, shown, position, usual)]
    if found:
        lines.append(sentences.evidence(lens, found["evidence"], found["q_value"], found["probability"]))
        lines += _above(view, query, found)
        if "fit" in found:
            lines.append(sentences.fit(found["fit"], found["lacking"], found["fit_known_by"]) + " " + found["advice"])
        searches = view.snapshot.facts.searches(view.period, view.setting.part)
        is_rough = searches is not None and bool(searches.filter(pl.col("query") == query, pl.col("rough")).height)
        lines.append(sentences.reach(found["potential_month"], position, target, found["by_volume"], is_rough))
    return {
        **names,
        "sentences": lines,
        "clicks": clicks,
        "impressions": shown,
        "ctr": clicks / shown,
        "ctr_low": float(low[0]),
        "ctr_high": float(high[0]),
        "position": position,
        "expected_clicks": float(expected.sum()),
        "expected_ctr": float(expected.sum()) / shown,
        "usual_low": usual[0],
        "usual_high": usual[1],
        "target": target,
        "compared": facts_compared(view, of_row, by),
        "finding": found,
        "days": days.sort("day").to_dicts() if view.by_day else [],
        "days_before": _days_before(view, of_row, by) if view.by_day else [],
    }


def _above(view: View, query: int, found: dict[str, Any]) -> list[str]:
    """The clicks that SERP features above a row take, where known."""
    if found["taken"] <= 0:
        return []
    above = view.snapshot.serps.result_ranks().filter(pl.col("query") == query)["above"].to_list()
    factor = found["expected_with_features"] / found["expected_clicks"]
    return [sentences.explained(above[0], factor, found["taken_month"], found["explained"])] if above and above[0] else []


def _days_before(view: View, of_row: pl.Expr, by: ListedBy) -> list[dict[str, Any]]:
    """The days of the comparison period, each under its counterpart in the period."""
    if view.before is None or not view.snapshot.facts.has(view.grain_of(by), view.before):
        return []
    offset = view.period.first - view.before.first
    facts = (
        view.snapshot.facts.listed(view.before, view.setting.part, by).filter(of_row).group_by("day").agg(*sums()).sort("day")
    )
    return facts.select(pl.col("day") + offset, "clicks", "impressions", "position").to_dicts()
