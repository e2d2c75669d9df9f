"""The whole job on the demo data as a new user does it: from the overview to the result of a move; with the mouse, and again
by keyboard alone.
"""

import csv
import io
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import accessible, environment, open_evidence, serving
from tests.demo_installation import HOSTS, copy_of_demo
from tests.standin_server import free_port


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[str, Path]]:
    """The address and data folder of the demo."""
    folder = copy_of_demo(tmp_path_factory.mktemp("demo"))
    standins = f"http://127.0.0.1:{free_port()}"
    env = environment(folder, ",".join(f"{host}={standins}" for host in HOSTS))
    with serving(env) as address:
        yield address, folder


def go_to(page: Page, place: str) -> None:
    page.get_by_role("navigation", name="Places").get_by_role("link", name=place).click()


def test_from_signing_in_to_what_came_of_a_move(page: Page, demo: tuple[str, Path]) -> None:
    address, folder = demo
    page.goto(address)
    page.get_by_label("User name").fill("demo")
    page.get_by_label("Password").fill("marrowbank")
    page.get_by_role("button", name="Sign in").click()
    expect(page).to_have_url(re.compile("/marrowbank/changes"))
    expect(page.get_by_text(re.compile("Visits lack 9 of the period's 91 days"))).to_be_visible()

    # Load: the visits of the last nine days.
    go_to(page, "Data")
    page.locator("input[type=file]").set_input_files(folder / "standins" / "visits.parquet")
    page.get_by_role("button", name=re.compile("^Load into")).click()
    page.get_by_text("rows loaded").wait_for(timeout=60_000)

    # Changes: all data are there; the pages that fell, largest fall first.
    go_to(page, "Changes")
    expect(page.get_by_text("97")).not_to_have_count(0)
    expect(page.get_by_text(re.compile("Visits lack"))).to_have_count(0)
    page.get_by_role("link", name="/clothing/wetsuit/").first.click()

    # The worst page's file says why.
    file = page.get_by_test_id("page-file")
    expect(file.get_by_role("link", name="/clothing/wetsuit/").first).to_be_visible()
    expect(file).to_contain_text("click-through")
    page.get_by_role("navigation", name="Parts of the file").get_by_role("button", name="Weeks").click()
    expect(file.get_by_role("heading", name="Its weeks")).to_be_in_viewport()

    # A query of low click-through becomes a move.
    go_to(page, "Queries")
    row = page.get_by_role("row", name=re.compile("inflatable kayak for two"))
    row.click()
    expect(page.get_by_test_id("evidence")).to_contain_text("usually get")
    page.get_by_role("button", name="Make a move").click()
    page.get_by_label("note: what exactly, and why").fill("Say that it carries two.")
    page.get_by_role("button", name="Save move").click()
    expect(row).to_contain_text("to do")

    # A clash: its lead and its resolution.
    go_to(page, "Clashes")
    page.get_by_role("row", name=re.compile("handmade wooden paddle")).click()
    clash = page.get_by_test_id("clash")
    expect(clash.get_by_label("who should lead").locator("option:checked")).to_contain_text("/paddle/wooden-paddle/")
    clash.get_by_label("what to do").select_option("retire")
    clash.get_by_label("why", exact=True).fill("The tag page sells nothing.")
    clash.get_by_role("button", name="Decide").click()
    expect(clash).to_contain_text("retire, led by /paddle/wooden-paddle/")
    clash.get_by_role("link", name="Open the move").click()
    expect(page.get_by_test_id("move")).to_contain_text("/paddle/wooden-paddle/ should rank")

    # The result of a move that was made in October; kept on record.
    go_to(page, "Moves")
    page.get_by_role("row", name=re.compile("river trip planner")).click()
    move = page.get_by_test_id("move")
    expect(move).to_contain_text("Likely the move")
    move.get_by_role("button", name="Save the result").click()
    expect(move.get_by_role("combobox", name="state")).to_have_value("measured")

    # Mark one made; what comes of it is waited for.
    page.get_by_role("row", name=re.compile("inflatable kayak for two")).click()
    expect(move).to_contain_text("inflatable kayak for two")
    move.get_by_label("done on").fill("2026-11-10")
    move.get_by_role("button", name="Save").click()
    expect(move).to_contain_text("can be measured with data to 1 Dec 2026")

    # A copied address shows the same; back works.
    copied = page.url
    go_to(page, "Pages")
    page.get_by_test_id("page-file").wait_for()
    page.go_back()
    expect(page).to_have_url(copied)
    page.goto("about:blank")
    page.goto(copied)
    expect(move).to_contain_text("inflatable kayak for two")

    # Everything leaves.
    with page.expect_download() as download:
        page.keyboard.press("e")
    result = list(csv.DictReader(io.StringIO(download.value.path().read_text("utf-8-sig"))))
    assert {row["query"] for row in result} >= {"inflatable kayak for two", "river trip planner"}
    page.goto(f"{address}/marrowbank/changes")
    picture = page.get_by_role("button", name="Save the picture: week by week")
    picture.focus()
    for kind in ("SVG", "PNG"):
        picture.press("Enter")
        with page.expect_download() as download:
            page.get_by_role("menuitem", name=f"as {kind}").click()
        content = download.value.path().read_bytes()
        assert content.startswith(b"\x89PNG") if kind == "PNG" else b"<svg" in content[:200]
        assert len(content) > 5_000


