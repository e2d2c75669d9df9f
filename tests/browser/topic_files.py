"""Search facts, volumes with a summer peak and a crawl of a small shop; no page answers "lantern insurance"."""

import csv
from datetime import date, timedelta
from pathlib import Path

from playwright.sync_api import Page

from tests.browser.conftest import from_menu

SUBJECTS, KINDS = ("canoe", "rudder", "lantern"), ("storage", "sizes", "repair", "straps")
MISSING = ("north", "south", "law")
HOST = "https://www.third.example"


def write(path: Path, header: list[str], rows: list[list[object]]) -> Path:
    with path.open("w", newline="", encoding="utf-8") as file:
        csv.writer(file).writerows([header, *rows])
    return path


def files_of_topics(folder: Path) -> list[Path]:
    facts, volumes, crawl = [], [], []
    for subject in SUBJECTS:
        for kind in KINDS:
            page = f"{HOST}/{subject}/{kind}/"
            crawl.append([page, 200, f"{subject} {kind}".title(), f"All about {subject} {kind}."])
            for word in ("plan", "box", "list"):
                query = f"{subject} {kind} {word}"
                facts += [[date(2026, 11, 15) - timedelta(days=day), page, query, 2, 40, 5.0] for day in range(28)]
    missing = [f"lantern insurance {word}" for word in MISSING]
    for query in [*sorted({row[2] for row in facts}), *missing]:
        for month in range(1, 13):
            volumes.append([query, date(2026, month, 1), 300 + (400 if month in (6, 7) else 0), 0.8])
    return [
        write(folder / "facts.csv", ["Date", "Page", "Query", "Clicks", "Impressions", "Position"], facts),
        write(folder / "crawl.csv", ["address", "status", "title", "main text"], crawl),
        write(folder / "volumes.csv", ["Keyword", "Month", "Search volume", "CPC"], volumes),
    ]


def add_site(page: Page, server: str, name: str, files: list[Path]) -> None:
    """A separate site with the files loaded."""
    from_menu(page, "Add a site")
    page.keyboard.type(name)
    page.get_by_label("Its address").fill(HOST)
    page.get_by_role("button", name="Add the site").click()
    for file in files:
        page.goto(f"{server}/{name.lower()}/data")
        page.locator("input[type=file]").set_input_files(file)
        page.get_by_role("button", name="Load into").click()
        page.get_by_text("rows loaded").wait_for(timeout=60_000)
