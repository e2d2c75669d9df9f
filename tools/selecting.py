"""How long a row selected with `j` takes to show its evidence, in Queries and Pages of the running demo."""

import statistics
import sys

from playwright.sync_api import Page, sync_playwright

from tools.screenshots import QUIET, SERVER, sign_in

STEPS = 12
# From the key to the frame in which the first words of the evidence are others.
STEP = """part => new Promise(done => {
  const words = () => document.querySelector(`[data-testid=${part}]`)?.textContent.slice(0, 600)
  const before = words(), began = performance.now()
  const watch = () => words() !== before
    ? requestAnimationFrame(() => done(performance.now() - began))
    : requestAnimationFrame(watch)
  document.body.dispatchEvent(new KeyboardEvent('keydown', {key: 'j', bubbles: true}))
  watch()
})"""


def measure(page: Page, place: str, part: str) -> list[float]:
    page.goto(f"{SERVER}/marrowbank/{place}")
    page.get_by_test_id(part).wait_for()
    page.wait_for_timeout(3_000)  # what is likely looked at next is fetched ahead
    times = []
    for _ in range(STEPS):
        times.append(page.evaluate(STEP, part))
        page.wait_for_timeout(800)  # who reads a row takes as long at least
    return times


def main() -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=QUIET)
        page = browser.new_context(viewport={"width": 1280, "height": 800}, locale="en-GB").new_page()
        sign_in(page)
        for place, part in (("queries?finding=striking-distance", "evidence"), ("pages", "page-file")):
            times = measure(page, place, part)
            said = f"{place.partition('?')[0]}: median {statistics.median(times):.0f} ms, most {max(times):.0f} ms\n"
            sys.stdout.write(said)
        browser.close()


if __name__ == "__main__":
    main()
