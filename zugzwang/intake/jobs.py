"""Background jobs: requested, with progress and outcome, and cancellable.

A job whose worker died sends no sign; `reap` puts it back in the queue, where it continues after what it stored, and gives
up after `ATTEMPTS_MAX`. Nothing is half done meanwhile: site data are written in one transaction at the end.

A job is done when its data are available. Computing lists in advance follows as a task that gives way to any waiting job
(`get_ready`).
"""

import logging
import time
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from datetime import date, datetime, timedelta
from typing import Any

from django.conf import settings
from django.db import OperationalError, close_old_connections, transaction
from django.db.models import F, Sum
from django.utils import timezone
from django_tasks import TaskResultStatus, task
from django_tasks_db.models import DBTaskResult

from zugzwang import bounded
from zugzwang.access import OPERATOR, Actor
from zugzwang.changing import changes_site
from zugzwang.core.facts.grains import TEXT_SERVICE
from zugzwang.core.facts.periods import Period
from zugzwang.data.audit import note
from zugzwang.data.heartbeats import beat
from zugzwang.data.models import Block, Connection, Job, JobPart, Report, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.data.storage_errors import storage_words
from zugzwang.errors import FileRefused, Invalid, NotFound, ProductError
from zugzwang.intake import crawling, fetching_above, overview, refreshing, uploads
from zugzwang.intake.loading import LoadOptions, TableRequest, load_file
from zugzwang.intake.tables import Choices
from zugzwang.logs import request_id
from zugzwang.plan import report_mail, site_archive
from zugzwang.processes import stop_requested
from zugzwang.subjects.sites import check_may_add, free_slug
from zugzwang.subjects.warming import GETTING_READY, warm

log = logging.getLogger(__name__)
State, Kind = Job.State, Job.Kind
TELL_SECONDS = 0.3
BEAT_SECONDS = 5.0
ATTEMPTS_MAX = 3
IN_LINE_SECONDS = 1
# For work without a file, where a limit by file size makes no sense.
TOO_MUCH = {
    "message": "This took more memory or time than allowed.",
    "remedy": "Request less at once, or ask your administrator for higher limits.",
}
CANCELLED = {"message": "Cancelled. Nothing was changed."}
LOG_LINES = 300
# The memory of writing beyond reading. Measured: files of 150,000 rows (15 MB), each row with a different page, loaded one
# after another, take 1.8, 1.9, 2.0 and 2.2 GB, on both databases.
MERGE_BASE_BYTES, MERGE_ROW_BYTES = 700_000_000, 1_000


class Cancelled(Exception):
    pass


# --- asking ------------------------------------------------------------------------------------------------------------


@changes_site()
def start_load(actor: Actor, site: Site, upload: str, request: dict[str, Any]) -> Job:
    """A job that loads an upload. `request`: tables (by index: source, mapping, choices, skip), mode, keep_good_rows. Raises
    Invalid when the upload is gone.
    """
    _, name = uploads.find(site, upload)
    note(actor.user, site, "load", name, mode=request.get("mode"))
    return _ask(site, actor, Kind.LOAD, f"Load {name}", {**request, "upload": upload, "name": name})


@changes_site()
def ask_for_refresh(actor: Actor, site: Site, connections: Sequence[int] | None = None) -> Job:
    """A job that fetches missing data from the site's services, or from some of them."""
    stored = Connection.objects.filter(site=site).exclude(source=TEXT_SERVICE)
    chosen = list((stored.filter(id__in=connections) if connections is not None else stored).values_list("id", flat=True))
    if not chosen:
        raise Invalid("No service is connected.", "Connect one under Data first.")
    # In one transaction, so of two simultaneous requests one is refused.
    _refuse_second(site, Kind.REFRESH, "The site is already being refreshed.")
    note(actor.user, site, "fetch", "services")
    return _ask(site, actor, Kind.REFRESH, "Refresh", {"connections": chosen})


