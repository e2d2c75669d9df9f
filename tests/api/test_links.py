"""Links over HTTP: a page's file, suggestions accepted or refused by several people, the work list as a document, and the
result of the next crawl.
"""

import io
from collections.abc import Callable
from typing import Any

import docx
import polars as pl
import pytest
from django.contrib.auth.models import User
from django.test import Client

from tests.conftest import keep
from tests.findings.links_site import SITE, Planted, phrase, plant
from zugzwang.core.facts.grains import PAGE_LINKS
from zugzwang.data.models import Membership, Move, PlannedLink, Site

Decide = Callable[..., Any]


@pytest.fixture
def planted(site: Site) -> Planted:
    return plant(site)


def got(client: Client, path: str, **asked: object) -> dict[str, Any]:
    answer = client.get(f"/api/sites/shop/{path}", asked)
    assert answer.status_code == 200, answer.content
    return answer.json()  # type: ignore[no-any-return]


def decide(client: Client, links: list[dict[str, Any]], choice: str, note: str = "") -> Any:
    result = [
        {"source": one["from_id"], "target": one["to_id"], "anchor": one["anchor"], "seen": one["choice"]} for one in links
    ]
    values = {"links": result, "choice": choice, "note": note}
    return client.post("/api/sites/shop/planned-links", values, content_type="application/json")


def test_links_are_taken_refused_and_found_set_by_what_is_read_next(signed_in: Client, site: Site, planted: Planted) -> None:
    target = min(planted.short) + 1
    file = got(signed_in, f"links/{target}")
    assert file["finding"]["action"] == "needs links"
    assert file["authority_after"] > file["finding"]["authority_share"]
    assert {row["to_id"] for row in file["plan"]} == {target}
    three, more = file["plan"][:3], file["plan"][3:4]
    assert decide(signed_in, three, "accepted").status_code == 200
    assert decide(signed_in, three, "accepted").status_code == 200  # pressed twice
    # One move for each page to edit; it says the links, and is found again next to them.
    moves = Move.objects.filter(site=site, finding="suggested-links")
    assert {move.page_id for move in moves} == {one["from_id"] for one in three}
    assert f"“{phrase(target - 1)}” to /p{target - 1}/" in moves[0].reason

    refused = decide(signed_in, more, "refused")
    assert (refused.status_code, refused.json()["detail"]) == (422, "Refusing a link needs a reason.")
    assert decide(signed_in, more, "refused", "It is about another river.").status_code == 200
    plan = {(row["from_id"], row["to_id"]): row for row in got(signed_in, f"links/{target}")["plan"]}
    assert plan[more[0]["from_id"], target]["note"] == "It is about another river."
    assert got(signed_in, "findings/suggested-links")["by_choice"]["refused"] == 1

    document = signed_in.get("/api/sites/shop/accepted-links/document")
    frame = "\n".join(paragraph.text for paragraph in docx.Document(io.BytesIO(document.content)).paragraphs)
    assert all(one["from"].removeprefix(SITE) in frame for one in three)
    assert frame.count(phrase(target - 1)) >= 3

    waits = file["plan"][4]
    assert decide(signed_in, [waits], "accepted").status_code == 200
    # A table of links that is loaded later: the first was set, the second with other words, the third was not.
    assert {row["state"] for row in got(signed_in, "findings/accepted-links")["rows"]} == {"waiting"}
    site.refresh_from_db()
    set_now = [(three[0]["from"], three[0]["anchor"]), (three[1]["from"], "see this")]
    rows = [(page, f"{SITE}/p{target - 1}/", anchor, True, True) for page, anchor in set_now]
    rows.append((three[2]["from"], f"{SITE}/list/1/", "elsewhere", True, True))
    table = pl.DataFrame(rows, schema=PAGE_LINKS.schema.names(), orient="row")
    keep(site, table, grain=PAGE_LINKS)
    work = {row["from_id"]: row for row in got(signed_in, "findings/accepted-links")["rows"]}
    assert [work[one["from_id"]]["state"] for one in three] == ["set", "set otherwise", "missing"]
    assert work[three[1]["from_id"]]["found_anchor"] == "see this"
    assert work[waits["from_id"]]["state"] == "waiting"  # the table says nothing of that page

    assert decide(signed_in, [{**three[2], "choice": "accepted"}], "open").status_code == 200
    assert Move.objects.get(page_id=three[2]["from_id"], finding="suggested-links").dropped_at is not None
    assert PlannedLink.objects.filter(choice="accepted").count() == 3


def test_two_people_and_a_reader(signed_in: Client, site: Site, planted: Planted) -> None:
    first = got(signed_in, f"links/{min(planted.short) + 1}")["plan"][:2]
    other, reader = Client(), Client()
    for client, name, role in ((other, "other", "analyst"), (reader, "reader", "reader")):
        user = User.objects.create_user(name, password="a long password")
        Membership.objects.create(site=site, user=user, role=role)
        client.force_login(user)
    assert decide(reader, first, "accepted").status_code == 403
    assert decide(other, first[:1], "refused", "Not there.").status_code == 200
    # Neither of the two is taken: the first was refused in the meantime, and who did it is said.
    late = decide(signed_in, first, "accepted")
    assert late.status_code == 409
    assert "other has decided in the meantime: this link is refused" in late.json()["detail"]
    assert not PlannedLink.objects.filter(choice="accepted").exists()
    nowhere = decide(signed_in, [{**first[0], "to_id": 99_999}], "accepted")
    assert nowhere.status_code == 404
