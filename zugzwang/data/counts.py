"""Rate counters shared by all processes of all machines."""

from django.core.cache import cache

QUARTER_HOUR = 900  # seconds


def counted(what: str) -> int:
    """The count so far; it returns to 0 `seconds` after the last increment."""
    return int(cache.get(what, 0))


def forget(what: str) -> None:
    """Reset to 0."""
    cache.delete(what)


def count(what: str, seconds: int = QUARTER_HOUR) -> None:
    """Increment. Two at the same moment may count as one."""
    cache.set(what, counted(what) + 1, seconds)
