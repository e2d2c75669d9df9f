"""The web server: waitress, bounded so that slow, half-sent or unwanted requests take no threads, disk or memory.

Waitress reads a whole request before a thread sees it. So the sender of a large body is checked when its headers arrive:
only an upload to a site that they may change is accepted, or an archive from someone who may add a site. Each request has a
time limit that grows with the bytes received.

Threads are divided into lanes: health, files and sessions have their own, and so has signing in. In the rest, each person
gets a few threads, in turns with everyone else. So sixteen slow requests of one person delay only that person.
"""

import errno
import json
import logging
import re
import resource
import signal
import sys
import time
from collections import Counter, OrderedDict, deque
from typing import Any, ClassVar, Literal
from weakref import WeakSet

from django.conf import settings
from django.contrib.auth import get_user
from django.contrib.sessions.backends.db import SessionStore
from django.db import DatabaseError, close_old_connections, connections
from django.http import HttpRequest, parse_cookie
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import TcpWSGIServer
from waitress.task import ThreadedTaskDispatcher
from waitress.utilities import Error

from zugzwang import bounded
from zugzwang.access import Actor
from zugzwang.api.problems import Problem
from zugzwang.data import cache
from zugzwang.errors import Conflict, Invalid, ProductError
from zugzwang.people.tokens import token_of

log = logging.getLogger(__name__)

Lane = Literal["quick", "sign in", "rest"]
# Threads of each lane. Computing has its own turns (data/cache.py, bounded.py): many of these threads only wait.
LANES: dict[Lane, int] = {"quick": 4, "sign in": 4, "rest": 32}
OF_A_PERSON = 8  # threads of the other lanes for one person
WAITING_MAX = 64  # waiting requests of one person; more are refused at once
QUICK = re.compile(r"/(?:healthz|readyz|metrics|static/.*)?")
SIGN_IN = re.compile(r"/api/(?:session|account/reset|invitations/.*)")
CONNECTIONS = 2_000
SWITCH_SECONDS = 0.001
SILENT_SECONDS = 20  # then the connection is closed
HEAD_SECONDS = 20.0
LAST_SECONDS = 25.0  # for requests under way when the server is stopped; systemd waits longer
SLOWEST = 10_000  # minimum bytes a second of a body
SMALL_BODY = 6_000_000
OVER_THE_FILE = 1_000_000  # overhead of a form around its file
LINE_MAX = 8_000
# Files of a site, and archives to create a site from.
UPLOAD_PATH = re.compile(r"/api/(?:sites/(?P<slug>[^/]+)/uploads|site-archives)")
UPLOADS_AT_ONCE = 8


class Refused(Error):  # type: ignore[misc]
    """A request rejected before its body is read, in the API's error format."""

    def __init__(self, status: int, title: str, remedy: str) -> None:
        self.code, self.reason = status, title
        super().__init__(remedy)

    def to_response(self, ident: str | None = None) -> tuple[str, list[tuple[str, str]], bytes]:
        problem = Problem(title=self.reason, status=self.code, remedy=self.body)
        body = json.dumps(problem.model_dump()).encode()
        return f"{self.code} {self.reason}", [("Content-Type", "application/problem+json")], body


class Parser(HTTPRequestParser):  # type: ignore[misc]
    uploads: ClassVar["WeakSet[Parser]"] = WeakSet()  # paths that accept a large body
    looked_at = False
    body_max = SMALL_BODY

    def __init__(self, adj: Any) -> None:
        super().__init__(adj)
        self.began_at = time.monotonic()

    def received(self, data: bytes) -> int:
        read: int = super().received(data)
        if self.headers_finished and not self.looked_at and self.error is None and not self.empty:
            self.looked_at = True
            self._look()
        if self.error is None and self.body_bytes_received > self.body_max:
            self._refuse(413, "Too large", "Split it by months and load each.")
        elif self.error is not None and not isinstance(self.error, Refused):
            self._refuse(self.error.code, "The request cannot be read", self.error.body)
        return read

    def is_late(self, now: float) -> bool:
        received: int = self.body_bytes_received
        return now - self.began_at > HEAD_SECONDS + received / SLOWEST

    def _look(self) -> None:
        if len(self.first_line) > LINE_MAX:
            self._refuse(414, "Address too long", "Request less at once.")
        elif self.chunked or self.content_length > SMALL_BODY:
            self._look_at_large()

    def _look_at_large(self) -> None:
        upload = UPLOAD_PATH.fullmatch(self.path) if self.command == "POST" else None
        if upload is None:
            if self.content_length > SMALL_BODY:
                self._refuse(413, "Too large", "Only uploads may be this large.")
            return
        try:
            may = _may_upload(self.headers.get("COOKIE", ""), self.headers.get("AUTHORIZATION", ""), upload["slug"])
        except DatabaseError:
            log.exception("The permission to upload could not be checked")
            self._refuse(503, "The database cannot be reached", "Nothing was uploaded: choose the file again in a minute.")
            return
        if not may:
            self._refuse(401, "Sign in first", "Sign in with the right to change the site, then choose the file again.")
            return
        if sum(not one.completed for one in list(Parser.uploads)) >= UPLOADS_AT_ONCE:
            self._refuse(503, "Busy", f"{UPLOADS_AT_ONCE} files are being uploaded: try again in a minute.")
            return
        Parser.uploads.add(self)
        self.body_max = settings.UPLOAD_MAX_BYTES + OVER_THE_FILE
        if self.content_length > self.body_max:
            self._refuse(413, f"Larger than {settings.UPLOAD_MAX_BYTES // 1_000_000:,} MB", "Split it by months and load each.")

    def _refuse(self, status: int, title: str, remedy: str) -> None:
        self.error, self.completed, self.expect_continue = Refused(status, title, remedy), True, False