def ask_for_all(actor: Actor) -> list[Job]:
    """A refresh for every site with services that one may change, unless one is running."""
    asked = []
    for site in actor.sites().filter(connections__isnull=False).distinct():
        if not actor.may_change(site):
            continue
        try:
            asked.append(ask_for_refresh(actor, site.slug))
        except Invalid:
            continue
    return asked


@changes_site()
def ask_for_crawl(actor: Actor, site: Site, request: dict[str, Any]) -> Job:
    crawling.ask_for(site, request)
    _refuse_second(site, Kind.CRAWL, "The site is already being crawled.")
    note(actor.user, site, "crawl", site.address)
    return _ask(site, actor, Kind.CRAWL, f"Crawl {site.address}", request)


def fetch_competing_pages(actor: Actor, slug: str, queries: Sequence[int] | None, private_allowed: bool = False) -> Job:
    """A job that fetches other sites' pages from the SERPs of some queries, or of all captured ones."""
    site = actor.site_to_change(slug)
    if not fetching_above.wanted(site, queries).addresses:
        raise Invalid("All of these pages were fetched within thirty days.", "Use them, or wait.")
    result = {"queries": None if queries is None else list(queries), "private_allowed": private_allowed}
    return _store_above(actor, slug, result)


@changes_site()
def _store_above(actor: Actor, site: Site, result: dict[str, Any]) -> Job:
    _refuse_second(site, Kind.ABOVE, "Competing pages are already being fetched.")
    note(actor.user, site, "fetch", "pages of others")
    return _ask(site, actor, Kind.ABOVE, "Fetch competing pages", result)


def ask_for_archive(actor: Actor, name: str, chunks: Iterable[bytes], size: int) -> Job:
    """A new site, and a job that fills it from an archive. Raises Invalid where the file is not a site archive."""
    check_may_add(actor)
    key = uploads.keep(None, name, chunks, size)
    path = uploads.file_of(key)
    try:
        result = bounded.run(bounded.UPLOAD.of_file(path), site_archive.about, path, name)
        with transaction.atomic():
            site = site_archive.add_for(actor, result, free_slug(result.slug))
            uploads.give_to(site, key)
            return _ask(site, actor, Kind.ARCHIVE, f"Take in {name}", {"upload": key, "name": name})
    except BaseException:
        uploads.discard(key)
        raise


def ask_for_report(report: Report, actor: Actor = OPERATOR) -> Job:
    """A job that makes a due report, unless it exists, and sends its mails."""
    title = f"Report “{report.name}”" if report.made_at is None else f"Send the report “{report.name}”"
    return _ask(report.site, actor, Kind.REPORT, title, {"report": report.id})


def _refuse_second(site: Site, kind: str, message: str) -> None:
    reap()
    if Job.objects.filter(site=site, kind=kind, state__in=(State.WAITING, State.RUNNING)).exists():
        raise Invalid(message, "Wait until it is done, or cancel it.")


def _ask(site: Site, actor: Actor, kind: str, title: str, request: dict[str, Any]) -> Job:
    result = {**request, "request_id": request_id.get()} if request_id.get() else request
    job = Job.objects.create(site=site, user=actor.user, kind=kind, title=title[:300], request=result)
    run_job.enqueue(job.id)
    return job


@changes_site()
def retry_job(actor: Actor, site: Site, job_id: int, keep_good_rows: bool) -> Job:
    """Repeat a job: a load as a new job, a fetch or crawl from where it stopped."""
    old = find(actor, site.slug, job_id)
    if old.state not in (State.REFUSED, State.FAILED, State.CANCELLED):
        raise Invalid("This work has not failed.", "Nothing to repeat.")
    if old.kind == Kind.LOAD:
        return start_load(actor, site.slug, old.request["upload"], {**old.request, "keep_good_rows": keep_good_rows})
    _refuse_second(site, old.kind, "This work is already running.")
    Job.objects.filter(id=old.id).update(
        state=State.WAITING, cancel_requested=False, attempts=0, ended_at=None, outcome={}, heard_at=timezone.now()
    )
    run_job.enqueue(old.id)
    old.refresh_from_db()
    return old


