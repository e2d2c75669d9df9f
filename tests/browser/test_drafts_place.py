"""From a content gap to an exported draft: suggested outline, text, live check, title; two people; a lost connection."""

import re
from collections.abc import Callable
from pathlib import Path

import docx
from playwright.sync_api import APIResponse, Browser, Page, Request, Route, expect

from tests.browser.conftest import COLLEAGUE, accessible, in_the_other_theme, sign_in
from tests.browser.topic_files import add_site, files_of_topics, write
from tests.standin_server import TOKEN

TERM = "broken glass"
DRAFT = re.compile(r"/api/sites/drafts/drafts/\d+$")
SOON_MS = 10_000  # less than the 15 s after which a window says again that it writes, and saves


def captured(folder: Path) -> Path:
    rows: list[list[object]] = [
        ["lantern insurance north", "2026-11-15", place, "organic", "", f"https://{name}.rival.example/lantern/", "Lanterns"]
        for place, name in enumerate(("ash", "birch", "cedar"), start=1)
    ]
    return write(folder / "results.csv", ["query", "captured", "place", "block", "kind", "address", "title"], rows)


def test_from_a_page_to_write_to_a_document(signed_in: Page, server: str, browser: Browser, tmp_path: Path) -> None:
    page = signed_in
    add_site(page, server, "Drafts", [*files_of_topics(tmp_path), captured(tmp_path)])
    page.goto(f"{server}/drafts/data")
    page.get_by_role("button", name=re.compile("^Fetch the pages of all")).click()
    page.get_by_role("button", name="Watch").click()
    page.get_by_text("3 competing pages fetched").wait_for(timeout=60_000)

    page.goto(f"{server}/drafts/topics?finding=content-gaps")
    expect(page.get_by_test_id("to-write-file")).to_contain_text("You rank for none of them")
    page.keyboard.press("d")
    text = page.get_by_role("textbox", name="Text of the draft")
    check = page.get_by_test_id("draft-check")
    expect(check).to_contain_text("It uses 0 of")
    accessible(page)

    # Help: connected here, asked for an outline, taken over by hand.
    page.get_by_role("button", name="Proposals", exact=True).click()
    help_panel = page.get_by_test_id("draft-help")
    help_panel.get_by_role("button", name="Connect one").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Address").fill("http://data.shop.example/text")
    dialog.get_by_label("Token").fill(TOKEN)
    dialog.get_by_role("button", name="Keep").click()
    help_panel.get_by_role("button", name="Ask").click()
    expect(help_panel).to_contain_text("no language model")
    expect(text).to_have_text("")  # nothing enters by itself
    help_panel.get_by_role("button", name="Add all as headings").click()
    expect(text.get_by_role("heading", name="What does it pay for?")).to_be_visible()

    # Text: what is typed is compared with the competing pages, and marked where it reads badly.
    expect(text).to_be_focused()
    text.press("ControlOrMeta+Home")
    page.keyboard.type(f"Insurance of a lantern pays for {TERM}. ")
    page.keyboard.type("It goes on and on " + "and says one thing after another " * 5 + "until it ends.")
    page.get_by_role("button", name="Check", exact=True).click()
    expect(check.get_by_role("row", name=re.compile(TERM)).first).to_be_visible()
    expect(check).to_contain_text("Cut it in two.")
    expect(text.locator(".fault-long-sentence").first).to_contain_text("one thing after another")
    page.get_by_role("button", name="Snippet").click()
    page.get_by_label("title", exact=False).first.fill("Lantern insurance in the north")
    expect(page.get_by_text("Saved", exact=True)).to_be_visible()
    accessible(page)
    with page.expect_download() as saved:
        page.get_by_role("button", name="Save as").click()
        page.get_by_role("menuitem", name="Word document").click()
    document = docx.Document(saved.value.path())
    result = [one.text for one in document.paragraphs]
    assert "What does it pay for?" in result
    assert any(TERM in line for line in result)
    assert "Lantern insurance in the north" in [cell.text for table in document.tables for cell in table._cells]

    nothing_waits_unsent(page)
    two_people(page, server, browser, page.url)

    page.get_by_role("button", name="Versions").click()
    expect(page.get_by_test_id("draft-versions")).to_contain_text("Written while nothing came through")
    page.get_by_role("button", name="Mark as published").click()
    page.get_by_role("dialog").get_by_role("button", name="Mark as published").click()
    expect(page.get_by_text("Published on")).to_be_visible()
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("9")
    expect(page.get_by_test_id("draft-file")).to_contain_text("Published on")
    in_the_other_theme(page)
    accessible(page)
    page.get_by_test_id("draft-file").get_by_role("link", name="Open its move").click()
    expect(page.get_by_test_id("move")).to_contain_text("Write a new page", ignore_case=True)


