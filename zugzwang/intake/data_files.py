"""Data files: Parquet, NDJSON and JSON (a list of objects, or one list of them inside an object)."""

import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

from zugzwang.intake.kinds.kind import ROW
from zugzwang.intake.tables import BATCH_ROWS, OVERFLOW, Choices, Table, column, refuse

DEPTH_MAX = 60
KEYS, KEYS_MOST = "keys", 8
JSON_MAX_BYTES = 200_000_000  # for JSON, which is read whole; NDJSON has no such limit
_NO_BRACKETS = bytes(sign for sign in range(256) if sign not in b"[]{}")
_STEPS = np.array([(sign in b"[{") - (sign in b"]}") for sign in range(256)], dtype=np.int8)
_KEPT_AS_THEY_ARE = (pl.Date, pl.Datetime, pl.Boolean)


@dataclass
class Records(Table):
    frame: pl.LazyFrame = field(default_factory=pl.LazyFrame)
    unit = "record"

    def batches(self) -> Iterator[pl.DataFrame]:
        begins = 0
        renamed = self.frame.select(
            *(
                _as_cell(name, kind).alias(column(index))
                for index, (name, kind) in enumerate(self.frame.collect_schema().items())
            ),
        )
        try:
            for batch in renamed.collect_batches(chunk_size=BATCH_ROWS, maintain_order=True):
                if batch.height:
                    numbers = pl.Series(ROW, np.arange(begins, begins + batch.height), dtype=pl.UInt32)
                    numbered = batch.with_columns(numbers, pl.lit(None, dtype=pl.String).alias(OVERFLOW))
                    yield numbered.select(ROW, pl.exclude(ROW))
                    begins += batch.height
        except pl.exceptions.PolarsError as error:
            # The text is read lazily: a line further down may be malformed.
            raise _where_json_breaks(self.path, self.name) from error

    def lines_of(self, records: Sequence[int]) -> dict[int, int]:
        return {record: record + 1 for record in records}


def _as_cell(name: str, kind: pl.DataType) -> pl.Expr:
    if kind.is_numeric() or kind in _KEPT_AS_THEY_ARE or kind == pl.String:
        return pl.col(name)
    if isinstance(kind, pl.List | pl.Array):
        return pl.col(name).cast(pl.List(pl.String), strict=False).list.join(" | ")
    return pl.col(name).cast(pl.String, strict=False)


def open_parquet(path: Path, name: str, choices: Choices) -> Records:
    del choices
    try:
        frame = pl.scan_parquet(path)
        frame.collect_schema()
        rows = int(frame.select(pl.len()).collect().item())
    except (pl.exceptions.PolarsError, OSError) as error:
        raise refuse(name, "the Parquet file cannot be read", "Write it again; it may have been cut short.") from error
    return _records(path, name, _separate_keys(_flat(_unnested(frame))), rows)


def open_ndjson(path: Path, name: str, choices: Choices) -> Records:
    del choices
    _check_depth(path, name)
    try:
        frame = pl.scan_ndjson(path, infer_schema_length=2_000)
        frame.collect_schema()
    except (pl.exceptions.PolarsError, OSError) as error:
        raise _where_json_breaks(path, name) from error
    with path.open("rb") as file:
        sample = file.read(1_000_000)
    rows = path.stat().st_size / max(len(sample), 1) * (sample.rstrip().count(b"\n") + 1)
    return _records(path, name, _separate_keys(_flat(_unnested(frame))), round(rows))


def open_json(path: Path, name: str, choices: Choices) -> Records:
    del choices
    if path.stat().st_size > JSON_MAX_BYTES:
        raise refuse(name, f"one JSON text of more than {JSON_MAX_BYTES // 1_000_000} MB", "Write one object a line (NDJSON).")
    _check_depth(path, name)
    try:
        result = json.loads(path.read_text(encoding="utf-8-sig"))
    except json.JSONDecodeError as error:
        message = f"the text is not JSON ({error.msg}, column {error.colno})"
        raise refuse(name, message, "Write it again; it may have been cut short.", line=error.lineno) from error
    except (ValueError, RecursionError) as error:
        remedy = "Save it as UTF-8, without deep nesting and very long numbers."
        raise refuse(name, "the text is not valid JSON", remedy) from error
    rows = _list_within(result)
    if rows is None:
        raise refuse(name, "no list of objects", "Write a list of objects, one a row: [{…}, {…}].")
    try:
        frame = pl.DataFrame([row for row in rows if row], infer_schema_length=None, strict=False).lazy()
    except (UnicodeError, ValueError) as error:
        raise refuse(name, "it has invalid characters (half of a surrogate pair)", "Write it again as UTF-8.") from error
    except (pl.exceptions.PolarsError, TypeError, OverflowError) as error:
        raise refuse(name, "the objects of the list differ too much", "Give every object the same fields.") from error
    return _records(path, name, _separate_keys(_flat(_unnested(frame))), len(rows))


