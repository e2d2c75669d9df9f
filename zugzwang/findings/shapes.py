"""The types of nested values in rows and answers, over HTTP and in files."""

from datetime import date
from typing import Literal

from typing_extensions import TypedDict

from zugzwang.core.contest.leads import Resolution


class DecisionShown(TypedDict):
    """A decision, the texts of its subject, its author, and the move that carries it out."""

    id: int
    choice: str
    note: str
    decided_on: date
    by: str | None
    query_id: int | None
    page_id: int | None
    page: str | None
    query: str | None
    lead_id: int | None
    lead: str | None
    until: date | None
    move: int | None


class ClashDecision(DecisionShown):
    """The decision about a clash, and whether it lasted."""

    status: Literal["contested", "settled", "too early", "accepted"]
    settled_since: date | None
    sentence: str


class NoLongerClashing(TypedDict):
    """A query with a decision that does not clash in the period."""

    query: str
    query_id: int
    decision: ClashDecision


class ClashBetween(TypedDict):
    """A clash, by query and cost a month."""

    query: str
    query_id: int
    loss_month: float


class ClashOfGroup(ClashBetween):
    decided: Resolution | None


class PageNamed(TypedDict):
    page: str
    page_id: int


class PageGroup(TypedDict):
    """Overlapping pages; `clashes`: the queries that they compete for, `resolution`: the most frequent proposal (null:
    none)."""

    group: int
    pages: list[PageNamed]
    lead: str
    lead_id: int
    clashes: list[ClashOfGroup]
    still_open: int
    resolution: Resolution | None


class ChangeParts(TypedDict):
    clicks_before: float
    clicks_after: float
    demand: float  # shown, and rank or demand
    shown: float
    rank_or_demand: float
    device_mix: float
    rank: float
    snippet: float
    new_queries: float
    lost_queries: float
    anonymised: float


class ChangeSummary(ChangeParts):
    sentences: list[str]


class BlockCostShown(TypedDict):
    """The effect of a kind of SERP feature above the site's result: a factor on clicks with its interval; None where too few
    rows have it.
    """

    kind: str
    rows: int
    factor: float | None
    low: float | None
    high: float | None
    counts: bool
    sentence: str


class RivalShown(TypedDict):
    """A host above the site's result: for how many queries, and their searches a month."""

    host: str
    queries: int
    searches: float


class Cliff(TypedDict):
    """Pages that broke near one event or in one week; `by_chance`: the number expected by chance in as many weeks."""

    event: str | None
    event_day: date | None
    week: date
    fell: bool
    pages: list[str]
    by_chance: float
    beyond_chance: bool
    sentence: str


class SpellOut(TypedDict):
    """A page that was out of the results."""

    page: str
    page_id: int
    since: date
    back: date | None


class TypeShown(TypedDict):
    """`expected_bounce_rate`: of the type, or of all pages where it has too few; null where it is not judged."""

    type: str
    pages: int
    clicks: int
    impressions: int
    lost: float
    potential: float
    opportunity: float
    gain: float
    sessions: int | None
    bounces: int | None
    conversions: float | None
    value: float | None
    expected_bounce_rate: float | None
    compared_with: str | None
    bounce_more: int
    bounce_less: int
    exempt: list[str]


class Exchanged(TypedDict):
    """A page as a square: its share of authority – now, and after the suggested links – and of the opportunity, 0…1 of the
    site.
    """

    page: str
    page_id: int
    authority_share: float
    authority_after: float
    opportunity_share: float
    action: str


class GroupOfLinks(TypedDict):
    """The pages of a section or type together."""

    name: str
    pages: int
    wants_links: int
    authority_share: float
    opportunity_share: float
