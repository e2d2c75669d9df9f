"""Your own account: password, second factor, sessions; and password reset by mail.

The second factor (TOTP, RFC 6238) and recovery codes come from django-allauth, password reset from Django. Changing how you
sign in requires the password.
"""

import io
import time
from contextlib import suppress
from typing import Any
from zoneinfo import available_timezones

import pycountry
import qrcode
import qrcode.image.svg
from allauth.mfa.adapter import DefaultMFAAdapter, get_adapter
from allauth.mfa.models import Authenticator
from allauth.mfa.recovery_codes.internal.auth import RecoveryCodes
from allauth.mfa.totp.internal.auth import TOTP, generate_totp_secret, validate_totp_code
from allauth.usersessions.models import UserSession
from django.conf import settings
from django.contrib.auth.models import AnonymousUser, User
from django.contrib.auth.password_validation import validate_password
from django.contrib.auth.tokens import default_token_generator
from django.core import signing
from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import DatabaseError, transaction
from django.http import HttpRequest
from django.utils import timezone
from django.utils.encoding import force_str
from django.utils.http import urlsafe_base64_decode

from zugzwang.core.reports.blocks import LANGUAGES
from zugzwang.data.audit import note
from zugzwang.data.database_copy import without_waiting
from zugzwang.data.models import Preferences
from zugzwang.data.sealing import opened, sealed
from zugzwang.errors import Invalid, NotFound
from zugzwang.people import mail, tokens

Kind = Authenticator.Type
PROOF_SECONDS = 3 * 86_400
SEEN_SECONDS, SEEN_MOST = 600, 10_000


class SealedSecrets(DefaultMFAAdapter):  # type: ignore[misc]
    """Secrets of second factors are stored encrypted, like service tokens."""

    def encrypt(self, text: str) -> str:
        return sealed(text)

    def decrypt(self, encrypted_text: str) -> str:
        return opened(encrypted_text)


# --- passwords ------------------------------------------------------------------------------------------------------------


def confirm(user: User, password: str) -> None:
    if not user.check_password(password):
        raise Invalid("This is not your password.", "Enter the one you sign in with.", "password")


def change_password(user: User, old: str, new: str) -> None:
    confirm(user, old)
    _set(user, new, "new_password")


def set_email(user: User, password: str, email: str) -> None:
    """Start confirming a mail address: it counts once its link was opened."""
    confirm(user, password)
    try:
        validate_email(email.strip())
    except ValidationError:
        raise Invalid("This is not a mail address.", "Write it as name@host.example.", "email") from None
    if email.strip() == user.email:
        raise Invalid("This is already your mail address.", "Write another one.", "email")
    if not settings.MAIL_READY:
        raise Invalid(
            "This installation sends no mail, so no address can be confirmed.",
            "Ask your administrator to set ZUGZWANG_MAIL.",
            "email",
        )
    ask_for_proof(user, email.strip())


def ask_for_proof(user: User, email: str) -> None:
    mail.send_later(mail.ADDRESS_PROOF, user=user.pk, email=email)


def prove_email(token: str) -> str:
    """Accept a confirmed mail address; once, because the token depends on the previous address."""
    gone = NotFound("This link no longer works.", "Request a new one in your account.")
    try:
        number, before, email = signing.loads(token, salt=mail.PROOF, max_age=PROOF_SECONDS)
    except signing.BadSignature:
        raise gone from None
    with transaction.atomic():
        user = User.objects.filter(pk=number, email=before, is_active=True).first()
        if user is None or before == email:
            raise gone
        user.email = email
        user.save(update_fields=["email"])
        note(user, None, "mail address", email)
    return str(email)


def preferences_of(user: User | AnonymousUser) -> Preferences:
    """A person's reading preferences, with defaults."""
    stored = Preferences.objects.filter(user=user).first() if isinstance(user, User) else None
    return stored or Preferences()


def set_preferences(user: User, language: str, time_zone: str, currency: str, single_keys: bool) -> None:
    if language and language not in LANGUAGES:
        raise Invalid(f"“{language}” is not a supported language.", f"Choose one of: {', '.join(LANGUAGES)}.", "language")
    if time_zone and time_zone not in available_timezones():
        raise Invalid(f"“{time_zone}” is not a time zone.", "Write it as Europe/Berlin.", "time_zone")
    if currency and not pycountry.currencies.get(alpha_3=currency):
        raise Invalid(f"“{currency}” is not a currency.", "Write its three letters, such as EUR (ISO 4217).", "currency")
    result = {"language": language, "time_zone": time_zone, "currency": currency, "single_keys": single_keys}
    Preferences.objects.update_or_create(user=user, defaults=result)


