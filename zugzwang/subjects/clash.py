"""One contested query: a lane for each contender, day by day, with each page's fit, clicks and links."""

from datetime import date
from typing import Any

import polars as pl

from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import NotFound
from zugzwang.findings.clashes import CLASHES, contenders_in, conversions_of
from zugzwang.findings.measures import facts_compared
from zugzwang.findings.table import find, returned_rows
from zugzwang.findings.view import View, ViewOptions, settle
from zugzwang.subjects.query import days_of_pages


def tell_clash(snapshot: Snapshot, options: ViewOptions, query: int, today: date) -> dict[str, Any]:
    view = settle(snapshot, options, today, compare="year")
    rows = find(view, CLASHES).rows.filter(pl.col("query") == query)
    if rows.is_empty():
        raise NotFound("No pages compete for this query in the period.", "Choose other days, or another query.")
    every = contenders_in(view)
    return {
        "clash": returned_rows(view, CLASHES, rows).to_dicts()[0],
        "compared": facts_compared(view, pl.col("query") == query),
        "alike": _between_the_same(view, every, query),
        "lanes": _lanes(view, every.filter(pl.col("query") == query), query),
    }


def _lanes(view: View, contenders: pl.DataFrame, query: int) -> list[dict[str, Any]]:
    snapshot, pages = view.snapshot, contenders["page"]
    days = days_of_pages(view, query, pages)
    of_these = pl.col("page").is_in(pages.implode())
    lines = {row["page"]: row for row in snapshot.pages.crawled_pages().filter(of_these).iter_rows(named=True)}
    in_all = dict(view.appraisal.rows.filter(of_these).group_by("page").agg(pl.col("clicks").sum()).iter_rows())
    conversions, links = conversions_of(snapshot, view.period), snapshot.links.referring_domains()
    return [
        {
            "page": row["page"],
            "page_id": (page := row["page_id"]),
            "days": days.get(page, []),
            **{name: lines.get(page, {}).get(name) for name in ("title", "heading", "words")},
            "listing": bool(row["listing"]),
            "clicks_in_all": in_all.get(page, 0),
            "conversions": None if conversions is None else conversions.get(page, 0.0),
            "links": None if links is None else links.get(page, 0),
        }
        for row in snapshot.names.named(contenders, ("page",)).iter_rows(named=True)
    ]


def _between_the_same(view: View, every: pl.DataFrame, query: int) -> list[dict[str, Any]]:
    """Other clashes between the same pages, so one decision settles them all: query, query_id, loss_month."""
    pages = every.group_by("query").agg(pl.col("page").sort().alias("pages"))
    own = pages.filter(pl.col("query") == query)["pages"]
    same = pages.filter(pl.col("query") != query).join(pl.DataFrame({"pages": own}), on="pages", how="semi")
    rows = find(view, CLASHES).rows.join(same, on="query", how="semi").sort("loss", "query", descending=[True, False])
    return view.snapshot.names.named(rows.select("query", "loss_month"), ("query",)).to_dicts()
