"""The real server and worker with a separate database, driven by Debian's Chromium."""

import os
import re
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import polars as pl
import pytest
from playwright.sync_api import BrowserContext, ConsoleMessage, Page, expect

from tests.installation import database_of_its_own, migrate_in
from tests.planted import PlantedSite, planted_site
from tests.standin_server import SITE_HOST, Running, free_port, served, write_data
from zugzwang.standins.mail import serve_mail

ROOT = Path(__file__).parents[2]
USER, PASSWORD = "analyst", "a long password"
COLLEAGUE = "colleague"
CONTESTED = 900
HOSTS = (SITE_HOST, "shop.example", "data.shop.example", "www.links.example", "links.example", "*.rival.example")
# A machine with one busy core answers late, and late is not wrong.
expect.set_options(timeout=60_000)
MAKE = f"""
import django; django.setup()
from django.contrib.auth.models import User
from zugzwang.access import Actor
from zugzwang.subjects.sites import add_site
add_site(Actor(User.objects.create_user({USER!r}, password={PASSWORD!r})), "Shop", "https://shop.example", "shop")
User.objects.create_superuser({COLLEAGUE!r}, password={PASSWORD!r})
"""


@pytest.fixture(scope="session")
def planted() -> PlantedSite:
    return planted_site(queries=500, poor=8, movers=5, seed=4)


@pytest.fixture(scope="session")
def facts_file(planted: PlantedSite, tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("files") / "search-facts.csv"
    facts = pl.concat([planted.facts, contested(planted.facts)])
    facts.rename({"day": "Date"}).with_columns(
        page=("https://shop.example/page-" + facts["page"].cast(str)),
        query=("kayak number " + facts["query"].cast(str)),
    ).rename({"query": "Search term", "page": "Landing page"}).write_csv(path)
    return path


def contested(facts: pl.DataFrame) -> pl.DataFrame:
    """One query for which two pages alternate every six days."""
    days = facts["day"].unique().sort()
    turn = pl.int_range(days.len(), eager=True) // 6 % 2
    counts = {"page": CONTESTED + turn, "query": [CONTESTED] * days.len(), "clicks": [2] * days.len()}
    shown = {"impressions": [60] * days.len(), "position": [6.0] * days.len()}
    return pl.DataFrame({"day": days, **counts, **shown}).cast(dict(facts.schema))


@pytest.fixture(scope="session")
def standins(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    folder = tmp_path_factory.mktemp("standins")
    write_data(folder)
    with served(folder) as running:
        yield running


@pytest.fixture(scope="session")
def mails(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[int, Path]]:
    """A mail server's port, and the folder with the mails that it received."""
    folder, port = tmp_path_factory.mktemp("mails"), free_port()
    mail_server = serve_mail(folder, port)
    yield port, folder
    mail_server.stop()


@pytest.fixture(scope="session")
def server(tmp_path_factory: pytest.TempPathFactory, standins: Running, mails: tuple[int, Path]) -> Iterator[str]:
    mapped = ",".join(f"{host}={standins.address}" for host in HOSTS)
    env = environment(tmp_path_factory.mktemp("data"), mapped) | {"ZUGZWANG_MAIL": f"smtp://127.0.0.1:{mails[0]}"}
    migrate_in(env)
    subprocess.run([sys.executable, "-c", MAKE], cwd=ROOT, env=env, check=True)
    with serving(env) as address:
        yield address


def environment(data: Path, mapped: str) -> dict[str, str]:
    return {
        **os.environ,
        "ZUGZWANG_DATA_DIR": str(data),
        "ZUGZWANG_DATABASE": database_of_its_own(),
        "DJANGO_SETTINGS_MODULE": "zugzwang.settings",
        "ZUGZWANG_HOST_MAP": mapped,
    }


@contextmanager
def serving(env: dict[str, str]) -> Iterator[str]:
    """The web server and the worker on an existing database."""
    port = free_port()
    worker = ["manage.py", "db_worker", "--skip-checks", "--interval", "0.2", "--no-reload", "--no-startup-delay"]
    processes = [
        subprocess.Popen([sys.executable, "manage.py", "serve", "--listen", f"127.0.0.1:{port}"], cwd=ROOT, env=env),
        subprocess.Popen([sys.executable, *worker], cwd=ROOT, env=env),
    ]
    address = f"http://127.0.0.1:{port}"
    try:
        _wait_for(f"{address}/api/session")
        yield address
    finally:
        for process in processes:
            process.terminate()
        for process in processes:
            process.wait(20)


def _wait_for(address: str) -> None:
    for _ in range(1_200):  # a machine that has other work too takes its time to start one
        try:
            urllib.request.urlopen(address, timeout=2)
            return
        except (urllib.error.URLError, ConnectionError, TimeoutError):
            time.sleep(0.1)
    raise TimeoutError(address)


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, object]:
    quiet = "--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking"
    more = "--disable-component-update --disable-sync --disable-dev-shm-usage"
    return {"executable_path": "/usr/bin/chromium", "args": f"{quiet} {more}".split()}


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, object]:
    return {"viewport": {"width": 1280, "height": 800}, "locale": "en-GB"}


