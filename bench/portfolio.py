"""`make bench-portfolio`: how many sites one machine can process in a night. SITES=1000 with log-normal sizes (median 30,000
facts, largest 20 million: common practice, no source), generated, loaded by four processes and diagnosed by four; then the
time for the page of all sites. `SMALL=1000 make bench-portfolio` refreshes small sites from the stand-ins with two workers
instead.
"""

import json
import os
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

import numpy as np
import polars as pl

from bench.make_facts import DAYS, FIRST_DAY
from tests.installation import Installation
from tests.standin_server import TOKEN, served, write_data

ROOT = Path(__file__).parent.parent
SITES, SMALL, LARGEST = (
    int(os.environ.get("SITES", 1_000)),
    int(os.environ.get("SMALL", 0)),
    int(os.environ.get("LARGEST", 20_000_000)),
)
MEDIAN, WORKERS = 30_000, 4
LOAD = """
import django; django.setup()
import sys
from pathlib import Path
from zugzwang.access import OPERATOR
from zugzwang.data.models import Site
from zugzwang.intake.loading import load_file
for line in sys.stdin:
    slug = line.strip()
    path = Path(sys.argv[1]) / f"{slug}.parquet"
    load_file(Site.objects.get(slug=slug), path, path.name)
    path.unlink()
    print(slug, flush=True)
"""
ADD = """
import django; django.setup()
import sys
from zugzwang.access import OPERATOR
from zugzwang.subjects.sites import add_site
for number in range(int(sys.argv[1])):
    add_site(OPERATOR, f"Site {number}", f"https://site-{number}.example", f"site-{number}")
"""
CONNECT = """
import django; django.setup()
import sys
from zugzwang.access import OPERATOR
from zugzwang.data.models import Site
from zugzwang.intake import jobs
from zugzwang.intake.connections import connect
Site.objects.update(address="https://www.shop.example")
for site in Site.objects.all():
    connect(OPERATOR, site.slug, "search", sys.argv[1] + "/search", sys.argv[2], True, False)
    jobs.ask_for_refresh(OPERATOR, site.slug)
"""
PAGE = """
import django; django.setup()
import json, time
from django.contrib.auth.models import User
from django.test import Client
from zugzwang.intake.overview import make_all
make_all(3600)  # as the clock does
User.objects.create_superuser("root", password="a long password") if not User.objects.filter(username="root") else None
client, told = Client(), {}
client.force_login(User.objects.get(username="root"))
for path in ("/api/sites", "/api/portfolio", "/api/sites", "/api/portfolio"):
    begun = time.monotonic()
    assert client.get(path, headers={"host": "127.0.0.1"}).status_code == 200
    told[path] = round(time.monotonic() - begun, 3)
print(json.dumps(told))
"""


def sizes(number: int) -> list[int]:
    """The number of facts of each site, largest first."""
    drawn = np.random.default_rng(1).lognormal(np.log(MEDIAN), np.log(LARGEST / MEDIAN) / 3.24, number)  # of 1,000 the largest
    result = np.clip(drawn, 500, LARGEST).astype(int)
    result[np.argmax(result)] = LARGEST
    return sorted(result.tolist(), reverse=True)


