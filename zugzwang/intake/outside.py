"""The only way out: every request to another machine goes through here.

Addresses are resolved when the connection is made and refused where they are private (loopback, local networks, metadata
services …), unless the operator or the site's connection allows them. Few redirects are followed. Responses are
decompressed as they arrive, up to a limit of bytes, and have a time limit and a minimum rate, including their headers.
`ZUGZWANG_HOST_MAP` maps host names to other addresses, such as a stand-in on this machine.
"""

import asyncio
import ipaddress
import socket
import ssl
import time
import zlib
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
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
REPLY_SECONDS = 300.0  # for a whole response
RATE_AFTER_SECONDS, LEAST_BYTES_A_SECOND = 20.0, 500.0
# The requested encodings, and the only ones unpacked: a response compressed several times could exceed every limit.
ACCEPTED = "gzip, deflate"
_ENCODINGS = frozenset(("gzip", "x-gzip", "deflate"))
# Ranges that the standard library treats as global but that lead to private addresses or to many: IPv4 within IPv6 by NAT64
# (RFC 6052, RFC 8215), 6to4 (RFC 3056), Teredo (RFC 4380) and the compatible form (RFC 4291, 2.5.5.1); site-local (RFC
# 3879).
_REFUSED = tuple(
    ipaddress.ip_network(one)
    for one in ("64:ff9b::/96", "64:ff9b:1::/48", "2002::/16", "2001::/32", "::/96", "fec0::/10", "100::/64", "240.0.0.0/4")
)


class OutsideRefused(ProductError):
    """A forbidden address, or an unusable response."""


def is_public(address: str) -> bool:
    """Whether an address belongs to the public internet."""
    ip = ipaddress.ip_address(address.partition("%")[0])
    mapped_ip = getattr(ip, "ipv4_mapped", None)
    if mapped_ip is not None:
        return is_public(str(mapped_ip))
    return ip.is_global and not ip.is_multicast and not any(ip in one for one in _REFUSED if one.version == ip.version)


def _allowed(addresses: Iterable[str], host: str) -> str:
    """The first public address of a host. Raises OutsideRefused where there is none."""
    for address in addresses:
        if is_public(address):
            return address
    raise OutsideRefused(
        f"{host} is a private address, which is blocked.", "Allow private addresses for this connection if intended."
    )


def _resolved(found: list[Any]) -> list[str]:
    return [str(one[4][0]) for one in found]


# The deadline of this thread's or task's current request.
_until: ContextVar[float | None] = ContextVar("until", default=None)


@contextmanager
def _within(seconds: float) -> Iterator[None]:
    token = _until.set(time.monotonic() + seconds)
    try:
        yield
    finally:
        _until.reset(token)


class _TimedStream(httpcore.NetworkStream):
    """A connection on which a whole request has a time limit, including its headers: httpx limits only each read."""

    def __init__(self, stream: httpcore.NetworkStream) -> None:
        self.stream = stream

    def read(self, max_bytes: int, timeout: float | None = None) -> bytes:
        return self.stream.read(max_bytes, _left(timeout))

    def write(self, buffer: bytes, timeout: float | None = None) -> None:
        self.stream.write(buffer, _left(timeout))

    def close(self) -> None:
        self.stream.close()

    def start_tls(self, *args: Any, **options: Any) -> httpcore.NetworkStream:
        return _TimedStream(self.stream.start_tls(*args, **options))

    def get_extra_info(self, info: str) -> Any:
        return self.stream.get_extra_info(info)


def _left(timeout: float | None) -> float | None:
    """Seconds left for a read. Raises ReadTimeout where the request's time is over."""
    until = _until.get()
    if until is None:
        return timeout
    left = until - time.monotonic()
    if left <= 0:
        raise httpcore.ReadTimeout("the whole reply took too long")
    return left if timeout is None else min(left, timeout)


class _Backend(httpcore.SyncBackend):
    """Connects to public addresses only, or to any; the check and the connection use the same resolution of the name."""

    def __init__(self, private_allowed: bool) -> None:
        self.private_allowed = private_allowed

    def connect_tcp(self, host: str, port: int, *args: Any, **options: Any) -> httpcore.NetworkStream:
        if not self.private_allowed:
            try:
                found = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)
            except OSError as error:
                raise httpcore.ConnectError(f"{host} is unknown") from error
            host = _allowed(_resolved(found), host)
        return _TimedStream(super().connect_tcp(host, port, *args, **options))


class _GuardedAsyncBackend(httpcore.AnyIOBackend):
    async def connect_tcp(self, host: str, port: int, *args: Any, **options: Any) -> httpcore.AsyncNetworkStream:
        try:
            found = await asyncio.get_running_loop().getaddrinfo(host, port, type=socket.SOCK_STREAM)
        except OSError as error:
            raise httpcore.ConnectError(f"{host} is unknown") from error
        return await super().connect_tcp(_allowed(_resolved(found), host), port, *args, **options)


def _transport(private_allowed: bool) -> httpx.HTTPTransport:
    transport = httpx.HTTPTransport()
    # httpx has no public way to set a network backend.
    backend = _Backend(private_allowed)
    transport._pool = httpcore.ConnectionPool(ssl_context=ssl.create_default_context(), network_backend=backend)
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
    """The address to connect to, and the headers this needs: from ZUGZWANG_HOST_MAP, or unchanged."""
    values = urlsplit(address)
    there = _really(values.hostname or "")
    if there is None:
        return address, {}
    real = urlsplit(there)
    return values._replace(scheme=real.scheme, netloc=real.netloc).geturl(), {"host": values.netloc}


