"""Search for pages and queries by a part of their text."""

from typing import Any

import polars as pl

from zugzwang.data.dictionary import Words
from zugzwang.data.models import Page, Query
from zugzwang.data.snapshot import LISTED, Snapshot

MOST = 6  # of each kind


def names_with(snapshot: Snapshot, text: str) -> dict[str, list[dict[str, Any]]]:
    """The pages and queries that contain a text: `pages`, `queries`, each with id and text. An exact match comes first, then
    by clicks in the default period, last those without search data in it.
    """
    if not text:
        return {"pages": [], "queries": []}
    return {"pages": _of(snapshot, Page, "page", text), "queries": _of(snapshot, Query, "query", text)}


def _of(snapshot: Snapshot, words: Words, name: str, text: str) -> list[dict[str, Any]]:
    found = pl.DataFrame({name: snapshot.names.matching(words, text).unique().cast(pl.UInt32)})
    found = found.join(_clicks(snapshot, name), on=name, how="left")
    exact = list(words.objects.filter(site=snapshot.site, text=text).values_list("id", flat=True))
    order = found.with_columns(is_it=pl.col(name).is_in(exact))
    first = order.sort("is_it", "clicks", name, descending=[True, True, False], nulls_last=True).head(MOST)
    named = snapshot.names.named(first.select(name), (name,))
    return [{"id": row[f"{name}_id"], "text": row[name]} for row in named.iter_rows(named=True) if row[name] is not None]


def _clicks(snapshot: Snapshot, name: str) -> pl.DataFrame:
    """Clicks of each in the default period: `name`, clicks."""
    period = snapshot.facts.usual_period()
    by = snapshot.facts.finest(period) if period else "row"
    if period is None or name not in LISTED[by].schema.names():
        return pl.DataFrame(schema={name: pl.UInt32, "clicks": pl.Int64})
    return snapshot.facts.sums(period, by=by).group_by(name).agg(clicks=pl.col("clicks").cast(pl.Int64).sum())
