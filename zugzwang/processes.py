"""What every process that works for another does first."""

import ctypes
import resource
import signal


def end_with_parent() -> None:
    """End this process when the thread that started it ends, however that was: by itself, or killed."""
    ctypes.CDLL(None).prctl(1, signal.SIGKILL)  # PR_SET_PDEATHSIG


def limit_memory(most_bytes: int) -> None:
    """Allow this process so many bytes of data; a request for more fails. No file is left of a process that ends so."""
    resource.setrlimit(resource.RLIMIT_DATA, (most_bytes, most_bytes))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
