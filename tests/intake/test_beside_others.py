"""Jobs at the same time: two jobs of a site never run together, a long write lets others write, a heartbeat survives a busy
database, and a deleted site's job ends.
"""

import sqlite3
import threading
import time
from collections.abc import Callable
from datetime import timedelta
from typing import Any

import polars as pl
import pytest
from django.conf import settings
from django.db import OperationalError, connection, connections
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from tests.conftest import WriteCsv
from zugzwang import bounded
from zugzwang.access import OPERATOR
from zugzwang.data.dictionary import ids_for
from zugzwang.data.models import Job, Page, Site
from zugzwang.intake import jobs, uploads
from zugzwang.people.members import delete_site
from zugzwang.subjects.warming import GETTING_READY

on_sqlite = pytest.mark.skipif(settings.DATABASES["default"] is not settings.SQLITE, reason="SQLite's one write lock")


def in_thread(work: Any) -> threading.Thread:
    def run() -> None:
        try:
            work()
        finally:
            connections.close_all()

    thread = threading.Thread(target=run)
    thread.start()
    return thread


@pytest.mark.django_db(transaction=True)
def test_two_workers_start_one_job_of_a_site(monkeypatch: pytest.MonkeyPatch) -> None:
    """Both check at the same moment whether another job of the site runs; one starts, the other waits."""
    site = Site.objects.create(slug="shop", name="Shop", address="https://shop.example")
    stored = [Job.objects.create(site=site, title=str(number), kind="crawl") for number in range(6)]
    together, most, running, guard = threading.Barrier(6), [0], [0], threading.Lock()

    def worked(job: Job, *_: Any) -> None:
        with guard:
            running[0] += 1
            most[0] = max(most[0], running[0])
        time.sleep(0.3)
        with guard:
            running[0] -= 1
        Job.objects.filter(id=job.id).update(outcome={"message": "done"})

    monkeypatch.setattr(jobs, "_in_process", worked)

    def work(number: int) -> None:
        together.wait(10)
        jobs.run_job.func(number)

    threads = [in_thread(lambda number=one.id: work(number)) for one in stored]
    for one in threads:
        one.join(30)
    assert most == [1]
    waiting, done = Job.objects.filter(state="waiting").count(), Job.objects.filter(state="done").count()
    assert waiting + done == 6
    assert done >= 1


@on_sqlite
@pytest.mark.django_db(transaction=True)
def test_others_write_while_many_pages_are_added() -> None:
    """A site's load adds pages by the million: others wait for one batch at most."""
    site = Site.objects.create(slug="shop", name="Shop", address="https://shop.example")
    other = Site.objects.create(slug="other", name="Other", address="https://other.example")
    texts = pl.Series([f"https://shop.example/{number}" for number in range(600_000)])
    adding = in_thread(lambda: ids_for(site, Page, texts))
    waits, started = [], time.monotonic()
    while adding.is_alive():
        begun = time.monotonic()
        Site.objects.filter(id=other.id).update(min_impressions=len(waits))
        waits.append(time.monotonic() - begun)
        time.sleep(0.02)
    assert Page.objects.filter(site=site).count() == 600_000
    assert len(waits) > 5
    assert max(waits) < (time.monotonic() - started) / 2  # in one transaction, someone waits for all of it


@on_sqlite
@pytest.mark.django_db(transaction=True)
def test_a_heartbeat_survives_a_busy_database(caplog: pytest.LogCaptureFixture) -> None:
    site = Site.objects.create(slug="shop", name="Shop", address="https://shop.example")
    job = Job.objects.create(site=site, title="Crawl", kind="crawl", state="running")
    Job.objects.update(heard_at=timezone.now() - timedelta(minutes=1))
    watch = jobs._Watch(job)
    watch.beaten_at -= 100
    connection.ensure_connection()
    connection.connection.execute("PRAGMA busy_timeout = 50")
    writer = sqlite3.connect(settings.DATABASES["default"]["NAME"], isolation_level=None)
    writer.execute("BEGIN IMMEDIATE")
    try:
        with pytest.raises(OperationalError):
            Job.objects.update(step="x")
        assert watch() is False  # the work goes on
    finally:
        writer.execute("ROLLBACK")
        writer.close()
    assert "has to wait" in caplog.text
    watch()
    job.refresh_from_db()
    assert timezone.now() - job.heard_at < timedelta(seconds=20)


def test_a_load_is_done_before_the_lists_are_ready(site: Site, write_csv: WriteCsv, monkeypatch: pytest.MonkeyPatch) -> None:
    """Viewing loaded data, and loading more, do not wait for lists."""
    key = uploads.keep(
        site, "facts.csv", [write_csv([["2026-11-09", "https://shop.example/a", "x", 1, 10, 2]]).read_bytes()], 99
    )
    job = jobs.start_load(OPERATOR, site.slug, key, {})
    jobs.run_job.func(job.id)
    job.refresh_from_db()
    assert (job.state, job.step, job.outcome["loaded"]) == ("done", GETTING_READY, 1)

    def stopped(kind: bounded.Kind, work: Any, *args: Any, watch: Callable[[], bool]) -> None:
        assert work is jobs.make_ready
        if watch():
            raise bounded.Stopped
        work(*args)

    monkeypatch.setattr(bounded, "run", stopped)
    made: list[str] = []
    monkeypatch.setattr(jobs, "warm", lambda snapshot, *_: made.append(snapshot.site.slug))
    in_line = DBTaskResult.objects.filter(task_path=jobs.get_ready.module_path)
    waiting = Job.objects.create(site=site, title="Crawl", kind="crawl")
    in_line.delete()
    jobs.get_ready.func(job.id)
    assert (made, in_line.count()) == ([], 1)  # it gives way, and is gone on with
    # One that waits for another of its own site does not keep the lists from being made.
    Job.objects.create(site=site, title="Crawl", kind="crawl", state="running")
    jobs.get_ready.func(job.id)
    job.refresh_from_db()
    assert (made, in_line.count(), job.step) == ([site.slug], 1, "")
    waiting.refresh_from_db()
    assert waiting.state == "waiting"
    # One that is cancelled is not asked for again and again.
    Job.objects.filter(id=job.id).update(cancel_requested=True, step=GETTING_READY)
    in_line.delete()
    jobs.get_ready.func(job.id)
    job.refresh_from_db()
    assert (job.step, in_line.count()) == ("", 0)


def test_what_a_dead_worker_left_is_not_told_for_ever(site: Site) -> None:
    Job.objects.create(site=site, title="Load", kind="load", state="done", step=GETTING_READY)
    Job.objects.update(heard_at=timezone.now() - timedelta(days=1))
    assert jobs.recent(OPERATOR, site.slug)[0].step == ""


def test_the_work_of_a_deleted_site_ends(site: Site) -> None:
    waiting = Job.objects.create(site=site, title="Crawl", kind="crawl")
    running = Job.objects.create(site=site, title="Load", kind="load", state="running")
    delete_site(OPERATOR, site.slug)
    waiting.refresh_from_db()
    running.refresh_from_db()
    assert (waiting.state, running.cancel_requested) == ("cancelled", True)
    jobs.run_job.func(waiting.id)
    waiting.refresh_from_db()
    assert waiting.state == "cancelled"
