"""From a topic on the board to a content gap that becomes a move: by keyboard, with edits of topics."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.conftest import accessible, in_the_other_theme
from tests.browser.topic_files import add_site, files_of_topics


def test_from_a_topic_to_a_page_to_write(signed_in: Page, server: str, tmp_path: Path) -> None:
    page = signed_in
    add_site(page, server, "Topics", files_of_topics(tmp_path))
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

    page.goto(f"{server}/topics/topics?finding=content-gaps")
    missing = page.get_by_test_id("to-write-file")
    expect(missing).to_contain_text("You rank for none of them")
    expect(missing.get_by_role("listitem")).to_have_count(3)
    accessible(page)
    page.keyboard.press("m")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("You rank for none of them")
    dialog.get_by_role("button", name="Save move").click()
    expect(page.get_by_text("Move made.")).to_be_visible()
    page.get_by_role("button", name="Topic queries").click()
    expect(page.get_by_test_id("topic-query-file")).to_be_visible()
    in_the_other_theme(page)
    accessible(page)
    # The competing pages were not fetched, so nothing can be compared with them, and that is said.
    page.goto(f"{server}/topics/pages?finding=page-two-candidates")
    expect(page.get_by_role("heading", name=re.compile("^Page-two candidates: possible with"))).to_be_visible()
    accessible(page)
