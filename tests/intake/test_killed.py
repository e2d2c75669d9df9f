"""Processes killed at random: a load, a refresh, a crawl and an import that are resumed equal an undisturbed run; an undone
load is completely undone or not at all; a backup exists completely or not at all. Two kills each here;
`ZUGZWANG_TEST_KILLS=50 pytest tests/intake/test_killed.py` makes fifty.
"""

import os
import random
import signal
import subprocess
import time
from collections.abc import Iterator
from pathlib import Path

import polars as pl
import pytest

from tests.installation import PATIENCE, Installation
from tests.planted import planted_site
from tests.standin_server import TOKEN, Running, served, write_data
from zugzwang.data.backup import backups, check

ROOT = Path(__file__).parents[2]
KILLS = int(os.environ.get("ZUGZWANG_TEST_KILLS", "2"))
KILLS_A_JOB = 2
MAKE = """
import django; django.setup()
import sys
from pathlib import Path
from zugzwang.access import OPERATOR
from zugzwang.intake.connections import connect
from zugzwang.subjects.sites import add_site
from zugzwang.intake import jobs, uploads
from zugzwang.intake.loading import load_file
from zugzwang.plan.site_archive import write_archive
kind, standins, facts = sys.argv[1:]
site = add_site(OPERATOR, "Shop", "http://www.shop.example", "shop")
if kind == "load":
    content = Path(facts).read_bytes()
    jobs.start_load(OPERATOR, "shop", uploads.keep(site, "facts.csv", [content], len(content)), {})
elif kind == "archive":
    load_file(site, Path(facts), "facts.csv")
    archive = Path(facts).with_name("shop.zip")
    write_archive(OPERATOR, "shop", archive)
    site.delete()
    jobs.ask_for_archive(OPERATOR, "shop.zip", [archive.read_bytes()], archive.stat().st_size)
elif kind == "refresh":
    connect(OPERATOR, "shop", "search", standins + "/search", "TOKEN", True, False)
    connect(OPERATOR, "shop", "visits", standins + "/visits", "TOKEN", True, False)
    jobs.ask_for_refresh(OPERATOR, "shop")
else:
    jobs.ask_for_crawl(OPERATOR, "shop", {"delay_seconds": 0.01})
""".replace("TOKEN", TOKEN)


