"""Scheduled reports and their mails: each due day once, each mail retried for half a day, with its outcome.

A mail that was handed over and whose worker died before noting it is handed over again under the same Message-ID (RFC 5322,
3.6.4), by which mail programs recognise duplicates: better twice than never.
"""

import smtplib
from collections.abc import Callable, Sequence
from datetime import date, datetime, time, timedelta
from email.utils import make_msgid
from urllib.parse import urlsplit

from django.conf import settings
from django.core.mail import EmailMessage, get_connection
from django.db import IntegrityError, transaction
from django.db.models import F
from django.utils import timezone

from zugzwang.access import OPERATOR, Actor
from zugzwang.changing import changes_site
from zugzwang.data.audit import note
from zugzwang.data.models import Report, ReportSending, ReportTemplate, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid, NotFound, ProductError
from zugzwang.plan.reports import check_mail, link_to, made_report, path_to, planned_of, write

State = ReportSending.State
AGAIN_AFTER = tuple(timedelta(minutes=one) for one in (5, 30, 120, 480))
LEASE = timedelta(minutes=2)  # a mail whose worker has been silent for so long is retried
NO_MAIL = "No mail server is configured."
NO_MAIL_REMEDY = "Ask your administrator to set ZUGZWANG_MAIL (docs/settings.md)."


# --- due ------------------------------------------------------------------------------------------------------------------


def last_due(schedule: str, day: int, today: date) -> date:
    """The last due day of a schedule, today included.

    >>> last_due("weekly", 1, date(2026, 11, 18))
    datetime.date(2026, 11, 16)
    >>> last_due("monthly", 20, date(2026, 11, 18))
    datetime.date(2026, 10, 20)
    """
    if schedule == "weekly":
        return today - timedelta(days=(today.isoweekday() - day) % 7)
    this = today.replace(day=day)
    return this if this <= today else (today.replace(day=1) - timedelta(days=1)).replace(day=day)


def next_due(template: ReportTemplate, today: date) -> date | None:
    if not template.schedule:
        return None
    for ahead in range(62):
        day = today + timedelta(days=ahead)
        due = last_due(template.schedule, template.day, day) == day and (template.begins is None or day >= template.begins)
        if due and not Report.objects.filter(template=template, due=day).exists():
            return day
    return None


def come_due(now: datetime, ask: Callable[[Report], object]) -> int:
    """Queue due reports with `ask`, each due day of a template once; returns their number. Of days missed while nothing ran,
    only the last is made up.
    """
    at = time.fromisoformat(settings.REPORTS_AT)
    today = now.date() if now.time() >= at else now.date() - timedelta(days=1)
    options = 0
    wanted = ReportTemplate.objects.filter(dropped_at=None, site__deleted_at=None, site__archived_at=None)
    for template in wanted.exclude(schedule="").select_related("site"):
        due = last_due(template.schedule, template.day, today)
        if template.begins is not None and due < template.begins:
            continue
        if Report.objects.filter(template=template, due=due).exists():
            continue
        try:
            with transaction.atomic():
                ask(Report.objects.create(site=template.site, template=template, due=due, name=template.name))
        except IntegrityError:
            continue  # another clock was faster
        options += 1
    return options


def make_due(report: Report) -> None:
    """Make a due report, once, and queue its mails. `problem` stores what prevents it."""
    if report.made_at is not None or report.template is None:
        return
    template = report.template
    try:
        planned = planned_of(template, Snapshot(report.site), template.period, report.due)
        write(report, planned)
        with transaction.atomic():
            report.save()
            put_in_line(report, template.recipients, template.message, template.link_days, OPERATOR)
    except ProductError as error:
        Report.objects.filter(id=report.id).update(problem=f"{error.message} {error.remedy}")
        raise


# --- sending --------------------------------------------------------------------------------------------------------------


@changes_site()
def send(actor: Actor, site: Site, number: int, recipients: Sequence[str], message: str, link_days: int) -> Report:
    """Queue a report's mails to people. Raises Invalid without a mail server or recipients, or with a wrong address."""
    report = made_report(site, number)
    recipients = list(dict.fromkeys(one.strip() for one in recipients if one.strip()))
    if not recipients:
        raise Invalid("No recipient.", "Write one mail address or more.", "recipients")
    check_mail(recipients, message)
    if not settings.MAIL_READY:
        raise Invalid(NO_MAIL, NO_MAIL_REMEDY, "recipients")
    put_in_line(report, recipients, message, link_days, actor)
    note(actor.user, report.site, "send report", report.title, to=recipients)
    return report


