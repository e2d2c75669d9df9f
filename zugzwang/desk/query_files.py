"""One query with everything about it: every page shown for it, day by day, how often it is searched, its results page."""

from dataclasses import replace
from typing import Any

import polars as pl

from zugzwang.core import sentences
from zugzwang.core.facts import ROW
from zugzwang.desk import frames
from zugzwang.desk.accounts import results_of, said_of_results
from zugzwang.desk.clashing import days_of_pages, held_clashes
from zugzwang.desk.measures import facts_beside
from zugzwang.desk.scope import Scope, Settled, settle
from zugzwang.errors import NotFound
from zugzwang.store.models import Site

LANES = 8


def tell_query(site: Site, scope: Scope, query: int) -> dict[str, Any]:
    """A query's pages, the most shown first, with the days of the first eight; branded ones too."""
    scope = replace(scope, section="", page_type=(), query_group=(), text="")
    settled = settle(site, scope, compare="year", branded="with")
    held = frames.appraisal(*settled.key, settled.period, settled.setting)
    rows = held.rows.filter(pl.col("query") == query)
    if rows.is_empty():
        raise NotFound("No page was shown for this query in the period.", "Choose other days, or another query.")
    if settled.before is not None:
        before = frames.sums(*settled.key, settled.before, settled.setting.part)
        rows = rows.join(before.select(*ROW, "clicks_before", "position_before"), on=ROW, how="left")
        rows = rows.with_columns(pl.col("clicks_before").fill_null(0))
        rows = rows.with_columns(change=pl.col("clicks") - pl.col("clicks_before"))
    rows = frames.lacking_words(*settled.key, rows.join(frames.fits_of(*settled.key, rows.select(ROW)), on=ROW, how="left"))
    named = settled.named(rows.sort("impressions", "page", descending=[True, False]))
    days = days_of_pages(settled, query, named["page"].head(LANES))
    told = [
        {**row, "page": row["page_text"], "page_id": row["page"], "days": days.get(row["page"], [])}
        for row in named.iter_rows(named=True)
    ]
    clicks, impressions = int(rows["clicks"].sum()), int(rows["impressions"].sum())
    searches = frames.searches(*settled.key, settled.period, settled.setting.part)
    known = searches.filter(pl.col("query") == query)["searches"] if searches is not None else pl.Series([])
    return {
        "settled": settled,
        "query": told[0]["query_text"],
        "query_id": query,
        "branded": bool(rows["branded"][0]),
        "sentences": sentences.query(len(told), clicks, impressions, known[0] * settled.month_share if known.len() else None),
        "beside": [vars(one) for one in facts_beside(settled, pl.col("query") == query)],
        "pages": told,
        "clash": _clash_of(settled, query),
        "results": (results := results_of(settled, pl.col("query") == query)),
        "results_sentence": said_of_results(results),
    }


def _clash_of(settled: Settled, query: int) -> str | None:
    """Why the query is fought over, in a sentence; None where it is not."""
    held = held_clashes(*settled.key, settled.period, settled.setting, settled.min_impressions)
    found = held.clashes.queries.filter(pl.col("query") == query).to_dicts()
    if not found:
        return None
    row = found[0]
    return sentences.clash(row["kind"], row["contenders"], row["hand_offs"], row["overlap"], row["spread"])
