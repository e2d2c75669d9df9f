"""Behind Debian's nginx with TLS, with the shipped configuration (deploy/nginx.conf): client addresses come from the proxy
alone, uploads are streamed, and operator endpoints are not public.
"""

import datetime
import http.client
import json
import os
import socket
import ssl
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec

from tests.installation import PATIENCE, database_of_its_own, migrate_in
from tests.standin_server import free_port

ROOT = Path(__file__).parents[1]
HOST = "seo.shop.example"
UPLOAD_MB = int(os.environ.get("ZUGZWANG_TEST_UPLOAD_MB", "60"))
MAKE = """
import django; django.setup()
from django.contrib.auth.models import User
from zugzwang.access import Actor
from zugzwang.subjects.sites import add_site
add_site(Actor(User.objects.create_user("ann", password="a long password")), "Shop", "https://shop.example", "shop")
"""


def certificate(folder: Path) -> None:
    """A self-signed certificate for the host."""
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(x509.NameOID.COMMON_NAME, HOST)])
    now = datetime.datetime.now(datetime.UTC)
    built = (
        x509.CertificateBuilder().subject_name(name).issuer_name(name).public_key(key.public_key())
        .serial_number(x509.random_serial_number()).not_valid_before(now - datetime.timedelta(days=1))
        .not_valid_after(now + datetime.timedelta(days=2))
        .add_extension(x509.SubjectAlternativeName([x509.DNSName(HOST)]), critical=False).sign(key, hashes.SHA256())
    )  # fmt: skip
    (folder / "cert.pem").write_bytes(built.public_bytes(serialization.Encoding.PEM))
    pem = key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())
    (folder / "cert.key").write_bytes(pem)


def environment(data: Path) -> dict[str, str]:
    return {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": "zugzwang.settings",
        "ZUGZWANG_DATA_DIR": str(data),
        "ZUGZWANG_HTTPS": "1",
        "ZUGZWANG_HOSTS": HOST,
        "ZUGZWANG_ORIGINS": f"https://{HOST}",
        "ZUGZWANG_ADDRESS": f"https://{HOST}",
        "ZUGZWANG_TRUSTED_PROXY": "127.0.0.1",
        "ZUGZWANG_METRICS": "1",
    }


class Running:
    """The ports of nginx (TLS and plain) and of the server behind it, and its process."""

    web: "subprocess.Popen[bytes]"

    def __init__(self, folder: Path) -> None:
        self.folder, self.tls, self.plain, self.behind = folder, free_port(), free_port(), free_port()
        self.context = ssl.create_default_context(cafile=str(folder / "cert.pem"))
        self.cookies: dict[str, str] = {}

    def connection(self) -> http.client.HTTPSConnection:
        """A connection to nginx under the certificate's name."""
        connection = http.client.HTTPSConnection(HOST, self.tls, timeout=60, context=self.context)
        connection._create_connection = lambda address, *rest: socket.create_connection(  # type: ignore[attr-defined]
            ("127.0.0.1", address[1]), *rest
        )
        return connection

    def ask(self, method: str, path: str, body: Any = None, **headers: str) -> tuple[http.client.HTTPResponse, bytes]:
        connection = self.connection()
        rows = {
            "Cookie": "; ".join(f"{name}={value}" for name, value in self.cookies.items()),
            "X-CSRFToken": self.cookies.get("csrftoken", ""), "Referer": f"https://{HOST}/", "Origin": f"https://{HOST}",
            "Content-Type": "application/json", **headers,
        }  # fmt: skip
        try:
            connection.request(method, path, body if not isinstance(body, dict) else json.dumps(body), rows)
            answer = connection.getresponse()
            current = answer.read()
        finally:
            connection.close()
        for cookie in answer.headers.get_all("Set-Cookie") or []:
            name, _, value = cookie.partition(";")[0].partition("=")
            self.cookies[name] = value
        return answer, current


