"""Single subjects over HTTP: a row, a page, a query, a clash, the site."""

from dataclasses import replace
from datetime import date
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Field, Query, Router, Schema

from zugzwang import bounded
from zugzwang.api import subject_schemas as s
from zugzwang.api.findings import ViewParameters, answer_to, options_of, snapshot_of
from zugzwang.core.clicks.evidence import GRADES
from zugzwang.core.clicks.lenses import Lens
from zugzwang.core.reports.blocks import Language
from zugzwang.core.reports.typeset import as_pdf
from zugzwang.findings.registry import FINDINGS
from zugzwang.findings.view import View, ViewOptions, settle
from zugzwang.plan.reports import typeset
from zugzwang.plan.telling import tell_decided
from zugzwang.subjects.brief import document, tell_brief
from zugzwang.subjects.changes import describe_changes
from zugzwang.subjects.clash import tell_clash
from zugzwang.subjects.links import tell_links, work_document
from zugzwang.subjects.names import names_with
from zugzwang.subjects.page import tell_page
from zugzwang.subjects.query import tell_query
from zugzwang.subjects.report import PARTS, PartName, Planned, tell_report
from zugzwang.subjects.results import tell_results
from zugzwang.subjects.row import tell_field, tell_row
from zugzwang.subjects.wording import tell_strip, tell_titles

router = Router()


class SummaryParameters(Schema):
    """`part`: parts in order, all by default; the language applies to numbers and dates."""

    first: date | None = None
    last: date | None = None
    part: list[PartName] = []
    title: str = Field(default="", max_length=300)
    name: str = Field(default="", max_length=300)
    contact: str = Field(default="", max_length=300)
    language: Language = "en_GB"


@router.get("/sites/{slug}/changes", response={200: s.Changes})
def show_changes(request: HttpRequest, slug: str, options: Query[ViewParameters]) -> Any:
    """The site's or a section's measures against another period, and the reasons for the change."""
    return describe_changes(snapshot_of(request, slug), options_of(options), timezone.localdate())


class NamesParameters(Schema):
    text: str = Field(default="", max_length=200)


@router.get("/sites/{slug}/names", response={200: s.NamesFound})
def show_names(request: HttpRequest, slug: str, options: Query[NamesParameters]) -> Any:
    """Names of page types, query groups, topics and countries."""
    return names_with(snapshot_of(request, slug), options.text)


@router.get("/sites/{slug}/field", response={200: s.QueryField})
def show_query_field(request: HttpRequest, slug: str, lens: Lens, options: Query[ViewParameters]) -> Any:
    """Positions and CTR of all rows of a report, for its chart."""
    return tell_field(answer_to(request, slug, FINDINGS[lens], options), lens)


@router.get("/sites/{slug}/rows/{int:page_id}/{int:query_id}", response={200: s.RowProof})
def show_row(request: HttpRequest, slug: str, page_id: int, query_id: int, lens: Lens, options: Query[ViewParameters]) -> Any:
    """The evidence for one query on one page."""
    return tell_row(answer_to(request, slug, FINDINGS[lens], options), lens, page_id, query_id)


@router.get("/sites/{slug}/pages/{int:page_id}", response={200: s.PageFile})
def show_page(request: HttpRequest, slug: str, page_id: int, options: Query[ViewParameters]) -> Any:
    """A page's account: sources of loss and gain, queries, visits, links."""
    snapshot = snapshot_of(request, slug)
    found = tell_page(snapshot, options_of(options), page_id, timezone.localdate())
    return {**found, "decided": tell_decided(snapshot.site, page_id)}


@router.get("/sites/{slug}/queries/{int:query_id}", response={200: s.QueryFile})
def show_query(request: HttpRequest, slug: str, query_id: int, options: Query[ViewParameters]) -> Any:
    """A query with every page that ranks for it."""
    return tell_query(snapshot_of(request, slug), options_of(options), query_id, timezone.localdate())


@router.get("/sites/{slug}/on-page/{int:page_id}", response={200: s.Strip})
def show_strip(
    request: HttpRequest, slug: str, page_id: int, options: Query[ViewParameters], query_id: int | None = None
) -> Any:
    """Where on a page one of its queries, or the first phrase given, occurs."""
    return tell_strip(whole_view(request, slug, options), page_id, query_id, next(iter(options.phrase), ""))


