"""People over HTTP: members of a site and their activity log, invitations, your own account and tokens."""

import csv
import io
import shutil
import tempfile
from datetime import date, datetime
from pathlib import Path
from typing import Any, Literal

from django.conf import settings
from django.contrib.auth import login, update_session_auth_hash
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Field, Query, Router, Schema, Status
from ninja.errors import HttpError

from zugzwang import bounded
from zugzwang.access import Actor
from zugzwang.api.findings import sent
from zugzwang.api.problems import actor
from zugzwang.api.schemas import PreferencesShown
from zugzwang.data.audit import What
from zugzwang.data.counts import count, counted
from zugzwang.data.models import AuditEntry, PersonalToken, Site
from zugzwang.exporting import safe_cell
from zugzwang.people import accounts, members, tokens
from zugzwang.people.mail import failed
from zugzwang.plan.site_archive import write_archive
from zugzwang.subjects import sites

router = Router()
RoleName = Literal["reader", "analyst", "owner"]
MODEL_BACKEND = "django.contrib.auth.backends.ModelBackend"
AUDIT_MOST, REQUESTS_A_QUARTER = 500, 10


# --- members --------------------------------------------------------------------------------------------------------------


class MemberShown(Schema):
    id: int
    name: str
    email: str
    role: RoleName
    own: bool
    second_factor: bool


class InvitationShown(Schema):
    id: int
    email: str
    role: RoleName
    ends_on: date
    path: str  # the address to open it at, on this installation
    mail_failed: bool  # the mail server refused the address


class PeopleShown(Schema):
    members: list[MemberShown]
    invitations: list[InvitationShown]
    may_own: bool
    mail: bool


class Invited(Schema):
    email: str = Field(max_length=254)
    role: RoleName = "analyst"


class RoleInput(Schema):
    role: RoleName


class NameInput(Schema):
    name: str = Field(max_length=200)


class AddressInput(Schema):
    address: str = Field(max_length=200)


class DeletedSite(Schema):
    slug: str
    name: str
    deleted_at: datetime
    days_left: int


def _people(request: HttpRequest, slug: str) -> dict[str, Any]:
    who = actor(request)
    site = who.site(slug)
    owns = who.may_own(site)
    return {
        "members": [
            {
                "id": one.id,
                "name": one.user.get_username(),
                "email": one.user.email if owns or one.user == who.user else "",
                "role": one.role,
                "own": one.user == who.user,
                "second_factor": owns and accounts.has_second_factor(one.user),
            }
            for one in members.members(site)
        ],
        "invitations": [
            {
                "id": one.id,
                "email": one.email,
                "role": one.role,
                "ends_on": one.ends_on,
                "path": members.path_of(one),
                "mail_failed": failed(one.email),
            }
            for one in (members.invitations(site) if owns else [])
        ],
        "may_own": owns,
        "mail": settings.MAIL_READY,
    }


@router.get("/sites/{slug}/members", response={200: PeopleShown})
def list_members(request: HttpRequest, slug: str) -> Any:
    """The members of a site, and open invitations."""
    return _people(request, slug)


@router.post("/sites/{slug}/invitations", response={201: PeopleShown})
def invite(request: HttpRequest, slug: str, payload: Invited) -> Status[Any]:
    """Invite a person by mail address."""
    members.invite(actor(request), slug, payload.email, payload.role)
    return Status(201, _people(request, slug))


@router.delete("/sites/{slug}/invitations/{int:invitation_id}", response={204: None})
def revoke_invitation(request: HttpRequest, slug: str, invitation_id: int) -> Status[None]:
    """Revoke an invitation."""
    members.revoke_invitation(actor(request), slug, invitation_id)
    return Status(204, None)


@router.patch("/sites/{slug}/members/{int:member_id}", response={200: PeopleShown})
def set_role(request: HttpRequest, slug: str, member_id: int, payload: RoleInput) -> Any:
    """Change a member's role."""
    members.set_role(actor(request), slug, member_id, payload.role)
    return _people(request, slug)


@router.delete("/sites/{slug}/members/{int:member_id}", response={204: None})
def remove_member(request: HttpRequest, slug: str, member_id: int) -> Status[None]:
    """Remove a member, or leave the site yourself."""
    members.remove(actor(request), slug, member_id)
    return Status(204, None)


