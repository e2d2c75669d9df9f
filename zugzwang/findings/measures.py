"""Search and visit figures of each page in a period, the table behind pages, sections and landing pages; and the measures of
the site, a page or a query in two periods.
"""

from dataclasses import replace

import polars as pl

from zugzwang.core.clicks.lenses import ListedBy
from zugzwang.core.facts.comparison import VISITS as COMPARED_VISITS
from zugzwang.core.facts.comparison import Compared, compared, search_sums
from zugzwang.core.facts.grains import DAY, PAGE, PAGE_QUERY, QUERY, VISIT_MEASURES, Grain, known_sum
from zugzwang.core.facts.grains import VISITS as GRAIN_OF_VISITS
from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.search import add_up, sums
from zugzwang.core.facts.visits import CHANNELS
from zugzwang.data.cache import cached
from zugzwang.data.snapshot import WHOLE, Part, Snapshot
from zugzwang.findings.view import View

ORGANIC = CHANNELS.index("organic")
SEARCH_COUNTS = ("clicks", "impressions")
EVERY_PAGE = pl.lit(True)


def page_measures(view: View) -> pl.DataFrame:
    """Every page with impressions or visits in either period: page; clicks, impressions, position; of organic visits sessions,
    users, bounces, seconds, conversions, value (null: not reported). In a comparison also `<name>_now` and `<name>_before`,
    both over comparable days, and `change`, `sessions_change`.
    """
    result = _of_period(view, view.period, view.period)
    if view.before is not None:
        sides = zip(("now", "before"), _alike(view, _grain_of_pages(view)), _alike(view, GRAIN_OF_VISITS), strict=True)
        for side, search, visits in sides:
            compared = _of_period(view, search, visits)
            compared = compared.rename({name: f"{name}_{side}" for name in compared.columns if name != "page"})
            result = result.join(compared, on="page", how="full", coalesce=True)
        if view.like(_grain_of_pages(view)):  # a page without impressions then had none; otherwise the value is unknown
            counts = [f"{name}_{side}" for name in SEARCH_COUNTS for side in ("now", "before")]
            result = result.with_columns(pl.col(counts).fill_null(0))
        result = result.with_columns(
            change=pl.col("clicks_now") - pl.col("clicks_before"),
            sessions_change=pl.col("sessions_now").cast(pl.Int64) - pl.col("sessions_before").cast(pl.Int64),
        )
    return view.chosen(result.with_columns(pl.col(SEARCH_COUNTS).fill_null(0))).sort("page")


def _alike(view: View, grain: Grain) -> tuple[Period | None, Period | None]:
    return view.like(grain) or (None, None)


def _grain_of_pages(view: View) -> Grain:
    """The grain of the pages' sums."""
    return view.grain_of("row") if view.some_queries_only else view.grain_of("page")


def _of_period(view: View, period: Period | None, of_visits: Period | None) -> pl.DataFrame:
    """Search and visit figures of each page; None: no days."""
    part = view.setting.part
    searched = period or view.period
    if view.some_queries_only:
        facts = view.without_brand(view.snapshot.facts.listed(searched, part))
        if view.queries is not None:
            facts = facts.filter(pl.col("query").is_in(view.queries.implode()))
        search = add_up(facts, ["page"]).drop("ctr")
    else:
        search = _search(view.snapshot, searched, part)
    # Visits have no device or country: next to a part of the facts they would mislead.
    visits = _organic_sums(view.snapshot, of_visits or view.period)
    visits = visits if of_visits and part == WHOLE else visits.clear()
    return (search if period else search.clear()).join(visits, on="page", how="full", coalesce=True)


@cached
def _search(snapshot: Snapshot, period: Period, part: Part) -> pl.DataFrame:
    """Sums by page, from the grain that includes anonymised queries where the site has it."""
    facts = snapshot.facts.rows(PAGE, period, part)
    if facts.is_empty():
        facts = snapshot.facts.listed(period, part)
    return add_up(facts, ["page"]).drop("ctr")


