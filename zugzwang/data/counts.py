"""How often something was done within a while, counted by all processes of all machines together."""

from django.core.cache import cache

QUARTER_HOUR = 900  # seconds


def counted(what: str) -> int:
    """How often, up to now; its seconds after the last time it is 0 again."""
    return int(cache.get(what, 0))


def forget(what: str) -> None:
    """Begin again at 0."""
    cache.delete(what)


def count(what: str, seconds: int = QUARTER_HOUR) -> None:
    """Once more. Two at the same moment may count as one."""
    cache.set(what, counted(what) + 1, seconds)