@pytest.fixture(scope="module")
def standins(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    folder = tmp_path_factory.mktemp("standins")
    write_data(folder)
    with served(folder) as running:
        running.behave(cap_rows=250, delay_seconds=0.01)
        yield running


@pytest.fixture(scope="module")
def facts_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("files") / "facts.csv"
    planted_site(queries=1500, poor=5, movers=5).facts.rename({"day": "date"}).write_csv(path)
    return path


@pytest.fixture(scope="module")
def empty(tmp_path_factory: pytest.TempPathFactory) -> Installation:
    made = Installation(tmp_path_factory.mktemp("installation") / "empty")
    made.migrated()
    return made


@pytest.mark.parametrize("kind", ["load", "refresh", "crawl", "archive"])
def test_killed_and_taken_up_again(kind: str, tmp_path: Path, standins: Running, facts_file: Path, empty: Installation) -> None:
    asked = Installation(tmp_path / "template", standins, like=empty)
    assert asked.run("-c", MAKE, kind, standins.address, str(facts_file)).wait(PATIENCE) == 0

    def installation(name: str) -> Installation:
        return Installation(tmp_path / name, standins, like=asked)

    undisturbed = installation("undisturbed")
    worker = undisturbed.worker()
    undisturbed.wait_for("running")
    begun = time.monotonic()
    undisturbed.wait_for("done")
    whole = time.monotonic() - begun
    worker.terminate()
    worker.wait(20)
    expected = undisturbed.held()
    assert sum(rows.height for rows in expected.values()) > 50

    chance, kills, jobs = random.Random(1), 0, 0
    while kills < KILLS:
        disturbed = installation(f"disturbed-{jobs}")
        clock = disturbed.run("manage.py", "clock")
        try:
            for _ in range(KILLS_A_JOB):
                worker = disturbed.worker()
                disturbed.wait_for("running", "done")
                time.sleep(chance.random() * whole)
                worker.send_signal(signal.SIGKILL)
                worker.wait()
                kills += disturbed.state()[0] != "done"
            worker = disturbed.worker()
            disturbed.wait_for("done")
            worker.terminate()
            worker.wait(20)
        finally:
            clock.kill()
            clock.wait()
        assert same(disturbed.held(), expected), jobs
        jobs += 1


TAKE_BACK = """
import django; django.setup()
from zugzwang.access import OPERATOR
from zugzwang.data.models import Load
from zugzwang.intake.loading import undo
load = Load.objects.filter(taken_back_at=None).order_by("-id").first()
print("taking back", flush=True)
undo(OPERATOR, "shop", load.id)
"""
TWO_LOADS = """
import django; django.setup()
import sys
from pathlib import Path
from zugzwang.access import OPERATOR
from zugzwang.intake.loading import load_file
from zugzwang.subjects.sites import add_site
site = add_site(OPERATOR, "Shop", "http://www.shop.example", "shop")
head, *rows = Path(sys.argv[1]).read_text().splitlines()
fewer = Path(sys.argv[1]).with_name("fewer.csv")
fewer.write_text("\\n".join([head, *rows[500:]]))
load_file(site, Path(sys.argv[1]), "facts.csv")
site.refresh_from_db()
load_file(site, fewer, "fewer.csv")
"""


@pytest.fixture(scope="module")
def two_loads(tmp_path_factory: pytest.TempPathFactory, facts_file: Path, empty: Installation) -> Installation:
    made = Installation(tmp_path_factory.mktemp("installation") / "two-loads", like=empty)
    assert made.run("-c", TWO_LOADS, str(facts_file)).wait(PATIENCE) == 0
    return made


def seconds_of(process: "subprocess.Popen[bytes]") -> float:
    begun = time.monotonic()
    assert process.wait(PATIENCE) == 0
    return time.monotonic() - begun


def test_a_killed_take_back_leaves_the_load_whole_or_takes_it_whole(tmp_path: Path, two_loads: Installation) -> None:
    before = two_loads.held()
    undisturbed = Installation(tmp_path / "undisturbed", like=two_loads)
    whole = seconds_of(undisturbed.run("-c", TAKE_BACK))
    after = undisturbed.held()
    assert not same(before, after)
    chance, outcomes = random.Random(3), set()
    for number in range(KILLS):
        disturbed = Installation(tmp_path / f"disturbed-{number}", like=two_loads)
        process = disturbed.run("-c", TAKE_BACK)
        # Half of the kills fall into its last fifth, where it writes.
        time.sleep(whole * (chance.uniform(0.8, 1.0) if number % 2 else chance.random()))
        process.send_signal(signal.SIGKILL)
        process.wait()
        taken = disturbed.asked("SELECT count(*) FROM store_load WHERE taken_back_at IS NOT NULL")[0][0]
        assert same(disturbed.held(), after if taken else before), number
        outcomes.add(taken)
        if not taken:
            assert disturbed.run("-c", TAKE_BACK).wait(PATIENCE) == 0
            assert same(disturbed.held(), after), number
    assert 0 in outcomes


def test_a_killed_backup_is_there_whole_or_not_at_all(tmp_path: Path, two_loads: Installation) -> None:
    folder = tmp_path / "backups"
    command = ("manage.py", "backup", "--to", str(folder))
    whole = seconds_of(two_loads.run(*command))
    chance, interrupted = random.Random(4), 0
    for number in range(KILLS):
        stood = len(backups(folder))
        process = two_loads.run(*command)
        time.sleep(whole * chance.uniform(0.6, 1.0))
        process.send_signal(signal.SIGKILL)
        process.wait()
        interrupted += any(folder.glob(".making-*"))
        for one in backups(folder)[stood:]:
            assert check(one).counts["store_load"] == 2, number
    assert two_loads.run(*command).wait(PATIENCE) == 0
    assert not any(folder.glob(".making-*"))
    assert interrupted or KILLS < 10, "no kill fell into the making of a backup"


def same(some: dict[str, pl.DataFrame], others: dict[str, pl.DataFrame]) -> bool:
    return some.keys() == others.keys() and all(some[grain].equals(others[grain]) for grain in some)
