"""Delimited text (RFC 4180: CSV, also with tabs, semicolons or bars), in any common encoding.

Two readers give the same rows. The fast one (Polars) reads well-formed files; where it fails – a stray quote, bytes that
are not UTF-8 – the lenient one (Python's csv) continues and marks the bad rows. Text in other encodings is first rewritten
as UTF-8 in a temporary folder.
"""

import codecs
import csv
import io
import mmap
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import polars as pl
from charset_normalizer import from_bytes

from zugzwang.intake.encoded_twice import ENCODED_TWICE, example_of, repair
from zugzwang.intake.kinds.kind import ROW
from zugzwang.intake.tables import BATCH_ROWS, OVERFLOW, Choices, Table, column, find_header, refuse

SAMPLE_BYTES = 262_144
LINE_MAX_BYTES = 1_048_576
NOT_UTF8 = "\ufffd"
ENCODINGS = (
    "utf-8",
    ENCODED_TWICE,
    "utf-16",
    "utf-32",
    "cp1252",
    "iso8859-15",
    "cp1250",
    "cp1251",
    "shift_jis",
    "gb18030",
    "mac_roman",
)
csv.field_size_limit(LINE_MAX_BYTES)
_DELIMITERS = ",\t;|"
# The longer mark first: UTF-32's begins like UTF-16's.
_MARKS = (
    (codecs.BOM_UTF32_LE, "utf-32"),
    (codecs.BOM_UTF32_BE, "utf-32"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
)


@dataclass
class Delimited(Table):
    delimiter: str = ","
    fast: bool = True

    @property
    def above(self) -> list[str]:
        with self.path.open(encoding="utf-8-sig", errors="replace") as file:
            return [next(file, "").strip() for _ in range(self.header_line - 1)]

    def batches(self) -> Iterator[pl.DataFrame]:
        values = 0
        if not self.fast:
            yield from self.patient(skip=0)
            return
        try:
            for batch in self._fast():
                yield batch
                values = batch[ROW][-1] + 1
        except pl.exceptions.ComputeError:
            # Batches come in order, so earlier rows are final; the lenient reader continues after them.
            yield from self.patient(skip=values)

    def _fast(self) -> Iterator[pl.DataFrame]:
        # Read without a header: its names may repeat, and surplus fields need a column of their own.
        numbered = {f"column_{index + 1}": column(index) for index in range(len(self.header))}
        numbered[f"column_{len(numbered) + 1}"] = OVERFLOW
        scan = pl.scan_csv(
            self.path,
            has_header=False,
            schema=dict.fromkeys(numbered, pl.String()),
            separator=self.delimiter,
            skip_lines=self.header_line - 1,
            missing_columns="insert",
            truncate_ragged_lines=True,
            row_index_name=ROW,
            raise_if_empty=False,
            glob=False,
        )
        records = scan.rename(numbered).filter(pl.col(ROW) > 0).with_columns(pl.col(ROW) - 1)
        for batch in records.collect_batches(chunk_size=BATCH_ROWS):
            if batch.height:
                yield batch

    def patient(self, skip: int) -> Iterator[pl.DataFrame]:
        names = [column(index) for index in range(len(self.header))] + [OVERFLOW]
        schema = pl.Schema({ROW: pl.UInt32(), **dict.fromkeys(names, pl.String())})
        current: list[tuple[object, ...]] = []
        for number, _, fields in self._records():
            if number < skip:
                continue
            cells = [cell if cell else None for cell in fields[: len(names)]]
            current.append((number, *cells, *[None] * (len(names) - len(cells))))
            if len(current) >= BATCH_ROWS:
                yield pl.DataFrame(current, schema=schema, orient="row")
                current = []
        if current:
            yield pl.DataFrame(current, schema=schema, orient="row")

    def _records(self) -> Iterator[tuple[int, int, list[str]]]:
        """Record number from 0 below the header, the line of the file on which it starts, its fields."""
        with self.path.open(encoding="utf-8-sig", errors="replace", newline="") as file:
            for _ in range(self.header_line - 1):
                file.readline()
            reader = csv.reader(file, delimiter=self.delimiter)
            begins = self.header_line
            try:
                for number, fields in enumerate(reader, start=-1):
                    if number >= 0:
                        yield number, begins, fields
                    begins = reader.line_num + self.header_line
            except csv.Error as error:
                raise refuse(
                    self.name,
                    f"the text cannot be split into fields ({error})",
                    "Look for a quote that is never closed.",
                    begins,
                ) from error

    def first_rows(self, rows: int) -> list[list[str]]:
        """The first rows from the first bytes only: reading a batch of the whole file takes a quarter of a second."""
        with self.path.open("rb") as file:
            sample = file.read(SAMPLE_BYTES)
        whole_lines = sample if len(sample) < SAMPLE_BYTES else sample[: sample.rfind(b"\n") + 1]
        text = io.StringIO(whole_lines.decode("utf-8-sig", errors="replace"), newline="")
        for _ in range(self.header_line - 1):
            text.readline()
        width = len(self.header)
        found: list[list[str]] = []
        try:
            for number, cells in enumerate(csv.reader(text, delimiter=self.delimiter)):
                if number and any(cells):
                    found.append([*cells[:width], *[""] * (width - len(cells))])
                if len(found) >= rows:
                    break
        except csv.Error:
            pass  # a later full read reports the malformed line
        return found

    def lines_of(self, records: Sequence[int]) -> dict[int, int]:
        wanted, found = set(records), {}
        last = max(wanted, default=-1)
        for number, line, _ in self._records():
            if number in wanted:
                found[number] = line
            if number >= last:
                break
        return found


def open_delimited(path: Path, name: str, choices: Choices, scratch: Path) -> Delimited:
    """Inspect the beginning of a text file. Raises FileRefused where it is not delimited text with a header."""
    encoding = choices.encoding or encoding_of(path)
    if encoding == "binary":
        raise refuse(name, "the file is binary, not plain text", "Save or export it as CSV (UTF-8) and load that.")
    if encoding not in ENCODINGS:
        raise refuse(name, f"the encoding {encoding} is unknown", f"Choose one of {', '.join(ENCODINGS)}.")
    notices = []
    twice = example_of(_sample_lines(path)) if encoding == "utf-8" and choices.encoding is None else None
    if twice is not None:
        encoding = ENCODED_TWICE
        path = _as_utf8(path, name, encoding, scratch)
        notices.append(
            f"Its text was encoded twice and is repaired: “{twice[0]}” is read as “{twice[1]}”. "
            "Choose utf-8 to leave it unchanged."
        )
    elif encoding != "utf-8":
        path = _as_utf8(path, name, encoding, scratch)
        notices.append(f"Read as {encoding}; choose another encoding if letters look wrong.")
    with path.open("rb") as file:
        sample = file.read(SAMPLE_BYTES)
    if b"\n" not in sample and b"\r" in sample:
        path, encoding = _as_utf8(path, name, "utf-8-sig", scratch, ends=None), "utf-8"
        with path.open("rb") as file:
            sample = file.read(SAMPLE_BYTES)
    _check_lines(path, name)
    text = sample.decode("utf-8-sig", errors="replace")
    lines = text.splitlines(keepends=True)
    line = choices.header_line
    if line is not None and not 1 <= line <= len(lines):
        raise refuse(name, f"there is no line {line} near the top", "Choose the line of the column names.")
    delimiter = _delimiter(lines if line is None else lines[line - 1 :])
    if line is None:
        row = find_header([next(csv.reader([one], delimiter=delimiter), []) for one in lines[:40]])
        if row is None:
            raise refuse(
                name, "no line is a header of columns", "Put the column names on line 1.", 1, value=lines[0][:80].strip()
            )
        line = row + 1
    if line > 1:
        notices.append(f"The {line - 1} line{'s' if line > 2 else ''} above the column names are skipped.")
    rest = "".join(lines[line - 1 :])
    header = [cell.strip() for cell in next(csv.reader(io.StringIO(rest, newline=""), delimiter=delimiter))]
    if NOT_UTF8 in "".join(header):
        raise refuse(
            name, "the header cannot be read as text", "Choose the encoding, or save the file as CSV (UTF-8).", line=line
        )
    if len(header) < 2:
        raise refuse(name, "the header has one column only", "Put the column names on line 1.", line, value=header[0][:80])
    rows = path.stat().st_size / len(sample) * sample.rstrip().count(b"\n")
    fast = not _quotes_stay_open(path)
    return Delimited(path, name, header, line, round(rows), notices, [], None, encoding, delimiter, fast)


def _sample_lines(path: Path) -> list[str]:
    with path.open("rb") as file:
        return file.read(SAMPLE_BYTES).decode("utf-8-sig", errors="replace").splitlines()


def encoding_of(path: Path) -> str:
    """The encoding suggested by the first bytes of a text."""
    with path.open("rb") as file:
        sample = file.read(SAMPLE_BYTES)
    for mark, name in _MARKS:
        if sample.startswith(mark):
            return name
    if b"\0" in sample:
        # Western text in UTF-16 has a zero in every other byte; with zeros elsewhere it is not text.
        zeros = [sample[parity:400:2].count(0) for parity in (0, 1)]
        return "utf-16" if len(sample) > 8 and max(zeros) > 0.3 * len(sample[:400]) / 2 and min(zeros) == 0 else "binary"
    decoder = codecs.getincrementaldecoder("utf-8")(errors="strict")
    try:
        decoder.decode(sample)
    except UnicodeDecodeError:
        read = sample.decode("utf-8", errors="replace")
        # Valid UTF-8 beyond ASCII means a UTF-8 text with a few bad places; those are refused row by row.
        if any(ord(letter) > 127 and letter != NOT_UTF8 for letter in read):
            return "utf-8"
        likely = [match.encoding for match in from_bytes(sample, cp_isolation=list(ENCODINGS[4:]))]
        # Western and eastern encodings share byte values; where both make sense, the western one is far more common.
        return "cp1252" if "cp1252" in likely or not likely else likely[0]
    return "utf-8"


def _as_utf8(path: Path, name: str, encoding: str, scratch: Path, ends: str | None = "") -> Path:
    """The text rewritten as UTF-8; `ends` None: with standard line ends."""
    copy = scratch / f"{path.name}.{encoding}"
    if encoding == ENCODED_TWICE:
        repair(path, copy)
        return copy
    values = encoding
    if encoding == "utf-16":
        with path.open("rb") as file:
            first = file.read(200)
        if not first.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
            values = "utf-16-le" if first[1::2].count(0) >= first[::2].count(0) else "utf-16-be"
    try:
        with (
            path.open(encoding=values, errors="strict", newline=ends) as old,
            copy.open("w", encoding="utf-8", newline="") as new,
        ):
            while piece := old.read(1_000_000):
                new.write(piece)
    except (UnicodeDecodeError, UnicodeError) as error:
        copy.unlink(missing_ok=True)
        raise refuse(name, f"the text is not {encoding}", "Choose another encoding, or save it as CSV (UTF-8).") from error
    return copy


def _check_lines(path: Path, name: str) -> None:
    """Raises FileRefused where a line is too long to be a row.

    A line twice the limit covers a stretch of LINE_MAX_BYTES from one of its multiples on, so checking for a line end after
    each multiple is enough, and most of the file need not be read.
    """
    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as whole:
        for start in range(0, len(whole) - LINE_MAX_BYTES, LINE_MAX_BYTES):
            end = start + LINE_MAX_BYTES
            if whole.find(b"\n", start, end) < 0 and whole.find(b"\r", start, end) < 0:
                message = f"the line is longer than {LINE_MAX_BYTES // 1_048_576} MB"
                line = 1 + sum(
                    whole[at : min(at + LINE_MAX_BYTES, start)].count(b"\n") for at in range(0, start, LINE_MAX_BYTES)
                )
                raise refuse(name, message, "Look for an open quote or missing line breaks.", line)


def _quotes_stay_open(path: Path) -> bool:
    """Whether a quote may stay open over a megabyte. The fast reader would take all of it as one field, with many times its
    size in memory; the lenient one limits fields and names the line they start on.
    """
    opened: int | None = None
    with path.open("rb") as file:
        with mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as whole:
            if whole.find(b'"') < 0:
                return False
        while piece := file.read(16_777_216):
            begins = file.tell() - len(piece)
            if b'"' in piece:
                at = np.flatnonzero(np.frombuffer(piece, dtype=np.uint8) == ord('"')) + begins
                at = at if opened is None else np.concatenate([[opened], at])
                pairs = at[: at.size // 2 * 2].reshape(-1, 2)
                if pairs.size and int((pairs[:, 1] - pairs[:, 0]).max()) > LINE_MAX_BYTES:
                    return True
                opened = int(at[-1]) if at.size % 2 else None
            if opened is not None and file.tell() - opened > LINE_MAX_BYTES:
                return True
    return False


def _delimiter(lines: Sequence[str]) -> str:
    """The delimiter that splits the first lines into the most fields, the same number in most lines."""
    looked_at = [line for line in lines[:40] if line.strip()]

    def telling(sign: str) -> tuple[int, int]:
        counts = [line.count(sign) for line in looked_at]
        usual = max(set(counts) - {0}, key=counts.count, default=0)
        return counts.count(usual) if usual else 0, usual

    return max(_DELIMITERS, key=telling)
