"""Work on what others sent or serve, in a process of its own with bounds of memory and time: what breaks it breaks no more.

A file may make its reader want more memory than the machine has, or never come to an end, and no library's bounds hold for all
formats. So the process may not have more than its share (RLIMIT_DATA): a larger wish ends it, and who asked hears so in words.

A worker, which has one thread and never computes, forks such a process of itself. No other process may: what is forked beside
running threads stands still, and those of the reader of frames are not seen by Python. Its processes are forked from a server
that has loaded the program and done nothing else, 40 ms each, once that stands.
"""

import contextlib
import faulthandler
import multiprocessing
import os
import resource
import signal
import sys
import time
from collections.abc import Callable
from functools import cache
from multiprocessing.connection import Connection
from multiprocessing.context import BaseContext
from typing import Any, TypeVar

from django.conf import settings
from django.db import connections

from zugzwang.errors import ProductError

PRELOADED = "zugzwang.intake.preloaded"
USUAL_BYTES = 900_000_000  # what the program itself, and reading the smallest file, may take
TIMES_THE_FILE, TIMES_PACKED = 14, 60
PACKED = (b"\x1f\x8b", b"PK\x03\x04", b"PAR1")
LOOKED_SECONDS = 0.1
GRACE_SECONDS = 0.3  # between a wish to stop and the end of who does not hear it


Told = TypeVar("Told")


class Broken(ProductError):
    """The process ended before its work did."""


class Stopped(Exception):
    """Somebody asked for it."""


def bytes_for(path: os.PathLike[str]) -> int:
    """How much memory reading a file may take: in proportion to it, and more where it is packed."""
    with open(path, "rb") as file:
        packed = file.read(4).startswith(PACKED)
    size = os.stat(path).st_size
    return min(USUAL_BYTES + (TIMES_PACKED if packed else TIMES_THE_FILE) * size, settings.JOB_MEMORY_BYTES)


def _processes() -> BaseContext:
    if sys.argv[1:2] != ["db_worker"]:
        return _server()
    connections.close_all()  # none may be shared
    return multiprocessing.get_context("fork")


@cache
def _server() -> BaseContext:
    context = multiprocessing.get_context("forkserver")
    # The web server's processes know its shapes too; a worker's need not.
    also = [name for name in ("zugzwang.api.routes",) if name in sys.modules]
    context.set_forkserver_preload([PRELOADED, *also])
    return context


def run(
    work: Callable[..., Told],
    *given: Any,
    memory_bytes: int,
    seconds: float,
    watch: Callable[[], bool] = lambda: False,
) -> Told:
    """What `work(*given)` gives back or raises, done apart. `watch` is asked ten times a second whether to stop. Broken when
    the bounds are passed or the process dies, Stopped when it was to stop and did not by itself."""
    if not settings.WORK_APART:
        return work(*given)
    context = _processes()
    ours, theirs = context.Pipe(duplex=False)
    process = context.Process(target=_apart, args=(theirs, memory_bytes, work, given))  # type: ignore[attr-defined]
    process.start()
    theirs.close()
    try:
        told: Told = _heard(ours, process, seconds, watch)
        return told
    finally:
        ours.close()
        if process.is_alive():
            process.kill()
        process.join()
        process.close()


def _heard(ours: Connection, process: Any, seconds: float, watch: Callable[[], bool]) -> Any:
    over, stop_at = time.monotonic() + seconds, None
    while not ours.poll(LOOKED_SECONDS):
        now = time.monotonic()
        if now > over:
            raise Broken("This takes longer than it may.", "Split the file, and load its parts one by one.")
        if stop_at is None and watch():
            stop_at = now + GRACE_SECONDS
        if stop_at is not None and now > stop_at:
            raise Stopped
    try:
        told, failed = ours.recv()
    except EOFError:
        raise Broken("This takes more memory than a file of its size may need.", "Export it again, as CSV.") from None
    if failed is not None:
        raise failed
    return told


def _apart(answer: Connection, memory_bytes: int, work: Callable[..., Any], given: tuple[Any, ...]) -> None:
    """In the process: do the work within its bounds, and say what came of it."""
    _end_with_parent()
    resource.setrlimit(resource.RLIMIT_DATA, (memory_bytes, memory_bytes))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    faulthandler.disable()  # an end by its bounds is no fault
    try:
        told: tuple[Any, BaseException | None] = work(*given), None
    except MemoryError:
        return  # nothing is said, so that who waits hears of an end
    except BaseException as error:
        told = None, error
    with contextlib.suppress(BrokenPipeError):
        answer.send(told)


def _end_with_parent() -> None:
    """Die with who forked it: a worker, or the server of processes, which dies with whom it serves."""
    import ctypes

    ctypes.CDLL(None).prctl(1, signal.SIGKILL)  # PR_SET_PDEATHSIG
