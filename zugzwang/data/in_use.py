"""Who uses the data folder: servers, workers and the clock lock it while they run, so nothing is restored underneath them."""

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.conf import settings

from zugzwang.errors import Conflict, Invalid

_open_files: list[int] = []


def _opened(path: Path) -> int:
    return os.open(path, os.O_RDWR | os.O_CREAT, 0o600)


def hold() -> None:
    """Lock the data folder until this process ends. A read-only folder is not locked."""
    try:
        file = _opened(settings.DATA_DIR / "in-use")
    except OSError:
        return
    fcntl.flock(file, fcntl.LOCK_SH)
    _open_files.append(file)


def take_turns(name: str) -> None:
    """Wait until no other process holds this named lock on the data folder, and hold it until this process ends."""
    try:
        file = _opened(settings.DATA_DIR / name)
    except OSError:
        return
    fcntl.flock(file, fcntl.LOCK_EX)
    _open_files.append(file)


@contextmanager
def alone() -> Iterator[None]:
    """No other process uses the data folder meanwhile. Raises Conflict where one does."""
    with locked(settings.DATA_DIR / "in-use", "Zugzwang is running on this data folder."):
        yield


@contextmanager
def locked(path: Path, else_: str) -> Iterator[None]:
    """No other process locks the file meanwhile. Raises Conflict with the given message where one does."""
    try:
        file = _opened(path)
    except PermissionError as error:
        owner = path.stat().st_uid if path.exists() else path.parent.stat().st_uid
        remedy = f"Give the folder to the user that runs Zugzwang (chown --recursive), or run this as {owner}."
        raise Invalid(f"{path} cannot be opened: it belongs to user {owner}.", remedy) from error
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(file)
        raise Conflict(else_, "Wait until it ends or stop it, then try again.", ["data"]) from None
    try:
        yield
    finally:
        os.close(file)
