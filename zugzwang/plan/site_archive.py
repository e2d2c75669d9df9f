"""A whole site as one archive of open formats, which this or another installation can import.

The archive is a ZIP (APPNOTE 6.3.9) of
  about.json                       its description, and the site's settings
  pages.parquet, queries.parquet   id, text
  facts/TABLE/MONTH.parquet        all facts; pages and queries by their ids
  loads/LOAD/TABLE/MONTH.parquet   the rows of each load, so it can still be undone
  tables/NAME.ndjson               everything else, one row a line; a row's files under tables/NAME/ID.FIELD
  trail.ndjson                     the activity log, for reading; it is not imported

Data that belong to people or to the old installation are left out: see `LEFT_BEHIND`. Imported rows get new ids, so the
archive carries texts and references, never ids. Authors are written as names, for reading only: an archive may be forged,
so no one here becomes an author. Finished reports are left out for the same reason: their pages are shown to people
outside.
"""

import errno
import io
import json
import re
import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import UTC, date, datetime
from itertools import chain, count
from pathlib import Path
from typing import Any, cast, get_args

import polars as pl
from django.contrib.auth.models import User
from django.core.exceptions import ValidationError
from django.core.serializers.json import DjangoJSONEncoder
from django.db import DataError, IntegrityError, models, transaction

from zugzwang.access import Actor
from zugzwang.core.facts.grains import GRAINS
from zugzwang.data import models as store
from zugzwang.data.audit import note
from zugzwang.data.blocks import UNDATED, Damaged, Mode, renumbered, sound
from zugzwang.data.database_copy import one_moment
from zugzwang.data.dataset import month_of, table_of
from zugzwang.data.dictionary import ids_for, read_texts
from zugzwang.data.models import Block, Load, LoadPart, Page, Query, Site, next_version
from zugzwang.data.patterns import patterns_for
from zugzwang.errors import Invalid
from zugzwang.names import checked_name
from zugzwang.plan.archive_checks import (
    NUMBER_MAX,
    check_references,
    check_row,
    checked_currency,
    checked_instructions,
    checked_rules,
    checked_value,
)
from zugzwang.plan.topics import EDITS_MAX
from zugzwang.plan.views import VIEWS_MAX
from zugzwang.subjects.sites import add_site, checked_curve

