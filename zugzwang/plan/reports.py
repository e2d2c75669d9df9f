"""Reports: a site's templates, finished reports, and temporary addresses at which others read them."""

import re
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, field
from datetime import date, timedelta
from typing import Any, TypeVar, get_args

from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db.models import F
from django.utils import timezone

from zugzwang import bounded
from zugzwang.access import Actor
from zugzwang.changing import changes_site
from zugzwang.core.facts.periods import Comparison
from zugzwang.core.reports.blocks import ACCENT, LANGUAGES, Document, Logo
from zugzwang.core.reports.reading import as_page
from zugzwang.core.reports.typeset import TypesettingError, as_pdf, as_pictures
from zugzwang.data.audit import note
from zugzwang.data.models import Report, ReportLink, ReportTemplate, Site
from zugzwang.data.sealing import opened, sealed
from zugzwang.data.secrets import digest_of, new_secret
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Conflict, Invalid, NotFound
from zugzwang.names import checked_name
from zugzwang.plan.logo import cleaned_logo
from zugzwang.subjects.report import PARTS, PERIODS, PartName, Planned, check_words, list_of, period_named, tell_report

TEMPLATES_MAX, REPORTS_MAX, LINKS_MAX, RECIPIENTS_MAX, MESSAGE_MAX = 100, 1_000, 50, 50, 5_000
LINK_DAYS_MAX = 366
Made = TypeVar("Made")
DAYS_OF = {"weekly": 7, "monthly": 28}  # not all months have later days


@dataclass(frozen=True)
class PartOf:
    name: str
    words: str = ""


@dataclass(frozen=True)
class Template:
    """A template as entered; see ReportTemplate for its fields."""

    name: str
    parts: Sequence[PartOf] = tuple(PartOf(one) for one in PARTS)
    title: str = ""
    own_name: str = ""
    contact: str = ""
    accent: str = ACCENT
    language: str = "en_GB"
    period: str = "last-month"
    compare: Comparison = "year"
    schedule: str = ""
    day: int = 1
    recipients: Sequence[str] = field(default_factory=list)
    message: str = ""
    link_days: int = 30

    def fields(self) -> dict[str, Any]:
        return {**asdict(self), "recipients": list(dict.fromkeys(one.strip() for one in self.recipients if one.strip()))}


# --- templates ------------------------------------------------------------------------------------------------------------


def find_template(site: Site, number: int, dropped: bool = False) -> ReportTemplate:
    stored = ReportTemplate.objects.filter(site=site, id=number)
    template = (stored if dropped else stored.filter(dropped_at=None)).first()
    if template is None:
        raise NotFound("This template does not exist.", "It may have been deleted: check the list of templates.")
    return template


def template_named(site: Site, name: str) -> ReportTemplate:
    stored = ReportTemplate.objects.filter(site=site, dropped_at=None)
    template = stored.filter(name__iexact=name).first()
    if template is None:
        known = ", ".join(f"“{one}”" for one in stored.values_list("name", flat=True)[:10]) or "none yet"
        raise NotFound(f"The site has no template “{name}”.", f"Templates: {known}.")
    return template


@changes_site()
def add_template(actor: Actor, site: Site, values: Template) -> ReportTemplate:
    check_template(values)
    stored = ReportTemplate.objects.filter(site=site, dropped_at=None)
    if stored.count() >= TEMPLATES_MAX:
        raise Invalid(f"{TEMPLATES_MAX} templates are possible for a site.", "Remove some.", "name")
    _refuse_second_name(stored, values.name)
    return ReportTemplate.objects.create(site=site, user=actor.user, begins=_begins(values, None), **values.fields())


@changes_site()
def change_template(actor: Actor, site: Site, number: int, seen: int, values: Template) -> ReportTemplate:
    """Change a template. Raises Conflict where someone else changed it since."""
    check_template(values)
    stored = ReportTemplate.objects.select_for_update().filter(site=site, dropped_at=None)
    template = find_template(site, number)
    if template.version != seen:
        who = "Someone else changed this template."
        raise Conflict(who, "Open it again; your changes stay here until then.", ["name"])
    _refuse_second_name(stored.exclude(id=number), values.name)
    for name, value in {**values.fields(), "begins": _begins(values, template)}.items():
        setattr(template, name, value)
    template.version += 1
    template.save()
    return template


@changes_site()
def drop_template(actor: Actor, site: Site, number: int, back: bool = False) -> ReportTemplate:
    """Delete a template, which stops its schedule, or restore it; its reports stay."""
    template = find_template(site, number, dropped=True)
    template.dropped_at = None if back else timezone.now()
    if back:
        template.begins = timezone.localdate() + timedelta(days=1) if template.schedule else None
    template.save(update_fields=["dropped_at", "begins"])
    return template


def set_logo(actor: Actor, slug: str, number: int, data: bytes | None) -> ReportTemplate:
    """Set a sanitised logo, or remove it (None). Raises Invalid with the problem."""
    find_template(actor.site_to_change(slug), number)
    return _store_logo(actor, slug, number, bounded.run(bounded.PICTURE, cleaned_logo, data) if data is not None else None)


