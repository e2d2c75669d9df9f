"""The use case of loading a file: preview it, read it all, refuse it or write it, and report the effect.

Nothing is half loaded: every table of the file is read and checked before anything is written, and everything is written in
one transaction. Every load keeps its own rows, so it can be undone (`undo`).
"""

import csv
import logging
import tempfile
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Literal

import polars as pl
from django.contrib.auth.models import User
from django.db import transaction

from zugzwang.access import Actor
from zugzwang.core.facts.grains import (
    CRAWL_PAGES,
    GRAINS,
    PAGE_QUERIES,
    RESULTS,
    SOURCES,
    STRENGTHS,
    VOLUMES,
    Grain,
    Source,
    unite_repeats,
)
from zugzwang.core.facts.periods import Period
from zugzwang.data import blocks
from zugzwang.data.audit import note
from zugzwang.data.blocks import Changed, Mode, OvertakenError
from zugzwang.data.models import ColumnMemory, Event, Job, Load, Site
from zugzwang.data.rules import host_of, hosts_of, rules_of
from zugzwang.errors import FileRefused, Invalid, NotFound, Problem, Refusals
from zugzwang.intake import remarks
from zugzwang.intake.access_log import LogRules
from zugzwang.intake.assembling import assemble
from zugzwang.intake.checks import NAMES
from zugzwang.intake.doubts import check_far_days, check_host, day_order_in, lost_too_much, read_possibly, unrepeated
from zugzwang.intake.fields import (
    Side,
    check_mapping,
    header_key,
    missing,
    of_something,
    propose,
    recognise,
    recognised_by_hosts,
    sides,
    tells_ranks_alone,
)
from zugzwang.intake.formats import Member, open_table, sheets, unpack
from zugzwang.intake.kinds import KINDS
from zugzwang.intake.kinds.kind import Assembled
from zugzwang.intake.reading import Reading, style_for
from zugzwang.intake.reports import LoadReport, TableReport, refusals_of, refused_csv, tell
from zugzwang.intake.seen import Seen
from zugzwang.intake.spans import filters_of, with_filters, with_spans
from zugzwang.intake.tables import Choices, Table, refuse
from zugzwang.intake.values import Style, currency_of

log = logging.getLogger(__name__)
SAMPLE_ROWS = 500
COLUMNS_MAX = 500
ATTEMPTS = 5
MONEY = ("value", "price_per_click")
# Files of these kinds have some rows of a growing table; files of the others have all rows of their days, or of the site.
_ADDED_TO = (VOLUMES.source, RESULTS.source, STRENGTHS.source, PAGE_QUERIES.source, "events")

Progress = Callable[[str, float], None]  # step in words, share of the total (0…1); may raise to cancel


def no_progress(step: str, share: float) -> None:
    del step, share


@dataclass(frozen=True)
class TableRequest:
    """How to read one table of a file; None: as suggested."""

    source: Source | None = None
    mapping: Mapping[str, int] | None = None
    choices: Choices = field(default_factory=Choices)
    skip: bool = False


@dataclass(frozen=True)
class LoadOptions:
    """How to load a file. `tables`: by index in the file; others are read as suggested."""

    tables: Mapping[int, TableRequest] = field(default_factory=dict)
    mode: Mode | None = None
    keep_good_rows: bool = False
    dry_run: bool = False
    user: User | None = None
    job: Job | None = None


@dataclass(frozen=True)
class Loaded:
    report: LoadReport
    refused_csv: bytes | None  # gzip-compressed


@dataclass
class _Read:
    seen: Seen
    reading: Reading
    refusals: Refusals
    made: Assembled | None = None
    events: list[Event] = field(default_factory=list)


@contextmanager
def in_words(name: str) -> Iterator[None]:
    """Turn an unforeseen error of a reader into a refusal; the log has the details."""
    try:
        yield
    except (ArithmeticError, LookupError, RecursionError, TypeError, ValueError, csv.Error, pl.exceptions.PolarsError) as error:
        log.exception("%s could not be read", name)
        raise refuse(name, "a part of it cannot be read", "Export it again as CSV (UTF-8).") from error


