"""Backups: one file with the database as of one moment, pending uploads, and the signing key.

The database is copied as of one moment while others write (database_copy.py): a load's transaction is in it entirely or not
at all. A backup counts once it was read back: the SHA-256 of every file, and the whole database.

A backup is a tar archive: manifest.json, the database (zugzwang.sqlite3 or zugzwang.dump), uploads/…, secret_key, and
blocks/… where blocks are in a store: everything in it after the database was copied, because nothing in it changes. A
backup contains the key to its own secrets, so only its owner may read it (mode 0600); without the key, service tokens must
be entered again after a restore.
"""

import hashlib
import io
import json
import os
import re
import shutil
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, cast

from django.conf import settings
from django.core.files.storage import Storage

from zugzwang.data import block_store
from zugzwang.data.database_copy import Unsound, check_known, engine, written_by
from zugzwang.data.in_use import alone, locked
from zugzwang.errors import Invalid

KEY, UPLOADS, BLOCKS, MANIFEST = "secret_key", "uploads", "blocks", "manifest.json"
NAME = re.compile(r"zugzwang-(\d{8}T\d{6})Z\.tar")
CHUNK = 1 << 20


@dataclass(frozen=True)
class Manifest:
    """`files`: name → SHA-256; `counts`: rows of some tables; `migration`: the database's last migration."""

    made_at: str
    migration: str
    counts: dict[str, int]
    files: dict[str, str] = field(default_factory=dict)


def folder_of() -> Path:
    return Path(settings.BACKUP_DIR)


def backups(folder: Path) -> list[Path]:
    """The backups in a folder, oldest first."""
    return sorted(one for one in folder.glob("zugzwang-*.tar") if NAME.fullmatch(one.name)) if folder.is_dir() else []


def made_at(path: Path) -> datetime | None:
    found = NAME.fullmatch(path.name)
    return datetime.strptime(found[1], "%Y%m%dT%H%M%S").replace(tzinfo=UTC) if found else None


def back_up(folder: Path, with_key: bool = True, now: datetime | None = None) -> Path:
    """Make a backup in a folder and read it back, while others work. Its file appears once it is complete."""
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    at = now or datetime.now(UTC)
    target = folder / f"zugzwang-{at:%Y%m%dT%H%M%S}Z.tar"
    with (
        locked(folder / ".making", "A backup is running in this folder."),
        tempfile.TemporaryDirectory(dir=folder, prefix=".making-") as made,
    ):
        _clear(folder, Path(made))
        copy = Path(made) / engine().name
        about = engine().copy(copy)
        current = {copy.name: copy, **_uploads()}
        if with_key:
            current[KEY] = settings.DATA_DIR / KEY
        manifest = Manifest(at.isoformat(timespec="seconds"), about.migration, about.counts, {})
        whole = Path(made) / "whole.tar"
        with tarfile.open(whole, "w") as archive:
            for name, path in current.items():
                try:
                    manifest.files[name] = _add(archive, name, path)
                except FileNotFoundError:
                    continue  # an upload that was loaded or abandoned in the meantime
            for digest, content in block_store.everything():
                _add_bytes(archive, f"{BLOCKS}/{digest}", content)
                manifest.files[f"{BLOCKS}/{digest}"] = digest
            _add_bytes(archive, MANIFEST, json.dumps(asdict(manifest), indent=1).encode())
        whole.chmod(0o600)
        check(whole)
        _to_disk(whole)
        os.replace(whole, target)
        _to_disk(folder)
    return target


def keep_newest(folder: Path, number: int) -> list[Path]:
    """Remove all backups except the newest `number`; returns the removed ones."""
    gone = backups(folder)[:-number] if number > 0 else []
    for one in gone:
        one.unlink()
    return gone


def check(path: Path) -> Manifest:
    """Read a backup back completely. Raises Unsound with the problem."""
    with _unpacked(path) as (_, manifest):
        return manifest


def restore(path: Path, replace: bool = False) -> tuple[Manifest, Path | None]:
    """Restore a backup into the data folder. Returns its manifest and the folder with the replaced data.

    Everything is read, checked and copied to the data's disk before anything changes; then the database changes, together
    with the key and the uploads. On failure, everything is as before. Raises Conflict while Zugzwang runs or others are
    connected to the database; Invalid where data exist already; Unsound where the backup is damaged or newer than the
    program.
    """
    data = Path(settings.DATA_DIR)
    with alone(), _unpacked(path) as (folder, manifest):
        current = block_store.store()
        if current is None and (folder / BLOCKS).is_dir():
            raise Invalid("The data of this backup are in an object store.", "Set ZUGZWANG_BLOCKS to the store for them.")
        check_known(manifest.migration, "The backup")
        present = engine().exists()
        replaces = present or any((data / UPLOADS).glob("*"))
        if present and not replace:
            raise Invalid("This installation already has data.", "Add --replace: the current data are moved aside, not lost.")
        copied = written_by(manifest.files, engine()).name
        engine().check_alone()
        for one in (folder / BLOCKS).glob("*"):  # named by content: they replace nothing
            block_store.put(cast(Storage, current), one.read_bytes())
        with tempfile.TemporaryDirectory(dir=data, prefix=STAGED) as name:
            staged = Path(name)
            for part in (KEY, UPLOADS, copied):
                _copy_to_disk(folder / part, staged / part)
            aside = data / f"before-restore-{datetime.now(UTC):%Y%m%dT%H%M%S}" if replaces else None
            if aside is not None:
                aside.mkdir(mode=0o700)
                if present:
                    engine().set_aside(aside)
            _swap(data, staged, copied, aside)
        _to_disk(data)
        return manifest, aside


