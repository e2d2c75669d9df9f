"""Pages read in a separate process, each within a time limit. It imports only the core, so it starts at once."""

import signal
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from typing import Any

from zugzwang.core.pages.html import LinkRow, read_reply
from zugzwang.processes import end_with_parent, limit_memory

READ_SECONDS = 20  # for one page
READ_BYTES = 1_500_000_000


def read_in_time(address: str, *more: Any) -> tuple[dict[str, Any], list[LinkRow]]:
    """See read_reply. The process ends where a page takes too long."""
    signal.alarm(READ_SECONDS)
    try:
        return read_reply(address, *more)
    finally:
        signal.alarm(0)


def reading_process() -> ProcessPoolExecutor:
    return ProcessPoolExecutor(1, get_context("spawn"), _begin)


def _begin() -> None:
    end_with_parent()
    limit_memory(READ_BYTES)
