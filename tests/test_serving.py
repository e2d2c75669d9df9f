"""The web server: slow and large requests use neither a thread nor the disk."""

import json
import socket
import subprocess
import sys
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest
from django.contrib.auth.models import User
from django.db import OperationalError, connections
from django.test import Client
from django.utils import timezone
from waitress.adjustments import Adjustments

from tests.installation import ROOT, Installation
from zugzwang.access import Actor
from zugzwang.cli import serving
from zugzwang.cli.serving import HEAD_SECONDS, OF_A_PERSON, SLOWEST, UPLOADS_AT_ONCE, WAITING_MAX, Parser, server_of
from zugzwang.data.models import Membership, Site
from zugzwang.people.tokens import add_token
from zugzwang.wsgi import application

HALF = b"GET /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: "


@pytest.fixture
def port(transactional_db: None) -> Iterator[int]:
    server = server_of(application, "127.0.0.1:0")
    # Its threads keep no connection, for the tests' database is taken away at the end.
    current = connections.settings["default"]
    kept = current["CONN_MAX_AGE"]
    current["CONN_MAX_AGE"] = 0
    threading.Thread(target=server.run, daemon=True).start()
    yield int(server.effective_port)
    server.task_dispatcher.shutdown()
    server.close()
    current["CONN_MAX_AGE"] = kept


def ask(port: int, text: str) -> tuple[int, dict[str, object]]:
    """Send part of a request's head. Returns the status and body of the response."""
    with socket.create_connection(("127.0.0.1", port), timeout=20) as connection:
        connection.sendall(text.replace("\n", "\r\n").encode() + b"\r\n\r\n")
        result = b""
        while piece := connection.recv(65_536):
            result += piece
    head, _, body = result.partition(b"\r\n\r\n")
    return int(head.split()[1]), json.loads(body)


def until(status: int, port: int, text: str) -> tuple[int, dict[str, object]]:
    """The response, requested again until it has a status."""
    for _ in range(50):
        result = ask(port, text + "\nConnection: close")
        if result[0] == status:
            break
        time.sleep(0.1)
    return result


def test_what_is_under_way_is_answered_when_the_server_is_stopped() -> None:
    begun = threading.Event()

    def slow(environ: dict[str, object], start_response: Callable[..., object]) -> list[bytes]:
        begun.set()
        time.sleep(1)
        start_response("200 OK", [("Content-Type", "application/json")])
        return [b'"' + b"x" * 3_000_000 + b'"']

    server = server_of(slow, "127.0.0.1:0")
    running = threading.Thread(target=server.run)
    running.start()
    result: list[tuple[int, object]] = []
    asking = threading.Thread(
        target=lambda: result.append(ask(server.effective_port, "GET / HTTP/1.1\nHost: 127.0.0.1\nConnection: close"))
    )
    asking.start()
    assert begun.wait(10)
    server.stop()
    asking.join(20)
    running.join(20)
    server.close()
    assert not running.is_alive()
    assert [(status, len(str(text))) for status, text in result] == [(200, 3_000_000)]


def test_two_hundred_half_sent_requests_keep_nobody_waiting(port: int) -> None:
    current = [socket.create_connection(("127.0.0.1", port), timeout=20) for _ in range(200)]
    for one in current:
        one.sendall(HALF)
    status, result = ask(port, "GET /api/session HTTP/1.1\nHost: 127.0.0.1\nConnection: close")
    assert (status, result["username"]) == (200, None)
    for one in current:
        one.close()


