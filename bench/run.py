"""The performance bars, as ratios measured in one run: `make bench`; `make bench ROWS=20000000` for a large site. A machine's
speed drifts within minutes, so both sides are measured alternately, each in a separate process; a bar is the median ratio
of `ROUNDS` rounds.
"""

import json
import os
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

ROWS = int(os.environ.get("ROWS", 4_000_000))
ROUNDS = 3
ROOT = Path(__file__).parent.parent
FORMATS = ("facts.parquet", "facts.ndjson", "facts.csv.gz", "facts.semicolons.csv")
# What is asked of the API: path, at most so many times the bare sum (None: no such bar, only seconds).
LENSES: dict[str, float | None] = {
    "findings/low-ctr": 5.0,
    "findings/clashes": 8.0,
    **dict.fromkeys(
        f"findings/{name}"
        for name in ("overlapping-pages", "change", "breaks", "sections", "query-groups", "landing-pages", "pages")
    ),
    **dict.fromkeys(["changes", "one query", "one page", "one move"]),
}
COLD_SECONDS, WARM_SECONDS = (3.0, 0.2) if ROWS <= 5_000_000 else (8.0, 1.0)


def measure(what: str, folder: Path, name: str) -> dict[str, Any]:
    env = {**os.environ, "ZUGZWANG_DATA_DIR": str(folder / "data"), "DJANGO_SETTINGS_MODULE": "zugzwang.settings"}
    command = [sys.executable, "-m", "bench.measures", what, str(folder), name]
    done = subprocess.run(command, cwd=ROOT, env=env, capture_output=True, text=True, check=False)
    if done.returncode:
        sys.exit(done.stderr)
    return dict(json.loads(done.stdout.splitlines()[-1]))


def say(bar: str, value: float, limit: float, unit: str, detail: str) -> bool:
    current = value <= limit
    print(f"{'held' if current else 'MISSED':7}{bar}: {value:.2f} {unit} (at most {limit:g} {unit}) – {detail}", flush=True)
    return current


def in_turns(sides: dict[str, tuple[str, str]], folder: Path) -> dict[str, list[dict[str, Any]]]:
    """Each side measured once a round: its name → (measure, file or path)."""
    rounds = [{side: measure(what, folder, name) for side, (what, name) in sides.items()} for _ in range(ROUNDS)]
    return {side: [one[side] for one in rounds] for side in sides}


def ratio(over: list[dict[str, Any]], under: list[dict[str, Any]]) -> tuple[float, str]:
    pairs = [(one["seconds"], other["seconds"]) for one, other in zip(over, under, strict=True)]
    rows = ", ".join(f"{one:.2f}/{other:.2f} s" for one, other in pairs)
    return statistics.median(one / other for one, other in pairs), rows


def loading(folder: Path, name: str, size: int) -> list[bool]:
    taken = in_turns({"csv": ("copy", "facts.csv"), "own": ("copy", name), "load": ("load", name)}, folder)
    # Polars copies Parquet without reading a text; so what loading is compared with is the slower copy, that file's or the
    # CSV's.
    slower = max("csv", "own", key=lambda side: statistics.median(one["seconds"] for one in taken[side]))
    bars = [say(f"loading {name}", *_with_limit(ratio(taken["load"], taken[slower]), 3, "×"))]
    peak = max(one["peak_mb"] for one in taken["load"]) / 1000
    limit = 1.5 if ROWS <= 5_000_000 else 3.0
    bars.append(say(f"loading {name}, peak memory", peak, limit, "GB", f"{taken['load'][0]['before_mb']:.0f} MB before"))
    if name == "facts.csv":
        stored = taken["load"][0]["stored"]
        bars.append(say("stored size", stored / size, 0.25, "of the CSV", f"{stored / 1e6:.0f} MB, dictionaries included"))
    return bars


def _with_limit(found: tuple[float, str], limit: float, unit: str) -> tuple[float, float, str, str]:
    return found[0], limit, unit, found[1]


def lenses(folder: Path) -> list[bool]:
    bars = []
    for path, times in LENSES.items():
        taken = in_turns({"bare": ("bare", "facts.parquet"), "lens": ("lens", path)}, folder)
        if times is not None:
            found = ratio(taken["lens"], taken["bare"])
            bars.append(say(f"{path}, cold", *_with_limit(found, times, "×")))
        cold, warm = (statistics.median(one[name] for one in taken["lens"]) for name in ("seconds", "warm"))
        bars.append(say(f"{path}, cold", cold, COLD_SECONDS, "s", "at the API"))
        bars.append(say(f"{path}, warm", warm, WARM_SECONDS, "s", "at the API"))
        peak = max(one["peak_mb"] for one in taken["lens"]) / 1000
        bars.append(say(f"{path}, peak memory", peak, 3.0, "GB", ""))
    done = measure("filters", folder, "findings/low-ctr")
    bars.append(say("another filter", done["worst_filter"] * 1000, 150, "ms", done["filters"]))
    rows = f"the slowest of {done['windows']} ({done['rows']:,} rows)"
    bars.append(say("a window of rows", done["worst_window"] * 1000, 150, "ms", rows))
    return bars


def after_a_load(folder: Path) -> list[bool]:
    """The first request of each place, after the worker's computations."""
    ready = measure("make_ready", folder, "")
    done = measure("opened", folder, "")
    detail = f"{ready['kept'] / 1e6:.0f} MB kept, peak {ready['peak_mb'] / 1000:.2f} GB"
    return [
        say("making ready after a load", ready["seconds"], 60, "s", detail),
        say("a place as it opens, first process", done["worst"] * 1000, 300, "ms", done["each"]),
        say("a page's file, first process", done["page"] * 1000, 500, "ms", "5,000 pages"),
        say("forty proposed moves", done["proposals"] * 1000, 200, "ms", ""),
        say("a web process when idle again", done["idle_mb"] / 1000, 1.0, "GB", ""),
    ]


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        print("→ Making the facts", flush=True)
        # In a process of its own: a child's peak memory is never reported below that of its parent.
        rows = measure("make_facts", folder, str(ROWS))["rows"]
        measure("make_formats", folder, "facts.csv")
        size = (folder / "facts.csv").stat().st_size
        print(f"  {rows:,} rows, {size / 1e6:.0f} MB of CSV\n→ Measuring", flush=True)
        bars = [] if ROWS > 5_000_000 else [entry for one in FORMATS for entry in loading(folder, one, size)]
        bars += loading(folder, "facts.csv", size)
        bars += after_a_load(folder)
        bars += lenses(folder)
    sys.exit(0 if all(bars) else 1)


if __name__ == "__main__":
    main()
