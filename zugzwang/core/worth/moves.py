"""Moves: one thing to do for one page or query. Their kinds, efforts and states, and their order.

Rank: the cautious gain in clicks a month divided by the hours of effort. Both are estimates, used only for the order. There
are three efforts, because no one estimates more finely: an hour, a day (8 hours), a week (40 hours). Our own choice, no
source.

States: to do → in progress → done (on a day) → measured (its result is saved); or dismissed, with a reason.

A move on a page includes what its rows could gain. So a page's moves count once in total: the page's own gain, or the sum
of its rows' gains, whichever is larger; of several moves on one row the largest.

Example: a move for a page (40 clicks) and moves for two of its rows (30 and 20): together 50, not 90.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

from zugzwang.core.contest.leads import Resolution

Kind = Literal[
    "rewrite", "phrase", "answer", "deepen", "links", "write", "unite", "point", "refocus", "feed", "retire", "repair", "give",
    "other",
]  # fmt: skip
KINDS: Mapping[str, str] = {
    "rewrite": "rewrite title and description",
    "phrase": "add the query to the page",
    "answer": "add a short answer",
    "deepen": "improve the text",
    "links": "link to it from other pages",
    "write": "write a new page",
    "unite": "merge the pages into one",
    "point": "point a canonical link to the lead",
    "refocus": "reword the other page",
    "feed": "link to the lead from the others",
    "retire": "remove a page from the index",
    "repair": "fix broken links",
    "give": "add links to the page",
    "other": "something else",
}
Effort = Literal["hour", "day", "week"]
EFFORT_HOURS: Mapping[str, float] = {"hour": 1.0, "day": 8.0, "week": 40.0}
State = Literal["to do", "in progress", "done", "measured", "dismissed"]
STATES: tuple[State, ...] = ("to do", "in progress", "done", "measured", "dismissed")
OPEN: tuple[State, ...] = ("to do", "in progress")
DONE: tuple[State, ...] = ("done", "measured")

Lever = Literal["snippet", "rank", "unite", "all"]
# The move for a missing query, by what is to be done (core/words/missing_queries).
_BY_SAYING: Mapping[str, tuple[Kind, Effort]] = {
    "resolve the clash first": ("unite", "day"),
    "link to the page that covers it": ("links", "hour"),
    "write a page for it": ("write", "week"),
    "add it to the title": ("rewrite", "hour"),
    "add it as a heading, with a short answer": ("answer", "hour"),
}
_BY_LEVER: Mapping[str, tuple[Kind, Effort]] = {
    "snippet": ("rewrite", "hour"),
    "rank": ("deepen", "day"),
    "unite": ("unite", "day"),
}
_RESOLUTION_EFFORT: Mapping[Resolution, Effort] = {
    "unite": "day", "point": "hour", "refocus": "day", "feed": "hour", "retire": "hour", "accept": "hour"
}  # fmt: skip


@dataclass(frozen=True)
class Suggestion:
    """The move that a finding proposes."""

    kind: Kind
    effort: Effort
    lever: Lever


def suggested_by_lever(gains: Mapping[str, float]) -> Suggestion:
    """The move for a row or a page that no finding lists: its largest lever, with its whole opportunity."""
    return Suggestion(*_BY_LEVER[largest(gains)], "all")


def suggested_for_query(what_to_do: str) -> Suggestion:
    """The move for a query that its page mentions too little."""
    return Suggestion(*_BY_SAYING.get(what_to_do, ("phrase", "hour")), "all")


def suggested_for_clash(resolution: Resolution) -> Suggestion:
    """The move for a clash: its resolution; none for a clash that is best left as it is."""
    kind: Kind = "other" if resolution == "accept" else resolution
    return Suggestion(kind, _RESOLUTION_EFFORT[resolution], "unite")


def largest(gains: Mapping[str, float]) -> str:
    """The lever with the largest gain; the snippet where none has any."""
    return max(_BY_LEVER, key=lambda lever: gains.get(lever, 0.0))


def gain_for_effort(gain_cautious: float | None, effort: str) -> float:
    """The cautious gain in clicks a month for each hour of effort; 0 where no gain is known."""
    return (gain_cautious or 0.0) / EFFORT_HOURS[effort]


def gain_together(moves: Iterable[tuple[int | None, int | None, float]]) -> float:
    """The total gain of moves (page, query, gain), nothing counted twice."""
    rows: dict[tuple[int | None, int | None], float] = {}
    for page, query, gain in moves:
        rows[page, query] = max(rows.get((page, query), 0.0), gain)
    pages: dict[int | None, float] = {}
    for (page, query), gain in rows.items():
        if page is not None and query is not None:
            pages[page] = pages.get(page, 0.0) + gain
    for (page, query), gain in rows.items():
        if page is not None and query is None:
            pages[page] = max(pages.get(page, 0.0), gain)
    return sum(pages.values()) + sum(gain for (page, _), gain in rows.items() if page is None)
