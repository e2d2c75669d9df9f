"""The site's clicks over time: its measures in two periods, its weeks and those of a year earlier, why clicks changed, and
which pages caused it.
"""

from collections import Counter
from dataclasses import replace
from datetime import date, timedelta
from functools import partial
from typing import Any

import polars as pl

from zugzwang.core.facts.periods import YEAR_SHIFT_DAYS
from zugzwang.core.pages.landing import roles
from zugzwang.core.time.change import to_totals
from zugzwang.core.words import sentences
from zugzwang.data.cache import store
from zugzwang.data.models import Event
from zugzwang.data.snapshot import WHOLE, Snapshot
from zugzwang.errors import Invalid, NotFound
from zugzwang.findings.breaks import over_all_weeks, weekly
from zugzwang.findings.change import CHANGE, whole_of
from zugzwang.findings.measures import measures_compared, organic_visits, page_measures, visits_compared
from zugzwang.findings.table import find
from zugzwang.findings.view import View, ViewOptions, settle

WEEKS_SHOWN = 104
WEEKLY = ("clicks", "impressions", "sessions")
MOVERS = 12
LOOKS_AT = ("device", "country", "section", "page_type", "query_group", "branded", "text", "compare")


def describe_changes(snapshot: Snapshot, options: ViewOptions, today: date) -> dict[str, Any]:
    """Weeks, measures, the parts of the change, rising and falling pages; for one section or type if requested."""
    view = settle(snapshot, options, today, compare="year", branded="with").only(LOOKS_AT)
    again = partial(describe_changes, snapshot, options, today)
    result = store().get(snapshot.key, ("changes", view.question), lambda: _changes(view), again)
    events = Event.objects.filter(site=view.site).values("id", "first_day", "last_day", "title", "kind")
    return {**result, **view.periods(), "period_words": _period_words(view), "events": list(events)}


def _changes(view: View) -> dict[str, Any]:
    measures = measures_compared(view)
    try:
        found = find(view, CHANGE)
        rows, lacking = found.rows, found.lacking
        clicks = next((one for one in measures if one.name == "clicks"), None)
        whole = whole_of(rows)
        if clicks is not None and clicks.now is not None and clicks.before is not None:
            whole = to_totals(whole, clicks.before, clicks.now)
        change: dict[str, Any] | None = {**whole, "sentences": sentences.change(whole)}
    except (Invalid, NotFound) as error:
        rows, change, lacking = None, None, [f"{error.message} {error.remedy}"]
    return {
        "sentences": sentences.where_the_site_stands(measures, _period_words(view)),
        "measures": measures,
        "weeks": _weeks(view),
        "change": change,
        **_movers(view, rows),
        "lacking": [*lacking, *visits_compared(view)],
    }


def _period_words(view: View) -> str:
    """The days that the measures cover: the period, or its comparable part."""
    return sentences.counted_days(view.period, view.days_compared, view.by_day)


def _weeks(view: View) -> list[dict[str, Any]]:
    """The whole weeks of data, each with the same week a year earlier (null: unknown)."""
    every = over_all_weeks(view)
    if not view.snapshot.facts.days() or every.period.whole_weeks() is None:
        return []
    search = weekly(every, "site").select("week", "clicks", "impressions")
    days = Counter(day - timedelta(days=day.weekday()) for day in view.snapshot.facts.days())
    first = every.period.first
    weeks = pl.DataFrame({"week": [first + timedelta(days=7 * number) for number in range(every.period.days // 7)]})
    rows = weeks.join(search, on="week", how="left").join(_visits(every), on="week", how="left")
    rows = rows.with_columns(
        days=pl.col("week").replace_strict(days, default=0, return_dtype=pl.Int64),
        in_period=pl.col("week").is_between(view.period.first - timedelta(days=6), view.period.last),
    ).with_columns(pl.when(pl.col("days") > 0).then(pl.col("clicks", "impressions").fill_null(0)))
    before = rows.select(pl.col("week") + timedelta(days=YEAR_SHIFT_DAYS), pl.col(*WEEKLY, "days").name.suffix("_before"))
    extras = rows.join(before, on="week", how="left").sort("week").tail(WEEKS_SHOWN)
    alike = pl.when(pl.col("days") == pl.col("days_before"))  # an incomplete week would look like a fall
    changes = [alike.then(pl.col(name) - pl.col(f"{name}_before")).alias(f"{name}_change") for name in WEEKLY]
    return extras.with_columns(changes).drop("days_before").to_dicts()


def _visits(view: View) -> pl.DataFrame:
    """Organic sessions by week; whole weeks only, because half a week would look like a fall."""
    known = Counter(day - timedelta(days=day.weekday()) for day in view.snapshot.facts.visit_days())
    whole = [week for week, days in known.items() if days == 7]
    if view.setting.part != WHOLE or not whole:
        return pl.DataFrame(schema={"week": pl.Date, "sessions": pl.Int64})
    sessions = pl.col("sessions").cast(pl.Int64).sum()
    by_week = organic_visits(view).group_by(week=pl.col("day").dt.truncate("1w")).agg(sessions)
    return by_week.filter(pl.col("week").is_in(whole))


def page_roles(view: View) -> pl.DataFrame:
    """Whether each page earns or informs (core.landing.roles): page, role. Judged among all pages, so filters do not change a
    page's role.
    """
    options = replace(view.options, section="", page_type=(), text="")
    return roles(page_measures(replace(view, options=options, before=None)))


def _movers(view: View, rows: pl.DataFrame | None) -> dict[str, Any]:
    """The pages that lost and gained the most clicks, and the change of earning and informing pages."""
    if rows is None:
        return {"down": [], "up": [], "by_role": []}
    rows = rows.join(page_roles(view), on="page", how="left").rename({"change": "by"})
    clicks = pl.col("clicks_before", "clicks_after", "by").sum().cast(pl.Float64)
    by_role = rows.group_by("role").agg(pl.len().alias("pages"), clicks).sort("clicks_after", "role", descending=True)
    ordered = rows.sort("by", "page")
    down = ordered.filter(pl.col("by") <= -1).head(MOVERS)
    up = ordered.filter(pl.col("by") >= 1).reverse().head(MOVERS)
    return {
        "down": view.snapshot.names.named(down, ("page",)).to_dicts(),
        "up": view.snapshot.names.named(up, ("page",)).to_dicts(),
        "by_role": by_role.to_dicts(),
    }
