"""The state of each site of a portfolio. Slow figures are stored in the site's row, so one query serves a thousand sites; they
are recomputed after each load, and by the clock when the day or the program changes.
"""

import time
from dataclasses import asdict, dataclass, field, replace
from datetime import date, datetime
from typing import Any

from django.utils import timezone

from zugzwang.access import Actor
from zugzwang.core.clicks.evidence import SURE
from zugzwang.data.cache import program
from zugzwang.data.models import Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import ProductError
from zugzwang.findings.registry import FINDINGS
from zugzwang.findings.table import ask
from zugzwang.intake.sources import sources
from zugzwang.subjects.changes import describe_changes
from zugzwang.subjects.sites import site_days
from zugzwang.subjects.warming import AS_OPENED

ASKED_SECONDS = 0.25  # time that a visitor waits for figures still to compute; the next visit continues


@dataclass(frozen=True)
class Figures:
    """Stored figures of a site. `gaps`: days without data between days with data; `spans`: totals, first and last day each."""

    first_day: date | None = None
    last_day: date | None = None
    gaps: int = 0
    spans: list[tuple[date, date]] = field(default_factory=list)
    missing_days: int = 0  # of search facts
    unsound: list[str] = field(default_factory=list)
    period: str = ""  # in words; empty without search facts
    clicks: int | None = None
    change: float | None = None  # of clicks compared with a year earlier, 0.1 for a tenth more; None where unknown
    lost: float | None = None  # clicks a month, from firm and likely findings of low-ctr


@dataclass(frozen=True)
class SiteState:
    """The state of a site: its search facts, problems, and the last refresh. `ready`: whether its figures are computed;
    otherwise they are empty.
    """

    slug: str
    name: str
    address: str
    first_day: date | None
    last_day: date | None
    missing_days: int
    unsound: list[str]
    connections: int
    requested_at: datetime | None
    may_change: bool
    ready: bool
    period: str
    clicks: int | None
    change: float | None
    lost: float | None


def portfolio(actor: Actor) -> list[SiteState]:
    """Every site that one may see, including those without data."""
    sites = list(actor.sites().prefetch_related("connections"))
    changeable, today, until = actor.changeable(sites), timezone.localdate(), time.monotonic() + ASKED_SECONDS
    result = []
    for site in sites:
        current = stored_figures(site, today)
        if current is None and time.monotonic() < until:
            current = make(site, today)
        result.append(_state(site, current, site.id in changeable))
    return result


def _state(site: Site, current: Figures | None, may_change: bool) -> SiteState:
    connections, shown = list(site.connections.all()), current or Figures()
    return SiteState(
        slug=site.slug,
        name=site.name,
        address=site.address,
        first_day=shown.first_day,
        last_day=shown.last_day,
        missing_days=shown.missing_days,
        unsound=shown.unsound,
        connections=len(connections),
        requested_at=max((one.requested_at for one in connections if one.requested_at), default=None),
        may_change=may_change,
        ready=current is not None,
        period=shown.period,
        clicks=shown.clicks,
        change=shown.change,
        lost=shown.lost,
    )


def stored_figures(site: Site, today: date | None = None) -> Figures | None:
    """The stored figures of a site that are still valid; without a day: those that depend only on its facts."""
    result: dict[str, Any] = site.overview
    if not result or result["of_facts"] != _of_facts(site) or (today and result["of_day"] != _of_day(site, today)):
        return None
    current = dict(result["figures"])
    for name in ("first_day", "last_day"):
        current[name] = date.fromisoformat(current[name]) if current[name] else None
    current["spans"] = [(date.fromisoformat(first), date.fromisoformat(last)) for first, last in current["spans"]]
    return Figures(**current)


def make(site: Site, today: date) -> Figures:
    """Compute and store a site's state; for damaged data, that they are damaged."""
    try:
        current = _figures(site, today)
    except ProductError as error:
        current = Figures(unsound=[error.message])
    spans = [[first.isoformat(), last.isoformat()] for first, last in current.spans]
    days = {name: day.isoformat() if (day := getattr(current, name)) else None for name in ("first_day", "last_day")}
    site.overview = {
        "of_facts": _of_facts(site), "of_day": _of_day(site, today), "figures": {**asdict(current), **days, "spans": spans}
    }  # fmt: skip
    # Not where the facts have changed: whoever changed them computes it.
    Site.objects.filter(id=site.id, data_version=site.data_version).update(overview=site.overview)
    return current


def _of_facts(site: Site) -> str:
    return f"{program()} {site.data_version}"


def _of_day(site: Site, today: date) -> str:
    return f"{site.plan_version} {today}"


def days_of(site: Site) -> Figures:
    """The days with data of a site."""
    return stored_figures(site) or _days(site)


def make_all(seconds: float) -> int:
    """Compute the sites that are out of date, within a time limit; returns their number."""
    until, today, made = time.monotonic() + seconds, timezone.localdate(), 0
    for site in Site.objects.filter(deleted_at=None):
        if time.monotonic() > until:
            break
        if stored_figures(site, today) is None:
            make(site, today)
            made += 1
    return made


def _days(site: Site) -> Figures:
    days = site_days(site)
    if days is None:
        return Figures()
    return Figures(days.first, days.last, len(days.missing), [(span.first, span.last) for span in days.spans])


def _figures(site: Site, today: date) -> Figures:
    current = sources(site)
    search = [grain for grain in next(one for one in current if one.source == "search").grains if grain.days]
    unsound = [f"{one.source}: {unsound.message}" for one in current for unsound in one.unsound]
    result = replace(_days(site), missing_days=len(search[0].missing) if search else 0, unsound=unsound)
    snapshot = Snapshot(site)
    if snapshot.facts.usual_period() is None:
        return result
    standing = describe_changes(snapshot, AS_OPENED, today)
    clicks = next(one for one in standing["measures"] if one.name == "clicks")
    low = ask(snapshot, FINDINGS["low-ctr"], replace(AS_OPENED, evidence=SURE), today)
    return replace(
        result,
        period=standing["period_words"],
        clicks=round(clicks.now or 0),
        change=clicks.change_share,
        lost=low.extras["lost_month"],
    )
