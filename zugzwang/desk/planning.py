"""Moves beside the facts: what one would bring, filled in from a finding; what came of one that was made."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, replace
from datetime import date
from functools import lru_cache
from typing import Any

import polars as pl
from django.db import transaction
from django.utils import timezone

from zugzwang.access import Actor
from zugzwang.core import sentences
from zugzwang.core.account import LEVERS
from zugzwang.core.evidence import GRADES
from zugzwang.core.grains import PAGE, PAGE_QUERY, QUERY, Grain
from zugzwang.core.headroom import target_position
from zugzwang.core.leads import RESOLUTIONS
from zugzwang.core.moves import (
    KINDS,
    OPEN,
    STATES,
    Asked,
    asked_by_clash,
    asked_by_page,
    asked_by_row,
    gain_for_effort,
    gain_together,
)
from zugzwang.core.moves import largest as largest_lever
from zugzwang.core.outcomes import Outcome, outcome, ready_on, windows
from zugzwang.core.periods import Period
from zugzwang.desk import clashing, frames
from zugzwang.desk.accounts import account_rows, page_entries, reasons_of
from zugzwang.desk.scope import Scope, Settled, incomplete, settle
from zugzwang.desk.sites import site_days
from zugzwang.errors import Conflict, Invalid, NotFound
from zugzwang.plan import moves
from zugzwang.plan.decisions import SUBJECTS_MAX, Decided, Subject, decide, in_force
from zugzwang.plan.decisions import shown as decision_shown
from zugzwang.plan.marks import WORDS as DECISION_WORDS
from zugzwang.store.models import Decision, Move, Page, Query, Site

AS_KEPT = (
    "finding", "reason", "gain", "gain_cautious", "evidence", "kind", "effort", "state", "note", "due", "made_on"
)  # fmt: skip
GRADED = {"snippet": "evidence", "rank": "rank_evidence", "unite": "clash_evidence"}


def propose(site: Site, scope: Scope, page: int | None, query: int | None, finding: str) -> dict[str, Any]:
    """A move, filled in: its kind and usual effort, what it would bring in clicks a month, and why. What a subject could bring
    is not always known (a branded row, one below the floor): its gain is None then, and the reason says so."""
    if page is None and query is None:
        raise Invalid("A move is about a page, a query or both.", "Say which.", "page")
    # What chooses rows and pages is put aside: the subject is chosen.
    scope = replace(scope, compare="none", section="", page_type=(), query_group=(), text="", evidence=GRADES, decided="any")
    settled = settle(site, replace(scope, position_from=None, position_to=None), branded="with")
    if page is None:
        asked, told = _of_clash(settled, query or 0)
    elif query is None:
        asked, told = _of_page(settled, page)
    else:
        asked, told = _of_row(settled, page, query, finding)
    return {
        "page": page,
        "query": query,
        "page_text": _text(settled, page, "page"),
        "query_text": _text(settled, query, "query"),
        "finding": finding,
        "kind": asked.kind,
        "effort": asked.effort,
        **told,
    }


def propose_all(site: Site, scope: Scope, subjects: Sequence[Subject], finding: str) -> dict[str, Any]:
    """Moves on several subjects, filled in: one as `propose` tells it; of several what they have in common (None: they differ)
    and what they bring together, nothing counted twice."""
    if not subjects or len(subjects) > SUBJECTS_MAX:
        raise Invalid("Moves are made of 1 to 500 things.", "Choose rows, pages or clashes.", "subjects")
    told = [propose(site, scope, one.page, one.query, finding) for one in dict.fromkeys(subjects)]
    if len(told) == 1:
        return {**told[0], "subjects": 1}
    gains = {
        name: gain_together((one["page"], one["query"], one[name] or 0.0) for one in told) for name in ("gain", "gain_cautious")
    }
    kinds, efforts = ({one[name] for one in told} for name in ("kind", "effort"))
    return {
        "subjects": len(told),
        "page_text": None,
        "query_text": None,
        "kind": kinds.pop() if len(kinds) == 1 else None,
        "effort": efforts.pop() if len(efforts) == 1 else None,
        **gains,
        "evidence": max((one["evidence"] for one in told), key=GRADES.index),
        "reason": sentences.proposals(len(told), sum(one["gain"] is None for one in told)),
    }


def make_moves(
    actor: Actor,
    slug: str,
    scope: Scope,
    subjects: Mapping[Subject, Decision | None],
    finding: str,
    fields: Mapping[str, Any],
) -> list[Move]:
    """Keep a move on each subject (beside the decision that it carries out), all or none; its gain is told anew by the scope. A
    kind or effort of None is the one proposed."""
    site = actor.site_to_change(slug)
    made = []
    with transaction.atomic():
        for subject, decision in subjects.items():
            told = propose(site, scope, subject.page, subject.query, finding)
            kind = fields["kind"] or told["kind"]
            usual = asked_by_clash(kind).effort if subject.is_clash and kind in RESOLUTIONS else told["effort"]
            chosen = {**fields, "kind": kind, "effort": fields["effort"] or usual}
            names = ("page", "query", "finding", "reason", "gain", "gain_cautious", "evidence")
            planned = moves.Planned(**{name: told[name] for name in names}, fields=chosen, decision=decision)
            made.append(moves.make(actor, slug, planned))
    return made


def settle_clashes(actor: Actor, slug: str, scope: Scope, decided: Decided, fields: Mapping[str, Any]) -> list[Decision]:
    """Decide on clashes and keep what is to be done about each as a move, all or none. Nothing is to be done where a clash is
    accepted or set aside."""
    with transaction.atomic():
        made = decide(actor, slug, decided)
        if decided.choice in RESOLUTIONS and decided.choice != "accept":
            subjects: dict[Subject, Decision | None] = {Subject(one.page_id, one.query_id): one for one in made}
            make_moves(actor, slug, scope, subjects, "clashes", {**fields, "kind": decided.choice, "note": decided.note})
    return made


def settle_as_proposed(
    actor: Actor, slug: str, scope: Scope, queries: Sequence[int], note: str, fields: Mapping[str, Any]
) -> list[Decision]:
    """Settle the clash over each query by the lead and the resolution that are proposed for it, all or none; what is decided
    already stays as it is."""
    site = actor.site_to_change(slug)
    made: list[Decision] = []
    with transaction.atomic():
        for query in dict.fromkeys(queries):
            clash = clashing.tell_clash(site, scope, query)["clash"]
            if clash["decision"] is None:
                decided = Decided([Subject(query=query)], clash["resolution"], clash["lead_id"], note)
                made += settle_clashes(actor, slug, scope, decided, fields)
    return made


def _text(settled: Settled, one: int | None, name: str) -> str | None:
    if one is None:
        return None
    words: type[Page] | type[Query] = Page if name == "page" else Query
    if not words.objects.filter(site=settled.site, id=one).exists():
        raise NotFound(f"The site has no such {name}.", "Choose from its lists.")
    return str(settled.named(pl.DataFrame({name: pl.Series([one], dtype=pl.UInt32)}), (name,))[f"{name}_text"][0])


def _of_row(settled: Settled, page: int, query: int, finding: str) -> tuple[Asked, dict[str, Any]]:
    held = page_entries(*settled.key, settled.period, settled.setting, settled.min_impressions, settled.scope.target)
    found = held.filter(pl.col("page") == page, pl.col("query") == query)
    if found.is_empty():
        return asked_by_row(finding, {}), {"gain": None, "gain_cautious": None, "evidence": "thin", "reason": sentences.NO_GAIN}
    row = found.to_dicts()[0]
    gains: dict[str, float] = {lever: row[lever] for lever in LEVERS}
    asked = asked_by_row(finding, gains)
    lever = largest_lever(gains) if asked.lever == "all" else asked.lever
    names = LEVERS if asked.lever == "all" else (asked.lever,)
    month = settled.month_share
    query_text = _text(settled, query, "query") or ""
    target = float(target_position(pl.Series([row["position"] or 1.0]).to_numpy(), settled.scope.target)[0])
    reason = (
        sentences.reason(lever, query_text, row[lever] * month, row["position"], target)
        if row[lever] * month >= 0.5
        else sentences.NO_GAIN
    )
    return asked, {
        "gain": sum(row[name] for name in names) * month,
        "gain_cautious": sum(min(row[name], row[f"{name}_cautious"]) for name in names) * month,
        "evidence": row[GRADED[lever]] or "thin",
        "reason": reason,
    }


def _of_page(settled: Settled, page: int) -> tuple[Asked, dict[str, Any]]:
    found = account_rows(settled).filter(pl.col("page") == page)
    if found.is_empty():
        return asked_by_page({}), {"gain": None, "gain_cautious": None, "evidence": "thin", "reason": sentences.NO_GAIN}
    account = found.to_dicts()[0]
    return asked_by_page({lever: account[lever] for lever in LEVERS}), {
        "gain": account["at_stake"] * settled.month_share,
        "gain_cautious": account["gain"] * settled.month_share,
        "evidence": account["evidence"],
        "reason": " ".join(reasons_of(settled, found["page"]).get(page, [])) or sentences.NO_GAIN,
    }


def _of_clash(settled: Settled, query: int) -> tuple[Asked, dict[str, Any]]:
    clash = clashing.tell_clash(settled.site, settled.scope, query)["clash"]
    month = settled.month_share
    return asked_by_clash(clash["resolution"]), {
        "gain": clash["loss"] * month,
        "gain_cautious": clash["loss_cautious"] * month,
        "evidence": clash["evidence"],
        "reason": f"{clash['sentence']} {clash['resolution_reason'].capitalize()}.",
    }


def tell_moves(site: Site, state: str, text: str, today: date) -> dict[str, Any]:
    """All moves, those to do first, of each state the most to gain for their effort first; `state`: one, "open" for those to
    do or under way, "" for all."""
    held = moves.of_site(site)
    rows = tell_made(site, held, today)
    by_state = {name: sum(row["state"] == name for row in rows) for name in dict.fromkeys(row["state"] for row in rows)}
    open_rows = [row for row in rows if row["state"] in OPEN]
    together = gain_together((row["page_id"], row["query_id"], row["gain_cautious"] or 0.0) for row in open_rows)
    late = sum(row["late"] for row in open_rows)
    kept = [row for row in rows if _is_asked(row, state, text.strip().lower())]
    kept.sort(key=lambda row: (STATES.index(row["state"]), -row["rank"], -(row["gain"] or 0.0), row["id"]))
    said = sentences.moves(len(open_rows), together, late, sum(row["ready"] for row in rows))
    return {"rows": kept, "by_state": by_state, "sentences": [said], "people": moves.people(site)}


def found_moves(site: Site, state: str, text: str, today: date) -> dict[str, Any]:
    """The moves with what a file of them needs to carry."""
    told = tell_moves(site, state, text, today)
    days = site_days(site)
    return {
        "lens": "moves",
        "site": site.slug,
        "period": {"from": str(days.first), "to": str(days.last)} if days else {},
        "compared_with": None,
        "filters": {"state": state or "any", "text": text},
        "sentences": told["sentences"],
        "behind": {"moves": len(told["rows"])},
        "missing": [],
        "lacking": [],
        "rows": [{**row, "made_at": row["made_at"].date()} for row in told["rows"]],
    }


def _is_asked(row: dict[str, Any], state: str, text: str) -> bool:
    if state and (row["state"] not in OPEN if state == "open" else row["state"] != state):
        return False
    return not text or any(text in (row[name] or "").lower() for name in ("page", "query", "note", "who"))


def tell_decided(site: Site, page: int) -> list[dict[str, Any]]:
    """What was decided about a page, its rows and the clashes that it shall lead, the latest first: moves, and decisions that
    no move carries out."""
    told = [
        {
            "on": timezone.localdate(one.made_at),
            "word": one.state,
            "what": KINDS[one.kind],
            "query": one.query.text if one.query else None,
            "note": one.note,
            "by": one.who.get_username() if one.who else None,
            "move": one.id,
            "came_of_it": one.outcome["came_of_it"] if one.outcome else None,
            "outcome_evidence": one.outcome["evidence"] if one.outcome else None,
        }
        for one in moves.of_site(site)
        if one.page_id == page or (one.decision is not None and one.decision.lead_id == page)
    ]
    for one in in_force(site):
        held = decision_shown(one)
        if held["move"] is None and page in (one.page_id, one.lead_id):
            names = ("query", "note", "by", "move")
            word = DECISION_WORDS.get(one.choice, one.choice)
            blank = {"what": "", "came_of_it": None, "outcome_evidence": None}
            told.append({**{name: held[name] for name in names}, **blank, "on": one.decided_on, "word": word})
    return sorted(told, key=lambda one: one["on"], reverse=True)


def tell_made(site: Site, made: Sequence[Move], today: date) -> list[dict[str, Any]]:
    days = site_days(site)
    return [shown(site, one, days.last if days else None, today) for one in made]


def shown(site: Site, move: Move, last_day: date | None, today: date) -> dict[str, Any]:
    """A move as it is told. `ready`: it is made, and enough days have come to tell what came of it; `ready_on`: when."""
    made_on = move.made_on if move.state == "made" else None
    return {
        "id": move.id,
        "version": move.version,
        "page_id": move.page_id,
        "query_id": move.query_id,
        "page": move.page.text if move.page else None,
        "query": move.query.text if move.query else None,
        **{
            name: getattr(move, name)
            for name in AS_KEPT
        },
        "kind_words": KINDS[move.kind],
        "who": move.who.get_username() if move.who else None,
        "by": move.user.get_username() if move.user else None,
        "made_at": move.made_at,
        "rank": gain_for_effort(move.gain_cautious, move.effort),
        "late": move.state in OPEN and move.due is not None and move.due < today,
        "ready": made_on is not None and last_day is not None and windows(made_on, last_day) is not None,
        "ready_on": ready_on(made_on) if made_on else None,
        "came_of_it": move.outcome["came_of_it"] if move.outcome else None,
        "outcome_evidence": move.outcome["evidence"] if move.outcome else None,
    }  # fmt: skip


def tell_move(site: Site, move_id: int, today: date) -> dict[str, Any]:
    """One move, a dropped one too, with who changed what, and what came of it: as kept on record, else as the data tell now."""
    move = moves.find(site, move_id, dropped=True)
    days = site_days(site)
    told = move.outcome
    if told is None and move.state == "made" and move.made_on is not None:
        told = outcome_of(site, move)
    return {
        **shown(site, move, days.last if days else None, today),
        "dropped": move.dropped_at is not None,
        "outcome": told,
        "decided": _decided(site, move),
        "waiting": _waiting(move, days.last if days else None),
        "history": moves.history(move),
        "people": moves.people(site),
    }


def _decided(site: Site, move: Move) -> str | None:
    """Of a move that carries out what was decided on a clash: who leads, and whether it is settled."""
    if move.decision is None or site_days(site) is None:
        return None
    status, since = clashing.standing(settle(site, Scope()), move.decision)
    led = f"{move.decision.lead.text} shall lead. " if move.decision.lead else ""
    return led + sentences.standing(status, since, clashing.STRETCH_DAYS)


def _waiting(move: Move, last_day: date | None) -> str | None:
    if move.state != "made" or move.made_on is None or (last_day and windows(move.made_on, last_day)):
        return None
    return sentences.outcome_waits(move.made_on, ready_on(move.made_on), last_day)


def outcome_of(site: Site, move: Move) -> dict[str, Any] | None:
    """What came of a move that was made, beside the untouched; None while it is too early, or where its subject was never
    shown in those days."""
    days = site_days(site)
    spans = windows(move.made_on, days.last) if days and move.made_on else None
    if spans is None:
        return None
    before, after = spans
    settled = settle(site, Scope(first=after.first, last=after.last))
    touched = _touched(site, move, Period(before.first, after.last))
    found = _outcome(*settled.key, settled.setting.patterns, before, after, (move.page_id, move.query_id), touched)
    if found is None:
        return None
    lacking = [said for one, what in ((after, "After it"), (before, "Before it")) if (said := incomplete(site, one, what))]
    return {
        **asdict(found),
        "periods": [{"first": str(one.first), "last": str(one.last)} for one in spans],
        "sentences": sentences.outcome(found, level_of(move)),
        "lacking": lacking,
    }


def level_of(move: Move) -> str:
    """What a move is compared with: rows, pages or queries."""
    if move.page_id is None:
        return "queries"
    return "rows" if move.query_id is not None else "pages"


Unit = tuple[int | None, int | None]


def _touched(site: Site, move: Move, span: Period) -> frozenset[Unit]:
    """What other moves changed in those days."""
    made = [one for one in moves.of_site(site) if one.made_on is not None and span.first <= one.made_on <= span.last]
    return frozenset((one.page_id, one.query_id) for one in made if one.id != move.id)


@lru_cache(maxsize=64)
def _outcome(
    site_id: int,
    version: int,
    patterns: tuple[str, ...],
    before: Period,
    after: Period,
    subject: Unit,
    touched: frozenset[Unit],
) -> Outcome | None:
    page, query = subject
    grains: tuple[Grain, ...] = (PAGE_QUERY,)
    if page is None or query is None:
        grains = (QUERY if page is None else PAGE, PAGE_QUERY)
    for grain in grains:
        sides = [_facts(site_id, version, grain, period, patterns) for period in (before, after)]
        if sides[0].height and sides[1].height:
            break
    units = [_with_unit(side, subject) for side in sides]
    unit = (page or 0) << 32 | (query or 0) if page and query else (page or query or 0)
    return outcome(units[0], units[1], unit, _touched_units(units, subject, touched), before.days)


def _facts(site_id: int, version: int, grain: Grain, period: Period, patterns: tuple[str, ...]) -> pl.DataFrame:
    """Facts without brand, which follows a trend of its own."""
    names = [name for name in ("page", "query") if name in grain.schema.names()]
    facts = frames.part_of(site_id, version, grain, period, columns=("day", *names, "clicks", "impressions", "position"))
    if "query" not in names:
        return facts
    return facts.filter(~pl.col("query").is_in(frames.branded(site_id, version, patterns).implode()))


def _with_unit(facts: pl.DataFrame, subject: Unit) -> pl.DataFrame:
    page, query = (pl.col(name).cast(pl.Int64) for name in ("page", "query"))
    if subject[0] is None:
        return facts.with_columns(unit=query)
    return facts.with_columns(unit=page * 2**32 + query if subject[1] is not None else page)


def _touched_units(sides: list[pl.DataFrame], subject: Unit, touched: frozenset[Unit]) -> list[int]:
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


def measured(site: Site, move_id: int) -> dict[str, Any]:
    """What came of a move, to be kept on record. Conflict while it cannot be told."""
    move = moves.find(site, move_id)
    found = outcome_of(site, move) if move.state == "made" else None
    if found is None:
        raise Conflict(
            "What came of it cannot be told yet.", "Say when it was made, and wait for three weeks of data.", ["state"]
        )
    return found
