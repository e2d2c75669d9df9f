"""Members of a site: invitations, single-use addresses to join, roles; and the site itself: renamed, archived, deleted,
restored.
"""

from collections.abc import Sequence
from datetime import timedelta

from django.conf import settings
from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import IntegrityError, transaction
from django.utils import timezone
from django.utils.crypto import constant_time_compare

from zugzwang.access import RANKS, Actor
from zugzwang.changing import changes_site
from zugzwang.data.audit import note
from zugzwang.data.models import Connection, Invitation, Job, Membership, ReportTemplate, Site
from zugzwang.data.sealing import opened, sealed
from zugzwang.data.secrets import digest_of, new_secret
from zugzwang.errors import Invalid, NotFound, TooMany
from zugzwang.names import checked_name
from zugzwang.people import accounts, mail, tokens

INVITED_DAYS, INVITATIONS_MAX, DELETED_DAYS = 14, 100, 30
TO_ONE_A_DAY, OF_ONE_A_DAY = 3, 50  # invitations, over all sites
Role = Membership.Role


# --- members --------------------------------------------------------------------------------------------------------------


def members(site: Site) -> list[Membership]:
    """The members of a site, owners first."""
    stored = Membership.objects.filter(site=site).select_related("user")
    return sorted(stored, key=lambda one: (-RANKS[Role(one.role)], one.user.get_username()))


@changes_site(own=True)
def set_role(actor: Actor, site: Site, number: int, role: str) -> Membership:
    member = _member(site, number)
    _known_role(role)
    _leave_an_owner(site, member, role)
    before, member.role = member.role, role
    member.save(update_fields=["role"])
    note(actor.user, site, "role", member.user.get_username(), before=before, after=role)
    return member


def remove(actor: Actor, slug: str, number: int) -> None:
    """Remove a member; you can always leave yourself, but the last owner stays."""
    site = actor.site(slug)
    member = _member(site, number)
    if actor.token is not None or member.user != actor.user:
        site = actor.site_to_own(slug)
    with transaction.atomic():
        _leave_an_owner(site, member, None)
        member.delete()
        tokens.end_tokens_of(member.user, site)
        note(actor.user, site, "remove member", member.user.get_username(), role=member.role)


def _member(site: Site, number: int) -> Membership:
    member = Membership.objects.filter(site=site, id=number).select_related("user").first()
    if member is None:
        raise NotFound("This member does not exist.", "Check the list of members.")
    return member


def _leave_an_owner(site: Site, member: Membership, role: str | None) -> None:
    Site.objects.select_for_update().get(id=site.id)
    others = Membership.objects.filter(site=site, role=Role.OWNER).exclude(id=member.id)
    if member.role == Role.OWNER and role != Role.OWNER and not others.exists():
        raise Invalid("This is the site's last owner.", "Make someone else an owner first.", "role")


def _known_role(role: str) -> None:
    if role not in Role.values:
        raise Invalid(f"“{role}” is not a role.", f"Roles: {', '.join(Role.values)}.", "role")


# --- invitations ----------------------------------------------------------------------------------------------------------


def invitations(site: Site) -> list[Invitation]:
    """Pending invitations."""
    return list(
        Invitation.objects.filter(site=site, taken_at=None, revoked_at=None, ends_on__gte=timezone.localdate())
    )  # fmt: skip


def path_of(invitation: Invitation) -> str:
    token = opened(invitation.token)
    return f"/invitation/{token}" if token else ""


@changes_site(own=True)
def invite(actor: Actor, site: Site, email: str, role: str) -> Invitation:
    """Invite someone; the address is mailed if there is a mail server, and can be copied in any case."""
    _known_role(role)
    email = email.strip()
    try:
        validate_email(email)
    except ValidationError:
        raise Invalid(f"“{email[:100]}” is not a mail address.", "Write it as name@host.example.", "email") from None
    if Membership.objects.filter(site=site, user__email__iexact=email).exists():
        raise Invalid(f"{email} is already a member.", "Change the role in the list.", "email")
    if len(invitations(site)) >= INVITATIONS_MAX:
        raise Invalid(f"{INVITATIONS_MAX} invitations are open.", "Revoke some first.", "email")
    _refuse_flood(actor, email)
    token = new_secret()
    Invitation.objects.filter(site=site, email__iexact=email, taken_at=None, revoked_at=None).update(revoked_at=timezone.now())
    made = Invitation.objects.create(
        site=site, email=email, role=role, digest=digest_of(token), token=sealed(token), user=actor.user,
        ends_on=timezone.localdate() + timedelta(days=INVITED_DAYS),
    )  # fmt: skip
    note(actor.user, site, "invite", email, role=role)
    mail.send_later(mail.INVITATION, invitation=made.id, who=actor.name if actor.user else "The operator")
    return made