def _really(host: str) -> str | None:
    """The operator's mapping of a host: by its name, otherwise by an entry such as *.example for all subdomains."""
    host = host.lower()
    below = (f"*.{host.split('.', number)[-1]}" for number in range(1, host.count(".") + 1))
    return next((settings.HOST_MAP[name] for name in (host, *below) if name in settings.HOST_MAP), None)


def client(private_allowed: bool) -> httpx.Client:
    """A client for services. Hosts in the operator's map are reached wherever they are."""
    return httpx.Client(
        transport=_ByOrigin(_transport(private_allowed), _transport(True)),
        timeout=httpx.Timeout(READ_SECONDS, connect=CONNECT_SECONDS),
        follow_redirects=False,
        trust_env=False,
        headers={"user-agent": settings.USER_AGENT, "accept-encoding": ACCEPTED},
    )


def async_client(private_allowed: bool, connections: int) -> httpx.AsyncClient:
    """A client for the crawler."""
    return httpx.AsyncClient(
        transport=_ByOriginAsync(_async_transport(private_allowed, connections), _async_transport(True, connections)),
        timeout=httpx.Timeout(READ_SECONDS / 3, connect=CONNECT_SECONDS),
        follow_redirects=False,
        trust_env=False,
        headers={"user-agent": settings.USER_AGENT, "accept-encoding": ACCEPTED},
    )


def origin_of(address: str | httpx.URL) -> tuple[str, str, int | None]:
    """Scheme, host and port of an address; the scheme's default port where none is named."""
    url = httpx.URL(address)
    return url.scheme, url.host, url.port or {"http": 80, "https": 443}.get(url.scheme)


def _is_mapped(request: httpx.Request) -> bool:
    """Whether a request goes exactly where the operator's map leads: the same host at another port is another service."""
    return origin_of(request.url) in {origin_of(there) for there in settings.HOST_MAP.values()}


class _ByOrigin(httpx.BaseTransport):
    """A guarded transport, and a free one to targets of the operator's map."""

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


class Body:
    """The body of a response as it arrives, decompressed and bounded.

    `full`: it has reached its limit. Raises OutsideRefused for an unrequested compression, ReadTimeout below
    LEAST_BYTES_A_SECOND.
    """

    def __init__(self, address: str, headers: httpx.Headers, most_bytes: int) -> None:
        self.address, self.most_bytes = address, most_bytes
        self.bytes = bytearray()
        self.full = False
        self._begun, self._came = time.monotonic(), 0
        result = headers.get_list("content-encoding", split_commas=True)
        encodings = [one.strip().lower() for one in result if one.strip().lower() not in ("", "identity")]
        if len(encodings) > 1 or not _ENCODINGS.issuperset(encodings):
            raise OutsideRefused(f"{address} packs its reply as “{', '.join(encodings)[:100]}”.", f"Requested: {ACCEPTED}.")
        self._unpacking = zlib.decompressobj(wbits=47) if encodings else None  # gzip or zlib, by its first bytes

    def add(self, piece: bytes) -> None:
        self._came += len(piece)
        took = time.monotonic() - self._begun
        if took > RATE_AFTER_SECONDS and self._came < took * LEAST_BYTES_A_SECOND:
            raise httpx.ReadTimeout(f"{self.address} sends less than {LEAST_BYTES_A_SECOND:.0f} bytes a second")
        room = self.most_bytes - len(self.bytes) + 1
        if self._unpacking is not None:
            try:
                piece = self._unpacking.decompress(piece, room)
            except zlib.error as error:
                raise httpx.DecodingError(f"{self.address} sends a reply that cannot be unpacked") from error
        self.bytes += piece[:room]
        if len(self.bytes) > self.most_bytes:
            self.full = True
            del self.bytes[self.most_bytes :]


def get(http: httpx.Client, address: str, headers: dict[str, str]) -> httpx.Response:
    """The response to a GET, read whole and bounded, with redirects within the same scheme, host and port."""
    origin = origin_of(address)
    for _ in range(REDIRECTS + 1):
        reply = send(http, "GET", address, headers)
        if not reply.has_redirect_location:
            return reply
        address = str(httpx.URL(address).join(reply.headers["location"]))
        if origin_of(address) != origin:
            # The token belongs to one origin: it is sent to no other, and not unencrypted where it was given for https.
            scheme, host, port = origin_of(address)
            there = f"{scheme}://{host}:{port}"
            raise OutsideRefused(f"The service redirects to {there}.", "Connect to that address if it is right.")
    raise OutsideRefused(f"The service redirects more than {REDIRECTS} times.", "Check its address.")


def send(
    http: httpx.Client,
    method: str,
    address: str,
    headers: dict[str, str],
    result: bytes = b"",
    most_bytes: int = REPLY_MAX_BYTES,
    seconds: float = REPLY_SECONDS,
) -> httpx.Response:
    """The response to one request, read whole; redirects are not followed. `seconds`: for everything from connecting on.
    Raises OutsideRefused beyond `most_bytes`, httpx's errors where it fails or takes longer.
    """
    real, mapped_headers = mapped(address)
    with _within(seconds), http.stream(method, real, headers={**headers, **mapped_headers}, content=result or None) as reply:
        body = Body(address, reply.headers, most_bytes)
        for piece in reply.iter_raw():
            body.add(piece)
            if body.full:
                raise OutsideRefused(f"{address} answers with more than {most_bytes / 1_000_000:.0f} MB.", "Ask for less.")
    plain = [(name, value) for name, value in reply.headers.items() if name not in ("content-encoding", "content-length")]
    return httpx.Response(reply.status_code, headers=plain, content=bytes(body.bytes))
