"""The data of a test: its weeks, and the figures of every page or row in them."""

from collections.abc import Sequence
from datetime import date

import numpy as np
import polars as pl

from zugzwang.core.facts.grains import PAGE, PAGE_QUERY
from zugzwang.core.facts.periods import Period
from zugzwang.core.trials.units import Measure, Units, compared_units
from zugzwang.data import decided
from zugzwang.data.cache import cached
from zugzwang.data.models import Trial
from zugzwang.data.snapshot import Snapshot
from zugzwang.findings.view import ViewOptions, settle
from zugzwang.plan.units import USUAL_DAYS, Level, facts_of, grain_of, sides_of, windows, with_unit


def units_of(snapshot: Snapshot, first_day: date, weeks: int, by_row: bool, measure: Measure, randomised: bool) -> Units:
    before, _ = windows(first_day, weeks)
    view = settle(snapshot, ViewOptions(first=before.first, last=before.last, compare="none"), before.last)
    sides = sides_of(snapshot, first_day, weeks, "row" if by_row else "page", view.setting)
    return compared_units(sides, measure, before.days / USUAL_DAYS, randomised)


def clicks_of(snapshot: Snapshot, first_day: date, weeks: int, units: Sequence[int]) -> int:
    """The clicks of some pages or rows in the weeks after a day; of rows where the ids are those of rows."""
    _, after = windows(first_day, weeks)
    level: Level = "row" if any(one >> 32 for one in units) else "page"
    view = settle(snapshot, ViewOptions(first=after.first, last=after.last, compare="none"), after.last)
    facts = with_unit(facts_of(snapshot, grain_of(snapshot, level, after), after, view.setting.patterns), level)
    return int(facts.filter(pl.col("unit").is_in(list(units)))["clicks"].cast(pl.Int64).sum())


def only(units: Units, wanted: Sequence[int]) -> Units:
    known = np.isin(units.unit, list(wanted))
    return Units(units.unit[known], units.answers[known], units.covariates[known], units.counted[known], units.size[known])


def touched_otherwise(
    snapshot: Snapshot, by_row: bool, span: Period, own: Sequence[int], besides: Sequence[int] = ()
) -> list[int]:
    """Units that something else affected in those days: other moves, other tests; and those in `besides`."""
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


@cached
def _sides_units(snapshot: Snapshot, by_row: bool) -> pl.DataFrame:
    """Every page or row that ever had impressions: unit, page."""
    facts = snapshot.facts.rows(PAGE_QUERY, None, columns=("page", "query")).unique()
    rows = with_unit(facts, "row" if by_row else "page").select("unit", "page").unique()
    if by_row or not snapshot.facts.rows(PAGE, None, columns=("page",)).height:
        return rows
    pages = with_unit(snapshot.facts.rows(PAGE, None, columns=("page",)).unique(), "page").select("unit", "page")
    return pl.concat([rows, pages.cast(dict(rows.schema))]).unique()  # type: ignore[arg-type]
