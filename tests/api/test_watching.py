"""For operators: health and readiness, metrics, and one request's path through the log."""

import json
import logging
import re
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path
from typing import Any

import pytest
from django.db import OperationalError, connection
from django.test import Client
from django.utils import timezone
from prometheus_client.parser import text_string_to_metric_families

from zugzwang.api import watching
from zugzwang.cli.management.commands import clock
from zugzwang.data.models import Heartbeat, Job, Site
from zugzwang.intake import jobs
from zugzwang.intake.connections import connect
from zugzwang.logs import AsJson, WithRequest, request_id


def test_alive_and_ready(client: Client, db: None, settings: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    settings.DATA_DIR = tmp_path
    assert (client.get("/healthz").status_code, client.get("/healthz").content) == (200, b"alive\n")
    result = client.get("/readyz").json()
    assert (result["ready"], result["wrong"]) == (True, [])
    settings.DISK_LEAST_BYTES = 10**18
    result = client.get("/readyz")
    assert (result.status_code, result.json()["wrong"]) == (503, ["the disk is almost full"])
    monkeypatch.setattr("os.access", lambda *_: False)
    assert client.get("/readyz").json()["wrong"] == ["the data folder cannot be written to"]


@pytest.mark.skipif(connection.vendor != "postgresql", reason="SQLite's file is looked at with its folder")
def test_a_database_that_takes_nothing_is_not_ready(client: Client, db: None) -> None:
    with connection.cursor() as cursor:
        cursor.execute("SET transaction_read_only = on")
    assert client.get("/readyz").json()["wrong"] == ["the database cannot be written to"]


def test_probes_answer_whoever_asks_the_server_itself(client: Client, db: None, settings: Any) -> None:
    """A probe bypasses the proxy: without its host and without HTTPS."""
    settings.ALLOWED_HOSTS, settings.SECURE_SSL_REDIRECT, settings.METRICS = ["seo.shop.example"], True, True
    directly = {"HTTP_HOST": "127.0.0.1:8000", "REMOTE_ADDR": "127.0.0.1"}
    assert [client.get(path, **directly).status_code for path in ("/healthz", "/readyz", "/metrics")] == [200, 200, 200]
    assert client.get("/", **directly).status_code == 400
    assert client.post("/healthz", **directly).status_code == 405


def test_background_work_that_is_not_done_is_told(
    client: Client, db: None, caplog: pytest.LogCaptureFixture, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(clock, "close_old_connections", lambda: None)  # the test's own stays open
    assert client.get("/readyz").json()["silent"] == ["the clock has never run", "the worker has never run"]
    clock.look(timezone.localtime())
    jobs.show_life.func()
    assert client.get("/readyz").json() == {"ready": True, "wrong": [], "silent": []}
    caplog.clear()
    Heartbeat.objects.filter(name="clock").update(at=timezone.now() - timedelta(minutes=8))
    assert client.get("/readyz").json()["silent"] == ["the clock was last heard of 8 minutes ago"]
    assert any("the clock was last heard of" in record.getMessage() for record in caplog.records)
    clock.look(timezone.localtime())
    assert client.get("/readyz").json()["silent"] == []


def test_figures_are_read_by_prometheus_own_parser(client: Client, site: Site, settings: Any) -> None:
    assert client.get("/metrics").status_code == 404
    settings.METRICS = True
    Job.objects.create(site=site, title="x", kind="load")
    client.get("/api/sites")
    result = client.get("/metrics").content.decode()
    current = {one.name: one for one in text_string_to_metric_families(result)}
    (jobs_in_line,) = current["zugzwang_jobs"].samples
    assert (jobs_in_line.labels, jobs_in_line.value) == ({"kind": "load", "state": "waiting"}, 1.0)
    assert current["zugzwang_sites"].samples[0].value == 1
    assert any(one.labels == {"method": "GET", "status": "401"} for one in current["zugzwang_requests"].samples)
    assert "shop" not in result  # no site's name leaves


@pytest.mark.django_db
def test_metrics_answer_while_the_database_is_down(client: Client, settings: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    """Before, all of them returned 503 when they matter most."""

    def away() -> Iterator[Any]:
        raise OperationalError("the server closed the connection")
        yield

    settings.METRICS = True
    assert "zugzwang_database_up 1.0" in client.get("/metrics").content.decode()
    monkeypatch.setattr(watching, "_of_database", away)
    answer = client.get("/metrics")
    assert answer.status_code == 200
    assert "zugzwang_database_up 0.0" in answer.content.decode()
    assert "zugzwang_disk_free_bytes" in answer.content.decode()


def test_a_request_keeps_its_id_as_far_as_its_job(
    signed_in: Client, site: Site, settings: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    from zugzwang.access import OPERATOR

    connect(OPERATOR, "shop", "visits", "https://data.shop.example/visits", "", False, False)
    answer = signed_in.post("/api/sites/shop/refresh", {}, "application/json", headers={"X-Request-ID": "given-by-a-stranger"})
    own = answer["X-Request-ID"]
    assert re.fullmatch(r"[0-9a-f]{32}", own)
    seen = []
    monkeypatch.setattr(jobs, "work_on", lambda _: seen.append(request_id.get()))
    jobs.run_job.func(Job.objects.get().id)
    assert seen == [own]
    settings.TRUSTED_PROXY = "127.0.0.1"
    assert signed_in.get("/api/sites", headers={"X-Request-ID": "given-by-the-proxy"})["X-Request-ID"] == "given-by-the-proxy"
    assert signed_in.get("/api/sites", headers={"X-Request-ID": "x\ty"})["X-Request-ID"] != "x\ty"
    request_id.set("")


def test_slow_requests_are_told_and_a_line_is_json(signed_in: Client, settings: Any, caplog: pytest.LogCaptureFixture) -> None:
    settings.SLOW_SECONDS = 0.0
    with caplog.at_level(logging.WARNING, "zugzwang.requests"):
        answer = signed_in.get("/api/sites?a=1\n2")
    (record,) = [one for one in caplog.records if one.name == "zugzwang.requests"]
    token = request_id.set(answer["X-Request-ID"])
    WithRequest().filter(record)
    request_id.reset(token)
    line = AsJson().format(record)
    assert "\n" not in line
    result = json.loads(line)
    assert (result["who"], result["request_id"], result["level"]) == ("analyst", answer["X-Request-ID"], "WARNING")
    assert result["path"].startswith("/api/sites?a=1")
    caplog.clear()
    signed_in.get("/read/a-secret-address")
    assert "a-secret-address" not in " ".join(str(vars(one)) for one in caplog.records if one.name == "zugzwang.requests")
