"""The one way out: every request to another machine goes through here.

Addresses are resolved when the connection is made and refused where they are private (loopback, local networks, metadata
services …), unless the operator or the site's connection allows them; few redirects are followed, bounded bytes are read,
nothing waits for ever. `ZUGZWANG_HOST_MAP` says where named hosts really are, such as a stand-in on this machine.
"""

import asyncio
import ipaddress
import socket
import ssl
import time
from collections.abc import Iterable
from typing import Any
from urllib.parse import urlsplit

import httpcore
import httpx
from django.conf import settings

from zugzwang.errors import ProductError

CONNECT_SECONDS = 10.0
READ_SECONDS = 60.0
REDIRECTS = 5
REPLY_MAX_BYTES = 100_000_000


class OutsideRefused(ProductError):
    """An address that must not be reached, or a reply that cannot be used."""


def _allowed(addresses: Iterable[str], host: str) -> str:
    """The first public address of a host; OutsideRefused when there is none."""
    for address in addresses:
        if ipaddress.ip_address(address.partition("%")[0]).is_global:
            return address
    raise OutsideRefused(
        f"{host} is a private address, which is not fetched.", "Allow private addresses for this connection if it is meant."
    )


def _resolved(found: list[Any]) -> list[str]:
    return [str(one[4][0]) for one in found]


class _GuardedBackend(httpcore.SyncBackend):
    """Connects only to public addresses: the check and the connection use the same resolution of the name."""

    def connect_tcp(self, host: str, port: int, *args: Any, **options: Any) -> httpcore.NetworkStream:
        try:
            found = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)
        except OSError as error:
            raise httpcore.ConnectError(f"{host} is not known") from error
        return super().connect_tcp(_allowed(_resolved(found), host), port, *args, **options)


class _GuardedAsyncBackend(httpcore.AnyIOBackend):
    async def connect_tcp(self, host: str, port: int, *args: Any, **options: Any) -> httpcore.AsyncNetworkStream:
        try:
            found = await asyncio.get_running_loop().getaddrinfo(host, port, type=socket.SOCK_STREAM)
        except OSError as error:
            raise httpcore.ConnectError(f"{host} is not known") from error
        return await super().connect_tcp(_allowed(_resolved(found), host), port, *args, **options)


def _transport(private_allowed: bool) -> httpx.HTTPTransport:
    transport = httpx.HTTPTransport()
    if not private_allowed:
        # httpx has no other door for a network backend.
        transport._pool = httpcore.ConnectionPool(ssl_context=ssl.create_default_context(), network_backend=_GuardedBackend())
    return transport


def _async_transport(private_allowed: bool, connections: int) -> httpx.AsyncHTTPTransport:
    limits = httpx.Limits(max_connections=connections, max_keepalive_connections=connections)
    transport = httpx.AsyncHTTPTransport(limits=limits)
    if not private_allowed:
        transport._pool = httpcore.AsyncConnectionPool(
            ssl_context=ssl.create_default_context(),
            max_connections=connections,
            max_keepalive_connections=connections,
            network_backend=_GuardedAsyncBackend(),
        )
    return transport


def mapped(address: str) -> tuple[str, dict[str, str]]:
    """The address that is really asked, and the headers that this needs: those of ZUGZWANG_HOST_MAP, or as it stands."""
    given = urlsplit(address)
    there = _really(given.hostname or "")
    if there is None:
        return address, {}
    real = urlsplit(there)
    return given._replace(scheme=real.scheme, netloc=real.netloc).geturl(), {"host": given.netloc}


def _really(host: str) -> str | None:
    """Where a host really is by the operator's map: by its name, else by an entry such as *.example for all below one."""
    host = host.lower()
    below = (f"*.{host.split('.', number)[-1]}" for number in range(1, host.count(".") + 1))
    return next((settings.HOST_MAP[name] for name in (host, *below) if name in settings.HOST_MAP), None)


