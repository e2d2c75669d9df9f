"""Personal tokens for scripts. Each is shown once, stored as a digest, limited to some sites, and expires."""

from collections.abc import Sequence
from datetime import date, timedelta

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from zugzwang.access import Actor, Role
from zugzwang.data.audit import note
from zugzwang.data.models import PersonalToken, Site
from zugzwang.data.secrets import digest_of, new_secret
from zugzwang.errors import Invalid, NotAllowed, NotFound
from zugzwang.names import checked_name

MARK = "zz_"  # makes a token recognisable wherever it turns up
TOKENS_MAX, DAYS_MAX = 50, 366
USED_MINUTES = 5  # how often its use is recorded


def add_token(actor: Actor, name: str, slugs: Sequence[str], role: str, ends_on: date) -> tuple[PersonalToken, str]:
    """A token and its secret, which is never shown again."""
    user = _person(actor)
    today = timezone.localdate()
    name = checked_name(name, most=100)
    if role not in (Role.READER, Role.ANALYST):
        raise Invalid("A token is for reading, or for changes as an analyst.", "Choose reader or analyst.", "role")
    if not today <= ends_on <= today + timedelta(days=DAYS_MAX):
        raise Invalid("A token lasts at most a year.", "Choose another day.", "ends_on")
    if PersonalToken.objects.filter(user=user, revoked_at=None).count() >= TOKENS_MAX:
        raise Invalid(f"You have {TOKENS_MAX} tokens.", "Revoke some first.", "name")
    sites = [actor.site(slug) for slug in dict.fromkeys(slugs)]
    if not sites:
        raise Invalid("A token needs at least one site.", "Choose them.", "sites")
    secret = MARK + new_secret()
    with transaction.atomic():
        made = PersonalToken.objects.create(
            user=user, name=name, role=role, ends_on=ends_on, digest=digest_of(secret), begins=secret[:8]
        )
        made.sites.set(sites)
        for site in sites:
            note(user, site, "token", name, role=role, ends_on=str(ends_on), begins=made.begins)
    return made, secret


def revoke_token(actor: Actor, number: int) -> None:
    user = _person(actor)
    stored = PersonalToken.objects.filter(user=user, id=number).first()
    if stored is None:
        raise NotFound("This token does not exist.", "Check your tokens.")
    with transaction.atomic():
        stored.revoked_at = stored.revoked_at or timezone.now()
        stored.save(update_fields=["revoked_at"])
        for site in stored.sites.all():
            note(user, site, "revoke token", stored.name, begins=stored.begins)


def end_all_tokens(user: User) -> None:
    """End all of a person's tokens: after a password change, a stolen token must not work."""
    PersonalToken.objects.filter(user=user, revoked_at=None).update(revoked_at=timezone.now())


def end_tokens_of(user: User, site: Site) -> None:
    """Remove a site from a person's tokens permanently: after a new invitation they create new ones. A token without sites
    ends.
    """
    for entry in PersonalToken.objects.filter(user=user, sites=site, revoked_at=None):
        entry.sites.remove(site)
        if not entry.sites.exists():
            entry.revoked_at = timezone.now()
            entry.save(update_fields=["revoked_at"])


def token_of(secret: str) -> PersonalToken | None:
    """The token with a secret, while it is valid and its owner may sign in."""
    if not secret.startswith(MARK):
        return None
    stored = PersonalToken.objects.filter(digest=digest_of(secret)).select_related("user").first()
    now = timezone.now()
    if stored is None or stored.revoked_at is not None or stored.ends_on < timezone.localdate(now) or not stored.user.is_active:
        return None
    if stored.used_at is None or now - stored.used_at > timedelta(minutes=USED_MINUTES):
        PersonalToken.objects.filter(id=stored.id).update(used_at=now)
    return stored


def _person(actor: Actor) -> User:
    if actor.user is None or actor.token is not None:
        raise NotAllowed("Sign in to create and end tokens.", "Sign in first.")
    return actor.user
