"""Where the bytes of blocks and loads are: in the database, or in a separate store – a folder or an object store.

With a store (`ZUGZWANG_BLOCKS`), a row holds the SHA-256 of its bytes (FIPS 180-4) and the store has them under that name.
Bytes are stored before their row, so no row names missing bytes, and stored bytes never change, so writers need no
coordination. Bytes that no row names are deleted a month after that was noticed: until then a restored or replaced database
still finds what it names. Rows from before the store hold their bytes themselves.
"""

import hashlib
import json
import logging
import os
import uuid
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import Any

from django.conf import settings
from django.core.files.base import ContentFile, File
from django.core.files.storage import FileSystemStorage, Storage, storages
from django.db import connection, models
from django.db.backends.base.base import BaseDatabaseWrapper

from zugzwang.errors import Busy, Invalid

log = logging.getLogger(__name__)
MARK = b"sha256:"  # Parquet begins with "PAR1"
UNNAMED = "unnamed.json"  # digest → the time since which no row names it
UNNAMED_DAYS, JUST_STORED = timedelta(days=30), timedelta(days=1)


class Folder(FileSystemStorage):
    """A folder in which a file exists entirely or not at all, as in an object store."""

    def get_available_name(self, name: str, max_length: int | None = None) -> str:
        return name

    def _save(self, name: str, content: File[bytes]) -> str:
        path = self.path(name)
        os.makedirs(os.path.dirname(path), mode=0o700, exist_ok=True)
        making = f"{path}.{uuid.uuid4().hex}.making"
        with open(making, "wb") as file:
            file.write(content.read())
            file.flush()
            os.fsync(file.fileno())
        os.replace(making, path)
        return name


def store() -> Storage | None:
    """The block store; None: bytes are in the database."""
    return storages["blocks"] if "blocks" in settings.STORAGES else None


def put(current: Storage, content: bytes) -> bytes:
    """Store bytes; returns what a row holds instead. Existing bytes are written again: they then count as new and are not
    deleted before their row exists.
    """
    digest = hashlib.sha256(content).hexdigest()
    _reached(current.save, _name(digest), ContentFile(content))
    return MARK + digest.encode()


def fetch(marked: bytes) -> bytes:
    """The bytes that a row names; empty where they are missing, which readers notice by the checksum."""
    current = store()
    if current is None:
        raise Busy("The data are in an object store that is not configured.", "Ask your administrator to set ZUGZWANG_BLOCKS.")
    digest = marked[len(MARK) :].decode()
    try:
        with _reached(current.open, _name(digest)) as file:
            content: bytes = _reached(file.read)
            return content
    except FileNotFoundError:
        log.error("%s is not in the store of blocks", digest)
        return b""


def _name(digest: str) -> str:
    return f"{digest[:2]}/{digest}"


def _reached(ask: Any, *values: Any) -> Any:
    try:
        return ask(*values)
    except FileNotFoundError:
        raise
    except OSError as error:
        if error.errno is not None:
            raise  # a full or read-only disk, reported as such
        raise Busy("The object store cannot be reached.", "Nothing was changed; try again in a minute.") from error
    except Exception as error:  # each store's library has its own errors
        raise Busy("The object store cannot be reached.", "Nothing was changed; try again in a minute.") from error


def potential() -> bool:
    """Whether the store responds; True without one."""
    current = store()
    try:
        if current is not None:
            _reached(current.exists, UNNAMED)
    except (Busy, OSError):
        return False
    return True


class PayloadField(models.BinaryField):  # type: ignore[type-arg]
    """Bytes that are kept in the store where there is one."""

    def deconstruct(self) -> Any:
        name, _, args, kwargs = super().deconstruct()
        return name, "django.db.models.BinaryField", args, kwargs

    def get_db_prep_value(self, value: Any, connection: BaseDatabaseWrapper, prepared: bool = False) -> Any:
        current = store()
        if value is not None and current is not None:
            value = put(current, bytes(value))
        return super().get_db_prep_value(value, connection, prepared)

    def from_db_value(self, value: Any, *_: object) -> Any:
        return fetch(bytes(value)) if value is not None and bytes(value[: len(MARK)]) == MARK else value


def stored(current: Storage) -> Iterator[str]:
    """The digests of everything in a store."""
    for folder in current.listdir("")[0]:
        yield from (name for name in current.listdir(folder)[1] if len(name) == 64)


def everything() -> Iterator[tuple[str, bytes]]:
    """The digests and bytes of everything in the store; empty without one."""
    current = store()
    for digest in [] if current is None else list(stored(current)):
        if content := fetch(MARK + digest.encode()):  # except those deleted in the meantime
            yield digest, content


def sweep_store(now: datetime, tables: tuple[type[models.Model], ...]) -> int:
    """Delete bytes that no row of the tables has named for a month; returns their number."""
    current = store()
    if current is None or not potential():  # the clock retries
        return 0
    named = set(_named(tables))
    since: dict[str, str] = {}
    if current.exists(UNNAMED):
        with current.open(UNNAMED) as file:
            since = json.loads(file.read())
    anonymised = {digest: since.get(digest, now.isoformat()) for digest in stored(current) if digest not in named}
    gone = [
        digest
        for digest, at in anonymised.items()
        if datetime.fromisoformat(at) <= now - UNNAMED_DAYS
        and _utc(current.get_modified_time(_name(digest))) < now - JUST_STORED
    ]
    for digest in gone:
        current.delete(_name(digest))
        del anonymised[digest]
    current.save(UNNAMED, ContentFile(json.dumps(anonymised).encode()))
    return len(gone)


def _utc(at: datetime) -> datetime:
    return at if at.tzinfo else at.replace(tzinfo=UTC)


def _named(tables: tuple[type[models.Model], ...]) -> Iterator[str]:
    with connection.cursor() as cursor:
        for table in tables:
            name = connection.ops.quote_name(table._meta.db_table)
            cursor.execute(f"SELECT payload FROM {name} WHERE length(payload) = %s", [len(MARK) + 64])  # noqa: S608 – our own
            for (marked,) in cursor.fetchall():
                if bytes(marked).startswith(MARK):
                    yield bytes(marked)[len(MARK) :].decode()


def move(table: type[models.Model], into_database: bool) -> int:
    """Move the bytes of all rows of a table to where the setting says, or into the database; returns the number of rows
    written.
    """
    moved = 0
    for number in list(table._default_manager.order_by("id").values_list("id", flat=True)):
        row = table._default_manager.filter(id=number).first()
        if row is None:
            continue  # replaced meanwhile: its successor is in the right place
        content = bytes(row.payload)  # type: ignore[attr-defined]
        if not content:
            message = (
                f"The bytes of row {number} of {table.__name__} are missing from the store; {moved} rows were moved before it."
            )
            raise Invalid(message, "Run verify, which rebuilds blocks from their loads, then repeat.")
        rows = table._default_manager.filter(id=number)
        if not into_database:
            moved += rows.update(payload=content)
            continue
        with connection.cursor() as cursor:
            name = connection.ops.quote_name(table._meta.db_table)
            cursor.execute(f"UPDATE {name} SET payload = %s WHERE id = %s", [content, number])  # noqa: S608 – our own
        moved += 1
    return moved