def put_in_line(report: Report, recipients: Sequence[str], message: str, link_days: int, actor: Actor) -> None:
    """One mail for each person, each with its own link, so it can be revoked and its openings counted separately."""
    today, host = timezone.localdate(), urlsplit(settings.ADDRESS).hostname or "localhost"
    for one in recipients:
        link = link_to(report, today + timedelta(days=link_days), actor) if link_days else None
        ReportSending.objects.create(
            report=report, recipient=one, message=message, link=link, message_id=make_msgid(domain=host), next_at=timezone.now()
        )


@changes_site()
def again(actor: Actor, site: Site, number: int) -> Report:
    """Retry a mail that failed permanently."""
    sending = ReportSending.objects.filter(report__site=site, id=number).select_related("report").first()
    if sending is None:
        raise NotFound("This mail does not exist.", "Check the sent mails of the report.")
    if sending.state != State.FAILED:
        raise Invalid("This mail has not failed.", "Nothing to send again.")
    if not settings.MAIL_READY:
        raise Invalid(NO_MAIL, NO_MAIL_REMEDY)
    ReportSending.objects.filter(id=number, state=State.FAILED).update(
        state=State.WAITING, attempts=0, next_at=timezone.now(), problem=""
    )
    return sending.report


def with_mails_due(now: datetime) -> list[Report]:
    """The reports with mails to send or retry by now."""
    return list(
        Report.objects.filter(sendings__state=State.WAITING, sendings__next_at__lte=now, site__deleted_at=None)
        .select_related("site").defer("pdf", "page").distinct()
    )  # fmt: skip


def send_waiting(report: Report) -> tuple[int, int]:
    """Send a report's due mails; returns how many were sent and how many failed. Failed ones are retried later, except after
    the last attempt or where the server refuses the address.
    """
    now = timezone.now()
    went = stayed = 0
    connection = get_connection(timeout=20)
    for sending in report.sendings.filter(state=State.WAITING, next_at__lte=now).select_related("link").order_by("id"):
        mine = ReportSending.objects.filter(id=sending.id, state=State.WAITING, next_at=sending.next_at)
        if not mine.update(next_at=timezone.now() + LEASE, attempts=F("attempts") + 1):
            continue  # another process took it
        problem, final = _handed_over(report, sending, connection)
        if not problem:
            ReportSending.objects.filter(id=sending.id).update(state=State.SENT, sent_at=timezone.now(), problem="")
            went += 1
            continue
        stayed += 1
        attempts = sending.attempts + 1
        if final or attempts > len(AGAIN_AFTER):
            ReportSending.objects.filter(id=sending.id).update(state=State.FAILED, problem=problem)
        else:
            next_at = timezone.now() + AGAIN_AFTER[attempts - 1]
            ReportSending.objects.filter(id=sending.id).update(next_at=next_at, problem=problem)
    return went, stayed


def _handed_over(report: Report, sending: ReportSending, connection: object) -> tuple[str, bool]:
    """Hand a mail to the server: ("", False), or the reason and whether retrying is pointless."""
    if not settings.MAIL_READY:
        return f"{NO_MAIL} {NO_MAIL_REMEDY}", False
    mail = EmailMessage(
        " ".join(report.title.split()),
        body_of(report, sending),
        settings.DEFAULT_FROM_EMAIL,
        [sending.recipient],
        connection=connection,  # type: ignore[arg-type]
        headers={"Message-ID": sending.message_id, "Auto-Submitted": "auto-generated"},
    )
    mail.attach(f"{report.site.slug}-{report.first}-{report.last}.pdf", bytes(report.pdf or b""), "application/pdf")
    try:
        mail.send()
    except smtplib.SMTPRecipientsRefused as error:
        code, answer = next(iter(error.recipients.values()))
        return f"The mail server refuses the address: {code} {_words(answer)}", code >= 500
    except smtplib.SMTPResponseException as error:
        return f"The mail server answers: {error.smtp_code} {_words(error.smtp_error)}", False
    except (OSError, smtplib.SMTPException) as error:
        return f"The mail server cannot be reached: {error}"[:500], False
    return "", False


def _words(answer: bytes | str) -> str:
    return (answer.decode(errors="replace") if isinstance(answer, bytes) else answer)[:300]


def body_of(report: Report, sending: ReportSending) -> str:
    lines = [sending.message.strip()] if sending.message.strip() else [f"{report.title}: the report is attached."]
    path = path_to(sending.link) if sending.link is not None and sending.link.revoked_at is None else ""
    if path and sending.link is not None:
        until = f"{sending.link.ends_on.day} {sending.link.ends_on:%B %Y}"
        lines.append(f"Read it in your browser until {until}:\n{settings.ADDRESS.rstrip('/')}{path}")
    return "\n\n".join(lines) + "\n"