def make_site(folder: str, number: int, rows: int) -> int:
    """Facts of a site by page, query and day, in proportion: some 27 facts a pair, 12 pairs a page."""
    chance = np.random.default_rng(number)
    pairs = max(rows // 27, 40)
    often = chance.pareto(0.9, pairs) + 0.03
    scale = 1.0
    for _ in range(40):
        scale *= rows / DAYS / np.minimum(often * scale, 1.0).sum()
    shown = np.minimum(often * scale, 1.0)
    pair = np.repeat(np.arange(pairs), chance.binomial(DAYS, shown))
    day = chance.integers(0, DAYS, pair.size)
    impressions = chance.geometric(1 / (1 + 25 * shown[pair]))
    position = np.maximum(1, np.exp(chance.uniform(0, np.log(60), pairs))[pair] * chance.lognormal(0, 0.12, pair.size)).round(2)
    rate = np.minimum(0.28 * position**-1.1 * chance.gamma(5, 0.2, pairs)[pair], 0.9)
    facts = pl.DataFrame(
        {
            "pair": pair,
            "day": day,
            "clicks": chance.binomial(impressions, rate),
            "impressions": impressions,
            "position": position,
        }
    )
    facts = facts.unique(["pair", "day"], maintain_order=True).with_columns(page=pl.col("pair") % max(pairs // 12, 5))
    frame = facts.select(
        (pl.lit(FIRST_DAY) + pl.duration(days=pl.col("day"))).alias("date"),
        pl.format(f"https://site-{number}.example/part-{{}}/page-{{}}/", pl.col("page") % 20, "page").alias("page"),
        pl.format("words asked for number {}", pl.col("pair") % max(pairs // 2, 5)).alias("query"),
        "clicks", "impressions", "position",
    )  # fmt: skip
    frame.write_parquet(f"{folder}/site-{number}.parquet")
    return facts.height


def script(installation: Installation, code: str, *values: str) -> str:
    done = subprocess.run(
        [sys.executable, "-c", code, *values], cwd=ROOT, env=installation.env, capture_output=True, text=True, check=False
    )
    if done.returncode:
        sys.exit(done.stderr)
    return done.stdout


def load(installation: Installation, folder: Path, slugs: list[str]) -> None:
    """Load with four processes."""
    running = []
    for number in range(WORKERS):
        one = subprocess.Popen(
            [sys.executable, "-c", LOAD, str(folder)],
            cwd=ROOT,
            env=installation.env,
            stdin=subprocess.PIPE,
            stdout=subprocess.DEVNULL,
            text=True,
        )
        assert one.stdin is not None
        one.stdin.write("\n".join(slugs[number::WORKERS]) + "\n")
        one.stdin.close()
        running.append(one)
    if any(one.wait() for one in running):
        sys.exit("a load failed")


def diagnose(installation: Installation, out: Path, workers: int) -> None:
    begun, peak = time.monotonic(), 0
    process = subprocess.Popen(
        [sys.executable, "manage.py", "portfolio", str(out), "--workers", str(workers)],
        cwd=ROOT,
        env=installation.env,
        stdout=subprocess.DEVNULL,
    )
    while process.poll() is None:
        peak = max(peak, memory_of(process.pid))
        time.sleep(1)
    done = [json.loads(one.read_text()) for one in out.rglob("done.json")]
    failed = sum(bool(one["problems"]) for one in done)
    rows = sum(sum(one["rows"].values()) for one in done)
    took = f"{time.monotonic() - begun:,.0f} s, {len(done)} sites, {failed} failed, {rows:,} rows"
    print(f"diagnosed: {took}; own memory at most {peak:,} MB", flush=True)


def memory_of(pid: int) -> int:
    """The private memory of a process and its descendants, in MB."""
    children = subprocess.run(["pgrep", "-P", str(pid)], capture_output=True, text=True, check=False).stdout.split()
    try:
        result = Path(f"/proc/{pid}/status").read_text().splitlines()
        own = next(int(line.split()[1]) for line in result if line.startswith("RssAnon"))
    except (OSError, StopIteration):
        own = 0
    return own // 1000 + sum(memory_of(int(child)) for child in children)


def of_all_sizes(installation: Installation, folder: Path) -> None:
    facts, slugs = sizes(SITES), [f"site-{number}" for number in range(SITES)]
    script(installation, ADD, str(SITES))
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        made = sum(pool.map(make_site, [str(folder)] * SITES, range(SITES), facts, chunksize=1))
    print(f"{SITES} sites, {made:,} facts, the largest {facts[0]:,}, the median {facts[SITES // 2]:,}", flush=True)
    begun = time.monotonic()
    load(installation, folder, slugs)
    print(f"loaded: {time.monotonic() - begun:,.0f} s", flush=True)
    diagnose(installation, folder / "out", WORKERS)


def small(installation: Installation, folder: Path) -> None:
    (folder / "standins").mkdir()
    write_data(folder / "standins")
    script(installation, ADD, str(SMALL))
    with served(folder / "standins") as running:
        installation.env["ZUGZWANG_HOST_MAP"] = f"www.shop.example={running.address}"
        script(installation, CONNECT, running.address, TOKEN)
        begun = time.monotonic()
        workers = [installation.worker() for _ in range(2)]
        while installation.asked("SELECT count(*) FROM store_job WHERE state IN ('waiting', 'running')")[0][0]:
            time.sleep(1)
        states = installation.asked("SELECT state, count(*) FROM store_job GROUP BY state")
        print(
            f"brought up to date and made ready: {time.monotonic() - begun:,.0f} s, two workers; jobs: {dict(states)}",
            flush=True,
        )
        for one in workers:
            one.terminate()
            one.wait()
    diagnose(installation, folder / "out", 2)


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        installation = Installation(folder / "data")
        assert installation.run("manage.py", "migrate", "--verbosity", "0").wait() == 0
        (small if SMALL else of_all_sizes)(installation, folder)
        print(f"the page of all sites, second time: {script(installation, PAGE).strip()} s", flush=True)


if __name__ == "__main__":
    main()