@router.patch("/sites/{slug}/name", response={204: None})
def rename_site(request: HttpRequest, slug: str, payload: NameInput) -> Status[None]:
    """Change a site's name or address name."""
    members.rename(actor(request), slug, payload.name)
    return Status(204, None)


@router.patch("/sites/{slug}/address", response={204: None})
def change_address(request: HttpRequest, slug: str, payload: AddressInput) -> Status[None]:
    """Change the site's address; pages under the old address count as those under the new one."""
    sites.change_address(actor(request), slug, payload.address)
    return Status(204, None)


@router.get("/sites/{slug}/archive/file", response={200: bytes})
def archive_file(request: HttpRequest, slug: str) -> HttpResponse:
    """The whole site as an archive that `manage.py import_site` reads on another installation."""
    who = actor(request)
    who.site_to_own(slug)
    folder = Path(tempfile.mkdtemp(dir=settings.DATA_DIR, prefix=".archive-"))
    try:
        bounded.run(bounded.EXPORT, write_archive, who, slug, folder / f"{slug}.zip")
        return sent(folder / f"{slug}.zip", f"{slug}-{timezone.localdate():%Y-%m-%d}.zip", "application/zip")
    finally:
        shutil.rmtree(folder)  # the response closes the file


@router.post("/sites/{slug}/archive", response={204: None})
def archive_site(request: HttpRequest, slug: str) -> Status[None]:
    """Archive a site: it stays readable and no longer changes."""
    members.archive(actor(request), slug)
    return Status(204, None)


@router.delete("/sites/{slug}/archive", response={204: None})
def unarchive_site(request: HttpRequest, slug: str) -> Status[None]:
    """Reopen an archived site."""
    members.archive(actor(request), slug, back=True)
    return Status(204, None)


@router.get("/deleted-sites", response={200: list[DeletedSite]})
def list_deleted_sites(request: HttpRequest) -> Any:
    """Deleted sites that can be restored."""

    def left(site: Site) -> int:
        assert site.deleted_at is not None
        return max(members.DELETED_DAYS - (timezone.now() - site.deleted_at).days, 0)

    stored = members.deleted_sites(actor(request))
    return [{"slug": one.slug, "name": one.name, "deleted_at": one.deleted_at, "days_left": left(one)} for one in stored]


@router.post("/deleted-sites/{slug}/restore", response={204: None})
def restore_site(request: HttpRequest, slug: str) -> Status[None]:
    """Restore a deleted site."""
    members.restore_site(actor(request), slug)
    return Status(204, None)


# --- the trail ------------------------------------------------------------------------------------------------------------


class AuditShown(Schema):
    id: int
    at: datetime
    who: str
    what: str
    about: str
    details: dict[str, Any]


class AuditRequest(Schema):
    """`before`: the id of the last entry already shown; older entries are returned."""

    before: int | None = Field(default=None, ge=1, le=2**62)
    who: str = Field(default="", max_length=150)
    what: What | Literal[""] = ""


def _trail(request: HttpRequest, slug: str, options: AuditRequest) -> Any:
    stored = AuditEntry.objects.filter(site=actor(request).site_to_own(slug))
    if options.before is not None:
        stored = stored.filter(id__lt=options.before)
    if options.who:
        stored = stored.filter(who=options.who)
    return stored.filter(what=options.what) if options.what else stored


@router.get("/sites/{slug}/audit", response={200: list[AuditShown]})
def list_audit(request: HttpRequest, slug: str, options: Query[AuditRequest]) -> Any:
    """Who did what in a site, the latest first."""
    return list(_trail(request, slug, options)[:AUDIT_MOST])


@router.get("/sites/{slug}/audit/file", response={200: bytes})
def audit_file(request: HttpRequest, slug: str, options: Query[AuditRequest]) -> HttpResponse:
    """The complete activity log of a site as CSV."""
    stored = io.StringIO()
    rows = csv.writer(stored)
    rows.writerow(["at", "who", "what", "about", "details"])
    for one in _trail(request, slug, options).iterator():
        details = "; ".join(f"{name}: {value}" for name, value in one.details.items() if value not in (None, ""))
        cells = (one.at.isoformat(timespec="seconds"), one.who, one.what, one.about, details)
        rows.writerow([safe_cell(cell) for cell in cells])
    headers = {"Content-Disposition": f'attachment; filename="{slug}-audit.csv"'}
    return HttpResponse(stored.getvalue(), content_type="text/csv; charset=utf-8", headers=headers)


