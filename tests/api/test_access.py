"""Permissions for every route, and the format of errors."""

import json
import re
from pathlib import Path
from typing import Any

import pytest
from django.contrib.auth.models import User
from django.test import Client
from django.utils import timezone

from zugzwang.access import Actor
from zugzwang.api.routes import api
from zugzwang.cli.management.commands.openapi import FILES, METHODS, made
from zugzwang.core.facts.cleaning import Rules
from zugzwang.data.models import Membership, Site
from zugzwang.data.rules import as_json
from zugzwang.people.tokens import add_token

SCHEMA = api.get_openapi_schema(path_prefix="/api/")
SITE_CALLS = [
    (method.upper(), path)
    for path, calls in SCHEMA["paths"].items()
    for method in calls
    if path.startswith("/api/sites/{slug}")
]
BODIES = {
    "/api/sites": {"name": "New", "address": "https://new.example", "slug": "new"},
    "/api/account/password": {"password": "a long password", "new_password": "a longer password"},
    "/api/account/email": {"password": "a long password", "email": "new@desk.example"},
    "/api/account/second-factor": {"password": "a long password", "secret": "A" * 32, "code": "123456"},
    "/api/account/second-factor/end": {"password": "a long password"},
    "/api/account/tokens": {"name": "Mine", "sites": ["shop"], "role": "reader", "ends_on": "2099-01-01"},
    "/api/sites/{slug}/planned-links": {"links": [{"source": 1, "target": 2}], "choice": "accepted"},
    "/api/sites/{slug}/topics": {"kind": "join", "queries": [1, 2]},
    "/api/sites/{slug}/drafts": {"query": 1},
    "/api/sites/{slug}/drafts/{draft_id}": {"name": "A draft", "window": "window-1", "seen": 1, "base": {}},
    "/api/sites/{slug}/drafts/{draft_id}/writer": {"window": "window-1"},
    "/api/sites/{slug}/drafts/{draft_id}/writer/gone": {"window": "window-1"},
    "/api/sites/{slug}/drafts/{draft_id}/versions": {"window": "window-1", "version": 1},
    "/api/sites/{slug}/drafts/{draft_id}/check": {},
    "/api/sites/{slug}/drafts/{draft_id}/done": {"on": "2026-11-09"},
    "/api/sites/{slug}/drafts/{draft_id}/help": {"task": "outline"},
    "/api/sites/{slug}/help": {"task": "outline"},
    "/api/sites/{slug}/trials": {"subjects": [{"page": 1}], "change": "Titles", "first_day": "2026-11-09"},
    "/api/sites/{slug}/trials/plan": {"subjects": [{"page": 1}], "first_day": "2026-11-09"},
    "/api/sites/{slug}/trials/{trial_id}/out": {"page": 1, "why": "A campaign"},
    "/api/sites/{slug}/reports/templates": {"name": "Monthly"},
    "/api/sites/{slug}/reports/templates/{template_id}": {"name": "Monthly", "seen": 1},
    "/api/sites/{slug}/reports/preview": {"name": "Monthly"},
    "/api/sites/{slug}/reports/templates/{template_id}/make": {},
    "/api/sites/{slug}/reports/{report_id}/links": {"ends_on": "2026-12-31"},
    "/api/sites/{slug}/reports/{report_id}/send": {"recipients": ["desk@desk.example"]},
    "/api/sites/{slug}/invitations": {"email": "new@desk.example", "role": "reader"},
    "/api/sites/{slug}/members/{member_id}": {"role": "reader"},
    "/api/sites/{slug}/name": {"name": "Shop"},
    "/api/sites/{slug}/address": {"address": "https://new.example"},
    "/api/sites/{slug}": {"min_impressions": 5},
    "/api/sites/{slug}/loads": {"upload": "0" * 32, "mapping": {}},
    "/api/sites/{slug}/jobs/{job_id}/again": {},
    "/api/sites/{slug}/connections/{source}": {"address": "https://data.shop.example"},
    "/api/sites/{slug}/events": {"first_day": "2026-11-09", "title": "An update"},
    "/api/sites/{slug}/decisions": {"subjects": [{"query": 1}], "choice": "unite"},
    "/api/sites/{slug}/clashes/settle": {"queries": [1], "choice": "unite"},
    "/api/sites/{slug}/moves": {"subjects": [{"page": 1}], "moves": [{"id": 1, "seen": 1}]},  # to make some, to change some
    "/api/sites/{slug}/moves/proposal": {"subjects": [{"page": 1}]},
    "/api/sites/{slug}/moves/{move_id}": {"seen": 1},
    "/api/sites/{slug}/moves/dropped": {"ids": [1]},
    "/api/sites/{slug}/decisions/taken-back": {"ids": [1]},
    "/api/sites/{slug}/views": {"name": "Guides", "address": "pages"},
    "/api/sites/{slug}/rules": as_json(Rules()),
    "/api/sites/{slug}/rules/effect": as_json(Rules()),
}
# Asked by POST because what they ask is long.
ONLY_LOOKS = [
    "/api/sites/{slug}/rules/effect",
    "/api/sites/{slug}/moves/proposal",
    "/api/sites/{slug}/drafts/{draft_id}/check",
    "/api/sites/{slug}/trials/plan",
    "/api/sites/{slug}/reports/preview",
    "/api/sites/{slug}/members/{member_id}",  # your own: a site can be left
]


