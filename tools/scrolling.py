"""Frames a second while a long list is scrolled: `python -m tools.scrolling ADDRESS`, the address of a list in a running site.
It scrolls for six seconds by 60 pixels a frame, as a wheel does, and by 600, so fast that almost every window of rows must
be fetched.
"""

import statistics
import sys
from urllib.parse import urlsplit

from playwright.sync_api import sync_playwright

from tools.screenshots import QUIET, sign_in

SCROLL = """by => new Promise(done => {
  const list = document.querySelector('[data-testid=rows]'), times = []
  let last = performance.now(), until = last + 6000
  const step = now => {
    times.push(now - last); last = now; list.scrollTop += by
    now < until ? requestAnimationFrame(step) : done(times.slice(2))
  }
  requestAnimationFrame(step)
})"""


def main(address: str) -> None:
    parts = urlsplit(address)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=QUIET)
        page = browser.new_context(viewport={"width": 1280, "height": 800}, locale="en-GB").new_page()
        sign_in(page, f"{parts.scheme}://{parts.netloc}")
        page.goto(address)
        page.get_by_test_id("evidence").wait_for(timeout=120_000)
        rows = page.get_by_role("grid").get_attribute("aria-rowcount")
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
    main(sys.argv[1])