def test_a_large_body_is_let_in_for_an_upload_by_one_who_may_change_the_site_alone(port: int, client: Client) -> None:
    site = Site.objects.create(slug="shop", name="Shop", address="https://shop.example")
    reader = User.objects.create_user("reader", password="a long password")
    Membership.objects.create(site=site, user=reader, role=Membership.Role.READER)
    client.force_login(reader)
    of_reader = f"\nCookie: sessionid={client.cookies['sessionid'].value}"
    for path, cookie, size, status in (
        ("/api/sites/shop/uploads", "\nCookie: csrftoken=abc", 100_000_000, 401),
        ("/api/sites/shop/uploads", of_reader, 100_000_000, 401),
        ("/api/sites/shop/moves", of_reader, 100_000_000, 413),
        ("/api/site-archives", "\nCookie: csrftoken=abc", 100_000_000, 401),
        ("/api/site-archives", of_reader, 5_000_000_000, 413),  # let in, but for its size: who is signed in may add a site
    ):
        head = f"POST {path} HTTP/1.1\nHost: 127.0.0.1\nContent-Length: {size}{cookie}"
        assert ask(port, head)[0] == status  # though no byte of the body was sent
    of_script = "\nAuthorization: Bearer zz_nothing"
    assert ask(port, f"POST /api/sites/shop/uploads HTTP/1.1\nHost: 127.0.0.1\nContent-Length: 100000000{of_script}")[0] == 401
    Membership.objects.update(role=Membership.Role.ANALYST)
    # A script's token lets in as its person's session does, and no more than the token may.
    for role, status in (("reader", 401), ("analyst", 413)):
        secret = add_token(Actor(reader), role, ["shop"], role, timezone.localdate())[1]
        head = "POST /api/sites/shop/uploads HTTP/1.1\nHost: 127.0.0.1\nContent-Length: 5000000000"
        assert ask(port, f"{head}\nAuthorization: Bearer {secret}")[0] == status
        head = head.replace("sites/shop/uploads", "site-archives")
        assert ask(port, f"{head}\nAuthorization: Bearer {secret}")[0] == 401
    # So many come in at once, and no more; one that breaks off makes room.
    head = f"POST /api/sites/shop/uploads HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 100000000{of_reader}\r\n\r\n".encode()
    coming = [socket.create_connection(("127.0.0.1", port), timeout=20) for _ in range(UPLOADS_AT_ONCE)]
    for one in coming:
        one.sendall(head.replace(b"\nCookie", b"\r\nCookie").replace(b"\r\r", b"\r"))
    one_more = f"POST /api/sites/shop/uploads HTTP/1.1\nHost: 127.0.0.1\nContent-Length: 100000000{of_reader}"
    status, result = until(503, port, one_more)
    assert (status, "in a minute" in str(result["remedy"])) == (503, True)
    for one in coming:
        one.close()
    assert until(413, port, one_more.replace("100000000", "5000000000"))[0] == 413
    too_large = f"POST /api/sites/shop/uploads HTTP/1.1\nHost: 127.0.0.1\nContent-Length: 5000000000{of_reader}"
    assert ask(port, too_large)[0] == 413


def test_an_upload_outlives_the_restart_of_the_database(port: int, client: Client, monkeypatch: pytest.MonkeyPatch) -> None:
    """After a restart of the database server, a connection's next query fails, in the thread of all requests."""
    site = Site.objects.create(slug="shop", name="Shop", address="https://shop.example")
    analyst = User.objects.create_user("analyst", password="a long password")
    Membership.objects.create(site=site, user=analyst, role=Membership.Role.ANALYST)
    client.force_login(analyst)
    head = "POST /api/sites/shop/uploads HTTP/1.1\nHost: 127.0.0.1\nContent-Length: 5000000000"
    head += f"\nCookie: sessionid={client.cookies['sessionid'].value}"
    failing = [OperationalError("the connection is closed")]
    get_user = serving.get_user

    def get_user_or_fail(request: Any) -> Any:
        if failing:
            raise failing.pop()
        return get_user(request)

    monkeypatch.setattr(serving, "get_user", get_user_or_fail)
    assert ask(port, head)[0] == 413  # let in, but for its size
    failing[:] = [OperationalError("the server is starting up")] * 2
    status, result = ask(port, head)
    assert (status, result["title"]) == (503, "The database cannot be reached")
    assert ask(port, head)[0] == 413


def test_a_request_has_a_bound_in_time_that_grows_with_what_has_come() -> None:
    parser = Parser(Adjustments())
    assert not parser.is_late(parser.began_at + HEAD_SECONDS - 1)
    assert parser.is_late(parser.began_at + HEAD_SECONDS + 1)
    parser.body_bytes_received = 100 * SLOWEST
    assert not parser.is_late(parser.began_at + HEAD_SECONDS + 99)


