"""What is known of each page in a period, search beside visits: the table that accounts, sections and landing pages start
from."""

from datetime import date
from functools import lru_cache

import polars as pl

from zugzwang.core.facts import add_up
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
