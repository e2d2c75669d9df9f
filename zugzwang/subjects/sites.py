"""The sites one may see, their settings, and their days."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from itertools import chain, count, pairwise
from typing import Any, Literal
from urllib.parse import urlsplit

import polars as pl
from django.core.exceptions import ValidationError
from django.core.validators import validate_slug
from django.db import transaction

from zugzwang.access import Actor
from zugzwang.changing import changes_site
from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.search import add_up
from zugzwang.core.words.brand import Suggestion, suggest
from zugzwang.data.audit import note
from zugzwang.data.models import Membership, Query, RuleChange, Site, next_version
from zugzwang.data.patterns import patterns_for
from zugzwang.data.rules import as_json, bare_host, host_of, rules_of
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid, NotAllowed
from zugzwang.names import checked_name

BRAND_EXAMPLES = 8
SLUG_MAX, ADDRESS_MAX = 50, 200
SITES_MAX = 100
RESERVED_SLUGS = {"api", "static", "sign-in", "sites", "read", "account", "invitation", "reset", "metrics", "healthz", "readyz"}


@dataclass(frozen=True)
class SiteDays:
    """A site's days: first and last, by day or in totals, missing days between, and the spans of totals."""

    first: date
    last: date
    missing: list[date]
    spans: list[Period]


def add_site(actor: Actor, name: str, address: str, slug: str) -> Site:
    """A new site, which its creator may change. Raises Invalid with the problem."""
    check_may_add(actor)
    _check_address(address)
    try:
        validate_slug(slug)
    except ValidationError as error:
        raise Invalid(f"“{slug}” cannot be used in addresses.", "Use letters, digits, hyphens.", "slug") from error
    if len(slug) > SLUG_MAX:
        raise Invalid("The slug is too long.", f"Use at most {SLUG_MAX} characters.", "slug")
    if slug in RESERVED_SLUGS:
        raise Invalid(f"“{slug}” is an address of the application itself.", "Choose another slug.", "slug")
    checked_name(name)
    if actor.sites().filter(slug=slug).exists():
        raise Invalid(f"There is a site “{slug}” already.", "Choose another slug.", "slug")
    with transaction.atomic():
        # Names of others' sites stay private: the next free one is taken.
        site = Site.objects.create(name=checked_name(name), address=address, slug=free_slug(slug))
        if actor.user is not None:
            Membership.objects.create(site=site, user=actor.user, role=Membership.Role.OWNER)
        note(actor.user, site, "add site", site.name)
    return site


def check_may_add(actor: Actor) -> None:
    """Raises NotAllowed where the actor may add no site, or no more."""
    if actor.token is not None or (actor.user is not None and not actor.user.is_active):
        raise NotAllowed("Sign in to add sites.", "Sign in first.")
    if actor.user is None or actor.user.is_superuser:
        return  # seeing every site is not owning them
    owned = Membership.objects.filter(user=actor.user, role=Membership.Role.OWNER, site__deleted_at=None).count()
    if owned >= SITES_MAX:
        raise NotAllowed(f"You own {SITES_MAX} sites, the most that one person can own.", "Ask your administrator.")


def free_slug(slug: str) -> str:
    """The slug, with a number appended where it is taken."""
    taken = set(Site.objects.filter(slug__startswith=slug[: SLUG_MAX - 4]).values_list("slug", flat=True))
    return next(one for one in chain([slug], (f"{slug[: SLUG_MAX - 4]}-{n}" for n in count(2))) if one not in taken)


def _check_address(address: str) -> None:
    parts = urlsplit(address)
    if parts.scheme not in ("http", "https") or not parts.hostname or len(address) > ADDRESS_MAX:
        raise Invalid(f"“{address}” is not an address of a site.", "Write it as https://www.shop.example.", "address")


@changes_site(own=True)
def change_address(actor: Actor, site: Site, address: str) -> Site:
    """Change the site's address. Pages on the previous host count as the new ones by a cleaning rule, which can be undone."""
    _check_address(address)
    site = Site.objects.select_for_update().get(id=site.id)
    before, old = site.address, rules_of(site)
    left, site.address = host_of(site), address
    hosts = [one for one in (*old.former_hosts, left) if bare_host(one) != bare_host(host_of(site))]
    rules = replace(old, former_hosts=tuple(dict.fromkeys(hosts)))
    if rules != old:
        site.rules = as_json(rules)
        current = {"before": as_json(old), "after": site.rules}
        RuleChange.objects.create(site=site, user=actor.user, words=f"address: {address}"[:300], **current)
    site.data_version, site.plan_version = next_version(), next_version()
    site.save(update_fields=["address", "rules", "data_version", "plan_version"])
    note(actor.user, site, "settings", "address", before=before, after=address)
    return site


