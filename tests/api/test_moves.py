"""Moves, decisions and views over HTTP: made, edited by two people, measured, exported."""

import csv
import io
import json
from datetime import date

import icalendar
import pytest
from django.contrib.auth.models import User
from django.test import Client

from tests.planted import PlantedSite
from zugzwang.data.models import Membership, Site

URL = "/api/sites/shop/moves"
FILE = "/api/sites/shop/findings/moves/file"


@pytest.fixture
def row(signed_in: Client, planted: PlantedSite) -> dict[str, object]:
    return signed_in.get("/api/sites/shop/findings/low-ctr?evidence=firm").json()["rows"][0]


def made(client: Client, row: dict[str, object], **fields: object) -> dict[str, object]:
    values = {"subjects": [subject(row)], "kind": "rewrite", "effort": "hour", **fields}
    answer = client.post(f"{URL}?finding=low-ctr", values, "application/json")
    assert answer.status_code == 201, answer.content
    return answer.json()[0]  # type: ignore[no-any-return]


def subject(row: dict[str, object]) -> dict[str, object]:
    return {"page": row["page_id"], "query": row["query_id"]}


def test_a_row_becomes_a_move_with_the_gain_that_the_list_tells(signed_in: Client, row: dict[str, object]) -> None:
    values = {"subjects": [subject(row)]}
    proposal = signed_in.post(f"{URL}/proposal?finding=low-ctr", values, "application/json").json()
    move = made(signed_in, row, note="Say the sizes.", who="analyst", gain=10**9)
    assert (proposal["kind"], signed_in.get("/api/sites/shop/people").json()) == ("rewrite", ["analyst"])
    assert move["gain"] == pytest.approx(proposal["gain"])  # reported by the server, whatever is sent
    assert move["gain"] == pytest.approx(row["opportunity_month"], rel=0.5)
    marks = signed_in.get("/api/sites/shop/marks").json()
    assert [(one["page"], one["query"], one["word"], one["by"]) for one in marks] == [
        (row["page_id"], row["query_id"], "to do", "analyst")
    ]
    left = signed_in.get("/api/sites/shop/findings/low-ctr?decided=open").json()
    assert (row["page_id"], row["query_id"]) not in {(one["page_id"], one["query_id"]) for one in left["rows"]}


def test_a_change_that_would_overwrite_says_which_field(signed_in: Client, row: dict[str, object], site: Site) -> None:
    move = made(signed_in, row)
    other = Client()
    user = User.objects.create_user("other")
    Membership.objects.create(site=site, user=user)
    other.force_login(user)
    url = f"{URL}/{move['id']}"
    assert other.patch(url, {"seen": 1, "note": "theirs"}, "application/json").status_code == 200
    refused = signed_in.patch(url, {"seen": 1, "note": "mine"}, "application/json")
    assert refused.status_code == 409
    assert [one["field"] for one in refused.json()["fields"]] == ["note"]
    result = signed_in.get(url).json()
    assert (result["note"], result["history"][0]["by"]) == ("theirs", "other")
    too_early = signed_in.post(f"{url}/outcome", {}, "application/json")
    assert (too_early.status_code, too_early.json()["remedy"][:20]) == (409, "Say when it was done")
    assert signed_in.post(f"{URL}/dropped", {"ids": [move["id"]]}, "application/json").status_code == 204
    assert signed_in.get(url).json()["dropped"]
    assert signed_in.patch(url, {"seen": 2, "note": "x"}, "application/json").status_code == 404
    assert signed_in.post(f"{url}/restore").json()["note"] == "theirs"


def test_moves_leave_as_files_with_what_made_them(signed_in: Client, row: dict[str, object]) -> None:
    made(signed_in, row, note="=1+1")
    result = list(csv.DictReader(io.StringIO(signed_in.get(FILE).content.decode("utf-8-sig"))))
    assert result[0]["note"] == "'=1+1"
    assert json.loads(result[0]["filters"])["state"] == ""
    assert signed_in.get(f"{FILE}?format=xlsx").content[:2] == b"PK"
    assert signed_in.get(f"{FILE}?format=json&state=done").json()["rows"] == []


def test_moves_leave_as_todos_of_a_calendar(signed_in: Client, row: dict[str, object]) -> None:
    """RFC 5545, read with the icalendar package."""
    move = made(signed_in, row, note="Say the sizes;\nand the colours", due="2026-12-24")
    answer = signed_in.get(f"{URL}/calendar")
    assert answer["Content-Type"].startswith("text/calendar")
    (todo,) = icalendar.Calendar.from_ical(answer.content).walk("VTODO")
    assert todo["summary"] == f"Rewrite title and description: “{row['query']}” on {row['page']}"
    assert (str(todo["status"]), todo["due"].dt, str(todo["url"])) == ("NEEDS-ACTION", date(2026, 12, 24), row["page"])
    assert "Say the sizes;\nand the colours" in todo["description"]
    done = {"seen": 1, "state": "done", "made_on": "2026-11-09"}
    assert signed_in.patch(f"{URL}/{move['id']}", done, "application/json").status_code == 200
    (todo,) = icalendar.Calendar.from_ical(signed_in.get(f"{URL}/calendar").content).walk("VTODO")
    assert (str(todo["status"]), todo["completed"].dt.date()) == ("COMPLETED", date(2026, 11, 9))
    left = {"seen": 2, "state": "dismissed"}
    assert signed_in.patch(f"{URL}/{move['id']}", left, "application/json").status_code == 200
    assert icalendar.Calendar.from_ical(signed_in.get(f"{URL}/calendar").content).walk("VTODO") == []


def test_views_are_kept_under_a_name_and_lead_nowhere_else(signed_in: Client, site: Site) -> None:
    def save(name: str, address: str) -> int:
        return signed_in.post("/api/sites/shop/views", {"name": name, "address": address}, "application/json").status_code

    for place in ("data", "changes", "pages", "queries", "clashes", "on-page", "links", "topics", "drafts", "moves"):
        assert save(place, f"{place}?text=x") == 201
        assert (
            signed_in.delete(f"/api/sites/shop/views/{signed_in.get('/api/sites/shop/views').json()[0]['id']}").status_code
            == 204
        )
    assert save("Guides", "pages?section=%2Fguides%2F") == 201
    assert save(" Guides ", "pages?section=%2Fguides%2F&sort=clicks") == 201  # the same name is the same view
    assert [save("x", bad) for bad in ("//evil.example", "javascript:alert(1)", "pages#x", "../admin", "")] == [422] * 5
    views = signed_in.get("/api/sites/shop/views").json()
    assert [(one["name"], one["address"], one["by"]) for one in views] == [
        ("Guides", "pages?section=%2Fguides%2F&sort=clicks", "analyst")
    ]
    assert signed_in.delete(f"/api/sites/shop/views/{views[0]['id']}").status_code == 204
    assert signed_in.delete(f"/api/sites/shop/views/{views[0]['id']}").status_code == 404
