"""Requests to other servers: limits for their responses, and which addresses are allowed. Servers are on loopback or fakes:
address tests open no connection.
"""

import asyncio
import contextlib
import gzip
import resource
import socket
import threading
import time
from collections.abc import Callable, Iterator
from typing import Any

import httpcore
import httpx
import pytest

from zugzwang.intake import crawling, outside
from zugzwang.intake.crawling import Crawler, CrawlRequest
from zugzwang.intake.outside import OutsideRefused, async_client, client, get, is_public, send

Answer = Callable[[socket.socket], None]


@pytest.fixture(autouse=True)
def no_host_is_elsewhere(settings: Any) -> None:
    settings.HOST_MAP = {}


@pytest.fixture
def serve() -> Iterator[Callable[[Answer], str]]:
    """A loopback server that answers each connection with a function; its address."""
    listening: list[socket.socket] = []

    def start(answer: Answer) -> str:
        server = socket.create_server(("127.0.0.1", 0))
        listening.append(server)

        def work() -> None:
            while True:
                try:
                    connection, _ = server.accept()
                except OSError:
                    return
                threading.Thread(target=one, args=(connection,), daemon=True).start()

        def one(connection: socket.socket) -> None:
            with connection:
                connection.recv(65_536)
                with contextlib.suppress(OSError):
                    answer(connection)

        threading.Thread(target=work, daemon=True).start()
        return f"http://127.0.0.1:{server.getsockname()[1]}/"

    yield start
    for one in listening:
        one.close()


def reply(body: bytes, **headers: str) -> Answer:
    rows = "".join(f"{name.replace('_', '-')}: {value}\r\n" for name, value in headers.items())
    head = f"HTTP/1.1 200 OK\r\nContent-Length: {len(body)}\r\n{rows}Connection: close\r\n\r\n".encode()
    return lambda connection: connection.sendall(head + body)


def packed(times: int, size: int = 300_000_000) -> bytes:
    body = bytes(size)
    for _ in range(times):
        body = gzip.compress(body, 9)
    return body


def fetch(address: str, bytes_max: int = 8_000_000) -> tuple[int, httpx.Headers, bytes]:
    async def run() -> Any:
        crawler = Crawler(CrawlRequest((address,), ("127.0.0.1",)))
        async with async_client(True, 2) as http:
            crawler.http = http
            return await crawler._get(address, bytes_max)

    got: tuple[int, httpx.Headers, bytes] = asyncio.run(run())
    return got


def test_what_is_packed_is_unpacked_to_a_limit(serve: Callable[[Answer], str]) -> None:
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    once, thrice = packed(1), packed(3)
    for address, refused in (
        (serve(reply(once, content_encoding="gzip")), "more than 20 MB"),
        (serve(reply(thrice, content_encoding="gzip, gzip, gzip")), "packs its reply as “gzip, gzip, gzip”"),
        (serve(reply(b"x", content_encoding="br")), "packs its reply as “br”"),
    ):
        with client(True) as http, pytest.raises(OutsideRefused, match=refused):
            send(http, "GET", address, {}, most_bytes=20_000_000)
    status, _, body = fetch(serve(reply(once, content_encoding="gzip")))
    assert (status, len(body)) == (200, 8_000_000)
    with pytest.raises(OutsideRefused, match="gzip, gzip, gzip"):
        fetch(serve(reply(thrice, content_encoding="gzip, gzip, gzip")))
    grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) * 1024
    assert grown < 700_000_000  # 300 MB of it are what was packed here
    with client(True) as http:
        assert send(http, "GET", serve(reply(gzip.compress(b"whole"), content_encoding="gzip")), {}).content == b"whole"


def test_a_large_reply_takes_as_long_as_its_size(serve: Callable[[Answer], str]) -> None:
    address = serve(reply(bytes(60_000_000)))
    begun = time.monotonic()
    with client(True) as http:
        assert len(send(http, "GET", address, {}).content) == 60_000_000
    assert time.monotonic() - begun < 5  # as a growing `bytes`, half a minute