def _may_upload(cookies: str, authorization: str, slug: str | None) -> bool:
    """Whether the session or token in the headers may change the site, or without a site may add one.

    Raises DatabaseError. A connection closed by a restarted database is replaced and the query repeated once.
    """
    try:
        return _is_let_in(cookies, authorization, slug)
    except DatabaseError:
        connections.close_all()  # of this thread, which does nothing else
        return _is_let_in(cookies, authorization, slug)
    finally:
        close_old_connections()


def _is_let_in(cookies: str, authorization: str, slug: str | None) -> bool:
    request = HttpRequest()
    request.session = SessionStore(parse_cookie(cookies).get(settings.SESSION_COOKIE_NAME))
    kind, _, secret = authorization.partition(" ")
    try:
        token = token_of(secret.strip()) if kind.lower() == "bearer" else None
        user = token.user if token else get_user(request)
        if not user.is_authenticated:
            return False
        if slug is None:
            return token is None
        Actor(user, token).site_to_change(slug)
    except ProductError:
        return False
    return True


class Channel(HTTPChannel):  # type: ignore[misc]
    parser_class = Parser

    @property
    def lane_and_person(self) -> tuple[Lane, str]:
        """The lane of the current request, and whose it is: by session, token or client address."""
        request = self.requests[0]
        if request.error is not None or QUICK.fullmatch(request.path):
            return "quick", ""
        headers = request.headers
        address = headers.get("X_FORWARDED_FOR", "") if settings.TRUSTED_PROXY else ""
        session = parse_cookie(headers.get("COOKIE", "")).get(settings.SESSION_COOKIE_NAME, "")
        who = headers.get("AUTHORIZATION") or session or address or str(self.addr[0])
        if SIGN_IN.fullmatch(request.path):
            return ("quick" if request.command == "GET" else "sign in"), address or str(self.addr[0])
        return "rest", who

    def refuse(self) -> None:
        """Answer that there are too many requests already."""
        busy = Refused(503, "Busy", "You have many requests waiting already: try again when some are done.")
        self.requests[0].error = busy

    @property
    def is_busy(self) -> bool:
        """Whether a request is being received, processed or answered."""
        return bool(self.request or self.requests or self.total_outbufs_len or self.close_when_flushed or self.will_close)


class Dispatcher(ThreadedTaskDispatcher):  # type: ignore[misc]
    """Assigns requests to threads: each lane has its own number, and within a lane people take turns."""

    def __init__(self) -> None:
        super().__init__()
        self.lines: dict[Lane, OrderedDict[str, deque[Channel]]] = {lane: OrderedDict() for lane in LANES}
        self.running: Counter[tuple[Lane, str]] = Counter()

    def add_task(self, task: Channel) -> None:
        lane, who = task.lane_and_person
        with self.lock:
            if len(self.lines[lane].get(who, ())) >= WAITING_MAX:
                task.refuse()
                lane, who = "quick", ""
            self.lines[lane].setdefault(who, deque()).append(task)
            self.queue_cv.notify()

    def handler_thread(self, thread_no: int) -> None:
        while True:
            with self.lock:
                while (picked := self._picked()) is None and not self.stop_count:
                    self.queue_cv.wait()
                if picked is None:
                    self.active_count -= 1
                    self.stop_count -= 1
                    self.threads.discard(thread_no)
                    self.thread_exit_cv.notify()
                    return
            lane, who, task = picked
            try:
                task.service()
            except BaseException:
                self.logger.exception("A request could not be answered")
            finally:
                with self.lock:
                    self.running[lane, who] -= 1
                    self.running += Counter()  # without counts of zero
                    self.queue_cv.notify()

    def _picked(self) -> tuple[Lane, str, Channel] | None:
        """The next request that a thread may take. Needs the lock."""
        for lane, line in self.lines.items():
            if sum(number for (one, _), number in self.running.items() if one == lane) >= LANES[lane]:
                continue
            each = OF_A_PERSON if lane == "rest" else LANES[lane]
            who = next((one for one in line if self.running[lane, one] < each), None)
            if who is not None:
                waiting = line.pop(who)
                task = waiting.popleft()
                if waiting:
                    line[who] = waiting  # last in the circle
                self.running[lane, who] += 1
                return lane, who, task
        return None

    def shutdown(self, cancel_pending: bool = True, timeout: float = 5) -> bool:
        with self.lock:
            # The library ends whatever is still waiting.
            self.queue.extend(task for line in self.lines.values() for waiting in line.values() for task in waiting)
            for line in self.lines.values():
                line.clear()
        with self.queue_cv:
            self.queue_cv.notify_all()
        done: bool = super().shutdown(cancel_pending, timeout)
        return done


