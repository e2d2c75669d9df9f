"""Where the site stands: its measures beside those compared with, its weeks beside the same weeks a year before, why clicks
changed, and which pages made the change."""

from collections import Counter
from dataclasses import replace
from datetime import timedelta
from typing import Any

import polars as pl

from zugzwang.core import sentences
from zugzwang.core.landing import roles
from zugzwang.core.periods import YEAR_SHIFT_DAYS, Period
from zugzwang.desk import breaking, frames
from zugzwang.desk.changes import change_if_known
from zugzwang.desk.frames import WHOLE
from zugzwang.desk.measures import measures_beside, organic_visits, page_measures, visit_days, visits_compared
from zugzwang.desk.scope import Scope, Settled, settle
from zugzwang.desk.told import Told
from zugzwang.store.models import Event, Site

WEEKS_SHOWN = 104
WEEKLY = ("clicks", "impressions", "sessions")
MOVERS = 12


def tell_standing(site: Site, scope: Scope) -> dict[str, Any]:
    """Weeks, measures, the change in its parts, the pages that rose and fell; of one section or type where asked for."""
    settled = settle(site, scope, compare="year", branded="with")
    change, lacking = change_if_known(site, scope, "page")
    measures = measures_beside(settled)
    return {
        "settled": settled,
        "sentences": sentences.where_the_site_stands(measures, sentences.period(settled.period)),
        "measures": [vars(one) for one in measures],
        "weeks": _weeks(settled),
        "change": {**change.more["whole"], "sentences": change.sentences} if change else None,
        **_movers(settled, change),
        "events": list(Event.objects.filter(site=site).values("id", "first_day", "last_day", "title", "kind")),
        "lacking": [*lacking, *visits_compared(settled)],
    }


def _weeks(settled: Settled) -> list[dict[str, Any]]:
    """The whole weeks of data, each beside the same week a year before (null: not known)."""
    held = frames.days(*settled.key)
    whole = Period(held[0], held[-1]).whole_weeks()
    if whole is None:
        return []
    every = replace(settled, period=whole)
    search = breaking.weekly(every, "site").select("week", "clicks", "impressions")
    days = Counter(day - timedelta(days=day.weekday()) for day in held)
    weeks = pl.DataFrame({"week": [whole.first + timedelta(days=7 * number) for number in range(whole.days // 7)]})
    told = weeks.join(search, on="week", how="left").join(_visits(every), on="week", how="left")
    told = told.with_columns(
        days=pl.col("week").replace_strict(days, default=0, return_dtype=pl.Int64),
        in_period=pl.col("week").is_between(settled.period.first - timedelta(days=6), settled.period.last),
    ).with_columns(pl.when(pl.col("days") > 0).then(pl.col("clicks", "impressions").fill_null(0)))
    before = told.select(
        pl.col("week") + timedelta(days=YEAR_SHIFT_DAYS),
        pl.col(WEEKLY).name.suffix("_before"),
    )
    beside = told.join(before, on="week", how="left").sort("week").tail(WEEKS_SHOWN)
    changes = [(pl.col(name) - pl.col(f"{name}_before")).alias(f"{name}_change") for name in WEEKLY]
    return beside.with_columns(changes).to_dicts()


def _visits(settled: Settled) -> pl.DataFrame:
    """Organic sessions by week; of weeks that are whole, for half a week would look like a fall."""
    known = Counter(day - timedelta(days=day.weekday()) for day in visit_days(*settled.key))
    whole = [week for week, days in known.items() if days == 7]
    if settled.setting.part != WHOLE or not whole:
        return pl.DataFrame(schema={"week": pl.Date, "sessions": pl.Int64})
    by_week = (
        organic_visits(settled).group_by(week=pl.col("day").dt.truncate("1w")).agg(pl.col("sessions").cast(pl.Int64).sum())
    )
    return by_week.filter(pl.col("week").is_in(whole))


def page_roles(settled: Settled) -> pl.DataFrame:
    """Whether each page of the site earns or informs (core.landing.roles): page, role. Judged among all its pages, so that a
    page keeps its role when one section is looked at."""
    scope = replace(settled.scope, section="", page_type=(), text="")
    return roles(page_measures(replace(settled, scope=scope, before=None)))


def _movers(settled: Settled, change: Told | None) -> dict[str, Any]:
    """The pages that lost and won the most clicks, and the change of those that earn and those that inform."""
    if change is None:
        return {"down": [], "up": [], "by_role": []}
    role_of = dict(page_roles(settled).iter_rows())
    rows = [
        {**row, "by": row["clicks_after"] - row["clicks_before"], "role": role_of.get(row["page_id"])} for row in change.rows
    ]
    ordered = sorted(rows, key=lambda row: (row["by"], row["page"]))
    by_role: dict[str | None, dict[str, Any]] = {}
    for row in rows:
        sums = by_role.setdefault(row["role"], {"role": row["role"], "pages": 0, "clicks_before": 0.0, "clicks_after": 0.0})
        sums["pages"] += 1
        for name in ("clicks_before", "clicks_after"):
            sums[name] += row[name]
    return {
        "down": [row for row in ordered[:MOVERS] if row["by"] <= -1],
        "up": [row for row in ordered[::-1][:MOVERS] if row["by"] >= 1],
        "by_role": [
            {**sums, "by": sums["clicks_after"] - sums["clicks_before"]}
            for sums in sorted(by_role.values(), key=lambda one: -one["clicks_after"])
        ],
    }
