"""People: invited, joining, second factor, API token, removed again."""

import json
import re
import urllib.error
import urllib.request
from pathlib import Path

import pytest
from allauth.mfa.totp.internal.auth import format_hotp_value, hotp_value, yield_hotp_counters_from_time
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import accessible, from_menu, in_the_other_theme

PASSWORD = "a password for a newcomer"


def code_of(secret: str, steps: int = 0) -> str:
    counters = list(yield_hotp_counters_from_time())
    return format_hotp_value(hotp_value(secret, counters[len(counters) // 2] + steps))


def test_from_an_invitation_to_a_second_factor(signed_in: Page, server: str, browser: Browser) -> None:
    page = signed_in
    page.goto(f"{server}/shop/people")
    page.get_by_label("mail address").fill("newcomer@desk.example")
    page.get_by_role("button", name="Invite", exact=True).click()
    expect(page.get_by_text("newcomer@desk.example, analyst, until")).to_be_visible()
    expect(page.get_by_role("row", name="invite newcomer@desk.example")).to_be_visible()
    accessible(page)
    in_the_other_theme(page)
    accessible(page)
    found = page.evaluate("fetch('/api/sites/shop/members').then(answer => answer.json())")
    path = found["invitations"][0]["path"]

    # The newcomer joins with an account of their own, and sets up a second factor.
    context = browser.new_context(locale="en-GB", viewport={"width": 1280, "height": 800})
    theirs = context.new_page()
    theirs.set_default_timeout(60_000)
    theirs.goto(server + path)
    expect(theirs.get_by_role("heading", name="Join Shop")).to_be_visible()
    accessible(theirs)
    theirs.get_by_label("choose a user name").fill("newcomer")
    theirs.get_by_label("choose a password").fill("short")
    theirs.get_by_role("button", name="Join").click()
    expect(theirs.get_by_role("alert")).to_contain_text("too short")
    theirs.get_by_label("choose a password").fill(PASSWORD)
    theirs.get_by_role("button", name="Join").click()
    from_menu(theirs, "Your account")
    expect(theirs.get_by_role("heading", name="newcomer")).to_be_visible()
    theirs.get_by_role("button", name="Set one up").click()
    dialog = theirs.get_by_role("dialog")
    secret = dialog.locator("p.font-mono").inner_text()
    expect(dialog.get_by_role("img", name="The secret, to be scanned")).to_be_visible()
    accessible(theirs)
    dialog.get_by_label("code from the app").fill(code_of(secret))
    dialog.get_by_label("your password").fill(PASSWORD)
    dialog.get_by_role("button", name="Turn on").click()
    expect(theirs.get_by_role("dialog", name="Recovery codes")).to_be_visible()
    codes = theirs.get_by_role("dialog").locator("pre").inner_text().split()
    assert len(codes) == 10
    theirs.get_by_role("button", name="I have saved them").click()

    # A token for a script, shown once; the script uses it.
    theirs.get_by_label("purpose").fill("Nightly sums")
    theirs.get_by_role("button", name="Create token").click()
    token = theirs.get_by_role("dialog").locator("p.font-mono").inner_text()
    theirs.get_by_role("button", name="I have saved it").click()
    accessible(theirs)
    asked = urllib.request.Request(f"{server}/api/sites", headers={"Authorization": f"Bearer {token}"})
    assert [one["slug"] for one in json.loads(urllib.request.urlopen(asked).read())] == ["shop"]

    # Signing in asks for the code; a recovery code does as well.
    theirs.goto(f"{server}/shop/people")
    from_menu(theirs, "Sign out")
    theirs.get_by_label("User name").fill("newcomer")
    theirs.get_by_label("Password").fill(PASSWORD)
    theirs.get_by_role("button", name="Sign in").click()
    theirs.get_by_label("Code").fill(codes[0])
    theirs.get_by_role("button", name="Sign in").click()
    expect(theirs.get_by_role("button", name="Signed in as newcomer")).to_be_visible()

    # The owner sees them, takes them out, and nothing of them works any more.
    page.reload()
    row = page.get_by_role("row", name=re.compile("newcomer.*second factor"))
    expect(row).to_be_visible()
    row.get_by_role("button", name="Remove").click()
    expect(row).to_have_count(0)
    theirs.goto(f"{server}/shop/changes")
    expect(theirs.get_by_text("No such site")).to_be_visible()
    with pytest.raises(urllib.error.HTTPError, match="401"):  # their token ended with it
        urllib.request.urlopen(asked)
    context.close()


def test_a_site_leaves_whole_and_is_taken_in_as_another(loaded: Page, server: str, tmp_path: Path) -> None:
    page = loaded
    page.goto(f"{server}/shop/people")
    with page.expect_download() as leaving:
        page.get_by_role("button", name="Download site").click()
    leaving.value.save_as(tmp_path / "shop.zip")
    page.goto(f"{server}/sites")
    page.get_by_role("button", name="Add a site").click()
    dialog = page.get_by_role("dialog", name="Add a site")
    accessible(page)
    dialog.get_by_label("Archive to import").set_input_files(tmp_path / "shop.zip")
    expect(page.get_by_text("Its services need their tokens again")).to_be_visible()
    own, other = (
        page.evaluate(f"fetch('/api/sites/{slug}/findings/low-ctr').then(answer => answer.json()).then(told => told.total)")
        for slug in ("shop", page.url.split("/")[3])
    )
    assert own == other > 0
