"""A site's data by source: days, gaps, rows, when and by whom loaded, and problems."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from django.db.models import Sum

from zugzwang.core.facts.grains import DAY, GRAINS, OF_SPANS, PAGE, PAGE_QUERY, QUERY, Grain, Source, withheld
from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.soundness import sudden_days
from zugzwang.core.words import sentences
from zugzwang.core.words.sentences import few
from zugzwang.data.blocks import count_days, read_facts
from zugzwang.data.cache import cached
from zugzwang.data.models import Block, Load, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.intake.kinds import KINDS
from zugzwang.intake.kinds.kind import DayLoaded, GrainLoaded, Kind, Unsound

OLDER_DAYS = 7
EXAMPLES = 20


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
    return {site.id: [one for one in KINDS if one in by_site.get(site.id, ())] for site in sites}


def sources(site: Site) -> list[SourceLoaded]:
    """Every source, including those without data."""
    current = _loaded(Snapshot(site))
    latest = max((grain.last_day for grains in current.values() for grain in grains if grain.last_day), default=None)
    return [_source(site, source, current[source], latest) for source in KINDS]


def _source(site: Site, source: Source, grains: list[GrainLoaded], latest: date | None) -> SourceLoaded:
    load = Load.objects.filter(site=site, source=source, taken_back_at=None).select_related("user").first()
    rows = count(site) if (count := KINDS[source].count) else sum(grain.rows for grain in grains)
    return SourceLoaded(
        source=source,
        rows=rows,
        grains=[grain for grain in grains if grain.rows],
        loaded_at=load.made_at if load else None,
        loaded_by=load.user.get_username() if load and load.user else "",
        loaded_from=load.name if load else "",
        says=KINDS[source].says(site) if rows else "",
        unsound=_unsound(site, source, grains, latest) if rows else [],
    )


@cached
def _loaded(snapshot: Snapshot) -> dict[Source, list[GrainLoaded]]:
    return {name: [_grain(snapshot.site, grain) for grain in _tables(kind)] for name, kind in KINDS.items()}


def _tables(kind: Kind) -> list[Grain]:
    return [*kind.grains, *(OF_SPANS[grain.name] for grain in kind.grains if grain.dated)]


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
            days = few(len(sudden), "day has", "days have")
            message = f"{days} at most a tenth of the days around it ({grain.name})."
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
    return found + KINDS[source].unsound(site, grains)


def _missing(grain: GrainLoaded) -> Unsound:
    number = len(grain.missing)
    message = f"{few(number, 'day is', 'days are')} missing between its first and last day ({grain.name})."
    return Unsound(message, "Load those days.", [sentences.day(day) for day in grain.missing[:EXAMPLES]], number)
