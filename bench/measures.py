"""One measure of bench.run in a separate process; prints JSON on its last line."""

import json
import resource
import statistics
import sys
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import polars as pl

from bench.make_facts import make

PERIOD = {"first": "2026-08-03", "last": "2026-11-01"}


def seconds(act: Callable[[], object]) -> float:
    begun = time.perf_counter()
    act()
    return time.perf_counter() - begun


def peak_mb() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000


def copy(folder: Path, name: str) -> dict[str, Any]:
    """Read the file with polars and write one Parquet file."""
    file, parquet = folder / name, folder / "copy.parquet"
    reads: dict[str, Callable[[], pl.DataFrame]] = {
        "facts.parquet": lambda: pl.read_parquet(file),
        "facts.ndjson": lambda: pl.read_ndjson(file),
        "facts.semicolons.csv": lambda: pl.read_csv(file, separator=";", decimal_comma=True),
    }
    read = reads.get(name, lambda: pl.read_csv(file))
    return {"seconds": seconds(lambda: read().write_parquet(parquet))}


def bare(folder: Path, name: str) -> dict[str, Any]:
    """Sum the days of the period by page × query with polars, from one Parquet file of all facts."""
    weighted = (pl.col("position") * pl.col("impressions")).sum()
    days = pl.col("date").is_between(pl.lit(PERIOD["first"]), pl.lit(PERIOD["last"]))
    scan = pl.scan_parquet(folder / name).filter(days).group_by("page", "query")
    added = scan.agg(pl.col("clicks", "impressions").sum(), weighted / pl.col("impressions").sum())
    return {"seconds": statistics.median(seconds(added.collect) for _ in range(5))}


def load(folder: Path, name: str) -> dict[str, Any]:
    """Load into a new site, so dictionaries and blocks are new; a small load runs first, so imports are not timed."""
    from django.core.management import call_command
    from django.db.models import Sum
    from django.db.models.functions import Length

    from zugzwang.data.models import Block, LoadPart, Page, Query, Site
    from zugzwang.intake.loading import load_file

    call_command("migrate", verbosity=0)
    before = peak_mb()
    Site.objects.all().delete()
    small = folder / "small.csv"
    small.write_text("date,page,query,clicks,impressions,position\n2026-11-01,https://large.example/a,words,1,20,3.5\n")
    load_file(Site.objects.create(slug="small", name="Small", address="https://large.example"), small, "small.csv")
    site = Site.objects.create(slug="large", name="Large", address="https://large.example")
    taken = seconds(partial(load_file, site, folder / name, name))
    kept = LoadPart.objects.filter(load__site=site).aggregate(bytes=Sum(Length("payload")))["bytes"]
    stored = Block.objects.filter(site=site).aggregate(bytes=Sum(Length("payload")))["bytes"]
    # Texts are in the table and in its unique index.
    texts = sum(words.objects.filter(site=site).aggregate(bytes=Sum(Length("text")))["bytes"] for words in (Page, Query))
    return {"seconds": taken, "peak_mb": peak_mb(), "before_mb": before, "stored": stored + kept + 2 * texts}


def make_facts(folder: Path, name: str) -> dict[str, Any]:
    """As many facts as `name` says."""
    return {"rows": make(folder / "facts.csv", int(name))}


def make_formats(folder: Path, name: str) -> dict[str, Any]:
    """The same facts in other formats; for many facts only Parquet, which the bare sum reads."""
    import gzip
    import shutil

    frame = pl.read_csv(folder / name)
    frame.write_parquet(folder / "facts.parquet")
    if frame.height > 5_000_000:
        return {}
    frame.write_ndjson(folder / "facts.ndjson")
    frame.write_csv(folder / "facts.semicolons.csv", separator=";", decimal_comma=True)
    with (folder / name).open("rb") as plain, gzip.open(folder / "facts.csv.gz", "wb", compresslevel=1) as packed:
        shutil.copyfileobj(plain, packed)
    return {}


def _client() -> Callable[..., Any]:
    """An API client for the site that was loaded last."""
    from django.contrib.auth.models import User
    from django.test import Client

    client = Client(headers={"host": "127.0.0.1"})
    client.force_login(User.objects.get_or_create(username="bench", is_superuser=True)[0])
    client.get("/api/session")

    def get(path: str, **asked: Any) -> Any:
        answer = client.get(f"/api/sites/large/{path}", asked)
        assert answer.status_code == 200, answer.content
        return answer.json()

    return get


def _forget() -> None:
    """Delete cached results of the site's facts, in this process and on disk."""
    from zugzwang.data.cache import store

    store().clear()


def lens(folder: Path, name: str) -> dict[str, Any]:
    """API responses through the whole of Django, cold (nothing cached) and warm."""
    get = _client()
    path = {"one query": _a_query, "one move": _a_move, "one page": _a_page}.get(name, lambda _: name)(get)
    get(path, **PERIOD)
    cold = []
    for _ in range(3):
        _forget()
        cold.append(seconds(lambda: get(path, **PERIOD)))
    warm = statistics.median(seconds(lambda: get(path, **PERIOD)) for _ in range(5))
    return {"seconds": statistics.median(cold), "warm": warm, "peak_mb": peak_mb()}


