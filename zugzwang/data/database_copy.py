"""The whole database as one file, as of one moment, while others write to it: for SQLite and PostgreSQL.

SQLite: its own VACUUM INTO, in one step. (Copying the files of a database in use gave a malformed one once in 51 times.)
PostgreSQL: pg_dump in the snapshot in which the rows were counted. Either file is read back before it counts.
"""

import contextlib
import logging
import os
import re
import sqlite3
import subprocess
from collections.abc import Collection, Iterable, Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any, Protocol

from django.conf import settings
from django.db import OperationalError, connection, transaction
from django.db.migrations.loader import MigrationLoader

from zugzwang.data.moving import move_rows
from zugzwang.errors import Conflict, ProductError

COUNTED = ("store_site", "store_load", "store_block", "store_move", "store_decision", "auth_user")
COPY_BEGINS = re.compile(rb"COPY public\.(\w+) .* FROM stdin;")
FREE_BYTES, FREE_SHARE = 16_000_000, 0.25  # of the database file, below which it is not compacted; own choice
log = logging.getLogger(__name__)
MIGRATIONS = "django_migrations"


class Unsound(ProductError):
    """A backup, or a database restored from it, is damaged."""


@dataclass(frozen=True)
class About:
    """`migration`: the database's last migration; `counts`: rows of some tables."""

    migration: str
    counts: dict[str, int]


class Engine(Protocol):
    name: str  # the file's name in a backup

    def copy(self, target: Path) -> About:
        """Write the database as of one moment; concurrent writers neither wait nor appear partially."""

    def read(self, copy: Path) -> About:
        """Read a copy back completely. Raises Unsound where it is damaged."""

    def exists(self) -> bool:
        """Whether the installation has a database with tables."""

    def check_alone(self) -> None:
        """Raises Conflict where others are connected, Unsound where a program needed for restoring is missing."""

    def set_aside(self, folder: Path) -> None:
        """Save the current database in a folder before it is replaced."""

    def restore(self, copy: Path) -> None:
        """Replace the current database with a copy."""


@contextmanager
def one_moment() -> Iterator[None]:
    """Everything read within is from one moment. It blocks no one and must not write."""
    if connection.in_atomic_block:  # the time at which it started
        yield
        return
    if connection.vendor != "sqlite":
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
            yield
        return
    connection.ensure_connection()  # this setting decides how transactions begin
    current, connection.transaction_mode = connection.transaction_mode, None  # type: ignore[attr-defined]
    try:
        # Transactions on SQLite begin as writes (settings), one at a time; this one only reads.
        with transaction.atomic():
            yield
    finally:
        connection.transaction_mode = current  # type: ignore[attr-defined]


@contextmanager
def without_waiting() -> Iterator[None]:
    """Write only if no one else is writing: raises OperationalError at once otherwise, where SQLite would wait."""
    if connection.vendor != "sqlite":
        yield
        return
    with connection.cursor() as cursor:
        cursor.execute("PRAGMA busy_timeout = 0")
    try:
        yield
    finally:
        with connection.cursor() as cursor:
            cursor.execute(f"PRAGMA busy_timeout = {connection.settings_dict['OPTIONS']['timeout'] * 1000}")


