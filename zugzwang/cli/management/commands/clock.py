"""`manage.py clock`: timed tasks – resumed jobs, nightly refreshes, reports, backups, cleaning up."""

import logging
import signal
import threading
from collections.abc import Callable
from datetime import UTC, datetime, time, timedelta
from typing import Any

from django.conf import settings
from django.db import close_old_connections
from django.utils import timezone

from zugzwang.cli.base import ProductCommand
from zugzwang.data import backup
from zugzwang.data.heartbeats import beat, silent
from zugzwang.data.sweeping import sweep
from zugzwang.intake import jobs, overview

log = logging.getLogger(__name__)
LOOK_SECONDS, OVERVIEW_SECONDS = 30, 20.0


class Command(ProductCommand):
    help = "Start what is due: refreshes, reports, clean-up. One clock runs next to the workers."

    def handle(self, *args: Any, **options: Any) -> None:
        stopped = threading.Event()
        for sign in (signal.SIGTERM, signal.SIGINT):
            signal.signal(sign, lambda *_: stopped.set())
        while not stopped.is_set():
            look(timezone.localtime())
            stopped.wait(min(LOOK_SECONDS, settings.JOB_SILENCE_SECONDS))


_swept: list[datetime] = []
_warned: list[datetime] = []


def look(now: datetime) -> None:
    """Run everything that is due; a failure is logged and does not stop the rest."""
    for what in (
        lambda: beat("clock"),
        jobs.ask_for_beat,
        lambda: _tell_silent(now),
        jobs.reap,
        lambda: jobs.nightly(now),
        lambda: jobs.reports_due(now),
        lambda: _sweep(now),
        lambda: _back_up(now),
        lambda: overview.make_all(OVERVIEW_SECONDS),
    ):
        _seen_to(what)


def _tell_silent(now: datetime) -> None:
    """Log from time to time that the worker does not respond."""
    if _warned and now - _warned[-1] < timedelta(minutes=10):
        return
    for words in silent(now):
        _warned[:] = [now]
        log.warning("Background work is behind: %s", words)


def _seen_to(what: Callable[[], object]) -> None:
    close_old_connections()
    try:
        what()
    except Exception:
        log.exception("A due task failed; it is tried again")


def _sweep(now: datetime) -> None:
    if _swept and now - _swept[-1] < timedelta(days=1):
        return
    _swept[:] = [now]
    if gone := sweep(now):
        log.info("Swept: %s", ", ".join(f"{number} {name}" for name, number in gone.items()))


def _back_up(now: datetime) -> None:
    """Make the nightly backup, if a folder is set for it and none was made since its hour."""
    if not settings.BACKUP_DIR:
        return
    folder = backup.folder_of()
    at = datetime.combine(now.date(), time.fromisoformat(settings.BACKUP_AT), now.tzinfo)
    due = at if at <= now else at - timedelta(days=1)
    current = backup.backups(folder)
    newest = backup.made_at(current[-1]) if current else None
    if newest is not None and newest >= due:
        return
    made = backup.back_up(folder, now=now.astimezone(UTC))
    backup.keep_newest(folder, settings.BACKUP_KEEP)
    log.info("Backup %s, %.0f MB, verified", made.name, made.stat().st_size / 1e6)