FORMAT = 1
ABOUT_MAX_BYTES, LINE_MAX_BYTES = 2_000_000, 4_000_000
# Maximum rows of a table: what people could enter, or a site collects in years.
ROWS_OF_A_TABLE_MAX = 500_000
ROWS_MAX: dict[type[models.Model], int] = {
    store.Connection: 50, store.ReportTemplate: 1_000, store.SavedView: VIEWS_MAX, store.TopicEdit: EDITS_MAX,
    store.Draft: 10_000, store.DraftVersion: 100_000, store.Trial: 5_000, store.Load: 50_000, store.Event: 50_000,
    store.RuleChange: 50_000, store.ColumnMemory: 10_000,
}  # fmt: skip
BRAND_PATTERNS_MAX, TEXT_MAX_BYTES = 100, 4_000
ENTRY_MAX_BYTES, ENTRIES_MAX = 2_000_000_000, 200_000
TEXTS: dict[str, tuple[str, type[Page] | type[Query]]] = {"page": ("pages.parquet", Page), "query": ("queries.parquet", Query)}
# Fields of the site's own row, each validated as if set by hand.
SETTINGS: dict[str, Callable[[Any], Any]] = {
    "brand_patterns": lambda told: list(patterns_for(told, most=BRAND_PATTERNS_MAX)),
    "rules": checked_rules,
    "min_impressions": lambda told: min(max(int(told), 0), NUMBER_MAX),
    "currency": checked_currency,
    "own_curve": lambda told: checked_curve([(float(at), float(rate)) for at, rate in told]) if told else None,
    "instructions": checked_instructions,
}
# Ordered so that referenced rows come first.
CARRIED: tuple[type[models.Model], ...] = (
    store.Load, store.Event, store.ColumnMemory, store.Connection, store.RuleChange, store.Decision, store.Move,
    store.MoveChange, store.MainQuery, store.PlannedLink, store.TopicEdit, store.Draft, store.DraftVersion, store.Trial,
    store.ReportTemplate, store.SavedView,
)  # fmt: skip
IN_PARQUET = (Page, Query, Block, LoadPart)
LEFT_BEHIND: dict[type[models.Model], str] = {
    store.Membership: "who takes it in owns it, and invites others",
    store.Invitation: "an address works in one place",
    store.PersonalToken: "belongs to a person",
    store.Preferences: "belong to a person",
    store.AuditEntry: "the activity log is in trail.ndjson; it is not imported, because it could be forged",
    store.Job: "work of the place where it was done",
    store.JobPart: "work of the place where it was done",
    store.Heartbeat: "of the processes of the place",
    store.Report: "a finished page could be anybody's; it is made again of its template",
    store.ReportLink: "an address works in one place",
    store.ReportSending: "mails are sent from one place",
}
# Not copied: tokens are encrypted with another key, and mails and nightly refreshes would run twice.
AT_REST: dict[type[models.Model], dict[str, Any]] = {
    store.Connection: {"token": "", "nightly": False, "requested_at": None, "private_allowed": False},
    store.Draft: {"writer": None, "writer_window": "", "writer_heard_at": None},
    store.ReportTemplate: {"schedule": "", "begins": None},
}
# Errors that a damaged or forged archive can cause, at the latest when rows are stored.
DAMAGED = (
    zipfile.BadZipFile, KeyError, ValueError, TypeError, AttributeError, OverflowError, RecursionError, ValidationError,
    IntegrityError, DataError, pl.exceptions.PolarsError, Damaged, UnicodeError,
)  # fmt: skip
ROW_OF_A_VIEW = re.compile(r"(?<=[?&])row=[^&]*&?")


@dataclass
class _Ids:
    """New ids by old ones: texts as frames, rows by model as dicts."""

    texts: dict[str, pl.DataFrame] = field(default_factory=dict)
    rows: dict[type[models.Model], dict[int, int]] = field(default_factory=dict)

    def of(self, model: type[models.Model], old: int | None) -> int | None:
        return None if old is None else self.rows.get(model, {}).get(old)

    def unit(self, result: list[int | None]) -> list[int | None]:
        page, query = result
        return [self.of(Page, page), self.of(Query, query)]


# JSON fields that contain ids.
WITH_IDS: dict[tuple[type[models.Model], str], Callable[[Any, _Ids], Any]] = {
    (store.TopicEdit, "queries"): lambda told, ids: [new for one in told if (new := ids.of(Query, one)) is not None],
    (store.Trial, "changed"): lambda told, ids: [ids.unit(one) for one in told],
    (store.Trial, "unchanged"): lambda told, ids: [ids.unit(one) for one in told],
    (store.Trial, "out"): lambda told, ids: [{**one, "unit": ids.unit(one["unit"])} for one in told],
    (store.Trial, "before"): lambda told, ids: {
        str(new): says for page, says in told.items() if (new := ids.of(Page, int(page))) is not None
    },
}


# --- out ------------------------------------------------------------------------------------------------------------------


