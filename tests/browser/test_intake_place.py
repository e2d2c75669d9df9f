"""Data as an analyst uses it: preview a file, connect a service, crawl, clean, and undo a load."""

import re
from pathlib import Path

import pytest
import xlsxwriter
from playwright.sync_api import Page, expect

from tests.browser.conftest import accessible, from_menu
from tests.standin_server import TOKEN


@pytest.fixture
def workbook(tmp_path: Path) -> Path:
    path = tmp_path / "visits of november.xlsx"
    with xlsxwriter.Workbook(path) as book:
        book.add_worksheet("About").write(0, 0, "made by hand")
        sheet = book.add_worksheet("Visits")
        sheet.write_row(1, 0, ["Date", "Landing page", "Channel", "Sessions", "Bounce rate"])
        for number in range(20):
            sheet.write_row(
                2 + number, 0, [f"2026-11-{number % 15 + 1:02}", f"/page-{number}/?utm_source=x", "Organic", 40, 0.5]
            )
    return path


@pytest.fixture
def second_site(signed_in: Page, server: str) -> Page:
    """A separate site, opened at its Data."""
    page = signed_in
    name = f"Site {page.evaluate('Math.random().toString(36).slice(2, 10)')}"
    from_menu(page, "Add a site")
    page.get_by_label("Name").fill(name)
    page.get_by_label("Its address").fill("http://www.shop.example")
    page.get_by_role("button", name="Add the site").click()
    expect(page.get_by_text(f"{name} has no search data yet")).to_be_visible()
    return page


def test_a_file_is_tried_loaded_reported_and_taken_back(second_site: Page, workbook: Path) -> None:
    page = second_site
    expect(page.get_by_text("Nothing yet. Drop a file above.").first).to_be_visible()
    page.locator("input[type=file]").set_input_files(workbook)
    expect(page.get_by_label("Taken for")).to_have_value("visits")
    expect(page.get_by_role("combobox", name="Sheet")).to_have_value("Visits")
    page.get_by_role("button", name="Preview the changes").click()
    tried = page.get_by_test_id("job")
    expect(tried).to_contain_text("nothing is changed yet")
    expect(tried.locator("dl")).to_contain_text(re.compile(r"new rows\s*20"))
    expect(tried.locator("dl")).to_contain_text(re.compile(r"addresses merged into another page\s*20"))
    accessible(page)
    expect(page.get_by_role("img", name=re.compile("days with sessions"))).to_have_count(0)
    page.get_by_role("button", name=re.compile("^Load into")).click()
    expect(page.get_by_test_id("job")).to_contain_text("20 of 20 rows loaded")
    expect(page.get_by_role("img", name=re.compile("15 days with sessions, 1 Nov 2026 to 15 Nov 2026"))).to_be_visible()

    page.get_by_role("link", name="Loads").click()
    report = page.get_by_test_id("report")
    expect(report).to_contain_text("20 rows were new, 0 replaced others, 0 went")
    page.get_by_role("button", name="Undo this load").click()
    expect(report).to_contain_text("as if it had never been loaded")
    expect(page.get_by_role("button", name="Undo this load")).to_have_count(0)
    page.get_by_role("link", name="Sources").click()
    expect(page.get_by_role("img", name=re.compile("days with sessions"))).to_have_count(0)


def test_a_service_is_connected_and_brought_up_to_date(second_site: Page) -> None:
    page = second_site
    page.get_by_role("button", name="Connect a service").first.click()
    page.get_by_label("Address").fill("http://data.shop.example/search")
    page.get_by_label("Token").fill(TOKEN)
    page.get_by_role("button", name="Keep").click()
    page.get_by_role("button", name="Refresh").click()
    expect(page.get_by_test_id("job")).to_contain_text(re.compile(r"Search data: .* rows fetched"), timeout=60_000)
    expect(page.get_by_text(re.compile("has search data from 1 Sep 2026 to 10 Oct 2026, complete"))).to_be_visible()
    page.get_by_role("button", name="Crawl the site").click()
    expect(page.get_by_test_id("job")).to_contain_text(re.compile(r"addresses and .* links found"), timeout=60_000)
    expect(page.get_by_text(re.compile("without impressions"))).to_be_visible()
    page.get_by_role("button", name=re.compile("^Connected, last refresh")).click()
    expect(page.get_by_label("Token")).to_have_value("")  # it is not reported back
    accessible(page)
    page.get_by_role("button", name="Disconnect").click()
    expect(page.get_by_role("button", name="Refresh")).to_have_count(0)


def test_rules_show_their_effect_before_they_are_kept_and_can_be_put_back(loaded: Page, server: str) -> None:
    page = loaded
    page.goto(f"{server}/shop/data/cleaning")
    left_out = page.get_by_role("region", name="Left out")
    expect(left_out).to_contain_text("0 pages are left out")
    page.get_by_label("Excluded addresses").fill("/page-1\\d\\d$")
    expect(left_out).to_contain_text("100 pages are left out")
    expect(page.get_by_text("These rules are not saved yet")).to_be_visible()
    page.get_by_role("button", name="Another group").click()
    page.get_by_label("Name of the group").fill("ones")
    page.get_by_label("Pattern of its queries").fill("number 1\\d*$")
    expect(page.get_by_role("row", name=re.compile("^ones 111"))).to_be_visible()
    page.get_by_role("button", name="Save these rules").click()
    expect(page.get_by_text("Changed: pages left out, query groups")).to_be_visible()
    expect(page.get_by_text("These rules are not saved yet")).to_have_count(0)
    accessible(page)
    page.get_by_role("button", name="Restore these rules").first.click()
    expect(left_out).to_contain_text("0 pages are left out")
    expect(page.get_by_text(re.compile("Restored as before"))).to_be_visible()


def test_events_are_added_and_taken_away_in_place(second_site: Page) -> None:
    page = second_site
    page.get_by_role("button", name="Events").click()
    page.get_by_label("What happened").fill("An update")
    page.get_by_label("First day").fill("2026-09-08")
    page.get_by_role("button", name="Add the event").click()
    expect(page.get_by_role("dialog")).to_contain_text("8 Sep 2026")
    accessible(page)
    page.get_by_role("button", name="Delete An update").click()
    expect(page.get_by_role("dialog")).to_contain_text("None yet")


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_axe_finds_nothing_in_intake(loaded: Page, server: str, theme: str) -> None:
    page = loaded
    page.emulate_media(color_scheme=theme)  # type: ignore[arg-type]
    for part in ("data", "data/cleaning", "data/loads"):
        page.goto(f"{server}/shop/{part}")
        page.get_by_role("heading", level=2).first.wait_for()
        accessible(page)


def test_intake_by_keyboard_alone_and_in_a_small_window(loaded: Page, server: str) -> None:
    page = loaded
    page.keyboard.press("1")
    page.get_by_role("heading", name="Data", exact=True).wait_for()
    page.get_by_role("link", name="Cleaning").focus()
    page.keyboard.press("Enter")
    expect(page).to_have_url(f"{server}/shop/data/cleaning")
    page.go_back()
    expect(page).to_have_url(f"{server}/shop/data")
    page.get_by_role("heading", name="Sources").wait_for()
    with page.expect_file_chooser():
        page.get_by_role("button", name="Choose a file").press("Enter")
    for width in (320, 2560):
        page.set_viewport_size({"width": width, "height": 800})
        for part in ("data", "data/cleaning", "data/loads"):
            page.goto(f"{server}/shop/{part}")
            page.get_by_role("heading", level=2).first.wait_for()
            assert page.evaluate("document.documentElement.scrollWidth") <= width, part
