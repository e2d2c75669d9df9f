"""Small but expensive requests: each is answered in words within ten seconds, and nothing is computed in a transaction."""

import json
import time
from collections.abc import Callable
from typing import Any
from urllib.parse import urlencode

import pytest
from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client

from bench.hostile import clipped, png
from tests.findings.drafts_site import plant
from tests.planted import PlantedSite
from zugzwang import bounded
from zugzwang.core.drafts import merging, text
from zugzwang.data import patterns as stored_patterns
from zugzwang.data.models import Membership, Site
from zugzwang.data.snapshot import facts as snapshot_facts
from zugzwang.plan import drafts, logo, reports

SECONDS = 10.0
HERE = "window-here-1"
SNIPPET = {"title": "", "description": ""}


@pytest.fixture(autouse=True)
def in_processes(settings) -> None:  # type: ignore[no-untyped-def]
    settings.BOUNDED_WORK = True
    bounded.prepare()


@pytest.fixture
def shop(site: Site) -> Site:
    return plant(site)


def ask(client: Client, method: str, path: str, expected: int, **body: Any) -> Any:
    """The response, within the promised time."""
    begun = time.monotonic()
    answer = client.generic(method, f"/api/sites/shop/{path}".rstrip("/"), json.dumps(body), content_type="application/json")
    took = time.monotonic() - begun
    assert answer.status_code == expected, answer.content[:2_000]
    assert took < SECONDS
    return answer.json()


def paragraphs(count: int, **changed: str) -> str:
    return "\n".join(f"<p>{changed.get(f'p{number}', f'line {number}')}</p>" for number in range(count))


def save(client: Client, draft: dict[str, Any], base: str, words: str, seen: int, expected: int = 200) -> Any:
    result = {**SNIPPET, "text": words, "seen": seen, "base": {**SNIPPET, "text": base}, "window": HERE}
    return ask(client, "PUT", f"drafts/{draft['id']}", expected, **result)


# --- drafts ---------------------------------------------------------------------------------------------------------------


def test_nine_thousand_paragraphs_are_merged_and_compared(signed_in: Client, shop: Site) -> None:
    draft = ask(signed_in, "POST", "drafts", 201, page=5)
    first = save(signed_in, draft, "", paragraphs(9_000), draft["version"])["draft"]
    theirs = save(signed_in, draft, "", paragraphs(9_000, p5="theirs"), first["version"])["draft"]
    mine = save(signed_in, draft, first["text"], paragraphs(9_000, p8000="mine"), first["version"])["draft"]
    assert mine["text"] == paragraphs(9_000, p5="theirs", p8000="mine")
    result = ask(signed_in, "GET", f"drafts/{draft['id']}/versions/0/{theirs['version'] + 1}", 200)
    assert sum(part["what"] == "added" for block in result["text"] for part in block) >= 9_000


def test_one_word_repeated_is_compared() -> None:
    begun = time.monotonic()
    (result,) = merging.differences([f"<p>{'word ' * 1_700}</p>"], [f"<p>{'word ' * 1_500}end</p>"])
    assert result[-1].text.endswith("end")
    assert time.monotonic() - begun < 2


@pytest.mark.parametrize(
    ("html", "says"),
    [
        ("<blockquote>" * 33_000, "nest more than 100 deep"),
        ("<div>" * 900 + "x", "nest more than 100 deep"),
        ("<p>a</p>" * 20_000, "at most 10,000 paragraphs"),
        ("<blockquote></i>" * 24_000, "nest more than 100 deep"),
    ],
    ids=["nested", "divs", "many", "wrongly closed"],
)
def test_a_draft_too_deep_or_too_long_is_refused_in_words(signed_in: Client, shop: Site, html: str, says: str) -> None:
    draft = ask(signed_in, "POST", "drafts", 201, page=5)
    assert says in save(signed_in, draft, "", html, draft["version"], 422)["detail"]
    assert says in ask(signed_in, "POST", f"drafts/{draft['id']}/check", 422, **SNIPPET, text=html)["detail"]


