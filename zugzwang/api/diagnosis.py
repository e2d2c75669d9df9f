"""The diagnoses over HTTP: rows in windows with what a reader needs to judge them, one page's file, decisions, exports."""

import json
from collections.abc import Mapping
from datetime import date
from functools import lru_cache
from typing import Any

from django.db.models import Count, Max, Sum
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Query, Router, Schema, Status

from zugzwang.api import diagnosis_schemas as s
from zugzwang.api.problems import PROBLEMS, actor
from zugzwang.api.schemas import PeriodShown, ScopeAsked
from zugzwang.core import sentences
from zugzwang.core.periods import Period
from zugzwang.desk import accounts, clashing, findings, methods, planning, query_files, scope, standing
from zugzwang.desk.findings import Details, Diagnosis, Finding
from zugzwang.desk.scope import Scope, Settled
from zugzwang.desk.told import Told
from zugzwang.errors import Invalid
from zugzwang.exporting import csv_lines, xlsx_file
from zugzwang.plan import decisions
from zugzwang.store.models import Decision, Event, Move, Site

router = Router()
KINDS = {
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "json": "application/json",
}


def given(asked: Schema, question: type[Scope] = Scope) -> dict[str, Any]:
    """What was asked, as the arguments of a scope or question."""
    names = question.__dataclass_fields__
    return {name: tuple(value) if isinstance(value, list) else value for name, value in asked.dict().items() if name in names}


def shown_period(site: Site, period: Period | None, what: str) -> PeriodShown | None:
    if period is None:
        return None
    return PeriodShown(
        first=period.first,
        last=period.last,
        days=period.days,
        sentence=sentences.period(period),
        missing=scope.incomplete(site, period, what),
    )


@lru_cache(maxsize=16)
def _told(stamp: tuple[Any, ...], site_id: int, diagnosis: Diagnosis, asked: Scope, today: date, details: Details) -> Told:
    """A diagnosis, kept while nothing that it depends on has changed (`stamp`)."""
    del stamp
    return findings.tell(Site.objects.get(id=site_id), diagnosis, asked, today, details)


def _stamp(site: Site) -> tuple[Any, ...]:
    """What a diagnosis depends on beside what is asked: facts and rules, settings, events, decisions, moves."""
    settings = json.dumps([site.brand_patterns, site.min_impressions, site.own_curve])
    events = Event.objects.filter(site=site).aggregate(Count("id"), Max("id"))
    decided = Decision.objects.filter(site=site).aggregate(Count("id"), Max("taken_back_at"))
    moves = Move.objects.filter(site=site).aggregate(Count("id"), Sum("version"), Count("dropped_at"))
    return site.data_version, settings, *events.values(), *decided.values(), *moves.values()


def tell(
    request: HttpRequest, slug: str, diagnosis: Diagnosis, asked: s.DiagnosisAsked, details: Details | None = None
) -> dict[str, Any]:
    """A window of a diagnosis' rows, in the order asked for, with what stands beside them."""
    site = actor(request).site(slug)
    told = _told(_stamp(site), site.id, diagnosis, Scope(**given(asked)), timezone.localdate(), details or Details())
    settled = told.settled
    rows = in_order(told.rows, asked.sort, asked.descending)
    return {
        **told.more,
        **_periods(site, settled),
        "sentences": told.sentences,
        "behind": told.behind,
        "lacking": told.lacking,
        "month_share": settled.month_share,
        "total": len(rows),
        "offset": asked.offset,
        "rows": rows[asked.offset : asked.offset + asked.limit],
    }


def in_order(rows: list[dict[str, Any]], sort: str, descending: bool) -> list[dict[str, Any]]:
    """The rows by a column, those that have none of it last; ties as they came."""
    if not sort or not rows:
        return rows
    if sort not in rows[0] or isinstance(rows[0][sort], list | dict):
        known = ", ".join(name for name, cell in rows[0].items() if not isinstance(cell, list | dict))
        raise Invalid(f"The rows have no column “{sort}” to be sorted by.", f"Columns: {known}.", "sort")
    having = [row for row in rows if row[sort] is not None]
    lacking = [row for row in rows if row[sort] is None]
    return sorted(having, key=lambda row: _sortable(row[sort]), reverse=descending) + lacking


