"""Backups made during loads, restored and compared; damage that is found and named; old backups deleted."""

import json
import os
import random
import signal
import subprocess
import sys
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

import psycopg
import pytest
from django.contrib.sessions.models import Session
from django.core.management import CommandError, call_command
from django.db import OperationalError, connection, transaction
from django.test import Client
from django.utils import timezone

from tests.installation import PATIENCE, ROOT, Installation
from tests.planted import planted_site
from zugzwang.api.problems import of_storage
from zugzwang.cli.management.commands import clock
from zugzwang.data import backup, in_use
from zugzwang.data.apps import check_owner
from zugzwang.data.database_copy import About, Sqlite, Unsound, check_known, engine, one_moment, without_waiting
from zugzwang.data.models import Block, Job, Load, LoadPart, Page, Query, Site
from zugzwang.data.sweeping import sweep
from zugzwang.errors import Conflict, Invalid
from zugzwang.intake import jobs

# Loads a file again and again, each time with a row less.
LOADS = """
import django; django.setup()
import sys
from pathlib import Path
from zugzwang.access import OPERATOR
from zugzwang.data.models import Site
from zugzwang.intake.loading import load_file
from zugzwang.subjects.sites import add_site
facts, number = Path(sys.argv[1]), int(sys.argv[2])
site = Site.objects.filter(slug="shop").first() or add_site(OPERATOR, "Shop", "http://www.shop.example", "shop")
head, *rows = facts.read_text().splitlines()
for at in range(number):
    path = facts.with_name(f"facts-{at}.csv")
    path.write_text("\\n".join([head, *rows[at:]]))
    load_file(site, path, "facts.csv")
    site.refresh_from_db()
"""


def facts_file(folder: Path) -> Path:
    path = folder / "facts.csv"
    rows = planted_site(queries=300, poor=3, movers=3).facts.rename({"day": "date"})
    rows.write_csv(path)
    return path


def run(installation: Installation, *command: str) -> "subprocess.CompletedProcess[str]":
    return subprocess.run(
        [sys.executable, "manage.py", *command], cwd=ROOT, env=installation.env, capture_output=True, text=True, check=False
    )


def loads(installation: Installation) -> int:
    result: int = installation.asked("SELECT COUNT(*) FROM store_load")[0][0]
    assert installation.asked("SELECT checksum FROM store_block") or result == 0
    return result


def test_a_backup_made_while_loads_run_is_a_state_between_two_of_them(tmp_path: Path) -> None:
    """Five backups during thirty loads; each, restored elsewhere, has the blocks of its last load and is sound."""
    installation, folder = Installation(tmp_path / "data"), tmp_path / "backups"
    installation.migrated()
    loading = installation.run("-c", LOADS, str(facts_file(tmp_path)), "30")
    made: list[Path] = []
    while len(made) < 5:
        result = run(installation, "backup", "--to", str(folder))
        assert result.returncode == 0, result.stderr
        assert "verified" in result.stdout
        made = backup.backups(folder)
        time.sleep(0.3)
    loading.send_signal(signal.SIGKILL)
    loading.wait()
    seen = set()
    for number, one in enumerate(made):
        assert one.stat().st_mode & 0o777 == 0o600
        elsewhere = Installation(tmp_path / f"put-back-{number}")
        result = run(elsewhere, "restore", str(one))
        assert result.returncode == 0, result.stderr
        checked = run(elsewhere, "verify")
        assert checked.returncode == 0, checked.stdout + checked.stderr
        seen.add(loads(elsewhere))
        last = elsewhere
        assert (elsewhere.data / "secret_key").read_text() == (installation.data / "secret_key").read_text()
    assert len(seen) >= 2, "the backups were not made while loads ran"
    # Into a folder that holds data only where asked to, and never while something runs on it.
    target = last
    assert "--replace" in run(target, "restore", str(made[-1])).stderr
    worker = target.worker()
    for _ in range(200):
        if "is running on this data folder" in run(target, "restore", str(tmp_path / "none.tar")).stderr:
            break
        time.sleep(0.1)
    else:
        raise AssertionError("a running worker was not noticed")
    worker.kill()
    worker.wait()
    before = loads(target)
    result = run(target, "restore", str(made[0]), "--replace")
    assert result.returncode == 0, result.stderr
    (aside,) = target.data.glob("before-restore-*")
    assert engine().read(aside / engine().name).counts["store_load"] == before
    assert loads(target) == min(seen)


ON_SQLITE = pytest.mark.skipif(connection.vendor != "sqlite", reason="about the file of SQLite")


