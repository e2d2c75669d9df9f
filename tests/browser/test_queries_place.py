"""One file and one question: where are clicks lost?"""

import csv
import io
import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import accessible, from_menu, load
from tests.planted import PlantedSite


def test_load_find_prove_export(signed_in: Page, server: str, planted: PlantedSite, facts_file: Path) -> None:
    page = signed_in
    page.goto(f"{server}/shop/data")
    load(page, facts_file)
    page.get_by_role("link", name="See where clicks are lost").click()

    row = page.get_by_role("row", name=f"kayak number {planted.giant} ")
    expect(row).to_contain_text("firm")
    row.click()
    evidence = page.get_by_test_id("evidence")
    expect(evidence.get_by_role("heading", level=2)).to_have_text(f"kayak number {planted.giant}")
    expect(evidence).to_contain_text(re.compile(r"impressions at position 4\.\d, .* your pages .* usually get"))
    expect(evidence.locator("canvas").first).to_be_visible()

    with page.expect_download() as download:
        page.get_by_role("button", name="Export").click()
        page.get_by_role("menuitem", name="as CSV").click()
    rows = list(csv.DictReader(io.StringIO(download.value.path().read_text("utf-8-sig"))))
    queries = {int(one["query"].rsplit(" ", 1)[1]) for one in rows}
    assert planted.poor <= queries
    assert rows[0]["filters"]


def test_the_address_is_the_state(loaded: Page) -> None:
    page = loaded
    page.get_by_role("button", name="Striking distance").click()
    page.get_by_label("Search queries and pages").fill("number 1")
    page.wait_for_url("**text=*")
    expect(page.get_by_role("grid")).to_have_attribute("aria-busy", "false")
    row = page.get_by_role("row").nth(2)
    row.click()
    heading = page.get_by_test_id("evidence").get_by_role("heading", level=2)
    chosen = row.get_by_role("rowheader").locator("div").first.inner_text()
    expect(heading).to_have_text(chosen)
    expect(row).to_have_attribute("aria-selected", "true")
    address = page.url
    page.goto("about:blank")
    page.goto(address)
    expect(heading).to_have_text(chosen)
    expect(page.get_by_label("Search queries and pages")).to_have_value("number 1")
    page.get_by_role("button", name="Outperformers").click()
    expect(page).to_have_title(re.compile("Outperformers"))
    page.go_back()
    expect(page).to_have_title(re.compile("Striking distance"))


def test_by_keyboard_alone(loaded: Page) -> None:
    page = loaded
    heading = page.get_by_test_id("evidence").get_by_role("heading", level=2)
    first = heading.inner_text()
    page.keyboard.press("j")
    expect(heading).not_to_have_text(first)
    page.keyboard.press("ArrowUp")
    expect(heading).to_have_text(first)
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keyboard shortcuts")).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("/")
    page.keyboard.type("nothing like it")
    expect(page.get_by_text("No matches")).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("p")
    page.get_by_role("button", name="last 4 weeks").press("Enter")
    expect(page).to_have_url(re.compile("first=2026-10-19&last=2026-11-15"))
    page.keyboard.press("1")
    expect(page.get_by_role("heading", name="Data", exact=True)).to_be_visible()


def test_a_slow_field_and_a_lost_server_break_nothing(loaded: Page, server: str) -> None:
    page = loaded
    current: list[Route] = []
    page.route("**/field*", lambda route: current.append(route))
    page.reload()
    evidence = page.get_by_test_id("evidence")
    evidence.locator("canvas").first.wait_for()
    expect(evidence.get_by_role("heading", level=2)).to_contain_text("kayak number")
    expect(page.get_by_role("grid")).to_be_visible()
    current[0].continue_()
    expect(evidence).to_contain_text("The curve is your site's own")
    page.unroute("**/field*")
    page.route("**/findings/outperformers?*", lambda route: route.fulfill(status=200, body="<html>a proxy's page</html>"))
    page.get_by_role("button", name="Outperformers").click()
    expect(page.get_by_role("alert")).to_be_visible()
    page.unroute("**/findings/outperformers?*")
    page.get_by_role("button", name="Try again").click()
    expect(page.get_by_role("grid")).to_be_visible()


