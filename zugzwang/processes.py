"""What every process that works for another does first."""

import ctypes
import resource
import signal
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any


def end_with_parent() -> None:
    """End this process when the thread that started it ends, however that was: by itself, or killed."""
    ctypes.CDLL(None).prctl(1, signal.SIGKILL)  # PR_SET_PDEATHSIG


def limit_memory(most_bytes: int) -> None:
    """Allow this process so many bytes of data; a request for more fails. No file is left of a process that ends so."""
    resource.setrlimit(resource.RLIMIT_DATA, (most_bytes, most_bytes))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


@contextmanager
def asked_to_stop() -> Iterator[Callable[[], bool]]:
    """Whether this process is asked to end (SIGTERM) in the meantime. Its own handler is called too; a process without one, or
    a thread next to the main one, is never asked here."""
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
