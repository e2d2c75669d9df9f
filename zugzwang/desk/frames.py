"""What is computed from a site's facts, kept in the process until the facts change (`data_version` is part of each key)."""

from datetime import date
from functools import lru_cache

import polars as pl

from zugzwang.core.click_curve import ClickCurve, own_curve
from zugzwang.core.facts import ROW, SCHEMA, add_up
from zugzwang.core.grains import PAGE_QUERY, SEARCH_GRAINS
from zugzwang.core.headroom import Target
from zugzwang.core.lenses import Appraisal, Lens, appraise, look
from zugzwang.core.patterns import matches
from zugzwang.core.periods import Period
from zugzwang.desk.cleaning import cleaned, page_map
from zugzwang.store.blocks import read_days, read_facts
from zugzwang.store.dictionary import Words, ids_containing, read_texts, texts_of
from zugzwang.store.models import Page, Query, Site

Patterns = tuple[str, ...]
CurvePoints = tuple[tuple[float, float], ...]
NAMED_ONE_BY_ONE = 10_000  # so many names are asked for by id; for more, the whole dictionary is read and kept


def _site(site_id: int) -> Site:
    return Site(id=site_id)


@lru_cache(maxsize=32)
def days(site_id: int, version: int) -> list[date]:
    """The days with search facts, in order, of the finest grain that has any."""
    for grain in SEARCH_GRAINS:
        held = read_days(_site(site_id), grain)
        if held:
            return held
    return []


@lru_cache(maxsize=6)
def facts(site_id: int, version: int, period: Period) -> pl.DataFrame:
    """Page × query facts as they count under the site's rules: pages folded, those left out gone."""
    return cleaned(read_facts(_site(site_id), PAGE_QUERY, period, SCHEMA.names()), page_map(site_id, version))


@lru_cache(maxsize=16)
def texts(site_id: int, version: int, words: Words) -> pl.DataFrame:
    return read_texts(_site(site_id), words)


@lru_cache(maxsize=6)
def sums(site_id: int, version: int, period: Period) -> pl.DataFrame:
    """Sums by page × query, named for a comparison."""
    added = add_up(facts(site_id, version, period), ROW)
    return added.rename({name: f"{name}_before" for name in ("clicks", "impressions", "position", "ctr")})


@lru_cache(maxsize=32)
def branded(site_id: int, version: int, patterns: Patterns) -> pl.Series:
    """Ids of the branded queries."""
    if not patterns:
        return pl.Series("id", [], dtype=pl.UInt32)
    return texts(site_id, version, Query).filter(matches(pl.col("text"), patterns))["id"]


@lru_cache(maxsize=8)
def appraisal(site_id: int, version: int, period: Period, patterns: Patterns, points: CurvePoints) -> Appraisal:
    set_by_hand: ClickCurve | None = own_curve(points) if points else None
    return appraise(facts(site_id, version, period), branded(site_id, version, patterns), set_by_hand)


@lru_cache(maxsize=24)
def lens_rows(
    site_id: int,
    version: int,
    period: Period,
    before: Period | None,
    patterns: Patterns,
    points: CurvePoints,
    lens: Lens,
    min_impressions: int,
    target: Target,
) -> pl.DataFrame:
    """The rows of a lens (core.lenses.look), with the sums of the comparison beside them where there is one."""
    rows = look(appraisal(site_id, version, period, patterns, points), lens, min_impressions, target)
    if before is None:
        return rows
    return rows.join(sums(site_id, version, before), on=ROW, how="left", maintain_order="left").with_columns(
        pl.col("clicks_before", "impressions_before").fill_null(0)
    )


def matching(site_id: int, version: int, words: Words, text: str) -> pl.Series:
    """Ids of the pages or queries that contain a text, letters' case ignored."""
    if text.isascii():
        found_ids = ids_containing(_site(site_id), words, text)
        to = page_map(site_id, version).to if words is Page else None
        return found_ids if to is None else pl.Series("id", to[found_ids.to_numpy()])
    # Databases differ in what they hold for the small letter of É; here it is é.
    found = texts(site_id, version, words).filter(pl.col("text").str.to_lowercase().str.contains(text.lower(), literal=True))
    return found["id"]


def named(site_id: int, version: int, rows: pl.DataFrame, names: tuple[str, ...] = ("page", "query")) -> pl.DataFrame:
    """The rows with `page_text` and `query_text` beside the ids."""
    for name in names:
        words: Words = Page if name == "page" else Query
        few = rows.height <= NAMED_ONE_BY_ONE
        known = texts_of(words, rows[name].unique()) if few else texts(site_id, version, words)
        if words is Page:
            known = known.update(page_map(site_id, version).texts, on="id")
        rows = rows.join(known.rename({"id": name, "text": f"{name}_text"}), on=name, how="left", maintain_order="left")
    return rows