def test_elements_with_attributes_are_closed_by_what_opened_them() -> None:
    assert (
        text.cleaned('<p><b title="x">bold</b> <i lang="de">kursiv</i></p>') == "<p><strong>bold</strong> <em>kursiv</em></p>"
    )
    nested = "<div>" * 90 + "in" + "</div>" * 90
    assert text.cleaned(f"before<div>one{nested}two</div>after").split("\n") == [
        "<p>before</p>", "<p>one</p>", "<p>in</p>", "<p>two</p>", "<p>after</p>"
    ]  # fmt: skip


def test_pictures_without_text_are_counted_to_a_limit(signed_in: Client, shop: Site) -> None:
    draft = ask(signed_in, "POST", "drafts", 201, page=5)
    result = ask(signed_in, "POST", f"drafts/{draft['id']}/check", 200, **SNIPPET, text="<img src=a>" * 3_000)
    assert 0 < len(result["faults"]) <= 1_000


# --- reports --------------------------------------------------------------------------------------------------------------


def previewed(client: Client, words: str, expected: int, parts: int = 7) -> Any:
    names = list(reports.PARTS)[:parts]
    own = [{"name": name, "words": words} for name in names]
    return ask(client, "POST", "reports/preview", expected, name="x", parts=own)


def test_own_words_of_a_report_are_bounded(signed_in: Client, planted: PlantedSite) -> None:
    assert "at most 600 lines" in previewed(signed_in, "- x\n" * 4_900, 422)["detail"]
    assert "more than 60 pages" in previewed(signed_in, "- x\n" * 599, 422)["detail"]
    assert 1 < len(previewed(signed_in, "- x\n" * 99, 200)["pages"]) <= 60


def test_a_link_that_leads_nowhere_keeps_its_words(signed_in: Client, planted: PlantedSite) -> None:
    for words in ("[nowhere]()", f"[far](https://shop.example/{'x' * 9_000})", "[run](javascript:x)"):
        assert previewed(signed_in, words, 200, parts=1)["pages"]


def test_logos_that_grow_when_they_are_read_are_refused(signed_in: Client, planted: PlantedSite) -> None:
    template = ask(signed_in, "POST", "reports/templates", 201, name="x")

    def set_logo(data: bytes) -> Any:
        path = f"/api/sites/shop/reports/templates/{template['id']}/logo"
        return signed_in.post(path, {"file": SimpleUploadedFile("logo", data)})

    large = png(13_300, 13_300, private_first=True)
    assert len(large) < 2_000_000
    for data, says in ((large, "too many pixels"), (clipped(12, nested=True), "clipped itself")):
        answer = set_logo(data)
        assert answer.status_code == 422
        assert says in answer.json()["detail"]
    assert set_logo(clipped(2, nested=False)).status_code == 200
    assert set_logo(png(30, 30, private_first=True)).status_code == 200


# --- patterns -------------------------------------------------------------------------------------------------------------


def test_patterns_of_a_reader_are_bounded_by_what_they_compile_to(
    signed_in: Client, planted: PlantedSite, analyst: User, site: Site
) -> None:
    Membership.objects.filter(user=analyst).update(role=Membership.Role.READER)
    large = [rf"\w{{{100 + number}}}0" for number in range(90)]
    for patterns, says in (
        (large, "it repeats too much"), ([rf"\w{{20}}{number}" for number in range(90)], "together the 90 patterns are"),
        (["x"] * 330, "330 patterns"), (["(" * 90], "cannot be used"),
    ):  # fmt: skip
        asked = urlencode({"pattern": patterns}, doseq=True)
        assert says in ask(signed_in, "GET", f"brand?{asked}", 422)["detail"]
        asked = urlencode({"brand": patterns}, doseq=True)
        assert says in ask(signed_in, "GET", f"findings/low-ctr?{asked}", 422)["detail"]
    asked = urlencode({"brand": ["query 1", r"\bquery\s[2-4]\b"]}, doseq=True)
    result = ask(signed_in, "GET", f"findings/low-ctr?{asked}", 200)
    assert result["total"] >= 0
    assert ask(signed_in, "GET", "brand?pattern=query+1", 200)["queries"] > 100


