"""From a topic on the board to a page to write that becomes a move: by keyboard, with what people change about topics."""

import csv
import re
from datetime import date, timedelta
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import accessible, in_the_other_theme

SUBJECTS, KINDS = ("canoe", "rudder", "lantern"), ("storage", "sizes", "repair", "straps")
HOST = "https://www.third.example"


def write(path: Path, header: list[str], rows: list[list[object]]) -> Path:
    with path.open("w", newline="", encoding="utf-8") as file:
        csv.writer(file).writerows([header, *rows])
    return path


@pytest.fixture
def files(tmp_path: Path) -> list[Path]:
    """Search facts, volumes with a summer, and a crawl; lantern insurance is searched, and no page answers it."""
    facts, volumes, crawl = [], [], []
    for subject in SUBJECTS:
        for kind in KINDS:
            page = f"{HOST}/{subject}/{kind}/"
            crawl.append([page, 200, f"{subject} {kind}".title(), f"All about {subject} {kind}."])
            for word in ("plan", "box", "list"):
                query = f"{subject} {kind} {word}"
                facts += [[date(2026, 11, 15) - timedelta(days=day), page, query, 2, 40, 5.0] for day in range(28)]
    missing = [f"lantern insurance {word}" for word in ("north", "south", "law")]
    for query in [*sorted({row[2] for row in facts}), *missing]:
        for month in range(1, 13):
            volumes.append([query, date(2026, month, 1), 300 + (400 if month in (6, 7) else 0), 0.8])
    return [
        write(tmp_path / "facts.csv", ["Date", "Page", "Query", "Clicks", "Impressions", "Position"], facts),
        write(tmp_path / "crawl.csv", ["address", "status", "title", "main text"], crawl),
        write(tmp_path / "volumes.csv", ["Keyword", "Month", "Search volume", "CPC"], volumes),
    ]


def test_from_a_topic_to_a_page_to_write(signed_in: Page, server: str, files: list[Path]) -> None:
    page = signed_in
    page.get_by_role("button", name="Add a site").first.click()
    page.keyboard.type("Topics")
    page.get_by_label("Its address").fill(HOST)
    page.get_by_role("button", name="Add the site").click()
    for file in files:
        page.goto(f"{server}/topics/intake")
        page.locator("input[type=file]").set_input_files(file)
        page.get_by_role("button", name="Load into").click()
        page.get_by_text("rows loaded").wait_for(timeout=60_000)
    page.keyboard.press("8")
    file_of_topic = page.get_by_test_id("topic-file")
    expect(file_of_topic).to_contain_text("Most in June")
    expect(page.get_by_role("img", name=re.compile("^Most in June")).first).to_be_visible()
    accessible(page)
    page.get_by_role("button", name="Rename").click()
    page.get_by_role("dialog").get_by_label("name").fill("Lights at night")
    page.get_by_role("dialog").get_by_role("button", name="Rename").click()
    expect(file_of_topic.get_by_role("heading", level=2)).to_have_text("Lights at night")
    file_of_topic.get_by_role("link", name="Its pages").click()
    expect(page.get_by_role("button", name="Remove the filter: topic Lights at night")).to_be_visible()
    expect(page.get_by_test_id("page-file")).to_be_visible()

    page.goto(f"{server}/topics/topics?finding=pages-to-write")
    missing = page.get_by_test_id("to-write-file")
    expect(missing).to_contain_text("Ours is shown for none of them")
    expect(missing.get_by_role("listitem")).to_have_count(3)
    accessible(page)
    page.keyboard.press("m")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Ours is shown for none of them")
    dialog.get_by_role("button", name="Keep the move").click()
    expect(page.get_by_text("Kept as a move.")).to_be_visible()
    page.get_by_role("button", name="Queries of topics").click()
    expect(page.get_by_test_id("topic-query-file")).to_be_visible()
    in_the_other_theme(page)
    accessible(page)
    # The pages above were not fetched, so nothing can be compared with them, and that is said.
    page.goto(f"{server}/topics/pages?finding=nearly-ready")
    expect(page.get_by_text("Nothing can be compared yet")).to_be_visible()
    accessible(page)
