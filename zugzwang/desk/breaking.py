"""Breaks of pages, sections and the site; cliffs and the events near them; spells out of the results."""

from dataclasses import replace
from datetime import date, timedelta
from typing import Any, Literal

import numpy as np
import polars as pl

from zugzwang.core import sentences
from zugzwang.core.breaks import WEEKS_NEEDED, breaks, grade, nearest_event, season_known
from zugzwang.core.cliffs import Event as Dated
from zugzwang.core.cliffs import cliffs, spells_out
from zugzwang.core.grains import PAGE, PAGE_QUERY
from zugzwang.core.periods import Period
from zugzwang.desk import frames
from zugzwang.desk.changes import section_name
from zugzwang.desk.scope import Scope, Settled, settle
from zugzwang.desk.sites import site_days
from zugzwang.desk.told import Told
from zugzwang.store.models import Event, Site

Measure = Literal["clicks", "impressions"]
Level = Literal["page", "section", "site"]
MEASURES: tuple[Measure, ...] = ("clicks", "impressions")
LEVELS: tuple[Level, ...] = ("page", "section", "site")


def tell_breaks(site: Site, scope: Scope, level: Level = "page", measures: tuple[Measure, ...] = ("clicks",)) -> Told:
    """The breaks in whole weeks: of all days that the site has, unless some are asked for."""
    settled = settle(site, scope, branded="with")
    days = site_days(site)
    period = settled.period if scope.first or scope.last or days is None else Period(days.first, days.last)
    period = period.whole_weeks() or period
    settled = replace(settled, period=period)
    weeks = [period.first + timedelta(days=7 * number) for number in range(period.days // 7)]
    if len(weeks) < WEEKS_NEEDED:
        lacking = [f"{WEEKS_NEEDED} whole weeks of data are needed to tell a break; there are {len(weeks)}."]
        return Told(settled, [], lacking, {"weeks": len(weeks), "series": 0}, lacking, {"cliffs": [], "out": []})
    by_week = weekly(settled, level)
    found = {measure: _found(settled, by_week, weeks, level, measure) for measure in measures}
    events = [Dated(day, title) for day, title in Event.objects.filter(site=site).values_list("first_day", "title")]
    rows = [row for measure in measures for row in _rows(settled, found[measure], level, measure, events, weeks)]
    falling = _cliffs(settled, found[measures[0]], events, weeks) if level == "page" else []
    out = _out(settled, by_week, weeks) if level == "page" else []
    series = by_week["name"].n_unique()
    more = {"level": level, "cliffs": falling, "out": out, "weeks": [str(week) for week in weeks]}
    said = sentences.breaks(len(rows), series, len(weeks), level)
    return Told(
        settled,
        rows,
        [said, *(one["sentence"] for one in falling if one["beyond_chance"])],
        {"series": series, "weeks": len(weeks)},
        [],
        more,
    )


def weekly(settled: Settled, level: Level) -> pl.DataFrame:
    """Clicks and impressions of each page, section or the site by week: name, week, clicks, impressions. From the grain that
    knows queries without a name too, where the site has it and no query is left out."""
    columns = ("day", "page", "clicks", "impressions")
    grains = (PAGE_QUERY,) if settled.some_queries_only else (PAGE, PAGE_QUERY)
    facts = pl.DataFrame()
    for grain in grains:
        wanted = (*columns[:2], "query", *columns[2:]) if grain is PAGE_QUERY else columns
        facts = frames.part_of(*settled.key, grain, settled.period, settled.setting.part, wanted)
        if facts.height:
            break
    facts = settled.without_brand(settled.chosen(facts))
    by_page = facts.group_by("page", week=pl.col("day").dt.truncate("1w")).agg(
        pl.col("clicks", "impressions").cast(pl.Int64).sum()
    )
    if level == "page":
        return by_page.rename({"page": "name"})
    if level == "site":
        return by_page.group_by("week").agg(pl.col("clicks", "impressions").sum()).with_columns(name=pl.lit(settled.site.slug))
    named = by_page.join(
        frames.page_facets(*settled.key).select("page", name=section_name(settled.scope.section)), on="page", how="left"
    )
    return named.group_by("name", "week").agg(pl.col("clicks", "impressions").sum())


def _found(settled: Settled, weekly: pl.DataFrame, weeks: list[date], level: Level, measure: Measure) -> pl.DataFrame:
    groups = None
    if level == "page":
        groups = frames.page_facets(*settled.key).select(name="page", group=section_name(settled.scope.section))
    return breaks(weekly.select("name", "week", count=pl.col(measure)), weeks, groups)


def _rows(
    settled: Settled, found: pl.DataFrame, level: Level, measure: Measure, events: list[Dated], weeks: list[date]
) -> list[dict[str, Any]]:
    named = settled.named(found.rename({"name": "page"}), ("page",)) if level == "page" else found
    dated = [(event.day, event.title) for event in events]
    return [
        {
            level: row["page_text"] if level == "page" else row["name"],
            **({"page_id": row["page"]} if level == "page" else {}),
            "week": str(row["week"]),
            "measure": measure,
            "size": row["size"],
            "before": row["before"],
            "after": row["after"],
            "evidence": grade(row["strength"]),
            "event": nearest_event(row["week"], dated),
            "season_known": season_known(row["week"], weeks[0]),
        }
        for row in named.iter_rows(named=True)
    ]


def _cliffs(settled: Settled, found: pl.DataFrame, events: list[Dated], weeks: list[date]) -> list[dict[str, Any]]:
    told = []
    names = dict(settled.named(found.select(page="name").unique(), ("page",)).iter_rows()) if found.height else {}
    for cliff in cliffs(found, events, weeks):
        event = cliff.event.title if cliff.event else None
        told.append(
            {
                "event": event,
                "event_day": str(cliff.event.day) if cliff.event else None,
                "week": str(cliff.week),
                "fell": cliff.fell,
                "pages": [names[found["name"][row]] for row in cliff.rows],
                "by_chance": cliff.by_chance,
                "beyond_chance": cliff.beyond_chance,
                "sentence": sentences.cliff(len(cliff.rows), cliff.fell, cliff.week, event, cliff.by_chance),
            }
        )
    return told


def _out(settled: Settled, weekly: pl.DataFrame, weeks: list[date]) -> list[dict[str, Any]]:
    """The pages that were out of the results, the latest first."""
    column = dict(zip(weeks, range(len(weeks)), strict=True))
    shown: dict[int, np.ndarray[Any, np.dtype[np.int64]]] = {}
    for name, week, count in weekly.select("name", "week", "impressions").iter_rows():
        if week in column:
            shown.setdefault(name, np.zeros(len(weeks), dtype=np.int64))[column[week]] += count
    spells = [(page, spell) for page, series in shown.items() for spell in spells_out(series, weeks)]
    if not spells:
        return []
    names = dict(
        settled.named(
            pl.DataFrame({"page": pl.Series([page for page, _ in spells], dtype=pl.UInt32)}).unique(), ("page",)
        ).iter_rows()
    )
    ordered = sorted(spells, key=lambda one: (one[1][0], one[0]), reverse=True)
    return [
        {"page": names[page], "page_id": page, "since": str(since), "back": str(back) if back else None}
        for page, (since, back) in ordered
    ]
