"""Bounded work: everything whose cost depends on input from people or other servers runs here, within limits.

A file, a draft or a drawing can make its reader need more memory than the machine has, or never finish, and no library's
own limits cover all formats. So such work runs in a separate process with limited memory (RLIMIT_DATA) and time. A process
that exceeds them is killed, and the caller gets `LimitReached`, which names the limit.

`Turns` limits how much of one kind runs at once. Each person has a place in the queue and people take turns, so one
person's sixteen slow requests delay that person and no one else.

A job worker has one thread and never computes, so it forks the process itself. Other processes must not: a fork made while
other threads run can hang. They fork from a server process that has loaded the program and done nothing else (40 ms each
once it runs).
"""

import contextlib
import faulthandler
import multiprocessing
import os
import sys
import threading
import time
from collections import Counter, OrderedDict, deque
from collections.abc import Callable, Iterator
from contextvars import ContextVar
from dataclasses import dataclass, replace
from functools import cache
from multiprocessing.connection import Connection
from multiprocessing.context import BaseContext
from typing import Any, TypeVar

from django.conf import settings
from django.db import connections

from zugzwang.errors import Busy, ProductError
from zugzwang.processes import end_with_parent, limit_memory

PRELOADED = "zugzwang.preloaded"
BASE_BYTES = 600_000_000  # what the loaded program needs, with room to work
UPLOAD_BASE_BYTES = 1_400_000_000  # the same for reading a file, because readers allocate large buffers for any file
# Measured: a million rows with a page each (92 MB of CSV) take 2.3 GB, 200,000 (18 MB) 0.9 GB.
TIMES_THE_FILE, TIMES_PACKED = 18, 60
PACKED = (b"\x1f\x8b", b"PK\x03\x04", b"PAR1")
POLL_SECONDS = 0.1
NICENESS = 10  # below the web server's, so it gets the processor whenever it has a request
GRACE_SECONDS = 0.3  # from a request to stop until a process that ignores it is killed

Result = TypeVar("Result")
# Who the current request is for: one place in each queue for each person. Set by api.problems.actor; "" for the program
# itself.
person: ContextVar[str] = ContextVar("person", default="")
# When the current request is due, by the monotonic clock: waiting and working share the time. None: not a request.
answer_by: ContextVar[float | None] = ContextVar("answer_by", default=None)
ANSWER_SECONDS = 9.0


def waiting(seconds: float) -> float:
    """How long a request may wait, in seconds; less where an answer is due earlier."""
    by = answer_by.get()
    return seconds if by is None else max(min(seconds, by - time.monotonic()), 0.0)


class LimitReached(ProductError):
    """The work exceeded its time or memory; it was killed and changed nothing."""


class Stopped(Exception):
    """The caller asked the work to stop."""


@dataclass(frozen=True)
class Kind:
    """One kind of bounded work. The message of a reached limit starts with `name` ("Checking this draft") and ends with
    `remedy`. `at_once`: how many run in one server process; others wait up to `wait_seconds`.
    """

    name: str
    remedy: str
    seconds: float
    memory_bytes: int = BASE_BYTES + 400_000_000
    at_once: int = 2
    wait_seconds: float = 3.0

    def of_file(self, path: os.PathLike[str]) -> "Kind":
        """The same kind for reading a file: memory in proportion to the file's size, and more for compressed files."""
        return replace(self, memory_bytes=bytes_for(path))


UPLOAD = Kind("Reading this file", "Split the file and load its parts one by one.", 60.0, at_once=4, wait_seconds=20.0)
JOB = Kind("This job", "Request less at once, or raise ZUGZWANG_JOB_MEMORY_MB.", 12 * 3_600.0, at_once=64)
DRAFT = Kind("Reading this draft", "Split it into two pages, or remove repeated parts.", 5.0, at_once=4, wait_seconds=4.0)
TYPESETTING = Kind("Typesetting this report", "Shorten your own text, or use fewer parts.", 6.0, 1_200_000_000)
PICTURE = Kind("Reading this logo", "Save it smaller, or simplify the drawing.", 5.0)
PATTERNS = Kind("Compiling these patterns", "Use fewer or shorter patterns.", 4.0)
EXPORT = Kind("Writing this file", "Filter the list, or export CSV, which is faster.", 60.0, 2_500_000_000, wait_seconds=5.0)


def bytes_for(path: os.PathLike[str]) -> int:
    """The memory that reading a file may use, in bytes."""
    with open(path, "rb") as file:
        packed = file.read(4).startswith(PACKED)
    size = os.stat(path).st_size
    return min(UPLOAD_BASE_BYTES + (TIMES_PACKED if packed else TIMES_THE_FILE) * size, settings.JOB_MEMORY_BYTES)


# --- turns ----------------------------------------------------------------------------------------------------------------


