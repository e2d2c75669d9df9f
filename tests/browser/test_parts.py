"""The shared parts, as the development server shows them, against stored pictures in both themes. After an intended change:
`ZUGZWANG_NEW_PICTURES=1 .venv/bin/pytest tests/browser/test_parts.py`, and look at them.
"""

import os
import subprocess
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page

from tests.browser.conftest import accessible
from tests.standin_server import free_port

ROOT = Path(__file__).parents[2]
PICTURES = Path(__file__).parent / "pictures"
MOST = 0.004  # share of pixels that may differ: another version of the browser draws edges of letters differently
COMPARE = """async ([one, other]) => {
    const [first, second] = await Promise.all([one, other].map(bytes =>
        createImageBitmap(new Blob([new Uint8Array(bytes)], {type: "image/png"}))))
    if (first.width !== second.width || first.height !== second.height) return 1
    const pixels = image => {
        const pen = new OffscreenCanvas(image.width, image.height).getContext("2d")
        pen.drawImage(image, 0, 0)
        return pen.getImageData(0, 0, image.width, image.height).data
    }
    const a = pixels(first), b = pixels(second)
    let differ = 0
    for (let at = 0; at < a.length; at += 4)
        if (Math.abs(a[at] - b[at]) + Math.abs(a[at + 1] - b[at + 1]) + Math.abs(a[at + 2] - b[at + 2]) > 90) differ++
    return differ / (a.length / 4)
}"""


@pytest.fixture(scope="module")
def development() -> Iterator[str]:
    """The address of Vite's development server."""
    port = free_port()
    command = ["node", "node_modules/vite/bin/vite.js", "--port", str(port), "--strictPort", "--host", "127.0.0.1"]
    with subprocess.Popen(command, cwd=ROOT / "web", stdout=subprocess.DEVNULL) as process:
        address = f"http://127.0.0.1:{port}/parts.html"
        for _ in range(600):
            try:
                urllib.request.urlopen(address, timeout=5)
                break
            except OSError:
                time.sleep(0.1)
        yield address
        process.terminate()


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_every_part_looks_as_it_did(page: Page, development: str, theme: str) -> None:
    page.set_viewport_size({"width": 1000, "height": 900})
    page.add_init_script(f"localStorage.setItem('zugzwang-theme', '{theme}')")
    page.goto(development, timeout=120_000)
    page.get_by_role("heading", name="Parts", exact=True).wait_for()
    page.evaluate("document.fonts.ready")
    page.add_style_tag(content=".late { animation: none !important }")
    accessible(page)
    now = page.screenshot(full_page=True)
    stored = PICTURES / f"parts-{theme}.png"
    if os.environ.get("ZUGZWANG_NEW_PICTURES"):
        stored.write_bytes(now)
    differ = page.evaluate(COMPARE, [list(now), list(stored.read_bytes())])
    assert differ <= MOST, f"{differ:.2%} of the pixels differ"
