"""An analyst's question: which page could gain the most, and why?"""

import csv
import io
import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import accessible, in_the_other_theme


def test_walk_pages_open_a_file_and_export(loaded: Page, server: str) -> None:
    page = loaded
    page.keyboard.press("3")
    expect(page).to_have_title(re.compile("^Pages"))
    file = page.get_by_test_id("page-file")
    expect(file.get_by_role("heading", name="Its queries")).to_be_visible()
    rows = page.get_by_role("grid", name="Pages").get_by_role("row")
    expect(rows.nth(1)).to_have_attribute("aria-selected", "true")
    page.keyboard.press("j")
    expect(rows.nth(2)).to_have_attribute("aria-selected", "true")
    page.wait_for_url("**row=*")
    chosen = rows.nth(2).get_by_role("rowheader").locator("span").first.inner_text()
    expect(file.get_by_role("link", name=chosen).first).to_be_visible()
    expect(file).to_contain_text(re.compile("No opportunity|could bring|fewer clicks"))
    address = page.url
    page.goto("about:blank")
    page.goto(address)
    expect(rows.nth(2)).to_have_attribute("aria-selected", "true")
    with page.expect_download() as download:
        page.keyboard.press("e")
    result = list(csv.DictReader(io.StringIO(download.value.path().read_text("utf-8-sig"))))
    assert {"page", "clicks", "snippet", "rank", "unite", "gain", "evidence", "reasons"} <= set(result[0])
    gains = [float(row["gain"]) for row in result]
    assert gains == sorted(gains, reverse=True)


def test_a_page_opens_into_its_queries_and_its_rules(loaded: Page, server: str) -> None:
    page = loaded
    page.goto(f"{server}/shop/pages")
    file = page.get_by_test_id("page-file")
    file.get_by_role("button", name="How it's calculated").first.click()
    expect(page.get_by_role("dialog")).to_contain_text("false discovery")
    page.keyboard.press("Escape")
    query = file.get_by_role("table").nth(2).get_by_role("link").first
    name = query.inner_text()
    query.click()
    result = page.get_by_test_id("query-file")
    expect(result.get_by_role("heading", level=1)).to_have_text(name)
    expect(result).to_contain_text("for it")
    accessible(page)
    page.go_back()
    expect(file.get_by_role("heading", name="Its queries")).to_be_visible()


def test_pages_are_accessible_in_both_themes_and_narrow(loaded: Page, server: str) -> None:
    page = loaded
    page.goto(f"{server}/shop/pages")
    page.get_by_test_id("page-file").wait_for()
    accessible(page)
    in_the_other_theme(page)
    accessible(page)
    page.set_viewport_size({"width": 360, "height": 740})
    page.wait_for_function("() => document.documentElement.scrollWidth <= innerWidth")


def test_filters_that_leave_no_page_say_so(loaded: Page, server: str) -> None:
    loaded.goto(f"{server}/shop/pages?section=/nowhere/")
    expect(loaded.get_by_role("heading", name="No page fits these filters")).to_be_visible()
    loaded.get_by_role("button", name="Remove the filters").click()
    loaded.get_by_test_id("page-file").wait_for()
