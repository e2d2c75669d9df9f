"""Any file as tables: its type is recognised by its first bytes; archives are opened within limits.

One file may contain several tables: a ZIP contains several files, each recognised separately.
"""

import struct
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path, PurePosixPath
from typing import Protocol

from django.conf import settings
from isal import igzip, isal_zlib

from zugzwang.intake.access_log import LogRules, is_access_log, open_access_log
from zugzwang.intake.calendars import open_calendar
from zugzwang.intake.data_files import open_json, open_ndjson, open_parquet
from zugzwang.intake.delimited import open_delimited
from zugzwang.intake.spreadsheets import open_sheet, sheets_with_tables
from zugzwang.intake.tables import Choices, Table, refuse

FILES_IN_ARCHIVE = 200
RATIO_MAX = 200  # ratio of unpacked to packed size; text tables rarely exceed 30
RATIO_LOOKED_AT_BYTES = 20_000_000
PIECE_BYTES = 4_000_000
WORKBOOK_STARTS = (b"PK\x03\x04", b"\xd0\xcf\x11\xe0")
_WORKBOOK_MEMBERS = ("xl/workbook.xml", "content.xml", "xl/workbook.bin")
# Errors of the standard library for damaged archives: invalid UTF-8 names and impossible sizes are ValueErrors.
_BROKEN = (zipfile.BadZipFile, OSError, RuntimeError, EOFError, ValueError, OverflowError, struct.error, zlib.error)
_REFUSED = {
    b"%PDF": "a PDF",
    b"\x89PNG": "a picture",
    b"\xff\xd8\xff": "a picture",
    b"Rar!": "a RAR archive",
    b"7z\xbc\xaf": "a 7z archive",
}


class _Readable(Protocol):
    def read(self, size: int, /) -> bytes: ...


@dataclass(frozen=True)
class Member:
    """One file to read, or one sheet of a workbook: its location, and its name for the owner."""

    path: Path
    name: str
    sheet: str | None = None


def unpack(path: Path, name: str, scratch: Path) -> list[Member]:
    """The files in an upload: itself, or an archive's contents. Raises FileRefused where it is empty or unsafe to unpack."""
    if not path.stat().st_size:
        raise refuse(name, "the file is empty", "Export it again, with the header.")
    with path.open("rb") as file:
        start = file.read(4)
    if start[:2] == b"\x1f\x8b":
        return unpack(_gunzip(path, name, scratch), name.removesuffix(".gz"), scratch)
    if start == b"PK\x03\x04" and not _is_workbook(path, name):
        return list(_unzip(path, name, scratch))
    return [Member(path, name)]


def sheets(member: Member) -> list[Member]:
    """Each sheet of a workbook with a table, as a separate member; any other file unchanged."""
    with member.path.open("rb") as file:
        if not file.read(8).startswith(WORKBOOK_STARTS):
            return [member]
    named = sheets_with_tables(member.path, member.name)
    if len(named) < 2:
        return [member]
    return [Member(member.path, f"{member.name}: {sheet}", sheet) for sheet in named]


def open_table(member: Member, choices: Choices, scratch: Path, log_rules: LogRules) -> Table:
    """The table in a file, with the given choices. Raises FileRefused where there is none."""
    path, name = member.path, member.name
    with path.open("rb") as file:
        start = file.read(8_192)
    for mark, kind in _REFUSED.items():
        if start.startswith(mark):
            raise refuse(name, f"the file is {kind}, not a table", "Save or export the table as CSV, and load that.")
    if not start.strip():
        raise refuse(name, "the file is empty", "Export it again, with the header.")
    if start.startswith(b"PAR1"):
        return open_parquet(path, name, choices)
    if start.startswith(WORKBOOK_STARTS):
        return open_sheet(path, name, choices if choices.sheet else replace(choices, sheet=member.sheet))
    text = start.removeprefix(b"\xef\xbb\xbf").lstrip()
    if text[:15].upper() == b"BEGIN:VCALENDAR":
        return open_calendar(path, name)
    if is_access_log(start):
        return open_access_log(path, name, log_rules, scratch)
    if text.startswith(b"{") and not _is_one_object(path, text):
        return open_ndjson(path, name, choices)
    if text.startswith((b"{", b"[")):
        return open_json(path, name, choices)
    return open_delimited(path, name, choices, scratch)


