"""One query with every page that ranks for it, day by day, and why they may compete."""

from dataclasses import replace
from datetime import date
from typing import Any

import polars as pl

from zugzwang.core.facts.search import ROW, sums
from zugzwang.core.words import sentences
from zugzwang.data.dictionary import some
from zugzwang.data.models import Query
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import NotFound
from zugzwang.findings.clashes import CLASHES
from zugzwang.findings.lenses import with_before
from zugzwang.findings.measures import facts_compared
from zugzwang.findings.table import find
from zugzwang.findings.view import View, ViewOptions, settle
from zugzwang.subjects.results import results_of

LANES = 8


def tell_query(snapshot: Snapshot, options: ViewOptions, query: int, today: date) -> dict[str, Any]:
    """A query's pages, most impressions first, with daily figures of the first eight; branded queries too."""
    options = replace(options, section="", page_type=(), query_group=(), topic=(), text="")
    view = settle(snapshot, options, today, compare="year", branded="with")
    of_query = pl.col("query") == query
    rows = view.appraisal.rows.filter(of_query)
    if rows.is_empty():
        raise NotFound("This query had no impressions in the period.", "Choose other days, or another query.")
    rows = with_before(view, rows, "row")
    rows = snapshot.pages.lacking_words(rows.join(snapshot.pages.fits(rows.select(ROW)), on=ROW, how="left"))
    rows = rows.sort("impressions", "page", descending=[True, False])
    days = days_of_pages(view, query, rows["page"].head(LANES))
    frame = rows.filter(pl.col("page") > 0)  # facts by query have no page
    pages = [{**row, "days": days.get(row["page_id"], [])} for row in snapshot.names.named(frame).iter_rows(named=True)]
    clicks, impressions = int(rows["clicks"].sum()), int(rows["impressions"].sum())
    searches = snapshot.facts.searches(view.period, view.setting.part)
    known = searches.filter(of_query)["searches"] if searches is not None else pl.Series([])
    lines = sentences.query(len(pages), clicks, impressions, known[0] * view.month_share if known.len() else None)
    return {
        **view.periods(),
        "query": dict(snapshot.names.known_texts(Query, some(query)).iter_rows())[query],
        "query_id": query,
        "branded": bool(rows["branded"][0]),
        "sentences": lines,
        "compared": facts_compared(view, of_query),
        "pages": pages,
        "clash": _clash_of(settle(snapshot, replace(options, compare="none"), today), query),
        **results_of(view, of_query),
    }


def _clash_of(view: View, query: int) -> str | None:
    """Why pages compete for the query, in a sentence; None where they do not."""
    for row in find(view, CLASHES).rows.filter(pl.col("query") == query).iter_rows(named=True):
        return sentences.clash(row["kind"], row["number"], row["hand_offs"], row["overlap"], row["spread"], view.by_day)
    return None


def days_of_pages(view: View, query: int, pages: pl.Series) -> dict[int, list[dict[str, Any]]]:
    """Daily figures of pages that rank for a query: day, clicks, impressions, position, best (ranked best that day)."""
    facts = view.snapshot.facts.listed(view.period, view.setting.part).filter(
        pl.col("query") == query, pl.col("page").is_in(pages.implode())
    )
    by_day = facts.group_by("page", "day").agg(*sums()).sort("day")
    best = by_day.sort("position", "page").group_by("day", maintain_order=True).first().select("day", "page", best=pl.lit(True))
    lanes = by_day.join(best, on=["day", "page"], how="left").with_columns(pl.col("best").fill_null(False))
    return {page: rows.drop("page").sort("day").to_dicts() for (page,), rows in lanes.group_by("page")}
