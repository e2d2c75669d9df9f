"""The performance bars of the Queries slice, as ratios measured in one run: `make bench`.

Each measure runs in a process of its own, so that peak memory is its own. Times are the medians of `REPEATS` runs.
"""

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

from bench.make_facts import make

ROWS = 4_000_000
REPEATS = 3
ROOT = Path(__file__).parent.parent


def measure(what: str, folder: Path) -> dict[str, Any]:
    env = {**os.environ, "ZUGZWANG_DATA_DIR": str(folder / "data"), "DJANGO_SETTINGS_MODULE": "zugzwang.settings"}
    command = [sys.executable, "-m", "bench.measures", what, str(folder), str(REPEATS)]
    done = subprocess.run(command, cwd=ROOT, env=env, capture_output=True, text=True, check=False)
    if done.returncode:
        sys.exit(done.stderr)
    return dict(json.loads(done.stdout.splitlines()[-1]))


def say(bar: str, value: float, limit: float, unit: str, detail: str) -> bool:
    held = value <= limit
    print(f"{'held' if held else 'MISSED':7}{bar}: {value:.2f} {unit} (at most {limit:g} {unit}) – {detail}")
    return held


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        print("→ Making the facts")
        rows = make(folder / "facts.csv", ROWS)
        size = (folder / "facts.csv").stat().st_size
        print(f"  {rows:,} rows, {size / 1e6:.0f} MB of CSV")
        print("→ Measuring")
        copy, load = measure("copy", folder), measure("load", folder)
        bare, lens = measure("bare", folder), measure("lens", folder)
        formats = measure("formats", folder)
    bars = [
        say("loading", load["seconds"] / copy["seconds"], 3, "×", f"{load['seconds']:.1f} s against {copy['seconds']:.1f} s"),
        say("loading, peak memory", load["peak_mb"] / 1000, 1.5, "GB", f"of which {load['before_mb']:.0f} MB before it began"),
        say("stored size", load["stored"] / size, 0.25, "of the CSV", f"{load['stored'] / 1e6:.0f} MB, dictionaries included"),
        say("cold lens", lens["cold"] / bare["seconds"], 5, "×", f"{lens['cold']:.2f} s against {bare['seconds']:.2f} s"),
        say("another filter", lens["worst_filter"] * 1000, 150, "ms", f"{lens['filters']}"),
        say(
            "a window of rows",
            lens["worst_window"] * 1000,
            150,
            "ms",
            f"the slowest of {lens['windows']} ({lens['rows']:,} rows)",
        ),
    ]
    for name, taken in formats["formats"].items():
        detail = f"{taken['seconds']:.1f} s; Polars alone reads it and writes Parquet in {taken['bare']:.1f} s"
        bars.append(say(f"loading {name}", taken["seconds"] / copy["seconds"], 3, "× the CSV's copy", detail))
    bars.append(say("other formats, peak memory", formats["peak_mb"] / 1000, 1.5, "GB", "with their making"))
    print(
        f"\nfor the record: {lens['before']:.2f} s cold with last year beside it; first call of a process {lens['first']:.2f} s"
    )
    sys.exit(0 if all(bars) else 1)


if __name__ == "__main__":
    main()
