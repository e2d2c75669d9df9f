"""How often something was done in the last quarter of an hour, counted by all processes of all machines together."""

from django.core.cache import cache


def counted(what: str) -> int:
    """How often, up to now; a quarter of an hour after the last time it is 0 again."""
    return int(cache.get(what, 0))


def count(what: str) -> None:
    """Once more. Two at the same moment may count as one."""
    cache.set(what, counted(what) + 1)
