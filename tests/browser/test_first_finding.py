"""From an export without days to the first finding within a minute: by mouse, by keyboard alone, on a phone."""

import csv
import random
import time
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import from_menu, open_evidence

MINUTE = 60


@pytest.fixture
def export(tmp_path: Path) -> Path:
    """Totals by page and query; one query in thirty has a tenth of the others' CTR."""
    chance = random.Random(5)
    path = tmp_path / "Performance.csv"
    rows = []
    for number in range(300):
        position, shown = chance.uniform(1, 12), chance.randint(400, 4_000)
        rate = 0.3 * position**-1.05 * (0.1 if number % 30 == 0 else chance.gammavariate(9, 1 / 9))
        clicks = round(shown * min(rate, 0.9))
        page = f"https://www.third.example/{number % 20}/"
        rows.append([page, f"paddle number {number}", clicks, shown, f"{100 * clicks / shown:.2f}%", f"{position:.1f}"])
    with path.open("w", newline="", encoding="utf-8") as file:
        csv.writer(file).writerows([["Page", "Top queries", "Clicks", "Impressions", "CTR", "Position"], *rows])
    return path


def see_the_first(page: Page, since: float) -> None:
    page.locator("[role=row][data-index]").first.wait_for()
    open_evidence(page, "evidence")
    evidence = page.get_by_test_id("evidence")
    expect(evidence).to_contain_text("usually get")
    expect(evidence).to_contain_text("fewer clicks than chance")
    assert time.monotonic() - since < MINUTE


@pytest.mark.parametrize("width", [1280, 390])
def test_by_mouse_and_on_a_phone(signed_in: Page, export: Path, width: int) -> None:
    page, since = signed_in, time.monotonic()
    page.set_viewport_size({"width": width, "height": 800})
    from_menu(page, "Add a site")
    expect(page.get_by_label("Name")).to_be_focused()
    page.keyboard.type(f"Third {width}")
    page.get_by_label("Its address").fill("www.third.example")
    page.get_by_role("button", name="Add the site").click()
    expect(page.get_by_text(f"Third {width} has no search data yet")).to_be_visible()
    page.locator("input[type=file]").set_input_files(export)
    expect(page.get_by_role("button", name="Load into")).to_be_disabled()
    page.get_by_role("button", name="last 3 months").click()
    page.get_by_role("button", name="Load into").click()
    page.get_by_role("link", name="See where clicks are lost").click()
    see_the_first(page, since)
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    if width == 390:
        page.go_back()
    page.get_by_role("button", name="queries", exact=True).click()
    expect(page.get_by_text("queries were tested")).to_be_visible()


def test_by_keyboard_alone(signed_in: Page, export: Path) -> None:
    page, since = signed_in, time.monotonic()
    from_menu(page, "Add a site", keyboard=True)
    page.keyboard.type("Fourth")
    page.keyboard.press("Tab")
    page.keyboard.type("www.third.example")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Fourth has no search data yet")).to_be_visible()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Choose a file").press("Enter")
    chooser.value.set_files(export)
    first = page.get_by_label("first day", exact=True)
    first.press_sequentially("16 Aug 2026")
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    page.keyboard.type("15.11.2026")
    page.keyboard.press("Tab")
    expect(page.get_by_label("last day", exact=True)).to_have_value("15 Nov 2026")
    page.get_by_role("button", name="Load into").press("Enter")
    page.get_by_role("link", name="See where clicks are lost").press("Enter")
    see_the_first(page, since)
    expect(page.get_by_text("totals of 13 weeks to 15 Nov 2026").or_(page.get_by_text("totals of 16 Aug 2026"))).to_be_visible()