@router.get("/sites/{slug}/links/{int:page_id}", response={200: s.LinksFile})
def show_links(request: HttpRequest, slug: str, page_id: int, options: Query[ViewParameters]) -> Any:
    """A page's links: what it needs, what is wrong with them, and suggested links."""
    return tell_links(whole_view(request, slug, options), page_id)


@router.get("/sites/{slug}/brief/{int:query_id}", response={200: s.BriefShown})
def show_brief(request: HttpRequest, slug: str, query_id: int, options: Query[ViewParameters]) -> Any:
    """Everything a writer needs for a query, for an existing page or a new one."""
    view = whole_view(request, slug, options)
    return tell_brief(view, query_id, view.one_page)


@router.get("/sites/{slug}/brief/{int:query_id}/document", response={200: bytes})
def brief_document(request: HttpRequest, slug: str, query_id: int, options: Query[ViewParameters]) -> HttpResponse:
    """The brief as a document (DOCX)."""
    view = whole_view(request, slug, options)
    made = bounded.run(bounded.EXPORT, document, tell_brief(view, query_id, view.one_page))
    return _docx(made, f"brief-{query_id}")


@router.get("/sites/{slug}/accepted-links/document", response={200: bytes})
def link_work_document(request: HttpRequest, slug: str, options: Query[ViewParameters]) -> HttpResponse:
    """Accepted links by page to edit, as a document (DOCX)."""
    return _docx(work_document(whole_view(request, slug, options)), f"links-{slug}")


def _docx(made: bytes, name: str) -> HttpResponse:
    kind = "application/vnd.openxmlformats-officedocument.wordprocessingml.document"
    return HttpResponse(made, content_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}.docx"'})


@router.get("/sites/{slug}/report", response={200: bytes})
def site_report(request: HttpRequest, slug: str, options: Query[SummaryParameters]) -> HttpResponse:
    """A report on the given days, as a PDF."""
    snapshot = snapshot_of(request, slug)
    period = settle(snapshot, ViewOptions(first=options.first, last=options.last), timezone.localdate()).period
    parts = tuple(options.part or PARTS)
    planned = Planned(period.first, period.last, parts, {}, options.title, options.name, options.contact, options.language)
    made = typeset(as_pdf, tell_report(snapshot, planned, timezone.localdate()))
    disposition = f'attachment; filename="{slug}-{period.first}-{period.last}.pdf"'
    return HttpResponse(made, content_type="application/pdf", headers={"Content-Disposition": disposition})


@router.get("/sites/{slug}/titles/{int:page_id}", response={200: s.TitleFile})
def show_title(request: HttpRequest, slug: str, page_id: int, options: Query[ViewParameters]) -> Any:
    """A page's title and description, with their problems."""
    return tell_titles(whole_view(request, slug, options), page_id)


@router.get("/sites/{slug}/results/{int:query_id}", response={200: s.CaptureFile})
def show_results(request: HttpRequest, slug: str, query_id: int, options: Query[ViewParameters]) -> Any:
    """A query's SERP: what ranks above the site's result, what that costs, and what competing pages have."""
    return tell_results(whole_view(request, slug, options), query_id)


def whole_view(request: HttpRequest, slug: str, options: ViewParameters) -> View:
    """The view without the parameters that filter rows."""
    payload = replace(
        options_of(options), section="", page_type=(), query_group=(), topic=(), text="", evidence=GRADES, decided="any",
        problem=(), on_page=(), position_from=None, position_to=None, explained="any", compare="none",
    )  # fmt: skip
    return settle(snapshot_of(request, slug), payload, timezone.localdate())


@router.get("/sites/{slug}/clashes/{int:query_id}", response={200: s.ClashFile})
def show_clash(request: HttpRequest, slug: str, query_id: int, options: Query[ViewParameters]) -> Any:
    """A clash: contenders, days, proposed lead and resolution."""
    return tell_clash(snapshot_of(request, slug), options_of(options), query_id, timezone.localdate())
