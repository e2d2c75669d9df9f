"""What axe cannot see: forced colours, text spacing, one stop for Tab in a list, what a screen reader hears, keys alone.
WCAG 2.2: 1.4.1, 1.4.11, 1.4.12, 2.1.1, 2.4.1, 2.4.3, 2.4.7, 2.5.8, 4.1.2, 4.1.3.
"""

import re

import pytest
from playwright.sync_api import Locator, Page, expect

# Success criterion 1.4.12, word for word.
SPACING = """* { line-height: 1.5 !important; letter-spacing: 0.12em !important; word-spacing: 0.16em !important; }
p { margin-bottom: 2em !important; }"""
LISTS = ("queries", "pages", "clashes", "queries?finding=striking-distance")


def rows(page: Page) -> Locator:
    expect(page.get_by_role("grid").first).to_have_attribute("aria-busy", "false")
    return page.locator("[role=row][data-index]")


def test_forced_colours_leave_selection_focus_bars_and_squares_visible(loaded: Page, server: str) -> None:
    page = loaded
    page.emulate_media(forced_colors="active")
    first, second = rows(page).nth(0), rows(page).nth(1)
    second.click()
    page.mouse.move(0, 0)
    page.evaluate("document.activeElement.blur()")
    chosen, plain = second.screenshot(), first.screenshot()
    first.click()
    page.mouse.move(0, 0)
    page.evaluate("document.activeElement.blur()")
    assert second.screenshot() != chosen, "a selected row looks like any other"
    assert first.screenshot() != plain
    first.focus()
    assert page.evaluate("getComputedStyle(document.activeElement).outlineStyle") != "none"
    square = page.get_by_test_id("rows").locator("[title^='firm'] svg").first
    assert painted(page, square) > 0.5
    page.goto(f"{server}/shop/pages")
    bar = rows(page).first.locator(".data").first
    colour = bar.evaluate("one => getComputedStyle(one).backgroundColor")
    assert colour not in ("rgba(0, 0, 0, 0)", page.evaluate("getComputedStyle(document.body).backgroundColor"))


def painted(page: Page, box: Locator) -> float:
    """The share of an element's pixels that differ from its top left corner's surroundings: of the page's own background."""
    picture = box.screenshot()
    return float(page.evaluate(
        """async ([bytes]) => {
            const image = await createImageBitmap(new Blob([new Uint8Array(bytes)], {type: "image/png"}));
            const canvas = new OffscreenCanvas(image.width, image.height), pen = canvas.getContext("2d");
            pen.drawImage(image, 0, 0);
            const data = pen.getImageData(0, 0, image.width, image.height).data;
            const ground = getComputedStyle(document.body).backgroundColor.match(/\\d+/g).map(Number);
            let other = 0;
            for (let at = 0; at < data.length; at += 4)
                if (Math.abs(data[at] - ground[0]) + Math.abs(data[at + 1] - ground[1]) > 60) other++;
            return other / (data.length / 4);
        }""",
        [list(picture)],
    ))  # fmt: skip


@pytest.mark.parametrize("place", LISTS)
def test_wider_text_clips_nothing_and_rows_do_not_overlap(loaded: Page, server: str, place: str) -> None:
    page = loaded
    page.goto(f"{server}/shop/{place}")
    rows(page).first.wait_for()
    page.add_style_tag(content=SPACING)
    page.wait_for_function(
        """() => {
            const rows = [...document.querySelectorAll("[role=row][data-index]")].map(row => row.getBoundingClientRect());
            rows.sort((a, b) => a.top - b.top);
            return rows.length > 0 && rows.slice(1).every((row, at) => row.top >= rows[at].bottom - 1);
        }"""
    )
    cut = page.evaluate(
        """[...document.querySelectorAll("[role=row][data-index]")]
            .filter(row => row.scrollHeight > row.clientHeight + 2).map(row => row.textContent)"""
    )
    assert cut == []


