"""Sign-in with limits on guessing, by address and by name separately, applied before the slow password hash.

axes (settings) blocks ten wrong guesses of one name from one address. This module adds: thirty wrong guesses from one
address whatever the names (spraying), and a hundred of one name from anywhere. As many passwords are hashed at once as
there are processors; other requests wait a few seconds and addresses take turns, so a flood of guesses locks out no one
else.
"""

import os

from django.contrib.auth import authenticate
from django.contrib.auth.models import User
from django.http import HttpRequest, HttpResponse

from zugzwang.api.problems import FieldProblem, answer, locked_out
from zugzwang.bounded import Turns
from zugzwang.data.counts import count, counted
from zugzwang.data.secrets import digest_of
from zugzwang.errors import Busy
from zugzwang.people.accounts import code_fits, has_second_factor

OF_ADDRESS, OF_NAME = 30, 100
WAIT_SECONDS = 6.0
_CODE = FieldProblem(field="code", message="The code from your authenticator app.")
_hashing = Turns(max(os.cpu_count() or 1, 2), line=8)


def user_of(request: HttpRequest, name: str, password: str, code: str = "") -> User | HttpResponse:
    """The user with this name, password and second factor (where required), or the response that says why not."""
    counts = {f"sign-in-address-{request.META.get('REMOTE_ADDR')}": OF_ADDRESS, f"sign-in-name-{digest_of(name)}": OF_NAME}
    if any(counted(key) >= most for key, most in counts.items()):
        return locked_out(request)
    user = _authenticated(request, name, password)
    if isinstance(user, HttpResponse):
        return user
    lacking = None
    if user is not None and has_second_factor(user):
        if not code:
            # The password was right, so a missing code is not a guess.
            return answer(401, "Enter the code from your authenticator app.", "The app shows it.", fields=[_CODE])
        if not code_fits(user, code):
            lacking, user = answer(401, "Wrong code.", "Try the next one.", fields=[_CODE]), None
    if user is None:
        for key in counts:
            count(key)
        if getattr(request, "axes_locked_out", False):
            return locked_out(request)
        return lacking or answer(401, "Name and password do not match.", "Check both and try again.")
    return user


def _authenticated(request: HttpRequest, name: str, password: str) -> User | HttpResponse | None:
    try:
        with _hashing.turn(WAIT_SECONDS, str(request.META.get("REMOTE_ADDR"))):
            return authenticate(request, username=name, password=password)
    except Busy:
        return answer(503, "Many people are signing in right now.", "Try again in a few seconds.")