def look(site: Site, path: Path, name: str, scratch: Path, request: Mapping[int, TableRequest] | None = None) -> list[Seen]:
    """The tables in a file, as they would be read; one with two periods counts twice. Raises FileRefused when none can be."""
    members = [sheet for member in unpack(path, name, scratch) for sheet in sheets(member)]
    # A named sheet is the only one read.
    wanted = (request or {}).get(0, TableRequest()).choices.sheet
    members = members[:1] if wanted and len(members) > 1 else members
    seen: list[Seen] = []
    for member in members:
        seen += _see(site, member, request or {}, len(seen), scratch, len(members) == 1)
    if all(one.table is None for one in seen):
        raise refuse(
            name, seen[0].refused if len(seen) == 1 else "none of its files can be read", "Check each file separately."
        )
    seen = [replace(one, place=place) for place, one in enumerate(seen)]
    return with_spans(with_filters(seen), name, {number: one.choices.span for number, one in (request or {}).items()})


def _see(
    site: Site, member: Member, request: Mapping[int, TableRequest], number: int, scratch: Path, alone: bool
) -> list[Seen]:
    """The table of a file, from its index among all tables on; twice where it has two periods."""
    own = request.get(number, TableRequest())
    rules = rules_of(site)
    log_rules = LogRules(host_of(site), rules.search_hosts, rules.own_networks, rules.crawlers)
    try:
        table = open_table(member, own.choices, scratch, log_rules)
        if len(table.header) > COLUMNS_MAX:
            raise refuse(
                member.name, f"the table has {len(table.header):,} columns", f"Export it with {COLUMNS_MAX:,} at most.", line=1
            )
        samples = table.first_rows(SAMPLE_ROWS)
    except FileRefused as error:
        if alone:
            raise
        return [Seen(member.name, None, str(error.refusals.first[0]) if error.refusals.first else error.message)]
    filters = filters_of(table.header, samples)
    if filters:
        return [Seen(member.name, None, "it says what the export was filtered by", filters=filters)]
    memory = ColumnMemory.objects.filter(site=site, header=header_key(table.header)).first()
    chosen = own.source or (memory.source if memory else None)
    source, *others = (
        [_a_source(chosen)]
        if chosen
        else recognised_by_hosts(recognise(table.header, samples), table.header, samples, host_of(site))
    )
    both = sides(source, table.header) if own.mapping is None else None
    result = [
        _seen(member.name, table, samples, source, request.get(number + place, TableRequest()), memory, side)
        for place, side in enumerate(both or (None,))
    ]
    result = [replace(one, could_be=tuple(others)) for one in result]
    if result[0].table is not None and not of_something(source, result[0].mapping) and not alone:
        by = next((name for index, name in enumerate(table.header) if index not in result[0].mapping.values()), "")
        return [Seen(member.name, None, f"its rows are by “{by}”, which cannot be loaded")]
    return result


def _a_source(name: str) -> Source:
    found = next((source for source in SOURCES if source == name), None)
    if found is None:
        raise Invalid(f"There is no source “{name}”.", f"Sources: {', '.join(SOURCES)}.", "source")
    return found