def call(client: Client, method: str, path: str, slug: str):  # type: ignore[no-untyped-def]
    ids = "job|load|event|change|page|decision|query|move|view|edit|draft|trial|template|report|link|mail|invitation"
    member = Membership.objects.order_by("id").values_list("id", flat=True).first()
    address = path.replace("{slug}", slug).replace("{member_id}", str(member or 1))
    address = re.sub(rf"\{{({ids})_id\}}", "1", address)
    address = address.replace("{source}", "visits").replace("{one}", "0").replace("{other}", "1")
    if "/rows/" in path or path.endswith("/field"):
        address += "?lens=low-ctr"
    if path.endswith(("/uploads", "/logo", "/site-archives")) and method == "POST":
        from django.core.files.uploadedfile import SimpleUploadedFile

        return client.post(address, {"file": SimpleUploadedFile("facts.csv", b"a,b\n1,2\n")})
    return client.generic(
        method, address, data=b"" if method == "GET" else _json(BODIES.get(path, {})), content_type="application/json"
    )


def _json(value: object) -> bytes:
    import json

    return json.dumps(value).encode()


def assert_problem(response, status: int) -> None:  # type: ignore[no-untyped-def]
    assert response.status_code == status, response.content
    assert response["Content-Type"] == "application/problem+json"
    assert set(response.json()) == {"type", "title", "status", "detail", "remedy", "fields", "problems"}
    assert response.json()["status"] == status


def test_there_are_calls_to_guard() -> None:
    assert len(SITE_CALLS) >= 13


@pytest.mark.parametrize(("method", "path"), SITE_CALLS)
def test_a_site_of_others_does_not_exist(method: str, path: str, signed_in: Client, analyst: User) -> None:
    Site.objects.create(slug="others", name="Others", address="https://others.example")
    assert_problem(call(signed_in, method, path, "others"), 404)


@pytest.mark.parametrize(("method", "path"), SITE_CALLS)
def test_nobody_enters_unsigned(method: str, path: str, client: Client, site: Site) -> None:
    assert_problem(call(client, method, path, site.slug), 401)


@pytest.mark.parametrize(
    ("method", "path"), [one for one in SITE_CALLS if one[0] != "GET" and "{job_id}" not in one[1] and one[1] not in ONLY_LOOKS]
)
def test_a_reader_changes_nothing(method: str, path: str, signed_in: Client, analyst: User, site: Site) -> None:
    Membership.objects.filter(user=analyst).update(role=Membership.Role.READER)
    assert_problem(call(signed_in, method, path, site.slug), 403)


