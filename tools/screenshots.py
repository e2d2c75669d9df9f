"""Take the pictures of docs/screenshots/ from the running demo (`make demo`)."""

import re
from pathlib import Path

from playwright.sync_api import Locator, Page, sync_playwright

SERVER = "http://127.0.0.1:8000"
FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"
QUIET = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-sync",
]
BAD = """Date,Landing page,Search term,Clicks,Impressions,CTR,Average position,Device
2026-11-16,https://www.marrowbank.example/kayak/,sea kayak,3,120,2.5 %,4.2,phone
2026-11-16,https://www.marrowbank.example/kayak/,sea kayak,9,4,225 %,4.2,desktop
yesterday,https://www.marrowbank.example/kayak/,"kayak, red",1,40,2.5 %,4.2,desktop
2026-11-16,https://www.marrowbank.example/kayak/,folding kayak,-1,40,0,4.2,desktop
2026-11-16,https://www.marrowbank.example/kayak/,folding kayak,1,40,2.5 %,0.4,desktop
"""


def sign_in(page: Page, server: str = SERVER) -> None:
    page.goto(f"{server}/sign-in")
    page.get_by_label("User name").fill("demo")
    page.get_by_label("Password").fill("marrowbank")
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("button", name="Signed in as").wait_for()


def view(page: Page, name: str, address: str, part: Locator) -> None:
    page.goto(f"{SERVER}/marrowbank/{address}")
    part.wait_for()
    page.wait_for_timeout(900)
    page.screenshot(path=FOLDER / f"{name}.png")


def crawled(page: Page) -> None:
    """Crawl the site once from the stand-in, so page texts and links are known."""
    page.goto(f"{SERVER}/marrowbank/data")
    page.get_by_role("heading", level=2).first.wait_for()
    if page.get_by_role("button", name="Crawl the site").count():
        page.get_by_role("button", name="Crawl the site").click()
        page.get_by_text(re.compile("addresses and .* links found")).wait_for(timeout=120_000)


def draft_of_the_demo(page: Page) -> None:
    """A draft for the first page, with its live check."""
    page.goto(f"{SERVER}/marrowbank/pages")
    page.get_by_test_id("page-file").wait_for()
    page.keyboard.press("d")
    page.get_by_test_id("draft-check").get_by_text("Readability").wait_for()
    page.wait_for_timeout(900)
    page.screenshot(path=FOLDER / "drafts.png")


def queries(page: Page, name: str, address: str) -> None:
    page.goto(f"{SERVER}/marrowbank/queries{address}")
    page.get_by_test_id("evidence").locator("canvas").nth(1).wait_for()
    page.wait_for_timeout(600)
    page.screenshot(path=FOLDER / f"{name}.png")


def pages(page: Page, name: str, scroll: int) -> None:
    page.goto(f"{SERVER}/marrowbank/pages")
    page.get_by_test_id("page-file").wait_for()
    page.get_by_test_id("page-file").evaluate(f"file => file.parentElement.scrollTop = {scroll}")
    page.wait_for_timeout(900)
    page.screenshot(path=FOLDER / f"{name}.png")


def main() -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=QUIET)
        for theme in ("light", "dark"):
            context = browser.new_context(viewport={"width": 1280, "height": 800}, color_scheme=theme, locale="en-GB")
            page = context.new_page()
            sign_in(page)
            if theme == "dark":
                queries(page, "queries-dark", "?finding=striking-distance")
                continue
            view(page, "changes", "changes", page.get_by_test_id("strips"))
            crawled(page)
            queries(page, "queries", "")
            pages(page, "pages", 0)
            pages(page, "page-file", 760)
            view(page, "clashes", "clashes", page.get_by_test_id("clash").get_by_role("img"))
            page.get_by_test_id("clash").get_by_role("link").first.click()
            page.get_by_test_id("query-file").get_by_role("img").wait_for()
            page.wait_for_timeout(600)
            page.screenshot(path=FOLDER / "query.png")
            sheet = page.get_by_test_id("results-file").get_by_role("list", name="SERP of")
            view(page, "on-page", "on-page?finding=featured-snippets", sheet)
            view(page, "links", "links", page.get_by_test_id("links-file").get_by_test_id("suggestion").first)
            view(page, "topics", "topics", page.get_by_test_id("topic-file").get_by_role("img"))
            draft_of_the_demo(page)
            view(page, "overlapping-pages", "clashes?finding=overlapping-pages", page.get_by_role("img", name="pairs of pages"))
            page.goto(f"{SERVER}/marrowbank/moves?state=done")
            page.get_by_role("row", name="river trip planner").click()
            page.get_by_text("Likely the move").wait_for()
            page.wait_for_timeout(600)
            page.screenshot(path=FOLDER / "moves.png")
            page.goto(f"{SERVER}/marrowbank/moves?finding=trials")
            page.get_by_role("row", name="Rental titles with a price").click()
            view_of_trial = page.get_by_test_id("trial-file").get_by_role("img", name=re.compile("^Weeks of test pages"))
            view_of_trial.wait_for()
            page.wait_for_timeout(600)
            page.screenshot(path=FOLDER / "trials.png")
            preview = page.get_by_test_id("report-preview").get_by_role("img").nth(1)
            view(page, "reports", "reports?view=templates", preview)
            page.goto(f"{SERVER}/marrowbank/data")
            page.locator("input[type=file]").set_input_files(
                {"name": "week-47.csv", "mimeType": "text/csv", "buffer": BAD.encode()}
            )
            page.get_by_role("button", name="Load into").wait_for()
            page.screenshot(path=FOLDER / "matching.png")
            page.get_by_role("button", name="Load into").click()
            page.get_by_role("alert").wait_for()
            page.wait_for_timeout(600)
            page.screenshot(path=FOLDER / "refused.png")
            for name, part in {"data": "data", "cleaning": "data/cleaning"}.items():
                view(page, name, part, page.get_by_role("heading", level=2).first)
        browser.close()


if __name__ == "__main__":
    main()
