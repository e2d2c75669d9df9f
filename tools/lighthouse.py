"""Lighthouse on sign-in and the five places used most, in the running demo: medians of RUNS runs, desktop and phone.

`make lighthouse RUNS=5`. Lighthouse comes from the npm registry when it is first asked for; it drives Debian's Chromium.
"""

import json
import os
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import sync_playwright

from tools.screenshots import QUIET, SERVER, sign_in

LIGHTHOUSE = "lighthouse@13.5.0"
PLACES = {
    "sign-in": "/sign-in",
    "queries": "/marrowbank/queries",
    "pages": "/marrowbank/pages",
    "changes": "/marrowbank/changes",
    "links": "/marrowbank/links",
    "data": "/marrowbank/data",
}
CATEGORIES = ("performance", "accessibility", "best-practices")
# On a quiet machine.
BARS = {"desktop": (90, 100, 100), "phone": (75, 100, 100)}


def cookies() -> str:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=QUIET)
        context = browser.new_context(locale="en-GB")
        sign_in(context.new_page())
        found = "; ".join(f"{one['name']}={one['value']}" for one in context.cookies())
        browser.close()
    return found


def measure(address: str, form: str, headers: Path, folder: Path) -> dict[str, float]:
    """The scores of one run, 0…100."""
    out = folder / "report.json"
    preset = ["--preset=desktop"] if form == "desktop" else []
    command = ["npm", "exec", "--yes", f"--package={LIGHTHOUSE}", "--", "lighthouse", address, *preset, "--quiet"]
    options = ["--output=json", f"--output-path={out}", f"--only-categories={','.join(CATEGORIES)}"]
    chrome = ["--chrome-flags=--headless=new --no-sandbox", f"--extra-headers={headers}"]
    env = {**os.environ, "CHROME_PATH": "/usr/bin/chromium"}
    subprocess.run([*command, *options, *chrome], env=env, check=True, capture_output=True, timeout=300)
    report = json.loads(out.read_text())
    faults = [name for name, one in report["audits"].items() if one["score"] == 0 and one["scoreDisplayMode"] == "binary"]
    if faults:
        print(f"    not passed: {', '.join(faults)}")
    return {name: 100 * (report["categories"][name]["score"] or 0) for name in CATEGORIES}


def main() -> int:
    runs = int(sys.argv[1]) if len(sys.argv) > 1 else 5
    missed = 0
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        signed_in, signed_out = folder / "in.json", folder / "out.json"
        signed_in.write_text(json.dumps({"Cookie": cookies()}))
        signed_out.write_text("{}")
        for form, bars in BARS.items():
            for place, path in PLACES.items():
                headers = signed_out if place == "sign-in" else signed_in
                every = [measure(SERVER + path, form, headers, folder) for _ in range(runs)]
                medians = [statistics.median(one[category] for one in every) for category in CATEGORIES]
                below = [category for category, got, bar in zip(CATEGORIES, medians, bars, strict=True) if got < bar]
                missed += len(below)
                words = ", ".join(f"{category} {got:.0f}" for category, got in zip(CATEGORIES, medians, strict=True))
                print(f"{form:8} {place:8} {words}{'  below the bar: ' + ', '.join(below) if below else ''}", flush=True)
    return 1 if missed else 0


if __name__ == "__main__":
    sys.exit(main())