# What owners alone decide, and persons alone: a script with a token never does.
OWNERS_ALONE = {
    ("POST", "/api/sites/{slug}/invitations"), ("DELETE", "/api/sites/{slug}/invitations/{invitation_id}"),
    ("PATCH", "/api/sites/{slug}/members/{member_id}"), ("PATCH", "/api/sites/{slug}/name"),
    ("PATCH", "/api/sites/{slug}/address"),
    ("POST", "/api/sites/{slug}/archive"), ("DELETE", "/api/sites/{slug}/archive"), ("DELETE", "/api/sites/{slug}"),
    ("GET", "/api/sites/{slug}/archive/file"), ("GET", "/api/sites/{slug}/audit"), ("GET", "/api/sites/{slug}/audit/file"),
}  # fmt: skip
NO_SCRIPT = {*OWNERS_ALONE, ("DELETE", "/api/sites/{slug}/members/{member_id}")}


def token_client(user: User, site: Site, role: str) -> Client:
    made, secret = add_token(Actor(user), role, [site.slug], role, timezone.localdate())
    assert made.role == role
    return Client(headers={"Authorization": f"Bearer {secret}"})


@pytest.mark.parametrize(("method", "path"), SITE_CALLS)
def test_each_may_what_it_may(method: str, path: str, client: Client, analyst: User, site: Site) -> None:
    """Every route as an analyst and with an owner's tokens (full and read-only). Allowed requests return neither 401 nor 403;
    others return 403; another site does not exist for anyone.
    """
    owner = User.objects.create_user("owner", password="a long password")
    Membership.objects.create(site=site, user=owner, role=Membership.Role.OWNER)
    other = Site.objects.create(slug="others", name="Others", address="https://others.example")
    Membership.objects.create(site=other, user=owner, role=Membership.Role.OWNER)
    changes = method != "GET" and path not in ONLY_LOOKS
    writing, reading = (token_client(owner, site, role) for role in ("analyst", "reader"))
    for script in (writing, reading):  # its person may see the other site; it may not
        assert_problem(call(script, method, path, "others"), 404)
    if (method, path) in NO_SCRIPT:
        assert_problem(call(writing, method, path, site.slug), 403)
    if changes or (method, path) in NO_SCRIPT:
        assert_problem(call(reading, method, path, site.slug), 403)
    else:
        assert call(reading, method, path, site.slug).status_code not in (401, 403)
    if (method, path) not in NO_SCRIPT:
        assert call(writing, method, path, site.slug).status_code not in (401, 403)
    client.force_login(analyst)
    allowed = call(client, method, path, site.slug).status_code
    assert (allowed == 403) == ((method, path) in OWNERS_ALONE), allowed


OTHER_CALLS = [
    (method.upper(), path)
    for path, calls in SCHEMA["paths"].items()
    for method in calls
    if not path.startswith("/api/sites/{slug}")
]
# Signing in, and what comes by mail: whoever has the secret is let in.
FOR_ANYBODY = {
    ("GET", "/api/session"), ("POST", "/api/session"), ("POST", "/api/account/reset"), ("PUT", "/api/account/reset"),
    ("GET", "/api/invitations/{token}"), ("POST", "/api/invitations/{token}"),
    ("POST", "/api/account/email/proofs/{token}"),
}  # fmt: skip
FOR_SCRIPTS = {
    ("GET", "/api/sites"), ("GET", "/api/portfolio"), ("POST", "/api/refresh"), ("GET", "/api/methods"),
    ("GET", "/api/guide"),
    ("DELETE", "/api/session"), ("GET", "/api/deleted-sites"), ("POST", "/api/deleted-sites/{slug}/restore"),
}  # fmt: skip


@pytest.mark.parametrize(("method", "path"), OTHER_CALLS)
def test_beside_sites_nobody_enters_unsigned_and_a_script_is_no_person(
    method: str, path: str, client: Client, analyst: User, site: Site
) -> None:
    filled = path.replace("{token}", "none").replace("{token_id}", "1").replace("{session_id}", "1")
    status = call(client, method, filled, site.slug).status_code
    assert (status == 401) == ((method, path) not in FOR_ANYBODY), status
    script = call(token_client(analyst, site, "analyst"), method, filled, site.slug)
    if (method, path) not in FOR_ANYBODY | FOR_SCRIPTS:
        assert_problem(script, 403)
    elif (method, path) in FOR_SCRIPTS:
        assert script.status_code not in (401, 403), script.status_code