def test_every_row_of_a_long_lens_can_be_reached(loaded: Page, server: str) -> None:
    page = loaded
    page.goto(f'{server}/shop/queries?evidence=["firm","likely","possible","too little data"]&min_impressions=0&compare=none')
    grid = page.get_by_role("grid")
    expect(grid).not_to_have_attribute("aria-rowcount", "1")
    total = int(grid.get_attribute("aria-rowcount") or 0) - 1
    assert total > 150  # more than one window
    page.keyboard.press("End")
    last = page.locator(f"[role=row][aria-rowindex='{total + 1}']")
    expect(last).to_contain_text("kayak number")
    page.keyboard.press("k")
    page.keyboard.press("j")
    expect(last).to_have_attribute("aria-selected", "true")


def test_brand_is_edited_on_the_spot_and_undone(loaded: Page, planted: PlantedSite) -> None:
    page = loaded
    giant = f"kayak number {planted.giant}"
    expect(page.get_by_role("row", name=f"{giant} ")).to_be_visible()
    page.keyboard.press("b")
    page.get_by_label("Brand queries contain one of these").fill(f"{giant}$")
    expect(page.get_by_text("Leaves out 1 queries")).to_be_visible()
    page.get_by_role("button", name="Save for this site").click()
    expect(page.get_by_role("row", name=f"{giant} ")).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("row", name=f"{giant} ")).to_be_visible()


def test_a_bad_file_is_refused_with_place_and_remedy(signed_in: Page, server: str, tmp_path: Path) -> None:
    page = signed_in
    bad = tmp_path / "bad.csv"
    header = "date,page,query,clicks,impressions,position\n"
    bad.write_text(header + "2027-01-04,/a,fine,1,9,2\n2027-01-04,/a,upside down,9,1,2\n")
    page.goto(f"{server}/shop/data")
    page.locator("input[type=file]").set_input_files(bad)
    page.get_by_role("button", name="Load into Shop").click()
    alert = page.get_by_role("alert")
    expect(alert).to_contain_text("nothing was loaded")
    expect(alert.get_by_role("row").nth(1)).to_contain_text("more clicks than impressions")
    expect(alert.get_by_role("row").nth(1)).to_contain_text("3clicks9")
    accessible(page)


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_axe_finds_nothing(loaded: Page, server: str, theme: str) -> None:
    page = loaded
    page.emulate_media(color_scheme=theme)  # type: ignore[arg-type]
    page.goto(
        f'{server}/shop/queries?evidence=["firm","likely","possible","too little data"]&min_impressions=50&position_from=2'
    )
    page.get_by_test_id("evidence").locator("canvas").first.wait_for()
    assert page.evaluate("document.documentElement.dataset.theme") == theme
    accessible(page)
    for key in "pfb":
        page.keyboard.press(key)
        page.get_by_role("dialog").wait_for()
        accessible(page)
        page.keyboard.press("Escape")
        page.get_by_role("dialog").wait_for(state="detached")
    page.goto(f"{server}/shop/data")
    page.get_by_role("heading", name="Data", exact=True).wait_for()
    accessible(page)


def test_keys_scroll_what_has_the_focus_and_letters_can_be_switched_off(loaded: Page) -> None:
    """WCAG 2.1.4: single-letter shortcuts can be switched off; arrows and Page keys belong to the focused pane."""
    page = loaded
    page.set_viewport_size({"width": 1280, "height": 420})
    evidence = page.get_by_test_id("evidence")
    heading = evidence.get_by_role("heading", level=2)
    first = heading.inner_text()
    heading.click(position={"x": 300, "y": 4})
    page.keyboard.press("PageDown")
    page.wait_for_function("() => document.querySelector('[data-testid=evidence]').parentElement.scrollTop > 0")
    expect(heading).to_have_text(first)
    page.keyboard.press("?")
    page.get_by_role("checkbox").uncheck()
    page.keyboard.press("Escape")
    page.keyboard.press("j")
    page.keyboard.press("4")
    expect(heading).to_have_text(first)
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("ArrowDown")
    expect(heading).not_to_have_text(first)
    # They stay off for this person wherever they sign in, until they switch them on again.
    page.reload()
    from_menu(page, "Shortcuts")
    expect(page.get_by_role("checkbox")).not_to_be_checked()
    page.get_by_role("checkbox").check()
    expect(page.get_by_text("Single-letter shortcuts are on.")).to_be_visible()


def test_country_gaps_say_what_is_missing_where_countries_are_not_told(loaded: Page, server: str) -> None:
    loaded.goto(f"{server}/shop/queries?finding=country-gaps")
    expect(loaded.get_by_role("heading", name="Nothing to show here")).to_be_visible()
    expect(loaded.get_by_text("Search data by country are needed").first).to_be_visible()
