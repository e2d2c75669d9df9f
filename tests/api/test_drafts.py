"""Drafts over HTTP: started from a page or a content gap, edited by several people, checked, helped with, finished."""

import io
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path
from typing import Any

import docx
import pytest
from django.contrib.auth.models import User
from django.test import Client
from django.utils import timezone

from tests.findings.drafts_site import needed, plant
from tests.standin_server import TOKEN, Running, served
from zugzwang.access import OPERATOR
from zugzwang.data.models import Draft, DraftVersion, Membership, Move, Site
from zugzwang.intake import text_service
from zugzwang.intake.connections import connect
from zugzwang.standins.text import propose

HERE, THERE = "window-here-1", "window-there-2"
EMPTY = {"title": "", "description": "", "text": ""}


@pytest.fixture
def shop(site: Site) -> Site:
    return plant(site)


@pytest.fixture
def colleague(site: Site) -> Client:
    user = User.objects.create_user("colleague", password="another long one")
    Membership.objects.create(site=site, user=user, role=Membership.Role.ANALYST)
    client = Client()
    client.force_login(user)
    return client


def call(client: Client, method: str, path: str = "", expected: int = 200, **body: Any) -> Any:
    answer = client.generic(method, f"/api/sites/shop/drafts{path}", _json(body), content_type="application/json")
    assert answer.status_code == expected, answer.content
    return answer.json() if answer.content else None


def _json(body: object) -> bytes:
    import json

    return json.dumps(body).encode()


def save(client: Client, draft: dict[str, Any], words: dict[str, str], window: str = HERE, expected: int = 200) -> Any:
    """Save text that is based on the draft as read."""
    base = {name: draft[name] for name in EMPTY}
    result = {**base, **words, "seen": draft["version"], "base": base, "window": window}
    return call(client, "PUT", f"/{draft['id']}", expected, **result)


def test_a_page_as_crawled_becomes_a_draft_and_the_draft_a_move(signed_in: Client, shop: Site) -> None:
    draft = call(signed_in, "POST", expected=201, page=2)
    assert (draft["name"], draft["title"], draft["crawled"]) == ("rudder cart", "Rudder Cart", True)
    assert draft["text"].startswith("<h1>Rudder cart</h1>\n<h2>How to load it</h2>\n<p>Some words")
    assert call(signed_in, "POST", expected=201, page=2)["id"] == draft["id"]  # pressed twice
    checked = call(signed_in, "POST", f"/{draft['id']}/check?min_impressions=1", **{**EMPTY, "text": draft["text"]})
    missing = [one["text"] for one in checked["terms"] if one["state"] == "missing"]
    assert missing
    added = " ".join(f"It has a {phrase}." for phrase in needed("rudder")) + " Mind the rudderish strap."
    words = {"text": f"{draft['text']}\n<p>{added}</p>", "title": "Rudder carts that fold"}
    after = call(signed_in, "POST", f"/{draft['id']}/check?min_impressions=1", **{**EMPTY, **words})
    assert [one["text"] for one in after["terms"] if one["state"] == "missing"] == []
    assert checked["coverage"] < after["coverage"] == 1.0
    assert after["words"] == checked["words"] + len(added.split())
    # Its own page says the same, and that is no repetition; what another page begins with too is.
    twice = [one for one in after["faults"] if one["kind"] == "repeated"]
    assert [(one["quote"], one["page"]) for one in twice] == [
        ("Some words of our own on boats. It has a", "https://shop.example/canoe/")
    ]
    stolen = save(signed_in, draft, words)["draft"]
    assert (stolen["version"], stolen["writer"]) == (2, "analyst")

    today = timezone.localdate()
    call(signed_in, "POST", f"/{draft['id']}/done", 422, on=str(today + timedelta(days=1)))
    done = call(signed_in, "POST", f"/{draft['id']}/done", on=str(today), note="With the new pictures.")
    move = Move.objects.get(id=done["move_id"])
    assert (move.kind, move.state, move.page_id, move.made_on, move.note) == (
        "deepen",
        "done",
        2,
        today,
        "With the new pictures.",
    )
    assert move.new_title == "Rudder carts that fold"
    stored = Draft.objects.get(id=draft["id"])
    assert stored.before is not None
    assert (stored.before["text"], stored.text) == (draft["text"], words["text"])  # old and new, for its result
    assert save(signed_in, stolen, {"text": "<p>late</p>"}, expected=409)["detail"] == "The draft is published."
    assert call(signed_in, "POST", f"/{draft['id']}/open")["state"] == "open"
    assert Move.objects.get(id=move.id).state == "in progress"


