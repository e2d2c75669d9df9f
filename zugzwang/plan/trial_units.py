"""What a trial is worked out from: its weeks, and every page or row with what it did in them."""

from collections.abc import Sequence
from datetime import date, timedelta

import numpy as np
import polars as pl

from zugzwang.core.facts.grains import PAGE, PAGE_QUERY, Grain
from zugzwang.core.facts.periods import YEAR_SHIFT_DAYS, Period
from zugzwang.core.trials.units import SIDES, Measure, Told, told_units
from zugzwang.data import decided
from zugzwang.data.cache import kept
from zugzwang.data.models import Trial
from zugzwang.data.snapshot import Setting, Snapshot
from zugzwang.findings.view import Asked, settle
from zugzwang.plan.outcomes import USUAL_DAYS, facts_of, with_unit


def unit_of(page: int | None, query: int | None) -> int:
    return (page or 0) << 32 | query if query else (page or 0)


def windows(first_day: date, weeks: int) -> tuple[Period, Period]:
    """The weeks before a trial's first day and those after it; the day itself is left out."""
    span = timedelta(days=7 * weeks)
    return Period(first_day - span, first_day - timedelta(days=1)), Period(first_day + timedelta(days=1), first_day + span)


def units_of(snapshot: Snapshot, first_day: date, weeks: int, by_row: bool, measure: Measure, by_lot: bool) -> Told:
    before, _ = windows(first_day, weeks)
    view = settle(snapshot, Asked(first=before.first, last=before.last, compare="none"), before.last)
    sides = _sides(snapshot, first_day, weeks, by_row, view.setting)
    return told_units(sides, measure, before.days / USUAL_DAYS, by_lot)


def clicks_of(snapshot: Snapshot, first_day: date, weeks: int, units: Sequence[int]) -> int:
    """The clicks of some pages or rows in the weeks after a day; rows where their numbers are those of rows."""
    _, after = windows(first_day, weeks)
    by_row = any(one >> 32 for one in units)
    view = settle(snapshot, Asked(first=after.first, last=after.last, compare="none"), after.last)
    facts = with_unit(
        facts_of(snapshot, grain_of(snapshot, by_row, after), after, view.setting.patterns), (1, 1 if by_row else None)
    )
    return int(facts.filter(pl.col("unit").is_in(list(units)))["clicks"].cast(pl.Int64).sum())


def grain_of(snapshot: Snapshot, by_row: bool, period: Period) -> Grain:
    """What a trial is counted by: rows, or pages where their own facts are loaded."""
    return PAGE_QUERY if by_row or not snapshot.rows(PAGE, period).height else PAGE


def only(units: Told, wanted: Sequence[int]) -> Told:
    known = np.isin(units.unit, list(wanted))
    return Told(units.unit[known], units.answers[known], units.given[known], units.counted[known], units.size[known])


@kept
def _sides(snapshot: Snapshot, first_day: date, weeks: int, by_row: bool, setting: Setting) -> pl.DataFrame:
    """Every page or row with what it did on each side (core.trials.units)."""
    before, after = windows(first_day, weeks)
    usual = Period(before.first - timedelta(days=USUAL_DAYS), before.first - timedelta(days=1))
    year = [one.shifted(-YEAR_SHIFT_DAYS) for one in (before, after)]
    grain = grain_of(snapshot, by_row, before)
    spans = dict(zip(SIDES, (usual, before, after, *year), strict=True))
    added = {}
    for side, span in spans.items():
        facts = with_unit(facts_of(snapshot, grain, span, setting.patterns), (1, 1 if by_row else None))
        weighted = (pl.col("position") * pl.col("impressions")).sum() / pl.col("impressions").sum()
        added[side] = facts.group_by("unit").agg(
            pl.col("clicks").cast(pl.Int64).sum(), pl.col("impressions").cast(pl.Int64).sum(), position=weighted
        )
    told = pl.concat([added[side].select("unit") for side in ("before", "after")]).unique().sort("unit")
    for side, frame in added.items():
        named = frame.rename({name: f"{name}_{side}" for name in ("clicks", "impressions", "position")})
        told = told.join(named, on="unit", how="left", maintain_order="left")
    rows = snapshot.appraisal(before, setting).rows
    own = with_unit(rows.select("page", "query", "expected_clicks"), (1, 1 if by_row else None))
    expected = own.group_by("unit").agg(expected_before=pl.col("expected_clicks").sum())
    return told.join(expected, on="unit", how="left", maintain_order="left")


def touched_otherwise(
    snapshot: Snapshot, by_row: bool, span: Period, own: Sequence[int], besides: Sequence[int] = ()
) -> list[int]:
    """Units that something else happened to in those days: other moves, other trials; and those `besides`."""
    site = snapshot.site
    pages = {
        one.page_id for one in decided.moves(site) if one.made_on and one.page_id and span.first <= one.made_on <= span.last
    }
    for trial in Trial.objects.filter(site=site, dropped_at=None):
        first, last = windows(trial.first_day, trial.weeks)
        if first.first <= span.last and last.last >= span.first:
            pages |= {unit[0] for unit in trial.changed}
    view_units = _sides_units(snapshot, by_row)
    touched = view_units.filter(pl.col("page").is_in(list(pages)))["unit"].to_list()
    return [one for one in dict.fromkeys([*touched, *besides]) if one not in set(own)]


@kept
def _sides_units(snapshot: Snapshot, by_row: bool) -> pl.DataFrame:
    """Every page or row that was ever shown: unit, page."""
    facts = snapshot.rows(PAGE_QUERY, None, columns=("page", "query")).unique()
    told = with_unit(facts, (1, 1 if by_row else None)).select("unit", "page").unique()
    if by_row or not snapshot.rows(PAGE, None, columns=("page",)).height:
        return told
    pages = with_unit(snapshot.rows(PAGE, None, columns=("page",)).unique(), (1, None)).select("unit", "page")
    return pl.concat([told, pages.cast(dict(told.schema))]).unique()  # type: ignore[arg-type]
