"""Who works on the data folder: servers, workers and the clock hold a lock on it as long as they live, so that nothing is put
back underneath them."""

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager

from django.conf import settings

from zugzwang.errors import Conflict

_held: list[int] = []


def _opened() -> int:
    return os.open(settings.DATA_DIR / "in-use", os.O_RDWR | os.O_CREAT, 0o600)


def hold() -> None:
    """Say, until this process ends, that it works on the data folder. A folder that nothing can be written to is not held."""
    try:
        file = _opened()
    except OSError:
        return
    fcntl.flock(file, fcntl.LOCK_SH)
    _held.append(file)


@contextmanager
def alone() -> Iterator[None]:
    """Nobody else works on the data folder meanwhile. Conflict where somebody does."""
    file = _opened()
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(file)
        raise Conflict("Zugzwang is running on this data folder.", "Stop it first, then do this again.", ["data"]) from None
    try:
        yield
    finally:
        os.close(file)
