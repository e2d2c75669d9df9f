"""A separate installation for tests that kill processes or damage and restore data."""

import fcntl
import hashlib
import io
import os
import shutil
import sqlite3
import subprocess
import sys
import time
import uuid
from contextlib import closing
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import polars as pl
import psycopg

from tests.standin_server import SITE_HOST, Running

ROOT = Path(__file__).parents[1]
SERVER = os.environ.get("ZUGZWANG_DATABASE", "")
# How long a process may take before a test gives it up, in seconds: on a busy machine each takes many times as long.
PATIENCE = 600


def database_of_its_own(like: "Installation | None" = None) -> str:
    """The address of a new database on the tests' server, empty or a copy; None on SQLite."""
    if not SERVER:
        return ""
    name = f"installation_{uuid.uuid4().hex}"
    copied = f"TEMPLATE {urlsplit(like.database).path[1:]}" if like else ""
    with closing(psycopg.connect(SERVER, autocommit=True)) as server:
        server.execute(f"CREATE DATABASE {name} {copied}".encode())
    return urlsplit(SERVER)._replace(path=f"/{name}").geturl()


def migrated_file() -> Path:
    """An SQLite file with all migrations applied; made once by whichever process comes first. Copied, never opened."""
    hasher = hashlib.sha256()
    for migration in sorted((ROOT / "zugzwang").glob("**/migrations/*.py")):
        hasher.update(migration.read_bytes())
    folder = ROOT / "data" / "tests"
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"migrated-{hasher.hexdigest()[:16]}.sqlite3"
    with (folder / "migrating").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not path.exists():
            making = folder / "making"
            shutil.rmtree(making, ignore_errors=True)
            making.mkdir()
            env = {**os.environ, "ZUGZWANG_DATA_DIR": str(making), "DJANGO_SETTINGS_MODULE": "zugzwang.settings"}
            _migrate(env | {"ZUGZWANG_DATABASE": ""})
            with closing(sqlite3.connect(making / "zugzwang.sqlite3")) as file:
                file.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            (making / "zugzwang.sqlite3").rename(path)
    return path


def migrate_in(env: dict[str, str]) -> None:
    """Bring the database of an environment up to date: a copy on SQLite, else by the command."""
    if env.get("ZUGZWANG_DATABASE"):
        _migrate(env)
        return
    data = Path(env["ZUGZWANG_DATA_DIR"])
    data.mkdir(exist_ok=True)
    shutil.copyfile(migrated_file(), data / "zugzwang.sqlite3")


def _migrate(env: dict[str, str]) -> None:
    command = [sys.executable, "manage.py", "migrate", "--skip-checks", "--verbosity", "0"]
    subprocess.run(command, cwd=ROOT, env=env, check=True, timeout=PATIENCE)


class Installation:
    """A data folder with its own database, worker and clock; on PostgreSQL where the tests run on it."""

    def __init__(self, data: Path, standins: Running | None = None, like: "Installation | None" = None) -> None:
        self.data = data
        self.database = database_of_its_own(like)
        if like is not None:
            shutil.copytree(like.data, data)
        data.mkdir(exist_ok=True)
        host_map = f"{SITE_HOST}={standins.address},shop.example={standins.address}" if standins else ""
        self.env = {
            **os.environ,
            "ZUGZWANG_DATA_DIR": str(data),
            "ZUGZWANG_DATABASE": self.database,
            "ZUGZWANG_JOB_SILENCE_SECONDS": "1",
            "ZUGZWANG_HOST_MAP": host_map,
            "DJANGO_SETTINGS_MODULE": "zugzwang.settings",
        }

    def run(self, *command: str) -> subprocess.Popen[bytes]:
        return subprocess.Popen(
            [sys.executable, *command], cwd=ROOT, env=self.env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )

    def migrated(self) -> "Installation":
        migrate_in(self.env)
        return self

    def worker(self) -> subprocess.Popen[bytes]:
        return self.run("manage.py", "db_worker", "--skip-checks", "--interval", "0.05", "--no-reload", "--no-startup-delay")

    def asked(self, sql: str, data: Path | None = None) -> list[Any]:
        """The rows of an SQL query."""
        if self.database:
            with closing(psycopg.connect(self.database)) as server:
                return server.execute(sql.encode()).fetchall()
        with closing(sqlite3.connect((data or self.data) / "zugzwang.sqlite3", timeout=20)) as file:
            return file.execute(sql).fetchall()

    def state(self) -> tuple[str, str]:
        state, outcome = self.asked("SELECT state, outcome FROM store_job")[0]
        return state, outcome

    def wait_for(self, *states: str) -> str:
        until = time.monotonic() + PATIENCE
        while time.monotonic() < until:
            state, outcome = self.state()
            if state in states:
                return outcome
            time.sleep(0.02)
        raise TimeoutError(self.state())

    def held(self) -> dict[str, pl.DataFrame]:
        """All tables with texts instead of ids, which may differ from run to run."""
        blocks = self.asked("SELECT grain, payload FROM store_block ORDER BY grain, month")
        texts = {name: dict(self.asked(f"SELECT id, text FROM store_{name}")) for name in ("page", "query")}
        tables: dict[str, list[pl.DataFrame]] = {}
        for grain, payload in blocks:
            rows = pl.read_parquet(io.BytesIO(payload))
            for name in set(texts) & set(rows.columns):
                rows = rows.with_columns(pl.col(name).cast(pl.Int64).replace_strict(texts[name], return_dtype=pl.String))
            tables.setdefault(grain, []).append(rows)
        flat = {grain: pl.concat(parts) for grain, parts in tables.items()}
        return {
            grain: rows.sort([name for name in rows.columns if rows.schema[name] != pl.List]) for grain, rows in flat.items()
        }
