"""People's current decisions: decisions in force, moves, and one mark for each subject. Read here, written in plan/.

They are not part of a snapshot: they are joined to its results under their own version (`Site.plan_version`), which every
write renews.
"""

from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

import polars as pl
from django.contrib.auth.models import User
from django.db.models import Q

from zugzwang.core.contest.leads import RESOLUTIONS
from zugzwang.core.worth.moves import KINDS
from zugzwang.data.models import Decision, MainQuery, Membership, Move, PlannedLink, Query, Site, next_version

SUBJECTS_MAX = 500
WORDS = {"dismiss": "dismissed", "snooze": "snoozed"}


def plan_changed(site: Site) -> None:
    """Note that a decision was written."""
    Site.objects.filter(id=site.id).update(plan_version=next_version())


@dataclass(frozen=True)
class Subject:
    """A row (page and query), a page (without a query) or the clash over a query (without a page)."""

    page: int | None = None
    query: int | None = None

    @property
    def is_clash(self) -> bool:
        return self.page is None


@dataclass(frozen=True)
class Mark:
    """`word`: a move's state, a clash's resolution, "dismissed" or "snoozed"; `why`: the task, or the reason."""

    page: int | None
    query: int | None
    word: str
    why: str
    by: str | None
    until: date | None
    move: int | None
    decision: int | None
    made_at: datetime
    query_text: str | None


def marks(site: Site, today: date) -> list[Mark]:
    """One mark for each subject, the latest first. A snooze that has ended leaves no mark."""
    found = [
        Mark(one.page_id, one.query_id, WORDS.get(one.choice, one.choice), one.note, _name(one.user), one.until, None, one.id,
             one.made_at, _text(one.query))
        for one in in_force(site)
        if one.until is None or one.until > today
    ]  # fmt: skip
    found += [
        Mark(one.page_id, one.query_id, one.state, KINDS[one.kind], _name(one.who), one.due, one.id, None, one.made_at,
             _text(one.query))
        for one in moves(site)
    ]  # fmt: skip
    latest: dict[Subject, Mark] = {}
    for mark in sorted(found, key=lambda one: one.made_at, reverse=True):
        latest.setdefault(Subject(mark.page, mark.query), mark)
    return list(latest.values())


def _name(user: User | None) -> str | None:
    return user.get_username() if user else None


def _text(query: Query | None) -> str | None:
    return query.text if query else None


def settled_rows(site: Site, today: date) -> tuple[pl.DataFrame, pl.Series]:
    """The rows (page, query) and pages with a decision. A decision on a clash settles no row."""
    current = marks(site, today)
    rows = [(one.page, one.query) for one in current if one.page and one.query]
    pages = [one.page for one in current if one.page and not one.query]
    return (
        pl.DataFrame(rows, schema={"page": pl.UInt32, "query": pl.UInt32}, orient="row"),
        pl.Series("page", pages, dtype=pl.UInt32),
    )


def settled_queries(site: Site, today: date) -> pl.Series:
    """The queries whose clash is decided."""
    current = [one.query for one in marks(site, today) if one.query and not one.page]
    return pl.Series("query", current, dtype=pl.UInt32)


def in_force(site: Site) -> list[Decision]:
    """The decision in force for each subject, latest first."""
    current: dict[Subject, Decision] = {}
    cached = Decision.objects.filter(site=site, taken_back_at=None)
    for one in cached.select_related("user", "page", "query", "lead").prefetch_related("moves"):
        current.setdefault(Subject(one.page_id, one.query_id), one)
    return list(current.values())


def resolved(site: Site) -> dict[int, Decision]:
    """The resolution of the clash over each query."""
    current = [one for one in in_force(site) if one.page_id is None and one.choice in RESOLUTIONS]
    return {one.query_id: one for one in current if one.query_id is not None}


def decision_shown(one: Decision) -> dict[str, Any]:
    """A decision for display: its fields, the texts of its subject, the name of its author as `by`, and the `move` that
    carries it out.
    """
    names = ("id", "choice", "note", "decided_on", "query_id", "page_id", "lead_id", "until")
    about = {name: thing.text if (thing := getattr(one, name)) else None for name in ("page", "query", "lead")}
    move = next((move.id for move in one.moves.all() if move.dropped_at is None), None)
    return {**{name: getattr(one, name) for name in names}, **about, "move": move, "by": _name(one.user)}


def moves(site: Site) -> list[Move]:
    return list(Move.objects.filter(site=site, dropped_at=None).select_related("page", "query", "who", "user", "decision"))


def planned_links(site: Site) -> list[PlannedLink]:
    """The decisions about links, in the order in which they were first made."""
    return list(PlannedLink.objects.filter(site=site).select_related("source", "target", "user", "move"))


def chosen_main_queries(site: Site) -> dict[int, int]:
    """The main queries that people chose: page → query."""
    return dict(MainQuery.objects.filter(site=site).values_list("page_id", "query_id"))


def people(site: Site) -> list[str]:
    """The names of those who may change the site, and so can be assigned a move."""
    analysts = Q(memberships__site=site, memberships__role__in=[Membership.Role.ANALYST, Membership.Role.OWNER])
    return sorted(User.objects.filter(analysts | Q(is_superuser=True)).distinct().values_list("username", flat=True))
