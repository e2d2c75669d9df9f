"""Cached results of a site's facts, shared by all processes of the machine: bounded in bytes, each computed once.

A cached value is a folder in the data folder: `value` (a pickle) and one Arrow IPC file for each frame, uncompressed, so
all processes map the same bytes instead of holding copies. Each process also remembers what it used last, up to
`CACHE_MEMORY_BYTES`. Keys contain the site, the version of its facts and the question; the program's own source is part of
the folder's name, so a newer program never reads an older one's results.

A request for a value that is being computed waits for it: threads by a lock, processes by a lock on a file.

A web server computes long questions in separate processes, bounded in time and memory and with lower priority (bounded.py),
and reads what they cached; meanwhile it answers others.

Every file has a checksum (XXH3, 128 bits), compared when it is mapped: a flipped bit would otherwise appear as a figure.
Damaged or unreadable values are deleted, counted and computed again.
"""

import fcntl
import hashlib
import io
import json
import logging
import mmap
import os
import pickle
import shutil
import tempfile
import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from functools import cache, lru_cache, partial, wraps
from inspect import signature
from pathlib import Path
from typing import Any, Concatenate, ParamSpec, Protocol, TypeVar

import polars as pl
import pyarrow as pa
import pyarrow.ipc
import xxhash
from django.conf import settings
from prometheus_client import Counter

from zugzwang import bounded
from zugzwang.bounded import Kind, Turns, waiting
from zugzwang.errors import Busy

WORTH_A_PROCESS_SECONDS = 0.3  # faster ones are computed in the web server itself
WORTH_A_FILE_SECONDS = 0.01  # faster ones are recomputed in the other process
SWEPT_AFTER_SHARE = 0.05  # share of the limit: a process sweeps the folder after writing that much
UNUSED_SECONDS = 600  # the age at which results of an older version are deleted

log = logging.getLogger(__name__)
QUESTION = Kind("Working this out", "Choose fewer days, or a section of the site.", 120.0, at_once=64)
P = ParamSpec("P")
T = TypeVar("T")


class Versioned(Protocol):
    """Whose values are cached: `key` is (site, version of its facts)."""

    @property
    def key(self) -> tuple[int, int]: ...


K = TypeVar("K", bound=Versioned)


# As many questions are computed at once as there are processors; others wait, and people take turns.
WAIT_SECONDS, WAITING_MAX = 8.0, 16  # waiting requests of one person
_turns = Turns(max(os.cpu_count() or 1, 2), line=WAITING_MAX)
_thread = threading.local()
_damaged = Counter("zugzwang_cache_damaged", "Cached values that could not be read and were computed again")
DIGESTS = "digests"
DIGEST_BYTES = 4_000_000


_in_process = False


def compute_apart() -> None:
    """From now on, compute long questions in other processes."""
    global _in_process
    _in_process = True


def _seconds(compute: Callable[[], object]) -> float:
    """In another process: compute a value, which is cached on disk; returns the seconds it took."""
    begun = time.perf_counter()
    compute()
    return time.perf_counter() - begun


def cached(compute: Callable[Concatenate[K, P], T]) -> Callable[Concatenate[K, P], T]:
    """Cache a function's results for a snapshot and its other arguments, which must be hashable and contain everything the
    result depends on.
    """
    name = f"{compute.__module__}.{compute.__qualname__}"
    parameters = list(signature(compute).parameters.values())[1:]

    @wraps(compute)
    def ask(of: K, *args: P.args, **named: P.kwargs) -> T:
        # Arguments by position, by name or by default: the same question has one key.
        rest = (named.get(one.name, one.default) for one in parameters[len(args) :])
        arguments = (name, *args, *rest)
        return store().get(of.key, arguments, lambda: compute(of, *args, **named), partial(ask, of, *args, **named))

    return ask  # type: ignore[return-value]