def _sortable(cell: Any) -> Any:
    return cell.lower() if isinstance(cell, str) else cell


def _named(row: Mapping[str, Any], name: str) -> dict[str, Any]:
    """A row under the general `name` in place of what it was added up by."""
    return {**row, "name": row[name], "name_id": row.get(f"{name}_id")}


@router.get("/sites/{slug}/facets", response={200: s.Facets, **PROBLEMS})
def show_facets(request: HttpRequest, slug: str) -> Any:
    return scope.facets(actor(request).site(slug))


@lru_cache(maxsize=16)
def _standing(stamp: tuple[Any, ...], site_id: int, asked: Scope) -> dict[str, Any]:
    """Where the site stands, kept while nothing that it depends on has changed (`stamp`)."""
    del stamp
    return standing.tell_standing(Site.objects.get(id=site_id), asked)


@router.get("/sites/{slug}/standing", response={200: s.Standing, **PROBLEMS})
def show_standing(request: HttpRequest, slug: str, asked: Query[ScopeAsked]) -> Any:
    site = actor(request).site(slug)
    told = _standing(_stamp(site), site.id, Scope(**given(asked)))
    return {**told, **_periods(site, told["settled"])}


def _periods(site: Site, settled: Settled) -> dict[str, PeriodShown | None]:
    return {
        "period": shown_period(site, settled.period, "The period"),
        "before": shown_period(site, settled.before, "The period compared with"),
    }


@router.get("/sites/{slug}/clashes", response={200: s.Clashes, **PROBLEMS})
def list_clashes(request: HttpRequest, slug: str, asked: Query[s.DiagnosisAsked]) -> Any:
    return tell(request, slug, "clashes", asked)


@router.get("/sites/{slug}/clashes/{int:query_id}", response={200: s.ClashFile, **PROBLEMS})
def show_clash(request: HttpRequest, slug: str, query_id: int, asked: Query[ScopeAsked]) -> Any:
    return clashing.tell_clash(actor(request).site(slug), Scope(**given(asked)), query_id)


@router.get("/sites/{slug}/topic-folds", response={200: s.TopicFolds, **PROBLEMS})
def list_topic_folds(request: HttpRequest, slug: str, asked: Query[s.DiagnosisAsked]) -> Any:
    return tell(request, slug, "topic-folds", asked)


@router.get("/sites/{slug}/change", response={200: s.Changes, **PROBLEMS})
def list_changes(request: HttpRequest, slug: str, asked: Query[s.ChangeAsked]) -> Any:
    told = tell(request, slug, "change", asked, Details(by=asked.by))
    return {**told, "rows": [_named(row, asked.by.replace("-", "_")) for row in told["rows"]]}


@router.get("/sites/{slug}/breaks", response={200: s.Breaks, **PROBLEMS})
def list_breaks(request: HttpRequest, slug: str, asked: Query[s.BreaksAsked]) -> Any:
    told = tell(request, slug, "breaks", asked, Details(level=asked.level, measures=tuple(dict.fromkeys(asked.measure))))
    return {**told, "level": asked.level, "rows": [_named(row, asked.level) for row in told["rows"]]}


@router.get("/sites/{slug}/sections", response={200: s.Sections, **PROBLEMS})
def list_sections(request: HttpRequest, slug: str, asked: Query[s.DiagnosisAsked]) -> Any:
    return tell(request, slug, "sections", asked)


@router.get("/sites/{slug}/query-groups", response={200: s.QueryGroups, **PROBLEMS})
def list_query_groups(request: HttpRequest, slug: str, asked: Query[s.DiagnosisAsked]) -> Any:
    return tell(request, slug, "query-groups", asked)


