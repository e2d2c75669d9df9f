"""Everything about one move, and the decisions about a page."""

from datetime import date
from typing import Any

import polars as pl
from django.utils import timezone

from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.visits import CHANNELS
from zugzwang.core.words import sentences
from zugzwang.core.worth.moves import KINDS
from zugzwang.core.worth.outcomes import ready_on, windows
from zugzwang.data import decided
from zugzwang.data.models import Move, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.findings import clashes
from zugzwang.findings.accepted_links import ACCEPTED_LINKS
from zugzwang.findings.moves import shown
from zugzwang.findings.table import find, returned_rows
from zugzwang.findings.view import ViewOptions, settle
from zugzwang.plan import moves
from zugzwang.plan.outcomes import outcome_of


def tell_move(snapshot: Snapshot, move_id: int, today: date) -> dict[str, Any]:
    """One move, deleted ones included, with its history and its result: as saved, otherwise from the current data."""
    move = moves.find(snapshot.site, move_id, dropped=True)
    days = snapshot.facts.days()
    last_day = days[-1] if days else None
    outcome = move.outcome
    if outcome is None and move.state == "done" and move.made_on is not None:
        outcome = outcome_of(snapshot, move, today)
    return {
        **shown(move, last_day, today),
        "dropped": move.dropped_at is not None,
        "outcome": outcome,
        "decided": _decided(snapshot, move, today),
        "waiting": _waiting(move, last_day),
        "crawled": _crawled(snapshot, move),
        "history": moves.history(move),
        "people": decided.people(snapshot.site),
        "links": _links(snapshot, move, today),
    }


def _links(snapshot: Snapshot, move: Move, today: date) -> list[dict[str, Any]]:
    """The links of a move, and whether they are set."""
    if move.kind != "give" or not snapshot.facts.days():
        return []
    view = settle(snapshot, ViewOptions(), today)
    return returned_rows(view, ACCEPTED_LINKS, find(view, ACCEPTED_LINKS).rows.filter(pl.col("move") == move.id)).to_dicts()


def _decided(snapshot: Snapshot, move: Move, today: date) -> str | None:
    """For a move that carries out a decision on a clash: the lead, and whether it is settled."""
    if move.decision is None or not snapshot.facts.days():
        return None
    status, since = clashes.standing(settle(snapshot, ViewOptions(), today), move.decision)
    led = f"{move.decision.lead.text} should rank. " if move.decision.lead else ""
    return led + sentences.standing(status, since, clashes.STRETCH_DAYS)


def _waiting(move: Move, last_day: date | None) -> str | None:
    if move.state != "done" or move.made_on is None or (last_day and windows(move.made_on, last_day)):
        return None
    return sentences.outcome_waits(move.made_on, ready_on(move.made_on), last_day)


def _crawled(snapshot: Snapshot, move: Move) -> str | None:
    """When a search engine's crawler first fetched the page after the change; None without crawler data in access logs."""
    if move.page_id is None or move.made_on is None or not snapshot.facts.visit_days():
        return None
    last = max(snapshot.facts.visit_days())
    fetched = snapshot.facts.visits(Period(min(move.made_on, last), last)).filter(
        pl.col("channel") == CHANNELS.index("crawler")
    )
    if fetched.is_empty():
        return None
    days = fetched.filter(pl.col("page") == move.page_id)["day"]
    # On the day itself, before or after the change is unknown.
    after = days.filter(days > move.made_on)
    first = after.min() if after.len() else None
    return sentences.crawled(move.made_on, first if isinstance(first, date) else None, last)


def tell_decided(site: Site, page: int) -> list[dict[str, Any]]:
    """The decisions about a page, its rows and the clashes that it should lead, latest first: moves, and decisions without a
    move.
    """
    made = [
        {
            "on": timezone.localdate(one.made_at),
            "word": one.state,
            "what": KINDS[one.kind],
            "query": one.query.text if one.query else None,
            "note": one.note,
            "by": one.who.get_username() if one.who else None,
            "move": one.id,
            "result_clicks": one.outcome["result_clicks"] if one.outcome else None,
            "outcome_evidence": one.outcome["evidence"] if one.outcome else None,
        }
        for one in decided.moves(site)
        if one.page_id == page or (one.decision is not None and one.decision.lead_id == page)
    ]
    for one in decided.in_force(site):
        stored = decided.decision_shown(one)
        if stored["move"] is None and page in (one.page_id, one.lead_id):
            names = ("query", "note", "by", "move")
            word = decided.WORDS.get(one.choice, one.choice)
            blank = {"what": "", "result_clicks": None, "outcome_evidence": None}
            made.append({**{name: stored[name] for name in names}, **blank, "on": one.decided_on, "word": word})
    return sorted(made, key=lambda one: one["on"], reverse=True)