def drips(connection: socket.socket) -> None:
    connection.sendall(b"HTTP/1.1 200 OK\r\nContent-Length: 100000\r\n\r\n")
    while True:
        connection.sendall(b"x")
        time.sleep(0.05)


def drips_headers(connection: socket.socket) -> None:
    connection.sendall(b"HTTP/1.1 200 OK\r\n")
    while True:
        connection.sendall(b"X-A: b\r\n")
        time.sleep(0.05)


@pytest.mark.parametrize("answer", [drips, drips_headers])
def test_a_reply_that_drips_is_ended(serve: Callable[[Answer], str], answer: Answer, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(crawling, "GET_SECONDS", 1.0)
    address = serve(answer)
    begun = time.monotonic()
    with client(True) as http, pytest.raises(httpx.TimeoutException):
        send(http, "GET", address, {}, seconds=1.0)
    with pytest.raises(httpx.TimeoutException):
        fetch(address)
    assert time.monotonic() - begun < 5


def test_a_reply_slower_than_the_least_rate_is_ended(serve: Callable[[Answer], str], monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(outside, "RATE_AFTER_SECONDS", 0.5)
    begun = time.monotonic()
    with client(True) as http, pytest.raises(httpx.ReadTimeout, match="bytes a second"):
        send(http, "GET", serve(drips), {})
    assert time.monotonic() - begun < 5


# --- addresses --------------------------------------------------------------------------------------------------------------


# Public ones: of documentation (RFC 5737, RFC 3849) none is, so these are of the ranges that registries allot.
@pytest.mark.parametrize("address", ["1.1.1.1", "2606:4700::1", "::ffff:1.1.1.1"])
def test_public_addresses_are_public(address: str) -> None:
    assert is_public(address)


@pytest.mark.parametrize(
    "address",
    [
        "127.0.0.1", "10.0.0.1", "169.254.169.254", "100.64.0.1", "224.0.0.1", "240.0.0.1", "255.255.255.255", "0.0.0.0",
        "::1", "fe80::1%eth0", "fc00::1", "fec0::1", "ff02::1", "::ffff:10.0.0.1", "::10.0.0.1", "64:ff9b::a00:1",
        "64:ff9b:1::a00:1", "2002:a00:1::1", "2001:0:a00:1::1", "100::1", "2001:db8::1",
    ],
)  # fmt: skip
def test_addresses_that_lead_inside_are_never_connected_to(address: str, monkeypatch: pytest.MonkeyPatch) -> None:
    family = socket.AF_INET6 if ":" in address else socket.AF_INET

    def resolved(*_: Any, **__: Any) -> list[Any]:
        return [(family, socket.SOCK_STREAM, 0, "", (address, 80))]

    def connects(*_: Any, **__: Any) -> None:
        raise AssertionError("a connection was opened")

    monkeypatch.setattr(socket, "getaddrinfo", resolved)
    monkeypatch.setattr(httpcore.SyncBackend, "connect_tcp", connects)
    monkeypatch.setattr(httpcore.AnyIOBackend, "connect_tcp", connects)
    with client(False) as http, pytest.raises(OutsideRefused, match="private address"):
        send(http, "GET", "http://inside.example/", {})

    async def crawls() -> None:
        async with async_client(False, 1) as http:
            await http.get("http://inside.example/")

    with pytest.raises(OutsideRefused, match="private address"):
        asyncio.run(crawls())


@pytest.mark.parametrize("there", ["http://data.example/", "https://data.example:8443/", "https://other.example/"])
def test_a_token_is_sent_to_no_other_scheme_host_or_port(there: str) -> None:
    asked: list[str] = []

    def answer(request: httpx.Request) -> httpx.Response:
        asked.append(str(request.url))
        moved = request.url.path == "/"
        body = httpx.ByteStream(b"here")
        return httpx.Response(302, headers={"location": there}, stream=body) if moved else httpx.Response(200, stream=body)

    with httpx.Client(transport=httpx.MockTransport(answer)) as http:
        with pytest.raises(OutsideRefused, match="redirects to"):
            get(http, "https://data.example/", {"authorization": "Bearer secret"})
        assert asked == ["https://data.example/"]
        assert get(http, "https://data.example/rows", {}).content == b"here"