class Sqlite:
    name = "zugzwang.sqlite3"

    @property
    def file(self) -> Path:
        return Path(str(settings.DATABASES["default"]["NAME"]))

    def copy(self, target: Path) -> About:
        # A consistent copy, without the space of deleted rows.
        with closing(sqlite3.connect(self.file, timeout=60)) as old:
            old.execute("VACUUM INTO ?", (str(target),))
        target.chmod(0o600)
        return self._about(target)

    def read(self, copy: Path) -> About:
        if problem := sqlite_problem(copy):
            raise Unsound(f"The database in the backup is damaged: {problem}.", "Use another backup.")
        return self._about(copy)

    def exists(self) -> bool:
        return self.file.exists()

    def check_alone(self) -> None:
        pass  # the lock on the data folder shows it

    def set_aside(self, folder: Path) -> None:
        # The journal is merged into the file; a damaged one stays as it is.
        with contextlib.suppress(sqlite3.DatabaseError), closing(sqlite3.connect(self.file)) as current:
            current.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        for side in self._files():
            os.link(side, folder / side.name)

    def restore(self, copy: Path) -> None:
        for journal in self._files()[1:]:  # of the old database: it would be applied to the new one
            journal.unlink()
        os.replace(copy, self.file)  # on the same disk: at each moment exactly one of the two exists, complete

    def _files(self) -> list[Path]:
        return [one for end in ("", "-wal", "-shm") if (one := self.file.with_name(self.file.name + end)).exists()]

    def _about(self, database: Path) -> About:
        with closing(sqlite3.connect(f"file:{database}?mode=ro", uri=True)) as current:
            return _about(lambda sql: current.execute(sql).fetchone())


class PostgreSql:
    name = "zugzwang.dump"

    def copy(self, target: Path) -> About:
        with one_moment(), connection.cursor() as cursor:
            cursor.execute("SELECT pg_export_snapshot()")
            snapshot = cursor.fetchone()[0]

            def first(sql: str) -> Any:
                cursor.execute(sql)
                return cursor.fetchone()

            about = _about(first)
            _run("pg_dump", "--format=custom", "--no-owner", f"--snapshot={snapshot}", f"--file={target}")
        target.chmod(0o600)
        return about

    def read(self, copy: Path) -> About:
        counts, migration = dict.fromkeys(COUNTED, 0), ""
        with _reading("pg_restore", "--data-only", "--file=-", str(copy)) as lines:
            table = ""
            for line in lines:
                if begins := COPY_BEGINS.match(line):
                    table = begins[1].decode()
                elif line == b"\\.\n":
                    table = ""
                elif table in counts:
                    counts[table] += 1
                elif table == MIGRATIONS and (cells := line.decode().split("\t"))[1] == "store":
                    migration = max(migration, cells[2])
        return About(migration, counts)

    def exists(self) -> bool:
        return bool(connection.introspection.table_names())

    def set_aside(self, folder: Path) -> None:
        self.copy(folder / self.name)

    def check_alone(self) -> None:
        for program in ("pg_restore", "psql"):
            _run(program, "--version")
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()"
            )
            if cursor.fetchone()[0]:
                raise Conflict(
                    "Other connections to the database are open.", "Stop Zugzwang on every machine, then try again.", ["data"]
                )

    def restore(self, copy: Path) -> None:
        self.check_alone()
        if copy.name == Sqlite.name:
            move_rows(copy)
            return
        connection.close()
        with _reading("pg_restore", "--no-owner", "--file=-", str(copy)) as lines:
            _run("psql", "--quiet", "--no-psqlrc", "--single-transaction", "--set=ON_ERROR_STOP=1", values=_afresh(lines))


def compact() -> int:
    """Free the space of deleted rows in SQLite's file where it is large; returns the bytes. Writers wait meanwhile, a second
    for some hundred MB. PostgreSQL does this by itself.
    """
    if connection.vendor != "sqlite" or connection.in_atomic_block:
        return 0
    with connection.cursor() as cursor:

        def pragma(what: str) -> int:
            return int(cursor.execute(f"PRAGMA {what}").fetchone()[0])

        size, free = pragma("page_size"), pragma("freelist_count")
        if free * size < FREE_BYTES or free < FREE_SHARE * pragma("page_count"):
            return 0
        try:
            cursor.execute("VACUUM")
            cursor.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        except OperationalError as error:
            log.warning("The database was not compacted: %s. It is tried again tomorrow.", error)
            return 0
        return (free - pragma("freelist_count")) * size


def engine() -> Engine:
    return Sqlite() if connection.vendor == "sqlite" else PostgreSql()


