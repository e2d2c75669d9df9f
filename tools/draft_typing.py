"""How long the live check of a draft takes at the API, and whether typing stalls, in the running demo. `python -m
tools.draft_typing`: a draft of 3,000 words is checked twenty times; then 300 letters are typed while the browser counts
tasks of more than 50 ms (W3C Long Tasks API).
"""

import statistics
import time

from playwright.sync_api import Page, sync_playwright

from tools.screenshots import QUIET, SERVER, sign_in

WORDS, ASKED, LETTERS = 3_000, 20, 300
SENTENCE = "A canoe cart carries the boat over land, and wide tyres roll on soft sand where narrow ones sink. "


def text_of(words: int) -> str:
    a_paragraph = SENTENCE * 5
    paragraphs = words // len(a_paragraph.split()) + 1
    return "".join(f"<h2>Part {number}</h2><p>{a_paragraph}</p>" for number in range(paragraphs))


CALL = """async ({path, body, method}) => {
    const token = document.cookie.match(/csrftoken=([^;]+)/)[1];
    const begun = performance.now();
    const answer = await fetch(path, {method, headers: {"X-CSRFToken": token, "Content-Type": "application/json"},
                                      body: JSON.stringify(body)});
    const told = await answer.json();
    return [performance.now() - begun, told];
}"""


def checks(page: Page, path: str, text: str) -> list[float]:
    """Milliseconds from the browser's request to the response."""
    body = {"title": "Carts", "description": "", "text": text}
    result = [page.evaluate(CALL, {"path": f"{path}/check", "body": body, "method": "POST"}) for _ in range(ASKED + 1)]
    assert result[0][1]["words"] >= WORDS, result[0][1]
    return [one[0] for one in result[1:]]


def main() -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=QUIET)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        sign_in(page)
        made = page.evaluate(CALL, {"path": "/api/sites/marrowbank/drafts", "body": {"page": 1}, "method": "POST"})[1]
        path = f"/api/sites/marrowbank/drafts/{made['id']}"
        text = text_of(WORDS)
        took = checks(page, path, text)
        print(f"check of {WORDS} words: median {statistics.median(took):.0f} ms, most {max(took):.0f} ms ({ASKED} times)")
        base = {"title": made["title"], "description": made["description"], "text": made["text"]}
        words = {**base, "text": text, "base": base, "seen": made["version"], "window": "tools-typing"}
        page.evaluate(CALL, {"path": path, "body": words, "method": "PUT"})
        page.evaluate(CALL, {"path": f"{path}/writer", "body": {"window": "tools-typing"}, "method": "POST"})
        page.goto(f"{SERVER}/marrowbank/draft?draft={made['id']}")
        page.evaluate("sessionStorage.setItem('zugzwang-window', 'tools-typing')")
        page.reload()
        field = page.get_by_role("textbox", name="Text of the draft")
        field.wait_for()
        page.get_by_test_id("draft-check").wait_for()
        page.wait_for_timeout(3_000)
        page.evaluate("""window.tasks = [];
            new PerformanceObserver(list => window.tasks.push(...list.getEntries().map(one => one.duration)))
                .observe({type: 'longtask'})""")
        field.locator("p").last.click()
        begun = time.monotonic()
        for number in range(LETTERS):
            page.keyboard.press("Space" if number % 6 == 5 else "abcdefgh"[number % 8])
            page.wait_for_timeout(40)
        page.wait_for_timeout(2_000)
        assert "abcde" in field.inner_text(), "nothing was typed"
        tasks = page.evaluate("window.tasks")
        print(
            f"{LETTERS} letters in {time.monotonic() - begun:.0f} s: {len(tasks)} tasks over 50 ms",
            [round(one) for one in tasks],
        )
        page.evaluate(CALL, {"path": path, "body": {}, "method": "DELETE"})
        browser.close()


if __name__ == "__main__":
    main()
