"""Moves: what was decided, by whom, until when, and the result."""

from collections.abc import Sequence
from datetime import date
from typing import Any

import polars as pl

from zugzwang.core.clicks.evidence import GRADES
from zugzwang.core.words import sentences
from zugzwang.core.worth.moves import EFFORT_HOURS, KINDS, OPEN, STATES, gain_for_effort, gain_together
from zugzwang.core.worth.outcomes import ready_on, windows
from zugzwang.data import decided
from zugzwang.data.models import Move
from zugzwang.data.snapshot import Snapshot
from zugzwang.findings.columns import EVIDENCE
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.view import View

AS_KEPT = (
    "finding", "reason", "gain", "gain_cautious", "evidence", "kind", "effort", "state", "note", "due", "made_on", "recrawl_on",
    "new_title", "new_description",
)  # fmt: skip


def shown(move: Move, last_day: date | None, today: date) -> dict[str, Any]:
    """A move for display. `ready`: it is done, and enough days have passed for a result; `ready_on`: when."""
    made_on = move.made_on if move.state == "done" else None
    return {
        "id": move.id,
        "version": move.version,
        "page_id": move.page_id,
        "query_id": move.query_id,
        "page": move.page.text if move.page else None,
        "query": move.query.text if move.query else None,
        **{name: getattr(move, name) for name in AS_KEPT},
        "kind_words": KINDS[move.kind],
        "who": move.who.get_username() if move.who else None,
        "by": move.user.get_username() if move.user else None,
        "made_at": move.made_at,
        "rank": gain_for_effort(move.gain_cautious, move.effort),
        "late": move.state in OPEN and move.due is not None and move.due < today,
        "ready": made_on is not None and last_day is not None and windows(made_on, last_day) is not None,
        "ready_on": ready_on(made_on) if made_on else None,
        "result_clicks": move.outcome["result_clicks"] if move.outcome else None,
        "outcome_evidence": move.outcome["evidence"] if move.outcome else None,
    }


def tell_made(snapshot: Snapshot, made: Sequence[Move], today: date) -> list[dict[str, Any]]:
    days = snapshot.facts.days()
    return [shown(one, days[-1] if days else None, today) for one in made]


_SCHEMA: dict[str, Any] = {
    "id": pl.Int64, "version": pl.Int64, "page_id": pl.UInt32, "query_id": pl.UInt32, "page": pl.String, "query": pl.String,
    "finding": pl.String, "reason": pl.String, "gain": pl.Float64, "gain_cautious": pl.Float64, "evidence": pl.Enum(GRADES),
    "kind": pl.String, "effort": pl.String, "state": pl.Enum(STATES), "note": pl.String, "due": pl.Date, "made_on": pl.Date,
    "recrawl_on": pl.Date,
    "new_title": pl.String, "new_description": pl.String,
    "kind_words": pl.String, "who": pl.String, "by": pl.String, "made_at": pl.Datetime("us", "UTC"), "rank": pl.Float64,
    "late": pl.Boolean, "ready": pl.Boolean, "ready_on": pl.Date, "result_clicks": pl.Float64,
    "outcome_evidence": pl.Enum(GRADES),
}  # fmt: skip


def find_moves(view: View) -> Found:
    """All moves by state, to do first, then by gain for effort."""
    result = tell_made(view.snapshot, decided.moves(view.site), view.today)
    rows = pl.DataFrame(result, schema=_SCHEMA)
    order = [pl.col("state").to_physical(), -pl.col("rank"), -pl.col("gain").fill_null(0.0), "id"]
    return Found(rows.sort(order), {"moves": rows.height})


def _of_state(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """`state`: one state, "open" for to do and in progress, "" for all."""
    state = view.options.state
    if not state:
        return rows
    return rows.filter(pl.col("state").cast(pl.String).is_in(list(OPEN) if state == "open" else [state]))


def _with_text(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    text = view.words.lower()
    if not text:
        return rows
    names = ("page", "query", "note", "who", "kind_words")
    holds = [pl.col(name).str.to_lowercase().str.contains(text, literal=True).fill_null(False) for name in names]
    return rows.filter(pl.any_horizontal(holds))


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    every = found.rows
    is_open = every.filter(pl.col("state").cast(pl.String).is_in(list(OPEN)))
    gains = is_open.select("page_id", "query_id", pl.col("gain_cautious").fill_null(0.0)).iter_rows()
    late, ready = int(is_open["late"].sum()), int(every["ready"].sum())
    return [sentences.moves(is_open.height, gain_together(gains), late, ready)]


def _extras(view: View, found: Found, rows: pl.DataFrame) -> dict[str, Any]:
    counted = found.rows.group_by(pl.col("state").cast(pl.String)).len()
    return {"by_state": dict(counted.iter_rows()), "people": decided.people(view.site)}


MOVES = Finding(
    name="moves",
    place=("moves", 1),
    title="Moves",
    question="What was decided, by whom, until when, and what came of it?",
    method="moves",
    claims=("move", "moves"),
    order="rank",
    makes=(),
    chooses=("state", "text"),
    columns=(
        Column("id", "count"),
        Column("version", "count"),
        Column("kind_words", "text", "what, on what", "task, with its query and page", shown="list", low=True),
        Column("page", "text", "page", "page of the move", null=True),
        Column("page_id", "count", null=True),
        Column("query", "text", "query", "query of the move", null=True),
        Column("query_id", "count", null=True),
        Column(
            "gain_cautious", "amount", "opportunity", "cautious gain in clicks a month, as estimated when the move was made",
            "clicks a month", "list", True,
        ),
        Column(
            "rank", "amount", "per hour", "cautious gain in clicks a month per hour of work", "clicks a month", "list"
        ),
        Column("state", "word", "state", "state of the draft", shown="list", choices=STATES, low=True),
        Column("due", "day", "who, due", "who does it, and the due date", shown="list", null=True, low=True),
        Column(
            "result_clicks", "amount", "result", "clicks a day beyond those of control pages; saved for good", "clicks a day",
            "list", True,
        ),
        Column("finding", "text", "", "the finding that it was made from"),
        Column("reason", "text", "", "why"),
        Column("gain", "amount", "", "clicks a month that it may bring", "clicks a month", null=True),
        EVIDENCE,
        Column("kind", "word", choices=tuple(KINDS)),
        Column("effort", "word", choices=tuple(EFFORT_HOURS)),
        Column("note", "text", "note", "note of the move"),
        Column("new_title", "text", "new title", "the new title"),
        Column("new_description", "text", "new description", "the new meta description"),
        Column("who", "text", "who", "who does it", null=True, low=True),
        Column("made_on", "day", "done on", "the day it was done", null=True),
        Column("recrawl_on", "day", "recrawl requested on", "day on which a recrawl was requested", null=True),
        Column("by", "text", "", "who made it", null=True),
        Column("made_at", "time", "", "when it was made"),
        Column("late", "flag", "", "it is due and not done"),
        Column("ready", "flag", "", "it can be measured"),
        Column("ready_on", "day", "", "when it can be measured", null=True),
        Column("outcome_evidence", "grade", "", "how sure its result is", null=True),
    ),
    find=find_moves,
    says=_says,
    extras=_extras,
    more={"by_state": dict[str, int], "people": list[str]},
    choose={"state": _of_state, "text": _with_text},
    plan=True,
    key=("id",),
)  # fmt: skip