def test_a_page_to_write_makes_a_draft_and_a_move_at_once(signed_in: Client, shop: Site) -> None:
    from zugzwang.data.models import Query

    missing = [Query.objects.create(site=shop, text=f"lantern insurance {word}").id for word in ("north", "south", "law")]
    draft = call(signed_in, "POST", expected=201, query=missing[0])
    move = Move.objects.get(id=draft["move_id"])
    assert (move.query_id, move.state, draft["page"], draft["text"]) == (missing[0], "to do", None, "")
    assert call(signed_in, "POST", expected=201, query=missing[0])["id"] == draft["id"]
    assert Move.objects.filter(site=shop).count() == 1
    call(signed_in, "POST", f"/{draft['id']}/done", 422, on=str(timezone.localdate()))  # nothing is written
    save(signed_in, draft, {"text": "<h1>Insurance</h1><p>It is dear.</p>"})
    call(signed_in, "POST", f"/{draft['id']}/done", 422, on=str(timezone.localdate()), page="/nowhere/")
    done = call(signed_in, "POST", f"/{draft['id']}/done", on=str(timezone.localdate()), page="/anchor/")
    move.refresh_from_db()
    assert (done["page"], move.page_id, move.state) == ("https://shop.example/anchor/", 4, "done")
    call(signed_in, "POST", expected=422)
    listed = signed_in.get("/api/sites/shop/findings/drafts").json()
    assert [(row["query"], row["words"], row["state"]) for row in listed["rows"]] == [("lantern insurance north", 4, "done")]
    call(signed_in, "DELETE", f"/{draft['id']}")
    assert signed_in.get("/api/sites/shop/findings/drafts").json()["total"] == 0
    assert call(signed_in, "POST", f"/{draft['id']}/restore")["text"] == done["text"]


def test_one_writes_and_what_others_wrote_is_merged(signed_in: Client, colleague: Client, shop: Site) -> None:
    draft = call(signed_in, "POST", expected=201, page=3)
    text = "<h1>Lantern</h1>\n<p>one</p>\n<p>two</p>\n<p>three</p>"
    base = save(signed_in, draft, {"text": text})["draft"]
    # Another may look, not write, until the first is gone or is taken over from.
    assert save(colleague, base, {"text": "<p>x</p>"}, THERE, 409)["detail"] == "analyst is writing."
    assert call(colleague, "POST", f"/{base['id']}/writer", window=THERE)["writer"] == "analyst"
    assert call(signed_in, "POST", f"/{base['id']}/writer", window="window-other")["writer_window"] == HERE
    assert save(signed_in, base, {"text": "<p>x</p>"}, "window-other", 409)["detail"] == "You are editing it in another window."
    assert call(colleague, "POST", f"/{base['id']}/writer", window=THERE, take=True)["writer"] == "colleague"
    theirs = save(colleague, base, {"text": text.replace("three", "THREE"), "title": "Theirs"}, THERE)["draft"]
    # What the first wrote without a connection comes an hour later; no one is heard of any more.
    Draft.objects.update(writer_heard_at=timezone.now() - timedelta(hours=1))
    merged = save(signed_in, base, {"text": text.replace("one", "ONE") + "\n<p>four</p>", "description": "Mine"})
    assert merged["text"] is None
    both = merged["draft"]
    assert both["text"] == "<h1>Lantern</h1>\n<p>ONE</p>\n<p>two</p>\n<p>THREE</p>\n<p>four</p>"
    assert (both["title"], both["description"], both["version"]) == ("Theirs", "Mine", theirs["version"] + 1)
    # Where both changed the same, nothing is saved and both are reported.
    doubt = save(signed_in, base, {"text": text.replace("three", "drei"), "title": "Mine"})
    assert [piece["theirs"] for piece in doubt["text"] if piece["theirs"]] == [["<p>THREE</p>"]]
    assert doubt["title"] == {"mine": "Mine", "theirs": "Theirs"}
    # A description that one alone changed is in no doubt, and is not lost by whoever chooses.
    assert doubt["description"] == {"mine": "Mine", "theirs": None}
    assert call(signed_in, "GET", f"/{base['id']}")["text"] == both["text"]
    chosen = save(signed_in, both, {"text": both["text"].replace("THREE", "drei"), "title": "Mine"})
    assert (chosen["text"], chosen["draft"]["title"]) == (None, "Mine")
    call(signed_in, "POST", f"/{base['id']}/writer/gone", 204, window=HERE)
    assert call(colleague, "GET", f"/{base['id']}")["writer"] is None