def _seen(
    name: str,
    table: Table,
    samples: list[list[str]],
    source: Source,
    request: TableRequest,
    memory: ColumnMemory | None,
    side: Side | None,
) -> Seen:
    remembered = request.mapping is None and memory is not None and memory.source == source and side is None
    if request.mapping is not None:
        mapping = check_mapping(source, request.mapping, table.header)
    elif memory is not None and remembered:
        mapping = dict(memory.mapping)
    elif side is not None:
        measures = {field.name for field in KINDS[source].fields if field.form in ("whole", "real", "share")}
        whole = propose(source, table.header, samples)
        mapping = {**{field: at for field, at in whole.items() if field not in measures}, **side.measures}
    else:
        mapping = propose(source, table.header, samples)
    style = style_for(table, source, mapping, request.choices, samples)
    if (unsettled := _ambiguous_days(samples, mapping, style)) is not None:
        style = replace(style, day_order=day_order_in(table, unsettled))
    monthly = KINDS[source].has_spans and remarks.tells_months(table, samples, mapping)
    ranks_alone = source == "search" and tells_ranks_alone(table.header, samples)
    table.notices += [*([remarks.MONTHLY] if monthly else []), *([remarks.RANKS_ALONE] if ranks_alone else [])]
    table.notices += [*remarks.counted_days(samples, mapping), *remarks.encoded_twice(table, samples)]
    return Seen(
        name=f"{name} ({side.words})" if side is not None and side.words else name,
        table=table,
        refused="",
        source=source,
        mapping=mapping,
        missing=missing(source, mapping),
        style=style,
        ambiguous_days=_ambiguous_days(samples, mapping, style) is not None,
        remembered=remembered,
        first_rows=samples,
        needs_span=KINDS[source].has_spans and "day" not in mapping,
        monthly=monthly,
        side=side,
    )


def _ambiguous_days(samples: Sequence[Sequence[str]], mapping: Mapping[str, int], style: Style) -> int | None:
    """The date column that can be read with the day or the month first; None without one."""
    index = next((mapping[name] for name in ("day", "first_day", "captured") if name in mapping), None)
    days = [row[index] for row in samples if index is not None]
    slashed = pl.Series(days, dtype=pl.String).str.contains(r"^\d{1,2}[/-]\d{1,2}[/-]\d{4}")
    return index if style.day_order is None and bool(slashed.any()) else None


def load_file(
    site: Site, path: Path, name: str, progress: Progress = no_progress, request: LoadOptions | None = None
) -> Loaded:
    """Load a file into the site's tables. Raises FileRefused (nothing is saved) when it has bad rows, unless
    `keep_good_rows`."""
    request = request or LoadOptions()
    with tempfile.TemporaryDirectory() as scratch:
        with in_words(name):
            seen = look(site, path, name, Path(scratch), request.tables)
        chosen = [one for number, one in enumerate(seen) if not request.tables.get(number, TableRequest()).skip]
        usable = [one for one in chosen if one.table is not None and not one.missing]
        notices = [f"{one.name} was skipped: {one.refused or _lacks(one)}." for one in chosen if one not in usable]
        notices += [*_taken_for(usable), *_filtered(seen)]
        if not usable:
            raise _refuse_columns(name, chosen)
        with in_words(name):
            reads = [_read(site, one, request, number, len(usable), progress) for number, one in enumerate(usable)]
        refused = sum(read.refusals.rows for read in reads)
        if refused and not request.keep_good_rows:
            raise FileRefused(name, _together(reads, len(usable) > 1))
        if not any(_rows_of(read) for read in reads):
            if any(read.made is not None and read.made.of_other_sites for read in reads):
                raise refuse(name, "all its links are on pages of other sites", "Load it as links from other sites.", line=2)
            raise refuse(name, "there is no row to load", "Export it again, with data rows.", line=2)
        report = _write(site, name, reads, notices, request, progress)
        return Loaded(report, refused_csv([(read.seen.name, read.reading) for read in reads]))


def _taken_for(seen: Sequence[Seen]) -> list[str]:
    """The days assumed for tables without days, where no person chose them."""
    result = [(one.name, one.span, one.span_from) for one in seen if one.span is not None and one.span_from]
    return [f"{name} covers {span.first} to {span.last}, according to {said}." for name, span, said in result]


def _filtered(seen: Sequence[Seen]) -> list[str]:
    """What a table of filters says, so a part is not taken for the whole."""
    result = [f"{name}: {value}" for one in seen for name, value in one.filters.items()]
    kinds = sorted({name for one in seen for name in one.part})
    filtered = f" Its rows are kept as those of that {' and '.join(kinds)}." if kinds else ""
    return [f"The export was filtered by {'; '.join(result)}.{filtered}"] if result else []


