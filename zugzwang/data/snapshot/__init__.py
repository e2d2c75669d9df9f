"""A snapshot: a site's facts and rules at one version. The only access to blocks and everything derived from them.

Everything from a snapshot is cached under its version (cache.py) and shared by all processes of the machine. People's
decisions, moves and events are not part of it: they are joined afterwards (decided.py).
"""

from functools import cached_property

from zugzwang.core.facts.cleaning import Rules
from zugzwang.data.models import Site
from zugzwang.data.rules import rules_of
from zugzwang.data.snapshot.facts import Facts
from zugzwang.data.snapshot.links import Links
from zugzwang.data.snapshot.names import Names
from zugzwang.data.snapshot.pages import Pages
from zugzwang.data.snapshot.part import LISTED, WHOLE, Part, Setting
from zugzwang.data.snapshot.serps import HAS_SNIPPET, Serps

__all__ = ["HAS_SNIPPET", "LISTED", "WHOLE", "Part", "Setting", "Snapshot"]


class Snapshot:
    """Its parts share its key, and so one cache."""

    def __init__(self, site: Site) -> None:
        self.site = site
        self.facts = Facts(self)
        self.names = Names(self)
        self.pages = Pages(self)
        self.serps = Serps(self)
        self.links = Links(self)

    def __reduce__(self) -> tuple[type["Snapshot"], tuple[Site]]:
        return Snapshot, (self.site,)

    @property
    def key(self) -> tuple[int, int]:
        return self.site.id, self.site.data_version

    @cached_property
    def rules(self) -> Rules:
        return rules_of(self.site)
