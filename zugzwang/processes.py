"""The first steps of every process that works for another."""

import ctypes
import resource
import signal
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any


def end_with_parent() -> None:
    """End this process when the thread that started it ends, normally or killed."""
    ctypes.CDLL(None).prctl(1, signal.SIGKILL)  # PR_SET_PDEATHSIG


def limit_memory(most_bytes: int) -> None:
    """Limit this process's data memory in bytes; a request for more fails. No core file is left."""
    resource.setrlimit(resource.RLIMIT_DATA, (most_bytes, most_bytes))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


@contextmanager
def stop_requested() -> Iterator[Callable[[], bool]]:
    """Whether this process was asked to end (SIGTERM) meanwhile. Its own handler is called too; without a handler, or outside
    the main thread, the answer is always no.
    """
    own, asked = signal.getsignal(signal.SIGTERM), list[int]()
    if not callable(own) or threading.current_thread() is not threading.main_thread():
        yield lambda: False
        return

    def hear(number: int, frame: Any) -> None:
        asked.append(number)
        own(number, frame)

    signal.signal(signal.SIGTERM, hear)
    try:
        yield lambda: bool(asked)
    finally:
        if signal.getsignal(signal.SIGTERM) is hear:
            signal.signal(signal.SIGTERM, own)
