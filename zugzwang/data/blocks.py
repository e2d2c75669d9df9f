"""Facts in blocks: one Parquet file (zstd, sorted by the grain's key) for each site, grain and month, in `Block.payload`.

Only this module knows a block's layout. A block is built from the site's loads in their order: each load's own rows are in
a `LoadPart`, so undoing a load rebuilds the block without it.

Encoding happens before the write transaction, so no one waits for it; the transaction checks that nothing else was written
in the meantime.
"""

import hashlib
import io
import logging
from collections.abc import Collection, Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import date
from functools import partial, reduce
from typing import Literal

import polars as pl
from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import F, QuerySet
from django.utils import timezone
from isal import isal_zlib

from zugzwang.core.facts.grains import DEVICES, GRAINS, NOT_REPORTED, OF_SPANS, SPAN, Grain, Source, in_order, unite_repeats
from zugzwang.core.facts.periods import FIRST_DAY_POSSIBLE, Period
from zugzwang.data.models import Block, Event, Load, LoadPart, Site, next_version
from zugzwang.errors import Invalid, ProductError

Mode = Literal["replace", "add"]
MONTHS_AT_ONCE = 2
UNDATED = date(1970, 1, 1)  # the "month" of a table without days


log = logging.getLogger(__name__)


class Damaged(ProductError):
    """Stored data differ from what was written, and cannot be rebuilt."""


class OvertakenError(Exception):
    """The site's facts changed between reading and writing; read again."""


@dataclass(frozen=True)
class Changed:
    """The effect of a write, in rows. `given`: of the load, without duplicates. `before` and `after`: on the days of the load
    (everywhere in a table without days). `new`: given rows with a new key; `replaced`: given rows that replaced another.
    `lost`: rows that are gone and whose key is not in the load.
    """

    given: int = 0
    before: int = 0
    after: int = 0
    new: int = 0
    replaced: int = 0
    lost: int = 0
    blocks: int = 0

    def __add__(self, other: "Changed") -> "Changed":
        return Changed(*(mine + its for mine, its in zip(vars(self).values(), vars(other).values(), strict=True)))


@dataclass(frozen=True)
class Rewrite:
    """Blocks and a load's parts, ready to write on top of the facts as of `data_version`."""

    data_version: int
    blocks: list[Block]
    emptied: list[Block]
    parts: list[LoadPart]
    changed: Changed


# Blocks written before December 2026 have columns by these names (decision 57).
FORMER_COLUMNS = {"place": "rank", "linking_sites": "referring_domains"}


def read_facts(site: Site, grain: Grain, period: Period | None = None, columns: Sequence[str] | None = None) -> pl.DataFrame:
    """The site's rows of a grain, in the order of blocks; for dated grains, those of a period."""
    stored = Block.objects.filter(site=site, grain=grain.name).order_by("month")
    if period is not None:
        stored = stored.filter(first_day__lte=period.last, last_day__gte=period.first)
    wanted = list(columns or grain.schema.names())
    parts = []
    for block in stored:
        assert block.first_day is None or block.last_day is not None
        whole = period is None or (block.first_day >= period.first and block.last_day <= period.last)  # type: ignore[operator]
        rows = _decode(sound(block, grain), grain, wanted if whole else [*wanted, *({"day"} - set(wanted))])
        if not whole and period is not None:
            rows = rows.filter(pl.col("day").is_between(period.first, period.last))
        parts.append(rows.select(wanted))
    return pl.concat(parts) if parts else grain.schema.to_frame().select(wanted)


def has_facts(site: Site, grain: Grain) -> bool:
    """Whether the site has any row of a grain."""
    return Block.objects.filter(site=site, grain=grain.name, rows__gt=0).exists()