def _list_within(result: Any) -> list[dict[str, Any]] | None:
    current = [result] if isinstance(result, list) else list(result.values()) if isinstance(result, dict) else []
    for rows in current:
        if isinstance(rows, list) and rows and all(isinstance(row, dict) for row in rows):
            return rows
    return None


def _separate_keys(frame: pl.LazyFrame) -> pl.LazyFrame:
    """A column for each key where records have a list of keys ("keys": [day, address, query])."""
    kind = frame.collect_schema().get(KEYS)
    if not isinstance(kind, pl.List) or kind.inner != pl.String:
        return frame
    most = int(frame.select(pl.col(KEYS).list.len().max()).collect().item() or 0)
    separate = [pl.col(KEYS).list.get(at, null_on_oob=True).alias(f"key {at + 1}") for at in range(min(most, KEYS_MOST))]
    return frame.select(*separate, pl.exclude(KEYS))


def _unnested(frame: pl.LazyFrame) -> pl.LazyFrame:
    """Columns for the fields of objects within records ("keys": {"page": …, "query": …}); a column whose name is taken
    includes the object's name.
    """
    for _ in range(DEPTH_MAX):
        kinds = frame.collect_schema()
        nested = {name: kind for name, kind in kinds.items() if isinstance(kind, pl.Struct)}
        if not nested:
            return frame
        columns: dict[str, pl.Expr] = {}
        for name in kinds:
            inner = nested[name].fields if name in nested else []
            for entry in inner:
                taken = entry.name in columns or entry.name in kinds
                columns[f"{name} {entry.name}" if taken else entry.name] = pl.col(name).struct.field(entry.name)
            if name not in nested:
                columns[name] = pl.col(name)
        frame = frame.select(column.alias(name) for name, column in columns.items())
    return frame


def _flat(frame: pl.LazyFrame) -> pl.LazyFrame:
    """A row for each object where records contain one list of objects (the blocks of a SERP); `at` is its number."""
    nested = [
        name for name, kind in frame.collect_schema().items() if isinstance(kind, pl.List) and isinstance(kind.inner, pl.Struct)
    ]
    if len(nested) != 1:
        return frame
    inner = frame.collect_schema()[nested[0]].inner  # type: ignore[attr-defined]
    names = {entry.name for entry in inner.fields} & set(frame.collect_schema().names())
    numbered = frame.drop(names).with_columns(rank=pl.int_ranges(1, pl.col(nested[0]).list.len() + 1))
    if "rank" in {entry.name for entry in inner.fields}:
        numbered = numbered.drop("rank")
        return numbered.explode(nested[0], empty_as_null=True).unnest(nested[0])
    return numbered.explode(nested[0], "rank", empty_as_null=True).unnest(nested[0])


def _records(path: Path, name: str, frame: pl.LazyFrame, rows: int) -> Records:
    header = frame.collect_schema().names()
    if len(header) < 2:
        raise refuse(name, "the records have fewer than two fields", "Write one object or row for each, with named fields.")
    return Records(path, name, header, 0, rows, [], [], None, None, frame)


def _check_depth(path: Path, name: str) -> None:
    """Raises FileRefused where brackets are nested so deeply that it cannot be data (and a reader might break)."""
    depth = 0
    with path.open("rb") as file:
        while piece := file.read(4_000_000):
            # Only brackets: they are a fiftieth of the text. Those inside strings count too; they rarely nest.
            brackets = np.frombuffer(piece.translate(None, _NO_BRACKETS), dtype=np.uint8)
            if not brackets.size:
                continue
            depths = depth + np.cumsum(_STEPS[brackets], dtype=np.int64)
            if int(depths.max()) > DEPTH_MAX:
                raise refuse(name, f"the text nests deeper than {DEPTH_MAX} levels", "Write flat objects, one a row.")
            depth = int(depths[-1])


def _where_json_breaks(path: Path, name: str) -> Exception:
    """The first line that is not an object."""
    with path.open(encoding="utf-8-sig", errors="replace") as file:
        for number, line in enumerate(file, start=1):
            try:
                result = json.loads(line) if line.strip() else {}
            except (json.JSONDecodeError, RecursionError):
                return refuse(
                    name,
                    "the line is not a JSON object",
                    "Write it again; it may have been cut short.",
                    number,
                    value=line[:80],
                )
            if not isinstance(result, dict):
                return refuse(name, "the line is not a JSON object", "Write one object a line: {…}.", number, value=line[:80])
    return refuse(name, "the objects differ too much from line to line", "Give every object the same kinds of values.")
