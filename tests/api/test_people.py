"""People over HTTP: members and roles, one-time invitations, API tokens, one's own account, the activity log."""

import io
import json
import re
import time
import zipfile
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import pytest
from allauth.mfa.totp.internal.auth import format_hotp_value, hotp_value, yield_hotp_counters_from_time
from allauth.usersessions.models import UserSession
from django.contrib.auth.models import User
from django.contrib.sessions.backends.db import SessionStore
from django.core import mail
from django.core.cache import cache
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from zugzwang.access import OPERATOR
from zugzwang.api import sign_in as sign_in_api
from zugzwang.bounded import Turns
from zugzwang.data.models import AuditEntry, Invitation, Membership, PersonalToken, Report, ReportTemplate, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.data.sweeping import sweep
from zugzwang.intake import jobs
from zugzwang.intake.connections import connect
from zugzwang.intake.loading import load_file
from zugzwang.people import accounts, members
from zugzwang.people import mail as people_mail
from zugzwang.plan.reports import Template, add_template, link_to, path_to

Call = Callable[..., Any]
Role = Membership.Role
OLD, NEW = "a long password", "another long password"


@pytest.fixture(autouse=True)
def nobody_asked_yet(db: None) -> None:
    cache.clear()


@pytest.fixture
def owner(site: Site, analyst: User) -> User:
    Membership.objects.filter(user=analyst).update(role=Role.OWNER)
    return analyst


def ask(client: Client, method: str, path: str, expected: int = 200, headers: dict[str, str] | None = None, **body: Any) -> Any:
    answer = client.generic(method, f"/api{path}", json.dumps(body), content_type="application/json", headers=headers)
    assert answer.status_code == expected, (method, path, answer.status_code, answer.content)
    return answer.json() if answer.content and "json" in answer["Content-Type"] else answer.content.decode()


def posted() -> list[Any]:
    """The mails sent so far, including those a worker still had to send."""
    for one in DBTaskResult.objects.filter(task_path=people_mail.send.module_path, status="READY").order_by("enqueued_at"):
        people_mail.send.func(*one.args_kwargs["args"])
        one.delete()
    return mail.outbox


def member(site: Site, name: str, role: str = Role.READER) -> tuple[User, Client]:
    user = User.objects.create_user(name, email=f"{name}@desk.example", password=OLD)
    Membership.objects.create(site=site, user=user, role=role)
    client = Client()
    client.force_login(user)
    return user, client


# --- members and invitations ----------------------------------------------------------------------------------------------


