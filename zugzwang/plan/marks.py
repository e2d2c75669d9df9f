"""What is decided about which row, page or query, in one word: the latest move or decision on each that is in force."""

from dataclasses import dataclass
from datetime import date, datetime

import polars as pl

from zugzwang.core.moves import KINDS
from zugzwang.plan import moves
from zugzwang.plan.decisions import in_force
from zugzwang.store.models import Query, Site

WORDS = {"leave": "left alone", "aside": "set aside"}


@dataclass(frozen=True)
class Mark:
    """`word`: a move's state, a clash's resolution, "left alone" or "set aside"; `why`: what shall be done, or the reason."""

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
    """One mark a subject, the latest first. What was set aside until a day that has come is open again: no mark."""
    found = [
        Mark(one.page_id, one.query_id, WORDS.get(one.choice, one.choice), one.note, _name(one.user), one.until, None, one.id,
             one.made_at, _text(one.query))
        for one in in_force(site)
        if one.until is None or one.until > today
    ]  # fmt: skip
    found += [
        Mark(
            one.page_id,
            one.query_id,
            one.state,
            KINDS[one.kind],
            _name(one.who),
            one.due,
            one.id,
            None,
            one.made_at,
            _text(one.query),
        )
        for one in moves.of_site(site)
    ]
    latest: dict[tuple[int | None, int | None], Mark] = {}
    for mark in sorted(found, key=lambda one: one.made_at, reverse=True):
        latest.setdefault((mark.page, mark.query), mark)
    return list(latest.values())


def _name(user: object) -> str | None:
    return str(user) if user else None


def _text(query: Query | None) -> str | None:
    return query.text if query else None


def settled_rows(site: Site, today: date) -> tuple[pl.DataFrame, pl.Series]:
    """The rows (page, query) and the pages about which something is decided. A clash's decision settles no row."""
    held = marks(site, today)
    rows = [(one.page, one.query) for one in held if one.page and one.query]
    pages = [one.page for one in held if one.page and not one.query]
    return (
        pl.DataFrame(rows, schema={"page": pl.UInt32, "query": pl.UInt32}, orient="row"),
        pl.Series("page", pages, dtype=pl.UInt32),
    )


def settled_queries(site: Site, today: date) -> set[int]:
    """The queries about whose clash something is decided."""
    return {one.query for one in marks(site, today) if one.query and not one.page}
