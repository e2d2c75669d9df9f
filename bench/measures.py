"""One measure of bench.run, in a process of its own; prints JSON on its last line."""

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

PERIOD = {"from": "2026-08-03", "to": "2026-11-01"}


def seconds(act: Callable[[], object]) -> float:
    begun = time.perf_counter()
    act()
    return time.perf_counter() - begun


def peak_mb() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000


def copy(folder: Path, repeats: int) -> dict[str, Any]:
    """Polars reads the CSV and writes one Parquet file."""
    csv, parquet = folder / "facts.csv", folder / "facts.parquet"
    return {"seconds": statistics.median(seconds(lambda: pl.read_csv(csv).write_parquet(parquet)) for _ in range(repeats))}


def bare(folder: Path, repeats: int) -> dict[str, Any]:
    """Polars sums the days of the period by page × query from that Parquet file."""
    weighted = (pl.col("position") * pl.col("impressions")).sum()
    days = pl.col("date").is_between(pl.lit(PERIOD["from"]), pl.lit(PERIOD["to"]))
    scan = pl.scan_parquet(folder / "facts.parquet").filter(days).group_by("page", "query")
    added = scan.agg(pl.col("clicks", "impressions").sum(), weighted / pl.col("impressions").sum())
    return {"seconds": statistics.median(seconds(added.collect) for _ in range(repeats))}


def load(folder: Path, repeats: int) -> dict[str, Any]:
    """Each repeat into a site of its own, so that dictionaries and blocks are always new."""
    from django.core.management import call_command
    from django.db.models import Sum
    from django.db.models.functions import Length

    from zugzwang.intake.loading import load_file
    from zugzwang.store.models import Block, LoadPart, Page, Query, Site

    call_command("migrate", verbosity=0)
    before, taken = peak_mb(), []
    for number in range(repeats):
        site = Site.objects.create(slug=f"large{number}", name="Large", address="https://large.example")
        taken.append(seconds(partial(load_file, site, folder / "facts.csv", "facts.csv")))
    kept = LoadPart.objects.filter(load__site=site).aggregate(bytes=Sum(Length("payload")))["bytes"]
    stored = Block.objects.filter(site=site).aggregate(bytes=Sum(Length("payload")))["bytes"]
    # Texts stand in the table and in its unique index.
    texts = sum(words.objects.filter(site=site).aggregate(bytes=Sum(Length("text")))["bytes"] for words in (Page, Query))
    return {"seconds": statistics.median(taken), "peak_mb": peak_mb(), "before_mb": before, "stored": stored + kept + 2 * texts}


def _rewrite(read: Callable[[], pl.DataFrame], folder: Path) -> None:
    read().write_parquet(folder / "copy.parquet")


def formats(folder: Path, repeats: int) -> dict[str, Any]:
    """The same facts in other formats, each into a site of its own, beside Polars reading that format and writing Parquet."""
    import gzip
    import shutil

    from django.core.management import call_command

    from zugzwang.intake.loading import load_file
    from zugzwang.store.models import Site

    call_command("migrate", verbosity=0)
    frame = pl.read_csv(folder / "facts.csv")
    frame.write_ndjson(folder / "facts.ndjson")
    frame.write_csv(folder / "facts.semicolons.csv", separator=";", decimal_comma=True)
    with (folder / "facts.csv").open("rb") as plain, gzip.open(folder / "facts.csv.gz", "wb", compresslevel=1) as packed:
        shutil.copyfileobj(plain, packed)
    del frame
    bare: dict[str, Callable[[], pl.DataFrame]] = {
        "facts.parquet": lambda: pl.read_parquet(folder / "facts.parquet"),
        "facts.ndjson": lambda: pl.read_ndjson(folder / "facts.ndjson"),
        "facts.csv.gz": lambda: pl.read_csv(folder / "facts.csv.gz"),
        "facts.semicolons.csv": lambda: pl.read_csv(folder / "facts.semicolons.csv", separator=";", decimal_comma=True),
    }
    found: dict[str, Any] = {}
    for name, read in bare.items():
        taken = []
        for number in range(repeats):
            site = Site.objects.create(slug=f"{name.replace('.', '-')}{number}", name="Large", address="https://large.example")
            taken.append(seconds(partial(load_file, site, folder / name, name)))
        alone = statistics.median(seconds(partial(_rewrite, read, folder)) for _ in range(repeats))
        found[name] = {"seconds": statistics.median(taken), "bare": alone}
    return {"formats": found, "peak_mb": peak_mb()}


def lens(folder: Path, repeats: int) -> dict[str, Any]:
    """The API's answer, through the whole of Django: cold, with other filters, window by window."""
    from django.contrib.auth.models import User
    from django.test import Client

    from zugzwang.desk import frames

    client = Client(headers={"host": "127.0.0.1"})
    client.force_login(User.objects.create_superuser("bench"))
    client.get("/api/session")

    def get(**asked: Any) -> Any:
        answer = client.get("/api/sites/large0/queries", {**PERIOD, **asked})
        assert answer.status_code == 200, answer.content
        return answer.json()

    def cold(**asked: Any) -> float:
        for kept in vars(frames).values():
            if hasattr(kept, "cache_clear"):
                kept.cache_clear()
        return seconds(lambda: get(**asked))

    first = cold()
    taken = statistics.median(cold() for _ in range(repeats))
    with_last_year = cold(compare="year")
    cold()
    asked: list[dict[str, Any]] = [
        {"evidence": "firm"},
        {"text": "1234"},
        {"position_from": 3, "position_to": 9},
        {"min_impressions": 250},
        {"lens": "outperformers"},
        {"lens": "striking-distance"},
        {"sort": "ctr", "descending": False},
        {"sort": "query", "descending": False},
    ]
    filters = {json.dumps(one): seconds(partial(get, **one)) for one in asked}
    every = get(min_impressions=1, limit=1)["total"]
    windows = [seconds(partial(get, min_impressions=1, limit=100, offset=offset)) for offset in range(0, every, 2_500)]
    return {
        "first": first,
        "cold": taken,
        "before": with_last_year,
        "worst_filter": max(filters.values()),
        "filters": ", ".join(f"{name} {value * 1000:.0f} ms" for name, value in filters.items()),
        "worst_window": max(windows),
        "windows": len(windows),
        "rows": every,
    }


if __name__ == "__main__":
    what, folder, repeats = sys.argv[1], Path(sys.argv[2]), int(sys.argv[3])
    if what in ("load", "lens", "formats"):
        import django

        django.setup()
    print(json.dumps({"copy": copy, "bare": bare, "load": load, "lens": lens, "formats": formats}[what](folder, repeats)))
