"""What is known of each page in a period, search beside visits: the table that pages, sections and landing pages start from;
and the measures of the site, a page or a query beside those of the days compared with."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import date, timedelta

import polars as pl

from zugzwang.core.clicks.lenses import ListedBy
from zugzwang.core.facts.comparison import VISITS as COMPARED_VISITS
from zugzwang.core.facts.comparison import Beside, beside, search_sums
from zugzwang.core.facts.grains import DAY, PAGE, PAGE_QUERY, QUERY, VISIT_MEASURES, known_sum
from zugzwang.core.facts.grains import VISITS as GRAIN_OF_VISITS
from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.search import add_up, sums
from zugzwang.core.facts.visits import CHANNELS
from zugzwang.data.cache import kept
from zugzwang.data.snapshot import WHOLE, Part, Snapshot
from zugzwang.findings.view import View

ORGANIC = CHANNELS.index("organic")
EVERY_PAGE = pl.lit(True)


def page_measures(view: View) -> pl.DataFrame:
    """Every page that was shown or visited in the period or the one compared with: page; clicks, impressions, position; of
    organic visits sessions, users, bounces, seconds, conversions, value (null: not told); each also as `<name>_before` where
    something is compared with."""
    told = _of_period(view, view.period)
    if view.before is not None:
        before = _of_period(view, view.before)
        before = before.rename({name: f"{name}_before" for name in before.columns if name != "page"})
        told = told.join(before, on="page", how="full", coalesce=True)
        told = told.with_columns(pl.col("clicks_before", "impressions_before").fill_null(0))
    return view.chosen(told.with_columns(pl.col("clicks", "impressions").fill_null(0))).sort("page")


def _of_period(view: View, period: Period) -> pl.DataFrame:
    part = view.setting.part
    if view.some_queries_only:
        facts = view.without_brand(view.snapshot.facts(period, part))
        if view.queries is not None:
            facts = facts.filter(pl.col("query").is_in(view.queries.implode()))
        search = add_up(facts, ["page"]).drop("ctr")
    else:
        search = _search(view.snapshot, period, part)
    # Visits do not tell devices or countries: beside a part of the facts they would mislead.
    visits = _organic_sums(view.snapshot, period)
    return search.join(visits if part == WHOLE else visits.clear(), on="page", how="full", coalesce=True)


@kept
def _search(snapshot: Snapshot, period: Period, part: Part) -> pl.DataFrame:
    """Sums by page, of the grain that knows queries without a name where the site has it."""
    facts = snapshot.rows(PAGE, period, part)
    if facts.is_empty():
        facts = snapshot.facts(period, part)
    return add_up(facts, ["page"]).drop("ctr")


@kept
def _organic_sums(snapshot: Snapshot, period: Period) -> pl.DataFrame:
    """Sums of organic visits by page."""
    rows = snapshot.visits(period).filter(pl.col("channel") == ORGANIC)
    return rows.group_by("page").agg(known_sum(name) for name in VISIT_MEASURES)


def measures_beside(view: View, of_pages: pl.Expr = EVERY_PAGE) -> list[Beside]:
    """The sums of the period beside those compared with, of some of the pages looked at; visits over the days that both
    periods have."""
    pages = page_measures(view).filter(of_pages)
    whole = _site_sums(view) if of_pages is EVERY_PAGE else None
    now, before = whole or (search_sums(pages), search_sums(pages, "_before"))
    known = set(view.snapshot.visit_days()) if view.setting.part == WHOLE else set()
    shift = view.period.first - view.before.first if view.before else timedelta(0)
    days = [day for day in known if view.period.first <= day <= view.period.last and day - shift in known]
    if not view.by_day:
        days = [one.last for one in (view.period, view.before) if one]  # totals stand on the last day of their span
        shift = view.period.last - view.before.last if view.before else shift
        days = days[:1]
    now |= _visit_sums(view, of_pages, days)
    if view.before:
        before |= _visit_sums(replace(view, period=view.before), of_pages, [day - shift for day in days])
    return beside(now, before)


def _site_sums(view: View) -> tuple[dict[str, float | None], dict[str, float | None]] | None:
    """The sums of both periods from totals of the whole site, or of queries where no page is known; None where those of pages
    say it all, or only some pages or queries are looked at."""
    if view.some_queries_only or view.pages is not None:
        return None
    snapshot, periods = view.snapshot, [one for one in (view.period, view.before) if one]
    no_pages = not any(snapshot.has(grain, period) for grain in (PAGE, PAGE_QUERY) for period in periods)
    for grain in (DAY, *((QUERY,) if no_pages else ())):
        facts = [snapshot.rows(grain, period, view.setting.part) for period in periods]
        if facts[0].height:
            now, *before = (search_sums(one.select(sums())) if one.height else {} for one in facts)
            return now, before[0] if before else {}
    return None


def facts_beside(view: View, of_rows: pl.Expr, by: ListedBy = "row") -> list[Beside]:
    """The sums of some facts beside those of the days compared with."""
    told = []
    for period in (view.period, view.before):
        facts = view.snapshot.facts(period, view.setting.part, by).filter(of_rows) if period else None
        told.append(search_sums(facts.select(sums())) if facts is not None and facts.height else {})
    return beside(*told)


def organic_visits(view: View) -> pl.DataFrame:
    """Organic visits of the period to the pages looked at."""
    return view.chosen(view.snapshot.visits(view.period).filter(pl.col("channel") == ORGANIC))


def _visit_sums(view: View, of_pages: pl.Expr, days: Sequence[date]) -> dict[str, float | None]:
    """Sums of organic visits on some days; None where there are none."""
    visits = organic_visits(view).filter(of_pages, pl.col("day").is_in(list(days)))
    return visits.select(known_sum(name).cast(pl.Float64) for name in COMPARED_VISITS).to_dicts()[0]


def visits_compared(view: View) -> list[str]:
    """What visits cannot say here, and over which days they are compared, in sentences."""
    said = visits_lacking(view)
    return [*said, "They are compared over the days that both periods have."] if said and view.before else said


def visits_lacking(view: View) -> list[str]:
    """What visits cannot say here, in sentences."""
    if view.snapshot.of_span(GRAIN_OF_VISITS, view.period):
        return []
    held = view.snapshot.visit_days()
    if not held:
        return ["The site has no visits: load them to see bounces, conversions and value."]
    if view.setting.part != WHOLE:
        return ["Visits do not tell devices or countries, so none are set beside this part."]
    present = [day for day in held if view.period.first <= day <= view.period.last]
    short = view.period.days - len(present)
    if not present:
        return ["There are no visits in the period."]
    return [f"Visits lack {short} of the period's {view.period.days} days."] if short else []