def site_days(site: Site) -> SiteDays | None:
    """A site's days; None without data."""
    current, spans = Snapshot(site).facts.days(), Snapshot(site).facts.spans()
    if not current and not spans:
        return None
    missing = Period(current[0], current[-1]).missing(current) if current else []
    firsts, lasts = [*current[:1], *(span.first for span in spans)], [*current[-1:], *(span.last for span in spans)]
    return SiteDays(min(firsts), max(lasts), missing, spans)


def brand_effect(site: Site, patterns: Sequence[str]) -> dict[str, object]:
    """The effect of brand patterns: how many queries they match, their share of all clicks, and the most clicked ones."""
    cached, snapshot = patterns_for(patterns), Snapshot(site)
    ids = snapshot.facts.branded(cached)
    period = snapshot.facts.usual_period()
    if period is None:
        return {"patterns": list(cached), "queries": 0, "clicks_share": None, "examples": []}
    by_query = snapshot.facts.listed(period, by="query").group_by("query").agg(pl.col("clicks").cast(pl.Int64).sum())
    of_brand = by_query.filter(pl.col("query").is_in(ids.implode())).sort("clicks", "query", descending=[True, False])
    all_clicks = int(by_query["clicks"].sum())
    known = snapshot.names.texts(Query).rename({"id": "query"})
    examples = of_brand.head(BRAND_EXAMPLES).join(known, on="query", how="left", maintain_order="left")["text"].to_list()
    return {
        "patterns": list(cached),
        "queries": ids.len(),
        "clicks_share": int(of_brand["clicks"].sum()) / all_clicks if all_clicks else None,
        "examples": examples,
    }


def brand_suggestions(site: Site) -> list[Suggestion]:
    """Brand patterns suggested by the site's name and its clicks in the default period, in addition to the saved ones."""
    snapshot = Snapshot(site)
    period = snapshot.facts.usual_period()
    if period is None:
        return []
    texts = snapshot.names.texts(Query)
    by_query = add_up(snapshot.facts.listed(period, by="query"), ["query"]).join(
        texts, left_on="query", right_on="id", how="left"
    )
    rows = by_query.select(pl.col("text").alias("query"), "clicks", "impressions", "position")
    known = snapshot.facts.branded(tuple(site.brand_patterns))
    return suggest(rows, host_of(site), texts.filter(pl.col("id").is_in(known.implode()))["text"])


def change_site(
    actor: Actor,
    slug: str,
    brand_patterns: Sequence[str] | None = None,
    min_impressions: int | None = None,
    curve: Sequence[tuple[float, float]] | Literal["fitted"] | None = None,
) -> Site:
    """Save the site's brand patterns, minimum of impressions or own curve; None leaves a setting unchanged."""
    actor.site_to_change(slug)
    changed: dict[str, Any] = {}
    if brand_patterns is not None:
        changed["brand_patterns"] = list(patterns_for(brand_patterns))
    if min_impressions is not None:
        if min_impressions < 0:
            raise Invalid("The minimum is below 0.", "Enter the impressions a row needs.", "min_impressions")
        changed["min_impressions"] = min_impressions
    if curve is not None:
        changed["own_curve"] = None if curve == "fitted" else checked_curve(curve)
    return _store_settings(actor, slug, changed)


@changes_site(plan=True)
def _store_settings(actor: Actor, site: Site, changed: dict[str, Any]) -> Site:
    for name, value in changed.items():
        setattr(site, name, value)
    site.save(update_fields=list(changed))
    if changed:
        note(actor.user, site, "settings", ", ".join(changed).replace("_", " "))
    return site


def checked_curve(points: Sequence[tuple[float, float]]) -> list[list[float]]:
    ordered = sorted(points)
    if len(ordered) < 2 or any(position < 1 or position > 100 or not 0 < ctr <= 1 for position, ctr in ordered):
        raise Invalid("A curve needs two points or more, positions 1 to 100, CTR above 0 up to 100 %.", "", "curve")
    if any(later[1] > earlier[1] or later[0] == earlier[0] for earlier, later in pairwise(ordered)):
        raise Invalid("A click curve falls with position.", "Check for a CTR above the one before it.", "curve")
    return [list(point) for point in ordered]