def test_the_pane_shows_the_selected_row_however_far_down_it_is(page: Page, demo: tuple[str, Path]) -> None:
    """Before, rows below the first hundred showed the evidence of the first row. The address alone finds the row, too."""
    address, _ = demo
    page.goto(f"{address}/marrowbank/links?finding=broken-links")
    page.get_by_label("User name").or_(page.get_by_test_id("rows")).first.wait_for()
    if page.get_by_label("User name").is_visible():
        page.get_by_label("User name").fill("demo")
        page.get_by_label("Password").fill("marrowbank")
        page.get_by_role("button", name="Sign in").click()
    page.get_by_test_id("rows").get_by_role("row").nth(1).wait_for()
    page.get_by_test_id("rows").evaluate("list => list.scrollTo(0, 179 * 42)")
    row = page.locator('[aria-rowindex="181"]')
    expect(row).to_contain_text("→")
    row.click()
    target = row.inner_text().partition("→ ")[2].split("\n")[0].strip()
    assert target
    pane = page.get_by_test_id("fault-file")
    expect(pane).to_contain_text(target)
    shown = pane.inner_text()
    page.reload()
    expect(page.locator('[aria-rowindex="181"]')).to_have_attribute("aria-selected", "true")
    expect(pane).to_have_text(re.compile(".+"))
    assert pane.inner_text() == shown


def tab_to(page: Page, wanted: Locator, most: int = 60) -> None:
    for _ in range(most):
        page.keyboard.press("Tab")
        if wanted.count() and wanted.first.evaluate("one => one === document.activeElement"):
            return
    raise AssertionError(f"{wanted} is not reached by {most} tabs")


def test_the_same_by_keyboard_alone(page: Page, demo: tuple[str, Path]) -> None:
    address, _ = demo
    keys = page.keyboard
    page.goto(address)
    page.get_by_label("User name").wait_for()
    tab_to(page, page.get_by_label("User name"), 5)
    keys.type("demo")
    keys.press("Tab")
    keys.type("marrowbank")
    keys.press("Enter")
    expect(page).to_have_url(re.compile("/marrowbank/changes"))
    mover = page.get_by_role("link", name="/kayak/folding-kayak/")
    mover.first.wait_for()
    tab_to(page, mover, 120)
    keys.press("Enter")
    file = page.get_by_test_id("page-file")
    expect(file).to_contain_text("impressions")
    keys.press("4")
    rows = page.get_by_role("grid").get_by_role("row")
    page.get_by_test_id("evidence").wait_for()
    keys.press("j")
    expect(rows.nth(2)).to_have_attribute("aria-selected", "true")
    query = rows.nth(2).get_by_role("rowheader").locator("div").first.inner_text()
    expect(page.get_by_test_id("evidence").get_by_role("heading", level=2)).to_have_text(query)
    keys.press("m")
    page.get_by_role("button", name="Save move").wait_for()
    keys.press("Enter")
    expect(rows.nth(2)).to_contain_text("to do")
    keys.press("Enter")  # the page's file of the row
    expect(page).to_have_url(re.compile(r"/pages\?.*row="))
    keys.press("5")
    page.get_by_test_id("clash").wait_for()
    keys.press("j")
    clashes = page.get_by_role("grid").get_by_role("row", selected=True)
    while re.search("Too early|Left as it is", clashes.inner_text()):  # someone has decided
        keys.press("j")
        page.wait_for_timeout(300)
    page.get_by_label("who should lead").wait_for()
    keys.press("m")
    expect(page.get_by_label("who should lead")).to_be_focused()
    tab_to(page, page.get_by_label("why", exact=True), 12)
    keys.type("One page is enough.")
    tab_to(page, page.get_by_role("button", name="Decide"), 4)
    keys.press("Enter")
    expect(page.get_by_test_id("clash")).to_contain_text("One page is enough.")
    keys.press("0")
    move = page.get_by_test_id("move")
    move.wait_for()
    tab_to(page, move.get_by_role("combobox", name="state"), 90)
    keys.type("in p")
    tab_to(page, move.get_by_role("button", name="Save"), 12)
    keys.press("Enter")
    expect(move).to_contain_text("state from “to do” to “in progress”")
    keys.press("Control+k")
    expect(page.get_by_placeholder("place, page or query")).to_be_focused()
    keys.type("my moves")
    option = page.get_by_role("option", name="Save this view as “my moves”")
    option.wait_for()
    keys.press("ArrowDown")
    keys.press("ArrowDown")
    expect(option).to_have_attribute("aria-selected", "true")
    keys.press("Enter")
    page.get_by_text("This view is saved as “my moves”.").wait_for()
    keys.press("2")
    page.get_by_test_id("week-reading").wait_for()
    keys.press("Control+k")
    expect(page.get_by_placeholder("place, page or query")).to_be_focused()
    keys.type("view my moves")
    page.get_by_role("option", name=re.compile("^my moves")).wait_for()
    while page.get_by_role("option", selected=True).inner_text().split(" ")[0] != "my":
        keys.press("ArrowDown")
    keys.press("Enter")
    expect(page).to_have_url(re.compile("/marrowbank/moves"))