class Server(TcpWSGIServer):  # type: ignore[misc]
    channel_class = Channel
    ends_at: float | None = None

    def stop(self) -> None:
        """Stop accepting requests, finish those under way, then exit; after a timeout exit anyway."""
        self.ends_at = time.monotonic() + LAST_SECONDS

    def readable(self) -> bool:
        if self.ends_at is None:
            takes_more: bool = super().readable()
            return takes_more
        if time.monotonic() > self.ends_at or not any(one.is_busy for one in list(self.active_channels.values())):
            raise SystemExit  # the loop takes it for a request to stop
        return False

    def maintenance(self, now: float) -> None:
        super().maintenance(now)
        clock = time.monotonic()
        for channel in list(self.active_channels.values()):
            if channel.request is not None and not channel.requests and channel.request.is_late(clock):
                channel.will_close = True


def _proxy() -> dict[str, Any]:
    """The proxy whose forwarded addresses are trusted, if there is one."""
    if not settings.TRUSTED_PROXY:
        return {}
    headers = {"x-forwarded-for", "x-forwarded-proto", "x-forwarded-host"}
    return {"trusted_proxy": settings.TRUSTED_PROXY, "trusted_proxy_count": 1, "trusted_proxy_headers": headers}


def server_of(application: Any, address: str) -> Server:
    """A server at "127.0.0.1:8000", ready to run."""
    dispatcher = Dispatcher()
    dispatcher.set_thread_count(sum(LANES.values()))
    return Server(
        application,
        dispatcher=dispatcher,
        listen=address,
        connection_limit=CONNECTIONS,
        asyncore_use_poll=True,
        channel_timeout=SILENT_SECONDS,
        cleanup_interval=5,
        max_request_body_size=2**62,  # the parser applies its own limits, by who asks for what
        ident=None,
        clear_untrusted_proxy_headers=True,
        **_proxy(),
    )


def unsafe() -> list[str]:
    """Unsafe settings of an installation that others can reach (HTTPS is set); none for one that serves its own machine."""
    if not settings.SECURE_SSL_REDIRECT:
        return []
    key = settings.DATA_DIR / "secret_key"
    wrong = {
        "ZUGZWANG_DEBUG shows internals to everyone": settings.DEBUG,
        "ZUGZWANG_HOSTS answers to any name": "*" in settings.ALLOWED_HOSTS or not settings.ALLOWED_HOSTS,
        "ZUGZWANG_ADDRESS is not an https address, and links in mails begin with it": not settings.ADDRESS.startswith(
            "https://"
        ),
        f"{key} can be read by others": key.is_file() and bool(key.stat().st_mode & 0o077),
        f"{key} is too short": len(settings.SECRET_KEY) < 50,
    }
    return [words for words, holds in wrong.items() if holds]


def serve(application: Any, address: str) -> None:
    """Serve until stopped. Raises Invalid for unsafe settings."""
    if wrong := unsafe():
        raise Invalid(
            f"It does not start, because it would be unsafe: {'; '.join(wrong)}.", "See docs/settings.md, “In production”."
        )
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    if soft < 2 * CONNECTIONS:
        resource.setrlimit(resource.RLIMIT_NOFILE, (min(2 * CONNECTIONS, hard), hard))
    cache.compute_apart()
    bounded.prepare()
    # Every wait for a socket releases the interpreter lock; with computing threads, a trivial response would wait 5 ms for
    # it, dozens of times.
    sys.setswitchinterval(SWITCH_SECONDS)
    try:
        server = server_of(application, address)
    except OSError as error:
        if error.errno != errno.EADDRINUSE:
            raise
        raise Conflict(
            f"Another program uses {address} already.",
            "Stop it, or take another port: `make serve PORT=8001`, or `manage.py serve --listen 127.0.0.1:8001`.",
            ["listen"],
        ) from error
    signal.signal(signal.SIGTERM, lambda *_: server.stop())
    server.run()
