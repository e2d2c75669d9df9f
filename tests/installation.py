"""An installation of its own for tests that kill, damage or put back what they work on."""

import io
import os
import sqlite3
import subprocess
import sys
import time
from pathlib import Path

import polars as pl

from tests.standin_server import SITE_HOST, Running

ROOT = Path(__file__).parents[1]


class Installation:
    """A data folder with a worker and a clock of its own."""

    def __init__(self, data: Path, standins: Running | None = None) -> None:
        self.data = data
        host_map = f"{SITE_HOST}={standins.address},shop.example={standins.address}" if standins else ""
        self.env = {
            **os.environ,
            "ZUGZWANG_DATA_DIR": str(data),
            "ZUGZWANG_JOB_SILENCE_SECONDS": "1",
            "ZUGZWANG_HOST_MAP": host_map,
            "DJANGO_SETTINGS_MODULE": "zugzwang.settings",
        }

    def run(self, *command: str) -> subprocess.Popen[bytes]:
        return subprocess.Popen(
            [sys.executable, *command], cwd=ROOT, env=self.env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )

    def worker(self) -> subprocess.Popen[bytes]:
        return self.run("manage.py", "db_worker", "--interval", "0.05", "--no-reload", "--no-startup-delay")

    def state(self) -> tuple[str, str]:
        with sqlite3.connect(self.data / "zugzwang.sqlite3", timeout=20) as database:
            return database.execute("SELECT state, outcome FROM store_job").fetchone()

    def wait_for(self, *states: str) -> str:
        for _ in range(3_000):
            state, outcome = self.state()
            if state in states:
                return outcome
            time.sleep(0.02)
        raise TimeoutError(self.state())

    def held(self) -> dict[str, pl.DataFrame]:
        """All tables, ids told by their texts: ids may differ from run to run."""
        with sqlite3.connect(self.data / "zugzwang.sqlite3") as database:
            blocks = database.execute("SELECT grain, payload FROM store_block ORDER BY grain, month").fetchall()
            texts = {
                name: dict(database.execute(f"SELECT id, text FROM store_{name}").fetchall()) for name in ("page", "query")
            }
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
