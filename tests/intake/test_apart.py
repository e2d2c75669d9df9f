"""Work in a process of its own: what it gives back, what it raises, and what becomes of it when it passes its bounds."""

import time
from pathlib import Path

import numpy as np
import pytest

from bench.hostile import Chance, far_cell
from zugzwang.access import OPERATOR
from zugzwang.data.models import Site
from zugzwang.errors import FileRefused, Invalid
from zugzwang.intake import apart, jobs
from zugzwang.intake.spreadsheets import sheets_with_tables
from zugzwang.intake.tables import refuse

BOUND = 900_000_000


@pytest.fixture(autouse=True)
def in_processes(settings) -> None:  # type: ignore[no-untyped-def]
    settings.WORK_APART = True


def wants_much() -> int:
    return int(np.ones(2 * BOUND // 8).sum())


def refuses() -> None:
    raise refuse("a.csv", "it is empty", "Export it again.", line=3)


def asks_wrongly() -> None:
    raise Invalid("There is none.", "Choose one.", "day")


def test_it_gives_back_what_came_of_it() -> None:
    assert apart.run(max, 3, 4, memory_bytes=BOUND, seconds=30) == 4


def test_errors_come_back_whole() -> None:
    with pytest.raises(FileRefused) as refused:
        apart.run(refuses, memory_bytes=BOUND, seconds=30)
    assert (refused.value.refusals.first[0].line, refused.value.refusals.first[0].message) == (3, "it is empty")
    with pytest.raises(Invalid) as wrong:
        apart.run(asks_wrongly, memory_bytes=BOUND, seconds=30)
    assert (wrong.value.message, wrong.value.remedy, wrong.value.field) == ("There is none.", "Choose one.", "day")


def test_more_memory_than_its_share_ends_it_alone(tmp_path: Path) -> None:
    with pytest.raises(apart.Broken, match="more memory"):
        apart.run(wants_much, memory_bytes=BOUND, seconds=30)
    path = tmp_path / "far.xlsx"
    path.write_bytes(far_cell(Chance(1)))
    with pytest.raises(apart.Broken, match="more memory"):
        apart.run(sheets_with_tables, path, "far.xlsx", memory_bytes=apart.bytes_for(path), seconds=60)


def test_longer_than_it_may_or_wanted_no_more() -> None:
    with pytest.raises(apart.Broken, match="longer"):
        apart.run(time.sleep, 30, memory_bytes=BOUND, seconds=0.5)
    begun = time.monotonic()
    with pytest.raises(apart.Stopped):
        apart.run(time.sleep, 30, memory_bytes=BOUND, seconds=30, watch=lambda: True)
    assert time.monotonic() - begun < 10


@pytest.mark.django_db
def test_a_crawl_that_passes_its_bounds_is_told_of_no_file(site: Site, monkeypatch: pytest.MonkeyPatch) -> None:
    def breaks(*_: object, **__: object) -> None:
        raise apart.Broken("This takes more memory than a file of its size may need.", "Export it again, as CSV.")

    monkeypatch.setattr(apart, "run", breaks)
    job = jobs.ask_for_crawl(OPERATOR, site.slug, {})
    jobs.run_job.func(job.id)
    job.refresh_from_db()
    assert (job.state, job.outcome) == ("refused", jobs.TOO_MUCH)
