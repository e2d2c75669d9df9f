"""Moves, marks and saved views over HTTP."""

from dataclasses import asdict
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Query, Router, Status

from zugzwang.api import plan_schemas as s
from zugzwang.api.diagnosis import file_of, in_order
from zugzwang.api.diagnosis import given as arguments
from zugzwang.api.diagnosis_schemas import DecisionShown, SubjectGiven
from zugzwang.api.problems import PROBLEMS, actor
from zugzwang.api.schemas import ScopeAsked
from zugzwang.core.moves import KINDS
from zugzwang.desk import planning
from zugzwang.desk.scope import Scope
from zugzwang.plan import decisions, marks, moves, views
from zugzwang.plan.decisions import Decided, Subject

router = Router()


def _subjects(given: list[SubjectGiven]) -> list[Subject]:
    return [Subject(one.page, one.query) for one in given]


@router.get("/sites/{slug}/moves", response={200: s.Moves, **PROBLEMS})
def list_moves(request: HttpRequest, slug: str, asked: Query[s.MovesAsked]) -> Any:
    told = planning.tell_moves(actor(request).site(slug), asked.state, asked.text, timezone.localdate())
    rows = in_order(told["rows"], asked.sort, asked.descending)
    return {**told, "rows": rows[asked.offset : asked.offset + asked.limit], "total": len(rows)}


@router.post("/sites/{slug}/moves/proposal", response={200: s.Proposal, **PROBLEMS})
def propose_moves(request: HttpRequest, slug: str, given: s.SubjectsGiven, asked: Query[s.FoundAsked]) -> Any:
    site = actor(request).site(slug)
    told = planning.propose_all(site, Scope(**arguments(asked)), _subjects(given.subjects), asked.finding)
    return {**told, "kinds": KINDS}


@router.get("/sites/{slug}/moves/file", response={200: str, **PROBLEMS})
def export_moves(request: HttpRequest, slug: str, asked: Query[s.MovesFile]) -> HttpResponse:
    """All moves as a file, with what made the list inside."""
    site = actor(request).site(slug)
    found = planning.found_moves(site, asked.state, asked.text, timezone.localdate())
    return file_of(found, f"{slug}-moves-{timezone.localdate()}", asked.format)


@router.post("/sites/{slug}/moves", response={201: list[s.MoveShown], **PROBLEMS})
def make_moves(request: HttpRequest, slug: str, given: s.MovesGiven, asked: Query[s.FoundAsked]) -> Status[Any]:
    """Keep a move on each subject. What it may bring is told anew, by the scope asked for."""
    subjects = dict.fromkeys(_subjects(given.subjects))
    scope = Scope(**arguments(asked))
    made = planning.make_moves(actor(request), slug, scope, subjects, asked.finding, given.dict(exclude={"subjects"}))
    return Status(201, planning.tell_made(actor(request).site(slug), made, timezone.localdate()))


@router.post("/sites/{slug}/clashes/settle", response={201: list[DecisionShown], **PROBLEMS})
def settle_clashes(request: HttpRequest, slug: str, given: s.SettledGiven, asked: Query[ScopeAsked]) -> Status[Any]:
    """Decide on the clashes over queries, and keep what is to be done about each as a move."""
    scope = Scope(**arguments(asked))
    to_do = {"effort": given.effort, "who": given.who, "due": given.due}
    if given.choice is None:
        made = planning.settle_as_proposed(actor(request), slug, scope, given.queries, given.note, to_do)
    else:
        decided = Decided([Subject(query=one) for one in given.queries], given.choice, given.lead, given.note)
        made = planning.settle_clashes(actor(request), slug, scope, decided, to_do)
    return Status(201, [decisions.shown(one) for one in made])


@router.get("/sites/{slug}/moves/{int:move_id}", response={200: s.MoveFile, **PROBLEMS})
def show_move(request: HttpRequest, slug: str, move_id: int) -> Any:
    return _file(request, slug, move_id)


@router.patch("/sites/{slug}/moves/{int:move_id}", response={200: s.MoveFile, **PROBLEMS})
def change_move(request: HttpRequest, slug: str, move_id: int, given: s.MoveChanged) -> Any:
    fields = {name: value for name, value in given.dict(exclude_unset=True).items() if name != "seen"}
    moves.change(actor(request), slug, move_id, given.seen, fields)
    return _file(request, slug, move_id)


@router.patch("/sites/{slug}/moves", response={200: list[s.MoveShown], **PROBLEMS})
def change_moves(request: HttpRequest, slug: str, given: s.MovesChanged) -> Any:
    """Change the same fields of several moves, all or none of them."""
    fields = {name: value for name, value in given.dict(exclude_unset=True).items() if name != "moves"}
    changed = moves.change_all(actor(request), slug, {one.id: one.seen for one in given.moves}, fields)
    return planning.tell_made(actor(request).site(slug), changed, timezone.localdate())


@router.post("/sites/{slug}/moves/{int:move_id}/outcome", response={200: s.MoveFile, **PROBLEMS})
def keep_outcome(request: HttpRequest, slug: str, move_id: int) -> Any:
    """Keep on record what came of a move."""
    site = actor(request).site_to_change(slug)
    moves.keep_outcome(actor(request), slug, move_id, planning.measured(site, move_id))
    return _file(request, slug, move_id)


@router.delete("/sites/{slug}/moves/{int:move_id}", response={204: None, **PROBLEMS})
def drop_move(request: HttpRequest, slug: str, move_id: int) -> Status[None]:
    moves.drop(actor(request), slug, move_id)
    return Status(204, None)


@router.post("/sites/{slug}/moves/{int:move_id}/back", response={200: s.MoveFile, **PROBLEMS})
def put_move_back(request: HttpRequest, slug: str, move_id: int) -> Any:
    moves.put_back(actor(request), slug, move_id)
    return _file(request, slug, move_id)


def _file(request: HttpRequest, slug: str, move_id: int) -> dict[str, Any]:
    return planning.tell_move(actor(request).site(slug), move_id, timezone.localdate())


@router.get("/sites/{slug}/people", response={200: list[str], **PROBLEMS})
def list_people(request: HttpRequest, slug: str) -> Any:
    """Those to whom a move can be given."""
    return moves.people(actor(request).site(slug))


@router.get("/sites/{slug}/marks", response={200: list[s.MarkShown], **PROBLEMS})
def list_marks(request: HttpRequest, slug: str) -> Any:
    return [asdict(one) for one in marks.marks(actor(request).site(slug), timezone.localdate())]


@router.get("/sites/{slug}/views", response={200: list[s.ViewShown], **PROBLEMS})
def list_views(request: HttpRequest, slug: str) -> Any:
    return views.of_site(actor(request).site(slug))


@router.post("/sites/{slug}/views", response={201: s.ViewShown, **PROBLEMS})
def save_view(request: HttpRequest, slug: str, given: s.ViewGiven) -> Status[Any]:
    return Status(201, views.save(actor(request), slug, given.name, given.address))


@router.delete("/sites/{slug}/views/{int:view_id}", response={204: None, **PROBLEMS})
def remove_view(request: HttpRequest, slug: str, view_id: int) -> Status[None]:
    views.remove(actor(request), slug, view_id)
    return Status(204, None)
