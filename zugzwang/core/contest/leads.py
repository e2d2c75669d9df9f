"""The lead of a clash – the page that should own the query – and what to do about the others. These are proposals with
reasons; the analyst decides.

The lead is the contender with the most points; each criterion gives points to the best page only where it is clearly best:

  its subject     3   only this page covers the query closely (fit.py)
  clicks          2   50 % more than the next, and 10 or more
  position        1   at least one position better than the next
  conversions     1   50 % more than the next, and 3 or more
  links           1   50 % more sites or pages link to it than to the next, and 3 or more

A listing (its page type is exempt from queries) leads only where all contenders are listings. Equal points: more clicks,
then the better position. Points and bounds are our own choice, no source.

What to do, the first that applies:

  accept    a double: two results on page one are a strength
  retire    the other is a listing with few clicks from other queries: take it out of the index
  feed      the page with the most impressions is not about the query (understudy): link from it to the lead
  refocus   the other gets most clicks from its own queries, or its text differs: reword it; merging would cost clicks
  point     their texts are nearly the same: a canonical link to the lead
  unite     both are about the same subject: merge them into the lead
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from zugzwang.core.pages.fit import Fit

Resolution = Literal["unite", "point", "refocus", "feed", "retire", "accept"]
RESOLUTIONS: tuple[Resolution, ...] = ("unite", "point", "refocus", "feed", "retire", "accept")
HALF_MORE = 1.5
NEARLY_THE_SAME = 0.85
OWN_QUERIES = 0.5  # share of a page's clicks from its own queries
HARDLY_EARNS = 10  # clicks of the period from other queries


@dataclass(frozen=True)
class Contender:
    """A contender's criteria. None: unknown. `own_clicks`: from queries that the lead does not rank for."""

    page: int
    clicks: int
    position: float
    fit: Fit | None = None
    listing: bool = False
    conversions: float | None = None
    links: int | None = None
    clicks_in_all: int = 0
    own_clicks: int = 0


@dataclass(frozen=True)
class Lead:
    page: int
    reasons: tuple[str, ...]


def propose_lead(contenders: Sequence[Contender]) -> Lead:
    """The page that should own the query, of two or more contenders, and why."""
    own = [one for one in contenders if not one.listing] or contenders
    points = {one.page: 0 for one in own}
    reasons: dict[int, list[str]] = {one.page: ["it is not a listing"] if len(own) < len(contenders) else [] for one in own}

    def give(page: int | None, count: int, reason: str) -> None:
        if page in points:
            points[page] += count
            reasons[page].append(reason)

    close = [one.page for one in contenders if one.fit == "close"]
    if len(close) == 1 and all(one.fit is not None for one in contenders):
        give(close[0], 3, "only this page has the query's words in title, heading or address")
    give(_clear([(one.clicks, one.page) for one in contenders], 10), 2, "it gets most of the clicks")
    by_position = sorted((one.position, one.page) for one in contenders)
    if by_position[1][0] - by_position[0][0] >= 1:
        give(by_position[0][1], 1, "it ranks highest")
    give(_clear([(one.conversions, one.page) for one in contenders], 3), 1, "its visits convert most")
    give(_clear([(one.links, one.page) for one in contenders], 3), 1, "it has most referring links")
    best = max(own, key=lambda one: (points[one.page], one.clicks, -one.position, -one.page))
    why = reasons[best.page] or ["no clear difference; this page has more clicks, or ranks higher"]
    return Lead(best.page, tuple(why))


def _clear(values: Sequence[tuple[float | None, int]], at_least: float) -> int | None:
    """The page with clearly the largest value; None where a value is unknown or no page is clear."""
    known = sorted(((value, page) for value, page in values if value is not None), reverse=True)
    if len(known) < len(values) or known[0][0] < at_least or known[0][0] < HALF_MORE * known[1][0]:
        return None
    return known[0][1]


def propose_resolution(kind: str, other: Contender, say: float | None, much_the_same: float) -> tuple[Resolution, str]:
    """What to do about the strongest other contender, and why. `say`: the similarity of its text to the lead's (0…1; None:
    unknown); `much_the_same`: the threshold above which pages of this site are about one subject
    (overlapping_pages.say_alike).
    """
    if kind == "double listing":
        return "accept", "two results on page one, one of them in the top three, are worth more than one"
    if other.listing and other.own_clicks < HARDLY_EARNS:
        return "retire", "the other is a listing and hardly earns from other queries"
    if kind == "wrong page ranks":
        return "feed", "the page shown most is not about this query; link from it to the one that is"
    if other.clicks_in_all and other.own_clicks > OWN_QUERIES * other.clicks_in_all:
        return "refocus", "the other page earns most of its clicks from other queries, which merging would risk"
    if say is None:
        return "unite", "both rank for the same queries; compare their texts first, they were not crawled"
    if say >= NEARLY_THE_SAME:
        return "point", "their texts are nearly the same"
    if say >= much_the_same:
        return "unite", "both cover the same subject and rank for the same queries"
    return "refocus", "the other page is about something else, but its words match this query"


def settled_since(contested: Sequence[bool]) -> int | None:
    """After a decision: the first stretch (0 the first) from which pages no longer competed; None while they still do.

    >>> settled_since([True, True, False, False]), settled_since([True, False, True]), settled_since([])
    (2, None, None)
    """
    if not contested or contested[-1]:
        return None
    last = max((number for number, still in enumerate(contested) if still), default=-1)
    return last + 1