def write_archive(actor: Actor, slug: str, out: Path) -> None:
    """Write a site's archive, entirely or not at all."""
    site = actor.site_to_own(slug)
    making = out.with_name(f".{out.name}.making")
    try:
        for block in _blocks(site):  # it repairs damaged blocks, and later nothing may be written
            sound(block, GRAINS[block.grain])
        with one_moment(), zipfile.ZipFile(making, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
            _write(site, archive)
        note(actor.user, site, "archive out", site.name)
        making.replace(out)
    finally:
        making.unlink(missing_ok=True)


def _write(site: Site, archive: zipfile.ZipFile) -> None:
    result = {name: getattr(site, name) for name in ("slug", "name", "address", *SETTINGS)}
    about = {"format": FORMAT, "made_at": f"{datetime.now(UTC):%Y-%m-%dT%H:%M:%SZ}", "site": result}
    archive.writestr("about.json", json.dumps(about, indent=1, ensure_ascii=False))
    for name, words in TEXTS.values():
        buffer = io.BytesIO()
        read_texts(site, words).sort("id").write_parquet(buffer)
        archive.writestr(name, buffer.getvalue())
    for block in _blocks(site):
        _parquet(archive, f"facts/{table_of(block.grain)}/{month_of(block.month)}", bytes(sound(block, GRAINS[block.grain])))
    for part in LoadPart.objects.filter(load__site=site).order_by("load_id", "grain", "month").iterator(chunk_size=1):
        name = f"loads/{part.load_id}/{part.mode}/{table_of(part.grain)}/{month_of(part.month)}"
        _parquet(archive, name, bytes(part.payload))
    for model in CARRIED:
        _write_table(site, model, archive)
    trail = store.AuditEntry.objects.filter(site=site).order_by("id").values("who", "what", "about", "details", "at")
    archive.writestr("trail.ndjson", "".join(_line(dict(entry)) for entry in trail))


def _blocks(site: Site) -> Iterator[Block]:
    return Block.objects.filter(site=site).select_related("site").order_by("grain", "month").iterator(chunk_size=1)


def _parquet(archive: zipfile.ZipFile, name: str, payload: bytes) -> None:
    archive.writestr(f"{name}.parquet", payload, zipfile.ZIP_STORED)  # already compressed


def _write_table(site: Site, model: type[models.Model], archive: zipfile.ZipFile) -> None:
    lines = []
    for row in _rows_of(site, model):
        result = {}
        for one in model._meta.concrete_fields:
            value = getattr(row, one.attname)
            if isinstance(one, models.BinaryField):
                if value is not None:
                    archive.writestr(f"tables/{model.__name__}/{row.pk}.{one.name}", bytes(value))
            elif one.related_model is User:
                result[one.name] = None if value is None else getattr(row, one.name).username
            elif one.related_model is not Site:
                result[one.attname] = value
        result.update({name: value for name, value in AT_REST.get(model, {}).items() if name in result})
        lines.append(_line(result))
    archive.writestr(f"tables/{model.__name__}.ndjson", "".join(lines))


def _rows_of(site: Site, model: type[models.Model]) -> Iterator[models.Model]:
    """A site's rows of a table, by its own reference to the site or its parent's."""
    fields = {one.name: one for one in model._meta.concrete_fields}
    of_site = "site" if "site" in fields else next(
        f"{name}__site" for name, one in fields.items() if one.related_model in CARRIED and not one.null
    )  # fmt: skip
    people = [name for name, one in fields.items() if one.related_model is User]
    return iter(model._default_manager.filter(**{of_site: site}).select_related(*people).order_by("id"))


def _line(result: dict[str, Any]) -> str:
    return json.dumps(result, ensure_ascii=False, cls=DjangoJSONEncoder) + "\n"


# --- in -------------------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class About:
    """An archive's description of its site, read first. `settings`: by their names in `SETTINGS`, validated."""

    name: str
    address: str
    slug: str
    settings: dict[str, Any]


@contextmanager
def _opened(path: Path, name: str) -> Iterator[zipfile.ZipFile]:
    """An archive to read from. Raises Invalid where it is not one or is damaged."""
    try:
        with zipfile.ZipFile(path) as archive:
            infos = archive.infolist()
            if len({one.filename for one in infos}) < len(infos):
                raise ValueError("an entry comes twice")
            if len(infos) > ENTRIES_MAX or any(one.file_size > ENTRY_MAX_BYTES for one in infos):
                raise Invalid(f"{name} has more than a site can hold.", "Check where it comes from.", "file")
            yield archive
    except (*DAMAGED, OSError) as error:
        if isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EROFS):
            raise  # of our own disk, and reported as such
        raise Invalid(
            f"{name} is not an archive of a site, or it is damaged.", "Download it again from the site.", "file"
        ) from error


