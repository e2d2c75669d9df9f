"""A load whose process is killed, at moments spread over its run, leaves what was there; the next one is as if undisturbed."""

import io
import os
import shutil
import signal
import sqlite3
import subprocess
import sys
import time
from pathlib import Path

import polars as pl
import pytest

from tests.planted import planted_site
from zugzwang.core.grains import PAGE_QUERY

ROOT = Path(__file__).parents[2]
MAKE_SITE = ["sites", "--add", "Shop", "--address", "https://shop.example", "--slug", "shop"]


@pytest.fixture(scope="module")
def facts_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("files") / "facts.csv"
    facts = planted_site(queries=1500, poor=5, movers=5).facts
    facts.rename({"day": "date"}).write_csv(path)
    return path


def manage(data: Path, *arguments: str) -> subprocess.Popen[bytes]:
    env = {**os.environ, "ZUGZWANG_DATA_DIR": str(data), "DJANGO_SETTINGS_MODULE": "zugzwang.settings"}
    return subprocess.Popen([sys.executable, "manage.py", *arguments], cwd=ROOT, env=env, stdout=subprocess.DEVNULL)


def finished(process: subprocess.Popen[bytes]) -> None:
    assert process.wait(120) == 0


def held(data: Path) -> pl.DataFrame:
    """All facts by the texts of their pages and queries: ids may differ from load to load."""
    with sqlite3.connect(data / "zugzwang.sqlite3") as database:
        payloads = database.execute("SELECT payload FROM store_block").fetchall()
        texts = {name: database.execute(f"SELECT id, text FROM store_{name}").fetchall() for name in ("page", "query")}
    facts = pl.concat([PAGE_QUERY.schema.to_frame(), *(pl.read_parquet(io.BytesIO(payload)) for (payload,) in payloads)])
    for name, rows in texts.items():
        facts = facts.with_columns(pl.col(name).cast(pl.Int64).replace_strict(dict(rows), return_dtype=pl.String))
    return facts.sort("day", "page", "query")


def test_killed_loads_leave_no_trace(tmp_path: Path, facts_file: Path) -> None:
    undisturbed, disturbed = tmp_path / "undisturbed", tmp_path / "disturbed"
    finished(manage(undisturbed, *MAKE_SITE))  # makes the database too
    shutil.copytree(undisturbed, disturbed)
    begun = time.monotonic()
    finished(manage(undisturbed, "load", str(facts_file), "--site", "shop"))
    whole = time.monotonic() - begun
    expected = held(undisturbed)
    assert expected.height > 100_000
    killed = 0
    for share in (0.6, 0.75, 0.9):
        process = manage(disturbed, "load", str(facts_file), "--site", "shop")
        time.sleep(share * whole)
        process.send_signal(signal.SIGKILL)
        killed += process.wait() == -signal.SIGKILL
        left = held(disturbed)
        assert left.is_empty() or left.equals(expected)  # nothing, or all of it
    assert killed >= 1
    finished(manage(disturbed, "load", str(facts_file), "--site", "shop"))
    assert held(disturbed).equals(expected)