def _lacks(seen: Seen) -> str:
    return f"no column for {', '.join(seen.missing)}"


def _refuse_columns(name: str, chosen: Sequence[Seen]) -> FileRefused:
    result = next((one for one in chosen if one.table is not None), None)
    if result is None or result.table is None:
        return refuse(name, "every table of it is excluded", "Choose one to load.")
    columns = ", ".join(result.table.header)
    if result.source == "search" and tells_ranks_alone(result.table.header, result.first_rows):
        message = "it has positions without clicks and impressions (rank tracking), which are not used"
        volumes = " To load only its search volumes, choose “volumes” as its source." if "volumes" in result.could_be else ""
        remedy = f"Load search data with clicks, impressions and position.{volumes}"
        return refuse(name, message, remedy, line=max(result.table.header_line, 1))
    remedy = f"The columns are: {columns}. Rename one, or map it."
    return refuse(name, f"no column for {', '.join(result.missing)}", remedy, line=max(result.table.header_line, 1))


def _read(site: Site, seen: Seen, request: LoadOptions, number: int, tables: int, progress: Progress) -> _Read:
    assert seen.table is not None
    if seen.ambiguous_days:
        message = "the days can be read with the day or the month first"
        raise refuse(seen.name, message, "Say which it is, or write days as 2026-11-15.", line=seen.table.header_line + 1)
    if seen.needs_span and seen.span is None:
        message = "the table has no days, and nothing says which period it covers"
        remedy = "Enter its first and last day; on the command line --span 2026-08-16..2026-11-15."
        raise refuse(seen.name, message, remedy, line=max(seen.table.header_line, 1))
    choices = request.tables.get(seen.place, TableRequest()).choices
    reading = Reading(seen.table, seen.source, dict(seen.mapping), seen.style)
    about = max(seen.table.rows_about, 1)

    def told(rows: int) -> None:
        progress(f"Reading {seen.name}, row {rows:,}", 0.6 * (number + min(rows / about, 1.0)) / tables)

    reading.read_all(told)
    reading = read_possibly(reading, choices)
    read = _Read(seen, reading, refusals_of(reading))
    if read.refusals.rows and not request.keep_good_rows:
        return read
    if seen.source == "events":
        read.events = _events(site, reading)
        return read
    progress("Saving pages and queries", 0.6 * (number + 1) / tables + 0.02)
    if reading.good().is_empty():
        return read
    check_far_days(reading)
    if "page" in reading.mapping and not choices.any_host:
        check_host(seen.name, hosts_of(site), reading.good()["page"].unique().cast(pl.String))
    networks = rules_of(site).own_networks
    span: Period | Literal["month"] | None = "month" if seen.monthly else seen.span if seen.needs_span else None
    good = unrepeated(reading, choices).with_columns(pl.lit(code).alias(name) for name, code in seen.part.items())
    read.made = assemble(site, reading, good, networks, choices.channel, span, keep=not request.dry_run)
    return read


def _rows_of(read: _Read) -> int:
    return len(read.events) if read.made is None else read.made.rows.height


def _events(site: Site, reading: Reading) -> list[Event]:
    """The events that the site does not have yet."""
    known = set(Event.objects.filter(site=site).values_list("first_day", "title"))
    events = []
    for row in reading.good().iter_rows(named=True):
        if (row["first_day"], row["title"]) in known:
            continue
        known.add((row["first_day"], row["title"]))
        last = row.get("last_day") or row["first_day"]
        result = {"kind": (row.get("kind") or "")[:60], "note": row.get("note") or "", "title": row["title"][:300]}
        events.append(Event(site=site, first_day=row["first_day"], last_day=last, **result))
    return events


def _together(reads: Sequence[_Read], several: bool) -> Refusals:
    """The refusals of all tables; where there are several, each problem names its table."""
    first: list[Problem] = []
    counts: dict[str, int] = {}
    for read in reads:
        for problem in read.refusals.first:
            first.append(replace(problem, column=f"{read.seen.name}: {problem.column}") if several else problem)
        for message, count in read.refusals.counts.items():
            counts[message] = counts.get(message, 0) + count
    return Refusals(first, counts, sum(read.refusals.rows for read in reads))


