"""Bounded work: results and errors, behaviour at its limits, and queues."""

import os
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl
import pytest

from bench.hostile import Chance, far_cell
from zugzwang import bounded
from zugzwang.access import OPERATOR
from zugzwang.core.facts.cleaning import Rules, fold
from zugzwang.data.models import Block, Site
from zugzwang.errors import Busy, FileRefused, Invalid
from zugzwang.intake import jobs, uploads
from zugzwang.intake.spreadsheets import sheets_with_tables
from zugzwang.intake.tables import refuse

KIND = bounded.Kind("This test", "Ask for less.", 30.0, memory_bytes=900_000_000)


@pytest.fixture(autouse=True)
def in_processes(settings) -> None:  # type: ignore[no-untyped-def]
    settings.BOUNDED_WORK = True


def needs_much_memory() -> int:
    return int(np.ones(2 * KIND.memory_bytes // 8).sum())


def refuses() -> None:
    raise refuse("a.csv", "it is empty", "Export it again.", line=3)


def asks_wrongly() -> None:
    raise Invalid("There is none.", "Choose one.", "day")


def test_it_returns_the_result() -> None:
    assert bounded.run(KIND, max, 3, 4) == 4


def test_errors_come_back_whole() -> None:
    with pytest.raises(FileRefused) as refused:
        bounded.run(KIND, refuses)
    assert (refused.value.refusals.first[0].line, refused.value.refusals.first[0].message) == (3, "it is empty")
    with pytest.raises(Invalid) as wrong:
        bounded.run(KIND, asks_wrongly)
    assert (wrong.value.message, wrong.value.remedy, wrong.value.field) == ("There is none.", "Choose one.", "day")


def test_more_memory_than_its_limit_ends_only_the_work(tmp_path: Path) -> None:
    with pytest.raises(bounded.LimitReached, match="more memory than its limit of 900 MB"):
        bounded.run(KIND, needs_much_memory)
    path = tmp_path / "far.xlsx"
    path.write_bytes(far_cell(Chance(1)))
    with pytest.raises(bounded.LimitReached, match="more memory"):
        bounded.run(bounded.UPLOAD.of_file(path), sheets_with_tables, path, "far.xlsx")


def test_too_long_or_asked_to_stop() -> None:
    with pytest.raises(bounded.LimitReached, match=r"longer than its limit of 0\.5 seconds"):
        bounded.run(replace(KIND, seconds=0.5), time.sleep, 30)
    begun = time.monotonic()
    with pytest.raises(bounded.Stopped):
        bounded.run(KIND, time.sleep, 30, watch=lambda: True)
    assert time.monotonic() - begun < 10


@pytest.mark.django_db
def test_waiting_and_working_share_the_time_of_a_request() -> None:
    """The work may take the time that remains after waiting; a kind with a longer limit keeps that."""
    bounded.prepare()
    token = bounded.answer_by.set(time.monotonic() + 1.0)
    try:
        begun = time.monotonic()
        with pytest.raises(Busy):
            bounded.run(replace(KIND, seconds=5.0), time.sleep, 30)
        turns = bounded.Turns(at_once=1)
        with turns.turn(1), pytest.raises(Busy), turns.turn(20):
            pass
        assert time.monotonic() - begun < 3
        assert bounded.run(KIND, max, 3, 4) == 4
    finally:
        bounded.answer_by.reset(token)


def test_a_crawl_that_reaches_its_limit_says_nothing_of_a_file(site: Site, monkeypatch: pytest.MonkeyPatch) -> None:
    def breaks(*_: object, **__: object) -> None:
        raise bounded.LimitReached("Reading this file takes more memory than its limit of 900 MB.", "Split the file.")

    monkeypatch.setattr(bounded, "run", breaks)
    job = jobs.ask_for_crawl(OPERATOR, site.slug, {})
    jobs.run_job.func(job.id)
    job.refresh_from_db()
    assert (job.state, job.outcome) == ("refused", jobs.TOO_MUCH)


def test_a_load_may_use_more_memory_the_more_the_site_holds(site: Site, settings: Any) -> None:
    """Before, a file of 15 MB was refused for its memory, which was used by rows already there."""
    key = uploads.keep(site, "facts.csv", [b"x" * 1_000_000], 1_000_000)
    job = jobs.start_load(OPERATOR, site.slug, key, {})
    empty = jobs._memory_for(job)
    assert empty > bounded.bytes_for(uploads.find(site, key)[0])
    Block.objects.create(site=site, grain="page", month=date(2026, 11, 1), rows=1_000_000, checksum="", payload=b"")
    assert jobs._memory_for(job) >= empty + 900_000_000
    Block.objects.update(rows=100_000_000)
    assert jobs._memory_for(job) == settings.JOB_MEMORY_BYTES


def folded(pages: int) -> int:
    texts = [f"https://www.shop.example/products/category-{number % 97}/item-{number}/" for number in range(pages)]
    rows = pl.DataFrame({"id": pl.Series(range(1, pages + 1), dtype=pl.UInt32), "text": texts})
    return fold(rows, "https://www.shop.example", Rules()).height


def test_a_file_that_names_a_page_a_row_is_read_within_the_memory_of_its_size() -> None:
    """The addresses of 400,000 pages in a CSV of 36 MB: merging them took 1.5 GB before."""
    assert bounded.run(KIND, folded, 400_000) == 400_000


READER = """
import os, signal, sys, time
from zugzwang.intake.page_reader import read_in_time, reading_process
if __name__ == "__main__":
    readers = reading_process()
    readers.submit(read_in_time, "https://shop.example/", 200, "text/html", "", None, b"<p>Words.").result()
    print(*readers._processes, flush=True)
    time.sleep(60)
"""


def test_a_page_reader_ends_with_whoever_started_it(tmp_path: Path) -> None:
    """A killed crawl leaves no process behind."""
    (tmp_path / "crawls.py").write_text(READER)
    root = str(Path(__file__).parents[1])
    crawl = subprocess.Popen(
        [sys.executable, tmp_path / "crawls.py"], stdout=subprocess.PIPE, text=True, env={**os.environ, "PYTHONPATH": root}
    )
    assert crawl.stdout is not None
    reader = int(crawl.stdout.readline())
    crawl.kill()
    crawl.wait(10)
    crawl.stdout.close()
    until = time.monotonic() + 10
    while Path(f"/proc/{reader}").exists() and "\nState:\tZ" not in Path(f"/proc/{reader}/status").read_text():
        assert time.monotonic() < until, "the reader is still there"
        time.sleep(0.05)


# --- turns ----------------------------------------------------------------------------------------------------------------


def started(*work: Callable[[], None]) -> list[threading.Thread]:
    threads = [threading.Thread(target=one) for one in work]
    for one in threads:
        one.start()
        time.sleep(0.02)  # so they arrive in this order
    return threads


def test_people_take_turns_however_many_requests_one_of_them_sends() -> None:
    turns, order, free = bounded.Turns(1), list[str](), threading.Event()

    def ask(who: str) -> Callable[[], None]:
        def work() -> None:
            with turns.turn(10, who):
                free.wait(10)
                order.append(who)

        return work

    threads = started(*[ask("greedy")] * 6, ask("patient"), ask("third"))
    free.set()
    for one in threads:
        one.join(10)
    # In the order of arrival, the patient one would be the seventh.
    assert order[:4] == ["greedy", "greedy", "patient", "third"]
    assert len(order) == 8


def test_one_person_gets_part_of_the_turns_and_the_rest_stays_free() -> None:
    turns, current = bounded.Turns(4, each=2), threading.Event()

    def hold() -> None:
        with turns.turn(10, "greedy"):
            current.wait(10)

    threads = started(*[hold] * 6)
    with turns.turn(0.5, "other"):
        pass  # at once: two of the four turns are not for the greedy one
    current.set()
    for one in threads:
        one.join(10)


def test_a_turn_that_does_not_come_is_a_clear_refusal_and_leaves_the_line() -> None:
    turns = bounded.Turns(1, line=1)
    with turns.turn(1, "one"):
        with pytest.raises(Busy, match="busy"), turns.turn(0.05, "two"):
            pass
        waiting = threading.Thread(target=lambda: turns.turn(1, "two").__enter__())
        waiting.start()
        time.sleep(0.05)
        with pytest.raises(Busy, match="many requests"), turns.turn(0.05, "two"):
            pass
    waiting.join(5)
