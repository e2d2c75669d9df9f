"""Long work in the background: it is asked for, tells how far it is, can be cancelled, and says what came of it.

A job whose worker died is heard of no more; `reap` marks it failed after `JOB_SILENCE_SECONDS`, and it can be asked for
again. Nothing is half done then: a load writes in one transaction at its end.
"""

from datetime import timedelta
from typing import Any

from django.conf import settings
from django.utils import timezone
from django_tasks import task

from zugzwang.access import Actor
from zugzwang.errors import FileRefused, Invalid, NotFound, ProductError
from zugzwang.intake import uploads
from zugzwang.intake.columns import check_mapping, missing
from zugzwang.intake.delimited import open_table
from zugzwang.intake.loading import load_search_facts
from zugzwang.store.models import Job

State = Job.State
TELL_SECONDS = 0.3


class Cancelled(Exception):
    pass


def ask_for_load(actor: Actor, slug: str, upload: str, mapping: dict[str, int], days: str, keep_good_rows: bool) -> Job:
    """A job that will load an upload. Invalid when the columns do not fit the file."""
    site = actor.site_to_change(slug)
    path, name = uploads.find(site, upload)
    header = open_table(path, name).header
    absent = missing(check_mapping(mapping, header))
    if absent:
        raise Invalid(f"No column is chosen for {', '.join(absent)}.", "Choose one for each.", "mapping")
    request = {"upload": upload, "name": name, "mapping": mapping, "days": days, "keep_good_rows": keep_good_rows}
    job = Job.objects.create(site=site, user=actor.user, title=f"Load {name}", request=request)
    run_load.enqueue(job.id)
    return job


def ask_again(actor: Actor, slug: str, job_id: int, keep_good_rows: bool) -> Job:
    """A new job for the file of one that was refused, failed or cancelled, as it was asked for then."""
    old = find(actor, slug, job_id)
    if old.state not in (State.REFUSED, State.FAILED, State.CANCELLED):
        raise Invalid("This load has not failed.", "There is nothing to do again.")
    request = old.request
    return ask_for_load(actor, slug, request["upload"], request["mapping"], request["days"], keep_good_rows)


def cancel(actor: Actor, slug: str, job_id: int) -> Job:
    job = find(actor, slug, job_id)
    actor.site_to_change(slug)
    Job.objects.filter(id=job.id, state=State.WAITING).update(state=State.CANCELLED, ended_at=timezone.now())
    Job.objects.filter(id=job.id).update(cancel_asked=True)
    job.refresh_from_db()
    return job


def find(actor: Actor, slug: str, job_id: int) -> Job:
    reap()
    job = Job.objects.filter(site=actor.site(slug), id=job_id).first()
    if job is None:
        raise NotFound("There is no such job.", "Look at the site's list of jobs.")
    return job


def recent(actor: Actor, slug: str, limit: int = 20) -> list[Job]:
    reap()
    return list(Job.objects.filter(site=actor.site(slug)).defer("refused_rows")[:limit])


def reap() -> None:
    """Mark running jobs failed whose worker has not been heard of."""
    silent_since = timezone.now() - timedelta(seconds=settings.JOB_SILENCE_SECONDS)
    Job.objects.filter(state=State.RUNNING, heard_at__lt=silent_since).update(
        state=State.FAILED,
        ended_at=timezone.now(),
        outcome={"message": "The worker stopped in the middle; nothing was changed.", "remedy": "Load the file again."},
    )


@task()
def run_load(job_id: int) -> None:
    started = Job.objects.filter(id=job_id, state=State.WAITING).update(state=State.RUNNING, heard_at=timezone.now())
    if not started:
        return  # cancelled before it began
    job = Job.objects.select_related("site").get(id=job_id)
    request: dict[str, Any] = job.request
    try:
        path, name = uploads.find(job.site, request["upload"])
        loaded = load_search_facts(
            job.site, path, name, _Teller(job), request["mapping"], request["days"], request["keep_good_rows"]
        )
        _end(job, State.DONE, loaded.report.as_json(), loaded.refused_csv)
        uploads.discard(request["upload"])
    except Cancelled:
        _end(job, State.CANCELLED, {"message": "Cancelled; nothing was changed."})
    except FileRefused as error:
        problems = [vars(problem) for problem in error.refusals.first]
        outcome = {"message": error.message, "problems": problems, "counts": error.refusals.counts, "rows": error.refusals.rows}
        _end(job, State.REFUSED, outcome)
    except ProductError as error:
        _end(job, State.REFUSED, {"message": error.message, "remedy": error.remedy})
    except Exception:
        _end(job, State.FAILED, {"message": "Something broke here; nothing was changed.", "remedy": "Try again."})
        raise


def _end(job: Job, state: str, outcome: dict[str, Any], refused_rows: bytes | None = None) -> None:
    Job.objects.filter(id=job.id).update(
        state=state, outcome=outcome, refused_rows=refused_rows, ended_at=timezone.now(), heard_at=timezone.now()
    )


class _Teller:
    """Writes progress to the job now and then, and stops the work when someone asked for it."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self.told_at = timezone.now() - timedelta(days=1)

    def __call__(self, step: str, share: float) -> None:
        now = timezone.now()
        if (now - self.told_at).total_seconds() < TELL_SECONDS:
            return
        self.told_at = now
        Job.objects.filter(id=self.job.id).update(step=step, done_share=share, heard_at=now)
        if Job.objects.filter(id=self.job.id, cancel_asked=True).exists():
            raise Cancelled