class Cache:
    def __init__(self, folder: Path, disk_bytes: int, memory_bytes: int) -> None:
        self.folder = folder
        self.disk_bytes, self.memory_bytes = disk_bytes, memory_bytes
        self._remembered: OrderedDict[Hashable, tuple[Any, int]] = OrderedDict()
        self._bytes = 0
        self._guard = threading.Lock()
        self._locks: dict[Hashable, tuple[threading.Lock, int]] = {}
        self._written = 0
        self._took: dict[tuple[int, str], float] = {}  # of a site's kind of question, in seconds, when last computed

    def get(
        self, of: tuple[int, int], arguments: Hashable, compute: Callable[[], T], again: Callable[[], object] | None = None
    ) -> T:
        """The cached value; computed when no process of the machine has it. `again`: the same question for another process, to
        which it is pickled; `arguments` is then a tuple that starts with a name.
        """
        key = (of, arguments)
        found, value = self._recall(key)
        if found:
            return value  # type: ignore[no-any-return]
        if getattr(_thread, "computes", False):
            return self._once(key, compute)  # type: ignore[no-any-return]
        # Of equal questions one takes a turn; the others wait for its answer without one. Nested questions have their own
        # locks, so no one with a turn waits for someone without.
        with self._alone(("question", key)):
            found, value = self._recall(key)
            return value if found else self._in_turn(key, compute, again)  # type: ignore[no-any-return]

    def _in_turn(self, key: tuple[tuple[int, int], Any], compute: Callable[[], T], again: Callable[[], object] | None) -> Any:
        with _turns.turn(WAIT_SECONDS):
            known = (self._folder(*key) / DIGESTS).exists()
            if _in_process and again is not None and not known and not bounded.in_transaction():
                self._ask_apart((key[0][0], key[1][0]), again)
            _thread.computes = True
            try:
                return self._once(key, compute)
            finally:
                _thread.computes = False

    def _ask_apart(self, kind: tuple[int, str], again: Callable[[], object]) -> None:
        if self._took.get(kind, 1.0) > WORTH_A_PROCESS_SECONDS:
            # As much memory as a worker gets for the same after a load.
            separate = replace(QUESTION, memory_bytes=settings.JOB_MEMORY_BYTES)
            self._took[kind] = bounded.run(separate, _seconds, again)

    def _once(self, key: tuple[tuple[int, int], Hashable], compute: Callable[[], T]) -> Any:
        with self._alone(key):
            found, value = self._recall(key)
            return value if found else self._from_disk_or(*key, compute)

    def forget(self) -> None:
        """Drop everything that this process remembers; values on disk stay."""
        with self._guard:
            self._remembered.clear()
            self._bytes = 0

    def clear(self) -> None:
        """Drop everything, on disk too."""
        self.forget()
        shutil.rmtree(self.folder, ignore_errors=True)

    @property
    def remembered_bytes(self) -> int:
        return self._bytes

    # --- in memory ----------------------------------------------------------------------------------------------------

    def _recall(self, key: Hashable) -> tuple[bool, Any]:
        with self._guard:
            if key not in self._remembered:
                return False, None
            self._remembered.move_to_end(key)
            return True, self._remembered[key][0]

    def _remember(self, key: Hashable, value: Any, size: int) -> None:
        with self._guard:
            if key not in self._remembered:
                self._bytes += size
            self._remembered[key] = (value, size)
            while self._bytes > self.memory_bytes and len(self._remembered) > 1:
                _, (_, gone) = self._remembered.popitem(last=False)
                self._bytes -= gone

    @contextmanager
    def _alone(self, key: Hashable) -> Iterator[None]:
        """Be the only thread of this process that handles a key."""
        with self._guard:
            lock, users = self._locks.get(key, (threading.Lock(), 0))
            self._locks[key] = (lock, users + 1)
        try:
            if not lock.acquire(timeout=waiting(WAIT_SECONDS)):
                raise Busy("This is already being calculated.", "Try again in a few seconds.")
            try:
                yield
            finally:
                lock.release()
        finally:
            with self._guard:
                lock, users = self._locks.pop(key)
                if users > 1:
                    self._locks[key] = (lock, users - 1)

    # --- on disk ------------------------------------------------------------------------------------------------------

    def _from_disk_or(self, of: tuple[int, int], arguments: Hashable, compute: Callable[[], T]) -> T:
        key, place = (of, arguments), self._folder(of, arguments)
        with _alone_on_machine(place):
            read = _read(place)
            if read is None:
                begun = time.perf_counter()
                value = compute()
                if time.perf_counter() - begun >= WORTH_A_FILE_SECONDS and (size := _write(place, value)):
                    self._sweep_after(size)
                    read = _read(place)  # mapped, so the computed copy can be released
                if read is None:
                    read = value, _size_of(value)
        self._remember(key, *read)
        return read[0]

    def _folder(self, of: tuple[int, int], arguments: Hashable) -> Path:
        name = hashlib.sha256(repr(arguments).encode()).hexdigest()[:40]
        return self.folder / program() / f"{of[0]}-{of[1]}" / name

    def _sweep_after(self, written: int) -> None:
        self._written += written
        if self._written >= self.disk_bytes * SWEPT_AFTER_SHARE:
            self._written = 0
            self.sweep()

    def sweep(self) -> None:
        """Delete the least recently used values until the rest fits the limit; other programs' values first."""
        entries = []
        for value in self.folder.glob("*/*/*/value"):
            try:
                size = sum(one.stat().st_size for one in value.parent.iterdir())
                entries.append((value.parent.parent.parent.name == program(), value.stat().st_mtime, size, value.parent))
            except FileNotFoundError:
                continue  # another process deleted it
        total = sum(size for _, _, size, _ in entries)
        for ours, _, size, place in sorted(entries):
            if total <= self.disk_bytes and ours:
                break
            shutil.rmtree(place, ignore_errors=True)
            total -= size

    def drop_older(self, of: tuple[int, int]) -> None:
        """Delete values for older versions of a site, once no request can need them."""
        for folder in self.folder.glob(f"*/{of[0]}-*"):
            if folder.name != f"{of[0]}-{of[1]}" and time.time() - folder.stat().st_mtime > UNUSED_SECONDS:
                shutil.rmtree(folder, ignore_errors=True)


