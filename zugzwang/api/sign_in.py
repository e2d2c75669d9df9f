"""Signing in: guesses are limited by address and by name apart, before a password is hashed, for hashing is slow on purpose.

Ten wrong guesses of one name from one address are axes' affair (settings). Beyond it: thirty wrong ones from one address,
whatever the names (spraying), a hundred of one name, wherever from. Hashing is done for one at a time, so that many at once
slow nobody down but each other.
"""

import threading
from urllib.parse import urlsplit

from django.conf import settings
from django.contrib.auth import authenticate
from django.contrib.auth.models import User
from django.http import HttpRequest, HttpResponse

from zugzwang.api.problems import FieldProblem, answer, locked_out
from zugzwang.data.counts import count, counted
from zugzwang.data.secrets import digest_of
from zugzwang.people.accounts import code_fits, has_second_factor

OF_ADDRESS, OF_NAME = 30, 100
WAIT_SECONDS = 1.0
_CODE = FieldProblem(field="code", message="The code of your second factor.")
_hashing = threading.Semaphore(1)
_waiting = threading.Semaphore(3)


def user_of(request: HttpRequest, name: str, password: str, code: str = "") -> User | HttpResponse:
    """The user of a name and a password, and of a second factor where one is asked for, or the answer that says why not."""
    if not _from_here(request):
        return answer(403, "The request did not come from a page of this application.", "Sign in on its own page.")
    counts = {f"sign-in-address-{request.META.get('REMOTE_ADDR')}": OF_ADDRESS, f"sign-in-name-{digest_of(name)}": OF_NAME}
    if any(counted(key) >= most for key, most in counts.items()):
        return locked_out(request)
    user = _authenticated(request, name, password)
    if isinstance(user, HttpResponse):
        return user
    lacking = None
    if user is not None and has_second_factor(user):
        if not code:
            # The password was right: what is missing is no guess.
            return answer(401, "Give the code of your second factor.", "Your authenticator shows it.", fields=[_CODE])
        if not code_fits(user, code):
            lacking, user = answer(401, "The code does not fit.", "Try the next one.", fields=[_CODE]), None
    if user is None:
        for key in counts:
            count(key)
        if getattr(request, "axes_locked_out", False):
            return locked_out(request)
        return lacking or answer(401, "Name and password do not match.", "Look at both and try again.")
    return user


def _authenticated(request: HttpRequest, name: str, password: str) -> User | HttpResponse | None:
    busy = answer(429, "Many are signing in just now.", "Try again in a few seconds.")
    if not _waiting.acquire(blocking=False):
        return busy
    try:
        if not _hashing.acquire(timeout=WAIT_SECONDS):
            return busy
        try:
            return authenticate(request, username=name, password=password)
        finally:
            _hashing.release()
    finally:
        _waiting.release()


def _from_here(request: HttpRequest) -> bool:
    """Whether a request can only have come from our own page, or from a program: other sites' forms cannot send JSON."""
    if request.content_type != "application/json":
        return False
    origin = request.headers.get("Origin")
    if origin is None:
        return True
    return urlsplit(origin).netloc == request.get_host() or origin in settings.CSRF_TRUSTED_ORIGINS