def read_span(
    site: Site, grain: Grain, span: Period, columns: Sequence[str], by: Collection[Literal["device", "country"]] = ()
) -> pl.DataFrame:
    """The totals of one span in the columns of the dated grain; `day` is the span's last. `by`: columns that rows must have.
    Where totals were loaded in several breakdowns (by device, by country) one is read, because each is complete.
    """
    of_span = (pl.col("first") == span.first) & (pl.col("last") == span.last)
    totals = OF_SPANS[grain.name]
    ways = [name for name in ("device", "country") if name in totals.schema]
    read = {*columns, *SPAN, *ways} - {"day"}
    rows = read_facts(site, totals, columns=[name for name in totals.schema if name in read]).filter(of_span)
    frame = rows.select((pl.col(name) != NOT_REPORTED).alias(name) for name in ways)
    fitting = [way for way in frame.unique(maintain_order=True).sort(ways).rows() if all(way[ways.index(name)] for name in by)]
    if ways:
        way = fitting[0] if fitting else (None,) * len(ways)
        rows = rows.filter(
            pl.all_horizontal((pl.col(name) != NOT_REPORTED) == frame for name, frame in zip(ways, way, strict=True))
        )
    return rows.rename({"last": "day"}).select(columns)


def read_spans(site: Site, grain: Grain) -> list[Period]:
    """The spans for which a grain has totals, latest end first."""
    rows = read_facts(site, OF_SPANS[grain.name], columns=SPAN).unique().sort("last", "first", descending=True)
    return [Period(first, last) for first, last in rows.iter_rows()]


def read_days(site: Site, grain: Grain) -> list[date]:
    """The days with facts of a grain, in order."""
    blocks = Block.objects.filter(site=site, grain=grain.name).order_by("month")
    current = blocks.values_list("id", "month", "days")
    of_old = {block.id: block for block in blocks.filter(days=None)}
    result: list[date] = []
    for number, month, bits in current:
        if bits is None:
            result += _decode(sound(of_old[number], grain), grain, ["day"])["day"].unique().sort().to_list()
        else:
            result += [month.replace(day=day) for day in range(1, 32) if bits >> (day - 1) & 1]
    return result


def _day_bits(rows: pl.DataFrame) -> int:
    return sum(1 << (day - 1) for day in rows["day"].unique().dt.day().unique())


def count_days(site: Site, grain: Grain) -> pl.DataFrame:
    """The days with facts of a grain, in order, and their number of rows: day, rows; for search facts also clicks and
    impressions, for visits sessions.
    """
    counts = ["clicks", "impressions"] if grain.is_search else ["sessions"]
    added = [pl.len().alias("rows"), *(pl.col(name).cast(pl.Int64).sum() for name in counts)]
    blocks = Block.objects.filter(site=site, grain=grain.name).order_by("month")
    parts = [_decode(sound(block, grain), grain, ["day", *counts]).group_by("day").agg(added).sort("day") for block in blocks]
    return (
        pl.concat(parts)
        if parts
        else pl.DataFrame(schema={"day": pl.Date, "rows": pl.UInt32, **dict.fromkeys(counts, pl.Int64)})
    )


def prepare(site: Site, tables: Iterable[tuple[Grain, pl.DataFrame]], mode: Mode) -> Rewrite:
    """Blocks after loading each table's rows, which replace the existing rows of their days ("replace") or are added to them
    ("add": a row with the same key is replaced, the others stay). Tables without days are replaced or added to as a whole.
    """
    version = site.data_version
    blocks: list[Block] = []
    parts: list[LoadPart] = []
    changed = Changed()
    for grain, facts in tables:
        stored = {
            block.month: block for block in Block.objects.filter(site=site, grain=grain.name, month__in=_months(facts, grain))
        }
        make = partial(_made, site, grain, mode, facts, stored)
        # Sorting and compressing mostly use one processor.
        with ThreadPoolExecutor(MONTHS_AT_ONCE) as pool:
            for block, part, entry in pool.map(make, _months(facts, grain)):
                parts.append(part)
                changed += entry
                if block is not None:
                    blocks.append(block)
    return Rewrite(version, blocks, [], parts, changed)


