"""Decisions: make a move from a row, snooze one, dismiss one; two people edit one move at once."""

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import PASSWORD, USER, accessible, in_the_other_theme


@pytest.fixture
def second(browser: Browser, server: str) -> Iterator[Page]:
    """The same analyst on another machine."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, locale="en-GB")
    page = context.new_page()
    page.goto(f"{server}/sign-in?next=/shop/moves")
    page.get_by_label("User name").fill(USER)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("button", name="Signed in as").wait_for()
    yield page
    context.close()


def open_a_move(page: Page, second: Page) -> None:
    """A move of the first row, opened on both machines."""
    page.keyboard.press("m")
    page.get_by_role("button", name="Save move").click()
    page.get_by_text("Move made.").wait_for()
    page.get_by_role("link", name="Open the move").click()
    page.wait_for_url("**/moves?row=*")
    second.goto(page.url)


def test_a_row_becomes_a_move_by_keyboard_and_stays_marked(loaded: Page, server: str) -> None:
    page = loaded
    rows = page.get_by_role("grid").get_by_role("row")
    query = rows.nth(1).get_by_role("rowheader").locator("div").first.inner_text()
    page.keyboard.press("m")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text(re.compile(r"about [\d\s]+ clicks a month, by a cautious estimate"))
    expect(dialog.get_by_label("what to do")).to_have_value("rewrite")
    page.keyboard.press("Enter")
    expect(dialog).to_have_count(0)
    expect(rows.nth(1)).to_contain_text("to do")
    expect(page.get_by_test_id("deciding")).to_contain_text("rewrite title and description")
    page.keyboard.press("0")
    expect(page).to_have_title(re.compile("^Moves"))
    move = page.get_by_test_id("move")
    expect(move).to_contain_text(query)
    move.get_by_role("textbox", name="note").fill("Name the sizes.")
    page.reload()  # a phone call, a closed window: what was typed is still there
    expect(move.get_by_role("textbox", name="note")).to_have_value("Name the sizes.")
    move.get_by_role("button", name="Save").click()
    expect(move).to_contain_text("note from nothing to “Name the sizes.”")
    accessible(page)
    page.keyboard.press("Escape")
    page.evaluate("document.activeElement.blur()")
    in_the_other_theme(page)
    accessible(page)
    move.get_by_role("button", name="Restore note").click()
    expect(move.get_by_role("textbox", name="note")).to_have_value("")
    move.get_by_role("button", name="Delete the move").click()
    expect(page.get_by_text("No moves yet")).to_be_visible()
    page.get_by_role("button", name="Restore").click()
    expect(move.get_by_role("button", name="Delete the move")).to_be_visible()


def test_two_who_edit_one_move_lose_no_words(loaded: Page, server: str, second: Page) -> None:
    page = loaded
    open_a_move(page, second)
    one, other = page.get_by_test_id("move"), second.get_by_test_id("move")
    other.get_by_role("textbox", name="note").wait_for()
    one.get_by_role("textbox", name="note").fill("First words.")
    other.get_by_role("textbox", name="note").fill("Second words.")
    other.get_by_role("combobox", name="effort").select_option("week")
    one.get_by_role("button", name="Save").click()
    expect(one).to_contain_text("“First words.”")
    other.get_by_role("button", name="Save").click()
    meeting = other.get_by_role("alert")
    expect(meeting).to_contain_text("First words.")
    expect(meeting).to_contain_text("Second words.")
    meeting.get_by_role("button", name="Both notes").click()
    expect(meeting).to_have_count(0)
    expect(other.get_by_role("textbox", name="note")).to_have_value("First words.\n\nSecond words.")
    page.reload()
    expect(one.get_by_role("textbox", name="note")).to_have_value("First words.\n\nSecond words.")
    expect(one.get_by_role("combobox", name="effort")).to_have_value("week")


def test_what_is_left_alone_or_set_aside_can_be_taken_back(loaded: Page, server: str) -> None:
    page = loaded
    page.goto(f"{server}/shop/pages")
    row = page.get_by_role("grid", name="Pages").get_by_role("row").nth(2)
    row.click()
    deciding = page.get_by_test_id("deciding")
    expect(deciding).to_be_visible()
    page.keyboard.press("x")
    page.get_by_role("textbox", name="why").fill("It is being replaced.")
    page.get_by_role("button", name="Dismiss").last.click()
    expect(row).to_contain_text("dismissed")
    expect(deciding).to_contain_text("It is being replaced.")
    page.goto(f"{server}/shop/moves")
    page.get_by_text(re.compile(r"^\d+ rows? dismissed or snoozed")).click()
    page.get_by_role("button", name=re.compile("Reopen: dismissed")).click()
    expect(page.get_by_text(re.compile(r"^\d+ rows? dismissed or snoozed"))).to_have_count(0)
    page.goto(f"{server}/shop/pages")
    expect(deciding).to_be_visible()
    expect(row).not_to_contain_text("dismissed")
    page.keyboard.press("s")
    page.get_by_role("button", name="Snooze").last.click()
    first = page.get_by_role("grid", name="Pages").get_by_role("row").nth(1)
    expect(first).to_contain_text("snoozed")
    page.get_by_role("button", name="Undo").click()
    expect(first).not_to_contain_text("snoozed")


def test_several_rows_are_marked_and_decided_on_at_once(loaded: Page, server: str) -> None:
    page = loaded
    page.goto(f"{server}/shop/queries?finding=striking-distance")
    rows = page.get_by_role("grid").get_by_role("row")
    page.get_by_test_id("evidence").wait_for()
    for _ in range(2):
        page.keyboard.press("Space")
    rows.nth(5).click(modifiers=["Shift"])
    marked = page.get_by_test_id("marked")
    expect(marked).to_contain_text("5 marked rows")
    rows.nth(1).get_by_role("checkbox").click()
    expect(marked).to_contain_text("4 marked rows")
    accessible(page)
    page.keyboard.press("m")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Expected together: about")
    dialog.get_by_label("effort").select_option("day")
    dialog.get_by_role("button", name="Save moves").click()
    expect(page.get_by_text("4 moves made.")).to_be_visible()
    expect(marked).to_have_count(0)
    for number in range(2, 6):
        expect(rows.nth(number)).to_contain_text("to do")
    page.get_by_role("button", name="Undo").click()
    expect(rows.nth(2)).not_to_contain_text("to do")
    expect(page.get_by_role("button", name="Undo")).to_have_count(0)  # it would take the space bar
    page.keyboard.press("Space")
    page.keyboard.press("Space")
    page.keyboard.press("x")
    dialog.get_by_label("why").fill("Jobs at the shop.")
    dialog.get_by_role("button", name="Dismiss").click()
    expect(page.get_by_text("2 rows are dismissed.")).to_be_visible()
    page.get_by_role("button", name="Undo").last.click()
    expect(page.get_by_role("grid")).not_to_contain_text("dismissed")


def test_who_types_is_told_what_others_change_meanwhile(loaded: Page, server: str, second: Page) -> None:
    page = loaded
    open_a_move(page, second)
    other = second.get_by_test_id("move")
    page.get_by_test_id("move").get_by_role("textbox", name="note").fill("My words.")
    other.get_by_role("combobox", name="effort").select_option("week")
    other.get_by_role("button", name="Save").click()
    result = page.get_by_text("Meanwhile analyst changed effort.")
    expect(result).to_be_visible(timeout=15_000)  # asked for again every ten seconds
    expect(page.get_by_test_id("move").get_by_role("combobox", name="effort")).to_have_value("week")
    page.get_by_test_id("move").get_by_role("button", name="Save").click()
    expect(page.get_by_test_id("move")).to_contain_text("note from nothing to “My words.”")


def test_several_moves_are_marked_made_on_one_day(loaded: Page, server: str) -> None:
    page = loaded
    page.goto(f"{server}/shop/queries?finding=striking-distance")
    page.get_by_test_id("evidence").wait_for()
    for _ in range(2):
        page.keyboard.press("Space")
    page.keyboard.press("m")
    page.get_by_role("button", name="Save moves").click()
    page.get_by_text("2 moves made.").wait_for()
    page.goto(f"{server}/shop/moves?text=kayak&state=to+do")
    rows = page.get_by_role("grid", name="Moves").get_by_role("row")
    expect(rows.nth(2)).to_be_visible()
    many = rows.count() - 1
    page.keyboard.press("Space")
    rows.nth(many).click(modifiers=["Shift"])
    expect(page.get_by_test_id("marked")).to_contain_text(f"{many} marked moves")
    page.get_by_role("button", name="Change them").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("done on").fill("2026-11-02")
    dialog.get_by_label("done on").blur()
    expect(dialog.get_by_label("done on")).to_have_value("2 Nov 2026")  # written out, whatever it was typed as
    dialog.get_by_role("button", name="Save").click()
    expect(page.get_by_text("No matches")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(rows).to_have_count(many + 1)