@router.get("/sites/{slug}/landing-pages", response={200: s.LandingPages, **PROBLEMS})
def list_landing_pages(request: HttpRequest, slug: str, asked: Query[s.DiagnosisAsked]) -> Any:
    return tell(request, slug, "landing-pages", asked)


@router.get("/sites/{slug}/pages", response={200: s.Pages, **PROBLEMS})
def list_pages(request: HttpRequest, slug: str, asked: Query[s.DiagnosisAsked]) -> Any:
    return tell(request, slug, "pages", asked)


@router.get("/sites/{slug}/pages/{int:page_id}", response={200: s.PageFile, **PROBLEMS})
def show_page(request: HttpRequest, slug: str, page_id: int, asked: Query[ScopeAsked]) -> Any:
    found = accounts.tell_page(actor(request).site(slug), Scope(**given(asked)), page_id, timezone.localdate())
    decided = planning.tell_decided(actor(request).site(slug), page_id)
    return {**found, "breaks": [_named(row, "page") for row in found["breaks"]], "decided": decided}


@router.get("/sites/{slug}/queries/{int:query_id}", response={200: s.QueryFile, **PROBLEMS})
def show_query(request: HttpRequest, slug: str, query_id: int, asked: Query[ScopeAsked]) -> Any:
    site = actor(request).site(slug)
    told = query_files.tell_query(site, Scope(**given(asked)), query_id)
    return {**told, **_periods(site, told["settled"])}


@router.get("/sites/{slug}/findings/{finding}", response={200: str, **PROBLEMS})
def export_finding(request: HttpRequest, slug: str, finding: Finding, asked: Query[s.FileAsked]) -> HttpResponse:
    """All that a lens or a diagnosis finds, as a file with what made it inside."""
    details = Details(asked.by, asked.level, tuple(dict.fromkeys(asked.measure)))
    found = findings.find(actor(request).site(slug), finding, Scope(**given(asked)), timezone.localdate(), details)
    return file_of(found, f"{slug}-{finding}-{found['period']['to']}", asked.format)


def file_of(found: dict[str, Any], name: str, kind: str) -> HttpResponse:
    """What was found as a file of a kind (csv, xlsx, json), with what made it inside."""
    if kind == "xlsx":
        content = xlsx_file(findings.as_table(found), findings.made_by(found))
    elif kind == "json":
        content = json.dumps(found, ensure_ascii=False, default=str).encode()
    else:
        # Spreadsheets take UTF-8 for something else without its mark.
        content = ("\ufeff" + "".join(csv_lines(findings.as_table(found), findings.made_by(found)))).encode()
    response = HttpResponse(content, content_type=KINDS[kind])
    response["Content-Disposition"] = f'attachment; filename="{name}.{kind}"'
    return response


@router.get("/sites/{slug}/decisions", response={200: list[s.DecisionShown], **PROBLEMS})
def list_decisions(request: HttpRequest, slug: str) -> Any:
    return [decisions.shown(one) for one in decisions.in_force(actor(request).site(slug))]


@router.post("/sites/{slug}/decisions", response={201: list[s.DecisionShown], **PROBLEMS})
def decide(request: HttpRequest, slug: str, given: s.DecisionGiven) -> Status[Any]:
    subjects = [decisions.Subject(one.page, one.query) for one in given.subjects]
    told = decisions.Decided(subjects, given.choice, given.lead, given.note, given.until, given.decided_on)
    return Status(201, [decisions.shown(one) for one in decisions.decide(actor(request), slug, told)])


@router.delete("/sites/{slug}/decisions/{int:decision_id}", response={200: s.DecisionShown, **PROBLEMS})
def take_decision_back(request: HttpRequest, slug: str, decision_id: int) -> Any:
    return decisions.shown(decisions.take_back(actor(request), slug, decision_id))


@router.get("/methods", response={200: list[s.MethodShown], **PROBLEMS})
def list_methods(request: HttpRequest) -> Any:
    """How everything is computed, in the words of docs/methods.md."""
    return methods.sections()