def _made(
    site: Site, grain: Grain, mode: Mode, facts: pl.DataFrame, stored: Mapping[date, Block], month: date
) -> tuple[Block | None, LoadPart, Changed]:
    """One month of a load: its block if it changes, the load's own rows, and their effect."""
    new = unite_repeats(_of_month(facts, grain, month), grain)
    old_block = stored.get(month)
    old = _decode(sound(old_block, grain), grain) if old_block else grain.schema.to_frame()
    block = _encode(site, month, _merged(old, new, grain, mode), grain)
    own = block.payload if old_block is None else _payload(new)
    # Stored even where the block does not change: if another load is undone, this one still has the rows.
    part = LoadPart(grain=grain.name, month=month, mode=mode, rows=new.height, payload=own)
    result = _described(old, new, grain, mode)
    if old_block is not None and block.checksum == old_block.checksum:
        return None, part, result
    block.id = old_block.id if old_block else None
    return block, part, result + Changed(blocks=1)


def prepare_without(site: Site, load: Load) -> Rewrite:
    """Blocks as if a load had never been made."""
    version = site.data_version
    blocks, emptied = [], []
    for part in load.parts.only("grain", "month"):
        grain = GRAINS[part.grain]
        rows = _made_by(_parts(site, part.grain, part.month).exclude(load=load), grain)
        old = Block.objects.filter(site=site, grain=part.grain, month=part.month).first()
        if rows.height:
            block = _encode(site, part.month, rows, grain)
            block.id = old.id if old else None
            blocks.append(block)
        elif old:
            emptied.append(old)
    return Rewrite(version, blocks, emptied, [], Changed(blocks=len(blocks) + len(emptied)))


def _parts(site: Site, grain: str, month: date) -> QuerySet[LoadPart]:
    """The rows of the active loads for a month."""
    return LoadPart.objects.filter(load__site=site, load__taken_back_at=None, grain=grain, month=month)


def _made_by(parts: QuerySet[LoadPart], grain: Grain) -> pl.DataFrame:
    """The result of the loads' own rows for a month, applied in order."""
    return reduce(
        lambda current, one: _merged(current, _decode(one.payload, grain), grain, one.mode),  # type: ignore[arg-type]
        parts.order_by("load_id"),
        grain.schema.to_frame(),
    )


def sound(block: Block, grain: Grain) -> "bytes | memoryview[int]":
    """The payload of a block as it was written; where its checksum fails, it is rebuilt from the loads' own rows. Raises
    Damaged where they are missing.
    """
    payload: bytes | memoryview[int] = block.payload
    # A CRC-32 detects any changed bit and costs 3 % of reading; SHA-256 would cost 60 %.
    if isal_zlib.crc32(payload) == block.crc or hashlib.sha256(payload).hexdigest() == block.checksum:
        return payload
    log.error("Block %s (%s, %s) is damaged; it is rebuilt from its loads", block.id, block.grain, block.month)
    try:
        rows = _made_by(_parts(block.site, block.grain, block.month), grain)
    except pl.exceptions.PolarsError:
        rows = grain.schema.to_frame()
    if rows.height != block.rows:
        month = "" if block.month == UNDATED else f" of {block.month:%B %Y}"
        message = f"The stored {grain.name} data{month} are damaged on disk, and no load has them completely."
        raise Damaged(message, "Restore a backup, or load those days again.")
    made = _encode(block.site, block.month, rows, grain)
    current = {"payload": made.payload, "checksum": made.checksum, "crc": made.crc}
    Block.objects.filter(id=block.id, checksum=block.checksum).update(**current)
    return bytes(made.payload)


def write(site: Site, rewrite: Rewrite, loads: Mapping[Source, Load], events: Sequence[Event] = ()) -> None:
    """Write prepared blocks with the loads that made them, one for each source, all or nothing. Raises OvertakenError when
    another write came first.
    """
    with transaction.atomic():
        version = _next_version(site, rewrite, bool(events))
        for load in loads.values():
            load.save()
        for part in rewrite.parts:
            part.load = loads[GRAINS[part.grain].source]
            part.save()
        for event in events:
            event.load = loads["events"]
            event.save()
        for block in rewrite.blocks:
            block.save()
    site.data_version = version


def undo(site: Site, load: Load, rewrite: Rewrite, user: User | None) -> None:
    """Write the blocks without a load and mark it as undone. Raises OvertakenError as `write` does."""
    with transaction.atomic():
        version = _next_version(site, rewrite, load.events.exists())
        for block in rewrite.blocks:
            block.save()
        for block in rewrite.emptied:
            block.delete()
        if not Load.objects.filter(id=load.id, taken_back_at=None).exists():
            raise Invalid("This load has already been undone.", "Nothing to do.")
        load.events.all().delete()
        load.taken_back_at, load.taken_back_by = timezone.now(), user
        load.save(update_fields=["taken_back_at", "taken_back_by"])
    site.data_version = version