@pytest.mark.parametrize("place", LISTS)
def test_a_list_has_one_stop_for_tab_names_its_rows_and_tells_how_many(loaded: Page, server: str, place: str) -> None:
    page = loaded
    page.goto(f"{server}/shop/{place}")
    shown = rows(page)
    shown.first.wait_for()
    total = int(page.get_by_role("grid").first.get_attribute("aria-rowcount") or 0) - 1
    assert total >= shown.count() - 1
    assert page.locator("[role=row][tabindex='0']").count() == 1
    # However far one scrolls, the current row stays a stop.
    page.get_by_test_id("rows").evaluate("one => one.scrollTo(0, one.scrollHeight)")
    expect(page.locator("[role=row][tabindex='0']")).to_have_count(1)
    page.get_by_test_id("rows").evaluate("one => one.scrollTo(0, 0)")
    for number in range(min(shown.count(), 3)):
        row = shown.nth(number)
        assert row.get_by_role("rowheader").count() == 1
        name = row.get_by_role("rowheader").inner_text()
        assert "Select the row" not in name
        expect(row).to_have_accessible_name(re.compile(re.escape(name.split("\n")[0].rstrip("…")[:12])))


def test_another_row_is_spoken_once_one_has_stopped_walking(loaded: Page) -> None:
    page = loaded
    name = rows(page).nth(2).get_by_role("rowheader").locator("div").first.inner_text()
    page.keyboard.press("j")
    page.keyboard.press("j")
    spoken = page.locator("span[role=status].sr-only")
    expect(spoken).to_have_text(re.compile(rf"{re.escape(name)}.* 3 of \d+"))


def test_the_first_stop_leads_past_the_menu(loaded: Page) -> None:
    page = loaded
    page.keyboard.press("Tab")
    skip = page.get_by_role("link", name="Skip to the content")
    expect(skip).to_be_focused()
    expect(skip).to_be_in_viewport()
    page.keyboard.press("Enter")
    expect(page.get_by_role("main")).to_be_focused()


def test_points_of_the_field_are_reached_by_arrow_keys(loaded: Page) -> None:
    page = loaded
    field = page.get_by_role("slider", name=re.compile("^The field"))
    field.wait_for()
    field.press("Home")
    first = field.get_attribute("aria-valuetext")
    field.press("ArrowRight")
    expect(field).not_to_have_attribute("aria-valuetext", first or "")
    heading = page.get_by_test_id("evidence").get_by_role("heading", level=2)
    expect(heading).to_have_text(re.compile(re.escape((field.get_attribute("aria-valuetext") or "").split(":")[0])))


def test_the_divider_moves_without_dragging(loaded: Page) -> None:
    page = loaded
    pane = page.get_by_role("separator", name="Divider between list and evidence")
    page.get_by_role("button", name=re.compile("^Width of the list")).click()
    before = pane.get_attribute("aria-valuenow")
    page.get_by_role("button", name=re.compile("^Width of the list")).click()
    expect(pane).not_to_have_attribute("aria-valuenow", before or "")


@pytest.mark.parametrize("place", ["queries", "pages", "clashes", "changes", "data", "moves", "reports"])
def test_targets_are_at_least_24_pixels(loaded: Page, server: str, place: str) -> None:
    """Success criterion 2.5.8; links within sentences, and native boxes next to their labels, are excepted there."""
    page = loaded
    page.goto(f"{server}/shop/{place}")
    page.get_by_role("main").wait_for()
    page.wait_for_load_state("networkidle")
    small = page.evaluate(
        """[...document.querySelectorAll("button, [role=checkbox], [role=separator] ~ button")]
            .filter(one => one.offsetParent && !one.closest("p, li, dd, td"))
            .map(one => [one.getBoundingClientRect(), one.getAttribute("aria-label") || one.textContent])
            .filter(([box]) => box.width > 0 && (box.height < 23.5 || box.width < 23.5))
            .map(([box, name]) => `${name} ${Math.round(box.width)}×${Math.round(box.height)}`)"""
    )
    assert small == []


def test_on_a_phone_evidence_is_a_screen_of_its_own(loaded: Page, server: str) -> None:
    page = loaded
    page.set_viewport_size({"width": 390, "height": 780})
    page.goto(f"{server}/shop/queries")
    rows(page).first.wait_for()
    sheet = page.get_by_test_id("evidence-sheet")
    expect(sheet).to_have_count(0)  # nothing opens by itself
    rows(page).nth(1).click()
    expect(sheet.get_by_text(re.compile(r"^2 of \d+"))).to_be_visible()
    first = sheet.get_by_role("heading", level=2).nth(1).inner_text()
    sheet.get_by_role("button", name="Next row").click()
    expect(sheet.get_by_text(re.compile(r"^3 of \d+"))).to_be_visible()
    expect(sheet.get_by_role("heading", level=2).nth(1)).not_to_have_text(first)
    page.go_back()
    expect(sheet).to_have_count(0)
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
