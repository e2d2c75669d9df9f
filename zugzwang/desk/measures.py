"""What is known of each page in a period, search beside visits: the table that accounts, sections and landing pages start
from; and the measures of the site, a page or a query beside those of the days compared with."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import date, timedelta
from functools import lru_cache

import polars as pl

from zugzwang.core.comparison import VISITS as COMPARED_VISITS
from zugzwang.core.comparison import Beside, beside, search_sums
from zugzwang.core.facts import add_up, sums
from zugzwang.core.grains import PAGE, VISIT_MEASURES, VISITS, known_sum
from zugzwang.core.periods import Period
from zugzwang.core.visits import CHANNELS
from zugzwang.desk import frames
from zugzwang.desk.frames import WHOLE, Part
from zugzwang.desk.scope import Settled
from zugzwang.store.blocks import read_days
from zugzwang.store.models import Site


def page_measures(settled: Settled) -> pl.DataFrame:
    """Every page that was shown or visited in the period or the one compared with: page; clicks, impressions, position; of
    organic visits sessions, users, bounces, seconds, conversions, value (null: not told); each also as `<name>_before` where
    something is compared with."""
    told = _of_period(settled, settled.period)
    if settled.before is not None:
        before = _of_period(settled, settled.before)
        told = told.join(
            before.rename({name: f"{name}_before" for name in before.columns if name != "page"}),
            on="page",
            how="full",
            coalesce=True,
        ).with_columns(pl.col("clicks_before", "impressions_before").fill_null(0))
    return settled.chosen(told.with_columns(pl.col("clicks", "impressions").fill_null(0))).sort("page")


def _of_period(settled: Settled, period: Period) -> pl.DataFrame:
    part = settled.setting.part
    if settled.some_queries_only:
        facts = settled.without_brand(frames.facts(*settled.key, period, part))
        if settled.queries is not None:
            facts = facts.filter(pl.col("query").is_in(settled.queries.implode()))
        search = add_up(facts, ["page"]).drop("ctr")
    else:
        search = _search(*settled.key, period, part)
    # Visits do not tell devices or countries: beside a part of the facts they would mislead.
    visits = organic(*settled.key, period) if part == WHOLE else organic(*settled.key, period).clear()
    return search.join(visits, on="page", how="full", coalesce=True)


@lru_cache(maxsize=16)
def _search(site_id: int, version: int, period: Period, part: Part) -> pl.DataFrame:
    """Sums by page, of the grain that knows queries without a name where the site has it."""
    facts = frames.part_of(site_id, version, PAGE, period, part)
    if facts.is_empty():
        facts = frames.facts(site_id, version, period, part)
    return add_up(facts, ["page"]).drop("ctr")


@lru_cache(maxsize=16)
def organic(site_id: int, version: int, period: Period) -> pl.DataFrame:
    """Sums of organic visits by page."""
    rows = frames.visits(site_id, version, period).filter(pl.col("channel") == CHANNELS.index("organic"))
    return rows.group_by("page").agg(known_sum(name) for name in VISIT_MEASURES)


EVERY_PAGE = pl.lit(True)


def measures_beside(settled: Settled, of_pages: pl.Expr = EVERY_PAGE) -> list[Beside]:
    """The sums of the period beside those compared with, of some of the pages looked at; visits over the days that both periods
    have."""
    pages = page_measures(settled).filter(of_pages)
    now, before = search_sums(pages), search_sums(pages, "_before")
    known = visit_days(*settled.key) if settled.setting.part == WHOLE else frozenset()
    shift = settled.period.first - settled.before.first if settled.before else timedelta(0)
    days = [day for day in known if settled.period.first <= day <= settled.period.last and day - shift in known]
    now |= _visit_sums(settled, of_pages, days)
    if settled.before:
        before |= _visit_sums(replace(settled, period=settled.before), of_pages, [day - shift for day in days])
    return beside(now, before)


def facts_beside(settled: Settled, of_rows: pl.Expr) -> list[Beside]:
    """The sums of some page × query facts beside those of the days compared with."""
    told = []
    for period in (settled.period, settled.before):
        facts = frames.facts(*settled.key, period, settled.setting.part).filter(of_rows) if period else None
        told.append(search_sums(facts.select(sums())) if facts is not None and facts.height else {})
    return beside(*told)


def organic_visits(settled: Settled) -> pl.DataFrame:
    """Organic visits of the period to the pages looked at."""
    visits = frames.visits(*settled.key, settled.period)
    return settled.chosen(visits.filter(pl.col("channel") == CHANNELS.index("organic")))


def _visit_sums(settled: Settled, of_pages: pl.Expr, days: Sequence[date]) -> dict[str, float | None]:
    """Sums of organic visits on some days; None where there are none."""
    visits = organic_visits(settled).filter(of_pages, pl.col("day").is_in(list(days)))
    return visits.select(known_sum(name).cast(pl.Float64) for name in COMPARED_VISITS).to_dicts()[0]


def visits_compared(settled: Settled) -> list[str]:
    """What visits cannot say here, and over which days they are compared, in sentences."""
    said = visits_lacking(settled)
    return [*said, "They are compared over the days that both periods have."] if said and settled.before else said


def visits_lacking(settled: Settled) -> list[str]:
    """What visits cannot say here, in sentences."""
    held = visit_days(*settled.key)
    if not held:
        return ["The site has no visits: load them to see bounces, conversions and value."]
    if settled.setting.part != WHOLE:
        return ["Visits do not tell devices or countries, so none are set beside this part."]
    present = [day for day in held if settled.period.first <= day <= settled.period.last]
    short = settled.period.days - len(present)
    if not present:
        return ["There are no visits in the period."]
    return [f"Visits lack {short} of the period's {settled.period.days} days."] if short else []


@lru_cache(maxsize=16)
def visit_days(site_id: int, version: int) -> frozenset[date]:
    del version
    return frozenset(read_days(Site(id=site_id), VISITS))
