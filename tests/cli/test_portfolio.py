"""Many sites at once: both engines give the same results, a killed run continues, one site's fault affects no other."""

import json
import signal
import subprocess
import sys
import time
from pathlib import Path

import polars as pl
import pytest

from tests.installation import PATIENCE, ROOT, Installation
from tests.planted import planted_site

FINDINGS = ("low-ctr", "striking-distance", "pages", "clashes")
MAKE = """
import django; django.setup()
import sys
from pathlib import Path
from zugzwang.access import OPERATOR
from zugzwang.data.models import Block, LoadPart
from zugzwang.intake.loading import load_file
from zugzwang.subjects.sites import add_site
for number in range(4):
    site = add_site(OPERATOR, f"Shop {number}", "https://shop.example", f"shop-{number}")
    if number < 3:
        load_file(site, Path(sys.argv[1]), "facts.csv")
Block.objects.filter(site__slug="shop-1").update(payload=b"damaged")
LoadPart.objects.filter(load__site__slug="shop-1").update(payload=b"damaged")
"""


@pytest.fixture(scope="module")
def installation(tmp_path_factory: pytest.TempPathFactory) -> Installation:
    folder = tmp_path_factory.mktemp("portfolio")
    facts = planted_site(queries=300, poor=5, movers=5, seed=4).facts.rename({"day": "date"})
    facts.with_columns(page=pl.format("https://shop.example/p{}", "page"), query=pl.format("query {}", "query")).write_csv(
        folder / "facts.csv"
    )
    made = Installation(folder / "data")
    made.migrated()
    assert made.run("-c", MAKE, str(folder / "facts.csv")).wait(PATIENCE) == 0
    return made


def command(out: Path, engine: str) -> tuple[str, ...]:
    return ("manage.py", "portfolio", str(out), "--all", "--finding", *FINDINGS, "--engine", engine, "--workers", "2")


def run(installation: Installation, out: Path, engine: str) -> "subprocess.CompletedProcess[str]":
    return subprocess.run(
        [sys.executable, *command(out, engine)], cwd=ROOT, env=installation.env, capture_output=True, text=True, check=False
    )


def held(out: Path) -> dict[str, pl.DataFrame]:
    return {str(one.relative_to(out)): pl.read_parquet(one) for one in sorted(out.rglob("*.parquet"))}


def test_both_engines_give_the_same_and_a_damaged_site_keeps_no_other_back(installation: Installation, tmp_path: Path) -> None:
    here, there = tmp_path / "here", tmp_path / "there"
    result = run(installation, here, "local")
    assert result.returncode == 1
    assert "shop-1: low-ctr: The stored page × query data" in result.stderr
    assert "1 of 4 sites failed" in result.stderr
    assert {name.split("/")[0] for name in held(here)} == {"site=shop-0", "site=shop-2"}
    done = json.loads((here / "site=shop-0" / "done.json").read_text())
    rows = held(here)["site=shop-0/low-ctr.parquet"]
    assert (done["rows"]["low-ctr"], done["problems"]) == (rows.height, {})
    assert rows.height > 5
    assert set(json.loads((here / "site=shop-3" / "done.json").read_text())["lacking"]) == set(FINDINGS), "no data, no fault"
    assert run(installation, there, "dask").returncode == 1
    assert held(there).keys() == held(here).keys()
    assert all(rows.equals(held(there)[name]) for name, rows in held(here).items())


def test_a_killed_run_goes_on_where_it_was(installation: Installation, tmp_path: Path) -> None:
    first = installation.run(*command(tmp_path, "local"))
    for _ in range(1_000):
        if any(tmp_path.rglob("done.json")):
            break
        time.sleep(0.05)
    first.send_signal(signal.SIGKILL)
    first.wait()
    stood = {one.parent.name.removeprefix("site=") for one in tmp_path.rglob("done.json")} - {"shop-1"}
    result = run(installation, tmp_path, "local")
    assert {line.split(":")[0] for line in result.stdout.splitlines() if "up to date" in line} >= stood
    assert {f"site={name}/low-ctr.parquet" for name in ("shop-0", "shop-2")} <= held(tmp_path).keys()
    assert not list(tmp_path.rglob(".*.parquet"))
    installation.run(
        "-c", "import django; django.setup(); from zugzwang.data.models import Site; Site.objects.update(data_version=1)"
    ).wait(PATIENCE)
    assert "up to date" not in run(installation, tmp_path, "local").stdout
