"""One thing whole over HTTP: a row, a page, a query, a clash, the site."""

from typing import Any

from django.http import HttpRequest
from django.utils import timezone
from ninja import Query, Router

from zugzwang.api import subject_schemas as s
from zugzwang.api.findings import ViewAsked, answer_to, asked_of, snapshot_of
from zugzwang.api.problems import PROBLEMS
from zugzwang.core.clicks.lenses import Lens
from zugzwang.findings.registry import FINDINGS
from zugzwang.plan.telling import tell_decided
from zugzwang.subjects.clash import tell_clash
from zugzwang.subjects.page import tell_page
from zugzwang.subjects.query import tell_query
from zugzwang.subjects.row import tell_field, tell_row
from zugzwang.subjects.standing import tell_standing

router = Router()


@router.get("/sites/{slug}/standing", response={200: s.Standing, **PROBLEMS})
def show_standing(request: HttpRequest, slug: str, asked: Query[ViewAsked]) -> Any:
    return tell_standing(snapshot_of(request, slug), asked_of(asked), timezone.localdate())


@router.get("/sites/{slug}/field", response={200: s.QueryField, **PROBLEMS})
def show_field(request: HttpRequest, slug: str, lens: Lens, asked: Query[ViewAsked]) -> Any:
    return tell_field(answer_to(request, slug, FINDINGS[lens], asked), lens)


@router.get("/sites/{slug}/rows/{int:page_id}/{int:query_id}", response={200: s.RowProof, **PROBLEMS})
def show_row(request: HttpRequest, slug: str, page_id: int, query_id: int, lens: Lens, asked: Query[ViewAsked]) -> Any:
    return tell_row(answer_to(request, slug, FINDINGS[lens], asked), lens, page_id, query_id)


@router.get("/sites/{slug}/pages/{int:page_id}", response={200: s.PageFile, **PROBLEMS})
def show_page(request: HttpRequest, slug: str, page_id: int, asked: Query[ViewAsked]) -> Any:
    snapshot = snapshot_of(request, slug)
    found = tell_page(snapshot, asked_of(asked), page_id, timezone.localdate())
    return {**found, "decided": tell_decided(snapshot.site, page_id)}


@router.get("/sites/{slug}/queries/{int:query_id}", response={200: s.QueryFile, **PROBLEMS})
def show_query(request: HttpRequest, slug: str, query_id: int, asked: Query[ViewAsked]) -> Any:
    return tell_query(snapshot_of(request, slug), asked_of(asked), query_id, timezone.localdate())


@router.get("/sites/{slug}/clashes/{int:query_id}", response={200: s.ClashFile, **PROBLEMS})
def show_clash(request: HttpRequest, slug: str, query_id: int, asked: Query[ViewAsked]) -> Any:
    return tell_clash(snapshot_of(request, slug), asked_of(asked), query_id, timezone.localdate())