def _next_version(site: Site, rewrite: Rewrite, events: bool) -> int:
    version = next_version()
    unmoved = Site.objects.filter(id=site.id, data_version=rewrite.data_version)
    if not unmoved.update(data_version=version, plan_version=next_version() if events else F("plan_version")):
        raise OvertakenError
    return version


def _merged(old: pl.DataFrame, new: pl.DataFrame, grain: Grain, mode: Mode) -> pl.DataFrame:
    """The result of loading `new` onto `old`; both are sorted and without duplicates."""
    if old.is_empty():
        return new
    if not grain.when:
        return new if mode == "replace" else unite_repeats(pl.concat([old, new]), grain)
    on_its_days = _on_days_of(new, grain)
    cached = old.filter(~on_its_days)
    if mode == "add":
        cached = pl.concat([cached, old.filter(on_its_days).join(new, on=grain.key, how="anti", nulls_equal=True)])
    return in_order(pl.concat([cached, new]), grain)


def _on_days_of(rows: pl.DataFrame, grain: Grain) -> pl.Expr:
    """Which rows are on these days, or on exactly these spans."""
    if grain.dated:
        return pl.col("day").is_in(rows["day"].unique().implode())
    # Totals by device and totals by country are each complete, in different breakdowns, so they coexist.
    frame = [(pl.col(name) != NOT_REPORTED).alias(name) for name in ("device", "country") if name in grain.schema]
    stretches = rows.select(*grain.when, *frame).unique().to_dicts()
    of_each = (pl.all_horizontal(*(_is(name, value) for name, value in one.items())) for one in stretches)
    return pl.any_horizontal(pl.lit(False), *of_each)


def _is(name: str, value: date | bool) -> pl.Expr:
    return (pl.col(name) != NOT_REPORTED) == value if isinstance(value, bool) else pl.col(name) == value


def _described(old: pl.DataFrame, new: pl.DataFrame, grain: Grain, mode: Mode) -> Changed:
    if old.is_empty():
        return Changed(given=new.height, after=new.height, new=new.height)
    stood = old.filter(_on_days_of(new, grain)) if grain.when else old
    if stood.equals(new):
        return Changed(given=new.height, before=stood.height, after=new.height)
    gone = stood.join(new, on=grain.key, how="anti", nulls_equal=True).height
    same = stood.join(new, on=stood.columns, how="semi", nulls_equal=True).height if _joinable(stood) else 0
    met = stood.height - gone
    return Changed(
        given=new.height,
        before=stood.height,
        after=new.height + (gone if mode == "add" else 0),
        new=new.height - met,
        replaced=met - same,
        lost=gone if mode == "replace" else 0,
    )


def _joinable(rows: pl.DataFrame) -> bool:
    return not any(isinstance(kind, pl.List) for kind in rows.schema.values())


def _months(facts: pl.DataFrame, grain: Grain) -> list[date]:
    return facts["day"].dt.month_start().unique().sort().to_list() if grain.dated else [UNDATED]


def _of_month(facts: pl.DataFrame, grain: Grain, month: date) -> pl.DataFrame:
    rows = facts.lazy().select(grain.schema.names())
    return (rows.filter(pl.col("day").is_between(month, pl.lit(month).dt.month_end())) if grain.dated else rows).collect()


def _payload(rows: pl.DataFrame) -> bytes:
    buffer = io.BytesIO()
    # Level 1 writes in half the time of the default and is 8 % larger.
    rows.write_parquet(buffer, compression="zstd", compression_level=1, statistics=False)
    return buffer.getvalue()


def _encode(site: Site, month: date, rows: pl.DataFrame, grain: Grain) -> Block:
    payload = _payload(rows)
    first, last = rows.select(pl.min("day"), last=pl.max("day")).row(0) if grain.dated else (None, None)
    return Block(
        site=site,
        grain=grain.name,
        month=month,
        first_day=first,
        last_day=last,
        rows=rows.height,
        days=_day_bits(rows) if grain.dated else None,
        checksum=hashlib.sha256(payload).hexdigest(),
        crc=isal_zlib.crc32(payload),
        payload=payload,
    )