def about(path: Path, name: str) -> About:
    """An archive's description of its site. Raises Invalid where it is not one, is damaged or comes from a newer program."""
    with _opened(path, name) as archive:
        if archive.getinfo("about.json").file_size > ABOUT_MAX_BYTES:
            raise ValueError
        result = json.loads(archive.read("about.json"))
        if result["format"] != FORMAT:
            raise Invalid(f"{name} is of another version of this program.", "Upgrade this installation.", "file")
        site = result["site"]
        settings = {setting: check(site[setting]) for setting, check in SETTINGS.items()}
        return About(checked_name(str(site["name"])), str(site["address"]), str(site["slug"]), settings)


def add_for(actor: Actor, result: About, slug: str) -> Site:
    """A new site for an archive, empty except for its settings; numbered where the name exists already."""
    with transaction.atomic():
        stored = set(actor.sites().values_list("name", flat=True))
        names = chain([result.name], (f"{result.name[:190]} ({number})" for number in count(2)))
        site = add_site(actor, next(one for one in names if one not in stored), result.address, slug)
        for name, value in result.settings.items():
            setattr(site, name, value)
        site.save()
        note(actor.user, site, "archive in", site.name)
    return site


def take_in(actor: Actor, path: Path, slug: str | None = None) -> Site:
    """Create a site from an archive, entirely or not at all. Raises Invalid where it is not one, is damaged or comes from a
    newer program.
    """
    result = about(path, path.name)
    site = add_for(actor, result, slug or result.slug)
    try:
        with filled(site, path, path.name):
            return site
    except BaseException:
        site.delete()
        raise


@contextmanager
def filled(site: Site, path: Path, name: str, tell: Callable[[str, float], None] = lambda *_: None) -> Iterator[dict[str, int]]:
    """Fill a new site from an archive, entirely or not at all, together with the body of this context. Yields its numbers of
    rows and loads. Others can write until the last step, which stores everything.
    """
    with _opened(path, name) as archive:
        ids = _Ids()
        for column, (file, words) in TEXTS.items():
            tell("Reading texts", 0.1)
            _read_texts(site, archive, column, file, words, ids)  # they are meaningless alone
        blocks = list(_blocks_in(site, archive, ids, tell))
        # Read and validated before anything is locked.
        tables = {model: _read_table(site, model, archive) for model in CARRIED}
        tell("Storing", 0.9)
        with transaction.atomic():
            if Load.objects.filter(site=site).exists():
                raise Invalid(f"{site.name} already has data.", "Import the archive as another site.", "file")
            for model in CARRIED:
                _store_table(model, tables[model], ids)
            for at, block in blocks:
                _store(block, at, ids)
            site.data_version, site.plan_version = next_version(), next_version()
            site.save(update_fields=["data_version", "plan_version"])
            yield {
                "rows": sum(block.rows for at, block in blocks if not at),
                "loads": len(ids.rows[Load]),
                "moves": len(ids.rows[store.Move]),
            }


def _read_texts(
    site: Site, archive: zipfile.ZipFile, column: str, file: str, words: type[Page] | type[Query], ids: _Ids
) -> None:
    old = pl.read_parquet(io.BytesIO(archive.read(file))).select(pl.col("id").cast(pl.UInt32), pl.col("text").cast(pl.String))
    if any(old[name].n_unique() < old.height or old[name].null_count() for name in ("id", "text")):
        raise ValueError("a text comes twice")
    if int(old["text"].str.len_bytes().max() or 0) > TEXT_MAX_BYTES:  # type: ignore[arg-type]
        raise ValueError("a text is too long")
    new = ids_for(site, words, old["text"])[0]
    ids.texts[column] = pl.DataFrame({"old": old["id"], "new": new})
    ids.rows[words] = dict(zip(old["id"].to_list(), new.to_list(), strict=True))


def _blocks_in(
    site: Site, archive: zipfile.ZipFile, ids: _Ids, tell: Callable[[str, float], None]
) -> Iterator[tuple[tuple[str, ...], Block]]:
    """The blocks of an archive with new ids, and the load and mode of those that a load brought."""
    grains = {table_of(name): grain for name, grain in GRAINS.items()}
    entries = [one for one in archive.namelist() if one.startswith(("facts/", "loads/"))]
    for number, entry in enumerate(entries):
        tell("Reading facts", 0.2 + 0.7 * number / len(entries))
        _, *load_and_mode, table, file = entry.split("/")
        month = UNDATED if file == "all.parquet" else date.fromisoformat(f"{file.removesuffix('.parquet')}-01")
        yield tuple(load_and_mode), renumbered(site, archive.read(entry), grains[table], month, ids.texts)


