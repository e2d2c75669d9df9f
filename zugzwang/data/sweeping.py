"""What the clock deletes: data that nothing uses any more, after the days in docs/operating.md."""

import shutil
from datetime import datetime, timedelta

from axes.models import AccessAttempt, AccessFailureLog, AccessLog
from django.conf import settings
from django.contrib.sessions.models import Session
from django_tasks_db.models import DBTaskResult

from zugzwang.data.block_store import sweep_store
from zugzwang.data.database_copy import compact
from zugzwang.data.models import Block, Job, JobPart, LoadPart, Site

SIGN_INS, TASKS, REFUSED_ROWS, TAKEN_BACK, DELETED, EXPORTS = (timedelta(days=one) for one in (90, 14, 90, 30, 30, 1))


def _sweep_exports(now: datetime) -> int:
    """Export folders of killed processes."""
    old = [
        one
        for pattern in (".export-*", ".archive-*")
        for one in settings.DATA_DIR.glob(pattern)
        if now.timestamp() - one.stat().st_mtime > EXPORTS.total_seconds()
    ]
    for one in old:
        shutil.rmtree(one, ignore_errors=True)
    return len(old)


def sweep(now: datetime) -> dict[str, int]:
    """Delete what is past its retention; returns the number of each kind."""
    ended = Job.objects.filter(ended_at__lt=now - REFUSED_ROWS)
    gone = {
        "sessions": Session.objects.filter(expire_date__lt=now).delete()[0],
        "sign-ins": sum(
            kind.objects.filter(attempt_time__lt=now - SIGN_INS).delete()[0]
            for kind in (AccessAttempt, AccessFailureLog, AccessLog)
        ),
        "tasks": DBTaskResult.objects.filter(finished_at__lt=now - TASKS).delete()[0],
        "refused rows": ended.exclude(refused_rows=None).update(refused_rows=None),
        "parts of jobs": JobPart.objects.filter(job__in=ended).delete()[0],
        # An undone load stays in the list; its rows are no longer needed.
        "rows of loads": LoadPart.objects.filter(load__taken_back_at__lt=now - TAKEN_BACK).delete()[0],
    }
    deleted = Site.objects.filter(deleted_at__lt=now - DELETED)
    gone["sites"] = deleted.count()
    deleted.delete()
    gone["unfinished exports"] = _sweep_exports(now)
    gone["stored bytes"] = sweep_store(now, (Block, LoadPart))
    gone["bytes of the database"] = compact()
    return {name: number for name, number in gone.items() if number}
