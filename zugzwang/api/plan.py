"""Moves, marks and saved views over HTTP."""

from dataclasses import asdict
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Query, Router, Status

from zugzwang.api import plan_schemas as s
from zugzwang.api.diagnosis import file_of, given, in_order
from zugzwang.api.problems import PROBLEMS, actor
from zugzwang.core.moves import KINDS
from zugzwang.desk import planning
from zugzwang.desk.scope import Scope
from zugzwang.plan import marks, moves, views

router = Router()


def _propose(request: HttpRequest, slug: str, asked: s.SubjectAsked) -> dict[str, Any]:
    return planning.propose(actor(request).site(slug), Scope(**given(asked)), asked.page, asked.query, asked.finding)


@router.get("/sites/{slug}/moves", response={200: s.Moves, **PROBLEMS})
def list_moves(request: HttpRequest, slug: str, asked: Query[s.MovesAsked]) -> Any:
    told = planning.tell_moves(actor(request).site(slug), asked.state, asked.text, timezone.localdate())
    rows = in_order(told["rows"], asked.sort, asked.descending)
    return {**told, "rows": rows[asked.offset : asked.offset + asked.limit], "total": len(rows)}


@router.get("/sites/{slug}/moves/proposal", response={200: s.Proposal, **PROBLEMS})
def propose_move(request: HttpRequest, slug: str, asked: Query[s.SubjectAsked]) -> Any:
    return {**_propose(request, slug, asked), "kinds": KINDS, "people": moves.people(actor(request).site(slug))}


@router.get("/sites/{slug}/moves/file", response={200: str, **PROBLEMS})
def export_moves(request: HttpRequest, slug: str, asked: Query[s.MovesFile]) -> HttpResponse:
    """All moves as a file, with what made the list inside."""
    site = actor(request).site(slug)
    found = planning.found_moves(site, asked.state, asked.text, timezone.localdate())
    return file_of(found, f"{slug}-moves-{timezone.localdate()}", asked.format)


@router.post("/sites/{slug}/moves", response={201: s.MoveFile, **PROBLEMS})
def make_move(request: HttpRequest, slug: str, given: s.MoveGiven, asked: Query[s.SubjectAsked]) -> Status[Any]:
    """Keep a move. What it may bring is told anew, by the scope asked for."""
    actor(request).site_to_change(slug)
    told = _propose(request, slug, asked)
    names = ("page", "query", "finding", "reason", "gain", "gain_cautious", "evidence")
    planned = moves.Planned(**{name: told[name] for name in names}, fields=given.dict())
    move = moves.make(actor(request), slug, planned)
    return Status(201, _file(request, slug, move.id))


@router.get("/sites/{slug}/moves/{int:move_id}", response={200: s.MoveFile, **PROBLEMS})
def show_move(request: HttpRequest, slug: str, move_id: int) -> Any:
    return _file(request, slug, move_id)


@router.patch("/sites/{slug}/moves/{int:move_id}", response={200: s.MoveFile, **PROBLEMS})
def change_move(request: HttpRequest, slug: str, move_id: int, given: s.MoveChanged) -> Any:
    fields = {name: value for name, value in given.dict(exclude_unset=True).items() if name != "seen"}
    moves.change(actor(request), slug, move_id, given.seen, fields)
    return _file(request, slug, move_id)


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