def _store(block: Block, load_and_mode: tuple[str, ...], ids: _Ids) -> None:
    if not load_and_mode:
        block.save()
        return
    load, mode = load_and_mode
    if mode not in get_args(Mode):
        raise ValueError(f"a load is not taken in by “{mode}”")
    result = {name: getattr(block, name) for name in ("grain", "month", "rows", "payload")}
    LoadPart.objects.create(load_id=ids.rows[Load][int(load)], mode=mode, **result)


@dataclass
class _Read:
    """A row of an archive: `old`, its id there; `reported`, its line, for the ids that it refers to."""

    old: int
    row: models.Model
    told: dict[str, Any]


def _read_table(site: Site, model: type[models.Model], archive: zipfile.ZipFile) -> list[_Read]:
    """The rows of a table, each validated; their references are still the archive's."""
    files, read = set(archive.namelist()), []
    lines = archive.read(f"tables/{model.__name__}.ndjson").splitlines()
    if len(lines) > ROWS_MAX.get(model, ROWS_OF_A_TABLE_MAX):
        raise ValueError(f"{len(lines):,} rows of {model.__name__}")
    for line in lines:
        if len(line) > LINE_MAX_BYTES:
            raise ValueError(f"a line of {model.__name__} is too long")
        result, row = json.loads(line), model()
        for one in model._meta.concrete_fields:
            if one.primary_key:
                continue
            if isinstance(one, models.BinaryField):
                file = f"tables/{model.__name__}/{int(result['id'])}.{one.name}"
                value: Any = archive.read(file) if file in files else None
            elif one.related_model is not None:
                value = site.pk if one.related_model is Site else None
            else:
                value = checked_value(model, one, result[one.attname] if one.attname in result else one.get_default())
            if model is store.SavedView and one.name == "address":
                value = ROW_OF_A_VIEW.sub("", value)
            setattr(row, one.attname, value)
        for name, rests in AT_REST.get(model, {}).items():
            setattr(row, name, rests)
        check_row(row)
        read.append(_Read(int(result["id"]), row, result))
    return read


def _store_table(model: type[models.Model], read: list[_Read], ids: _Ids) -> None:
    for one in read:
        _refer(model, one, ids)
    # A row whose text or object is missing is dropped.
    cached = [one for one in read if not _lacks(one.row)]
    rows = [one.row for one in cached]
    times = {one.attname: [getattr(row, one.attname) for row in rows] for one in _by_itself(model)}
    new = model._default_manager.bulk_create(rows, batch_size=100)
    ids.rows[model] = {one.old: cast(int, row.pk) for one, row in zip(cached, new, strict=True)}
    for name, values in times.items():  # creating a row would set it to now
        for row, value in zip(new, values, strict=True):
            setattr(row, name, value)
        model._default_manager.bulk_update(new, [name], batch_size=100)


def _refer(model: type[models.Model], read: _Read, ids: _Ids) -> None:
    """Point a row's references to new ids, and to no author."""
    for one in model._meta.concrete_fields:
        if one.related_model not in (None, Site, User):
            setattr(read.row, one.attname, ids.of(one.related_model, read.told.get(one.attname)))
        elif (model, one.name) in WITH_IDS and (value := getattr(read.row, one.attname)):
            setattr(read.row, one.attname, WITH_IDS[model, one.name](value, ids))
    check_references(read.row)


def _lacks(row: models.Model) -> bool:
    return any(one.is_relation and not one.null and getattr(row, one.attname) is None for one in row._meta.concrete_fields)


def _by_itself(model: type[models.Model]) -> list[Any]:
    return [
        one for one in model._meta.concrete_fields if getattr(one, "auto_now", False) or getattr(one, "auto_now_add", False)
    ]