@pytest.fixture
def whole(tmp_path: Path) -> Path:
    """A backup of a small data folder."""
    installation = Installation(tmp_path / "data")
    installation.migrated()
    assert run(installation, "backup", "--to", str(tmp_path / "backups")).returncode == 0
    return backup.backups(tmp_path / "backups")[0]


def test_a_backup_that_is_damaged_is_refused_and_touches_nothing(whole: Path, tmp_path: Path) -> None:
    data = whole.read_bytes()
    chance = random.Random(2)
    places = [chance.randrange(2_000, len(data) - 20_000) for _ in range(4)]
    wrong = {
        "cut.tar": data[: len(data) // 2],
        "other.tar": b"no archive",
        **{f"flipped-{at}.tar": data[:at] + bytes([data[at] ^ 4]) + data[at + 1 :] for at in places},
    }
    for name, content in wrong.items():
        (tmp_path / name).write_bytes(content)
        if name.startswith("flipped") and content[int(name[8:-4])] == data[int(name[8:-4])]:
            continue
        with pytest.raises(Unsound):
            backup.check(tmp_path / name)
    empty = Installation(tmp_path / "empty")
    refused = run(empty, "restore", str(tmp_path / "cut.tar"))
    assert refused.returncode == 1
    assert "incomplete" in refused.stderr
    assert {one.name for one in empty.data.iterdir()} <= {"in-use", "secret_key"}
    result = run(empty, "restore", str(whole))
    assert (result.returncode, loads(empty)) == (0, 0), result.stderr
    assert not list(empty.data.glob("before-restore-*"))
    if empty.database:
        return
    # Uploads without a database are not lost either.
    (empty.data / "zugzwang.sqlite3").unlink()
    (empty.data / "uploads" / "waiting").mkdir(parents=True)
    result = run(empty, "restore", str(whole))
    assert result.returncode == 0, result.stderr
    assert len([*empty.data.rglob("waiting")]) == 1


@ON_SQLITE
def test_what_fails_midway_leaves_everything_as_it_stood(
    whole: Path, tmp_path: Path, settings: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Before, a refused restore had already swapped the signing key and moved the uploads."""
    data = tmp_path / "data"
    (data / "uploads").mkdir(parents=True)
    (data / "uploads" / "waiting").write_bytes(b"an upload")
    (data / "secret_key").write_bytes(b"our key")
    (data / "zugzwang.sqlite3").write_bytes(b"the old database")
    settings.DATA_DIR, settings.UPLOAD_DIR = data, data / "uploads"
    before = {one.name: one.read_bytes() for one in data.rglob("*") if one.is_file()}
    ours = Sqlite()
    monkeypatch.setattr(Sqlite, "file", data / "zugzwang.sqlite3")
    monkeypatch.setattr(backup, "engine", lambda: ours)

    def fails(copy: Path) -> None:
        raise Conflict("Others are connected.", "Stop them.", ["data"])

    for step in ("restore", "check_alone"):
        with monkeypatch.context() as within:
            within.setattr(ours, step, fails if step == "restore" else lambda: fails(whole))
            with pytest.raises(Conflict):
                backup.restore(whole, replace=True)
        assert {one.name: one.read_bytes() for one in data.rglob("*") if one.is_file() and one.name in before} == before
        assert not [*data.glob("before-restore-*"), *data.glob(".restoring-*")]
    _, aside = backup.restore(whole, replace=True)
    assert aside is not None
    assert (aside / "zugzwang.sqlite3").read_bytes() == b"the old database"
    assert (aside / "secret_key").read_bytes() == b"our key"
    assert ours.read(data / "zugzwang.sqlite3").counts["store_site"] == 0


@ON_SQLITE
def test_a_newer_backup_is_refused_and_a_missing_database_is_not_made(
    whole: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    empty = Installation(tmp_path / "not-mounted")
    for command in (("sites",), ("backup", "--to", str(tmp_path / "x")), ("db_worker", "--skip-checks", "--batch"), ("clock",)):
        refused = run(empty, *command)
        assert refused.returncode != 0
        assert "disk is mounted" in refused.stderr, command
    assert not (empty.data / "zugzwang.sqlite3").exists()
    with pytest.raises(Unsound, match=r"newer version of Zugzwang: its last migration is 9999_later"):
        check_known("9999_later", "The backup")


class AnyDatabase(Sqlite):
    """The copied content does not matter to the schedule."""

    def copy(self, target: Path) -> About:
        target.write_bytes(b"a database")
        return About("", {})

    def read(self, copy: Path) -> About:
        return About("", {})


def test_a_night_has_one_backup_and_old_ones_go(tmp_path: Path, settings: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    settings.BACKUP_DIR, settings.BACKUP_AT, settings.BACKUP_KEEP = str(tmp_path / "nightly"), "02:00", 3
    monkeypatch.setattr(backup, "engine", AnyDatabase)
    made = []
    for hours in (0, 1, 5, 25, 26, 49, 73, 97):
        clock._back_up(datetime(2026, 11, 27, 3, tzinfo=UTC) + timedelta(hours=hours))
        made.append(len(backup.backups(Path(settings.BACKUP_DIR))))
    assert made == [1, 1, 1, 2, 2, 3, 3, 3]
    assert [one.name[9:17] for one in backup.backups(Path(settings.BACKUP_DIR))] == ["20261129", "20261130", "20261201"]


def test_only_who_is_alone_puts_back(settings: Any, tmp_path: Path) -> None:
    settings.DATA_DIR = tmp_path
    with in_use.alone(), pytest.raises(Conflict), in_use.alone():
        pass
    with in_use.alone():
        pass


def test_root_does_not_work_on_the_data_of_another(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Before, a backup by root left a lock that the service could not open, so its own backups failed."""
    data = tmp_path / "data"
    data.mkdir()
    if os.geteuid() == 0:
        check_owner(data)
        os.chown(data, 12_345, 12_345)
    monkeypatch.setattr("os.geteuid", lambda: 0)
    with pytest.raises(SystemExit, match=r"Run this as .*zugzwang-manage"):
        check_owner(data)
    (data / ".making").touch()

    def refused(*_: Any) -> int:
        raise PermissionError

    monkeypatch.setattr(in_use, "_opened", refused)
    with pytest.raises(Invalid, match="it belongs to user") as result, in_use.locked(data / ".making", ""):
        pass
    assert "chown" in result.value.remedy


def test_two_that_bring_one_database_up_to_date_take_turns(tmp_path: Path) -> None:
    """Units that start at the same time on an empty database."""
    installation = Installation(tmp_path / "data")
    command = ("manage.py", "migrate", "--skip-checks", "--verbosity", "0")
    both = [installation.run(*command) for _ in range(2)]
    assert [one.wait(PATIENCE) for one in both] == [0, 0]
    assert loads(installation) == 0


@pytest.mark.usefixtures("planted")
class TestVerify:
    def verified(self, capsys: pytest.CaptureFixture[str]) -> str:
        call_command("verify", site="shop")
        return capsys.readouterr().out

    def test_what_loads_hold_is_mended_and_named(self, capsys: pytest.CaptureFixture[str]) -> None:
        assert "made again" not in self.verified(capsys)
        block = Block.objects.order_by("month").first()
        assert block is not None
        broken = bytearray(block.payload)
        broken[len(broken) // 2] ^= 1
        Block.objects.filter(id=block.id).update(payload=bytes(broken))
        assert f"shop: page × query, {block.month:%B %Y}: it was damaged; rebuilt" in self.verified(capsys)
        assert bytes(Block.objects.get(id=block.id).payload) == bytes(block.payload)
        assert "made again" not in self.verified(capsys)

    def test_what_cannot_be_mended_is_an_error(self, capsys: pytest.CaptureFixture[str]) -> None:
        part = LoadPart.objects.order_by("month").first()
        assert part is not None
        LoadPart.objects.filter(id=part.id).update(payload=b"gone")
        with pytest.raises(CommandError):
            self.verified(capsys)
        assert "cannot be undone" in capsys.readouterr().out
        Block.objects.filter(month=part.month).update(payload=b"gone too")
        with pytest.raises(CommandError):
            self.verified(capsys)
        assert "damaged on disk" in capsys.readouterr().out

    def test_references_without_a_text_are_found(self, capsys: pytest.CaptureFixture[str]) -> None:
        Page.objects.filter(id=1).delete()
        Query.objects.filter(id__in=[1, 2]).delete()
        with pytest.raises(CommandError):
            self.verified(capsys)
        result = capsys.readouterr().out
        assert "1 of its page numbers have no text" in result
        assert "2 of its query numbers have no text" in result


@ON_SQLITE
def test_the_room_of_deleted_rows_is_given_back(tmp_path: Path) -> None:
    installation = Installation(tmp_path / "data").migrated()
    result = subprocess.run([sys.executable, "-c", FILLED], cwd=ROOT, env=installation.env, capture_output=True, check=True)
    filled, emptied, compacted, copied = map(int, result.stdout.split())
    assert filled == emptied > 40_000_000
    assert compacted < 5_000_000
    assert copied < 5_000_000


FILLED = """
import django; django.setup()
import os, tempfile
from pathlib import Path
from django.db import connection
from zugzwang.data.database_copy import compact, engine
file = connection.settings_dict["NAME"]
def size():
    with connection.cursor() as cursor:
        cursor.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    return os.stat(file).st_size
with connection.cursor() as cursor:
    cursor.execute("CREATE TABLE much (bytes BLOB)")
    cursor.executemany("INSERT INTO much VALUES (zeroblob(1000000))", [[]] * 40)
filled = size()
with connection.cursor() as cursor:
    cursor.execute("DROP TABLE much")
emptied = size()
with tempfile.TemporaryDirectory() as folder:
    copy = Path(folder) / "copy"
    engine().copy(copy)
    copied = copy.stat().st_size
assert compact() > 30_000_000
assert compact() == 0
print(filled, emptied, size(), copied)
"""


def test_what_is_past_its_days_is_swept(site: Site) -> None:
    now = timezone.now()
    for days, key in ((1, "old"), (-1, "new")):
        Session.objects.create(session_key=key, session_data="", expire_date=now - timedelta(days=days))
    for days in (100, 10):
        job = Job.objects.create(site=site, title="x", refused_rows=b"rows")
        job.parts.create(number=1, payload=b"")
        load = Load.objects.create(site=site, source="search", name="x", taken_back_at=now - timedelta(days=days))
        load.parts.create(grain="page", month=date(2026, 1, 1), mode="add", rows=0, payload=b"")
        Job.objects.filter(id=job.id).update(ended_at=now - timedelta(days=days))
    standing = Load.objects.create(site=site, source="search", name="stands")
    standing.parts.create(grain="page", month=date(2026, 1, 1), mode="add", rows=0, payload=b"")
    assert sweep(now) == {"sessions": 1, "refused rows": 1, "parts of jobs": 1, "rows of loads": 1}
    assert [one.session_key for one in Session.objects.all()] == ["new"]
    assert (Job.objects.count(), Load.objects.count(), LoadPart.objects.count()) == (2, 3, 2)
    assert sweep(now) == {}


READ_ONLY = "SET SESSION CHARACTERISTICS AS TRANSACTION READ"
DISKS = {
    "sqlite": [
        ("PRAGMA query_only = 1", "PRAGMA query_only = 0", "are read-only"),
        ("PRAGMA max_page_count = 1", "PRAGMA max_page_count = 1073741823", "disk of this installation is full"),
    ],
    "postgresql": [(f"{READ_ONLY} ONLY", f"{READ_ONLY} WRITE", "are read-only")],
}


GROWN = """
import django; django.setup()
import sys
from django.core.management import call_command
call_command("migrate", verbosity=0)
call_command("sites", "--add", "Shop", "--address", "https://shop.example", "--slug", "shop")
call_command("load", sys.argv[1], "--site", "shop")
call_command("backup", "--to", sys.argv[2])
"""
TELL = """
import django; django.setup()
from django.core.management import call_command
call_command("verify", stdout=open("/dev/stderr", "w"))
call_command("dumpdata", "store.site", "store.load", "store.page", "store.auditentry", "store.job")
print()
call_command("findings", "low-ctr", "--site", "shop")
call_command("sites", "--add", "New", "--address", "https://new.example", "--slug", "new", stdout=open("/dev/stderr", "w"))
"""
MOVED = '$0 manage.py restore "$1" >&2 && $0 -c "$2" && ! $0 manage.py restore "$1" >&2'


def test_an_installation_that_outgrew_sqlite_moves_into_postgresql(tmp_path: Path) -> None:
    """A backup restored into PostgreSQL: the same answers, references, times and numbers."""
    grown = Installation(tmp_path / "data")
    grown.env["ZUGZWANG_DATABASE"] = ""
    facts = tmp_path / "facts.csv"
    planted_site(queries=900, poor=20, movers=5).facts.rename({"day": "date"}).write_csv(facts)
    assert grown.run("-c", GROWN, str(facts), str(tmp_path / "backups")).wait() == 0
    (backed_up,) = backup.backups(tmp_path / "backups")
    before = subprocess.run([sys.executable, "-c", TELL], cwd=ROOT, env=grown.env, capture_output=True, text=True, check=True)
    env = {**grown.env, "ZUGZWANG_DATA_DIR": str(tmp_path / "elsewhere")}
    command = [".ci/with-postgresql", "bash", "-c", MOVED, sys.executable, str(backed_up), TELL]
    moved = subprocess.run(command, cwd=ROOT, env=env, capture_output=True, text=True, check=False)
    assert moved.returncode == 0, moved.stderr
    assert "4 blocks and 4 parts of loads were read" in moved.stderr
    assert "This installation already has data" in moved.stderr
    (rows, findings), (rows_there, findings_there) = (one.stdout.split("\n", 1) for one in (before, moved))
    assert json.loads(rows_there) == json.loads(rows)
    assert json.loads(findings_there)["rows"] == json.loads(findings)["rows"] != []


@pytest.mark.django_db(transaction=True)
def test_a_moment_is_read_whole_while_others_write() -> None:
    def add(slug: str) -> None:
        try:
            Site.objects.create(slug=slug, name=slug, address=f"https://{slug}.example")
        finally:
            connection.close()

    add("before")
    begun = time.monotonic()
    with one_moment():
        assert Site.objects.count() == 1
        with ThreadPoolExecutor(1) as extras:
            extras.submit(add, "meanwhile").result()  # SQLite would wait twenty seconds for who writes, and give up
        assert Site.objects.count() == 1
    assert Site.objects.count() == 2
    assert time.monotonic() - begun < 10
    add("after")  # and writing goes on as before


@pytest.mark.skipif(connection.vendor != "sqlite", reason="writers of other rows do not wait for each other there")
@pytest.mark.django_db(transaction=True)
def test_who_does_not_wait_gives_up_at_once() -> None:
    writing, done = threading.Event(), threading.Event()

    def write() -> None:
        with transaction.atomic():
            writing.set()
            done.wait(20)
        connection.close()

    with ThreadPoolExecutor(1) as extras:
        current = extras.submit(write)
        assert writing.wait(20)
        begun = time.monotonic()
        with pytest.raises(OperationalError), without_waiting(), transaction.atomic():
            pass
        assert time.monotonic() - begun < 5
        done.set()
        current.result()
    with transaction.atomic():
        assert Site.objects.count() == 0
    with connection.cursor() as cursor:
        assert cursor.execute("PRAGMA busy_timeout").fetchone()[0] == 20_000


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize(("begin", "end", "said"), DISKS[connection.vendor])
def test_a_disk_that_takes_nothing_is_told_and_all_goes_on(
    begin: str, end: str, said: str, signed_in: Client, site: Site
) -> None:
    """The databases' own errors: a read-only one, and one that cannot grow."""
    body = {"address": "pages?text=" + "x" * 3_000}

    def ask(name: str) -> Any:
        return signed_in.post(f"/api/sites/{site.slug}/views", {"name": name, **body}, "application/json")

    with connection.cursor() as cursor:
        cursor.execute("VACUUM")  # so no room is left by tests before
        cursor.execute(begin)
        try:
            answers = [ask(f"View {number}") for number in range(30)]
        finally:
            cursor.execute(end)
    refused = [one for one in answers if one.status_code == 503]
    assert refused
    assert all(said in one.json()["detail"] and one.json()["remedy"] for one in refused)
    assert {one.status_code for one in answers} <= {201, 503}
    assert signed_in.get(f"/api/sites/{site.slug}").status_code == 200
    assert ask("After it").status_code == 201


def test_a_job_says_that_the_disk_is_full(site: Site, monkeypatch: pytest.MonkeyPatch) -> None:
    job = Job.objects.create(site=site, title="Crawl", kind="crawl", state="running")

    def crawled(*_: Any) -> dict[str, Any]:
        raise OperationalError("database or disk is full")

    monkeypatch.setattr(jobs.crawling, "crawl", crawled)
    with pytest.raises(OperationalError):
        jobs.work_on(job.id)
    job.refresh_from_db()
    assert (job.state, job.outcome["message"]) == ("failed", "The disk of this installation is full.")


def test_an_error_of_another_kind_is_not_called_one_of_the_disk() -> None:
    assert of_storage(OperationalError("no such table: x")) is None
    assert of_storage(ValueError("full")) is None
    assert of_storage(OSError(os.strerror(2))) is None


@pytest.mark.parametrize(
    ("error", "said"),
    [
        (psycopg.errors.DiskFull(), "disk of this installation is full"),
        (psycopg.errors.DeadlockDetected(), "busy"),
        (psycopg.errors.AdminShutdown(), "cannot be reached"),
        (psycopg.OperationalError("connection refused"), "cannot be reached"),
        (psycopg.errors.UndefinedTable(), ""),
    ],
)
def test_what_postgresql_says_is_put_into_words(error: Exception, said: str) -> None:
    try:
        raise OperationalError(str(error)) from error
    except OperationalError as told:
        answered = of_storage(told)
    assert (answered is None) if not said else (answered is not None and said in json.loads(answered.content)["detail"])