class Turns:
    """At most `at_once` run together, at most `each` for one person. Others wait, and the next turn goes to the next person,
    not to the next request. Raises Busy when a person already has `line` requests waiting, or the wait is over.
    """

    def __init__(self, at_once: int, each: int | None = None, line: int = 16) -> None:
        self.at_once, self.each, self.line = at_once, each or at_once, line
        self._lock = threading.Lock()
        self._running: Counter[str] = Counter()
        self._waiting: OrderedDict[str, deque[threading.Event]] = OrderedDict()

    @contextlib.contextmanager
    def turn(self, seconds: float, who: str | None = None) -> Iterator[None]:
        who = person.get() if who is None else who
        self._take(who, seconds)
        try:
            yield
        finally:
            with self._lock:
                self._running[who] -= 1
                if not self._running[who]:
                    del self._running[who]
                self._call_next()

    def _take(self, who: str, seconds: float) -> None:
        called = threading.Event()
        with self._lock:
            mine = self._waiting.setdefault(who, deque())
            if len(mine) >= self.line:
                raise Busy("You have many requests waiting already.", "Try again when some are done.")
            mine.append(called)
            self._call_next()
        if called.wait(waiting(seconds)):
            return
        with self._lock:
            if not called.is_set():
                self._waiting[who].remove(called)
                if not self._waiting[who]:
                    del self._waiting[who]
                raise Busy("The server is busy with other requests.", "Try again in a few seconds.")

    def _call_next(self) -> None:
        """Admit as many as there is room for, one person after another. Needs the lock."""
        while self._running.total() < self.at_once:
            who = next((one for one in self._waiting if self._running[one] < self.each), None)
            if who is None:
                return
            line = self._waiting.pop(who)
            line.popleft().set()
            self._running[who] += 1
            if line:
                self._waiting[who] = line  # last in the circle


_is_bounded = False  # nested work in a bounded process is part of that work
_turns: dict[str, Turns] = {}
_turns_lock = threading.Lock()


def turns_of(kind: Kind) -> Turns:
    """The queue of a kind of work in this process. One person gets at most half of the turns."""
    with _turns_lock:
        if kind.name not in _turns:
            _turns[kind.name] = Turns(kind.at_once, max(kind.at_once // 2, 1))
        return _turns[kind.name]


# --- processes ------------------------------------------------------------------------------------------------------------


def _processes() -> BaseContext:
    if sys.argv[1:2] != ["db_worker"]:
        return _server()
    connections.close_all()  # connections must not be shared
    return multiprocessing.get_context("fork")


@cache
def _server() -> BaseContext:
    context = multiprocessing.get_context("forkserver")
    # The web server's processes use its schemas too; a worker's do not.
    also = [name for name in ("zugzwang.api.routes",) if name in sys.modules]
    context.set_forkserver_preload([PRELOADED, *also])
    return context


def prepare() -> None:
    """Start the process that others are forked from, so the first request does not wait for it."""
    run(UPLOAD, _nothing)


def _nothing() -> None:
    pass


def in_transaction() -> bool:
    """Whether a transaction is open, apart from the one that tests are wrapped in."""
    return any(not one._from_testcase for one in connections["default"].atomic_blocks)  # type: ignore[attr-defined]


def run(kind: Kind, work: Callable[..., Result], *args: Any, watch: Callable[[], bool] = lambda: False) -> Result:
    """Run `work(*args)` in a separate process within the limits of its kind; returns or raises what it does.

    `watch` is asked ten times a second whether to stop. Raises LimitReached when a limit is exceeded or the process dies,
    Stopped when it was asked to stop and did not finish by itself, Busy when no turn came in time.
    """
    if in_transaction():
        # SQLite has a single write lock: computing in a transaction blocks every writer.
        raise RuntimeError(f"{kind.name}: bounded work may not run inside a transaction")
    if not settings.BOUNDED_WORK or _is_bounded:
        return work(*args)
    with turns_of(kind).turn(kind.wait_seconds):
        return _run(kind, work, args, watch)


def _run(kind: Kind, work: Callable[..., Result], args: tuple[Any, ...], watch: Callable[[], bool]) -> Result:
    context = _processes()
    ours, theirs = context.Pipe(duplex=False)
    process = context.Process(target=_in_process, args=(theirs, kind.memory_bytes, work, args))  # type: ignore[attr-defined]
    process.start()
    theirs.close()
    try:
        result: Result = _answer(ours, kind, watch)
        return result
    finally:
        ours.close()
        if process.is_alive():
            process.kill()
        process.join()
        process.close()


def _answer(ours: Connection, kind: Kind, watch: Callable[[], bool]) -> Any:
    long = kind.seconds > ANSWER_SECONDS
    until, stop_at = time.monotonic() + kind.seconds, None
    by = until if long else time.monotonic() + waiting(kind.seconds)
    while not ours.poll(POLL_SECONDS):
        now = time.monotonic()
        if by < now <= until:
            raise Busy("The server is busy with other requests.", "Try again in a few seconds.")
        if now > until:
            raise LimitReached(f"{kind.name} takes longer than its limit of {kind.seconds:g} seconds.", kind.remedy)
        if stop_at is None and watch():
            stop_at = now + GRACE_SECONDS
        if stop_at is not None and now > stop_at:
            raise Stopped
    try:
        result, error = ours.recv()
    except EOFError:
        limit = f"{kind.memory_bytes / 1_000_000:,.0f} MB"
        raise LimitReached(f"{kind.name} takes more memory than its limit of {limit}.", kind.remedy) from None
    if error is not None:
        raise error
    return result


def _in_process(answer: Connection, memory_bytes: int, work: Callable[..., Any], args: tuple[Any, ...]) -> None:
    """Inside the process: apply the limits, do the work and send its result."""
    global _is_bounded
    _is_bounded = True
    end_with_parent()
    os.nice(NICENESS)
    limit_memory(memory_bytes)
    faulthandler.disable()  # reaching a limit is not an error of the process
    try:
        result: tuple[Any, BaseException | None] = work(*args), None
    except MemoryError:
        return  # nothing is sent, so the caller sees the process end
    except BaseException as error:
        if "can't start new thread" in str(error):
            return  # its stack ran out of memory
        result = None, error
    with contextlib.suppress(BrokenPipeError):
        answer.send(result)
