"""Decisions, moves, marks and saved views over HTTP. The list of moves is a finding (findings/moves.py)."""

from dataclasses import asdict
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Query, Router, Status

from zugzwang.api import plan_schemas as s
from zugzwang.api.findings import ViewParameters, options_of, snapshot_of
from zugzwang.api.problems import actor
from zugzwang.core.worth.moves import KINDS
from zugzwang.data import decided
from zugzwang.data.decided import Subject
from zugzwang.data.models import Move
from zugzwang.data.snapshot import Snapshot
from zugzwang.findings.moves import tell_made
from zugzwang.findings.shapes import DecisionShown
from zugzwang.plan import decisions, links, main_queries, moves, proposals, topics, views
from zugzwang.plan.decisions import Decided
from zugzwang.plan.outcomes import measured
from zugzwang.plan.telling import tell_move
from zugzwang.plan.trial_results import results_by_kind
from zugzwang.subjects.tasks import todo_calendar

router = Router()


def _subjects(payload: list[s.SubjectInput]) -> list[Subject]:
    return [Subject(one.page, one.query) for one in payload]


@router.get("/sites/{slug}/decisions", response={200: list[DecisionShown]})
def list_decisions(request: HttpRequest, slug: str) -> Any:
    """Decisions, latest first."""
    return [decided.decision_shown(one) for one in decided.in_force(actor(request).site(slug))]


@router.post("/sites/{slug}/decisions", response={201: list[DecisionShown]})
def decide(request: HttpRequest, slug: str, payload: s.DecisionInput) -> Status[Any]:
    """Decide about clashes, rows or pages."""
    result = Decided(_subjects(payload.subjects), payload.choice, payload.lead, payload.note, payload.until, payload.decided_on)
    return Status(201, [decided.decision_shown(one) for one in decisions.decide(actor(request), slug, result)])


@router.post("/sites/{slug}/decisions/taken-back", response={200: list[DecisionShown]})
def take_decisions_back(request: HttpRequest, slug: str, payload: s.Several) -> Any:
    """Undo decisions, all or none."""
    return [decided.decision_shown(one) for one in decisions.undo(actor(request), slug, payload.ids)]


@router.post("/sites/{slug}/planned-links", response={200: list[s.PlannedLinkShown]})
def decide_links(request: HttpRequest, slug: str, payload: s.LinksDecided) -> Any:
    """Accept suggested links, dismiss them for a reason, or reopen them, all or none."""
    result = [links.Suggested(**one.dict()) for one in payload.links]
    return links.decide(actor(request), slug, result, payload.choice, payload.note)


@router.post("/sites/{slug}/clashes/settle", response={201: list[DecisionShown]})
def settle_clashes(request: HttpRequest, slug: str, payload: s.SettledInput, options: Query[ViewParameters]) -> Status[Any]:
    """Decide clashes, and save what to do about each as a move."""
    to_do, today = {"effort": payload.effort, "who": payload.who, "due": payload.due}, timezone.localdate()
    if payload.choice is None:
        made = proposals.settle_as_proposed(
            actor(request), slug, options_of(options), payload.queries, payload.note, to_do, today
        )
    else:
        result = Decided([Subject(query=one) for one in payload.queries], payload.choice, payload.lead, payload.note)
        made = proposals.settle_clashes(actor(request), slug, options_of(options), result, to_do, today)
    return Status(201, [decided.decision_shown(one) for one in made])


@router.post("/sites/{slug}/moves/proposal", response={200: s.Proposal})
def propose_moves(request: HttpRequest, slug: str, payload: s.SubjectsInput, options: Query[s.FindingParameters]) -> Any:
    """Moves filled in for some rows; nothing is saved."""
    result = proposals.propose_together(
        snapshot_of(request, slug), options_of(options), _subjects(payload.subjects), options.finding, timezone.localdate()
    )
    return {**result, "kinds": KINDS, "worked": results_by_kind(actor(request).site(slug))}


@router.post("/sites/{slug}/moves", response={201: list[s.MoveRow]})
def make_moves(request: HttpRequest, slug: str, payload: s.MovesInput, options: Query[s.FindingParameters]) -> Status[Any]:
    """Save a move for each subject. Its expected gain is computed from the same view."""
    fields = payload.dict(exclude={"subjects"})
    subjects = list(dict.fromkeys(_subjects(payload.subjects)))
    today = timezone.localdate()
    made = proposals.make_moves(actor(request), slug, options_of(options), subjects, options.finding, fields, today)
    return Status(201, _made(request, slug, made))


@router.patch("/sites/{slug}/moves", response={200: list[s.MoveRow]})
def change_moves(request: HttpRequest, slug: str, payload: s.MovesChanged) -> Any:
    """Change the same fields of several moves, all or none of them."""
    fields = {name: value for name, value in payload.dict(exclude_unset=True).items() if name != "moves"}
    changed = moves.change_all(actor(request), slug, {one.id: one.seen for one in payload.moves}, fields)
    return _made(request, slug, changed)


