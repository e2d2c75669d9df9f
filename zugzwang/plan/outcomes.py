"""The result of a finished move, compared with control pages."""

from collections.abc import Iterable
from dataclasses import asdict
from datetime import date
from typing import Any

import polars as pl

from zugzwang.core.facts.periods import Period
from zugzwang.core.words import sentences
from zugzwang.core.worth.outcomes import Outcome, outcome, windows
from zugzwang.data import decided
from zugzwang.data.cache import cached
from zugzwang.data.models import Move, Trial
from zugzwang.data.snapshot import Setting, Snapshot
from zugzwang.errors import Conflict
from zugzwang.findings.view import ViewOptions, incomplete, settle
from zugzwang.plan import moves
from zugzwang.plan.units import USUAL_DAYS, Level, level_of, sides_of, unit_of
from zugzwang.plan.units import windows as windows_of_trial

Unit = tuple[int | None, int | None]
NAMES: dict[Level, str] = {"row": "rows", "page": "pages", "query": "queries"}


def outcome_of(snapshot: Snapshot, move: Move, today: date) -> dict[str, Any] | None:
    """The result of a finished move, compared with controls; None while it is too early, or where its subject had no
    impressions in those days.
    """
    days = snapshot.facts.days()
    spans = windows(move.made_on, days[-1]) if days and move.made_on else None
    if spans is None or move.made_on is None:
        return None
    before, after = spans
    setting = settle(snapshot, ViewOptions(first=before.first, last=before.last, compare="none"), today).setting
    touched = tuple(sorted(_touched(snapshot, move, Period(before.first, after.last)), key=str))
    found = _outcome(snapshot, setting, move.made_on, after.days // 7, (move.page_id, move.query_id), touched)
    if found is None:
        return None
    lacking = [
        warning for one, what in ((after, "After it"), (before, "Before it")) if (warning := incomplete(snapshot, one, what))
    ]
    return {
        **asdict(found),
        "periods": [{"first": str(one.first), "last": str(one.last)} for one in spans],
        "sentences": sentences.outcome(found, NAMES[level_of(move.page_id, move.query_id)]),
        "lacking": lacking,
    }


def measured(snapshot: Snapshot, move_id: int, today: date) -> dict[str, Any]:
    """The result of a move, to be saved. Raises Conflict while it is unknown."""
    move = moves.find(snapshot.site, move_id)
    found = outcome_of(snapshot, move, today) if move.state == "done" else None
    if found is None:
        message = "It is too early for a result."
        raise Conflict(message, "Say when it was done, and wait for three weeks of data.", ["state"])
    return found


def _touched(snapshot: Snapshot, move: Move, span: Period) -> set[Unit]:
    """What other moves and tests changed in those days."""
    every = decided.moves(snapshot.site)
    made = {
        (one.page_id, one.query_id)
        for one in every
        if one.id != move.id and one.made_on is not None and span.first <= one.made_on <= span.last
    }
    for trial in Trial.objects.filter(site=snapshot.site, dropped_at=None):
        first, last = windows_of_trial(trial.first_day, trial.weeks)
        if first.first <= span.last and last.last >= span.first:
            made |= {(page, query) for page, query in trial.changed}
    return made


@cached
def _outcome(
    snapshot: Snapshot, setting: Setting, made_on: date, weeks: int, subject: Unit, touched: tuple[Unit, ...]
) -> Outcome | None:
    level = level_of(*subject)
    sides = sides_of(snapshot, made_on, weeks, level, setting)
    others = _touched_units(sides["unit"], subject, touched)
    return outcome(sides, unit_of(*subject), others, 7 * weeks, 7 * weeks / USUAL_DAYS)


def _touched_units(units: pl.Series, subject: Unit, touched: Iterable[Unit]) -> list[int]:
    """The units that something changed: a page's rows with the page, a query's with the query; for a row, all rows of its
    page, because an edit for one query affects all.
    """
    own_page, own_query = subject
    pages = {page for page, _ in touched if page is not None} | ({own_page} if own_page is not None else set())
    queries = {query for page, query in touched if query is not None and (page is None or own_page is None)}
    rows = own_page is not None and own_query is not None
    frame = pl.DataFrame({"unit": units}).with_columns(
        page=pl.col("unit") // 2**32 if rows else pl.col("unit"), query=pl.col("unit") % 2**32 if rows else pl.col("unit")
    )
    clauses = []
    if own_page is not None:
        clauses.append(pl.col("page").is_in(list(pages)))
    if own_query is not None:
        clauses.append(pl.col("query").is_in(list(queries)))
    return frame.filter(pl.any_horizontal(clauses))["unit"].to_list()