# --- invitations, for who has the address -----------------------------------------------------------------------------------


class InvitationSeen(Schema):
    site: str
    address: str
    role: RoleName
    email: str
    by: str
    ends_on: date


class InvitationTaken(Schema):
    """The new account's name and password; empty for someone who is signed in."""

    username: str = Field(default="", max_length=150)
    password: str = Field(default="", max_length=1_000)
    proof: str = Field(default="", max_length=1_000)  # that the mailed link was opened


class Joined(Schema):
    slug: str


@router.get("/invitations/{token}", auth=None, response={200: InvitationSeen})
def show_invitation(request: HttpRequest, token: str) -> Any:
    """An invitation, for the invited person."""
    stored = members.find_invitation(token)
    return {
        "site": stored.site.name, "address": stored.site.address, "role": stored.role, "email": stored.email,
        "ends_on": stored.ends_on, "by": stored.user.get_username() if stored.user else "",
    }  # fmt: skip


@router.post("/invitations/{token}", auth=None, response={200: Joined})
def take_invitation(request: HttpRequest, token: str, payload: InvitationTaken) -> Any:
    """Accept an invitation as the signed-in user, or with a new account."""
    _seldom(request, "invitation")
    slug = members.find_invitation(token).site.slug
    if request.user.is_authenticated:
        members.take(token, Actor(request.user).user)  # type: ignore[arg-type]
    else:
        user = members.take_as_new(token, payload.username, payload.password, payload.proof)
        login(request, user, backend=MODEL_BACKEND)
        accounts.note_session(request)
    return {"slug": slug}


# --- your own account ----------------------------------------------------------------------------------------------------


class SessionShown(Schema):
    id: int
    address: str
    agent: str
    begun_at: datetime
    seen_at: datetime
    own: bool


class TokenShown(Schema):
    id: int
    name: str
    begins: str
    sites: list[str]
    role: RoleName
    ends_on: date
    ended: bool
    used_at: datetime | None


class AccountShown(Schema):
    name: str
    email: str
    mail: bool  # whether a new address can be confirmed
    second_factor: bool
    administrator: bool
    sessions: list[SessionShown]
    tokens: list[TokenShown]


class PasswordChanged(Schema):
    password: str = Field(max_length=1_000)
    new_password: str = Field(max_length=1_000)


class EmailChanged(Schema):
    password: str = Field(max_length=1_000)
    email: str = Field(max_length=254)


class FactorOffered(Schema):
    secret: str
    picture: str  # SVG


class FactorBegun(Schema):
    password: str = Field(max_length=1_000)
    secret: str = Field(max_length=100)
    code: str = Field(max_length=20)


class Confirmed(Schema):
    password: str = Field(max_length=1_000)


class RecoveryCodesShown(Schema):
    codes: list[str]


class TokenInput(Schema):
    name: str = Field(max_length=100)
    sites: list[str] = Field(max_length=100)
    role: Literal["reader", "analyst"] = "reader"
    ends_on: date


class TokenMade(Schema):
    secret: str  # shown only once


class ResetRequest(Schema):
    name: str = Field(max_length=254)


class ResetInput(Schema):
    user: str = Field(max_length=100)
    token: str = Field(max_length=200)
    password: str = Field(max_length=1_000)


def _person(request: HttpRequest) -> Any:
    who = actor(request)
    if who.token is not None or who.user is None:
        raise HttpError(403, "A token has no account.")
    return who.user


def _token(one: PersonalToken) -> dict[str, Any]:
    ended = one.revoked_at is not None or one.ends_on < timezone.localdate()
    names = ("id", "name", "begins", "role", "ends_on", "used_at")
    return {**{name: getattr(one, name) for name in names}, "ended": ended, "sites": [site.slug for site in one.sites.all()]}


@router.get("/account", response={200: AccountShown})
def show_account(request: HttpRequest) -> Any:
    """The signed-in person's account."""
    user = _person(request)
    return {
        "name": user.get_username(),
        "email": user.email,
        "mail": settings.MAIL_READY,
        "second_factor": accounts.has_second_factor(user),
        "administrator": user.is_superuser,
        "sessions": accounts.sessions(user, request.session.session_key),
        "tokens": [_token(one) for one in PersonalToken.objects.filter(user=user).prefetch_related("sites")],
    }


