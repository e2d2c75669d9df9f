"""Errors of the database and the disk, as messages for the person whose request met them."""

import errno

from django.db import DatabaseError, OperationalError

# SQLite's messages; SQLSTATE (PostgreSQL's documentation, appendix A, classes by two letters); errno.
BUSY = ("locked", "40001", "40P01", "55P03")
FULL = ("full", "53100", errno.ENOSPC, errno.EDQUOT)
READ_ONLY = ("readonly", "25006", errno.EROFS, errno.EACCES)
AWAY = ("08", "57", "53300", "no state")


def storage_words(error: BaseException | None) -> tuple[str, str] | None:
    """What is wrong and what to do where a database is locked, a disk full or read-only: nothing of the request is saved, and
    all continues by itself when the problem is over. None for other errors.
    """
    code = error.errno if isinstance(error, OSError) else _state(error)
    if code in BUSY:
        return "The database is busy with another change.", "Nothing was changed; try again in a minute."
    if code in FULL:
        return "The disk of this installation is full.", "Nothing was changed. Tell your administrator."
    if code in READ_ONLY:
        remedy = "Nothing was changed; reading still works. Tell your administrator."
        return "The data of this installation are read-only.", remedy
    if code in AWAY:
        return "The database cannot be reached.", "Nothing was changed; try again in a minute."
    return None


def _state(error: BaseException | None) -> str | None:
    """Which of the states above a database error shows."""
    if not isinstance(error, DatabaseError):
        return None
    cause = error.__cause__
    if cause is not None and hasattr(cause, "sqlstate"):
        state: str | None = cause.sqlstate
        if state is None:
            return "no state" if isinstance(error, OperationalError) else None  # the server did not respond
        return state[:2] if state[:2] in AWAY else state
    words = (word for word in ("locked", "full", "readonly") if word in str(error).lower())
    return next(words, None) if isinstance(error, OperationalError) else None