@router.post("/sites/{slug}/moves/dropped", response={204: None})
def drop_moves(request: HttpRequest, slug: str, payload: s.Several) -> Status[None]:
    """Delete moves from the list, all or none."""
    moves.drop(actor(request), slug, payload.ids)
    return Status(204, None)


def _made(request: HttpRequest, slug: str, made: list[Move]) -> list[dict[str, Any]]:
    return tell_made(snapshot_of(request, slug), made, timezone.localdate())


@router.get("/sites/{slug}/moves/calendar", response={200: bytes})
def moves_calendar(request: HttpRequest, slug: str) -> HttpResponse:
    """Moves as to-dos of a calendar (iCalendar)."""
    snapshot = snapshot_of(request, slug)
    made = tell_made(snapshot, decided.moves(snapshot.site), timezone.localdate())
    disposition = f'attachment; filename="moves-{slug}.ics"'
    headers = {"Content-Disposition": disposition}
    return HttpResponse(todo_calendar(snapshot.site, made), content_type="text/calendar; charset=utf-8", headers=headers)


@router.get("/sites/{slug}/moves/{int:move_id}", response={200: s.MoveFile})
def show_move(request: HttpRequest, slug: str, move_id: int) -> Any:
    """A move with its result and history."""
    return tell_move(snapshot_of(request, slug), move_id, timezone.localdate())


@router.patch("/sites/{slug}/moves/{int:move_id}", response={200: s.MoveFile})
def change_move(request: HttpRequest, slug: str, move_id: int, payload: s.MoveChanged) -> Any:
    """Change fields of a move."""
    fields = {name: value for name, value in payload.dict(exclude_unset=True).items() if name != "seen"}
    moves.change(actor(request), slug, move_id, payload.seen, fields)
    return show_move(request, slug, move_id)


@router.post("/sites/{slug}/moves/{int:move_id}/outcome", response={200: s.MoveFile})
def keep_outcome(request: HttpRequest, slug: str, move_id: int) -> Any:
    """Save the result of a move."""
    snapshot = Snapshot(actor(request).site_to_change(slug))
    moves.keep_outcome(actor(request), slug, move_id, measured(snapshot, move_id, timezone.localdate()))
    return show_move(request, slug, move_id)


@router.post("/sites/{slug}/moves/{int:move_id}/restore", response={200: s.MoveFile})
def restore_move(request: HttpRequest, slug: str, move_id: int) -> Any:
    """Restore a deleted move."""
    moves.restore(actor(request), slug, move_id)
    return show_move(request, slug, move_id)


@router.put("/sites/{slug}/main-queries/{int:page_id}", response={204: None})
def choose_main_query(request: HttpRequest, slug: str, page_id: int, payload: s.MainQueryInput) -> Status[None]:
    """Set a page's main query; null returns to the query that its figures suggest."""
    main_queries.choose(actor(request), slug, page_id, payload.query_id)
    return Status(204, None)


@router.post("/sites/{slug}/topics", response={200: s.TopicEditShown})
def edit_topics(request: HttpRequest, slug: str, payload: s.TopicEditInput) -> Any:
    """Merge topics, split queries off, or rename or drop a topic."""
    return topics.edit(actor(request), slug, payload.kind, payload.queries, payload.name)


@router.get("/sites/{slug}/topics", response={200: list[s.TopicEditShown]})
def list_topic_edits(request: HttpRequest, slug: str) -> Any:
    """Edits of topics, newest first."""
    return topics.held(actor(request).site(slug))


@router.delete("/sites/{slug}/topics/{int:edit_id}", response={204: None})
def take_topic_edit_back(request: HttpRequest, slug: str, edit_id: int) -> Status[None]:
    """Undo an edit of topics."""
    topics.undo(actor(request), slug, edit_id)
    return Status(204, None)


@router.get("/sites/{slug}/people", response={200: list[str]})
def list_people(request: HttpRequest, slug: str) -> Any:
    """People who can be assigned a move."""
    return decided.people(actor(request).site(slug))


@router.get("/sites/{slug}/marks", response={200: list[decided.Mark]})
def list_marks(request: HttpRequest, slug: str) -> Any:
    """Marks of decisions and moves for rows, pages and queries."""
    return [asdict(one) for one in decided.marks(actor(request).site(slug), timezone.localdate())]


@router.get("/sites/{slug}/views", response={200: list[s.ViewShown]})
def list_views(request: HttpRequest, slug: str) -> Any:
    """Saved views."""
    return views.of_site(actor(request).site(slug))


@router.post("/sites/{slug}/views", response={201: s.ViewShown})
def save_view(request: HttpRequest, slug: str, payload: s.ViewInput) -> Status[Any]:
    """Save a view."""
    return Status(201, views.save(actor(request), slug, payload.name, payload.address))


@router.delete("/sites/{slug}/views/{int:view_id}", response={204: None})
def remove_view(request: HttpRequest, slug: str, view_id: int) -> Status[None]:
    """Delete a saved view."""
    views.remove(actor(request), slug, view_id)
    return Status(204, None)