def test_versions_are_kept_compared_and_put_back(signed_in: Client, shop: Site) -> None:
    draft = call(signed_in, "POST", expected=201, page=4)
    first = save(signed_in, draft, {"text": "<p>Wide tyres roll.</p>"})["draft"]
    second = save(signed_in, first, {"text": "<p>Wide tyres roll on.</p>"})["draft"]
    path = f"/{draft['id']}/versions"
    assert [one["number"] for one in call(signed_in, "GET", path)] == [3, 1]  # two saves within minutes are one version
    DraftVersion.objects.update(begun_at=timezone.now() - timedelta(minutes=20))
    third = save(signed_in, second, {"text": "<p>Narrow tyres roll on.</p>", "title": "Tyres"})["draft"]
    result = call(signed_in, "GET", f"{path}/3/4")
    assert [(one["what"], one["text"]) for one in result["text"][0]] == [
        ("removed", "Wide"), ("added", "Narrow"), ("kept", " tyres roll on."),
    ]  # fmt: skip
    assert result["title"] == [[{"what": "removed", "text": "Anchor Cart"}, {"what": "added", "text": "Tyres"}]]  # fmt: skip
    call(signed_in, "GET", f"{path}/3/9", 404)
    back = call(signed_in, "POST", path, window=HERE, version=3)
    assert (back["text"], back["version"]) == ("<p>Wide tyres roll on.</p>", third["version"] + 1)
    assert call(signed_in, "POST", path, window=HERE, version=0)["text"] == draft["text"]  # as it was crawled


def test_a_draft_leaves_as_a_file_and_bad_words_are_refused(signed_in: Client, shop: Site) -> None:
    draft = call(signed_in, "POST", expected=201, page=5)
    text = '<h2>Fit</h2><script>x()</script><p onclick="x()">A <b>helmet</b> fits.</p><img src="https://a.example/h.png">'
    saved = save(signed_in, draft, {"text": text})["draft"]
    assert saved["text"] == '<h2>Fit</h2>\n<p>A <strong>helmet</strong> fits.</p>\n<p><img alt="" title="h.png"></p>'
    file = signed_in.get(f"/api/sites/shop/drafts/{draft['id']}/file", {"kind": "docx"})
    assert file["Content-Disposition"] == f'attachment; filename="draft-{draft["id"]}.docx"'
    assert "A helmet fits." in [one.text for one in docx.Document(io.BytesIO(file.content)).paragraphs]
    markdown = signed_in.get(f"/api/sites/shop/drafts/{draft['id']}/file", {"kind": "md"}).content.decode()
    assert "## Fit\n\nA **helmet** fits." in markdown
    assert b"<p>A <strong>helmet" in signed_in.get(f"/api/sites/shop/drafts/{draft['id']}/file", {"kind": "html"}).content
    too_long = save(signed_in, saved, {"text": f"<p>{'x' * 450_000}</p>"}, expected=422)
    assert "at most 400,000 characters" in too_long["detail"]
    save(signed_in, saved, {"title": "x" * 2_500}, expected=422)
    assert call(signed_in, "GET", f"/{draft['id']}")["text"] == saved["text"]
    assert call(signed_in, "PATCH", f"/{draft['id']}", name="Helmets")["name"] == "Helmets"
    call(signed_in, "POST", expected=404, page=999)