def _is_one_object(path: Path, start: bytes) -> bool:
    """Whether a text that starts with { is one object over several lines, rather than one object a line."""
    first_line = start.split(b"\n", 1)[0].rstrip()
    return not first_line.endswith(b"}") and (b"\n" in start or path.stat().st_size == len(start))


def _is_workbook(path: Path, name: str) -> bool:
    try:
        with zipfile.ZipFile(path) as archive:
            members = set(archive.namelist())
    except _BROKEN as error:
        raise refuse(name, "the archive cannot be opened", "Pack it again, or load the file inside.") from error
    return any(member in members for member in _WORKBOOK_MEMBERS) and _checked_archive(path, name)


def _checked_archive(path: Path, name: str) -> bool:
    """Raises FileRefused where an archive would unpack beyond its limits. Its declared sizes may be false, so unpacking counts
    again.
    """
    with zipfile.ZipFile(path) as archive:
        infos = archive.infolist()
        result = sum(info.file_size for info in infos)
        if len(infos) > 5_000 or result > settings.UPLOAD_MAX_BYTES or _too_dense(result, path.stat().st_size):
            raise refuse(name, "the archive unpacks to far too much", "Pack only the tables, or load them one by one.")
    return True


def _too_dense(unpacked: int, packed: int) -> bool:
    return unpacked > RATIO_LOOKED_AT_BYTES and unpacked > RATIO_MAX * packed


def _gunzip(path: Path, name: str, scratch: Path) -> Path:
    copy = scratch / f"{path.name}.unpacked"
    try:
        with igzip.open(path) as packed:  # type: ignore[no-untyped-call]
            _copy(packed, copy, name, path.stat().st_size)
    except (OSError, EOFError, isal_zlib.error) as error:  # type: ignore[misc]
        raise refuse(name, "the gzip file cannot be unpacked", "Pack it again; it may have been cut short.") from error
    return copy


def _unzip(path: Path, name: str, scratch: Path) -> Iterator[Member]:
    _checked_archive(path, name)
    with zipfile.ZipFile(path) as archive:
        inside = [info for info in archive.infolist() if not info.is_dir() and not _is_litter(info.filename)]
        if not inside:
            raise refuse(name, "the archive is empty", "Pack the files to load.")
        if len(inside) > FILES_IN_ARCHIVE:
            raise refuse(name, f"the archive holds more than {FILES_IN_ARCHIVE} files", "Pack only the files to load.")
        for number, info in enumerate(inside):
            # Names inside are shown to the owner and never used as paths.
            copy = scratch / f"member-{number}"
            shown = PurePosixPath(info.filename.replace("\\", "/")).name or f"file {number + 1}"
            try:
                with archive.open(info) as packed:
                    _copy(packed, copy, shown, max(info.compress_size, 1))
            except _BROKEN as error:
                raise refuse(name, f"“{shown}” cannot be unpacked", "Pack it again, without a password.") from error
            if copy.stat().st_size:
                yield Member(copy, shown)


def _is_litter(name: str) -> bool:
    return name.startswith("__MACOSX/") or PurePosixPath(name).name.startswith(".")


def _copy(packed: _Readable, copy: Path, name: str, packed_bytes: int) -> None:
    written = 0
    with copy.open("wb") as file:
        while piece := packed.read(PIECE_BYTES):
            written += len(piece)
            if written > settings.UPLOAD_MAX_BYTES or _too_dense(written, packed_bytes):
                raise refuse(name, "the archive unpacks to far too much", "Load the file as it is, not packed.")
            file.write(piece)