@router.put("/account/password", response={204: None})
def change_password(request: HttpRequest, payload: PasswordChanged) -> Status[None]:
    """Change one's password; other sessions end."""
    user = _person(request)
    _seldom(request, "password")
    accounts.change_password(user, payload.password, payload.new_password)
    update_session_auth_hash(request, user)
    accounts.note_session(request)  # the session key has changed
    return Status(204, None)


class EmailProved(Schema):
    email: str


@router.post("/account/email/proofs/{token}", auth=None, response={200: EmailProved})
def prove_email(request: HttpRequest, token: str) -> Any:
    """Confirm a mail address with the token that was mailed to it."""
    _seldom(request, "proof")
    return {"email": accounts.prove_email(token)}


@router.put("/account/email", response={204: None})
def set_email(request: HttpRequest, payload: EmailChanged) -> Status[None]:
    """Send a confirmation mail to an address; the address counts once its link was opened."""
    user = _person(request)
    _seldom(request, "password")
    accounts.set_email(user, payload.password, payload.email)
    return Status(204, None)


@router.put("/account/preferences", response={204: None})
def set_preferences(request: HttpRequest, payload: PreferencesShown) -> Status[None]:
    """Save the person's preferences."""
    accounts.set_preferences(_person(request), **payload.model_dump())
    return Status(204, None)


@router.get("/account/second-factor", response={200: FactorOffered})
def offer_second_factor(request: HttpRequest) -> Any:
    """A new secret for an authenticator app."""
    return accounts.offer_second_factor(_person(request))


@router.put("/account/second-factor", response={200: RecoveryCodesShown})
def begin_second_factor(request: HttpRequest, payload: FactorBegun) -> Any:
    """Turn on the second factor with a first code; returns recovery codes."""
    user = _person(request)
    _seldom(request, "password")
    return {"codes": accounts.begin_second_factor(user, payload.password, payload.secret, payload.code)}


@router.post("/account/second-factor/end", response={204: None})
def end_second_factor(request: HttpRequest, payload: Confirmed) -> Status[None]:
    """Turn off the second factor."""
    user = _person(request)
    _seldom(request, "password")
    accounts.end_second_factor(user, payload.password)
    return Status(204, None)


@router.delete("/account/sessions", response={204: None})
def end_other_sessions(request: HttpRequest) -> Status[None]:
    """End all your sessions except this one."""
    accounts.end_sessions(_person(request), request.session.session_key)
    return Status(204, None)


@router.delete("/account/sessions/{int:session_id}", response={204: None})
def end_session(request: HttpRequest, session_id: int) -> Status[None]:
    """Sign out another session."""
    accounts.end_sessions(_person(request), request.session.session_key, session_id)
    return Status(204, None)


@router.post("/account/tokens", response={201: TokenMade})
def add_token(request: HttpRequest, payload: TokenInput) -> Status[Any]:
    """Create an API token; it is shown once."""
    _, secret = tokens.add_token(actor(request), payload.name, payload.sites, payload.role, payload.ends_on)
    return Status(201, {"secret": secret})


@router.delete("/account/tokens/{int:token_id}", response={204: None})
def revoke_token(request: HttpRequest, token_id: int) -> Status[None]:
    """Revoke an API token."""
    tokens.revoke_token(actor(request), token_id)
    return Status(204, None)


@router.post("/account/reset", auth=None, response={204: None})
def ask_for_reset(request: HttpRequest, payload: ResetRequest) -> Status[None]:
    """Mail a password reset link; the answer is the same whether or not the account exists."""
    _seldom(request, "reset")
    accounts.ask_for_reset(payload.name)
    return Status(204, None)


@router.put("/account/reset", auth=None, response={204: None})
def reset_password(request: HttpRequest, payload: ResetInput) -> Status[None]:
    """Set a new password with a link from a reset mail."""
    _seldom(request, "reset")
    accounts.reset(payload.user, payload.token, payload.password)
    return Status(204, None)


def _seldom(request: HttpRequest, what: str) -> None:
    """Limit calls that guess or send mail to ten in fifteen minutes for each caller."""
    whose = str(request.user.pk) if request.user.is_authenticated else str(request.META.get("REMOTE_ADDR"))
    key = f"seldom-{what}-{whose}"
    if counted(key) >= REQUESTS_A_QUARTER:
        raise HttpError(429, "Too many requests. Wait fifteen minutes.")
    count(key)