# --- help -----------------------------------------------------------------------------------------------------------------


@pytest.fixture
def standins(tmp_path: Path, settings: Any) -> Iterator[Running]:
    with served(tmp_path) as running:
        settings.HOST_MAP = {"data.shop.example": running.address}
        yield running


def test_help_is_asked_for_checked_and_never_waited_for(
    signed_in: Client, shop: Site, standins: Running, monkeypatch: pytest.MonkeyPatch
) -> None:
    draft = call(signed_in, "POST", expected=201, page=1)
    before = call(signed_in, "GET", f"/{draft['id']}")
    path = f"/{draft['id']}/help"
    assert call(signed_in, "POST", path, 422, task="outline")["detail"] == "No text service is connected."
    connect(OPERATOR, "shop", "text", "http://data.shop.example/text", "wrong", False, False)
    assert "does not accept the token" in call(signed_in, "POST", path, 409, task="outline")["detail"]
    connect(OPERATOR, "shop", "text", "http://data.shop.example/text", TOKEN, False, False)
    result = call(signed_in, "POST", path, task="paragraph", term="wide tyres")
    assert "no language model" in result["by"]
    assert call(signed_in, "POST", path, task="outline")["proposals"][0]["text"] == "How to load it"
    # What the service is reported can be changed for the site, and goes back to the product's own words.
    put = signed_in.put("/api/sites/shop/help", {"task": "titles", "text": "Be short."}, "application/json").json()
    assert put["instructions"]["titles"] == "Be short."
    assert put["connected"] is True
    put = signed_in.put("/api/sites/shop/help", {"task": "titles", "text": ""}, "application/json").json()
    assert put["instructions"]["titles"].startswith("Propose titles")
    for how, words in (({"fail": 1}, "answered 503"), ({"nonsense": 1}, "cannot be read"), ({"refuse": 1}, "answered 429")):
        standins.behave(**how)
        assert words in call(signed_in, "POST", path, 409, task="titles")["detail"]
    monkeypatch.setattr(text_service, "ANSWER_SECONDS", 0.3)
    standins.behave(stall=1, stall_seconds=2)
    assert "did not answer in time" in call(signed_in, "POST", path, 409, task="titles")["detail"]
    standins.behave()
    for _ in range(text_service.AT_ONCE):
        text_service._turns.acquire()
    try:
        assert call(signed_in, "POST", path, 503, task="titles")["detail"].startswith("The text service is busy")
    finally:
        for _ in range(text_service.AT_ONCE):
            text_service._turns.release()
    assert call(signed_in, "GET", f"/{draft['id']}") == before  # nothing entered the draft by itself


def test_the_service_that_ships_says_only_what_it_was_given() -> None:
    sentences = [
        "A canoe cart carries the boat over land.",
        "Wide tyres roll on sand.",
        "A steel strap holds the canoe on its cart.",
    ]
    asked = {
        "query": "canoe cart", "letters": 290, "terms": ["steel strap", "wide tyres"], "questions": ["how to fold it"],
        "passages": [{"text": " ".join(sentences), "source": "https://a.example/"}],
    }  # fmt: skip
    answer = propose({**asked, "task": "short answer"})
    assert "no language model" in answer["by"]
    assert answer["proposals"] == [sentences[0], sentences[2]]
    assert propose({**asked, "task": "paragraph", "term": "steel straps"})["proposals"] == [sentences[2]]
    assert propose({**asked, "task": "outline"})["proposals"] == ["How to fold it", "Steel strap", "Wide tyres"]
    assert propose({**asked, "task": "titles", "letters": 60})["proposals"] == ["Canoe cart: steel strap, wide tyres"]
    assert propose({**asked, "task": "descriptions", "letters": 60})["proposals"][0] in sentences
    assert propose({**asked, "task": "short answer", "passages": []})["proposals"] == []
    assert propose({"task": "poem"})["proposals"] == []
