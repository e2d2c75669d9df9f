"""The good rows of a reading as tables of grains.py; missing values become "not reported"."""

from collections.abc import Sequence
from typing import Literal

import numpy as np
import polars as pl

from zugzwang.core.facts.grains import OF_SPANS, grain_of
from zugzwang.core.facts.periods import Period
from zugzwang.data.dictionary import ids_for
from zugzwang.data.models import Page, Query, Site
from zugzwang.intake.checks import NAMES
from zugzwang.intake.kinds import KINDS
from zugzwang.intake.kinds.kind import Assembled, Making
from zugzwang.intake.kinds.making import absolute, filled
from zugzwang.intake.reading import Reading


def assemble(
    site: Site,
    reading: Reading,
    good: pl.DataFrame,
    own_networks: Sequence[str],
    channel: str | None,
    span: Period | Literal["month"] | None,
    keep: bool,
) -> Assembled:
    """The `good` rows of a reading as a grain's table, with ids for the texts of pages and queries.

    `span`: the days that a table without days covers; "month": each row covers the month of its day. `keep` false: nothing
    is added to the dictionaries; new texts get ids that only this table knows.
    """
    kind = KINDS[reading.source]
    current = set(reading.mapping) & set(good.columns)
    grain = grain_of(current) if len(kind.grains) > 1 else kind.grains[0]
    if span is not None:
        grain = OF_SPANS[grain.name]
    made = Assembled(grain, grain.schema.to_frame(), pl.Series([], dtype=pl.String))
    making = Making(site, made, own_networks, channel, keep)
    if kind.leave_out is not None:
        good = kind.leave_out(good, making)
    for name in NAMES:
        if name in good.columns and good.height and kind.with_ids:
            good, texts, new = _with_ids(good, name, site, keep)
            if name == "page":
                made.page_texts, made.new_pages = texts, new
    if span is not None:
        good = _of_span(good, span)
    made.rows = (kind.rows or filled)(good, making)
    return made


def _of_span(rows: pl.DataFrame, span: Period | Literal["month"]) -> pl.DataFrame:
    """The rows with the first and last day that they cover instead of their day."""
    if span == "month":
        day = pl.col("day")
        return rows.with_columns(first=day.dt.month_start(), last=day.dt.month_end()).drop("day")
    return rows.with_columns(first=pl.lit(span.first), last=pl.lit(span.last))


def _with_ids(rows: pl.DataFrame, name: str, site: Site, keep: bool) -> tuple[pl.DataFrame, pl.Series, int]:
    """The rows with ids instead of a column's texts, the distinct texts, and how many are new."""
    words = Page if name == "page" else Query
    code = rows[name].to_physical().to_numpy()
    used = np.flatnonzero(np.bincount(code)).astype(np.uint32)
    texts = pl.Series(used).cat.to(rows.schema[name]).cast(pl.String)
    if name == "page":
        texts = _absolute_pages(site, texts)
    different = texts.unique(maintain_order=True)
    ids, new = ids_for(site, words, different, keep)
    id_of_text = texts.replace_strict(different, ids, return_dtype=pl.UInt32)
    id_of_code = np.zeros(int(code.max()) + 1, dtype=np.uint32)
    id_of_code[used] = id_of_text.to_numpy()
    return rows.with_columns(pl.Series(name, id_of_code[code])), different, new


def _absolute_pages(site: Site, texts: pl.Series) -> pl.Series:
    """Addresses as absolute addresses: visit data and crawls often have only paths."""
    if texts.str.contains(r"(?i)^https?://").all():
        return texts
    return pl.Series([absolute(site, text) for text in texts.to_list()], dtype=pl.String)