def renumbered(site: Site, payload: bytes, grain: Grain, month: date, ids: Mapping[str, pl.DataFrame]) -> Block:
    """The rows of a foreign payload as a block of the site: `ids` has, for each column of ids, `old` and `new` ones. Raises
    Damaged where a row has an id that they lack, or the rows cannot come from a load of this grain and month.
    """
    rows = _decode(payload, grain)
    if wrong := _wrong_with(rows, set(pl.read_parquet_schema(io.BytesIO(payload))), grain, month):
        raise Damaged(f"{grain.name.capitalize()} of {month_name(month)}: {wrong}.", "Export the archive again.")
    for name, entry in ids.items():
        if grain.schema.get(name) == pl.UInt32:
            rows = rows.join(entry, left_on=name, right_on="old", how="left", maintain_order="left")
            rows = rows.with_columns(pl.col("new").alias(name)).drop("new")
            if rows[name].null_count():
                raise Damaged(f"A row of {grain.name} has a {name} that is missing.", "Export the archive again.")
    return _encode(
        site, month, in_order(rows.select(pl.col(name).cast(kind) for name, kind in grain.schema.items()), grain), grain
    )


# The limits of columns beyond their types: tables define the numbers of devices, countries and channels.
_NUMBERED = {"device": len(DEVICES) - 1, "country": 10_000, "channel": 100}
_TEXT_MAX_BYTES = 4_000_000  # the content of a page; addresses and queries are far shorter


def month_name(month: date) -> str:
    return "all days" if month == UNDATED else f"{month:%B %Y}"


def _wrong_with(rows: pl.DataFrame, columns: Collection[str], grain: Grain, month: date) -> str:
    """Evidence that rows were not made by a load of this grain and month; empty if there is none."""
    if not set(columns) <= set(grain.schema.names()) or (grain.dated == (month == UNDATED)):
        return "the columns are those of another table"
    needed = [name for name in (*grain.key, *grain.when) if not name.endswith(("device", "country"))]
    if any(rows[name].null_count() for name in needed if rows.schema[name] != pl.String):
        return f"a row lacks one of {', '.join(needed)}"
    if grain.dated and not rows["day"].is_between(month, pl.select(pl.lit(month).dt.month_end()).item()).all():
        return "a row is of another month"
    for name, kind in rows.schema.items():
        column = rows[name]
        if kind.is_float() and not column.drop_nulls().is_finite().all():
            return f"{name} is no number in a row"
        if kind.is_temporal() and not column.drop_nulls().is_between(FIRST_DAY_POSSIBLE, date(2199, 12, 31)).all():
            return f"{name} is an impossible day"
        if name in _NUMBERED and column.dtype.is_integer() and int(column.max() or 0) > _NUMBERED[name]:  # type: ignore[arg-type]
            return f"{name} is unknown"
        if kind == pl.String and int(column.str.len_bytes().max() or 0) > _TEXT_MAX_BYTES:  # type: ignore[arg-type]
            return f"{name} is too long"
    return "" if unite_repeats(rows, grain).height == rows.height else "a row comes twice"


def _decode(payload: "bytes | memoryview[int]", grain: Grain, columns: Sequence[str] | None = None) -> pl.DataFrame:
    """Stored rows with columns by their current names. A column newer than the block is null, but device and country are "not
    reported".
    """
    wanted = list(columns or grain.schema.names())
    file = io.BytesIO(payload)
    try:
        return pl.read_parquet(file, columns=wanted)
    except pl.exceptions.ColumnNotFoundError:
        rows = pl.read_parquet(io.BytesIO(payload)).rename(FORMER_COLUMNS, strict=False)
        lacking = [
            pl.lit(NOT_REPORTED if name in ("device", "country") else None, dtype=grain.schema[name]).alias(name)
            for name in wanted
            if name not in rows.columns
        ]
        return rows.with_columns(lacking).select(wanted)
