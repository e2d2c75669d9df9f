"""The use case of loading a file of search facts: read it all, refuse it or write its days, and say what was done."""

import csv
import gzip
import io
from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, field
from pathlib import Path

import numpy as np
import polars as pl

from zugzwang.errors import FileRefused, Refusals
from zugzwang.exporting import safe_cell
from zugzwang.intake.columns import REQUIRED, check_mapping, missing, propose
from zugzwang.intake.delimited import ROW, Table, column, lines_of, open_table, refuse
from zugzwang.intake.search_facts import CHECKS, Reading
from zugzwang.store.blocks import Days, OvertakenError, prepare, write
from zugzwang.store.dictionary import ids_for
from zugzwang.store.models import Page, Query, Site

PROBLEMS_SHOWN = 20
ATTEMPTS = 5

Progress = Callable[[str, float], None]  # step in words, share of the whole done (0…1); may raise to cancel


@dataclass(frozen=True)
class LoadReport:
    """What a load did. Counts are rows of the file unless they say otherwise."""

    file: str
    rows: int
    loaded: int
    refused: int
    never_shown: int
    repeats_added_up: int
    first_day: str | None
    last_day: str | None
    days: int
    rows_before: int
    rows_after: int
    rows_lost: int
    pages: int
    queries: int
    changed: bool
    notices: list[str]
    refusals: Refusals = field(default_factory=Refusals)

    def as_json(self) -> dict[str, object]:
        return asdict(self)


@dataclass(frozen=True)
class Loaded:
    report: LoadReport
    refused_csv: bytes | None  # gzip-compressed


def load_search_facts(
    site: Site,
    path: Path,
    name: str,
    progress: Progress,
    mapping: Mapping[str, int] | None = None,
    days: Days = "replace",
    keep_good_rows: bool = False,
) -> Loaded:
    """Load a file into the site's blocks. FileRefused (nothing kept) when it has bad rows, unless `keep_good_rows`."""
    table = open_table(path, name)
    chosen = propose(table.header) if mapping is None else check_mapping(mapping, table.header)
    absent = missing(chosen)
    if absent:
        raise refuse(
            name,
            f"no column for {', '.join(absent)}",
            f"The columns are: {', '.join(table.header)}. Rename one, or say which it is.",
            line=1,
        )
    reading = Reading(table, chosen)
    reading.read(lambda rows: progress(f"Reading row {rows:,}", 0.6 * min(rows / max(table.rows_about, 1), 1.0)))
    refused = reading.all_refused()
    refusals = _refusals(reading, refused)
    if refused.height and not keep_good_rows:
        raise FileRefused(name, refusals)
    facts = pl.concat(reading.facts) if reading.facts else None
    if facts is None or facts.is_empty():
        raise refuse(name, "there is no row to load", "Export it again, with rows that were shown at least once.", line=2)
    return Loaded(_write(site, reading, facts, refusals, days, progress), _refused_csv(reading, refused))


def _write(site: Site, reading: Reading, facts: pl.DataFrame, refusals: Refusals, days: Days, progress: Progress) -> LoadReport:
    progress("Naming pages and queries", 0.65)
    rows_good = facts.height
    facts, pages = _with_ids(facts, "page", site, Page)
    facts, queries = _with_ids(facts, "query", site, Query)
    for _ in range(ATTEMPTS):
        progress("Making blocks", 0.7)
        rewrite = prepare(site, facts, days)
        progress("Writing blocks", 0.95)
        try:
            write(site, rewrite)
            break
        except OvertakenError:
            site.refresh_from_db()
    else:
        raise refuse(reading.table.name, "others kept changing the site's data", "Load it again when they are done.")
    changed = rewrite.changed
    return LoadReport(
        file=reading.table.name,
        rows=reading.rows - reading.blank,
        loaded=rows_good,
        refused=refusals.rows,
        never_shown=reading.never_shown,
        repeats_added_up=rows_good - changed.given,
        first_day=str(facts["day"].min()),
        last_day=str(facts["day"].max()),
        days=facts["day"].n_unique(),
        rows_before=changed.before,
        rows_after=changed.after,
        rows_lost=changed.lost,
        pages=pages,
        queries=queries,
        changed=changed.blocks > 0,
        notices=_notices(reading, rows_good - changed.given, changed.lost),
        refusals=refusals,
    )


def _with_ids(facts: pl.DataFrame, name: str, site: Site, words: type[Page] | type[Query]) -> tuple[pl.DataFrame, int]:
    """The facts with ids in place of the texts of a column, and how many different ones there are."""
    code = facts[name].to_physical().to_numpy()
    used = np.flatnonzero(np.bincount(code)).astype(np.uint32)
    ids = ids_for(site, words, pl.Series(used).cat.to(facts.schema[name]).cast(pl.String))
    id_of_code = np.zeros(int(code.max()) + 1, dtype=np.uint32)
    id_of_code[used] = ids.to_numpy()
    return facts.with_columns(pl.Series(name, id_of_code[code])), used.size


def _notices(reading: Reading, repeats: int, lost: int) -> list[str]:
    """What the analyst should know though it stops nothing."""
    notices = []
    used = set(reading.mapping.values())
    unused = [name for index, name in enumerate(reading.table.header) if index not in used and name]
    if unused:
        notices.append(f"Not used: {', '.join(unused)}.")
    if repeats:
        notices.append(f"{repeats:,} rows repeat a day, page and query (a device or country apart?) and were added up.")
    if reading.never_shown:
        notices.append(f"{reading.never_shown:,} rows were never shown and say nothing; they are left out.")
    if reading.ctr_differs:
        line = lines_of(reading.table, [reading.ctr_differs_first or 0]).values()
        notices.append(
            f"In {reading.ctr_differs:,} rows the CTR is not clicks over impressions (the first: line {next(iter(line))}). "
            "CTR is always computed here; look whether columns are swapped."
        )
    if lost:
        notices.append(f"{lost:,} rows that stood on these days are not in the file and are gone: it replaced its days.")
    return notices


def _refusals(reading: Reading, refused: pl.DataFrame) -> Refusals:
    if refused.is_empty():
        return Refusals()
    first = refused.head(PROBLEMS_SHOWN).to_dicts()
    lines = lines_of(reading.table, [row[ROW] for row in first])
    problems = [reading.problem(row, lines.get(row[ROW])) for row in first]
    kinds = refused.group_by("failed").len().sort("len", descending=True)
    counts = {CHECKS[failed].message: number for failed, number in kinds.iter_rows()}
    return Refusals(problems, counts, refused.height)


def _refused_csv(reading: Reading, refused: pl.DataFrame) -> bytes | None:
    """Every refused row as it stood, with its line and what is wrong, gzip-compressed."""
    if refused.is_empty():
        return None
    lines = lines_of(reading.table, refused[ROW].to_list())
    header = reading.table.header
    text = io.StringIO(newline="")
    writer = csv.writer(text)
    writer.writerow(["line", "column", "problem", "remedy", *header])
    for row in refused.iter_rows(named=True):
        problem = reading.problem(row, lines.get(row[ROW]))
        cells = [safe_cell(row[column(index)] or "") for index in range(len(header))]
        writer.writerow([problem.line, problem.column, problem.message, problem.remedy, *cells])
    return gzip.compress(text.getvalue().encode())


def looks_like(path: Path, name: str) -> tuple[Table, dict[str, int], list[str]]:
    """A file before it is loaded: its table, the columns recognised, and the fields that no column was found for."""
    table = open_table(path, name)
    mapping = propose(table.header)
    return table, mapping, [field for field in REQUIRED if field not in mapping]
