"""Reports over HTTP: templates, finished reports, links to read them, mail; and the public page behind a link."""

import base64
from datetime import date, datetime
from typing import Any, Literal

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.views.decorators.http import require_safe
from ninja import Field, File, Router, Schema, Status
from ninja.files import UploadedFile

from zugzwang.api.problems import actor
from zugzwang.core.facts.periods import Comparison
from zugzwang.core.reports.blocks import ACCENT, Language
from zugzwang.data.models import Report, ReportTemplate, Site
from zugzwang.errors import Invalid
from zugzwang.intake.jobs import ask_for_report
from zugzwang.plan import report_mail, reports
from zugzwang.plan.logo import BYTES_MAX
from zugzwang.subjects.report import PARTS, PartName

router = Router()
Period = Literal["last-month", "last-4-weeks", "last-13-weeks"]
SHOWN = 200  # the newest reports in the list
# For the public page: it fetches nothing, runs nothing, sends no referrer and is cached nowhere.
_ALONE = {
    "Content-Security-Policy": "sandbox; default-src 'none'; style-src 'unsafe-inline'; img-src data:; base-uri 'none'; "
    "form-action 'none'; frame-ancestors 'none'",
    "Referrer-Policy": "no-referrer",
    "Cache-Control": "no-store",
    "X-Robots-Tag": "noindex, nofollow",
}


class ReportPart(Schema):
    name: PartName
    words: str = Field(default="", max_length=20_000)


class TemplateInput(Schema):
    """A report template; `period` and `schedule` are names, `day` is the day of the week (1: Monday) or of the month."""

    name: str = Field(max_length=200)
    title: str = Field(default="", max_length=300)
    own_name: str = Field(default="", max_length=300)
    contact: str = Field(default="", max_length=300)
    accent: str = Field(default=ACCENT, pattern=r"^#[0-9a-fA-F]{6}$")
    language: Language = "en_GB"
    period: Period = "last-month"
    compare: Comparison = "year"
    parts: list[ReportPart] = Field(default=[ReportPart(name=one) for one in PARTS], max_length=20)
    schedule: Literal["", "weekly", "monthly"] = ""
    day: int = Field(default=1, ge=1, le=28)
    recipients: list[str] = Field(default=[], max_length=50)
    message: str = Field(default="", max_length=5_000)
    link_days: int = Field(default=30, ge=0, le=366)


class TemplateChanged(TemplateInput):
    seen: int  # the version that the change is based on


class TemplateShown(TemplateInput):
    id: int
    version: int
    logo: str  # as a data URL; empty without one
    next_due: date | None


class PreviewRequest(TemplateInput):
    """`id`: the template whose logo is used; `days`: a period other than the template's own."""

    id: int | None = None
    days: str = Field(default="", max_length=30)


class Preview(Schema):
    title: str
    pages: list[str]  # PNG, as data URLs


class PartSummary(Schema):
    name: PartName
    title: str
    list: str  # the list with its figures row by row


class ReportLinkShown(Schema):
    id: int
    path: str  # on this installation; empty once it has ended
    ends_on: date
    ended: bool
    opened: int
    opened_at: datetime | None
    recipient: str  # the recipient of its mail; empty: created by hand


class SendingShown(Schema):
    id: int
    recipient: str
    state: Literal["waiting", "sent", "failed"]
    attempts: int
    next_at: datetime | None
    problem: str
    sent_at: datetime | None


class ReportShown(Schema):
    id: int
    name: str
    title: str
    first: date | None
    last: date | None
    due: date | None
    by: str
    requested_at: datetime
    made_at: datetime | None
    problem: str
    parts: list[PartSummary]
    links: list[ReportLinkShown]
    sendings: list[SendingShown]


class ReportsShown(Schema):
    """`mail`: whether a mail server is configured; `parts`: the parts that a report can contain."""

    templates: list[TemplateShown]
    reports: list[ReportShown]
    parts: dict[str, str]
    mail: bool


class ReportRequest(Schema):
    days: str = Field(default="", max_length=30)


class LinkRequest(Schema):
    ends_on: date


class SendRequest(Schema):
    recipients: list[str] = Field(max_length=50)
    message: str = Field(default="", max_length=5_000)
    link_days: int = Field(default=30, ge=0, le=366)


def _template_of(payload: TemplateInput) -> reports.Template:
    result = {name: getattr(payload, name) for name in TemplateInput.model_fields if name != "parts"}
    return reports.Template(parts=[reports.PartOf(one.name, one.words) for one in payload.parts], **result)