# --- who waits for whom -----------------------------------------------------------------------------------------------------


@pytest.fixture
def slow() -> Iterator[tuple[int, threading.Event, Counter[str]]]:
    """A server whose lists wait for an event; its port, the event, and the responses."""
    goes_on, answered = threading.Event(), Counter[str]()

    def application(environ: dict[str, Any], start_response: Callable[..., object]) -> list[bytes]:
        path = str(environ["PATH_INFO"])
        if path.startswith("/api/sites"):
            goes_on.wait(20)
        answered[f"{path} {environ.get('HTTP_COOKIE', '')}"] += 1
        start_response("200 OK", [("Content-Type", "application/json")])
        return [b"{}"]

    server = server_of(application, "127.0.0.1:0")
    threading.Thread(target=server.run, daemon=True).start()
    yield int(server.effective_port), goes_on, answered
    goes_on.set()
    server.task_dispatcher.shutdown()
    server.close()


def as_person(name: str, path: str = "/api/sites/shop/findings/pages") -> str:
    return f"GET {path} HTTP/1.1\nHost: 127.0.0.1\nCookie: sessionid={name}\nConnection: close"


def test_sixteen_slow_requests_of_one_person_keep_nobody_else_waiting(slow: tuple[int, threading.Event, Counter[str]]) -> None:
    port, goes_on, answered = slow
    with ThreadPoolExecutor(90) as pool:
        greedy = [pool.submit(ask, port, as_person("greedy")) for _ in range(40)]
        time.sleep(0.5)
        begun = time.monotonic()
        for text in (
            "GET /healthz HTTP/1.1\nHost: x\nConnection: close", as_person("greedy", "/api/session"),
            "POST /api/session HTTP/1.1\nHost: x\nContent-Length: 0\nConnection: close", as_person("other", "/api/account"),
        ):  # fmt: skip
            assert ask(port, text)[0] == 200
        assert time.monotonic() - begun < 8  # the slow ones wait for twenty seconds, or for us
        # Many people at once have the rest between them, whoever came first.
        others = [pool.submit(ask, port, as_person(f"person {number}")) for number in range(20)]
        time.sleep(0.5)
        goes_on.set()
        assert {one.result(20)[0] for one in [*greedy, *others]} == {200}
    assert answered["/api/sites/shop/findings/pages sessionid=greedy"] == 40


def test_more_than_anybody_waits_for_is_refused_in_words(slow: tuple[int, threading.Event, Counter[str]]) -> None:
    port, goes_on, _ = slow
    with ThreadPoolExecutor(120) as pool:
        asked = [pool.submit(ask, port, as_person("greedy")) for _ in range(WAITING_MAX + OF_A_PERSON + 20)]
        until = time.monotonic() + 10
        while sum(one.done() for one in asked) < 20 and time.monotonic() < until:
            time.sleep(0.05)
        refused = [one.result() for one in asked if one.done()]
        goes_on.set()
        assert len(refused) == 20
        assert {status for status, _ in refused} == {503}
        assert "many requests waiting" in str(refused[0][1]["remedy"])
        assert sum(one.result(20)[0] == 200 for one in asked) == WAITING_MAX + OF_A_PERSON


def test_a_taken_port_is_one_clear_line(tmp_path: Path) -> None:
    with socket.socket() as other:
        other.bind(("127.0.0.1", 0))
        other.listen()
        taken = other.getsockname()[1]
        installation = Installation(tmp_path / "data").migrated()
        server = [sys.executable, "manage.py", "serve", "--listen", f"127.0.0.1:{taken}"]
        ports = {"STANDINS_PORT": str(taken), "STANDINS_MAIL_PORT": str(taken)}
        for command, remedy in (
            (server, "serve PORT=8001"),
            ([sys.executable, "-m", "zugzwang.standins"], "STANDINS_MAIL_PORT=8026"),
        ):
            result = subprocess.run(
                command, cwd=ROOT, env={**installation.env, **ports}, capture_output=True, text=True, timeout=120, check=False
            )
            assert result.returncode != 0
            assert remedy in result.stderr
            assert "Traceback" not in result.stderr
