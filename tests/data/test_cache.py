"""The snapshot's cache: computed once, shared by processes, bounded in bytes, invalidated with its version."""

import contextlib
import json
import os
import pickle
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import date
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl
import pytest
from django.db import transaction

from zugzwang import bounded
from zugzwang.bounded import person
from zugzwang.data import cache
from zugzwang.data.cache import Cache
from zugzwang.data.models import Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import ProductError
from zugzwang.findings.registry import FINDINGS
from zugzwang.findings.table import ask
from zugzwang.findings.view import ViewOptions
from zugzwang.subjects.changes import describe_changes

SITE = (7, 1)
MB = 1_000_000


@pytest.fixture
def kept(tmp_path: Path) -> Cache:
    return Cache(tmp_path, disk_bytes=50 * MB, memory_bytes=10 * MB)


def slow(value: object, calls: list[object]):  # type: ignore[no-untyped-def]
    def compute() -> object:
        calls.append(value)
        time.sleep(cache.WORTH_A_FILE_SECONDS * 2)
        return value

    return compute


def frame(rows: int) -> pl.DataFrame:
    return pl.DataFrame({"n": np.arange(rows, dtype=np.float64), "word": [f"query {n % 7}" for n in range(rows)]})


def test_whoever_asks_while_it_is_computed_waits_for_that_one(kept: Cache) -> None:
    calls: list[object] = []
    with ThreadPoolExecutor(8) as pool:
        result = list(pool.map(lambda _: kept.get(SITE, "asked", slow(4, calls)), range(8)))
    assert result == [4] * 8
    assert len(calls) == 1


def test_what_means_the_same_is_worked_out_once() -> None:
    calls = []

    class Of:
        key = SITE

        @cache.cached
        def sums(self, period: str, part: tuple[int, ...] = (), by: str = "row") -> str:
            calls.append((period, part, by))
            return f"{period} {part} {by}"

    of = Of()
    same = [of.sums("May"), of.sums("May", ()), of.sums("May", (), "row"), of.sums(by="row", period="May")]
    assert same == ["May () row"] * 4
    assert of.sums("May", by="query") == "May () query"
    assert of.sums("June") == "June () row"
    assert calls == [("May", (), "row"), ("May", (), "query"), ("June", (), "row")]


