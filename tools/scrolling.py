"""How many frames a second a long list keeps while it is scrolled, in a site that runs:
`python -m tools.scrolling SITE [SERVER]`.

All rows of striking distance are listed, thin ones too, and scrolled for six seconds by 600 pixels a frame (fast: 36,000 pixels
a second, so that nearly every window of rows has to be fetched) and by 60 (as a wheel does)."""

import statistics
import sys

from playwright.sync_api import sync_playwright

from tools.screenshots import QUIET, SERVER, sign_in

LIST = "queries?lens=striking-distance&shown=1&evidence=%5B%22firm%22%2C%22likely%22%2C%22thin%22%5D"
SCROLL = """by => new Promise(done => {
  const list = document.querySelector('[data-testid=rows]'), times = []
  let last = performance.now(), until = last + 6000
  const step = now => {
    times.push(now - last); last = now; list.scrollTop += by
    now < until ? requestAnimationFrame(step) : done(times.slice(2))
  }
  requestAnimationFrame(step)
})"""


def main(site: str, server: str = SERVER) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=QUIET)
        page = browser.new_context(viewport={"width": 1280, "height": 800}, locale="en-GB").new_page()
        sign_in(page, server)
        page.goto(f"{server}/{site}/{LIST}")
        page.get_by_test_id("evidence").wait_for()
        rows = page.get_by_role("grid", name="Rows").get_attribute("aria-rowcount")
        sys.stdout.write(f"{rows} rows\n")
        for by in (60, 600):
            page.wait_for_timeout(2_000)
            times = sorted(page.evaluate(SCROLL, by))
            late = sum(time > 20 for time in times) / len(times)
            sys.stdout.write(
                f"{by} pixels a frame: {1000 / statistics.mean(times):.0f} frames a second,"
                f" median {statistics.median(times):.1f} ms,"
                f" 95 of 100 below {times[int(len(times) * 0.95)]:.1f} ms, {late:.0%} above 20 ms\n"
            )
        browser.close()


if __name__ == "__main__":
    main(*sys.argv[1:])
