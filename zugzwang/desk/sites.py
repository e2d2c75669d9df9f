"""The sites one may see, what may be set for them, and which days they have."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from itertools import pairwise
from typing import Literal
from urllib.parse import urlsplit

import polars as pl
from django.core.exceptions import ValidationError
from django.core.validators import validate_slug

from zugzwang.access import Actor
from zugzwang.core.brand import Suggestion, suggest
from zugzwang.core.facts import add_up
from zugzwang.core.patterns import PatternError, check_patterns
from zugzwang.core.periods import Period, default_period
from zugzwang.desk import cleaning, frames
from zugzwang.errors import Invalid, NotAllowed
from zugzwang.store.models import Membership, Query, Site

BRAND_EXAMPLES = 8
SLUG_MAX = 50
RESERVED_SLUGS = {"api", "static", "sign-in", "sites"}


@dataclass(frozen=True)
class SiteDays:
    """The days that a site has: first and last, and those missing between them."""

    first: date
    last: date
    missing: list[date]


def add_site(actor: Actor, name: str, address: str, slug: str) -> Site:
    """A new site, which its maker may change. Invalid says what is wrong with the words given."""
    if actor.user is not None and not actor.user.is_active:
        raise NotAllowed("Your account may not add sites.")
    parts = urlsplit(address)
    if parts.scheme not in ("http", "https") or not parts.hostname:
        raise Invalid(f"“{address}” is no address of a site.", "Write it as https://www.shop.example.", "address")
    try:
        validate_slug(slug)
    except ValidationError as error:
        raise Invalid(f"“{slug}” cannot stand in addresses.", "Use letters, digits, hyphens.", "slug") from error
    if len(slug) > SLUG_MAX:
        raise Invalid("The slug is too long.", f"Use at most {SLUG_MAX} characters.", "slug")
    if slug in RESERVED_SLUGS:
        raise Invalid(f"“{slug}” is an address of the application itself.", "Choose another slug.", "slug")
    if not name.strip():
        raise Invalid("The site needs a name.", "Say what you call it.", "name")
    if Site.objects.filter(slug=slug).exists():
        raise Invalid(f"There is a site “{slug}” already.", "Choose another slug.", "slug")
    site = Site.objects.create(name=name.strip()[:200], address=address, slug=slug)
    if actor.user is not None:
        Membership.objects.create(site=site, user=actor.user)
    return site


def site_days(site: Site) -> SiteDays | None:
    """None without data."""
    held = frames.days(site.id, site.data_version)
    if not held:
        return None
    first, last = held[0], held[-1]
    return SiteDays(first, last, Period(first, last).missing(held))


def period_for(site: Site, first: date | None, last: date | None) -> Period | None:
    """The period asked for, the open ends filled from the site's default; None when the site has no data."""
    if first and last:
        if last < first:
            raise Invalid(f"The period ends ({last}) before it begins ({first}).", "Swap the two.", "to")
        return Period(first, last)
    days = site_days(site)
    if days is None:
        return None
    usual = default_period(days.first, days.last)
    chosen_first, chosen_last = first or usual.first, last or usual.last
    if chosen_last < chosen_first:
        chosen_first, chosen_last = (first, days.last) if first else (days.first, chosen_last)
    if chosen_last < chosen_first:
        raise Invalid("There is no data on those days.", f"Data reach from {days.first} to {days.last}.", "from")
    return Period(chosen_first, chosen_last)


def brand_effect(site: Site, patterns: Sequence[str]) -> dict[str, object]:
    """What patterns would leave out: how many queries, their share of all clicks, and the most clicked of them."""
    kept = patterns_for(patterns)
    ids = frames.branded(site.id, site.data_version, kept)
    days = site_days(site)
    if days is None:
        return {"patterns": list(kept), "queries": 0, "clicks_share": None, "examples": []}
    period = default_period(days.first, days.last)
    by_query = frames.facts(site.id, site.data_version, period).group_by("query").agg(pl.col("clicks").cast(pl.Int64).sum())
    of_brand = by_query.filter(pl.col("query").is_in(ids.implode())).sort("clicks", "query", descending=[True, False])
    all_clicks = int(by_query["clicks"].sum())
    known = frames.texts(site.id, site.data_version, Query).rename({"id": "query"})
    examples = of_brand.head(BRAND_EXAMPLES).join(known, on="query", how="left", maintain_order="left")["text"].to_list()
    return {
        "patterns": list(kept),
        "queries": ids.len(),
        "clicks_share": int(of_brand["clicks"].sum()) / all_clicks if all_clicks else None,
        "examples": examples,
    }


def brand_suggestions(site: Site) -> list[Suggestion]:
    """Patterns that the site's name and its clicks of the usual period suggest, beside those that are kept."""
    days = site_days(site)
    if days is None:
        return []
    period = default_period(days.first, days.last)
    texts = frames.texts(site.id, site.data_version, Query)
    by_query = add_up(frames.facts(site.id, site.data_version, period), ["query"]).join(
        texts, left_on="query", right_on="id", how="left"
    )
    rows = by_query.select(pl.col("text").alias("query"), "clicks", "impressions", "position")
    known = frames.branded(site.id, site.data_version, patterns_for(site.brand_patterns))
    return suggest(rows, cleaning.host_of(site), texts.filter(pl.col("id").is_in(known.implode()))["text"])


def patterns_for(patterns: Sequence[str]) -> tuple[str, ...]:
    try:
        return check_patterns(patterns)
    except PatternError as error:
        raise Invalid(str(error), "A plain word will do; a regular expression may stand too.", "patterns") from error


def change_site(
    actor: Actor,
    slug: str,
    brand_patterns: Sequence[str] | None = None,
    min_impressions: int | None = None,
    curve: Sequence[tuple[float, float]] | Literal["fitted"] | None = None,
) -> Site:
    """Keep brand patterns, the floor on impressions or a curve of one's own for the site; None leaves a thing as it is."""
    site = actor.site_to_change(slug)
    changed = []
    if brand_patterns is not None:
        site.brand_patterns = list(patterns_for(brand_patterns))
        changed.append("brand_patterns")
    if min_impressions is not None:
        if min_impressions < 0:
            raise Invalid("The floor is below 0.", "Write how often a row must have been shown.", "min_impressions")
        site.min_impressions = min_impressions
        changed.append("min_impressions")
    if curve is not None:
        site.own_curve = None if curve == "fitted" else _checked_curve(curve)
        changed.append("own_curve")
    site.save(update_fields=changed)
    return site


def _checked_curve(points: Sequence[tuple[float, float]]) -> list[list[float]]:
    ordered = sorted(points)
    if len(ordered) < 2 or any(position < 1 or position > 100 or not 0 < ctr <= 1 for position, ctr in ordered):
        raise Invalid("A curve needs two points or more, positions 1 to 100, CTR above 0 up to 100 %.", "", "curve")
    if any(later[1] > earlier[1] or later[0] == earlier[0] for earlier, later in pairwise(ordered)):
        raise Invalid("A click curve falls with position.", "Look for a CTR above the one before it.", "curve")
    return [list(point) for point in ordered]