@cache
def program() -> str:
    """A digest of this program's rules: it changes with the source text."""
    digest = hashlib.sha256()
    for path in sorted(Path(__file__).parent.parent.rglob("*.py")):
        digest.update(path.read_bytes())
    return digest.hexdigest()[:16]


@lru_cache(maxsize=1)
def _store(folder: Path, disk_bytes: int, memory_bytes: int) -> Cache:
    return Cache(folder, disk_bytes, memory_bytes)


def store() -> Cache:
    """This process's cache, as configured."""
    return _store(settings.CACHE_DIR, settings.CACHE_DISK_BYTES, settings.CACHE_MEMORY_BYTES)


@contextmanager
def _alone_on_machine(place: Path) -> Iterator[None]:
    """Be the only process that computes a value; where no file can be created, continue without a lock."""
    try:
        place.parent.mkdir(parents=True, exist_ok=True)
        handle = os.open(f"{place}.lock", os.O_RDWR | os.O_CREAT, 0o600)
    except OSError as error:
        log.warning("The cache cannot be written: %s", error)
        yield
        return
    try:
        fcntl.flock(handle, fcntl.LOCK_EX)
        yield
    finally:
        os.close(handle)


def _write(place: Path, value: Any) -> int:
    """Store a value entirely or not at all; returns its bytes, 0 when it could not be written."""
    try:
        folder = Path(tempfile.mkdtemp(dir=place.parent, prefix="new-"))
        with (folder / "value").open("wb") as file:
            _Pickler(file, folder).dump(value)
        digests = json.dumps({one.name: _digest(one) for one in folder.iterdir()})
        (folder / DIGESTS).write_text(f"{xxhash.xxh3_128_hexdigest(digests)} {digests}")
        size = sum(one.stat().st_size for one in folder.iterdir())
        shutil.rmtree(place, ignore_errors=True)
        folder.rename(place)
    except OSError as error:
        log.warning("The cache cannot be written: %s", error)
        return 0
    return size