@changes_site()
def cancel(actor: Actor, site: Site, job_id: int) -> Job:
    job = find(actor, site.slug, job_id)
    Job.objects.filter(id=job.id, state=State.WAITING).update(state=State.CANCELLED, ended_at=timezone.now())
    Job.objects.filter(id=job.id).update(cancel_requested=True)
    job.refresh_from_db()
    return job


def find(actor: Actor, slug: str, job_id: int) -> Job:
    reap()
    job = Job.objects.filter(site=actor.site(slug), id=job_id).first()
    if job is None:
        raise NotFound("This job does not exist.", "Check the list of jobs.")
    return job


def recent(actor: Actor, slug: str, limit: int = 20) -> list[Job]:
    reap()
    return list(Job.objects.filter(site=actor.site(slug)).defer("refused_rows")[:limit])


# --- keeping it going --------------------------------------------------------------------------------------------------


def reap() -> None:
    """Put running jobs without a living worker back in the queue."""
    silent_since = timezone.now() - timedelta(seconds=settings.JOB_SILENCE_SECONDS)
    Job.objects.filter(state=State.DONE, heard_at__lt=silent_since).exclude(step="").update(step="")
    for job in Job.objects.filter(state=State.RUNNING, heard_at__lt=silent_since):
        still_silent = Job.objects.filter(id=job.id, state=State.RUNNING, heard_at=job.heard_at)
        if job.attempts >= ATTEMPTS_MAX:
            message = "The worker stopped repeatedly. Nothing was changed."
            still_silent.update(
                state=State.FAILED, ended_at=timezone.now(), outcome={"message": message, "remedy": "Try again."}
            )
        elif still_silent.update(state=State.WAITING, heard_at=timezone.now()):
            _log(job, "The worker stopped; the job continues.")
            run_job.enqueue(job.id)


def nightly(now: datetime) -> int:
    """Queue tonight's refreshes, once a night for each connection that needs it; returns the number of sites."""
    hour, minute = (int(part) for part in settings.NIGHTLY_AT.split(":"))
    at = now.replace(hour=hour, minute=minute, second=0, microsecond=0)
    last = at if at <= now else at - timedelta(days=1)
    due: dict[str, list[int]] = {}
    wanted = Connection.objects.filter(nightly=True, site__deleted_at=None, site__archived_at=None)
    for one in wanted.exclude(source=TEXT_SERVICE).select_related("site"):
        if one.requested_at is None or one.requested_at < last:
            due.setdefault(one.site.slug, []).append(one.id)
    asked = 0
    for slug, connections in due.items():
        try:
            ask_for_refresh(Actor(None), slug, connections)
        except Invalid:
            continue  # another one is running; retried in a minute
        Connection.objects.filter(id__in=connections).update(requested_at=now)
        asked += 1
    return asked


def reports_due(now: datetime) -> int:
    """Queue due reports and mails to retry; returns their number."""
    asked = report_mail.come_due(now, ask_for_report)
    waiting = Job.objects.filter(kind=Kind.REPORT, state__in=(State.WAITING, State.RUNNING))
    under_way = set(waiting.values_list("request__report", flat=True))
    for report in report_mail.with_mails_due(now):
        if report.id not in under_way:
            ask_for_report(report)
            asked += 1
    return asked


# --- doing it ----------------------------------------------------------------------------------------------------------


@task()
def show_life() -> None:
    """Run by an idle worker as a sign of life; a busy one shows it by its job's heartbeat."""
    beat("worker")