def client(private_allowed: bool) -> httpx.Client:
    """A client for services. A host of the operator's own map is reached wherever it is."""
    return httpx.Client(
        transport=_ByOrigin(_transport(private_allowed), httpx.HTTPTransport()),
        timeout=httpx.Timeout(READ_SECONDS, connect=CONNECT_SECONDS),
        follow_redirects=False,
        trust_env=False,
        headers={"user-agent": settings.USER_AGENT},
    )


def async_client(private_allowed: bool, connections: int) -> httpx.AsyncClient:
    """A client for the crawler."""
    return httpx.AsyncClient(
        transport=_ByOriginAsync(_async_transport(private_allowed, connections), _async_transport(True, connections)),
        timeout=httpx.Timeout(READ_SECONDS / 3, connect=CONNECT_SECONDS),
        follow_redirects=False,
        trust_env=False,
        headers={"user-agent": settings.USER_AGENT},
    )


def origin_of(address: str | httpx.URL) -> tuple[str, str, int | None]:
    """Scheme, host and port of an address; the port as the scheme has it where none is named."""
    url = httpx.URL(address)
    return url.scheme, url.host, url.port or {"http": 80, "https": 443}.get(url.scheme)


def _is_mapped(request: httpx.Request) -> bool:
    """Whether a request goes to exactly where the operator's map leads: the same host at another port is another service."""
    return origin_of(request.url) in {origin_of(there) for there in settings.HOST_MAP.values()}


class _ByOrigin(httpx.BaseTransport):
    """A guarded way out, and a free one to where the operator's map leads."""

    def __init__(self, guarded: httpx.BaseTransport, free: httpx.BaseTransport) -> None:
        self.guarded, self.free = guarded, free

    def handle_request(self, request: httpx.Request) -> httpx.Response:
        return (self.free if _is_mapped(request) else self.guarded).handle_request(request)

    def close(self) -> None:
        self.guarded.close()
        self.free.close()


class _ByOriginAsync(httpx.AsyncBaseTransport):
    def __init__(self, guarded: httpx.AsyncBaseTransport, free: httpx.AsyncBaseTransport) -> None:
        self.guarded, self.free = guarded, free

    async def handle_async_request(self, request: httpx.Request) -> httpx.Response:
        return await (self.free if _is_mapped(request) else self.guarded).handle_async_request(request)

    async def aclose(self) -> None:
        await self.guarded.aclose()
        await self.free.aclose()


def get(http: httpx.Client, address: str, headers: dict[str, str]) -> httpx.Response:
    """The reply to a GET, read whole and bounded, redirects followed within the same host."""
    host = urlsplit(address).netloc
    for _ in range(REDIRECTS + 1):
        reply = send(http, "GET", address, headers)
        if not reply.has_redirect_location:
            return reply
        address = str(httpx.URL(address).join(reply.headers["location"]))
        if urlsplit(address).netloc != host:
            # The token was given for one host and is told to no other.
            raise OutsideRefused(
                f"The service sends us on to {urlsplit(address).netloc}.", "Connect to that address if it is meant."
            )
    raise OutsideRefused(f"The service sends us on more than {REDIRECTS} times.", "Look at its address.")


def send(
    http: httpx.Client,
    method: str,
    address: str,
    headers: dict[str, str],
    told: bytes = b"",
    most_bytes: int = REPLY_MAX_BYTES,
    seconds: float | None = None,
) -> httpx.Response:
    """The reply to one request, read whole and bounded; no redirect is followed. `seconds`: of the whole reply, so that one
    which comes drop by drop ends too."""
    real, mapped_headers = mapped(address)
    begun = time.monotonic()
    with http.stream(method, real, headers={**headers, **mapped_headers}, content=told or None) as reply:
        body = b""
        for piece in reply.iter_bytes():
            body += piece
            if len(body) > most_bytes:
                raise OutsideRefused(f"{address} answers with more than {most_bytes / 1_000_000:.0f} MB.", "Ask for less.")
            if seconds is not None and time.monotonic() - begun > seconds:
                raise httpx.ReadTimeout(f"{address} has not answered whole after {seconds:.0f} seconds")
    plain = [(name, value) for name, value in reply.headers.items() if name not in ("content-encoding", "content-length")]
    return httpx.Response(reply.status_code, headers=plain, content=body)
