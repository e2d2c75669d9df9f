"""What came of a move that was made, beside what nobody touched."""

from dataclasses import asdict
from datetime import date, timedelta
from typing import Any

import polars as pl

from zugzwang.core.facts.grains import PAGE, PAGE_QUERY, QUERY, Grain
from zugzwang.core.facts.periods import YEAR_SHIFT_DAYS, Period
from zugzwang.core.words import sentences
from zugzwang.core.worth.outcomes import Outcome, outcome, windows
from zugzwang.data import decided
from zugzwang.data.cache import kept
from zugzwang.data.models import Move
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Conflict
from zugzwang.findings.view import Asked, incomplete, settle
from zugzwang.plan import moves

USUAL_DAYS = 84  # twelve weeks before those compared, which tell what is usual for a row


def outcome_of(snapshot: Snapshot, move: Move, today: date) -> dict[str, Any] | None:
    """What came of a move that was made, beside the untouched; None while it is too early, or where its subject was never
    shown in those days."""
    days = snapshot.days()
    spans = windows(move.made_on, days[-1]) if days and move.made_on else None
    if spans is None:
        return None
    before, after = spans
    view = settle(snapshot, Asked(first=after.first, last=after.last), today)
    touched = _touched(snapshot, move, Period(before.first, after.last))
    found = _outcome(snapshot, view.setting.patterns, before, after, (move.page_id, move.query_id), touched)
    if found is None:
        return None
    lacking = [said for one, what in ((after, "After it"), (before, "Before it")) if (said := incomplete(snapshot, one, what))]
    return {
        **asdict(found),
        "periods": [{"first": str(one.first), "last": str(one.last)} for one in spans],
        "sentences": sentences.outcome(found, level_of(move)),
        "lacking": lacking,
    }


def measured(snapshot: Snapshot, move_id: int, today: date) -> dict[str, Any]:
    """What came of a move, to be kept on record. Conflict while it cannot be told."""
    move = moves.find(snapshot.site, move_id)
    found = outcome_of(snapshot, move, today) if move.state == "done" else None
    if found is None:
        message = "What came of it cannot be told yet."
        raise Conflict(message, "Say when it was done, and wait for three weeks of data.", ["state"])
    return found


def level_of(move: Move) -> str:
    """What a move is compared with: rows, pages or queries."""
    if move.page_id is None:
        return "queries"
    return "rows" if move.query_id is not None else "pages"


Unit = tuple[int | None, int | None]


def _touched(snapshot: Snapshot, move: Move, span: Period) -> tuple[Unit, ...]:
    """What other moves changed in those days."""
    every = decided.moves(snapshot.site)
    made = [one for one in every if one.made_on is not None and span.first <= one.made_on <= span.last]
    return tuple((one.page_id, one.query_id) for one in made if one.id != move.id)


@kept
def _outcome(
    snapshot: Snapshot,
    patterns: tuple[str, ...],
    before: Period,
    after: Period,
    subject: Unit,
    touched: tuple[Unit, ...],
) -> Outcome | None:
    page, query = subject
    grains: tuple[Grain, ...] = (PAGE_QUERY,)
    if page is None or query is None:
        grains = (QUERY if page is None else PAGE, PAGE_QUERY)
    for grain in grains:
        sides = [facts_of(snapshot, grain, period, patterns) for period in (before, after)]
        if sides[0].height and sides[1].height:
            break
    units = [with_unit(side, subject) for side in sides]
    unit = (page or 0) << 32 | (query or 0) if page and query else (page or query or 0)
    year = [facts_of(snapshot, grain, period.shifted(-YEAR_SHIFT_DAYS), patterns) for period in (before, after)]
    known = all(one.height for one in year)
    a_year_before = (with_unit(year[0], subject), with_unit(year[1], subject)) if known else None
    usual = Period(before.first - timedelta(days=USUAL_DAYS), before.first - timedelta(days=1))
    earlier = facts_of(snapshot, grain, usual, patterns)
    as_usual = with_unit(earlier, subject) if earlier.height else None
    others = _touched_units(units, subject, touched)
    return outcome(units[0], units[1], unit, others, before.days, a_year_before, as_usual)


def facts_of(snapshot: Snapshot, grain: Grain, period: Period, patterns: tuple[str, ...]) -> pl.DataFrame:
    """Facts without brand, which follows a trend of its own."""
    names = [name for name in ("page", "query") if name in grain.schema.names()]
    facts = snapshot.rows(grain, period, columns=("day", *names, "clicks", "impressions", "position"))
    if "query" not in names:
        return facts
    return facts.filter(~pl.col("query").is_in(snapshot.branded(patterns).implode()))


def with_unit(facts: pl.DataFrame, subject: Unit) -> pl.DataFrame:
    """Facts with the number of what a subject is one of: a row, a page, a query."""
    page, query = (pl.col(name).cast(pl.Int64) for name in ("page", "query"))
    if subject[0] is None:
        return facts.with_columns(unit=query)
    return facts.with_columns(unit=page * 2**32 + query if subject[1] is not None else page)


def _touched_units(sides: list[pl.DataFrame], subject: Unit, touched: tuple[Unit, ...]) -> list[int]:
    """The units that a move changed: a page's rows with the page, a query's with the query; of a row, all rows of its page, for
    what is done to a page for one query is done for all of them."""
    own_page, own_query = subject
    moved_pages = [page for page, _ in touched if page is not None] + [one for one in (own_page,) if one is not None]
    moved_queries = [query for page, query in touched if query is not None and (page is None or own_page is None)]
    told = pl.concat([side.select("unit", *(name for name in ("page", "query") if name in side.columns)) for side in sides])
    clauses = []
    if own_page is not None:
        clauses.append(pl.col("page").is_in(moved_pages))
    if own_query is not None:
        clauses.append(pl.col("query").is_in(moved_queries))
    return told.unique("unit").filter(pl.any_horizontal(clauses))["unit"].to_list()