@pytest.fixture
def page(context: BrowserContext) -> Iterator[Page]:
    """A page that fails the test after any console error or any request to another host."""
    page = context.new_page()
    wrong: list[str] = []
    # A busy server says so, and is asked again after a moment: what a loaded machine does is no fault of the page.
    busy = "the server responded with a status of 503"

    def heard(message: ConsoleMessage) -> None:
        if message.type in ("error", "warning") and busy not in message.text:
            wrong.append(message.text)

    page.on("console", heard)
    page.on("pageerror", lambda error: wrong.append(str(error)))
    ours = ("http://127.0.0.1:", "data:", "blob:")
    page.on("request", lambda request: None if request.url.startswith(ours) else wrong.append(request.url))
    page.set_default_timeout(60_000)
    yield page
    assert not wrong


@pytest.fixture
def signed_in(page: Page, server: str) -> Page:
    sign_in(page, server)
    return page


def sign_in(page: Page, server: str, user: str = USER) -> None:
    page.goto(f"{server}/sign-in?next=/shop/data")
    page.get_by_label("User name").fill(user)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Data", exact=True).wait_for()


@pytest.fixture
def loaded(signed_in: Page, server: str, facts_file: Path) -> Page:
    """Signed in, at the queries of a site with data (loaded by the first test that needs it)."""
    if signed_in.get_by_text("has no search data yet").count():
        load(signed_in, facts_file)
    signed_in.goto(f"{server}/shop/queries")
    signed_in.get_by_test_id("evidence").wait_for()
    return signed_in


AXE = (ROOT / "web/node_modules/axe-core/axe.min.js").read_text()


def accessible(page: Page) -> None:
    """No violation of WCAG 2.2 A or AA found by axe-core."""
    # What fades in or out is seen for a moment in colours that no one is meant to read; on a busy machine it begins late.
    for _ in range(2):
        page.evaluate("Promise.all(document.getAnimations().map(one => one.finished.catch(() => null)))")
        page.wait_for_timeout(350)
    page.evaluate(AXE)
    tags = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
    # What was just done is reported for some seconds and fades whenever its time is over: it is left out.
    found = page.evaluate("tags => axe.run({exclude: [['[data-sonner-toaster]']]}, {runOnly: tags})", tags)
    assert [(one["id"], [node["target"] for node in one["nodes"]][:3]) for one in found["violations"]] == []
    assert len(found["passes"]) > 10


def from_menu(page: Page, entry: str | re.Pattern[str], keyboard: bool = False) -> None:
    """Choose what is about the person and the whole product, by the mouse or by keys."""
    opener = page.get_by_role("button", name=re.compile("^(Signed in as|More$)"))
    item = page.get_by_role("menuitem", name=entry)
    if keyboard:
        opener.press("Enter")
        item.press("Enter")
    else:
        opener.click()
        item.click()


def open_evidence(page: Page, part: str) -> None:
    """Wait for the evidence; on a phone it opens by a tap on a row."""
    if (page.viewport_size or {}).get("width", 0) < 640 and page.locator("[role=row][data-index]").first.is_visible():
        page.locator("[role=row][data-index]").first.click()
    page.get_by_test_id(part).wait_for()


def in_the_other_theme(page: Page) -> None:
    root = page.locator("html")
    before = root.get_attribute("data-theme") or ""
    from_menu(page, re.compile("(Dark|Light) theme"))
    expect(root).not_to_have_attribute("data-theme", before)


def load(page: Page, file: Path) -> None:
    page.locator("input[type=file]").set_input_files(file)
    page.get_by_role("button", name="Load into Shop").click()
    page.get_by_text("rows loaded").or_(page.get_by_text("Nothing changed")).wait_for(timeout=60_000)