def ask_for_beat() -> None:
    """Ask the workers for a sign of life, unless one is pending."""
    asked = DBTaskResult.objects.filter(task_path=show_life.module_path)
    if not asked.filter(status=TaskResultStatus.READY).exists():
        asked.filter(status=TaskResultStatus.SUCCESSFUL).delete()
        show_life.enqueue()


@task()
def run_job(job_id: int) -> None:
    if not _begins(job_id):
        return
    job = Job.objects.select_related("site").get(id=job_id)
    request_id.set(str(job.request.get("request_id", "")))
    log.info("Job %s (%s) of %s begins, attempt %s", job.id, job.kind, job.site.slug, job.attempts)
    if not job.outcome:
        _in_process(job, work_on, _memory_for(job))
    job.refresh_from_db(fields=["state", "outcome"])
    if job.state == State.RUNNING and job.outcome:
        ended = {"state": State.DONE, "ended_at": timezone.now(), "step": GETTING_READY, "done_share": 0.0}
        Job.objects.filter(id=job_id, state=State.RUNNING).update(**ended)
        get_ready.enqueue(job_id)


@task(priority=-50)
def get_ready(job_id: int) -> None:
    """Compute the default lists of a job's site. Waiting jobs come first; it then continues after them."""
    job = Job.objects.select_related("site").get(id=job_id)
    if Job.objects.filter(site=job.site, state=State.DONE, id__gt=job_id).exclude(step="").exists():
        _is_ready(job)  # a later run handles it
        return
    kind = replace(bounded.JOB, memory_bytes=settings.JOB_MEMORY_BYTES)
    try:
        with stop_requested() as asked:
            bounded.run(kind, make_ready, job_id, watch=_Watch(job, lambda: asked() or others_wait()))
    except bounded.Stopped:
        if Job.objects.filter(id=job_id, cancel_requested=True).exists():
            _is_ready(job)  # cancelled at the last moment: lists are computed on demand
            return
        get_ready.using(run_after=timezone.now() + timedelta(seconds=IN_LINE_SECONDS)).enqueue(job_id)
        return
    except bounded.LimitReached as error:
        log.warning("The lists of %s are calculated when opened: %s", job.site, error.message)
    _is_ready(job)


def _is_ready(job: Job) -> None:
    Job.objects.filter(id=job.id, state=State.DONE).update(step="")


def others_wait() -> bool:
    """Whether a job is waiting that could start."""
    at_work = Job.objects.filter(state=State.RUNNING).values("site")
    return Job.objects.filter(state=State.WAITING).exclude(site__in=at_work).exists()


def _begins(job_id: int) -> bool:
    """Whether the job may run now: one at a time for each site, so no site takes all workers. It waits again where another one
    runs.
    """
    with transaction.atomic():
        # Checking and starting are atomic: otherwise two workers would both find nothing running.
        if Site.objects.select_for_update().filter(jobs=job_id).first() is None:
            return False
        waiting = Job.objects.filter(id=job_id, state=State.WAITING)
        if Job.objects.filter(site__jobs=job_id, state=State.RUNNING).exclude(id=job_id).exists():
            if waiting.exists():
                run_job.using(run_after=timezone.now() + timedelta(seconds=IN_LINE_SECONDS)).enqueue(job_id)
            return False
        return bool(waiting.update(state=State.RUNNING, heard_at=timezone.now(), attempts=F("attempts") + 1))


def _memory_for(job: Job) -> int:
    """The memory that a job may use: for a load, what its file and the site's rows need."""
    if job.kind != Kind.LOAD:
        return int(settings.JOB_MEMORY_BYTES)
    try:
        reading = bounded.bytes_for(uploads.find(job.site, job.request["upload"])[0])
    except NotFound:
        return bounded.UPLOAD_BASE_BYTES
    stored = Block.objects.filter(site=job.site).aggregate(rows=Sum("rows"))["rows"] or 0
    return min(reading + MERGE_BASE_BYTES + MERGE_ROW_BYTES * int(stored), int(settings.JOB_MEMORY_BYTES))