@changes_site()
def _store_logo(actor: Actor, site: Site, number: int, logo: Logo | None) -> ReportTemplate:
    template = find_template(site, number)
    template.logo, template.logo_kind = (logo.data, logo.kind) if logo else (None, "")
    template.save(update_fields=["logo", "logo_kind", "changed_at"])
    return template


def _refuse_second_name(stored: Any, name: str) -> None:
    if stored.filter(name__iexact=name.strip()).exists():
        raise Invalid(f"A template “{name.strip()}” already.", "Give it another name.", "name")


def _begins(values: Template, before: ReportTemplate | None) -> date | None:
    """The first day on which a schedule can be due: today for a new or changed one, so no past day is."""
    if not values.schedule:
        return None
    same = before is not None and (before.schedule, before.day) == (values.schedule, values.day) and before.begins is not None
    return before.begins if before is not None and same else timezone.localdate()


def check_template(values: Template) -> None:
    checked_name(values.name)
    for name in ("title", "own_name", "contact"):
        checked_name(getattr(values, name), name, 300, needed=False)
    names = [one.name for one in values.parts]
    if not names or len(set(names)) < len(names) or any(one not in PARTS for one in names):
        raise Invalid("A report needs at least one part, each once.", f"Parts: {', '.join(PARTS)}.", "parts")
    for one in values.parts:
        check_words(one.words)
    if not re.fullmatch(r"#[0-9a-fA-F]{6}", values.accent):
        raise Invalid(f"“{values.accent}” is not a colour.", "Write it as #2e6350.", "accent")
    if values.language not in LANGUAGES:
        raise Invalid(f"“{values.language}” is not a language of reports.", f"Languages: {', '.join(LANGUAGES)}.", "language")
    if values.period not in PERIODS:
        raise Invalid(f"“{values.period}” is not a period of templates.", f"Periods: {', '.join(PERIODS)}.", "period")
    if values.compare not in get_args(Comparison):
        raise Invalid(f"“{values.compare}” is not a comparison.", f"Comparisons: {', '.join(get_args(Comparison))}.", "compare")
    if values.schedule not in ReportTemplate.Schedule.values:
        raise Invalid(f"“{values.schedule}” is not a schedule.", "Choose weekly or monthly, or leave it empty.", "schedule")
    if values.schedule and not 1 <= values.day <= DAYS_OF[values.schedule]:
        raise Invalid("This day does not exist.", f"Choose 1 to {DAYS_OF[values.schedule]}.", "day")
    if not 0 <= values.link_days <= LINK_DAYS_MAX:
        raise Invalid("A shared page lasts a year at most.", f"Choose 0 to {LINK_DAYS_MAX} days.", "link_days")
    check_mail(values.recipients, values.message)


def check_mail(recipients: Sequence[str], message: str) -> None:
    if len(recipients) > RECIPIENTS_MAX:
        raise Invalid(f"A report goes to {RECIPIENTS_MAX} people at most.", "Use a list of your mail server.", "recipients")
    for one in recipients:
        try:
            validate_email(one.strip())
        except ValidationError:
            raise Invalid(f"“{one[:100]}” is not a mail address.", "Write it as name@host.example.", "recipients") from None
    if len(message) > MESSAGE_MAX:
        raise Invalid(f"A message has {MESSAGE_MAX:,} letters at most.", "Shorten it.", "message")


# --- making ---------------------------------------------------------------------------------------------------------------


def logo_of(template: ReportTemplate) -> Logo | None:
    if template.logo is None:
        return None
    return Logo("svg" if template.logo_kind == "svg" else "png", bytes(template.logo))


def planned_of(template: ReportTemplate, snapshot: Snapshot, period: str, seen_from: date | None) -> Planned:
    """A template's period and parts. A month is counted from the due day, weeks from the last day of data: so a monthly report
    never covers the month before, and a weekly one never ends without data.
    """
    days = snapshot.facts.days()
    if not days:
        raise Invalid("The site has no daily data yet.", "Load some first.", "period")
    after_data = days[-1] + timedelta(days=1)
    at = after_data if seen_from is None or period != "last-month" else seen_from
    first_last = period_named(period, at)
    return Planned(
        first_last.first,
        first_last.last,
        tuple(one["name"] for one in template.parts),
        {one["name"]: one["words"] for one in template.parts},
        template.title,
        template.own_name,
        template.contact,
        template.language,
        template.compare,  # type: ignore[arg-type]
        template.accent,
        logo_of(template),
    )


@dataclass(frozen=True)
class Previewed:
    """`pages`: as PNG."""

    title: str
    pages: list[bytes]