VIEWS = {
    "changes": "week-reading",
    "pages": "page-file",
    "queries": "evidence",
    "queries?finding=query-groups": "group",
    "clashes": "clash",
    "clashes?finding=overlapping-pages": "folds",
    "query?query=1": "query-file",
    "moves": "move",
}
# What moves on its own after it was shown: the sum of the browser's layout shifts.
SHIFTS = """() => {
  window.shifted = 0;
  new PerformanceObserver(list => {
    for (const one of list.getEntries()) if (!one.hadRecentInput) {
      window.shifted += one.value;
      window.movers = one.sources.map(each => each.node && (each.node.outerHTML || each.node.textContent).slice(0, 120));
    }
  }).observe({type: 'layout-shift', buffered: true});
}"""


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_every_view_is_accessible_and_stands_still(page: Page, demo: tuple[str, Path], theme: str) -> None:
    address, _ = demo
    page.emulate_media(color_scheme=theme)  # type: ignore[arg-type]
    sign_in(page, address)
    for view, part in VIEWS.items():
        page.goto(f"{address}/marrowbank/{view}")
        page.evaluate(SHIFTS)
        page.get_by_test_id(part).wait_for()
        page.wait_for_timeout(500)
        assert page.evaluate("window.shifted") < 0.005, (view, page.evaluate("window.movers"))
        accessible(page)


@pytest.mark.parametrize("width", [320, 2560])
def test_every_view_fits_small_and_large_windows(page: Page, demo: tuple[str, Path], width: int) -> None:
    address, _ = demo
    page.set_viewport_size({"width": width, "height": 800})
    sign_in(page, address)
    for view, part in VIEWS.items():
        page.goto(f"{address}/marrowbank/{view}")
        page.locator(f"[role=row][data-index], [data-testid={part}]").first.wait_for()
        open_evidence(page, part)
        page.wait_for_load_state("networkidle")
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), view


def sign_in(page: Page, address: str) -> None:
    page.goto(address)
    page.get_by_label("User name").fill("demo")
    page.get_by_label("Password").fill("marrowbank")
    page.get_by_role("button", name="Sign in").click()
    page.get_by_test_id("week-reading").wait_for()


def test_what_is_pointed_at_on_standing_and_in_a_query_becomes_a_move(page: Page, demo: tuple[str, Path]) -> None:
    address, _ = demo
    sign_in(page, address)
    mover = page.get_by_role("link", name="/clothing/wetsuit/", exact=True).first
    mover.focus()
    page.keyboard.press("x")
    page.get_by_role("textbox", name="why").fill("It was out of stock.")
    page.get_by_role("button", name="Dismiss").click()
    expect(page.get_by_role("listitem").filter(has=mover)).to_contain_text("dismissed")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("listitem").filter(has=mover)).not_to_contain_text("dismissed")
    page.goto(
        f"{address}/marrowbank/queries?text=sea+kayak&evidence=%5B%22firm%22%2C%22likely%22%2C%22too%20little%20data%22%5D"
    )
    page.get_by_test_id("evidence").get_by_role("heading", level=2).get_by_role("link").click()
    chosen = page.get_by_test_id("query-file").get_by_role("row", selected=True)
    chosen.wait_for()
    page.keyboard.press("m")
    page.get_by_role("button", name="Save move").click()
    expect(chosen).to_contain_text("to do")
    page.get_by_role("button", name="Undo").click()
    expect(chosen).not_to_contain_text("to do")
