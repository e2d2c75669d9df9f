"""A site's data by source: days, gaps, rows, when and by whom loaded, and problems."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta

import polars as pl
from django.db.models import Sum

from zugzwang.core.clicks.evidence import Grade
from zugzwang.core.facts.grains import (
    ABOVE,
    CRAWL_PAGES,
    DAY,
    GRAINS,
    LINKS,
    OF_SPANS,
    PAGE,
    PAGE_LINKS,
    PAGE_QUERIES,
    PAGE_QUERY,
    QUERY,
    RESULTS,
    SEARCH_GRAINS,
    SOURCES,
    STRENGTHS,
    VISITS,
    VOLUMES,
    Grain,
    Source,
    withheld,
)
from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.soundness import sudden_days
from zugzwang.core.words import sentences
from zugzwang.data.blocks import count_days, read_facts
from zugzwang.data.cache import cached
from zugzwang.data.models import Block, Event, Load, Site
from zugzwang.data.snapshot import Snapshot

OLDER_DAYS = 7
SURE: tuple[Grade, ...] = ("firm", "likely")
EXAMPLES = 20
_TABLES: dict[Source, tuple[Grain, ...]] = {
    "search": (*SEARCH_GRAINS, *(OF_SPANS[grain.name] for grain in SEARCH_GRAINS)),
    "visits": (VISITS, OF_SPANS[VISITS.name]),
    "crawl": (CRAWL_PAGES,),
    "links": (LINKS,),
    "volumes": (VOLUMES,),
    "results": (RESULTS,),
    "strengths": (STRENGTHS,),
    "page-queries": (PAGE_QUERIES,),
    "page-links": (PAGE_LINKS,),
    "above": (ABOVE,),
    "events": (),
}


@dataclass(frozen=True)
class DayLoaded:
    """A day of a source: its rows and its measure (clicks or sessions)."""

    day: date
    rows: int
    measure: int


@dataclass(frozen=True)
class GrainLoaded:
    """A grain of search facts, or the single table of another source."""

    name: str
    rows: int
    first_day: date | None
    last_day: date | None
    days: list[DayLoaded]
    missing: list[date]
    clicks: int | None = None
    withheld_clicks: int | None = None  # totals minus named queries: the anonymised ones


@dataclass(frozen=True)
class Unsound:
    """A problem that an analyst should check before trusting the source: in words, with examples."""

    message: str
    remedy: str
    examples: list[str] = field(default_factory=list)
    count: int = 0


@dataclass(frozen=True)
class SourceLoaded:
    source: Source
    rows: int
    grains: list[GrainLoaded]
    loaded_at: datetime | None
    loaded_by: str
    loaded_from: str
    says: str  # the contents of a table without days, in a sentence
    unsound: list[Unsound]


def loaded(sites: Sequence[Site]) -> dict[int, list[Source]]:
    """The kinds of data that each site has, by site id, without dated events."""
    found = Block.objects.filter(site__in=sites).values_list("site_id", "grain").distinct()
    by_site: dict[int, set[Source]] = {}
    for site, grain in found:
        by_site.setdefault(site, set()).add(GRAINS[grain].source)
    return {site.id: [one for one in SOURCES if one in by_site.get(site.id, ())] for site in sites}


def sources(site: Site) -> list[SourceLoaded]:
    """Every source, including those without data."""
    current = _loaded(Snapshot(site))
    latest = max((grain.last_day for grains in current.values() for grain in grains if grain.last_day), default=None)
    return [_source(site, source, current[source], latest) for source in SOURCES]


def _source(site: Site, source: Source, grains: list[GrainLoaded], latest: date | None) -> SourceLoaded:
    load = Load.objects.filter(site=site, source=source, taken_back_at=None).select_related("user").first()
    rows = Event.objects.filter(site=site).count() if source == "events" else sum(grain.rows for grain in grains)
    return SourceLoaded(
        source=source,
        rows=rows,
        grains=[grain for grain in grains if grain.rows],
        loaded_at=load.made_at if load else None,
        loaded_by=load.user.get_username() if load and load.user else "",
        loaded_from=load.name if load else "",
        says=_says(site, source) if rows else "",
        unsound=_unsound(site, source, grains, latest) if rows else [],
    )


def _says(site: Site, source: Source) -> str:
    if source in ("search", "visits"):
        return _spans_said(site, source)
    if source == "crawl":
        statuses = read_facts(site, CRAWL_PAGES, columns=["status"])["status"]
        good, gone = int((statuses == 200).sum()), int((statuses >= 400).sum())
        others = sentences.count(statuses.len() - good - gone)
        return f"{_few(good, 'page', 'pages')} that answered, {sentences.count(gone)} that did not, {others} others."
    if source == "links":
        rows = read_facts(site, LINKS, columns=["page", "from_address"])
        hosts = rows["from_address"].str.extract(r"^https?://([^/]+)").n_unique()
        pages = _few(rows["page"].n_unique(), "page", "pages")
        return f"{_few(rows.height, 'link', 'links')} from {_few(hosts, 'host', 'hosts')} to {pages}."
    if source == "volumes":
        rows = read_facts(site, VOLUMES, columns=["query", "month"])
        months = rows["month"].n_unique()
        return f"{_few(rows['query'].n_unique(), 'query', 'queries')}, {_few(months, 'month', 'months')} each at most."
    if source == "results":
        rows = read_facts(site, RESULTS, columns=["query", "captured"])
        newest = sentences.day(rows.select(pl.max("captured")).item())
        return f"{_few(rows['query'].n_unique(), 'query', 'queries')}, the newest captured on {newest}."
    if source in ("strengths", "page-queries"):
        grain = STRENGTHS if source == "strengths" else PAGE_QUERIES
        addresses = read_facts(site, grain, columns=["address"])["address"].n_unique()
        return f"Of {_few(addresses, 'page', 'pages')} of any site."
    if source == "page-links":
        rows = read_facts(site, PAGE_LINKS, columns=["from_address", "to_address"])
        return f"{_few(rows.height, 'link', 'links')} on {_few(rows['from_address'].n_unique(), 'page', 'pages')}."
    if source == "above":
        rows = read_facts(site, ABOVE, columns=["fetched", "status"])
        good, last = int((rows["status"] == 200).sum()), sentences.day(rows.select(pl.max("fetched")).item())
        return f"{_few(good, 'page', 'pages')} of others that could be read, the newest fetched on {last}."
    if source == "events":
        newest_event = Event.objects.filter(site=site).last()
        return f"The last: {newest_event.title}, {sentences.day(newest_event.first_day)}." if newest_event else ""
    return ""


def _spans_said(site: Site, source: Source) -> str:
    """The totals in addition to days."""
    snapshot = Snapshot(site)
    by_span: dict[Period, list[str]] = {}
    for grain in _TABLES[source]:
        if grain.dated:
            for span in snapshot.spans_of(grain.name):
                by_span.setdefault(span, []).append(grain.name)
    rows = [f"{sentences.period(span)} by {' and by '.join(names)}" for span, names in by_span.items()]
    return f"Totals: {'; '.join(rows)}." if rows else ""


@cached
def _loaded(snapshot: Snapshot) -> dict[Source, list[GrainLoaded]]:
    return {source: [_grain(snapshot.site, grain) for grain in grains] for source, grains in _TABLES.items()}


def _grain(site: Site, grain: Grain) -> GrainLoaded:
    rows = Block.objects.filter(site=site, grain=grain.name).aggregate(rows=Sum("rows"))["rows"] or 0
    if not grain.dated or not rows:
        return GrainLoaded(grain.name, rows, None, None, [], [])
    days = count_days(site, grain)
    measure = "clicks" if grain.is_search else "sessions"
    first, last = days["day"][0], days["day"][-1]
    return GrainLoaded(
        name=grain.name,
        rows=rows,
        first_day=first,
        last_day=last,
        days=[DayLoaded(*row) for row in days.select("day", "rows", measure).iter_rows()],
        missing=Period(first, last).missing(days["day"].to_list()),
        clicks=int(days["clicks"].sum()) if grain.is_search else None,
        withheld_clicks=_withheld(site, grain),
    )


def _withheld(site: Site, grain: Grain) -> int | None:
    """Clicks that totals of pages or days have beyond the named queries, on the days of both."""
    if grain not in (PAGE, DAY):
        return None
    named_grain = PAGE_QUERY if grain is PAGE else QUERY
    columns = ["day", "clicks", "impressions"]
    totals, named = (read_facts(site, one, columns=columns) for one in (grain, named_grain))
    if named.is_empty():
        return None
    return int(withheld(totals.join(named.select("day").unique(), on="day", how="semi"), named, ["day"])["clicks"].sum())


def _unsound(site: Site, source: Source, grains: Sequence[GrainLoaded], latest: date | None) -> list[Unsound]:
    found = []
    dated = [grain for grain in grains if grain.days]
    for grain in dated:
        if grain.missing:
            found.append(_missing(grain))
        sudden = sudden_days([(day.day, day.measure) for day in grain.days])
        if sudden:
            days = _few(len(sudden), "day has", "days have")
            message = f"{days} at most a tenth of of the days around it ({grain.name})."
            found.append(
                Unsound(
                    message,
                    "Load those days again, or check what happened.",
                    [sentences.day(day) for day in sudden[:EXAMPLES]],
                    len(sudden),
                )
            )
    if dated and latest is not None:
        last = max(grain.last_day for grain in dated if grain.last_day)
        if last < latest - timedelta(days=OLDER_DAYS):
            message = f"It ends on {sentences.day(last)}, {(latest - last).days} days before the newest source."
            found.append(Unsound(message, "Refresh."))
    if source == "search":
        found += _without_pages(grains)
    if source == "crawl":
        found += _met_and_not(site)
    return found


def _missing(grain: GrainLoaded) -> Unsound:
    number = len(grain.missing)
    message = f"{_few(number, 'day is', 'days are')} missing between its first and last day ({grain.name})."
    return Unsound(message, "Load those days.", [sentences.day(day) for day in grain.missing[:EXAMPLES]], number)


def _few(number: int, one: str, more: str) -> str:
    return f"{sentences.count(number)} {one if number == 1 else more}"


def _without_pages(grains: Sequence[GrainLoaded]) -> list[Unsound]:
    """Days with clicks on the whole site and none on any page."""
    by_name = {grain.name: {day.day for day in grain.days if day.measure > 0} for grain in grains}
    whole = by_name.get(DAY.name, set()) | by_name.get(QUERY.name, set())
    lacking = sorted(whole - by_name.get(PAGE.name, set()) - by_name.get(PAGE_QUERY.name, set()))
    if not lacking:
        return []
    message = f"{_few(len(lacking), 'day has', 'days have')} clicks but no pages that were clicked."
    return [
        Unsound(
            message,
            "Load facts by page and query, or by page, for those days.",
            [sentences.day(day) for day in lacking[:EXAMPLES]],
            len(lacking),
        )
    ]


def _met_and_not(site: Site) -> list[Unsound]:
    """Pages with search data that the crawl did not find, and crawled pages without search data."""
    crawled = read_facts(site, CRAWL_PAGES, columns=["address", "status"])
    shown = Snapshot(site).shown_pages()
    met = crawled.filter(pl.col("status") == 200)["address"]
    never_met = shown.filter(~shown.is_in(crawled["address"].implode())).sort()
    never_shown = met.filter(~met.is_in(shown.implode())).sort()
    found = []
    if never_met.len():
        message = (
            f"{_few(never_met.len(), 'page of the search data was', 'pages of the search data were')} not found by the crawl."
        )
        remedy = "They may be gone, or no page links to them. Check their status, or link to them."
        found.append(Unsound(message, remedy, never_met.head(EXAMPLES).to_list(), never_met.len()))
    if never_shown.len():
        message = f"{_few(never_shown.len(), 'crawled page is', 'crawled pages are')} without impressions."
        found.append(
            Unsound(message, "New, blocked, or too weak: check which.", never_shown.head(EXAMPLES).to_list(), never_shown.len())
        )
    return found