def _tables(reads: Sequence[_Read]) -> list[tuple[Grain, pl.DataFrame]]:
    """One table for each grain. Files of one archive may overlap: of duplicates, the later one counts."""
    by_grain: dict[str, list[pl.DataFrame]] = {}
    for read in reads:
        if read.made is not None and read.made.rows.height:
            by_grain.setdefault(read.made.grain.name, []).append(read.made.rows)
    tables = []
    for name, parts in by_grain.items():
        grain = GRAINS[name]
        if len(parts) > 1:
            parts = [
                pl.concat([unite_repeats(part, grain) for part in parts]).unique(grain.key, keep="last", maintain_order=True)
            ]
        tables.append((grain, parts[0]))
    return tables


def usual_mode(sources: Sequence[Source]) -> Mode:
    """The default of what loading does with existing data."""
    return "add" if all(source in _ADDED_TO for source in sources) else "replace"


def _write(
    site: Site, name: str, reads: list[_Read], notices: list[str], request: LoadOptions, progress: Progress
) -> LoadReport:
    tables = _tables(reads)
    sources: list[Source] = list(dict.fromkeys(read.seen.source for read in reads))
    mode: Mode = request.mode or usual_mode(sources)
    for _ in range(ATTEMPTS):
        progress("Making blocks", 0.7)
        rewrite = blocks.prepare(site, tables, mode)
        report = tell(
            site,
            name,
            [_table_report(site, read) for read in reads],
            rewrite.changed,
            mode,
            notices,
            _together(reads, len(reads) > 1),
        )
        report = replace(report, dry_run=request.dry_run)
        if request.mode is None and any(grain.when for grain, _ in tables):
            asks = lost_too_much(rewrite.changed)
            if asks and not request.dry_run:
                raise refuse(name, *asks)
            report = replace(report, notices=[*report.notices, *([f"The load stops here: {asks[0]}."] if asks else [])])
        if request.dry_run or not report.changed:
            return report
        progress("Writing blocks", 0.95)
        try:
            loads = {source: _load_of(site, name, source, reads, report, request) for source in sources}
            blocks.write(site, rewrite, loads, [event for read in reads for event in read.events])
        except OvertakenError:
            site.refresh_from_db()
            continue
        _remember(site, reads)
        _keep_currency(site, reads)
        return replace(report, loads=[load.id for load in loads.values()])
    raise refuse(name, "other changes of the site's data were in the way", "Load it again later.")


def _keep_currency(site: Site, reads: Sequence[_Read]) -> None:
    """Set the currency of a site that has none yet from the loaded amounts."""
    found = next((one for read in reads if (one := _currency(read.seen))), None)
    if found and not site.currency:
        site.currency = found
        site.save(update_fields=["currency"])


def _currency(seen: Seen) -> str | None:
    columns = [seen.mapping[name] for name in MONEY if name in seen.mapping]
    return currency_of([row[index] for row in seen.first_rows for index in columns if index < len(row) and row[index].strip()])


def _other_currency(site: Site, seen: Seen) -> list[str]:
    found = _currency(seen)
    if not found or not site.currency or found == site.currency:
        return []
    return [f"Its amounts are in {found}, those of the site in {site.currency}; they are not converted."]


def _load_of(site: Site, name: str, source: Source, reads: Sequence[_Read], report: LoadReport, request: LoadOptions) -> Load:
    tables = [table for table in report.tables if table.source == source]
    firsts, lasts = ([day for table in tables if (day := getattr(table, end))] for end in ("first_day", "last_day"))
    return Load(
        site=site,
        source=source,
        name=name[-300:],
        user=request.user,
        job=request.job,
        report=report.as_json(),
        first_day=min(firsts, default=None),
        last_day=max(lasts, default=None),
        rows=sum(_rows_of(read) for read in reads if read.seen.source == source),
    )