@pytest.fixture(scope="module")
def running(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    folder = tmp_path_factory.mktemp("nginx")
    (folder / "data").mkdir()
    certificate(folder)
    current = Running(folder)
    site = (ROOT / "deploy/nginx.conf").read_text()
    for ours, theirs in {
        "listen 80;": f"listen 127.0.0.1:{current.plain};",
        "listen 443 ssl;": f"listen 127.0.0.1:{current.tls} ssl;",
        "127.0.0.1:8000": f"127.0.0.1:{current.behind}",
        "/etc/ssl/seo.shop.example.pem": str(folder / "cert.pem"),
        "/etc/ssl/seo.shop.example.key": str(folder / "cert.key"),
    }.items():
        assert ours in site
        site = site.replace(ours, theirs)
    temporary = "".join(f"{name}_temp_path {folder}/{name};" for name in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi"))
    whole = f"daemon off; pid {folder}/pid; error_log stderr; events {{}} http {{ access_log off; {temporary}\n{site} }}"
    (folder / "nginx.conf").write_text(whole)
    env = {**environment(folder / "data"), "ZUGZWANG_DATABASE": database_of_its_own()}
    log = (folder / "log.txt").open("wb")

    def run(*command: str) -> "subprocess.Popen[bytes]":
        return subprocess.Popen(command, cwd=ROOT, env=env, stdout=log, stderr=log)

    migrate_in(env)
    assert run(sys.executable, "-c", MAKE).wait() == 0
    web = run(sys.executable, "manage.py", "serve", "--listen", f"127.0.0.1:{current.behind}")
    proxy = run("/usr/sbin/nginx", "-c", str(folder / "nginx.conf"), "-p", str(folder))
    current.web = web
    try:
        for _ in range(1_200):
            try:
                if current.ask("GET", "/healthz")[0].status == 200:
                    break
            except OSError:
                pass
            time.sleep(0.1)
        else:
            raise TimeoutError((folder / "log.txt").read_text())
        yield current
    finally:
        for one in (proxy, web):
            one.terminate()
            one.wait(20)
        log.close()


def test_who_asks_is_told_by_the_proxy_alone(running: Running) -> None:
    plain = http.client.HTTPConnection("127.0.0.1", running.plain, timeout=20)
    plain.request("GET", "/sites", headers={"Host": HOST})
    moved = plain.getresponse()
    plain.close()
    assert (moved.status, moved.headers["Location"]) == (301, f"https://{HOST}/sites")
    running.ask("GET", "/api/session")
    forged = {"X-Forwarded-For": "203.0.113.9", "X-Forwarded-Proto": "http", "X-Forwarded-Host": "evil.example"}
    answer, body = running.ask("POST", "/api/session", {"username": "ann", "password": "a long password"}, **forged)
    assert answer.status == 200, body
    assert all("Secure" in one for one in answer.headers.get_all("Set-Cookie") or [])
    assert answer.headers["Strict-Transport-Security"].startswith("max-age=31536000")
    account = json.loads(running.ask("GET", "/api/account", **forged)[1])
    assert {one["address"] for one in account["sessions"]} == {"127.0.0.1"}
    assert running.ask("GET", "/metrics")[0].status == 404
    result = running.ask("GET", "/api/sites", **{"X-Request-ID": "given-by-a-stranger"})[0].headers["X-Request-ID"]
    assert result != "given-by-a-stranger"


def test_a_large_upload_streams_through(running: Running) -> None:
    """Neither nginx nor the server reads it into memory; other requests are answered meanwhile."""
    running.ask("GET", "/api/session")
    running.ask("POST", "/api/session", {"username": "ann", "password": "a long password"})
    head = b'--x\r\nContent-Disposition: form-data; name="file"; filename="facts.csv"\r\nContent-Type: text/csv\r\n\r\n'
    first = b"date,page,query,clicks,impressions,position\n"
    row = b"2026-11-09,https://shop.example/a-page-with-a-name/,canoe for two,1,20,4.5\n" * 13_000
    tail, rows = b"\r\n--x--\r\n", UPLOAD_MB * 1_000_000 // len(row)
    waits = []

    def body() -> Iterator[bytes]:
        yield head + first
        for number in range(rows):
            if number % 10 == 0:
                begun = time.monotonic()
                assert running.ask("GET", "/healthz")[0].status == 200
                waits.append(time.monotonic() - begun)
            yield row
        yield tail

    size = len(head) + len(first) + rows * len(row) + len(tail)
    before = resident(running)
    form = {"Content-Type": "multipart/form-data; boundary=x", "Content-Length": str(size)}
    answer, result = running.ask("POST", "/api/sites/shop/uploads", body(), **form)
    assert answer.status in (200, 201), result
    assert resident(running) - before < size / 1_000_000 / 4
    assert max(waits) < 5
    more = resident(running) - before
    print(f"{size / 1e6:.0f} MB: {more:.0f} MB more in memory; slowest answer meanwhile {max(waits):.2f} s")


def resident(running: Running) -> float:
    """The resident memory of the web process, in MB."""
    current = Path(f"/proc/{running.web.pid}/status").read_text()
    return int(current.split("VmRSS:")[1].split()[0]) / 1000


def test_unsafe_settings_keep_it_from_starting(tmp_path: Path) -> None:
    migrate_in(environment(tmp_path))
    for wrong, said in (
        ({"ZUGZWANG_DEBUG": "1"}, "ZUGZWANG_DEBUG"),
        ({"ZUGZWANG_HOSTS": "*"}, "answers to any name"),
        ({"ZUGZWANG_ADDRESS": "http://seo.shop.example"}, "is not an https address"),
    ):
        env = {**environment(tmp_path), **wrong}
        command = [sys.executable, "manage.py", "serve", "--listen", f"127.0.0.1:{free_port()}"]
        result = subprocess.run(command, cwd=ROOT, env=env, capture_output=True, text=True, timeout=PATIENCE, check=False)
        assert result.returncode == 1
        assert said in result.stderr
    (tmp_path / "secret_key").chmod(0o644)
    env = environment(tmp_path)
    result = subprocess.run(command, cwd=ROOT, env=env, capture_output=True, text=True, timeout=PATIENCE, check=False)
    assert "can be read by others" in result.stderr
