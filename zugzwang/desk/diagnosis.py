"""What is wrong and why, beyond single rows: why pages' clicks changed, weeks in which pages broke, queries fought over.

Each answer carries its period, what it was compared with, and how much stood behind it.
"""

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any, Literal

import polars as pl

from zugzwang.core import sentences
from zugzwang.core.breaks import WEEKS_NEEDED, breaks, grade, nearest_event
from zugzwang.core.change import change, rolled_up
from zugzwang.core.clashes import Clashes, find_clashes
from zugzwang.core.click_curve import ClickCurve, expected_clicks
from zugzwang.core.facts import ROW, sums
from zugzwang.core.grains import PAGE
from zugzwang.core.periods import Comparison, Period
from zugzwang.desk import frames
from zugzwang.desk.cleaning import cleaned, page_map
from zugzwang.desk.sites import patterns_for, period_for, site_days
from zugzwang.errors import Invalid, NotFound
from zugzwang.store.blocks import read_facts
from zugzwang.store.models import Event, Site

Diagnosis = Literal["change", "breaks", "clashes"]
DIAGNOSES: tuple[Diagnosis, ...] = ("change", "breaks", "clashes")


@dataclass(frozen=True)
class Asked:
    """What is asked of a site; None stands for the site's own setting."""

    diagnosis: Diagnosis
    first: date | None = None
    last: date | None = None
    compare: Comparison = "year"
    min_impressions: int | None = None
    brand: tuple[str, ...] | None = None


@dataclass(frozen=True)
class Told:
    """An answer: its rows, texts in place of ids, and what made it."""

    asked: Asked
    period: Period
    before: Period | None
    rows: list[dict[str, Any]]
    filters: dict[str, Any]
    missing: list[str]  # days that the periods lack, in sentences


def tell(site: Site, asked: Asked) -> Told:
    """Settle a diagnosis. NotFound when the site has no data yet, Invalid when there is nothing to compare with."""
    period = period_for(site, asked.first, asked.last)
    if period is None:
        raise NotFound(f"{site.name} has no data yet.", "Load a file of search facts first.")
    patterns = patterns_for(site.brand_patterns if asked.brand is None else asked.brand)
    floor = site.min_impressions if asked.min_impressions is None else asked.min_impressions
    before: Period | None = None
    filters: dict[str, Any] = {}
    if asked.diagnosis == "change":
        before, curve = period.compared(asked.compare), _curve(site, period, patterns)
        rows, filters = _change(site, period, before, curve), _of_curve(curve)
    elif asked.diagnosis == "clashes":
        curve = _curve(site, period, patterns)
        rows = _clashes(site, period, patterns, floor, curve)
        filters = {"min_impressions": floor, "brand_left_out": list(patterns), **_of_curve(curve)}
    else:
        # A break needs the weeks around it: all that the site has, unless days are asked for.
        days = site_days(site)
        period = period if asked.first or asked.last or days is None else Period(days.first, days.last)
        period = period.whole_weeks() or period
        rows = _breaks(site, period)
    held = frames.days(site.id, site.data_version)
    missing = [sentences.missing_days(one.missing(held), what) for one, what in _periods(period, before)]
    return Told(asked, period, before, rows, filters, [said for said in missing if said])


def _periods(period: Period, before: Period | None) -> list[tuple[Period, str]]:
    return [(period, "The period"), *([(before, "The period compared with")] if before else [])]


def _of_curve(curve: ClickCurve) -> dict[str, Any]:
    return {"curve_basis": curve.basis, "scatter_shape": curve.shape}


def _curve(site: Site, period: Period, patterns: tuple[str, ...]) -> ClickCurve:
    points = tuple((position, ctr) for position, ctr in site.own_curve or ())
    return frames.appraisal(site.id, site.data_version, period, patterns, points).curve