STAGED = ".restoring-"


def _swap(data: Path, staged: Path, copied: str, aside: Path | None) -> None:
    """Replace the files with the staged ones; undo all steps if one fails."""
    done: list[tuple[Path, Path]] = []
    try:
        for name in (KEY, UPLOADS):
            if aside is not None and (data / name).exists() and (staged / name).exists():
                os.rename(data / name, aside / name)
                done.append((data / name, aside / name))
            if (staged / name).exists():
                os.rename(staged / name, data / name)
                done.append((staged / name, data / name))
        engine().restore(staged / copied)  # all or nothing
    except BaseException:
        for was, now in reversed(done):
            os.rename(now, was)
        if aside is not None:
            shutil.rmtree(aside, ignore_errors=True)
        raise


def _copy_to_disk(source: Path, target: Path) -> None:
    """Copy a file or folder, if it exists, and wait until it is on disk."""
    if source.is_dir():
        shutil.copytree(source, target)
    elif source.exists():
        shutil.copy2(source, target)
    for one in (*target.rglob("*"), target) if target.is_dir() else (target,):
        if one.exists():
            _to_disk(one)


# --- reading and writing archives -----------------------------------------------------------------------------------------


@contextmanager
def _unpacked(path: Path) -> Iterator[tuple[Path, Manifest]]:
    """A backup's files in a temporary folder, unchanged."""
    parent = path.parent if os.access(path.parent, os.W_OK) else Path(settings.DATA_DIR)
    with tempfile.TemporaryDirectory(dir=parent, prefix=".reading-") as name:
        folder = Path(name)
        try:
            with tarfile.open(path) as archive:
                archive.extractall(folder, filter="data")
            manifest = Manifest(**json.loads((folder / MANIFEST).read_text()))
        except (tarfile.TarError, EOFError, KeyError, TypeError, ValueError, FileNotFoundError) as error:
            raise Unsound(f"{path.name} is not a Zugzwang backup, or is incomplete.", "Use another backup.") from error
        for file, digest in manifest.files.items():
            if not (folder / file).is_file() or _digest(folder / file) != digest:
                raise Unsound(f"{file} in {path.name} is damaged.", "Use another backup.")
        current = written_by(manifest.files, engine())
        about = current.read(folder / current.name)
        if (about.migration, about.counts) != (manifest.migration, manifest.counts):
            raise Unsound(f"{path.name} does not hold what it says: {about}.", "Use another backup.")
        yield folder, manifest


def _clear(folder: Path, but: Path) -> None:
    """Remove the remains of killed backups."""
    for one in folder.glob(".making-*"):
        if one != but:
            shutil.rmtree(one, ignore_errors=True)


def _uploads() -> dict[str, Path]:
    root = Path(settings.UPLOAD_DIR)
    if not root.is_dir():
        return {}
    return {f"{UPLOADS}/{one.relative_to(root)}": one for one in sorted(root.rglob("*")) if one.is_file()}


def _add(archive: tarfile.TarFile, name: str, path: Path) -> str:
    with path.open("rb") as file:
        reading = _Hashing(file)
        entry = archive.gettarinfo(arcname=name, fileobj=file)
        entry.uid = entry.gid = 0
        entry.uname = entry.gname = ""
        archive.addfile(entry, reading)
    return reading.hash.hexdigest()


class _Hashing:
    """A file that is hashed while it is read."""

    def __init__(self, file: Any) -> None:
        self.file, self.hash = file, hashlib.sha256()

    def read(self, size: int = -1) -> bytes:
        current: bytes = self.file.read(size)
        self.hash.update(current)
        return current


def _add_bytes(archive: tarfile.TarFile, name: str, content: bytes) -> None:
    entry = tarfile.TarInfo(name)
    entry.size = len(content)
    archive.addfile(entry, io.BytesIO(content))


def _digest(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _to_disk(path: Path) -> None:
    file = os.open(path, os.O_RDONLY)
    try:
        os.fsync(file)
    finally:
        os.close(file)