def test_a_refused_mail_is_retried_and_reported(
    signed_in: Client, owner: User, settings: Any, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    """Before, it vanished. The mail server refuses it twice, then accepts it."""
    settings.MAIL_READY = True
    answers = iter([OSError("away"), OSError("away"), None])

    def sends(*mail: object) -> None:
        if (error := next(answers)) is not None:
            raise error

    monkeypatch.setattr(people_mail, "send_mail", sends)

    def invitation() -> dict:  # type: ignore[type-arg]
        return ask(signed_in, "GET", "/sites/shop/members", 200)["invitations"][0]

    ask(signed_in, "POST", "/sites/shop/invitations", 201, email="new@desk.example", role="analyst")
    for attempt in (0, 1, 2):
        waiting = DBTaskResult.objects.filter(task_path=people_mail.send.module_path, status="READY")
        task = waiting.order_by("-enqueued_at").first()
        assert task is not None
        arguments = task.args_kwargs["args"]
        assert arguments[2:3] == ([attempt] if attempt else [])
        waiting.delete()
        people_mail.send.func(*arguments)
        assert invitation()["mail_failed"] == (attempt < 2)
    assert not DBTaskResult.objects.filter(task_path=people_mail.send.module_path, status="READY").exists()
    assert caplog.text.count("The mail server refused a mail") == 2


def test_a_retry_reaches_only_the_addresses_that_were_refused(
    site: Site, settings: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Two recipients; the server accepts one mail and refuses the other."""
    settings.MAIL_READY = True
    for name, email in (("ann", "ann@desk.example"), ("other", "ann")):
        User.objects.create_user(name, email=email, password=OLD)
    sent: list[str] = []

    def sends(subject: str, text: str, sender: str, to: list[str]) -> None:
        sent.append(to[0])
        if to[0] == "ann" and sent.count("ann") == 1:
            raise OSError("mailbox is busy")

    monkeypatch.setattr(people_mail, "send_mail", sends)
    people_mail.send.func("reset", {"name": "ann"})
    assert sorted(sent) == ["ann", "ann@desk.example"]
    (task,) = DBTaskResult.objects.filter(task_path=people_mail.send.module_path, status="READY")
    people_mail.send.func(*task.args_kwargs["args"])
    assert sorted(sent) == ["ann", "ann", "ann@desk.example"]


def test_an_invitation_works_once_for_whoever_has_it(signed_in: Client, owner: User, site: Site, settings: Any) -> None:
    settings.MAIL_READY, settings.ADDRESS = True, "https://seo.shop.example"
    result = ask(signed_in, "POST", "/sites/shop/invitations", 201, email="new@desk.example", role="analyst")
    (invitation,) = result["invitations"]
    assert not mail.outbox  # the answer does not wait for the mail server
    (sent,) = posted()
    assert sent.to == ["new@desk.example"]
    (proof,) = re.findall(rf"https://seo.shop.example{invitation['path']}\?proved=(\S+)", sent.body)
    token = invitation["path"].removeprefix("/invitation/")
    assert token not in json.dumps(list(Invitation.objects.values("digest", "token")))
    stranger = Client()
    assert ask(stranger, "GET", f"/invitations/{token}")["site"] == "Shop"
    ask(stranger, "POST", f"/invitations/{token}", 422, username="newcomer", password="short")
    ask(stranger, "POST", f"/invitations/{token}", 422, username="analyst", password=NEW)  # taken by another
    joined = ask(stranger, "POST", f"/invitations/{token}", username="newcomer", password=NEW, proof=proof)
    assert joined == {"slug": "shop"}
    assert ask(stranger, "GET", "/session")["username"] == "newcomer"
    assert ask(stranger, "GET", "/sites/shop")["may_change"] is True
    assert User.objects.get(username="newcomer").email == "new@desk.example"
    # Someone who joins with an existing account keeps its mail address: the invitation's address does not replace it.
    other = Client()
    other.force_login(User.objects.create_user("other", password=OLD))
    again = ask(signed_in, "POST", "/sites/shop/invitations", 201, email="evil@desk.example", role="reader")["invitations"][0]
    ask(other, "POST", again["path"].replace("/invitation/", "/invitations/"))
    assert User.objects.get(username="other").email == ""
    # A forwarded link proves nothing about the mail address, so the person is asked for it.
    handed = ask(signed_in, "POST", "/sites/shop/invitations", 201, email="a@desk.example", role="reader")["invitations"][0]
    there = handed["path"].replace("/invitation/", "/invitations/")
    ask(Client(), "POST", there, username="handed", password=NEW, proof=proof)
    assert User.objects.get(username="handed").email == ""
    assert (posted()[-1].to, posted()[-1].subject) == (["a@desk.example"], "Is this your address?")
    for path in (token, token[:-1], "x"):
        ask(Client(), "GET", f"/invitations/{path}", 404)
    ask(signed_in, "POST", "/sites/shop/invitations", 422, email="NEW@desk.example", role="reader")  # a member by now
    # Revoked, replaced by a second one, or past its day, none works.
    first = ask(signed_in, "POST", "/sites/shop/invitations", 201, email="b@desk.example", role="reader")["invitations"][0]
    second = ask(signed_in, "POST", "/sites/shop/invitations", 201, email="b@desk.example", role="owner")["invitations"][0]
    third = ask(signed_in, "POST", "/sites/shop/invitations", 201, email="c@desk.example", role="owner")["invitations"][0]
    ask(signed_in, "DELETE", f"/sites/shop/invitations/{second['id']}", 204)
    Invitation.objects.filter(id=third["id"]).update(ends_on=date.today() - timedelta(days=1))  # noqa: DTZ011
    for one in (first, second, third):
        ask(stranger, "POST", one["path"].replace("/invitation/", "/invitations/"), 404)


def test_owners_alone_decide_who_sees_a_site(signed_in: Client, owner: User, site: Site) -> None:
    analyst, changing = member(site, "ann", Role.ANALYST)
    _, looking = member(site, "rea")
    result = ask(signed_in, "GET", "/sites/shop/members")
    assert [(one["name"], one["role"]) for one in result["members"]] == [
        ("analyst", "owner"),
        ("ann", "analyst"),
        ("rea", "reader"),
    ]
    ids = {one["name"]: one["id"] for one in result["members"]}
    hidden = ask(looking, "GET", "/sites/shop/members")
    assert [one["email"] for one in hidden["members"]] == ["", "", "rea@desk.example"]
    for client in (changing, looking):
        ask(client, "POST", "/sites/shop/invitations", 403, email="x@desk.example")
        ask(client, "PATCH", f"/sites/shop/members/{ids['rea']}", 403, role="owner")
        ask(client, "DELETE", f"/sites/shop/members/{ids['analyst']}", 403)
        ask(client, "PATCH", "/sites/shop/name", 403, name="Mine")
        ask(client, "POST", "/sites/shop/archive", 403)
        ask(client, "DELETE", "/sites/shop", 403)
        ask(client, "GET", "/sites/shop/audit", 403)
    ask(signed_in, "PATCH", f"/sites/shop/members/{ids['analyst']}", 422, role="reader")  # the last owner
    ask(signed_in, "DELETE", f"/sites/shop/members/{ids['analyst']}", 422)
    ask(signed_in, "PATCH", f"/sites/shop/members/{ids['ann']}", role="owner")
    ask(signed_in, "DELETE", f"/sites/shop/members/{ids['analyst']}", 204)  # one may leave where another owner stays
    ask(signed_in, "GET", "/sites/shop", 404)
    ask(looking, "DELETE", f"/sites/shop/members/{ids['rea']}", 204)
    trail = ask(changing, "GET", "/sites/shop/audit")
    assert [(one["who"], one["what"], one["about"]) for one in trail[:3]] == [
        ("rea", "remove member", "rea"), ("analyst", "remove member", "analyst"), ("analyst", "role", "ann")
    ]  # fmt: skip
    assert analyst.is_active


def test_a_site_is_archived_deleted_and_put_back(signed_in: Client, owner: User, site: Site) -> None:
    ask(signed_in, "PATCH", "/sites/shop/name", 204, name="The shop")
    ask(signed_in, "POST", "/sites/shop/archive", 204)
    assert ask(signed_in, "GET", "/sites/shop")["may_change"] is False
    assert "archived" in ask(signed_in, "PATCH", "/sites/shop", 403, min_impressions=7)["detail"]
    ask(signed_in, "DELETE", "/sites/shop/archive", 204)
    ask(signed_in, "PATCH", "/sites/shop", min_impressions=7)
    reader, looking = member(site, "rea")
    connect(OPERATOR, "shop", "visits", "https://data.shop.example/visits", "", False, True)
    add_template(OPERATOR, "shop", Template("Weekly", schedule="weekly"))
    ReportTemplate.objects.update(begins=date(2026, 1, 1))
    report = Report.objects.create(site=site, name="Weekly", page="<p>ours", made_at=timezone.now())
    read = path_to(link_to(report, timezone.localdate(), OPERATOR))
    assert Client().get(read).status_code == 200
    ask(signed_in, "DELETE", "/sites/shop", 204)
    ask(signed_in, "GET", "/sites/shop", 404)
    assert ask(looking, "GET", "/deleted-sites") == []
    # Nothing goes on by itself, and no address of its reports is read; other sites' nights are not spoilt.
    assert Client().get(read).status_code == 404
    assert (jobs.nightly(timezone.now()), jobs.reports_due(timezone.now())) == (0, 0)
    ask(looking, "POST", "/deleted-sites/shop/restore", 404)
    (gone,) = ask(signed_in, "GET", "/deleted-sites")
    assert (gone["name"], gone["days_left"]) == ("The shop", 30)
    sweep(timezone.now() + timedelta(days=29))  # sessions do not last as long
    signed_in.force_login(owner)
    looking.force_login(reader)
    ask(signed_in, "POST", "/deleted-sites/shop/restore", 204)
    assert ask(looking, "GET", "/sites/shop")["name"] == "The shop"
    ask(signed_in, "DELETE", "/sites/shop", 204)
    sweep(timezone.now() + timedelta(days=31))
    assert not Site.objects.exists()
    # The trail outlives what it is about.
    assert set(AuditEntry.objects.filter(slug="shop").values_list("what", flat=True)) >= {
        "delete site",
        "put site back",
        "archive",
    }


# --- scripts --------------------------------------------------------------------------------------------------------------


def test_a_hundred_sites_is_what_one_person_may_own(
    signed_in: Client, owner: User, site: Site, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("zugzwang.subjects.sites.SITES_MAX", 2)
    seen = Site.objects.create(slug="seen", name="Seen", address="https://seen.example")
    Membership.objects.create(site=seen, user=owner, role=Role.READER)  # those of others do not count

    def add(slug: str, expected: int) -> Any:
        return ask(signed_in, "POST", "/sites", expected, name=slug, address="https://new.example", slug=slug)

    add("second", 201)
    assert add("third", 403)["detail"] == "You own 2 sites, the most that one person can own."
    ask(signed_in, "DELETE", "/sites/second", 204)
    add("third", 201)
    owner.is_superuser = True  # who sees every site of the installation is not kept from adding one
    owner.save()
    add("fourth", 201)


def test_a_token_may_no_more_than_its_person_sites_and_role(signed_in: Client, owner: User, site: Site) -> None:
    other = Site.objects.create(slug="other", name="Other", address="https://other.example")
    Membership.objects.create(site=other, user=owner, role=Role.OWNER)
    until = str(date.today() + timedelta(days=30))  # noqa: DTZ011
    for wrong in ({"sites": []}, {"sites": ["shop"], "role": "owner"}, {"sites": ["shop"], "ends_on": "2035-01-01"}):
        ask(signed_in, "POST", "/account/tokens", 422, **{"name": "Nightly", "ends_on": until, **wrong})
    ask(signed_in, "POST", "/account/tokens", 404, name="Nightly", ends_on=until, sites=["nobody"])
    secrets = {}
    for role in ("reader", "analyst"):
        result = ask(signed_in, "POST", "/account/tokens", 201, name=role, ends_on=until, sites=["shop"], role=role)
        secrets[role] = {"Authorization": f"Bearer {result['secret']}"}
        assert result["secret"] not in json.dumps(list(PersonalToken.objects.values("digest", "begins")))
    script = Client(enforce_csrf_checks=True)
    assert [one["slug"] for one in ask(script, "GET", "/sites", headers=secrets["reader"])] == ["shop"]
    ask(script, "GET", "/sites/other", 404, headers=secrets["analyst"])
    ask(script, "PATCH", "/sites/shop", 403, headers=secrets["reader"], min_impressions=9)
    ask(script, "PATCH", "/sites/shop", headers=secrets["analyst"], min_impressions=9)
    # What persons alone do, no script does, whoever its person is.
    for method, path in (
        ("POST", "/sites/shop/invitations"), ("POST", "/sites/shop/archive"), ("DELETE", "/sites/shop"), ("GET", "/account"),
        ("POST", "/account/tokens"), ("GET", "/sites/shop/audit"), ("POST", "/sites"),
    ):  # fmt: skip
        body = {
            "email": "x@desk.example",
            "name": "x",
            "sites": ["shop"],
            "ends_on": until,
            "slug": "x",
            "address": "https://x.example",
        }
        ask(script, method, path, 403, headers=secrets["analyst"], **body)
    for wrong_secret in ("zz_x", "x", ""):
        ask(script, "GET", "/sites", 401, headers={"Authorization": f"Bearer {wrong_secret}"})
    # It ends with its day, its person's role, its person, and when it is revoked.
    Membership.objects.filter(site=site).update(role=Role.READER)
    ask(script, "PATCH", "/sites/shop", 403, headers=secrets["analyst"], min_impressions=9)
    (reader, _) = ask(signed_in, "GET", "/account")["tokens"][::-1]
    assert reader["used_at"] is not None
    ask(signed_in, "DELETE", f"/account/tokens/{reader['id']}", 204)
    ask(script, "GET", "/sites", 401, headers=secrets["reader"])
    PersonalToken.objects.update(ends_on=date.today() - timedelta(days=1))  # noqa: DTZ011
    ask(script, "GET", "/sites", 401, headers=secrets["analyst"])
    PersonalToken.objects.update(ends_on=until)
    User.objects.update(is_active=False)
    ask(script, "GET", "/sites", 401, headers=secrets["analyst"])


# --- your own account ----------------------------------------------------------------------------------------------------


def sign_in(name: str, password: str, expected: int, code: str = "") -> Client:
    client = Client()
    ask(client, "POST", "/session", expected, username=name, password=password, code=code)
    return client


def code_of(secret: str, steps: int = 0) -> str:
    """The code of RFC 6238, from the library's own functions; `steps` of thirty seconds from now."""
    counters = list(yield_hotp_counters_from_time())
    return format_hotp_value(hotp_value(secret, counters[len(counters) // 2] + steps))


def test_the_code_is_that_of_rfc_6238() -> None:
    """Appendix B, SHA-1: at 59 seconds 94287082 in eight digits, so 287082 in six."""
    secret = "GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ"  # "12345678901234567890" in base 32
    assert format_hotp_value(hotp_value(secret, 59 // 30)) == "287082"
    assert format_hotp_value(hotp_value(secret, 1111111109 // 30)) == "081804"


def test_a_second_factor_is_asked_for_and_its_codes_work_once(signed_in: Client, analyst: User) -> None:
    offered = ask(signed_in, "GET", "/account/second-factor")
    assert offered["picture"].lstrip().startswith("<?xml")
    secret = offered["secret"]
    values = {"password": OLD, "secret": secret, "code": code_of(secret)}
    ask(signed_in, "PUT", "/account/second-factor", 422, **{**values, "password": "wrong"})
    ask(signed_in, "PUT", "/account/second-factor", 422, **{**values, "code": "000000" if values["code"] != "000000" else "1"})
    codes = ask(signed_in, "PUT", "/account/second-factor", **values)["codes"]
    assert len(set(codes)) == 10
    from allauth.mfa.models import Authenticator

    assert secret not in json.dumps(list(Authenticator.objects.values_list("data", flat=True)))
    result = ask(Client(), "POST", "/session", 401, username="analyst", password=OLD)
    assert result["fields"][0]["field"] == "code"
    ask(Client(), "POST", "/session", 401, username="analyst", password="wrong", code=code_of(secret))
    now = code_of(secret)
    assert ask(sign_in("analyst", OLD, 200, now), "GET", "/sites")
    sign_in("analyst", OLD, 401, now)  # seen over a shoulder, it does not work again
    assert ask(sign_in("analyst", OLD, 200, codes[3]), "GET", "/sites")
    sign_in("analyst", OLD, 401, codes[3])
    ask(signed_in, "POST", "/account/second-factor/end", 422, password="wrong")
    ask(signed_in, "POST", "/account/second-factor/end", 204, password=OLD)
    sign_in("analyst", OLD, 200)


def test_guessing_codes_locks_as_guessing_passwords_does(signed_in: Client, analyst: User) -> None:
    secret = ask(signed_in, "GET", "/account/second-factor")["secret"]
    ask(signed_in, "PUT", "/account/second-factor", password=OLD, secret=secret, code=code_of(secret))
    for number in range(30):
        sign_in("analyst", OLD, 401, f"{number:06d}")
    sign_in("analyst", OLD, 429, code_of(secret, 1))


def test_a_password_is_changed_and_other_sessions_end(signed_in: Client, analyst: User) -> None:
    elsewhere = sign_in("analyst", OLD, 200)
    here = sign_in("analyst", OLD, 200)
    assert len(ask(here, "GET", "/account")["sessions"]) >= 2
    ask(here, "PUT", "/account/password", 422, password="wrong", new_password=NEW)
    ask(here, "PUT", "/account/password", 422, password=OLD, new_password="12345678")
    ask(here, "PUT", "/account/password", 204, password=OLD, new_password=NEW)
    ask(here, "GET", "/account")
    ask(elsewhere, "GET", "/account", 401)
    sign_in("analyst", OLD, 401)
    third = sign_in("analyst", NEW, 200)
    own = [one for one in ask(here, "GET", "/account")["sessions"] if one["own"]]
    assert len(own) == 1
    ask(here, "DELETE", "/account/sessions", 204)
    ask(third, "GET", "/account", 401)
    assert len(ask(here, "GET", "/account")["sessions"]) == 1


def test_when_a_session_was_used_last_is_told(analyst: User, monkeypatch: pytest.MonkeyPatch) -> None:
    client = sign_in("analyst", OLD, 200)
    long_ago = timezone.now() - timedelta(days=2)
    for _ in range(2):
        UserSession.objects.update(last_seen_at=long_ago)
        (result,) = ask(client, "GET", "/account")["sessions"]
    assert result["seen_at"].startswith(long_ago.isoformat()[:19])  # once in ten minutes
    monkeypatch.setattr(accounts, "SEEN_SECONDS", 0)
    (result,) = ask(client, "GET", "/account")["sessions"]
    assert result["seen_at"] > timezone.now().isoformat()[:16]


def test_a_way_back_in_by_mail(signed_in: Client, analyst: User, settings: Any) -> None:
    settings.MAIL_READY, settings.ADDRESS = True, "https://seo.shop.example"
    ask(signed_in, "PUT", "/account/email", 204, password=OLD, email="analyst@desk.example")
    stranger = Client()
    ask(stranger, "POST", "/account/reset", 204, name="analyst@desk.example")
    (asking,) = posted()  # an address counts when it was proved, once
    (mark,) = re.findall(r"https://seo.shop.example/proof/(\S+)", asking.body)
    ask(stranger, "POST", f"/account/email/proofs/{mark[:-1]}", 404)
    assert ask(stranger, "POST", f"/account/email/proofs/{mark}") == {"email": "analyst@desk.example"}
    ask(stranger, "POST", f"/account/email/proofs/{mark}", 404)
    ask(signed_in, "PUT", "/account/email", 422, password=OLD, email="analyst@desk.example")
    mail.outbox.clear()
    for name in ("nobody", "nobody@desk.example", "analyst"):
        assert ask(stranger, "POST", "/account/reset", 204, name=name) == ""
    (sent,) = posted()
    found = re.search(r"https://seo.shop.example/reset/([^/\s]+)/(\S+)", sent.body)
    assert found is not None
    values = {"user": found[1], "token": found[2]}
    ask(stranger, "PUT", "/account/reset", 404, **{**values, "token": found[2][:-1] + "x"}, password=NEW)
    ask(stranger, "PUT", "/account/reset", 404, user="AAAA", token=found[2], password=NEW)
    ask(stranger, "PUT", "/account/reset", 422, **values, password="short")
    ask(stranger, "PUT", "/account/reset", 204, **values, password=NEW)
    ask(stranger, "PUT", "/account/reset", 404, **values, password=OLD)  # once
    ask(signed_in, "GET", "/account", 401)
    sign_in("analyst", NEW, 200)
    for _ in range(5):
        answer = stranger.post("/api/account/reset", {"name": "analyst"}, "application/json")
    assert answer.status_code == 429


def test_a_session_that_somebody_else_chose_is_none_of_mine(site: Site, analyst: User) -> None:
    """Session fixation: a key planted in another browser is never signed in, however its owner signs in."""
    current = members.invite(OPERATOR, site.slug, "new@desk.example", "reader")
    taken = f"/api/invitations/{members.path_of(current).removeprefix('/invitation/')}"
    for path, entry in (
        ("/api/session", {"username": "analyst", "password": OLD}),
        (taken, {"username": "new", "password": NEW}),
    ):
        planted = SessionStore()
        planted["mine"] = True
        planted.save()
        victim, attacker = Client(), Client()
        victim.cookies["sessionid"] = attacker.cookies["sessionid"] = planted.session_key
        assert victim.post(path, entry, "application/json").status_code == 200
        assert victim.cookies["sessionid"].value != planted.session_key
        ask(victim, "GET", "/account")
        ask(attacker, "GET", "/account", 401)


def test_a_flood_of_guesses_keeps_nobody_else_out(site: Site, analyst: User, monkeypatch: pytest.MonkeyPatch) -> None:
    """While one address keeps guessing, a sign-in from another address is next in turn."""
    monkeypatch.setattr(sign_in_api, "_hashing", Turns(1, line=100))
    order: list[str] = []

    def guess(address: str) -> None:
        with sign_in_api._hashing.turn(20, address):
            time.sleep(0.05)
            order.append(address)

    with ThreadPoolExecutor(40) as pool:
        flood = [pool.submit(guess, "192.0.2.1") for _ in range(30)]
        time.sleep(0.1)
        pool.submit(guess, "198.51.100.7").result(20)
        [one.result(20) for one in flood]
    assert order.index("198.51.100.7") < 8


def test_a_reset_takes_as_long_whoever_is_asked_for(site: Site, analyst: User, settings: Any) -> None:
    """Nothing is looked up and no mail is sent before the response: each request only queues a task."""
    settings.MAIL_READY = True
    User.objects.filter(id=analyst.id).update(email="analyst@desk.example")
    asked = []
    for name in ("analyst", "nobody"):
        with CaptureQueriesContext(connection) as current:
            accounts.ask_for_reset(name)
        asked.append([one["sql"].split()[:3] for one in current.captured_queries])
    assert asked[0] == asked[1]
    assert not mail.outbox
    assert [one.to for one in posted()] == [["analyst@desk.example"]]


def test_scripts_tokens_end_with_the_password_and_with_the_membership(signed_in: Client, owner: User, site: Site) -> None:
    def token(client: Client) -> dict[str, str]:
        result = {"name": "Mine", "sites": ["shop"], "role": "reader", "ends_on": "2099-01-01"}
        result["ends_on"] = str(timezone.localdate() + timedelta(days=30))
        secret = ask(client, "POST", "/account/tokens", 201, **result)["secret"]
        return {"Authorization": f"Bearer {secret}"}

    user, theirs = member(site, "writer", Role.ANALYST)
    current = token(theirs)
    ask(Client(), "GET", "/sites/shop", headers=current)
    ask(signed_in, "DELETE", f"/sites/shop/members/{Membership.objects.get(user=user).id}", 204)
    ask(Client(), "GET", "/sites/shop", 401, headers=current)
    Membership.objects.create(site=site, user=user, role=Role.ANALYST)  # invited again
    ask(Client(), "GET", "/sites/shop", 401, headers=current)
    current = token(theirs)
    ask(Client(), "GET", "/sites/shop", headers=current)
    ask(theirs, "PUT", "/account/password", 204, password=OLD, new_password=NEW)
    ask(Client(), "GET", "/sites/shop", 401, headers=current)


def test_invitations_have_limits_by_person_and_by_recipient(
    signed_in: Client, owner: User, site: Site, settings: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    settings.MAIL_READY = True
    for _ in range(members.TO_ONE_A_DAY):
        ask(signed_in, "POST", "/sites/shop/invitations", 201, email="a@desk.example", role="reader")
    result = ask(signed_in, "POST", "/sites/shop/invitations", 429, email="A@desk.example", role="reader")
    assert "invited 3 times today" in result["detail"]
    other = Site.objects.create(slug="other", name="Other", address="https://other.example")
    Membership.objects.create(site=other, user=owner, role=Role.OWNER)
    ask(signed_in, "POST", "/sites/other/invitations", 429, email="a@desk.example", role="reader")  # over all sites
    monkeypatch.setattr(members, "OF_ONE_A_DAY", 5)
    ask(signed_in, "POST", "/sites/other/invitations", 201, email="b@desk.example", role="reader")
    ask(signed_in, "POST", "/sites/other/invitations", 201, email="c@desk.example", role="reader")
    result = ask(signed_in, "POST", "/sites/shop/invitations", 429, email="d@desk.example", role="reader")
    assert "You sent 5" in result["detail"]
    Invitation.objects.update(made_at=timezone.now() - timedelta(days=2))
    ask(signed_in, "POST", "/sites/shop/invitations", 201, email="a@desk.example", role="reader")


@pytest.mark.parametrize("name", ["Shop\r\nBcc: all@desk.example", "Shop\x00", "Shop\u202egnp.exe", "Shop\u2028two", "x" * 201])
def test_names_hold_no_line_breaks_and_no_control_characters(
    signed_in: Client, owner: User, site: Site, settings: Any, name: str
) -> None:
    settings.MAIL_READY = True
    for method, path, body in (
        ("PATCH", "/sites/shop/name", {}),
        ("POST", "/sites", {"address": "https://new.example", "slug": "new"}),
        ("POST", "/account/tokens", {"sites": ["shop"], "role": "reader", "ends_on": str(timezone.localdate())}),
        ("POST", "/sites/shop/reports/templates", {}),
        ("POST", "/sites/shop/views", {"address": "pages"}),
    ):
        answer = signed_in.generic(method, f"/api{path}", json.dumps({**body, "name": name}), content_type="application/json")
        # A view's name is one line whatever is sent; its other characters are refused alike.
        kept = path.endswith("/views") and ("\n" in name or "\u2028" in name)
        assert answer.status_code == (201 if kept else 422), (path, answer.content)
    # An older row that has one all the same sends its mail.
    Site.objects.filter(id=site.id).update(name="Shop\nBcc: all@desk.example")
    ask(signed_in, "POST", "/sites/shop/invitations", 201, email="new@desk.example", role="reader")
    assert posted()[-1].subject == "An invitation to Shop Bcc: all@desk.example"


def test_the_trail_refuses_what_it_does_not_know(signed_in: Client, owner: User, site: Site) -> None:
    ask(signed_in, "GET", "/sites/shop/audit?what=load")
    ask(signed_in, "GET", "/sites/shop/audit?what=loads", 422)


# --- the trail ------------------------------------------------------------------------------------------------------------


def test_the_trail_tells_who_did_what_and_leaves_as_a_file(signed_in: Client, owner: User, site: Site) -> None:
    Site.objects.create(slug="other", name="Other", address="https://other.example")
    AuditEntry.objects.create(site=Site.objects.get(slug="other"), slug="other", who="x", what="load", about="theirs")
    ask(signed_in, "PATCH", "/sites/shop", min_impressions=9)
    ask(signed_in, "PUT", "/sites/shop/connections/visits", address="https://user@data.shop.example/visits", expected=422)
    ask(signed_in, "PUT", "/sites/shop/connections/visits", address="https://data.shop.example/visits", token="s3cret-token")
    ask(signed_in, "POST", "/sites/shop/invitations", 201, email="=cmd@desk.example", role="reader")
    trail = ask(signed_in, "GET", "/sites/shop/audit")
    assert [(one["who"], one["what"], one["about"]) for one in trail] == [
        ("analyst", "invite", "=cmd@desk.example"), ("analyst", "connect", "visits"), ("analyst", "settings", "min impressions")
    ]  # fmt: skip
    assert "s3cret" not in json.dumps(trail)
    older = ask(signed_in, "GET", f"/sites/shop/audit?before={trail[1]['id']}")
    assert [one["what"] for one in older] == ["settings"]
    assert [one["what"] for one in ask(signed_in, "GET", "/sites/shop/audit?what=invite")] == ["invite"]
    file = ask(signed_in, "GET", "/sites/shop/audit/file")
    assert file.splitlines()[0] == "at,who,what,about,details"
    assert ",'=cmd@desk.example," in file
    assert "theirs" not in file


@pytest.mark.usefixtures("planted", "owner")
def test_a_site_that_moved_keeps_its_facts(signed_in: Client, site: Site, write_csv: Callable[..., Path]) -> None:
    """Pages of the former host count as those of the current one, even where new data name the new address."""

    def pages() -> dict[str, Any]:
        rows = ask(signed_in, "GET", "/sites/shop/findings/pages?limit=500")["rows"]
        return {row["page"].split(".example", 1)[1]: row for row in rows}

    before = pages()
    ask(signed_in, "PATCH", "/sites/shop/address", 422, address="ftp://new.example")
    ask(signed_in, "PATCH", "/sites/shop/address", 204, address="https://www.new.example/")
    after = pages()
    assert {row["page"].split("/p")[0] for row in after.values()} == {"https://www.new.example"}
    assert {path: (row["page_id"], row["clicks"]) for path, row in after.items()} == {
        path: (row["page_id"], row["clicks"]) for path, row in before.items()
    }
    day = Snapshot(site).facts.days()[-1]
    path = next(iter(before))
    site.refresh_from_db()
    load_file(site, write_csv([[day + timedelta(days=1), f"https://www.new.example{path}", "query 0", 7, 9, 1]]), "new.csv")
    ids = Snapshot(Site.objects.get(id=site.id)).pages.folds().filter(folded=f"https://www.new.example{path}")
    assert ids.height == 2
    assert set(ids["counts_as"]) == {before[path]["page_id"]}
    assert Site.objects.get(id=site.id).rules["former_hosts"] == ["shop.example"]
    ask(signed_in, "PATCH", "/sites/shop/address", 204, address="https://shop.example")
    assert Site.objects.get(id=site.id).rules["former_hosts"] == ["www.new.example"]
    assert pages()[path]["page"] == f"https://shop.example{path}"


def test_each_reads_as_they_chose(signed_in: Client, client: Client) -> None:
    usual = {"language": "", "time_zone": "", "currency": "", "single_keys": True}
    assert ask(Client(), "GET", "/session") == {"username": None, "preferences": usual}
    result = {"language": "de", "time_zone": "Europe/Berlin", "currency": "EUR", "single_keys": False}
    ask(signed_in, "PUT", "/account/preferences", 204, **result)
    assert ask(signed_in, "GET", "/session")["preferences"] == result
    for wrong in ({"language": "tlh"}, {"time_zone": "Mars/Olympus"}, {"currency": "XQX"}):
        assert ask(signed_in, "PUT", "/account/preferences", 422, **{**result, **wrong})["fields"][0]["field"] == next(
            iter(wrong)
        )
    assert ask(signed_in, "GET", "/session")["preferences"] == result


@pytest.mark.usefixtures("planted", "owner")
def test_an_owner_takes_the_whole_site_away_and_leaves_nothing_behind(signed_in: Client, site: Site, settings: Any) -> None:
    answer = signed_in.get("/api/sites/shop/archive/file")
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        assert {"about.json", "pages.parquet", "facts/page-query/2026-11.parquet"} <= set(archive.namelist())
    assert not list(Path(settings.DATA_DIR).glob(".archive-*"))
    assert [(one.what, one.who) for one in AuditEntry.objects.filter(what="archive out")] == [("archive out", "analyst")]
    for close in answer._resource_closers:
        close()