def holds(words: str) -> Callable[[Request], bool]:
    return lambda asked: asked.method == "PUT" and words in (asked.post_data or "")


def nothing_waits_unsent(page: Page) -> None:
    """Text typed during a slow save, or just before a reload, is saved without another key press."""
    text = page.get_by_role("textbox", name="Text of the draft")
    slow: list[Route] = []

    def hold_first(route: Route) -> None:
        if route.request.method == "PUT" and not slow:
            slow.append(route)
        else:
            route.continue_()

    page.route(DRAFT, hold_first)
    text.press("ControlOrMeta+End")
    with page.expect_request(lambda asked: asked.method == "PUT"):
        text.press_sequentially(" Sent slowly.")
    text.press_sequentially(" Typed meanwhile.")
    page.wait_for_timeout(1_500)  # past the pause after which it would be sent, were none on its way
    with page.expect_request(holds("Typed meanwhile"), timeout=SOON_MS):
        slow[0].continue_()
    page.get_by_text("Saved", exact=True).wait_for()
    page.unroute(DRAFT)

    text.press_sequentially(" Before a reload.")
    page.get_by_text("Not saved yet").wait_for()
    with page.expect_request(holds("Before a reload"), timeout=SOON_MS):
        page.reload()
    page.get_by_text("Saved", exact=True).wait_for()


def two_people(page: Page, server: str, browser: Browser, address: str) -> None:
    """A colleague watches a draft, takes over and loses the connection; both texts are merged."""
    text = page.get_by_role("textbox", name="Text of the draft")
    theirs = browser.new_context().new_page()
    sign_in(theirs, server, COLLEAGUE)
    theirs.goto(address)
    their_text = theirs.get_by_role("textbox", name="Text of the draft")
    expect(theirs.get_by_text("analyst is writing; you see")).to_be_visible()
    text.press("ControlOrMeta+End")
    text.press_sequentially("Seen at once.")
    expect(their_text).to_contain_text("Seen at once.")
    page.get_by_text("Saved", exact=True).wait_for()

    theirs.get_by_role("button", name="Take over").click()
    expect(page.get_by_text("colleague is writing; you see")).to_be_visible()
    theirs.context.set_offline(True)
    their_text.press("ControlOrMeta+End")
    their_text.press_sequentially(" Written while nothing came through.")
    expect(theirs.get_by_text("saved in this browser")).to_be_visible()
    looked: list[tuple[Route, APIResponse]] = []

    def late(route: Route) -> None:
        if route.request.method == "GET" and not looked:
            looked.append((route, route.fetch()))  # "colleague writes": shown only after this window has taken over
        else:
            route.continue_()

    page.route(DRAFT, late)
    while not looked:
        page.wait_for_timeout(50)
    page.get_by_role("button", name="Take over").click()
    expect(text).to_be_editable()  # once the server has said so
    for route, answer in looked:
        route.fulfill(response=answer)
    page.unroute(DRAFT)
    text.get_by_role("heading", name="Who needs it?").click()
    with page.expect_response(lambda answer: answer.request.method == "PUT" and answer.ok):
        text.press_sequentially(" This came between. ")
    theirs.context.set_offline(False)
    expect(theirs.get_by_text("analyst is writing; you see")).to_be_visible()
    expect(theirs.get_by_text("will be merged")).to_be_visible()
    theirs.get_by_role("button", name="Take over").click()
    for one in (their_text, text):
        expect(one).to_contain_text("This came between.")
        expect(one).to_contain_text("Written while nothing came through.")
    theirs.context.close()