def test_many_questions_wait_their_turn_and_keep_nobody_from_what_is_known(kept: Cache) -> None:
    """Sixteen different requests from each of two people at once: no more run together than there are slots; a nested
    computation does not wait for itself; cached answers are returned meanwhile; and all finish.
    """
    kept.get(SITE, "known", lambda: 1)
    working, most, guard = 0, 0, threading.Lock()
    hold = threading.Event()

    def asked(number: int) -> int:
        def compute() -> int:
            nonlocal working, most
            with guard:
                working += 1
                most = max(most, working)
            hold.wait(20)
            inner = kept.get(SITE, ("inner", number // 2), lambda: number)
            with guard:
                working -= 1
            return inner

        person.set(f"user {number % 2}")
        return kept.get(SITE, number, compute)

    with ThreadPoolExecutor(32) as pool:
        answers = [pool.submit(asked, number) for number in range(32)]
        assert kept.get(SITE, "known", lambda: 2) == 1
        hold.set()
        assert len([one.result(20) for one in answers]) == 32
    assert 1 <= most <= max(os.cpu_count() or 1, 2)


@pytest.mark.usefixtures("planted")
def test_a_web_server_has_what_takes_long_computed_by_others(
    site: Site, monkeypatch: pytest.MonkeyPatch, settings: Any, tmp_path: Path
) -> None:
    """Every computation goes through a pickle, gives the same result, and is read from the other process's file."""
    settings.CACHE_DIR = tmp_path
    site.refresh_from_db()
    today = date(2026, 11, 20)

    def answers() -> Any:
        result: dict[str, Any] = {"changes": describe_changes(Snapshot(site), ViewOptions(), today)}
        for finding in FINDINGS.values():
            with contextlib.suppress(ProductError):
                result[finding.name] = ask(Snapshot(site), finding, ViewOptions(), today).shown(limit=5)
        # Sums may differ in their last digits, by the order in which threads add up.
        return json.loads(json.dumps(result, default=str), parse_float=lambda text: float(f"{float(text):.9g}"))

    expected = answers()
    cache.store().clear()
    gone: list[str] = []

    def elsewhere(kind: bounded.Kind, work: Callable[[Callable[[], object]], float], again: Callable[[], object]) -> float:
        cache._store.cache_clear()  # it has a memory of its own
        with monkeypatch.context() as there:
            there.setattr(cache, "_in_process", False)
            work(pickle.loads(pickle.dumps(again)))
        cache._store.cache_clear()
        gone.append(str(again))
        return 1.0

    monkeypatch.setattr(bounded, "run", elsewhere)
    monkeypatch.setattr(cache, "_in_process", True)
    assert answers() == expected
    assert len(gone) > 20
    before = len(gone)
    with transaction.atomic():  # who holds the write lock waits for no other process
        describe_changes(Snapshot(site), ViewOptions(text="y"), today)
    assert len(gone) == before
    monkeypatch.setattr(cache, "WORTH_A_PROCESS_SECONDS", 2.0)  # what is known to take less is computed here
    before = len(gone)
    describe_changes(Snapshot(site), ViewOptions(text="x"), today)
    assert len(gone) == before


def test_equal_questions_take_one_turn(kept: Cache) -> None:
    """However many people ask the same, a different computation runs in parallel."""
    hold, calls = threading.Event(), list[object]()

    def same() -> object:
        return kept.get(SITE, "same", lambda: (calls.append(1), hold.wait(20)))

    with ThreadPoolExecutor(12) as pool:
        answers = [pool.submit(same) for _ in range(10)]
        assert pool.submit(lambda: kept.get(SITE, "other", lambda: 3)).result(5) == 3
        hold.set()
        assert {one.result(20) == (None, True) for one in answers} == {True}
    assert calls == [1]


@pytest.mark.parametrize("name", ["value", "0.arrow", "1.arrow", cache.DIGESTS])
def test_a_bit_that_changed_is_noticed_wherever_it_is(kept: Cache, tmp_path: Path, name: str) -> None:
    value = {"frame": frame(2_000), "series": pl.Series("n", [1, 2]), "words": "some words " * 9}
    kept.get(SITE, "asked", slow(value, []))
    (path,) = tmp_path.rglob(name)
    before = cache._damaged._value.get()
    for at in range(0, path.stat().st_size, max(path.stat().st_size // 7, 1)):
        current = bytearray(path.read_bytes())
        current[at] ^= 4
        path.write_bytes(current)
        calls: list[object] = []
        again = Cache(tmp_path, 50 * MB, 10 * MB).get(SITE, "asked", slow(value, calls))
        assert len(calls) == 1, f"byte {at}"
        assert again["frame"].equals(value["frame"])
    assert cache._damaged._value.get() >= before + 7


def test_a_panic_of_a_native_library_is_a_value_that_cannot_be_read(
    kept: Cache, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    kept.get(SITE, "asked", slow(frame(10), []))

    class Panic(BaseException):
        pass

    def panics(*_: object) -> None:
        raise Panic

    monkeypatch.setattr(cache._Unpickler, "persistent_load", panics)
    assert Cache(tmp_path, 50 * MB, 10 * MB).get(SITE, "asked", lambda: 5) == 5


def test_another_process_reads_what_one_computed_and_waits_while_it_does(tmp_path: Path) -> None:
    """Two processes need the same result at once: one computes it. Each computation writes a line to a file."""
    code = f"""
import os, sys, time
os.environ["DJANGO_SETTINGS_MODULE"] = "zugzwang.settings"
from pathlib import Path
from zugzwang.data.cache import Cache
import polars as pl
def compute():
    with open({str(tmp_path / "computed")!r}, "a") as file:
        file.write("x")
    time.sleep(0.5)
    return pl.DataFrame({{"n": [1, 2, 3]}})
print(Cache(Path({str(tmp_path)!r}), 10**7, 10**7).get((7, 1), "asked", compute)["n"].sum())
"""
    running = [subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True) for _ in range(3)]
    assert [one.communicate()[0].strip() for one in running] == ["6"] * 3
    assert (tmp_path / "computed").read_text() == "x"


def test_what_is_kept_comes_back_as_it_was(kept: Cache, tmp_path: Path) -> None:
    evidence = pl.Series("evidence", ["firm", None, "too little data"], dtype=pl.Enum(["firm", "likely", "too little data"]))
    day = pl.Series("day", [None, 3, 4]).cast(pl.Date)
    value = {"frame": pl.DataFrame([evidence, day]), "empty": frame(3).clear(), "series": evidence, "words": [("a", 1)]}
    kept.get(SITE, "asked", slow(value, []))
    read = Cache(tmp_path, 50 * MB, 10 * MB).get(SITE, "asked", lambda: pytest.fail("it was kept"))
    assert read["frame"].equals(value["frame"])
    assert read["frame"].schema == value["frame"].schema
    assert read["empty"].schema == value["empty"].schema
    assert read["series"].equals(evidence, check_names=True)
    assert read["words"] == [("a", 1)]


def test_a_process_maps_a_kept_frame_and_does_not_copy_it(kept: Cache, tmp_path: Path) -> None:
    """The bytes of 4 million numbers stay in the file's mapping: private memory grows by at most a tenth of them."""
    kept.get(SITE, "asked", slow(pl.DataFrame({"n": np.random.default_rng(1).random(4_000_000)}), []))
    code = f"""
import os
os.environ["DJANGO_SETTINGS_MODULE"] = "zugzwang.settings"
from pathlib import Path
from zugzwang.data.cache import Cache
own = lambda: next(int(line.split()[1]) for line in open("/proc/self/status") if line.startswith("RssAnon"))
kept = Cache(Path({str(tmp_path)!r}), 10**9, 10**9)
kept.get((7, 1), "nothing", lambda: 0)
before = own()
total = kept.get((7, 1), "asked", lambda: 1 / 0)["n"].sum()
print(own() - before)
"""
    grown_kb = int(subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout)
    assert grown_kb < 4_000_000 * 8 / 1000 / 10


def test_memory_holds_what_was_used_last_up_to_its_bound(kept: Cache) -> None:
    for number in range(20):
        kept.get(SITE, number, slow(frame(50_000), []))
        kept.get(SITE, 0, lambda: pytest.fail("it is used all the time"))
    assert kept.remembered_bytes <= kept.memory_bytes


def _on_disk(folder: Path) -> int:
    return sum(one.stat().st_size for one in folder.rglob("*.arrow"))


def test_the_disk_holds_what_was_used_last_up_to_its_bound(tmp_path: Path) -> None:
    kept = Cache(tmp_path, disk_bytes=8 * MB, memory_bytes=MB)
    for number in range(20):
        kept.get(SITE, number, slow(frame(50_000), []))
        kept.forget()
        kept.get(SITE, 0, lambda: pytest.fail("it is used all the time"))
    assert 0 < _on_disk(tmp_path) <= 8 * MB


def test_a_kept_value_that_was_damaged_is_computed_anew(kept: Cache, tmp_path: Path) -> None:
    kept.get(SITE, "asked", slow(frame(1000), []))
    for path in tmp_path.rglob("*.arrow"):
        path.write_bytes(b"not what it was")
    calls: list[object] = []
    assert Cache(tmp_path, 50 * MB, 10 * MB).get(SITE, "asked", slow(5, calls)) == 5
    assert calls == [5]


def test_a_folder_that_cannot_be_written_costs_time_and_nothing_else(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("")
    kept = Cache(tmp_path / "file" / "below", 50 * MB, 10 * MB)
    assert kept.get(SITE, "asked", slow(5, [])) == 5


def test_other_versions_of_a_site_are_dropped_once_nobody_can_ask_for_them(kept: Cache, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    kept.get(SITE, "asked", slow(frame(10), []))
    kept.get((8, 1), "asked", slow(frame(10), []))
    kept.drop_older((7, 2))
    calls: list[object] = []
    kept.forget()
    kept.get(SITE, "asked", slow(0, calls))
    monkeypatch.setattr(cache, "UNUSED_SECONDS", -1)
    kept.drop_older((7, 2))
    kept.forget()
    kept.get(SITE, "asked", slow(1, calls))
    kept.get((8, 1), "asked", slow(2, calls))  # another site's stays
    assert calls == [1]


def test_what_fails_is_not_kept_and_holds_nobody_up(kept: Cache) -> None:
    def fail() -> int:
        raise ValueError("once")

    with pytest.raises(ValueError, match="once"):
        kept.get(SITE, "asked", fail)
    assert kept.get(SITE, "asked", lambda: 3) == 3