def _in_process(job: Job, work: Callable[[int], None], memory_bytes: int) -> None:
    """Do a part of the work in a separate process, which ends within a second of being cancelled."""
    unfinished = Job.objects.filter(id=job.id, state=State.RUNNING, outcome={})
    try:
        bounded.run(replace(bounded.JOB, memory_bytes=memory_bytes), work, job.id, watch=_Watch(job))
    except bounded.Stopped:
        unfinished.update(state=State.CANCELLED, outcome=CANCELLED, ended_at=timezone.now())
    except bounded.LimitReached as error:
        outcome = {"message": error.message, "remedy": error.remedy} if job.kind == Kind.LOAD else TOO_MUCH
        unfinished.update(state=State.REFUSED, outcome=outcome, ended_at=timezone.now())


def work_on(job_id: int) -> None:
    """Do what a job asks for and return its outcome."""
    job = Job.objects.select_related("site", "user").get(id=job_id)
    work: dict[str, Callable[[Job, _Teller], None]] = {
        Kind.LOAD: _load,
        Kind.REFRESH: _refresh,
        Kind.CRAWL: _crawl,
        Kind.ABOVE: _above,
        Kind.REPORT: _report,
        Kind.ARCHIVE: _take_in,
    }
    try:
        work[job.kind](job, _Teller(job))
    except Cancelled:
        _end(job, State.CANCELLED, CANCELLED)
    except FileRefused as error:
        problems = [vars(problem) for problem in error.refusals.first]
        outcome = {"message": error.message, "problems": problems, "counts": error.refusals.counts, "rows": error.refusals.rows}
        _end(job, State.REFUSED, outcome)
    except ProductError as error:
        _end(job, State.REFUSED, {"message": error.message, "remedy": error.remedy})
    except MemoryError:
        raise
    except Exception as error:
        message, remedy = storage_words(error) or ("Something went wrong. Nothing was changed.", "Try again.")
        _end(job, State.FAILED, {"message": message, "remedy": remedy})
        raise


def _load(job: Job, tell: "_Teller") -> None:
    request = job.request
    path, name = uploads.find(job.site, request["upload"])
    asked = LoadOptions(
        tables=tables_requested(request.get("tables", {})),
        mode=request.get("mode"),
        keep_good_rows=request.get("keep_good_rows", False),
        dry_run=request.get("dry_run", False),
        user=job.user,
        job=job,
    )
    loaded = load_file(job.site, path, name, tell, asked)
    if asked.dry_run:
        _end(job, State.DONE, loaded.report.as_json(), loaded.refused_csv)
        return
    _succeed(job, loaded.report.as_json(), loaded.refused_csv)
    uploads.discard(request["upload"])


def _take_in(job: Job, tell: "_Teller") -> None:
    path, name = uploads.find(job.site, job.request["upload"])
    with site_archive.filled(job.site, path, name, tell) as current:
        _succeed(job, current)
    uploads.discard(job.request["upload"])


def make_ready(job_id: int) -> None:
    """Compute each place's default list, so no one waits for it."""
    job = Job.objects.get(id=job_id)
    try:
        site = Site.objects.get(id=job.site_id)
        warm(Snapshot(site), _Teller(job), timezone.localdate())
        overview.make(site, timezone.localdate())
    except Cancelled:
        log.info("The lists of %s are calculated when first opened", job.site)
    except Exception:
        log.exception("The lists of %s could not be prepared", job.site)


def _choices(result: dict[str, Any]) -> Choices:
    span = result.get("span")
    days = [one if isinstance(one, date) else date.fromisoformat(one) for one in (span["first"], span["last"])] if span else []
    if days and days[1] < days[0]:
        raise Invalid("The span ends before it begins.", "Swap the two days.", "span")
    return Choices(**{**result, "span": Period(days[0], days[1]) if days else None})