def _read(place: Path) -> tuple[Any, int] | None:
    """A cached value and its bytes; None where there is none, or where it is damaged and was deleted."""
    if not (place / DIGESTS).exists():
        return None
    try:
        _verify(place)
        with (place / "value").open("rb") as file:
            value = _Unpickler(file, place).load()
        os.utime(place / "value")
        return value, sum(one.stat().st_size for one in place.iterdir())
    except (KeyboardInterrupt, SystemExit):
        raise
    except BaseException as error:  # a panic of a native library is not an Exception
        log.warning("A cached value cannot be read and is computed again: %s: %s", type(error).__name__, error)
        _damaged.inc()
        shutil.rmtree(place, ignore_errors=True)
        return None


def _verify(place: Path) -> None:
    """Raises ValueError where a file of a cached value is damaged."""
    digest, _, result = (place / DIGESTS).read_text().partition(" ")
    if xxhash.xxh3_128_hexdigest(result) != digest:
        raise ValueError(f"the checksums of {place.name} are damaged")
    for name, expected in json.loads(result).items():
        if _digest(place / name) != expected:
            raise ValueError(f"{name} of {place.name} is damaged")


def _digest(path: Path) -> str:
    digest = xxhash.xxh3_128()
    with path.open("rb") as file:
        if os.fstat(file.fileno()).st_size:
            # In pieces: hashing holds Python's lock, and other requests run between two of them.
            with mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as mapped, memoryview(mapped) as whole:
                for start in range(0, len(whole), DIGEST_BYTES):
                    with whole[start : start + DIGEST_BYTES] as piece:
                        digest.update(piece)
    return digest.hexdigest()


class _Pickler(pickle.Pickler):
    """Writes frames and series as separate files."""

    def __init__(self, file: io.BufferedWriter, folder: Path) -> None:
        super().__init__(file, protocol=5)
        self.folder, self.frames = folder, 0

    def persistent_id(self, one: Any) -> Any:
        if not isinstance(one, pl.DataFrame | pl.Series):
            return None
        name = f"{self.frames}.arrow"
        self.frames += 1
        frame = one if isinstance(one, pl.DataFrame) else one.to_frame()
        frame.rechunk().write_ipc(self.folder / name, record_batch_size=max(frame.height, 1))
        return name, isinstance(one, pl.Series)


class _Unpickler(pickle.Unpickler):
    def __init__(self, file: io.BufferedReader, folder: Path) -> None:
        super().__init__(file)
        self.folder = folder

    def persistent_load(self, result: Any) -> pl.DataFrame | pl.Series:
        name, is_series = result
        with pa.memory_map(str(self.folder / name)) as mapped:
            frame = pl.from_arrow(pa.ipc.open_file(mapped).read_all())
        assert isinstance(frame, pl.DataFrame)
        return frame.to_series() if is_series else frame


def _size_of(value: Any) -> int:
    """The approximate size of a value in bytes."""
    if isinstance(value, pl.DataFrame | pl.Series):
        return int(value.estimated_size())
    if isinstance(value, dict | list | tuple | set | frozenset):
        parts = value.values() if isinstance(value, dict) else value
        return 64 * (len(value) + 1) + sum(_size_of(one) for one in parts)
    current = getattr(value, "__dict__", None)
    return 64 + (sum(_size_of(one) for one in current.values()) if current else getattr(value, "nbytes", 0))
