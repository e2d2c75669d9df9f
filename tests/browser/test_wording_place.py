"""What is a page missing: the strip, a rewritten title as a move, the SERP, its featured snippet."""

import csv
import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.conftest import accessible, in_the_other_theme, load
from tests.planted import PlantedSite

CAPTURED = "2026-11-15"


def write(path: Path, header: list[str], rows: list[list[object]]) -> Path:
    with path.open("w", newline="", encoding="utf-8") as file:
        csv.writer(file).writerows([header, *rows])
    return path


def crawl_of(planted: PlantedSite, path: Path) -> Path:
    """Pages that lack their queries' words; the third has no description."""
    pages = sorted(planted.facts["page"].unique().to_list())
    rows: list[list[object]] = []
    for page in pages:
        text = ["A boat for quiet water. " * 30, f"Some call it kayak number {page}." if page % 2 else "And more of it."]
        about = "" if page == 3 else f"All about {page}."
        address, title = f"https://shop.example/page-{page}", f"Boats of kind {page} | Shop"
        rows.append([address, 200, title, about, f"Boats {page}", "\n".join(text)])
    return write(path, ["address", "status", "title", "description", "heading", "main text"], rows)


def results_of(planted: PlantedSite, path: Path) -> Path:
    poor = sorted(planted.poor)[:6]
    rows: list[list[object]] = []
    for query in poor:
        blocks = [["answer box", "https://answers.example/a"], ["organic", "https://rival.example/1"]]
        blocks.append(["organic", f"https://shop.example/page-{query}"])
        for place, (block, address) in enumerate(blocks, start=1):
            rows.append([f"kayak number {query}", CAPTURED, place, block, "paragraph", address, f"Title {place}"])
    return write(path, ["query", "captured", "place", "block", "kind", "address", "title"], rows)


def test_what_a_page_does_not_say(loaded: Page, server: str, planted: PlantedSite, tmp_path: Path) -> None:
    page = loaded
    for file in (crawl_of(planted, tmp_path / "crawl.csv"), results_of(planted, tmp_path / "results.csv")):
        page.goto(f"{server}/shop/data")
        load(page, file)
    page.goto(f"{server}/shop/queries")
    page.get_by_test_id("evidence").wait_for()
    page.keyboard.press("6")
    expect(page).to_have_title(re.compile("^Missing queries"))
    strip = page.get_by_test_id("strip")
    expect(strip).to_contain_text("is not on this page")
    first = strip.get_by_role("heading", level=2).inner_text()
    page.keyboard.press("j")
    expect(strip.get_by_role("heading", level=2)).not_to_have_text(first)
    # The other half says it, low: a square opens its sentence.
    page.get_by_label(re.compile("^missing")).uncheck()
    expect(strip).to_contain_text("first at word")
    strip.get_by_role("button", name=re.compile("1 exact")).click()
    expect(strip.locator("blockquote")).to_contain_text("Some call it")
    strip.get_by_label("phrase").fill("quiet water")
    strip.get_by_role("button", name="Look").click()
    expect(strip.get_by_role("heading", level=2)).to_have_text("quiet water")
    accessible(page)

    page.get_by_role("button", name="Titles", exact=True).click()
    file = page.get_by_test_id("title-file")
    expect(file).to_contain_text("main query not in title")
    file.get_by_label("title", exact=False).first.fill("Kayaks by number: which one is yours?")
    expect(file).to_contain_text("37 letters of about 60")
    file.get_by_role("button", name="Make it a move").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Kayaks by number")
    dialog.get_by_role("button", name="Save move").click()
    expect(page.get_by_text("Move made.")).to_be_visible()
    accessible(page)
    file.get_by_role("link", name="Open the move").first.click()
    wanted = page.get_by_test_id("move").get_by_label("new title")
    expect(wanted).to_have_value("Kayaks by number: which one is yours?")
    page.go_back()

    page.get_by_role("button", name="SERP captures").click()
    sheet = page.get_by_test_id("results-file")
    expect(sheet.get_by_role("list", name=re.compile("SERP of"))).to_be_visible()
    expect(sheet).to_contain_text("Your result is the 3rd block")
    page.get_by_role("button", name="Featured snippets").click()
    expect(page.get_by_test_id("results-file")).to_contain_text("answers.example holds it")
    in_the_other_theme(page)
    accessible(page)
