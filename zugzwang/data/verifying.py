"""Whether all stored data are intact: the database file, every block, every load's rows, every reference."""

import io
from collections.abc import Iterator
from dataclasses import dataclass

import polars as pl
from django.db import connection

from zugzwang.core.facts.grains import GRAINS
from zugzwang.data.blocks import UNDATED, Damaged, sound
from zugzwang.data.database_copy import Sqlite, sqlite_problem
from zugzwang.data.models import Block, LoadPart, Page, Query, Site

NAMES: dict[str, type[Page] | type[Query]] = {"page": Page, "query": Query}


@dataclass(frozen=True)
class Fault:
    """What is wrong and where; `mended`: it was rebuilt from the loads' own rows."""

    where: str
    what: str
    mended: bool = False


@dataclass(frozen=True)
class Checked:
    blocks: int
    parts: int
    faults: list[Fault]


def verify(sites: list[Site]) -> Checked:
    """Check all stored data of some sites. A damaged block is rebuilt where its loads have its rows."""
    faults = list(_of_the_file())
    blocks = parts = 0
    for site in sites:
        known = {name: set(model.objects.filter(site=site).values_list("id", flat=True)) for name, model in NAMES.items()}
        for block in Block.objects.filter(site=site).select_related("site").iterator(chunk_size=1):
            blocks += 1
            faults += _of_block(site, block, known)
        for part in LoadPart.objects.filter(load__site=site, load__taken_back_at=None).iterator(chunk_size=1):
            parts += 1
            try:
                rows = pl.read_parquet(io.BytesIO(part.payload)).height
            except (pl.exceptions.PolarsError, OSError):
                rows = -1
            if rows != part.rows:
                where = f"{site.slug}: {part.grain}, {_month(part.month)}, load {part.load_id}"
                faults.append(Fault(where, "the load’s own rows cannot be read: the load cannot be undone"))
    return Checked(blocks, parts, faults)


def _of_the_file() -> Iterator[Fault]:
    if connection.vendor == "sqlite" and (problem := sqlite_problem(Sqlite().file)):
        yield Fault("database", problem)


def _of_block(site: Site, block: Block, known: dict[str, set[int]]) -> Iterator[Fault]:
    where = f"{site.slug}: {block.grain}, {_month(block.month)}"
    before = bytes(block.payload)
    try:
        payload = bytes(sound(block, GRAINS[block.grain]))
    except Damaged as error:
        yield Fault(where, f"{error.message} {error.remedy}")
        return
    if payload != before:
        yield Fault(where, "it was damaged", mended=True)
    rows = pl.read_parquet(io.BytesIO(payload))
    for name in NAMES:
        if name in rows.columns and rows.schema[name] == pl.UInt32:
            lost = set(rows[name].unique().to_list()) - known[name]
            if lost:
                yield Fault(where, f"{len(lost)} of its {name} numbers have no text")


def _month(month: object) -> str:
    return "all" if month == UNDATED else f"{month:%B %Y}"