def _first_row(get: Callable[..., Any]) -> dict[str, Any]:
    return dict(get("findings/striking-distance", **PERIOD)["rows"][0])


def _a_query(get: Callable[..., Any]) -> str:
    return f"queries/{_first_row(get)['query_id']}"


def _a_page(get: Callable[..., Any]) -> str:
    return f"pages/{_first_row(get)['page_id']}"


def _a_move(get: Callable[..., Any]) -> str:
    """A move for a row, early enough to have a result."""
    from zugzwang.data.models import Move, Site

    row = _first_row(get)
    made = {"kind": "rewrite", "effort": "hour", "state": "done", "made_on": "2026-10-01"}
    site = Site.objects.get(slug="large")
    return f"moves/{Move.objects.create(site=site, page_id=row['page_id'], query_id=row['query_id'], **made).id}"


def filters(folder: Path, name: str) -> dict[str, Any]:
    """Other filters of a warm lens, and its windows of rows one by one."""
    get = partial(_client(), name, **PERIOD)
    get()
    asked: list[dict[str, Any]] = [
        {"evidence": "firm"},
        {"text": "1234"},
        {"position_from": 3, "position_to": 9},
        {"section": "/section-7/"},
        {"min_impressions": 250},
        {"sort": "ctr", "descending": False},
        {"sort": "query", "descending": False},
    ]
    taken = {json.dumps(one): seconds(partial(get, **one)) for one in asked}
    every = get(min_impressions=1, limit=1)["total"]
    windows = [seconds(partial(get, min_impressions=1, limit=100, offset=offset)) for offset in range(0, every, 2_500)]
    get_other = partial(_client(), **PERIOD)
    taken |= {one: seconds(partial(get_other, f"findings/{one}")) for one in ("outperformers", "striking-distance")}
    return {
        "worst_filter": max(taken.values()),
        "filters": ", ".join(f"{name} {value * 1000:.0f} ms" for name, value in taken.items()),
        "worst_window": max(windows),
        "windows": len(windows),
        "rows": every,
    }


def make_ready(folder: Path, name: str) -> dict[str, Any]:
    """The worker's computations after a load."""
    from django.utils import timezone

    from zugzwang.data.cache import store
    from zugzwang.data.models import Site
    from zugzwang.data.snapshot import Snapshot
    from zugzwang.subjects.warming import warm

    store().clear()
    snapshot = Snapshot(Site.objects.get(slug="large"))
    taken = seconds(lambda: warm(snapshot, lambda *_: None, timezone.localdate()))
    return {"seconds": taken, "peak_mb": peak_mb(), "kept": sum(one.stat().st_size for one in store().folder.rglob("*.*"))}


OPENS = [
    *("changes", "findings/pages", "findings/low-ctr", "findings/striking-distance", "findings/outperformers"),
    *(
        "findings/query-page-mismatch",
        "findings/query-groups",
        "findings/clashes",
        "findings/overlapping-pages",
        "findings/sections",
    ),
    *("findings/breaks", "findings/moves", "findings/landing-pages", "findings/change"),
]


def opened(folder: Path, name: str) -> dict[str, Any]:
    """Right after a load, in a new process: each place's first request, a page's file, forty proposed moves; and the process's
    memory when idle again.
    """
    import gc

    from django.contrib.auth.models import User
    from django.test import Client

    get = _client()
    taken = {path: seconds(partial(get, path, compare="year")) for path in OPENS}
    rows = get("findings/pages", compare="year", sort="clicks")["rows"]
    page = seconds(partial(get, f"pages/{rows[1]['page_id']}", compare="year"))
    client = Client(headers={"host": "127.0.0.1"})
    client.force_login(User.objects.get(username="bench"))
    client.get("/api/session")
    found = get("findings/striking-distance", compare="year")["rows"]
    subjects = {"subjects": [{"page": row["page_id"], "query": row["query_id"]} for row in found[:40]]}
    url = "/api/sites/large/moves/proposal?finding=striking-distance&compare=year"
    proposals = seconds(lambda: client.post(url, subjects, "application/json"))
    gc.collect()
    with open("/proc/self/status") as status:
        current = next(int(line.split()[1]) for line in status if line.startswith("VmRSS"))
    return {
        "worst": max(taken.values()),
        "each": ", ".join(f"{path.split('/')[-1]} {value * 1000:.0f}" for path, value in taken.items()),
        "page": page,
        "proposals": proposals,
        "idle_mb": current / 1000,
    }


if __name__ == "__main__":
    what, folder, name = sys.argv[1], Path(sys.argv[2]), sys.argv[3]
    if what in ("load", "lens", "filters", "make_ready", "opened"):
        import django

        django.setup()
    measures: dict[str, Callable[[Path, str], dict[str, Any]]] = {
        "copy": copy,
        "bare": bare,
        "load": load,
        "lens": lens,
        "filters": filters,
        "make_formats": make_formats,
    }
    measures |= {"make_ready": make_ready, "opened": opened}
    measures["make_facts"] = make_facts
    print(json.dumps(measures[what](folder, name)))
