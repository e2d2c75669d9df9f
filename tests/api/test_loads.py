"""Loading through the API with the real worker: cancelled jobs and workers that die."""

import io
from datetime import timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test import Client
from django.utils import timezone

from tests.conftest import HEADER
from zugzwang.data.models import Block, Job, Membership, Site
from zugzwang.errors import NotFound
from zugzwang.intake import jobs, uploads

GOOD = "2026-11-09,https://shop.example/a,red kayak,3,120,4.2"
BAD = "2026-11-09,https://shop.example/a,blue kayak,-3,120,4.2"

pytestmark = pytest.mark.django_db(transaction=True)


def work() -> None:
    call_command("db_worker", batch=True, startup_delay=False, reload=False, verbosity=0)


def drop(client: Client, *lines: str):  # type: ignore[no-untyped-def]
    content = "\n".join([",".join(HEADER), *lines]).encode()
    return client.post("/api/sites/shop/uploads", {"file": SimpleUploadedFile("facts.csv", content)})


def ask(client: Client, uploaded: dict, **options: object) -> dict:  # type: ignore[type-arg]
    body = {"upload": uploaded["upload"], **options}
    return client.post("/api/sites/shop/loads", body, "application/json").json()


def job(client: Client, number: int) -> dict:  # type: ignore[type-arg]
    return client.get(f"/api/sites/shop/jobs/{number}").json()


def test_drop_look_load(signed_in: Client) -> None:
    uploaded = drop(signed_in, GOOD).json()
    table = uploaded["tables"][0]
    assert (table["source"], table["missing"]) == ("search", [])
    assert table["first_rows"] == [GOOD.split(",")]
    asked = ask(signed_in, uploaded)
    assert (asked["state"], Block.objects.count()) == ("waiting", 0)
    work()
    done = job(signed_in, asked["id"])
    assert (done["state"], done["outcome"]["loaded"]) == ("done", 1)
    assert signed_in.get("/api/sites/shop").json()["last_day"] == "2026-11-09"
    with pytest.raises(NotFound):
        uploads.find(Site.objects.get(), uploaded["upload"])


def test_a_refused_file_can_be_loaded_for_its_good_rows(signed_in: Client) -> None:
    asked = ask(signed_in, drop(signed_in, GOOD, BAD).json())
    work()
    refused = job(signed_in, asked["id"])
    assert refused["state"] == "refused"
    assert [(problem["line"], problem["column"]) for problem in refused["outcome"]["problems"]] == [(3, "clicks")]
    assert not Block.objects.exists()
    again = signed_in.post(f"/api/sites/shop/jobs/{asked['id']}/again", {"keep_good_rows": True}, "application/json").json()
    work()
    assert job(signed_in, again["id"])["outcome"]["loaded"] == 1
    listed = signed_in.get(f"/api/sites/shop/jobs/{again['id']}/refused.csv").content.decode()
    assert "clicks is negative" in listed
    assert "blue kayak" in listed


def test_no_table_is_refused_at_once(signed_in: Client) -> None:
    pdf = SimpleUploadedFile("facts.csv", b"%PDF-1.7 ...")
    answer = signed_in.post("/api/sites/shop/uploads", {"file": pdf})
    assert answer.status_code == 422
    assert "PDF" in answer.json()["problems"][0]["message"]


def test_an_upload_larger_than_allowed_is_refused(signed_in: Client, settings) -> None:  # type: ignore[no-untyped-def]
    settings.UPLOAD_MAX_BYTES = 10
    answer = drop(signed_in, GOOD)
    assert (answer.status_code, answer.json()["fields"][0]["field"]) == (422, "file")


def test_columns_must_be_chosen(signed_in: Client) -> None:
    uploaded = drop(signed_in, GOOD).json()
    tables = {"0": {"source": "search", "mapping": {"day": 0, "page": 1}}}
    again = signed_in.post(f"/api/sites/shop/uploads/{uploaded['upload']}/preview", {"tables": tables}, "application/json")
    assert again.json()["tables"][0]["missing"] == ["clicks", "impressions", "position"]
    asked = ask(signed_in, uploaded, tables=tables)
    work()
    result = job(signed_in, asked["id"])
    assert (result["state"], result["outcome"]["problems"][0]["message"]) == (
        "refused",
        "no column for clicks, impressions, position",
    )


def test_cancelled_before_and_in_the_middle(signed_in: Client, monkeypatch: pytest.MonkeyPatch) -> None:
    waiting = ask(signed_in, drop(signed_in, GOOD).json())
    assert signed_in.post(f"/api/sites/shop/jobs/{waiting['id']}/cancel").json()["state"] == "cancelled"
    running = ask(signed_in, drop(signed_in, GOOD).json())
    Job.objects.filter(id=running["id"]).update(cancel_requested=True)  # as if asked for while it runs
    work()
    assert job(signed_in, running["id"])["state"] == "cancelled"
    assert not Block.objects.exists()


def test_a_job_whose_worker_died_is_taken_up_again(signed_in: Client, settings) -> None:  # type: ignore[no-untyped-def]
    asked = ask(signed_in, drop(signed_in, GOOD).json())
    silent = timezone.now() - timedelta(seconds=settings.JOB_SILENCE_SECONDS + 5)
    Job.objects.filter(id=asked["id"]).update(state=Job.State.RUNNING, heard_at=silent)
    result = job(signed_in, asked["id"])
    assert (result["state"], result["log"][0]["line"]) == ("waiting", "The worker stopped; the job continues.")
    work()
    assert job(signed_in, asked["id"])["state"] == "done"
    hopeless = ask(signed_in, drop(signed_in, GOOD).json())
    Job.objects.filter(id=hopeless["id"]).update(state=Job.State.RUNNING, heard_at=silent, attempts=jobs.ATTEMPTS_MAX)
    assert job(signed_in, hopeless["id"])["state"] == "failed"


def test_a_failure_of_ours_is_told_as_one(signed_in: Client, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(*_: object, **__: object) -> None:
        raise RuntimeError("planted")

    monkeypatch.setattr(jobs, "load_file", broken)
    asked = ask(signed_in, drop(signed_in, GOOD).json())
    work()
    result = job(signed_in, asked["id"])
    assert (result["state"], result["outcome"]["remedy"]) == ("failed", "Try again.")


def test_an_upload_belongs_to_its_site(signed_in: Client, analyst) -> None:  # type: ignore[no-untyped-def]
    uploaded = drop(signed_in, GOOD).json()
    other = Site.objects.create(slug="other", name="Other", address="https://other.example")
    Membership.objects.create(site=other, user=analyst)
    body = {"upload": uploaded["upload"]}
    assert signed_in.post("/api/sites/other/loads", body, "application/json").status_code == 404


def test_the_command_line_loads_and_lists(tmp_path, site: Site) -> None:  # type: ignore[no-untyped-def]
    path = tmp_path / "facts.csv"
    path.write_text("\n".join([",".join(HEADER).replace("query", "asked"), GOOD, BAD]))
    out = io.StringIO()
    call_command("load", str(path), "--site", "shop", "--map", "query=asked", "--keep-good-rows", stdout=out)
    assert "1 of 2 rows loaded" in out.getvalue()
    assert "clicks is negative" in (tmp_path / "facts.csv.refused.csv").read_text()
    call_command("sites", "--add", "Second", "--address", "https://second.example", "--slug", "second", stdout=out)
    call_command("sites", stdout=out)
    assert "shop\tShop\thttps://shop.example\t2026-11-09 to 2026-11-09" in out.getvalue()
    assert "second\tSecond\thttps://second.example\tno data yet" in out.getvalue()