def _remember(site: Site, reads: Sequence[_Read]) -> None:
    """Save the chosen columns for the next file with such a header."""
    for read in reads:
        seen = read.seen
        if seen.table is not None and dict(seen.mapping) != propose(seen.source, seen.table.header, seen.first_rows):
            ColumnMemory.objects.update_or_create(
                site=site, header=header_key(seen.table.header), defaults={"source": seen.source, "mapping": dict(seen.mapping)}
            )


def _table_report(site: Site, read: _Read) -> TableReport:
    reading, made = read.reading, read.made
    rows = made.rows if made is not None else None
    dated = made is not None and made.grain.dated and made.rows.height > 0
    days = [event.first_day for event in read.events]
    span = read.seen.span if read.seen.needs_span else None
    monthly = read.seen.monthly and rows is not None and rows.height > 0
    if monthly and rows is not None:
        span = Period(rows["first"].min(), rows["last"].max())  # type: ignore[arg-type]
    first = rows["day"].min() if dated and rows is not None else span.first if span else min(days, default=None)
    last = rows["day"].max() if dated and rows is not None else span.last if span else max(days, default=None)
    return TableReport(
        name=read.seen.name,
        source=read.seen.source,
        grain=made.grain.name if made is not None else "events",
        rows=reading.read - reading.blank - reading.totals,
        loaded=_rows_of(read),
        refused=read.refusals.rows,
        totals=reading.totals,
        never_shown=made.never_shown if made else 0,
        own_visits=made.own_visits if made else 0,
        of_no_page=made.of_no_page if made else 0,
        of_own_site=made.of_own_site if made else 0,
        of_other_sites=made.of_other_sites if made else 0,
        ctr_differs=made.ctr_differs if made else 0,
        ctr_differs_line=_line(reading, made.ctr_differs_first if made else None),
        first_day=str(first) if first else None,
        last_day=str(last) if last else None,
        days=rows["day"].n_unique() if dated and rows is not None else len(set(days)),
        pages=_different(rows, made, "page"),
        queries=_different(rows, made, "query"),
        new_pages=made.new_pages if made else 0,
        unused=[name for index, name in enumerate(reading.table.header) if index not in reading.mapping.values() and name],
        notices=[
            *reading.table.notices,
            *remarks.cut_off(reading),
            *remarks.ranges(read.seen.first_rows, read.seen.mapping),
            *(remarks.months(rows) if monthly and rows is not None else []),
            *_other_currency(site, read.seen),
        ],
        page_texts=made.page_texts if made else None,
    )


def _different(rows: pl.DataFrame | None, made: Assembled | None, name: str) -> int:
    if rows is None or made is None:
        return 0
    if made.grain is CRAWL_PAGES and name == "page":
        return rows.height
    return rows[name].n_unique() if name in rows.columns and name in NAMES else 0


def _line(reading: Reading, record: int | None) -> int | None:
    return None if record is None else reading.table.lines_of([record]).get(record)


def find_load(actor: Actor, slug: str, load_id: int) -> Load:
    load = Load.objects.filter(site=actor.site(slug), id=load_id).first()
    if load is None:
        raise NotFound("This load does not exist.", "Check the list of loads.")
    return load


def undo(actor: Actor, slug: str, load_id: int) -> Changed:
    """Undo a load: the site's data become what they would be without it. Other loads stay."""
    site = actor.site_to_change(slug)
    load = find_load(actor, slug, load_id)
    if load.taken_back_at is not None:
        raise Invalid("This load has already been undone.", "Nothing to do.")
    for _ in range(ATTEMPTS):
        rewrite = blocks.prepare_without(site, load)
        try:
            with transaction.atomic():
                blocks.undo(site, load, rewrite, actor.user)
                note(actor.user, site, "take back", load.name, load=load.id)
        except OvertakenError:
            site.refresh_from_db()
            continue
        return rewrite.changed
    raise Invalid("Other changes of the site's data were in the way.", "Try again later.")