def _template(template: ReportTemplate) -> dict[str, Any]:
    logo = reports.logo_of(template)
    kind = {"png": "image/png", "svg": "image/svg+xml"}
    result = {name: getattr(template, name) for name in (*TemplateInput.model_fields, "id", "version")}
    shown = f"data:{kind[logo.kind]};base64,{base64.b64encode(logo.data).decode()}" if logo else ""
    return {**result, "logo": shown, "next_due": report_mail.next_due(template, timezone.localdate())}


def _report(report: Report) -> dict[str, Any]:
    today, sendings = timezone.localdate(), list(report.sendings.all())
    of_links = {one.link_id: one.recipient for one in sendings}
    names = ("id", "name", "title", "first", "last", "due", "requested_at", "made_at", "problem")
    links = [
        {
            "id": one.id,
            "ends_on": one.ends_on,
            "ended": one.revoked_at is not None or one.ends_on < today,
            "path": "" if one.revoked_at is not None or one.ends_on < today else reports.path_to(one),
            "opened": one.opened,
            "opened_at": one.opened_at,
            "recipient": of_links.get(one.id, ""),
        }
        for one in report.links.all()
    ]
    return {
        **{name: getattr(report, name) for name in names},
        "by": report.user.get_username() if report.user else "",
        "parts": reports.part_summaries(report),
        "links": links,
        "sendings": [
            {**{name: getattr(one, name) for name in SendingShown.model_fields},
             "next_at": one.next_at if one.state == "waiting" else None}
            for one in sendings
        ],
    }  # fmt: skip


def _found(site: Site, number: int) -> dict[str, Any]:
    return _report(reports.find_report(site, number))


@router.get("/sites/{slug}/reports", response={200: ReportsShown})
def list_reports(request: HttpRequest, slug: str) -> Any:
    """Report templates and finished reports."""
    site = actor(request).site(slug)
    made = Report.objects.filter(site=site).select_related("user").prefetch_related("links", "sendings").defer("pdf", "page")
    return {
        "templates": [_template(one) for one in ReportTemplate.objects.filter(site=site, dropped_at=None)],
        "reports": [_report(one) for one in made[:SHOWN]],
        "parts": {name: title for name, (title, *_) in PARTS.items()},
        "mail": settings.MAIL_READY,
    }


# --- templates ------------------------------------------------------------------------------------------------------------


@router.post("/sites/{slug}/reports/templates", response={201: TemplateShown})
def add_template(request: HttpRequest, slug: str, payload: TemplateInput) -> Status[Any]:
    """Add a report template."""
    return Status(201, _template(reports.add_template(actor(request), slug, _template_of(payload))))


@router.put("/sites/{slug}/reports/templates/{int:template_id}", response={200: TemplateShown})
def change_template(request: HttpRequest, slug: str, template_id: int, payload: TemplateChanged) -> Any:
    """Change a report template."""
    return _template(reports.change_template(actor(request), slug, template_id, payload.seen, _template_of(payload)))


@router.delete("/sites/{slug}/reports/templates/{int:template_id}", response={200: TemplateShown})
def drop_template(request: HttpRequest, slug: str, template_id: int) -> Any:
    """Delete a report template."""
    return _template(reports.drop_template(actor(request), slug, template_id))


@router.post("/sites/{slug}/reports/templates/{int:template_id}/restore", response={200: TemplateShown})
def restore_template(request: HttpRequest, slug: str, template_id: int) -> Any:
    """Restore a deleted report template."""
    return _template(reports.drop_template(actor(request), slug, template_id, back=True))


@router.post("/sites/{slug}/reports/templates/{int:template_id}/logo", response={200: TemplateShown})
def set_logo(request: HttpRequest, slug: str, template_id: int, file: File[UploadedFile]) -> Any:
    """Set a PNG or SVG logo; it is sanitised before it is saved."""
    actor(request).site_to_change(slug)
    if (file.size or 0) > BYTES_MAX:
        raise Invalid("The logo is larger than 2 MB.", "Save it smaller.", "logo")
    return _template(reports.set_logo(actor(request), slug, template_id, file.read()))


@router.delete("/sites/{slug}/reports/templates/{int:template_id}/logo", response={200: TemplateShown})
def remove_logo(request: HttpRequest, slug: str, template_id: int) -> Any:
    """Remove a template's logo."""
    return _template(reports.set_logo(actor(request), slug, template_id, None))


