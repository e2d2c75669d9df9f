"""The units of moves and tests – rows, pages or queries – with their figures on every side of a comparison."""

from datetime import date, timedelta
from typing import Literal

import polars as pl

from zugzwang.core.facts.grains import PAGE, PAGE_QUERY, QUERY, Grain
from zugzwang.core.facts.periods import YEAR_SHIFT_DAYS, Period
from zugzwang.core.trials.units import SIDES
from zugzwang.data.cache import cached
from zugzwang.data.snapshot import Setting, Snapshot

Level = Literal["row", "page", "query"]
USUAL_DAYS = 84  # twelve weeks before the comparison, which define what is usual
_OWN_GRAIN: dict[Level, Grain] = {"row": PAGE_QUERY, "page": PAGE, "query": QUERY}


def level_of(page: int | None, query: int | None) -> Level:
    return "query" if page is None else "page" if query is None else "row"


def unit_of(page: int | None, query: int | None) -> int:
    """The id of a row, a page or a query among those of its level."""
    return page << 32 | query if page and query else (page or query or 0)


def windows(first_day: date, weeks: int) -> tuple[Period, Period]:
    """The weeks before and after a change; the day itself is left out."""
    span = timedelta(days=7 * weeks)
    return Period(first_day - span, first_day - timedelta(days=1)), Period(first_day + timedelta(days=1), first_day + span)


def grain_of(snapshot: Snapshot, level: Level, period: Period) -> Grain:
    """Facts by page or query where they are loaded, otherwise those of rows."""
    own = _OWN_GRAIN[level]
    return own if snapshot.facts.rows(own, period).height else PAGE_QUERY


def facts_of(snapshot: Snapshot, grain: Grain, period: Period, patterns: tuple[str, ...]) -> pl.DataFrame:
    """Non-brand facts: brand queries follow their own trend."""
    names = [name for name in ("page", "query") if name in grain.schema.names()]
    facts = snapshot.facts.rows(grain, period, columns=("day", *names, "clicks", "impressions", "position"))
    if "query" not in names:
        return facts
    return facts.filter(~pl.col("query").is_in(snapshot.facts.branded(patterns).implode()))


def with_unit(facts: pl.DataFrame, level: Level) -> pl.DataFrame:
    """Facts with the id of their row, page or query."""
    page, query = (pl.col(name).cast(pl.Int64) for name in ("page", "query"))
    return facts.with_columns(unit={"row": page * 2**32 + query, "page": page, "query": query}[level])


@cached
def sides_of(snapshot: Snapshot, first_day: date, weeks: int, level: Level, setting: Setting) -> pl.DataFrame:
    """Every row, page or query with its figures on each side (core.trials.units)."""
    before, after = windows(first_day, weeks)
    usual = Period(before.first - timedelta(days=USUAL_DAYS), before.first - timedelta(days=1))
    year = [one.shifted(-YEAR_SHIFT_DAYS) for one in (before, after)]
    grain = grain_of(snapshot, level, before)
    spans = dict(zip(SIDES, (usual, before, after, *year), strict=True))
    added = {}
    for side, span in spans.items():
        facts = with_unit(facts_of(snapshot, grain, span, setting.patterns), level)
        weighted = (pl.col("position") * pl.col("impressions")).sum() / pl.col("impressions").sum()
        added[side] = facts.group_by("unit").agg(
            pl.col("clicks").cast(pl.Int64).sum(), pl.col("impressions").cast(pl.Int64).sum(), position=weighted
        )
    listed = pl.concat([added[side].select("unit") for side in ("before", "after")]).unique().sort("unit")
    for side, frame in added.items():
        named = frame.rename({name: f"{name}_{side}" for name in ("clicks", "impressions", "position")})
        listed = listed.join(named, on="unit", how="left", maintain_order="left")
    rows = snapshot.facts.appraisal(before, setting).rows
    own = with_unit(rows.select("page", "query", "expected_clicks"), level)
    expected = own.group_by("unit").agg(expected_before=pl.col("expected_clicks").sum())
    return listed.join(expected, on="unit", how="left", maintain_order="left")