def preview(actor: Actor, slug: str, values: Template, number: int | None, period: str) -> Previewed:
    """A report from a template being edited; `number`: the template whose logo it uses."""
    site = actor.site(slug)
    check_template(values)
    template = ReportTemplate(site=site, **values.fields())
    if number is not None:
        stored = find_template(site, number)
        template.logo, template.logo_kind = stored.logo, stored.logo_kind
    snapshot = Snapshot(site)
    planned = planned_of(template, snapshot, period or template.period, None)
    document = tell_report(snapshot, planned, timezone.localdate())
    return Previewed(document.title, typeset(as_pictures, document))


def typeset(form: Callable[[Document], Made], document: Document) -> Made:
    """A report in one format, within limits. Raises Invalid with the exceeded one."""
    try:
        return bounded.run(bounded.TYPESETTING, form, document)
    except TypesettingError as error:
        raise Invalid(str(error), "Shorten your own text, or use fewer parts.", "parts") from None


def make(actor: Actor, slug: str, number: int, period: str = "") -> Report:
    """Make a report from a template now; `period` by name or as days, otherwise the template's."""
    site = actor.site_to_change(slug)
    template = find_template(site, number)
    if Report.objects.filter(site=site).count() >= REPORTS_MAX:
        raise Invalid(f"{REPORTS_MAX:,} reports are possible for a site.", "Delete old ones first.", "period")
    report = Report(site=site, template=template, name=template.name, user=actor.user)
    write(report, planned_of(template, Snapshot(site), period or template.period, None))
    return _store_report(actor, slug, report)


@changes_site()
def _store_report(actor: Actor, site: Site, report: Report) -> Report:
    report.save()
    return report


def write(report: Report, planned: Planned) -> None:
    """Make a report from the current data; the caller stores it."""
    document = tell_report(Snapshot(report.site), planned, timezone.localdate())
    report.pdf, report.page = typeset(_forms, document)
    report.title, report.parts = document.title[:300], list(planned.parts)
    report.first, report.last, report.compare = planned.first, planned.last, planned.compare
    report.problem, report.made_at = "", timezone.now()


def _forms(document: Document) -> tuple[bytes, str]:
    return as_pdf(document), as_page(document)


def find_report(site: Site, number: int) -> Report:
    report = Report.objects.filter(site=site, id=number).select_related("site", "template").first()
    if report is None:
        raise NotFound("This report does not exist.", "It may have been deleted: check the list of reports.")
    return report


def made_report(site: Site, number: int) -> Report:
    report = find_report(site, number)
    if report.made_at is None:
        raise NotFound("This report is not ready yet.", report.problem or "Wait a moment.")
    return report


@changes_site()
def remove(actor: Actor, site: Site, number: int) -> None:
    """Delete a report with its links and unsent mails."""
    find_report(site, number).delete()


# --- reading without signing in -------------------------------------------------------------------------------------------


@changes_site()
def add_link(actor: Actor, site: Site, number: int, ends_on: date) -> ReportLink:
    report = made_report(site, number)
    today = timezone.localdate()
    if not today <= ends_on <= today + timedelta(days=LINK_DAYS_MAX):
        raise Invalid("A public link lasts at most a year.", "Choose another day.", "ends_on")
    if report.links.count() >= LINKS_MAX:
        raise Invalid(f"A report has {LINKS_MAX} links at most.", "Use one of them.", "ends_on")
    note(actor.user, report.site, "link", report.title, ends_on=str(ends_on))
    return link_to(report, ends_on, actor)


def link_to(report: Report, ends_on: date, actor: Actor) -> ReportLink:
    token = new_secret()
    return ReportLink.objects.create(
        report=report, digest=digest_of(token), token=sealed(token), ends_on=ends_on, user=actor.user
    )  # fmt: skip


def path_to(link: ReportLink) -> str:
    """Its address on this installation; empty where the key that encrypted it is gone."""
    token = opened(link.token)
    return f"/read/{token}" if token else ""


@changes_site()
def revoke(actor: Actor, site: Site, number: int) -> None:
    """Revoke a link immediately and permanently."""
    ended = ReportLink.objects.filter(report__site=site, id=number)
    if not ended.exists():
        raise NotFound("This link does not exist.", "Check the links of the report.")
    ended.filter(revoked_at=None).update(revoked_at=timezone.now())
    note(actor.user, site, "end link", str(number))


def read(token: str, counted: bool = True) -> Report | None:
    """The report behind a link; counts as opened except for a HEAD request. None where it does not exist or has ended."""
    stored = ReportLink.objects.select_related("report__site").filter(report__site__deleted_at=None)
    link = stored.filter(digest=digest_of(token)).first()
    if link is None or link.revoked_at is not None or link.ends_on < timezone.localdate():
        return None
    if counted:
        ReportLink.objects.filter(id=link.id).update(opened=F("opened") + 1, opened_at=timezone.now())
    return link.report


def part_summaries(report: Report) -> list[dict[str, str]]:
    """The parts of a report, each with the list behind its figures."""
    if report.first is None or report.last is None:
        return []
    names: list[PartName] = [one for one in report.parts if one in PARTS]
    return [
        {"name": one, "title": PARTS[one][0], "list": list_of(one, report.first, report.last, report.compare)}  # type: ignore[arg-type]
        for one in names
    ]
