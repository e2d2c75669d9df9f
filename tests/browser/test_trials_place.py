"""A test from marked pages to its conclusion: power is shown while pages are chosen; started, run, concluded once."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import accessible, in_the_other_theme


def test_a_trial_from_marked_pages_to_its_verdict(loaded: Page, server: str) -> None:
    page = loaded
    page.goto(f"{server}/shop/pages")
    page.get_by_test_id("page-file").wait_for()
    for _ in range(3):
        page.keyboard.press("Space")
        page.keyboard.press("j")
    page.get_by_test_id("marked").get_by_role("button", name="Start a trial").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_role("status")).to_contain_text("would be detected in four of five cases")
    seen = dialog.get_by_role("status").inner_text()
    dialog.get_by_text("randomised test: half of them are changed").click()
    expect(dialog).to_contain_text("A randomised test needs 6 pairs")
    expect(dialog.get_by_role("button", name="Start it")).to_be_disabled()
    dialog.get_by_text("before/after test, compared with control pages").click()
    expect(dialog.get_by_role("status")).to_contain_text(seen.split(":")[0])
    accessible(page)
    # A change that was made in autumn has ended by now, and is read once.
    dialog.get_by_label("day of the change").fill("1 Oct 2026")
    dialog.get_by_label("what you change").fill("Titles that ask")
    dialog.get_by_label("length in weeks").fill("4")
    expect(dialog.get_by_role("status")).to_contain_text("would be detected")
    dialog.get_by_role("button", name="Start it").click()
    trial = page.get_by_test_id("trial-file")
    expect(trial).to_contain_text("Titles that ask")
    expect(page).to_have_url(re.compile("finding=trials"))
    expect(trial).to_contain_text("The test has ended.")
    trial.get_by_role("button", name="Conclude the test").click()
    expect(trial).to_contain_text(re.compile("No effect beyond chance|It helped|It harmed"))
    expect(trial.get_by_role("img", name=re.compile("^The effect is"))).to_be_visible()
    expect(trial.get_by_role("img", name=re.compile("^Weeks of test pages"))).to_be_visible()
    expect(trial.get_by_role("button", name="Conclude the test")).to_have_count(0)
    accessible(page)
    in_the_other_theme(page)
    accessible(page)
    page.get_by_role("button", name="Moves", exact=True).click()
    expect(page.get_by_test_id("trial-file")).to_have_count(0)
