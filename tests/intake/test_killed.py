"""The worker is killed at random moments of a load, a refresh and a crawl: taken up again, the data equal an undisturbed run.

Two kills each here; `ZUGZWANG_TEST_KILLS=50 pytest tests/intake/test_killed.py` makes fifty.
"""

import os
import random
import shutil
import signal
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.installation import Installation
from tests.planted import planted_site
from tests.standin_server import TOKEN, Running, served, write_data

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
kind, standins, facts = sys.argv[1:]
site = add_site(OPERATOR, "Shop", "http://www.shop.example", "shop")
if kind == "load":
    content = Path(facts).read_bytes()
    jobs.ask_for_load(OPERATOR, "shop", uploads.keep(site, "facts.csv", [content], len(content)), {})
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


@pytest.mark.parametrize("kind", ["load", "refresh", "crawl"])
def test_killed_and_taken_up_again(kind: str, tmp_path: Path, standins: Running, facts_file: Path) -> None:
    template = tmp_path / "template"
    template.mkdir()
    asked = Installation(template, standins)
    assert asked.run("manage.py", "migrate", "--verbosity", "0").wait(60) == 0
    assert asked.run("-c", MAKE, kind, standins.address, str(facts_file)).wait(60) == 0

    def installation(name: str) -> Installation:
        shutil.copytree(template, tmp_path / name)
        return Installation(tmp_path / name, standins)

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
        told = disturbed.held()
        assert told.keys() == expected.keys()
        for grain, rows in expected.items():
            assert told[grain].equals(rows), (grain, jobs)
        jobs += 1
