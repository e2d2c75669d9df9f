"""Pages compete for a query: look at the days, choose the lead, decide, reopen."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import CONTESTED, accessible, in_the_other_theme


def test_decide_a_clash_and_take_it_back(loaded: Page, server: str) -> None:
    page = loaded
    page.keyboard.press("5")
    expect(page).to_have_title(re.compile("^Clashes"))
    row = page.get_by_role("row", name=re.compile(f"kayak number {CONTESTED}"))
    row.click()
    clash = page.get_by_test_id("clash")
    expect(clash.get_by_role("heading", level=2)).to_have_text(f"kayak number {CONTESTED}")
    expect(clash).to_contain_text("pages take turns")
    expect(clash.get_by_role("img")).to_be_visible()
    address = page.url
    page.goto("about:blank")
    page.goto(address)
    expect(clash.get_by_role("heading", level=2)).to_have_text(f"kayak number {CONTESTED}")
    page.keyboard.press("m")
    expect(clash.get_by_label("who should lead")).to_be_focused()
    clash.get_by_label("what to do").select_option("unite")
    clash.get_by_role("combobox", name="who", exact=True).select_option("analyst")
    clash.get_by_label("why").fill("One guide is enough.")
    clash.get_by_role("button", name="Decide").click()
    expect(clash).to_contain_text("One guide is enough.")
    expect(row).to_contain_text("Too early to tell")
    expect(row).to_contain_text("to do")  # what is decided is a move as well
    accessible(page)
    in_the_other_theme(page)
    accessible(page)
    clash.get_by_role("button", name="Reopen").click()
    expect(clash.get_by_role("button", name="Decide")).to_be_visible()
    page.goto(f"{server}/shop/moves")
    expect(page.get_by_role("grid", name="Moves")).to_have_attribute("aria-busy", "false")
    expect(page.get_by_role("region", name="List")).not_to_contain_text(f"kayak number {CONTESTED}")


def test_no_clash_says_so(loaded: Page, server: str) -> None:
    loaded.goto(f"{server}/shop/clashes?section=/nowhere/")
    expect(loaded.get_by_role("heading", name="No clashes")).to_be_visible()


def test_marked_clashes_are_settled_each_as_is_proposed(loaded: Page, server: str) -> None:
    page = loaded
    page.goto(f"{server}/shop/clashes")
    row = page.get_by_role("row", name=re.compile(f"kayak number {CONTESTED}"))
    row.get_by_role("checkbox").click()
    expect(page.get_by_test_id("marked")).to_contain_text("1 clash marked")
    row.click()
    page.keyboard.press("m")
    page.get_by_role("button", name="Settle as proposed").click()
    expect(row).to_contain_text("Too early to tell")
    page.get_by_role("button", name="Undo").click()
    expect(row).not_to_contain_text("Too early to tell")