def written_by(files: Collection[str], ours: Engine) -> Engine:
    """The kind of database in a backup's files. A SQLite file can be restored into either kind, a PostgreSQL dump only into
    its own. Raises Unsound where this installation cannot restore it.
    """
    if ours.name in files:
        return ours
    if Sqlite.name in files:
        return Sqlite()
    where = "Set ZUGZWANG_DATABASE as it was set where the backup was made."
    raise Unsound("The backup is of an installation with another kind of database.", where)


def sqlite_problem(path: Path) -> str:
    """SQLite's report of problems in a database; empty if there are none."""
    try:
        with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True)) as database:
            result = database.execute("PRAGMA integrity_check(5)").fetchall()
            broken = database.execute("PRAGMA foreign_key_check").fetchmany(5)
    except sqlite3.DatabaseError as error:
        return str(error)
    message = [row[0] for row in result if row[0] != "ok"] + [f"{row[0]} points to no {row[2]}" for row in broken]
    return "; ".join(message)


def check_known(migration: str, what: str) -> None:
    """Raises Unsound where a database is newer than the program: its last migration is unknown."""
    known = max(name for app, name in MigrationLoader(None).disk_migrations if app == "store")
    if migration > known:
        raise Unsound(
            f"{what} was made by a newer version of Zugzwang: its last migration is {migration}, this one has {known}.",
            "Install that version or a newer one, then try again.",
        )


def _about(first: Any) -> About:
    last = first(f"SELECT max(name) FROM {MIGRATIONS} WHERE app = 'store'")  # noqa: S608
    return About(last[0] or "", {name: first(f"SELECT count(*) FROM {name}")[0] for name in COUNTED})  # noqa: S608


def _afresh(lines: Iterator[bytes]) -> Iterator[bytes]:
    """Statements that create a database again, in the transaction that empties it."""
    yield b"DROP SCHEMA public CASCADE;\nCREATE SCHEMA public;\n"
    yield from lines


def _environment() -> dict[str, str]:
    """The environment in which PostgreSQL's programs find the database; the password is in no process list."""
    current = settings.DATABASES["default"]
    result = {
        "PGHOST": current["HOST"],
        "PGPORT": current["PORT"],
        "PGUSER": current["USER"],
        "PGPASSWORD": current["PASSWORD"],
    }
    return {**os.environ, **{name: str(value) for name, value in result.items() if value}, "PGDATABASE": str(current["NAME"])}


def _started(program: str, *arguments: str, **pipes: Any) -> subprocess.Popen[bytes]:
    try:
        return subprocess.Popen([program, *arguments], env=_environment(), stderr=subprocess.PIPE, **pipes)  # noqa: S603
    except FileNotFoundError:
        raise Unsound(f"{program} is missing on this machine.", "Install Debian’s postgresql-client.") from None


def _run(program: str, *arguments: str, values: Iterable[bytes] = ()) -> None:
    with _started(program, *arguments, stdin=subprocess.PIPE, stdout=subprocess.DEVNULL) as process:
        assert process.stdin is not None
        try:
            process.stdin.writelines(values)
            process.stdin.close()
        except BrokenPipeError:
            pass  # its error message says more
        except BaseException:
            process.kill()  # before it takes the end of its input for success
            raise
        _well(process, program)


@contextmanager
def _reading(program: str, *arguments: str) -> Iterator[IO[bytes]]:
    with _started(program, *arguments, stdout=subprocess.PIPE) as process:
        assert process.stdout is not None
        yield process.stdout
        _well(process, program)


def _well(process: subprocess.Popen[bytes], program: str) -> None:
    assert process.stderr is not None
    message = process.stderr.read().decode(errors="replace").strip()
    if process.wait():
        raise Unsound(f"{program} failed: {message.splitlines()[0] if message else 'it ended'}.", "Nothing was changed.")