def _expected(facts: pl.DataFrame, curve: ClickCurve) -> pl.DataFrame:
    """Rows of a period with their expected clicks, summed day by day: page, query, clicks, impressions, expected_clicks."""
    expected = expected_clicks(curve, facts["position"].to_numpy(), facts["impressions"].to_numpy())
    added = facts.with_columns(expected_clicks=pl.Series(expected)).group_by(ROW)
    return added.agg(*sums(), pl.col("expected_clicks").sum()).filter(pl.col("impressions") > 0)


def _change(site: Site, period: Period, before: Period | None, curve: ClickCurve) -> list[dict[str, Any]]:
    if before is None:
        raise Invalid("A change needs days to compare with.", "Compare with last year, or with the days before.", "compare")
    key = (site.id, site.data_version)
    then, now = (_expected(frames.facts(*key, one), curve) for one in (before, period))
    if then.is_empty():
        raise NotFound("There are no data on the days compared with.", "Compare with the days before, or load older days.")
    by_page = rolled_up(change(then, now, curve.shape), ["page"], _page_totals(site, before, period))
    return frames.named(*key, by_page, ("page",)).drop("page").rename({"page_text": "page"}).to_dicts()


def _page_totals(site: Site, before: Period, period: Period) -> pl.DataFrame | None:
    """Clicks of each page with its queries that are not named; None where the site lacks that grain for either period."""
    pages = page_map(site.id, site.data_version)
    parts = []
    for name, one in (("clicks_before", before), ("clicks_after", period)):
        facts = cleaned(read_facts(site, PAGE, one, ["day", "page", "clicks"]), pages)
        if facts.is_empty():
            return None
        parts.append(facts.group_by("page").agg(pl.col("clicks").cast(pl.Int64).sum().alias(name)))
    return parts[0].join(parts[1], on="page", how="full", coalesce=True).fill_null(0)


def _breaks(site: Site, whole: Period) -> list[dict[str, Any]]:
    """The breaks of pages in whole weeks, with events beside."""
    if whole.days < 7 * WEEKS_NEEDED:
        return []
    key = (site.id, site.data_version)
    facts = cleaned(read_facts(site, PAGE, whole, ["day", "page", "clicks"]), page_map(*key))
    if facts.is_empty():
        facts = frames.facts(*key, whole).select("day", "page", "clicks")
    weekly = facts.group_by(name=pl.col("page"), week=pl.col("day").dt.truncate("1w")).agg(
        pl.col("clicks").sum().alias("count")
    )
    weeks = [whole.first + timedelta(days=7 * number) for number in range(whole.days // 7)]
    found = breaks(weekly, weeks)
    named = frames.named(*key, found.rename({"name": "page"}), ("page",))
    events = list(Event.objects.filter(site=site).values_list("first_day", "title"))
    return [
        {
            "page": row["page_text"],
            "week": str(row["week"]),
            "measure": "clicks",
            "size": row["size"],
            "before": row["before"],
            "after": row["after"],
            "evidence": grade(row["strength"]),
            "event": nearest_event(row["week"], events),
        }
        for row in named.iter_rows(named=True)
    ]


def _clashes(site: Site, period: Period, patterns: tuple[str, ...], floor: int, curve: ClickCurve) -> list[dict[str, Any]]:
    key = (site.id, site.data_version)
    branded = frames.branded(*key, patterns)
    facts = frames.facts(*key, period).filter(~pl.col("query").is_in(branded.implode()))
    found: Clashes = find_clashes(facts, curve, floor)
    contenders: dict[int, list[dict[str, Any]]] = {}
    for row in frames.named(*key, found.contenders, ("page",)).iter_rows(named=True):
        told = {name: row[name] for name in ("share", "clicks", "impressions", "position", "days")}
        contenders.setdefault(row["query"], []).append({"page": row["page_text"], **told})
    return [
        {
            "query": row["query_text"],
            **{name: row[name] for name in found.queries.columns if name not in ("query", "contenders")},
            "contenders": contenders[row["query"]],
        }
        for row in frames.named(*key, found.queries, ("query",)).iter_rows(named=True)
    ]