def _set(user: User, password: str, field: str) -> None:
    try:
        validate_password(password, user)
    except ValidationError as error:
        raise Invalid(" ".join(error.messages), "Choose another one.", field) from None
    user.set_password(password)
    with transaction.atomic():
        user.save(update_fields=["password"])
        tokens.end_all_tokens(user)
        note(user, None, "password")


def ask_for_reset(name: str) -> None:
    """Mail a reset link to the account with this user name or mail address. A worker looks it up, so neither answer nor timing
    reveals whether it exists.
    """
    if settings.MAIL_READY and name.strip():
        mail.send_later(mail.RESET, name=name.strip()[:254])


def reset(user_mark: str, token: str, password: str) -> User:
    """Set a password by a mailed token; once, because the token depends on the old password. All sessions end."""
    gone = NotFound("This link no longer works.", "Request a new one.")
    try:
        user = User.objects.get(pk=force_str(urlsafe_base64_decode(user_mark)), is_active=True)
    except (ValueError, OverflowError, UnicodeDecodeError, User.DoesNotExist):
        raise gone from None
    if not default_token_generator.check_token(user, token):
        raise gone
    _set(user, password, "password")
    return user


# --- the second factor ----------------------------------------------------------------------------------------------------


def has_second_factor(user: User) -> bool:
    return bool(Authenticator.objects.filter(user=user, type=Kind.TOTP).exists())


def code_fits(user: User, code: str) -> bool:
    """Whether a code is the second factor's current one, or an unused recovery code. Either works once."""
    code = "".join(code.split())
    for one in Authenticator.objects.filter(user=user, type__in=(Kind.TOTP, Kind.RECOVERY_CODES)):
        check = TOTP(one) if one.type == Kind.TOTP else RecoveryCodes(one)
        if code and check.validate_code(code):
            return True
    return False


def offer_second_factor(user: User) -> dict[str, str]:
    """A secret for an authenticator application, and the same as a QR code (SVG). Nothing is saved yet."""
    secret = generate_totp_secret()
    drawn = qrcode.make(get_adapter().build_totp_url(user, secret), image_factory=qrcode.image.svg.SvgPathImage)
    stored = io.BytesIO()
    drawn.save(stored)
    return {"secret": secret, "picture": stored.getvalue().decode()}


def begin_second_factor(user: User, password: str, secret: str, code: str) -> list[str]:
    """Require a second factor from now on; returns its recovery codes."""
    confirm(user, password)
    if has_second_factor(user):
        raise Invalid("Two-factor sign-in is already on.", "End it first.", "code")
    try:
        fits = validate_totp_code(secret, "".join(code.split()))
    except (ValueError, UnicodeError):
        fits = False
    if not fits:
        raise Invalid("Wrong code.", "Check the clocks of both devices, and try the next code.", "code")
    TOTP.activate(user, secret)
    Authenticator.objects.filter(user=user, type=Kind.RECOVERY_CODES).delete()
    note(user, None, "second factor", "on")
    return list(RecoveryCodes.activate(user).get_unused_codes())


def end_second_factor(user: User, password: str) -> None:
    confirm(user, password)
    Authenticator.objects.filter(user=user).delete()
    note(user, None, "second factor", "off")


# --- sessions -------------------------------------------------------------------------------------------------------------


def note_session(request: HttpRequest) -> None:
    """Add the new session to the person's list."""
    UserSession.objects.create_from_request(request)


_seen_at: dict[str, float] = {}


def seen(request: HttpRequest) -> None:
    """Note that a session was used: once in ten minutes, and only where the database is free."""
    key, now = request.session.session_key, time.monotonic()
    if key is None or now - _seen_at.get(key, -SEEN_SECONDS) < SEEN_SECONDS:
        return
    if len(_seen_at) > SEEN_MOST:
        _seen_at.clear()
    _seen_at[key] = now
    with suppress(DatabaseError), without_waiting(), transaction.atomic():
        UserSession.objects.filter(session_key=key).update(last_seen_at=timezone.now())


def sessions(user: User, own_key: str | None) -> list[dict[str, Any]]:
    """A person's sessions, latest first."""
    stored = UserSession.objects.purge_and_list(user)
    result = [
        {"id": one.id, "address": one.ip, "agent": one.user_agent, "begun_at": one.created_at, "seen_at": one.last_seen_at,
         "own": one.session_key == own_key}
        for one in stored
    ]  # fmt: skip
    return sorted(result, key=lambda one: one["seen_at"], reverse=True)


def end_sessions(user: User, own_key: str | None, number: int | None = None) -> None:
    """End one session, or all but the current one."""
    stored = UserSession.objects.filter(user=user)
    stored = stored.filter(id=number) if number is not None else stored.exclude(session_key=own_key)
    for one in stored:
        one.end()
    note(user, None, "end sessions")