@router.post("/sites/{slug}/reports/preview", response={200: Preview})
def preview_report(request: HttpRequest, slug: str, payload: PreviewRequest) -> Any:
    """The pages of a report as it would look; nothing is saved."""
    made = reports.preview(actor(request), slug, _template_of(payload), payload.id, payload.days)
    pages = [f"data:image/png;base64,{base64.b64encode(one).decode()}" for one in made.pages]
    return {"title": made.title, "pages": pages}


# --- reports --------------------------------------------------------------------------------------------------------------


@router.post("/sites/{slug}/reports/templates/{int:template_id}/make", response={201: ReportShown})
def make_report(request: HttpRequest, slug: str, template_id: int, payload: ReportRequest) -> Status[Any]:
    """Make a report now."""
    made = reports.make(actor(request), slug, template_id, payload.days)
    return Status(201, _report(made))


@router.get("/sites/{slug}/reports/{int:report_id}", response={200: ReportShown})
def show_report(request: HttpRequest, slug: str, report_id: int) -> Any:
    """A finished report, with its links and mails."""
    return _found(actor(request).site(slug), report_id)


@router.get("/sites/{slug}/reports/{int:report_id}/file", response={200: bytes})
def report_file(request: HttpRequest, slug: str, report_id: int) -> HttpResponse:
    """The finished report as a PDF."""
    return _pdf(reports.made_report(actor(request).site(slug), report_id), {})


@router.delete("/sites/{slug}/reports/{int:report_id}", response={204: None})
def remove_report(request: HttpRequest, slug: str, report_id: int) -> Status[None]:
    """Delete a finished report."""
    reports.remove(actor(request), slug, report_id)
    return Status(204, None)


@router.post("/sites/{slug}/reports/{int:report_id}/links", response={201: ReportShown})
def add_link(request: HttpRequest, slug: str, report_id: int, payload: LinkRequest) -> Status[Any]:
    """Create a link to a report for people without an account."""
    reports.add_link(actor(request), slug, report_id, payload.ends_on)
    return Status(201, _found(actor(request).site(slug), report_id))


@router.delete("/sites/{slug}/reports/links/{int:link_id}", response={204: None})
def end_link(request: HttpRequest, slug: str, link_id: int) -> Status[None]:
    """Revoke a link permanently."""
    reports.revoke(actor(request), slug, link_id)
    return Status(204, None)


@router.post("/sites/{slug}/reports/{int:report_id}/send", response={200: ReportShown})
def send_report(request: HttpRequest, slug: str, report_id: int, payload: SendRequest) -> Any:
    """Mail a report."""
    report = report_mail.send(actor(request), slug, report_id, payload.recipients, payload.message, payload.link_days)
    ask_for_report(report, actor(request))
    return _found(report.site, report_id)


@router.post("/sites/{slug}/reports/mails/{int:mail_id}/again", response={200: ReportShown})
def send_again(request: HttpRequest, slug: str, mail_id: int) -> Any:
    """Send a failed mail again."""
    report = report_mail.again(actor(request), slug, mail_id)
    ask_for_report(report, actor(request))
    return _found(report.site, report.id)


# --- for anybody who has the address --------------------------------------------------------------------------------------


def _pdf(report: Report, headers: dict[str, str]) -> HttpResponse:
    disposition = f'attachment; filename="{report.site.slug}-{report.first}-{report.last}.pdf"'
    stored = bytes(report.pdf or b"")
    return HttpResponse(stored, content_type="application/pdf", headers={**headers, "Content-Disposition": disposition})


@require_safe
def read_report(request: HttpRequest, token: str) -> HttpResponse:
    """The page behind a link; it shows the report and nothing else."""
    report = reports.read(token, counted=request.method == "GET")
    if report is None:
        return HttpResponse(_GONE, status=404, headers=_ALONE)
    return HttpResponse(report.page, content_type="text/html; charset=utf-8", headers=_ALONE)


_GONE = (
    '<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="robots" content="noindex">'
    '<meta name="viewport" content="width=device-width"><title>No report here</title></head>'
    '<body style="font:16px/1.5 Georgia,serif;max-width:36rem;margin:4rem auto;padding:0 1rem">'
    "<h1>No report at this address</h1><p>It has ended, or the address is cut short. "
    "Ask whoever sent it to you for a new one.</p></body></html>"
)