def tables_requested(result: dict[str, Any]) -> dict[int, TableRequest]:
    """How to read the tables of a file, from a request."""
    return {
        int(number): TableRequest(
            source=one.get("source"),
            mapping=one.get("mapping"),
            choices=_choices(one.get("choices") or {}),
            skip=bool(one.get("skip", False)),
        )
        for number, one in result.items()
    }


def _refresh(job: Job, tell: "_Teller") -> None:
    _succeed(job, refreshing.refresh(job, tell, lambda line: _log(job, line)))
    JobPart.objects.filter(job=job).delete()


def _crawl(job: Job, tell: "_Teller") -> None:
    _succeed(job, crawling.crawl(job, tell, lambda line: _log(job, line)))
    JobPart.objects.filter(job=job).delete()


def _above(job: Job, tell: "_Teller") -> None:
    _succeed(job, fetching_above.fetch_above(job, tell, lambda line: _log(job, line)))
    JobPart.objects.filter(job=job).delete()


def _report(job: Job, tell: "_Teller") -> None:
    report = Report.objects.select_related("site", "template").filter(id=job.request["report"]).first()
    if report is None:
        raise NotFound("The report was deleted in the meantime.", "Nothing was sent.")
    tell("Making the report", 0.1)
    report_mail.make_due(report)
    tell("Sending", 0.6)
    went, stayed = report_mail.send_waiting(report)
    words = f"{went} of {went + stayed} mails sent." if went + stayed else "The report is made."
    _end(job, State.DONE, {"message": words})


def _succeed(job: Job, outcome: dict[str, Any], refused_rows: bytes | None = None) -> None:
    """Whether the job's work is done, apart from computing lists in advance."""
    Job.objects.filter(id=job.id).update(outcome=outcome, refused_rows=refused_rows, heard_at=timezone.now())


def _end(job: Job, state: str, outcome: dict[str, Any], refused_rows: bytes | None = None) -> None:
    Job.objects.filter(id=job.id).update(
        state=state, step="", outcome=outcome, refused_rows=refused_rows, ended_at=timezone.now(), heard_at=timezone.now()
    )


def _log(job: Job, line: str) -> None:
    job.refresh_from_db(fields=["log"])
    lines = [*job.log, {"at": timezone.now().isoformat(timespec="seconds"), "line": line}][-LOG_LINES:]
    Job.objects.filter(id=job.id).update(log=lines)


class _Teller:
    """Writes progress to the job at intervals, and stops the work when someone cancels it."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self.reported_at = 0.0

    def __call__(self, step: str, share: float) -> None:
        if time.monotonic() - self.reported_at < TELL_SECONDS:
            return
        self.reported_at = time.monotonic()
        try:
            Job.objects.filter(id=self.job.id).update(step=step[:200], done_share=share, heard_at=timezone.now())
        except OperationalError:
            return  # the database is busy: progress can be reported later
        if Job.objects.filter(id=self.job.id, cancel_requested=True).exists():
            raise Cancelled


class _Watch:
    """Asked ten times a second during the work: records that the worker lives, and whether to stop: the job was cancelled, or
    `also` says so.
    """

    def __init__(self, job: Job, also: Callable[[], bool] = lambda: False) -> None:
        self.job, self.also = job, also
        self.beaten_at = time.monotonic()

    def __call__(self) -> bool:
        now = time.monotonic()
        try:
            if now - self.beaten_at > min(BEAT_SECONDS, settings.JOB_SILENCE_SECONDS / 4):
                Job.objects.filter(id=self.job.id, state__in=(State.RUNNING, State.DONE)).update(heard_at=timezone.now())
                beat("worker")
                self.beaten_at = now
            return Job.objects.filter(id=self.job.id, cancel_requested=True).exists() or self.also()
        except OperationalError as error:
            # Another long write, or a database away for a moment: the work continues, and its sign of life comes a little
            # later.
            log.warning("The heartbeat of job %s has to wait: %s", self.job.id, error)
            close_old_connections()
            return False