def _refuse_flood(actor: Actor, email: str) -> None:
    """Raises TooMany where someone invites, or is invited, too often in a day, over all sites: each invitation is a mail with
    the inviter's words.
    """
    today = Invitation.objects.filter(made_at__gt=timezone.now() - timedelta(days=1))
    if today.filter(email__iexact=email).count() >= TO_ONE_A_DAY:
        message = f"{email} was invited {TO_ONE_A_DAY} times today."
        raise TooMany(message, "Copy the link of the open invitation and send it yourself, or wait until tomorrow.")
    if actor.user is not None and today.filter(user=actor.user).count() >= OF_ONE_A_DAY:
        raise TooMany(f"You sent {OF_ONE_A_DAY} invitations today.", "Go on tomorrow.")


@changes_site(own=True)
def revoke_invitation(actor: Actor, site: Site, number: int) -> None:
    stored = Invitation.objects.filter(site=site, id=number, taken_at=None).first()
    if stored is None:
        raise NotFound("This invitation does not exist.", "It may have been accepted: check the members.")
    stored.revoked_at = timezone.now()
    stored.save(update_fields=["revoked_at"])
    note(actor.user, site, "revoke invitation", stored.email)


def find_invitation(token: str) -> Invitation:
    stored = Invitation.objects.filter(digest=digest_of(token)).select_related("site", "user").first()
    if (
        stored is None or stored.taken_at is not None or stored.revoked_at is not None or stored.ends_on < timezone.localdate()
        or stored.site.deleted_at is not None
    ):  # fmt: skip
        raise NotFound("This invitation is no longer valid.", "Ask the sender for a new one.")
    return stored


def take(token: str, user: User) -> Site:
    """Accept an invitation; an existing member keeps the higher of both roles."""
    with transaction.atomic():
        invitation = find_invitation(token)
        taken = Invitation.objects.filter(id=invitation.id, taken_at=None).update(taken_at=timezone.now(), taken_by=user)
        if not taken:
            raise NotFound("This invitation was just accepted.", "Ask the sender for a new one.")
        stored, made = Membership.objects.get_or_create(
            site=invitation.site, user=user, defaults={"role": invitation.role}
        )  # fmt: skip
        if not made and RANKS[Role(invitation.role)] > RANKS[Role(stored.role)]:
            stored.role = invitation.role
            stored.save(update_fields=["role"])
        note(user, invitation.site, "join", invitation.email, role=invitation.role)
    return invitation.site


def take_as_new(token: str, username: str, password: str, proof: str = "") -> User:
    """Create an account for an invited person, and make it a member. The mail address counts where the mailed link was opened;
    otherwise a confirmation mail is sent.
    """
    invitation = find_invitation(token)
    proved = constant_time_compare(proof, mail.proof_of(invitation))
    user = User(username=username.strip(), email=invitation.email if proved else "")
    try:
        user.clean_fields(exclude=["password"])
        validate_password(password, user)
    except ValidationError as error:
        raise Invalid(" ".join(error.messages), "Choose another one.", "password") from None
    user.set_password(password)
    try:
        with transaction.atomic():
            user.save()
            take(token, user)
    except IntegrityError:
        raise Invalid("This user name is taken.", "Choose another one, or sign in if it is yours.", "username") from None
    if not proved and settings.MAIL_READY:
        accounts.ask_for_proof(user, invitation.email)
    return user


# --- the site itself ------------------------------------------------------------------------------------------------------


@changes_site(own=True)
def rename(actor: Actor, site: Site, name: str) -> Site:
    name = checked_name(name)
    note(actor.user, site, "settings", "name", before=site.name, after=name)
    site.name = name
    site.save(update_fields=["name"])
    return site


@changes_site(own=True)
def archive(actor: Actor, site: Site, back: bool = False) -> Site:
    """Make a site read-only – no changes, refreshes or scheduled reports – or active again."""
    site.archived_at = None if back else timezone.now()
    site.save(update_fields=["archived_at"])
    if not back:
        Connection.objects.filter(site=site).update(nightly=False)
        ReportTemplate.objects.filter(site=site).update(schedule="", begins=None)
    note(actor.user, site, "take up" if back else "archive", site.name)
    return site


@changes_site(own=True)
def delete_site(actor: Actor, site: Site) -> Site:
    """Delete a site; its owners can restore it for thirty days, then it is deleted permanently."""
    site.deleted_at = timezone.now()
    site.save(update_fields=["deleted_at"])
    Invitation.objects.filter(site=site, taken_at=None, revoked_at=None).update(revoked_at=timezone.now())
    waiting = Job.objects.filter(site=site, state=Job.State.WAITING)
    waiting.update(state=Job.State.CANCELLED, ended_at=timezone.now(), outcome={"message": "The site was deleted."})
    Job.objects.filter(site=site, state=Job.State.RUNNING).update(cancel_requested=True)
    note(actor.user, site, "delete site", site.name)
    return site


def deleted_sites(actor: Actor) -> Sequence[Site]:
    return [one for one in actor.sites(deleted=True) if actor.may_own(one)]


def restore_site(actor: Actor, slug: str) -> Site:
    site = next((one for one in deleted_sites(actor) if one.slug == slug), None)
    if site is None:
        raise NotFound(f"There is no deleted site “{slug}” that you can restore.", "Check the list of sites.")
    site.deleted_at = None
    with transaction.atomic():
        site.save(update_fields=["deleted_at"])
        note(actor.user, site, "put site back", site.name)
    return site
