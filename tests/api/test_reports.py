"""Reports over HTTP: templates and logos, finished reports, links that expire, schedules and mail."""

import json
from collections.abc import Callable, Iterator
from datetime import UTC, date, datetime, timedelta
from io import BytesIO
from pathlib import Path
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test import Client
from PIL import Image

from tests.core.test_reports import text_of
from tests.planted import PlantedSite
from tests.standin_server import free_port
from zugzwang.data.models import Job, Report, ReportLink, ReportSending, ReportTemplate, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.data.snapshot.facts import Facts
from zugzwang.intake import jobs
from zugzwang.plan import report_mail
from zugzwang.standins.mail import kept_mails, serve_mail

pytestmark = pytest.mark.usefixtures("planted")
Call = Callable[..., Any]
SVG = (
    b'<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="40" '
    b'height="20" onload="steal()"><script>steal()</script><style>@import url(http://evil.example/)</style>'
    b'<image xlink:href="http://evil.example/x.png"/><a xlink:href="javascript:x()"><rect width="9" height="9"/></a>'
    b'<foreignObject><body/></foreignObject><use href="#r"/><rect id="r" width="9" height="9" onclick="x()" '
    b'style="fill:#123456;filter:url(#f);background:url(http://evil.example/)" fill="url(http://evil.example/#g)"/></svg>'
)
BOMB = b'<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;">]><svg xmlns="http://www.w3.org/2000/svg">&b;</svg>'


@pytest.fixture
def call(signed_in: Client) -> Call:
    def ask(method: str, path: str = "", expected: int = 200, **body: Any) -> Any:
        answer = signed_in.generic(method, f"/api/sites/shop/reports{path}", json.dumps(body), content_type="application/json")
        assert answer.status_code == expected, answer.content
        return answer.json() if answer.content else None

    return ask


