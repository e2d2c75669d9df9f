"""A randomised test up to its conclusion, in a report: its pages, its mail, and the shared page, whose link expires."""

import re
import subprocess
from pathlib import Path

from PIL import Image, ImageStat
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import accessible, in_the_other_theme
from tests.core.test_reports import text_of
from zugzwang.standins.mail import kept_mails

PAGES = 16


def test_from_a_trial_by_lot_to_a_report_that_ends(
    loaded: Page, server: str, browser: Browser, mails: tuple[int, Path], tmp_path: Path
) -> None:
    page = loaded
    verdict = randomised_trial(page, server)

    # A template, its pages as they will be, with words of your own; parts are left out and moved.
    page.goto(f"{server}/shop/reports")
    form = page.get_by_role("form", name="Template")
    preview = page.get_by_test_id("report-preview")
    expect(preview.get_by_role("img").first).to_be_visible()
    form.get_by_label("title of the report").fill("What the split told")
    form.get_by_label("period").first.select_option("last-13-weeks")
    form.get_by_role("checkbox", name="Links set").click()
    for _ in range(4):
        form.get_by_role("button", name="What was tried: up").press("Enter")
    form.get_by_text("introduction (Markdown)").first.click()
    form.get_by_label("introduction of “What was tried”").fill("Dear **client**, this is what we tried.")
    expect(preview.get_by_role("img", name="Page 1 of the report “What the split told”")).to_be_visible()
    accessible(page)
    form.get_by_role("button", name="Save template").click()
    form.get_by_role("button", name="Make a report now").click()

    # The report, its file read by poppler, its pages as pictures with something on each.
    report = page.get_by_test_id("report-file")
    expect(report).to_contain_text("What the split told")
    with page.expect_download() as downloaded:
        report.get_by_role("button", name="Download (PDF)").click()
    pdf = downloaded.value.path()
    text = text_of(pdf.read_bytes(), tmp_path)
    assert "Dear client, this is what we tried." in text
    assert text.index("What was tried") < text.index("How the site performs")
    assert "Links set" not in text
    assert " ".join(verdict.split()) in text
    subprocess.run(["pdftoppm", "-r", "40", "-png", str(pdf), str(tmp_path / "page")], check=True)
    pictures = sorted(tmp_path.glob("page*.png"))
    assert len(pictures) >= 2
    for one in pictures:
        with Image.open(one) as picture:
            assert picture.height > picture.width
            assert ImageStat.Stat(picture.convert("L")).stddev[0] > 5  # no empty page
    # Every part leads to its list.
    report.get_by_role("link", name="What was tried").press("Enter")
    expect(page).to_have_url(re.compile("finding=trials"))
    page.go_back()

    # Sent: the mail has the file, and a link that is read without signing in.
    report.get_by_role("button", name="Send it by mail").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("to (mail addresses)").fill("client@desk.example")
    dialog.get_by_label("message").fill("Good morning")
    accessible(page)
    dialog.get_by_role("button", name="Send it").click()
    expect(report).to_contain_text(re.compile("client@desk.example: sent"))
    (mail,) = [one for one in kept_mails(mails[1]) if one["To"] == "client@desk.example"]
    assert next(mail.iter_attachments()).get_payload(decode=True) == pdf.read_bytes()
    body = mail.get_body(("plain",))
    assert body is not None
    path = re.search(r"/read/\S+", body.get_content())
    assert path is not None
    reader = browser.new_context().new_page()
    reader.goto(server + path[0])
    expect(reader.get_by_role("heading", name="What the split told")).to_be_visible()
    expect(reader.get_by_text("Dear client")).to_be_visible()
    assert verdict in reader.locator("main").inner_text()
    # In a sandbox: whatever it kept would be of no origin.
    cookie = "(() => { try { return document.cookie } catch (error) { return error.name } })()"
    assert reader.evaluate(cookie) == "SecurityError"
    expect(report).to_contain_text("opened 1 time", timeout=60_000)
    accessible(page)
    in_the_other_theme(page)
    accessible(page)
    report.get_by_role("button", name="End it", exact=True).click()
    expect(report).to_contain_text("ended")
    reader.reload()
    expect(reader.get_by_role("heading", name="No report at this address")).to_be_visible()
    expect(reader.get_by_text("Dear client")).to_have_count(0)


def randomised_trial(page: Page, server: str) -> str:
    """A randomised test of pages changed in autumn, concluded: its verdict."""
    page.goto(f"{server}/shop/pages")
    page.get_by_test_id("page-file").wait_for()
    for _ in range(PAGES):
        page.keyboard.press("Space")
        page.keyboard.press("j")
    page.get_by_test_id("marked").get_by_role("button", name="Start a trial").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_text("randomised test: half of them are changed").click()
    dialog.get_by_label("day of the change").fill("1 Sep 2026")
    dialog.get_by_label("what you change").fill("Titles by lot")
    expect(dialog.get_by_role("status")).to_contain_text("would be detected")
    dialog.get_by_role("button", name="Start it").click()
    trial = page.get_by_test_id("trial-file")
    trial.get_by_role("button", name="Conclude the test").click()
    result = trial.get_by_text(re.compile("No effect beyond chance|It helped|It harmed"))
    expect(result).to_be_visible()
    return result.inner_text()