@cached
def _organic_sums(snapshot: Snapshot, period: Period) -> pl.DataFrame:
    """Sums of organic visits by page."""
    rows = snapshot.facts.visits(period).filter(pl.col("channel") == ORGANIC)
    return rows.group_by("page").agg(known_sum(name) for name in VISIT_MEASURES)


def measures_compared(view: View, of_pages: pl.Expr = EVERY_PAGE) -> list[Compared]:
    """The sums of both periods for the selected pages; in a comparison over comparable days, search and visits each by their
    own.
    """
    pages = page_measures(view).filter(of_pages)
    sides = _site_sums(view) if of_pages is EVERY_PAGE else None
    if sides is None and view.like(_grain_of_pages(view)):
        sides = search_sums(pages, "_now"), search_sums(pages, "_before")
    now, before = sides or (search_sums(pages), {})
    if view.setting.part == WHOLE:
        visited, visited_then = view.like(GRAIN_OF_VISITS) or (view.period, None)
        now |= _visit_sums(view, of_pages, visited)
        before |= _visit_sums(view, of_pages, visited_then) if visited_then else {}
    return compared(now, before)


def _site_sums(view: View) -> tuple[dict[str, float | None], dict[str, float | None]] | None:
    """The sums of both periods from totals of the whole site, or of queries where no page is known; None where page totals are
    complete, or only some pages or queries are selected.
    """
    if view.some_queries_only or view.pages is not None:
        return None
    snapshot, periods = view.snapshot, [one for one in (view.period, view.before) if one]
    no_pages = not any(snapshot.facts.has(grain, period) for grain in (PAGE, PAGE_QUERY) for period in periods)
    for grain in (DAY, *((QUERY,) if no_pages else ())):
        sides = [_sums_of(snapshot.facts.rows(grain, one, view.setting.part)) if one else {} for one in _sides(view, grain)]
        if sides[0]:
            return sides[0], sides[1]
    return None


def _sides(view: View, grain: Grain) -> tuple[Period, Period | None]:
    """The two periods reduced to the days that a grain has in both; the whole period alone where there are none."""
    return view.like(grain) or (view.period, None)


def _sums_of(facts: pl.DataFrame) -> dict[str, float | None]:
    return search_sums(facts.select(sums())) if facts.height else {}


def facts_compared(view: View, of_rows: pl.Expr, by: ListedBy = "row") -> list[Compared]:
    """The sums of some facts in both periods, over comparable days."""
    grain = view.grain_of(by)
    facts = [
        view.snapshot.facts.listed(one, view.setting.part, by).filter(of_rows) if one else None for one in _sides(view, grain)
    ]
    return compared(*(_sums_of(one) if one is not None else {} for one in facts))


def organic_visits(view: View) -> pl.DataFrame:
    """Organic visits of the period to the selected pages."""
    return view.chosen(view.snapshot.facts.visits(view.period).filter(pl.col("channel") == ORGANIC))


def _visit_sums(view: View, of_pages: pl.Expr, period: Period) -> dict[str, float | None]:
    """Sums of organic visits of a period; None where there are none."""
    visits = organic_visits(replace(view, period=period)).filter(of_pages)
    return visits.select(known_sum(name).cast(pl.Float64) for name in COMPARED_VISITS).to_dicts()[0]


def visits_compared(view: View) -> list[str]:
    """What visits cannot show here, and the days over which they are compared, in sentences."""
    lines = visits_lacking(view)
    return (
        [*lines, "They are compared over the days that both periods have."] if lines and view.like(GRAIN_OF_VISITS) else lines
    )


def visits_lacking(view: View) -> list[str]:
    """What visits cannot show here, in sentences."""
    if view.snapshot.facts.of_span(GRAIN_OF_VISITS, view.period):
        return []
    current = view.snapshot.facts.visit_days()
    if not current:
        return ["The site has no visits: load them to see bounces, conversions and value."]
    if view.setting.part != WHOLE:
        return ["Visit data have no devices or countries, so none are compared here."]
    present = [day for day in current if view.period.first <= day <= view.period.last]
    short = view.period.days - len(present)
    if not present:
        return ["There are no visits in the period."]
    return [f"Visits lack {short} of the period's {view.period.days} days."] if short else []