def test_a_change_needs_the_token_of_our_own_page(analyst: User, site: Site) -> None:
    client = Client(enforce_csrf_checks=True)
    client.force_login(analyst)
    assert_problem(call(client, "PATCH", "/api/sites/{slug}", site.slug), 403)
    token = client.get("/api/session").cookies["csrftoken"].value
    sent = client.patch(f"/api/sites/{site.slug}", {"min_impressions": 7}, "application/json", headers={"X-CSRFToken": token})
    assert sent.json()["min_impressions"] == 7


def test_wrong_passwords_are_told_and_then_locked_out(client: Client, analyst: User) -> None:
    wrong = {"username": "analyst", "password": "no"}
    for _ in range(9):
        assert_problem(client.post("/api/session", wrong, "application/json"), 401)
    client.post("/api/session", wrong, "application/json")
    right = {"username": "analyst", "password": "a long password"}
    assert_problem(client.post("/api/session", right, "application/json"), 429)


def test_unknown_calls_and_broken_bodies_answer_in_the_one_shape(signed_in: Client, site: Site) -> None:
    assert_problem(signed_in.get("/api/nothing/here"), 404)
    assert_problem(signed_in.post("/api/sites", b"{broken", "application/json"), 400)
    assert_problem(signed_in.get(f"/api/sites/{site.slug}/findings/low-ctr?target=guess"), 422)
    assert_problem(signed_in.get(f"/api/sites/{site.slug}/findings/low-ctr"), 404)  # no data yet


def test_every_other_address_is_the_application_with_strict_scripts(client: Client) -> None:
    answer = client.get("/shop/queries?lens=low-ctr")
    assert b'<div id="root">' in answer.content
    policy = answer["Content-Security-Policy"]
    assert "default-src 'self'" in policy
    assert "script-src" not in policy
    assert "unsafe-eval" not in policy


CHANGING = [(method.upper(), path) for path, calls in SCHEMA["paths"].items() for method in calls if method != "get"]


@pytest.mark.parametrize(("method", "path"), CHANGING)
def test_no_other_site_makes_somebody_change_anything(method: str, path: str, analyst: User, site: Site) -> None:
    """Every changing route, with the session's cookie, as a form or a script of another site can send it."""
    client = Client(enforce_csrf_checks=True)
    client.force_login(analyst)
    address = re.sub(r"\{\w+\}", "1", path.replace("{slug}", site.slug))
    body = json.dumps(BODIES.get(path, {}))
    there = {"Origin": "https://evil.example"}
    for kind, headers in (
        ("text/plain", there), ("application/json", there), ("text/plain", {}), ("application/x-www-form-urlencoded", {}),
        ("application/json", {"Origin": "null"}), ("application/json", {"Sec-Fetch-Site": "cross-site"}),
    ):  # fmt: skip
        answer = client.generic(method, address, body, content_type=kind, headers=headers)
        assert_problem(answer, 403)
    assert site.name == Site.objects.get(id=site.id).name


def test_a_method_that_nobody_knows_is_no_label_of_its_own(client: Client, db: None, settings: Any) -> None:
    settings.METRICS = True
    client.generic("X" * 50, "/api/session")
    assert "XXXX" not in client.get("/metrics").content.decode()


@pytest.mark.parametrize("path", [FILES, METHODS], ids=lambda path: path.name)
def test_what_the_docs_list_of_the_declarations_is_current(path: Path) -> None:
    assert path.read_text(encoding="utf-8") == made()[path], "run `make schema`"


def test_each_operation_has_an_id_a_tag_and_a_summary_and_shares_its_parameters() -> None:
    operations = [one for path in SCHEMA["paths"].values() for one in path.values()]
    assert len({one["operationId"] for one in operations}) == len(operations) > 200
    assert [
        one["operationId"] for one in operations if not one["summary"] or not one["tags"] or "zugzwang" in one["operationId"]
    ] == []
    assert [one["operationId"] for one in operations if any("$ref" not in each for each in one.get("parameters", []))] == []
    assert len(SCHEMA["components"]["parameters"]) < 100


def test_every_setting_is_documented() -> None:
    from zugzwang.settings import OPTIONS

    text = (Path(__file__).parents[2] / "docs/settings.md").read_text()
    assert set(re.findall(r"`(ZUGZWANG_\w+)`", text)) == set(OPTIONS)