class Mail:
    """The mail server; `put_off`: how many mails it defers from now on."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.put_off = folder, 0

    def spoils(self) -> bool:
        self.put_off -= 1
        return self.put_off >= 0

    def kept(self) -> list[Any]:
        return kept_mails(self.folder)


@pytest.fixture
def mail(settings: Any, tmp_path: Path) -> Iterator[Mail]:
    current = Mail(tmp_path / "mail")
    port = free_port()
    server = serve_mail(current.folder, port, current.spoils)
    settings.EMAIL_BACKEND, settings.MAIL_READY = "django.core.mail.backends.smtp.EmailBackend", True
    settings.EMAIL_HOST, settings.EMAIL_PORT = "127.0.0.1", port
    settings.ADDRESS = "https://seo.shop.example"
    try:
        yield current
    finally:
        server.stop()


def work() -> None:
    for job in Job.objects.filter(state="waiting").order_by("id"):
        jobs.run_job.func(job.id)


def read(token_path: str, method: str = "GET") -> Any:
    return Client().generic(method, token_path)


def logo(client: Client, template: int, data: bytes) -> Any:
    path = f"/api/sites/shop/reports/templates/{template}/logo"
    return client.post(path, {"file": SimpleUploadedFile("logo", data)})


# --- templates ------------------------------------------------------------------------------------------------------------


def test_a_template_is_kept_changed_and_put_back(call: Call) -> None:
    parts = [{"name": "next", "words": "**Dear all**"}, {"name": "changes", "words": ""}]
    made = call("POST", "/templates", 201, name="Monthly", parts=parts, recipients=["a@desk.example", "a@desk.example "])
    assert made["recipients"] == ["a@desk.example"]
    for wrong, field in (
        ({"name": "monthly"}, "name"),  # there is one
        ({"name": "x", "parts": []}, "parts"),
        ({"name": "x", "parts": [parts[0], parts[0]]}, "parts"),
        ({"name": "x", "recipients": ["desk@nowhere@desk"]}, "recipients"),
        ({"name": "x", "schedule": "weekly", "day": 8}, "day"),
        ({"name": "x", "accent": "red"}, "accent"),
    ):
        result = call("POST", "/templates", 422, **wrong)
        assert field in json.dumps(result["fields"]), result
    path = f"/templates/{made['id']}"
    changed = call("PUT", path, name="Weekly", parts=parts[:1], seen=made["version"], schedule="weekly", day=2)
    assert [one["name"] for one in changed["parts"]] == ["next"]
    call("PUT", path, 409, name="Mine", parts=parts, seen=made["version"])
    call("DELETE", path)
    assert call("GET")["templates"] == []
    assert call("POST", f"{path}/restore")["name"] == "Weekly"
    assert [one["name"] for one in call("GET")["templates"]] == ["Weekly"]


def test_a_logo_is_cleaned_or_refused(call: Call, signed_in: Client) -> None:
    template = call("POST", "/templates", 201, name="Monthly")["id"]
    assert logo(signed_in, template, SVG).status_code == 200
    stored = bytes(ReportTemplate.objects.get(id=template).logo or b"").decode()
    for gone in ("script", "steal", "evil", "image", "foreignObject", "onclick", "filter", "use", "javascript", "<a"):
        assert gone not in stored, gone
    assert 'fill="#123456"' in stored
    assert 'viewBox="0 0 40 20"' in stored
    pages = call("POST", "/preview", name="Monthly", id=template)["pages"]
    assert pages[0] != call("POST", "/preview", name="Monthly")["pages"][0]  # it is seen
    picture = BytesIO()
    Image.new("RGB", (2_000, 500), "red").save(picture, "PNG")
    assert logo(signed_in, template, picture.getvalue() + b"<?php").status_code == 200
    kept = bytes(ReportTemplate.objects.get(id=template).logo or b"")
    assert Image.open(BytesIO(kept)).size == (1_200, 300)
    assert b"php" not in kept
    huge = picture.getvalue()[:16] + (60_000).to_bytes(4, "big") * 2 + picture.getvalue()[24:]
    for wrong in (b"GIF89a", b"\x89PNG\r\n\x1a\n broken", b"<svg", b"<html></html>", BOMB, huge, b"x" * 2_000_001):
        answer = logo(signed_in, template, wrong)
        assert answer.status_code == 422, wrong[:20]
        assert answer.json()["remedy"]
    assert bytes(ReportTemplate.objects.get(id=template).logo or b"") == kept  # what was there stays
    assert call("DELETE", f"/templates/{template}/logo")["logo"] == ""


# --- reports and links ----------------------------------------------------------------------------------------------------


def test_a_report_is_as_it_was_made(call: Call, signed_in: Client, planted: PlantedSite, tmp_path: Path) -> None:
    last = Snapshot(Site.objects.get()).facts.days()[-1]
    days = f"{last - timedelta(days=27)}..{last}"
    parts = [{"name": "changes", "words": "Dear *client*"}]
    template = call("POST", "/templates", 201, name="Monthly", parts=parts, title="Search, told")["id"]
    made = call("POST", f"/templates/{template}/make", 201, days=days)
    assert (made["title"], made["first"], made["last"]) == ("Search, told", days[:10], days[12:])
    assert made["parts"][0]["list"] == f"changes?first={days[:10]}&last={days[12:]}&compare=year"
    before = signed_in.get(f"/api/sites/shop/reports/{made['id']}/file")
    assert before["Content-Type"] == "application/pdf"
    assert "Dear client" in text_of(before.content, tmp_path)
    call("PUT", f"/templates/{template}", name="Monthly", parts=parts, seen=1, title="Another")
    assert signed_in.get(f"/api/sites/shop/reports/{made['id']}/file").content == before.content
    call("POST", f"/templates/{template}/make", 422, days="2026-13")
    call("POST", f"/templates/{template}/make", 422, days="2001-01")
    call_command("report", site="shop", template="monthly", period=days, output=tmp_path / "report.pdf")
    assert "Another" in text_of((tmp_path / "report.pdf").read_bytes(), tmp_path)


def test_a_link_shows_the_report_alone_until_it_ends(call: Call, signed_in: Client, monkeypatch: pytest.MonkeyPatch) -> None:
    template = call("POST", "/templates", 201, name="Monthly", parts=[{"name": "next", "words": "Dear client"}])["id"]
    made = call("POST", f"/templates/{template}/make", 201)
    today = date.today()  # noqa: DTZ011 – the machine's, as the product's
    for wrong in (today - timedelta(days=1), today + timedelta(days=400)):
        call("POST", f"/{made['id']}/links", 422, ends_on=str(wrong))
    for _ in range(2):
        result = call("POST", f"/{made['id']}/links", 201, ends_on=str(today + timedelta(days=1)))
    first, second = result["links"]
    answer = read(first["path"])
    assert answer.status_code == 200
    assert "Dear client" in answer.content.decode()
    assert answer.headers["Content-Security-Policy"].startswith("sandbox; default-src 'none'")
    assert answer.headers["Referrer-Policy"] == "no-referrer"
    assert "noindex" in answer.headers["X-Robots-Tag"]
    assert not answer.cookies
    for beyond in ("/api/sites", 'href="/', 'src="/', "<script"):
        assert beyond not in answer.content.decode()
    # Who has the database has no address, and one letter more or less is another address.
    token = first["path"].removeprefix("/read/")
    assert token not in json.dumps(list(ReportLink.objects.values("digest", "token")))
    assert len(token) >= 43
    assert read(first["path"][:-1]).status_code == read("/read/x").status_code == 404
    assert read(first["path"], "POST").status_code == 405
    assert read(first["path"], "HEAD").status_code == 200  # which is no opening
    result = {one["id"]: one for one in call("GET", f"/{made['id']}")["links"]}
    assert (result[first["id"]]["opened"], result[second["id"]]["opened"]) == (1, 0)
    call("DELETE", f"/links/{first['id']}", 204)
    assert read(first["path"]).status_code == 404
    assert read(second["path"]).status_code == 200
    monkeypatch.setattr("django.utils.timezone.localdate", lambda *_: today + timedelta(days=2))
    gone = read(second["path"])
    assert gone.status_code == 404
    assert "Dear client" not in gone.content.decode()
    assert [one["path"] for one in call("GET", f"/{made['id']}")["links"]] == ["", ""]
    monkeypatch.undo()
    call("DELETE", f"/{made['id']}", 204)
    assert read(second["path"]).status_code == 404
    assert not ReportLink.objects.exists()


# --- mail and schedules ---------------------------------------------------------------------------------------------------


def test_a_mail_goes_to_each_with_the_report_and_a_link(call: Call, mail: Mail, tmp_path: Path) -> None:
    template = call("POST", "/templates", 201, name="Monthly", title="Search in October")["id"]
    made = call("POST", f"/templates/{template}/make", 201)
    call("POST", f"/{made['id']}/send", 422, recipients=[" "])
    call("POST", f"/{made['id']}/send", 422, recipients=["a@desk.example\nBcc: b@desk.example"])
    call("POST", f"/{made['id']}/send", recipients=["a@desk.example", "b@desk.example"], message="Good morning", link_days=3)
    work()
    first, second = mail.kept()
    assert [one["To"] for one in (first, second)] == ["a@desk.example", "b@desk.example"]
    assert first["Subject"] == "Search in October"
    body = first.get_body(("plain",)).get_content()
    assert body.startswith("Good morning")
    links = [one.get_body(("plain",)).get_content().split("https://seo.shop.example")[1].strip() for one in (first, second)]
    assert links[0] != links[1]
    assert read(links[0]).status_code == 200
    (attached,) = first.iter_attachments()
    assert "Search" in text_of(attached.get_payload(decode=True), tmp_path)
    result = call("GET", f"/{made['id']}")
    assert {one["state"] for one in result["sendings"]} == {"sent"}
    assert {one["recipient"]: one["opened"] for one in result["links"]} == {"a@desk.example": 1, "b@desk.example": 0}
    work()
    assert len(mail.kept()) == 2


def test_what_fails_is_tried_again_and_told(call: Call, mail: Mail) -> None:
    template = call("POST", "/templates", 201, name="Monthly")["id"]
    made = call("POST", f"/templates/{template}/make", 201)["id"]
    mail.put_off = 2
    call("POST", f"/{made}/send", recipients=["a@desk.example", "gone@desk.example"])
    work()
    of = {one["recipient"]: one for one in call("GET", f"/{made}")["sendings"]}
    assert of["gone@desk.example"]["state"] == "failed"  # no one of that name: no use to try again
    assert "550" in of["gone@desk.example"]["problem"]
    assert (of["a@desk.example"]["state"], of["a@desk.example"]["attempts"]) == ("waiting", 1)
    assert "451" in of["a@desk.example"]["problem"]
    assert "0 of 2 mails sent" in Job.objects.latest("id").outcome["message"]
    # Not before it is time; then again, with longer waits; the third attempt goes, once.
    now = datetime.now(UTC)
    assert jobs.reports_due(now + timedelta(minutes=4)) == 0
    for _ in range(2):
        ReportSending.objects.filter(state="waiting").update(next_at=now - timedelta(seconds=1))
        assert jobs.reports_due(now) == 1
        assert jobs.reports_due(now) == 0  # one is on its way
        work()
    assert len(mail.kept()) == 1
    (sent,) = [one for one in call("GET", f"/{made}")["sendings"] if one["state"] == "sent"]
    assert (sent["attempts"], sent["problem"]) == (3, "")
    # Asked again by hand, the one that failed fails in the same way; one that went is not sent twice.
    call("POST", f"/mails/{sent['id']}/again", 422)
    call("POST", f"/mails/{of['gone@desk.example']['id']}/again")
    work()
    assert len(mail.kept()) == 1


def test_five_attempts_and_no_more(call: Call, mail: Mail) -> None:
    template = call("POST", "/templates", 201, name="Monthly")["id"]
    made = call("POST", f"/templates/{template}/make", 201)["id"]
    call("POST", f"/{made}/send", recipients=["a@desk.example"])
    mail.put_off = 99
    report = Report.objects.get(id=made)
    waits = []
    for _ in range(6):
        ReportSending.objects.filter(state="waiting").update(next_at=datetime.now(UTC))
        report_mail.send_waiting(report)
        sending = ReportSending.objects.get()
        waits.append(round((sending.next_at - datetime.now(UTC)).total_seconds() / 60))
    assert waits[:4] == [5, 30, 120, 480]
    assert (sending.state, sending.attempts) == ("failed", 5)


def test_a_schedule_makes_each_due_day_once(call: Call, mail: Mail, monkeypatch: pytest.MonkeyPatch) -> None:
    monday = date(2026, 11, 16)
    monkeypatch.setattr("django.utils.timezone.localdate", lambda *_: monday)
    values = {"schedule": "weekly", "day": 3, "period": "last-4-weeks", "recipients": ["a@desk.example"]}
    weekly = call("POST", "/templates", 201, name="Weekly", **values)
    assert weekly["next_due"] == "2026-11-18"
    monthly = {**values, "schedule": "monthly", "day": 20, "recipients": []}
    call("POST", "/templates", 201, name="Monthly", **monthly)

    def clock(day: int, hour: int) -> int:
        return jobs.reports_due(datetime(2026, 11, day, hour, tzinfo=UTC))

    assert [clock(16, 9), clock(17, 9), clock(18, 5)] == [0, 0, 0]  # the day before it was kept does not count; not before six
    assert [clock(18, 7), clock(18, 7), clock(19, 7)] == [1, 0, 0]
    work()
    (made,) = Report.objects.all()
    assert (made.due, made.problem) == (date(2026, 11, 18), "")
    assert made.last is not None
    assert made.last.isoweekday() == 7
    assert len(mail.kept()) == 1
    # While nothing ran, two of each passed: the last is made up for.
    assert jobs.reports_due(datetime(2026, 12, 4, 9, tzinfo=UTC)) == 2
    assert sorted(Report.objects.values_list("due", flat=True)) == [date(2026, 11, 18), date(2026, 11, 20), date(2026, 12, 2)]
    work()
    assert len(mail.kept()) == 2
    call("DELETE", f"/templates/{weekly['id']}")
    assert jobs.reports_due(datetime(2026, 12, 11, 9, tzinfo=UTC)) == 0


def test_without_data_or_mail_it_says_so(
    call: Call, site: Site, monkeypatch: pytest.MonkeyPatch, settings: Any, signed_in: Client
) -> None:
    settings.MAIL_READY = False
    template = call("POST", "/templates", 201, name="Weekly", schedule="weekly", recipients=["a@desk.example"])
    made = call("POST", f"/templates/{template['id']}/make", 201)
    result = call("POST", f"/{made['id']}/send", 422, recipients=["a@desk.example"])
    assert "ZUGZWANG_MAIL" in result["remedy"]
    monkeypatch.setattr(Facts, "days", lambda _: [])
    ReportTemplate.objects.update(begins=date(2026, 1, 1))
    assert jobs.reports_due(datetime.now(UTC)) == 1
    work()
    (due,) = [one for one in call("GET")["reports"] if one["due"]]
    assert due["problem"].startswith("The site has no daily data yet.")
    assert due["made_at"] is None
    assert Job.objects.latest("id").state == "refused"
    # Work of every kind is in the list of jobs.
    for kind in Job.Kind.values:
        Job.objects.create(site=site, kind=kind, title=kind)
    assert {one["kind"] for one in signed_in.get("/api/sites/shop/jobs").json()} == set(Job.Kind.values)
