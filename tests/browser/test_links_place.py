"""From a page that needs links to three accepted ones, by keyboard; an export; a second crawl that finds two of them."""

import csv
import gzip
import io
import json
import re
import zipfile
from datetime import date, timedelta
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import accessible, from_menu, in_the_other_theme
from tests.standin_server import Running
from zugzwang.standins.app import _read_site

HOST, PAGES, WANTED = "www.links.example", 16, "river canoe camping"
MENTIONS = f"On the way many of us try {WANTED} for a night or two."


def _page(number: int, linked: set[int]) -> dict[str, object]:
    """Each page links to three others and to the first page, except the camping pages, which link to it only where `linked`."""
    others = [other for other in range(2, PAGES + 1) if (other - number) % PAGES in (1, 2, 5) and other != number]
    links = "".join(f'<p>See <a href="/{other}/">paddle walk {other}</a>.</p>' for other in others)
    said = MENTIONS.replace(WANTED, f'<a href="/1/">{WANTED}</a>') if number in linked else MENTIONS
    text = f"A river canoe takes you to camping grounds. {said}" if 2 <= number <= 9 else "The paddle and the walk along it."
    name = WANTED.title() if number == 1 else f"Paddle walk {number}"
    body = f"<nav><a href='/'>home</a></nav><main><h1>{name}</h1><p>{text}</p>{links}</main>"
    return {"host": HOST, "target": f"/{number}/", "body": f"<title>{name}</title>{body}"}


def serve(standins: Running, linked: set[int]) -> None:
    """The site as the stand-in serves it from now on."""
    path = standins.app.folder / "site.ndjson.gz"
    with gzip.open(path, "rt", encoding="utf-8") as file:
        rest = [line for line in file if json.loads(line)["host"] != HOST]
    listed = "".join(f'<a href="/{number}/">paddle walk {number}</a> ' for number in range(2, PAGES + 1))
    home = {"host": HOST, "target": "/", "body": f"<title>Home</title><main>{listed}</main>"}
    with gzip.open(path, "wt", encoding="utf-8") as file:
        file.writelines([*rest, *(f"{json.dumps(one)}\n" for one in (home, *(_page(n, linked) for n in range(1, PAGES + 1))))])
    _read_site.cache_clear()


@pytest.fixture
def facts(tmp_path: Path) -> Path:
    """Four weeks in which the first page has many impressions and few clicks."""
    path = tmp_path / "links-facts.csv"
    with path.open("w", newline="", encoding="utf-8") as file:
        out = csv.writer(file)
        out.writerow(["Date", "Page", "Query", "Clicks", "Impressions", "Position"])
        for day in range(28):
            for number in range(1, PAGES + 1):
                query, clicks, shown = (
                    (WANTED, 9, 900) if number == 1 else (f"paddle walk {number}", 4 + number % 3, 60 + number)
                )
                row = [
                    date(2026, 11, 15) - timedelta(days=day),
                    f"https://{HOST}/{number}/",
                    query,
                    clicks,
                    shown,
                    3.0 + number % 4,
                ]
                out.writerow(row)
    return path


def crawl(page: Page, server: str) -> None:
    page.goto(f"{server}/links/data")
    page.get_by_role("button", name=re.compile("^Crawl (the site|again)$")).click()
    expect(page.get_by_test_id("job")).to_contain_text(re.compile(r"addresses and .* links found"), timeout=60_000)


def test_three_links_taken_two_set(signed_in: Page, server: str, standins: Running, facts: Path) -> None:
    page = signed_in
    serve(standins, linked={2})
    from_menu(page, "Add a site")
    page.keyboard.type("Links")
    page.get_by_label("Its address").fill(HOST)
    page.get_by_role("button", name="Add the site").click()
    expect(page.get_by_text("Links has no search data yet")).to_be_visible()
    page.locator("input[type=file]").set_input_files(facts)
    page.get_by_role("button", name="Load into").click()
    page.get_by_text("rows loaded").wait_for(timeout=60_000)
    page.keyboard.press("7")
    expect(page.get_by_role("heading", name="Pages that need links: possible with a crawl")).to_be_visible()
    accessible(page)

    crawl(page, server)
    page.keyboard.press("7")
    file = page.get_by_test_id("links-file")
    expect(file.get_by_role("heading", level=2)).to_have_text("/1/")
    expect(file).to_contain_text("too few links")
    expect(file).to_contain_text(WANTED)
    accessible(page)

    page.get_by_role("button", name="Suggested links").click()
    link = page.get_by_test_id("suggestion-file")
    expect(link).to_contain_text(MENTIONS)
    accessible(page)
    taken = []
    for _ in range(3):
        heading = link.get_by_role("heading", level=2)
        taken.append(int(re.findall(r"\d+", heading.inner_text())[0]))
        page.keyboard.press("a")
        expect(heading).not_to_contain_text(f"/{taken[-1]}/ →")
    page.keyboard.press("r")
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("combobox").press("Enter")  # with the reason that is there
    expect(dialog).to_have_count(0)
    expect(page.get_by_role("row").filter(has_text="refused")).to_have_count(1)

    page.get_by_role("button", name="Accepted links").click()
    expect(page.get_by_text("3 accepted links on 3 pages: 3 waiting.")).to_be_visible()
    accessible(page)
    with page.expect_download() as started:
        page.get_by_role("button", name="As a document").click()
    document = zipfile.ZipFile(io.BytesIO(Path(started.value.path()).read_bytes())).read("word/document.xml").decode()
    assert all(f"/{number}/" in document for number in taken)

    serve(standins, linked={2, *taken[:2]})
    crawl(page, server)
    page.goto(f"{server}/links/links?finding=accepted-links")
    expect(page.get_by_text("3 accepted links on 3 pages: 2 set, 1 missing.")).to_be_visible()
    page.get_by_role("button", name="Mentions", exact=True).click()
    expect(page.get_by_test_id("mention-file")).to_contain_text(WANTED)
    page.get_by_role("button", name="Search your own phrases").click()
    page.get_by_role("textbox", name=re.compile("phrases")).fill("camping grounds\nnobody says this")
    page.get_by_role("button", name="Search", exact=True).click()
    expect(page.get_by_text("2 phrases searched")).to_be_visible()
    accessible(page)
    page.get_by_role("button", name="Broken links").click()
    expect(page.get_by_text("No broken links")).to_be_visible()
    in_the_other_theme(page)
    accessible(page)
