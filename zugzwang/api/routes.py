"""The HTTP interface: parse, authorise, call a use case, serialise. It contains no rules."""

from collections.abc import Sequence
from typing import Any

from django.contrib.auth import login, logout
from django.contrib.auth.models import AnonymousUser, User
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import Query, Router, Status
from ninja.security import HttpBearer, SessionAuth

from zugzwang.access import Role
from zugzwang.api import drafts, findings, intake, people, plan, problems, reports, subjects, trials
from zugzwang.api import schemas as s
from zugzwang.api.problems import actor
from zugzwang.api.sign_in import user_of
from zugzwang.core.facts.grains import Source
from zugzwang.data.audit import note
from zugzwang.data.models import Site
from zugzwang.intake import overview
from zugzwang.intake.sources import loaded
from zugzwang.people import accounts, members
from zugzwang.people.tokens import token_of
from zugzwang.subjects import sites


class TokenAuth(HttpBearer):
    """A script's personal token: `Authorization: Bearer zz_…`."""

    def authenticate(self, request: HttpRequest, token: str) -> object:
        stored = token_of(token)
        if stored is None:
            return None
        request.user, request.personal_token = stored.user, stored  # type: ignore[attr-defined]
        return stored


class PersonAuth(SessionAuth):
    """A signed-in user."""

    def authenticate(self, request: HttpRequest, key: str | None) -> Any:
        user = super().authenticate(request, key)
        if user is not None:
            accounts.seen(request)
        return user


api = problems.Api(title="Zugzwang", version="1", auth=[TokenAuth(), PersonAuth()], docs_url=None, openapi_url="/schema.json")
problems.install(api)
router = Router()


# --- session -----------------------------------------------------------------------------------------------------------


@router.get("/session", auth=None, response={200: s.Session})
def show_session(request: HttpRequest) -> s.Session:
    """Whether someone is signed in, and who."""
    get_token(request)  # sets the cookie whose token later changes must return
    return _session(request.user)


@router.post("/session", auth=None, response={200: s.Session})
def sign_in(request: HttpRequest, payload: s.Credentials) -> Any:
    """Sign in."""
    user = user_of(request, payload.username, payload.password, payload.code)
    if isinstance(user, HttpResponse):
        return user
    login(request, user)
    accounts.note_session(request)
    note(user, None, "sign in")
    return _session(user)


def _session(user: User | AnonymousUser) -> s.Session:
    return s.Session(
        username=user.get_username() or None, preferences=s.PreferencesShown.from_orm(accounts.preferences_of(user))
    )


@router.delete("/session", response={204: None})
def sign_out(request: HttpRequest) -> Status[None]:
    """Sign out."""
    logout(request)
    return Status(204, None)


# --- sites -------------------------------------------------------------------------------------------------------------


def shown(request: HttpRequest, site: Site) -> s.SiteShown:
    return all_shown(request, [site])[0]


def all_shown(request: HttpRequest, stored: Sequence[Site]) -> list[s.SiteShown]:
    who = actor(request)
    roles, changeable = who.roles(stored), who.changeable(stored)
    kinds = loaded(stored)
    own = {site.id for site in stored if who.token is None and roles.get(site.id) == Role.OWNER}
    return [_shown(site, site.id in changeable, site.id in own, kinds[site.id]) for site in stored]


def _shown(site: Site, may_change: bool, may_own: bool, kinds: list[Source]) -> s.SiteShown:
    days = overview.days_of(site)
    return s.SiteShown(
        slug=site.slug,
        name=site.name,
        address=site.address,
        may_change=may_change,
        may_own=may_own,
        archived=site.archived_at is not None,
        brand_patterns=site.brand_patterns,
        min_impressions=site.min_impressions,
        currency=site.currency,
        own_curve=[s.CurvePoint(position=p, ctr=ctr) for p, ctr in site.own_curve] if site.own_curve else None,
        first_day=days.first_day,
        last_day=days.last_day,
        missing_days=days.gaps,
        spans=[s.Days(first=first, last=last) for first, last in days.spans],
        sources=kinds,
    )


@router.get("/sites", response={200: list[s.SiteShown]})
def list_sites(request: HttpRequest) -> list[s.SiteShown]:
    """The sites that the person may read."""
    return all_shown(request, list(actor(request).sites()))


@router.post("/sites", response={201: s.SiteShown})
def add_site(request: HttpRequest, payload: s.SiteAdded) -> Status[s.SiteShown]:
    """Add a site."""
    return Status(201, shown(request, sites.add_site(actor(request), payload.name, payload.address, payload.slug)))


@router.get("/sites/{slug}", response={200: s.SiteShown})
def show_site(request: HttpRequest, slug: str) -> s.SiteShown:
    """A site's settings and period of data."""
    return shown(request, actor(request).site(slug))


@router.patch("/sites/{slug}", response={200: s.SiteShown})
def change_site(request: HttpRequest, slug: str, payload: s.SiteChanged) -> s.SiteShown:
    """Change a site's settings."""
    curve = [(point.position, point.ctr) for point in payload.curve] if isinstance(payload.curve, list) else payload.curve
    site = sites.change_site(actor(request), slug, payload.brand_patterns, payload.min_impressions, curve)
    return shown(request, site)


@router.delete("/sites/{slug}", response={204: None})
def delete_site(request: HttpRequest, slug: str) -> Status[None]:
    """Delete a site; its owners can restore it for thirty days."""
    members.delete_site(actor(request), slug)
    return Status(204, None)


@router.get("/sites/{slug}/brand", response={200: s.BrandEffect})
def brand_effect(request: HttpRequest, slug: str, pattern: Query[list[str] | None] = None) -> Any:
    """The effect of brand patterns, before saving."""
    return sites.brand_effect(actor(request).site(slug), pattern or [])


@router.get("/sites/{slug}/brand/suggestions", response={200: list[s.BrandSuggestion]})
def brand_suggestions(request: HttpRequest, slug: str) -> Any:
    """Suggested brand patterns."""
    return [vars(one) for one in sites.brand_suggestions(actor(request).site(slug))]


api.add_router("", router)
api.add_router("", findings.router)
api.add_router("", subjects.router)
api.add_router("", plan.router)
api.add_router("", drafts.router)
api.add_router("", trials.router)
api.add_router("", reports.router)
api.add_router("", people.router)
api.add_router("", intake.router)
