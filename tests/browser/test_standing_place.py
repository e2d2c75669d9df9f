"""An analyst's question: how is the site doing, and why did it change?"""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import accessible, in_the_other_theme


def test_walk_from_the_whole_to_a_section_an_event_and_a_page(loaded: Page, server: str) -> None:
    page = loaded
    page.keyboard.press("2")
    expect(page).to_have_title(re.compile("^Changes"))
    weeks = page.get_by_role("slider", name=re.compile("^Weeks"))
    weeks.focus()
    reading = page.get_by_test_id("week-reading")
    last = reading.inner_text()
    page.keyboard.press("ArrowLeft")
    expect(reading).not_to_have_text(last)
    page.keyboard.press("Enter")
    page.get_by_label("What happened").fill("New menu")
    page.get_by_role("button", name="Add it").click()
    expect(page.get_by_role("button", name="Delete New menu")).to_be_visible()
    page.get_by_role("button", name="Delete New menu").click()
    page.get_by_role("button", name="Restore").click()
    page.get_by_role("button", name="Delete New menu").wait_for()
    page.reload()
    page.get_by_role("button", name="Delete New menu").click()
    expect(page.get_by_role("button", name="Delete New menu")).to_have_count(0)
    page.keyboard.press("p")
    page.get_by_label("nothing").check()
    expect(page.get_by_text("A change needs days to compare with")).to_be_visible()
    page.keyboard.press("Escape")
    page.go_back()
    expect(page.get_by_text("A change needs days to compare with")).to_have_count(0)


def test_standing_is_accessible_in_both_themes_and_narrow(loaded: Page, server: str) -> None:
    page = loaded
    page.goto(f"{server}/shop/changes")
    page.get_by_test_id("week-reading").wait_for()
    accessible(page)
    in_the_other_theme(page)
    accessible(page)
    page.set_viewport_size({"width": 360, "height": 740})
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