def test_a_view_is_settled_without_compiling_the_patterns_of_the_site(
    signed_in: Client, planted: PlantedSite, site: Site, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A hundred patterns are compiled when saved, and once for each new version of the facts."""
    patterns = [rf"\bbrand\s{number}\b" for number in range(100)]
    ask(signed_in, "PATCH", "", 200, brand_patterns=patterns)
    ask(signed_in, "GET", "findings/low-ctr", 200)

    def compiles(*_: object) -> None:
        raise AssertionError("patterns were compiled")

    monkeypatch.setattr(stored_patterns, "check_patterns", compiles)
    monkeypatch.setattr(snapshot_facts, "matches", compiles)
    ask(signed_in, "GET", "findings/low-ctr", 200)
    ask(signed_in, "GET", f"findings/low-ctr?{urlencode({'brand': patterns}, doseq=True)}", 200)  # the same ones, given


# --- the write lock -------------------------------------------------------------------------------------------------------

HEAVY = (
    (drafts, "merge"), (drafts, "cleaned"), (drafts, "differences"), (drafts, "as_document"), (reports, "as_pdf"),
    (reports, "as_pictures"), (reports, "tell_report"), (logo, "_drawn_anew"), (logo, "_only_shapes"),
)  # fmt: skip


def test_nothing_heavy_runs_while_the_database_is_held(
    signed_in: Client, planted: PlantedSite, monkeypatch: pytest.MonkeyPatch, settings: Any
) -> None:
    """Saving, merging, comparing, restoring and exporting drafts, making reports and setting logos."""
    settings.BOUNDED_WORK = False  # in this process, so each call can be watched
    ran: set[str] = set()

    def watch(module: Any, name: str, own: Callable[..., Any]) -> None:
        def watched(*args: Any, **more: Any) -> Any:
            assert all(one._from_testcase for one in connection.atomic_blocks), f"{name} runs inside a transaction"
            ran.add(name)
            return own(*args, **more)

        monkeypatch.setattr(module, name, watched)

    for module, name in HEAVY:
        watch(module, name, getattr(module, name))
    draft = ask(signed_in, "POST", "drafts", 201, query=5)
    first = save(signed_in, draft, "", "<p>one</p>\n<p>two</p>", draft["version"])["draft"]
    save(signed_in, draft, "", "<p>ONE</p>\n<p>two</p>", first["version"])
    last = save(signed_in, draft, first["text"], "<p>one</p>\n<p>TWO</p>", first["version"])["draft"]
    ask(signed_in, "GET", f"drafts/{draft['id']}/versions/0/{last['version']}", 200)
    ask(signed_in, "POST", f"drafts/{draft['id']}/versions", 200, window=HERE, version=last["version"])
    assert signed_in.get(f"/api/sites/shop/drafts/{draft['id']}/file?kind=docx").status_code == 200
    template = ask(signed_in, "POST", "reports/templates", 201, name="x")
    for data in (png(30, 30, private_first=False), clipped(1, nested=False)):
        path = f"/api/sites/shop/reports/templates/{template['id']}/logo"
        assert signed_in.post(path, {"file": SimpleUploadedFile("logo", data)}).status_code == 200
    ask(signed_in, "POST", f"reports/templates/{template['id']}/make", 201)
    previewed(signed_in, "words", 200, parts=1)
    assert ran == {name for _, name in HEAVY}


def test_bounded_work_refuses_to_run_inside_a_transaction(site: Site) -> None:
    from django.db import transaction

    with transaction.atomic(), pytest.raises(RuntimeError, match="inside a transaction"):
        bounded.run(bounded.DRAFT, max, 1, 2)
