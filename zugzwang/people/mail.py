"""Mail to people, sent by a worker, so neither the answer nor the time of a request reveals whether an account exists.

Tokens that let someone in are created when the mail is sent, and are in no task. Each address gets a limited number of
mails, whoever asks.
"""

import logging
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.contrib.auth.tokens import default_token_generator
from django.core import signing
from django.core.mail import send_mail
from django.db.models import Q
from django.utils import timezone
from django.utils.encoding import force_bytes
from django.utils.http import urlsafe_base64_encode
from django_tasks import task

from zugzwang.data.counts import count, counted, forget
from zugzwang.data.models import Invitation
from zugzwang.data.sealing import opened
from zugzwang.data.secrets import digest_of

DAY_SECONDS = 86_400
log = logging.getLogger(__name__)
FAILURE_SECONDS = 14 * DAY_SECONDS  # as long as an invitation is valid
WAIT_MINUTES = (1, 5, 30, 120, 720)  # waits before further attempts
TO_ONE_A_DAY = 10  # mails to one address, all kinds together
PROOF = "mail address"
ADDRESS_PROOF, RESET, INVITATION = "proof", "reset", "invitation"


@dataclass(frozen=True)
class Letter:
    to: str
    subject: str
    text: str


def send_later(kind: str, **about: Any) -> None:
    """Have a worker send a mail, if there is a mail server."""
    if settings.MAIL_READY:
        send.enqueue(kind, about)


@task()
def send(kind: str, about: dict[str, Any], attempt: int = 0, only: list[str] | None = None) -> None:
    """Send the letters of a kind, within the daily limit of each address. Retry those that the mail server refuses.

    `only`: digests of the addresses to retry; an address whose letter was sent gets it once. `failed` reports a refusal until a
    letter to that address is sent.
    """
    refused = []
    for one in _LETTERS[kind](**about):
        digest = digest_of(one.to.lower())
        if (only is None and counted(f"mail-to-{digest}") >= TO_ONE_A_DAY) or (only is not None and digest not in only):
            continue
        if only is None:
            count(f"mail-to-{digest}", DAY_SECONDS)
        try:
            send_mail(one.subject, one.text, settings.DEFAULT_FROM_EMAIL, [one.to])
        except OSError as error:  # SMTPException is one
            count(_failure(one.to), FAILURE_SECONDS)
            log.warning("The mail server refused a mail (%s, attempt %d): %s", kind, attempt + 1, error)
            refused.append(digest)
        else:
            forget(_failure(one.to))
    if refused and attempt < len(WAIT_MINUTES):
        later = timezone.now() + timedelta(minutes=WAIT_MINUTES[attempt])
        send.using(run_after=later).enqueue(kind, about, attempt + 1, refused)
    elif refused:
        log.error("Gave up %d mails (%s) after %d attempts", len(refused), kind, attempt + 1)


def failed(address: str) -> bool:
    """Whether the mail server refused the last mail to an address."""
    return counted(_failure(address)) > 0


def _failure(address: str) -> str:
    return f"mail-failed-{digest_of(address.lower())}"


def _here(path: str) -> str:
    return settings.ADDRESS.rstrip("/") + path


def _proof(user: int, email: str) -> Iterator[Letter]:
    stored = User.objects.filter(pk=user, is_active=True).first()
    if stored is not None:
        mark = signing.dumps([stored.pk, stored.email, email], salt=PROOF)
        text = (
            f"{stored.get_username()} added this mail address. If that was you, open this link within three days:\n"
            f"{_here(f'/proof/{mark}')}\n\nIf not, ignore this mail.\n"
        )
        yield Letter(email, "Is this your address?", text)


def _reset(name: str) -> Iterator[Letter]:
    found = User.objects.filter(Q(username=name) | Q(email__iexact=name), is_active=True).exclude(email="")
    for user in found[:5]:
        path = f"/reset/{urlsafe_base64_encode(force_bytes(user.pk))}/{default_token_generator.make_token(user)}"
        text = (
            f"Someone asked for a new password for {user.get_username()}. If it was you, open this address within three "
            f"days:\n{_here(path)}\n\nIf not, ignore this mail: nothing changes.\n"
        )
        yield Letter(user.email, "A new password", text)


def _invitation(invitation: int, who: str) -> Iterator[Letter]:
    stored = Invitation.objects.filter(id=invitation, taken_at=None, revoked_at=None).select_related("site").first()
    token = opened(stored.token) if stored is not None else ""
    if stored is not None and token:
        text = (
            f"{who} invites you to {stored.site.name} ({stored.site.address}) as {stored.role}.\n\n"
            f"Open this link by {stored.ends_on:%-d %B %Y}:\n"
            f"{_here(f'/invitation/{token}')}?proved={proof_of(stored)}\n"
        )
        yield Letter(stored.email, f"An invitation to {' '.join(stored.site.name.split())}", text)


def proof_of(invitation: Invitation) -> str:
    """The token that proves who reads an address's mail."""
    return signing.Signer(salt=PROOF).signature(f"{invitation.digest} {invitation.email}")


_LETTERS: dict[str, Callable[..., Iterator[Letter]]] = {ADDRESS_PROOF: _proof, RESET: _reset, INVITATION: _invitation}
