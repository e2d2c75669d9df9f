"""The effect of a load, in numbers and words; stored with the load, so it can be opened later."""

import csv
import gzip
import io
from collections.abc import Sequence
from dataclasses import asdict, dataclass, field, replace

import polars as pl

from zugzwang.core.facts.cleaning import LEFT_OUT
from zugzwang.core.facts.grains import Source
from zugzwang.data.blocks import Changed, Mode
from zugzwang.data.models import Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Refusals
from zugzwang.exporting import safe_cell
from zugzwang.intake.kinds.kind import ROW
from zugzwang.intake.reading import Reading
from zugzwang.intake.tables import column

PROBLEMS_SHOWN = 20


@dataclass(frozen=True)
class TableReport:
    """The result for one table of a file. Counts are rows of the file unless stated otherwise."""

    name: str
    source: Source
    grain: str
    rows: int
    loaded: int
    refused: int
    totals: int
    never_shown: int
    own_visits: int
    of_no_page: int
    of_own_site: int
    of_other_sites: int
    ctr_differs: int
    ctr_differs_line: int | None
    first_day: str | None
    last_day: str | None
    days: int
    pages: int
    queries: int
    new_pages: int
    unused: list[str]
    notices: list[str]
    page_texts: pl.Series | None = None


@dataclass(frozen=True)
class LoadReport:
    """The effect of a load. On its days, rows change from `rows_before` to `rows_after`; see data.blocks.Changed for the
    others.
    """

    file: str
    tables: list[TableReport]
    rows: int
    loaded: int
    refused: int
    first_day: str | None
    last_day: str | None
    days: int
    repeats_added_up: int
    rows_before: int
    rows_after: int
    rows_new: int
    rows_replaced: int
    rows_lost: int
    pages: int
    queries: int
    pages_folded: int
    pages_left_out: int
    mode: Mode
    changed: bool
    notices: list[str]
    refusals: Refusals = field(default_factory=Refusals)
    loads: list[int] = field(default_factory=list)
    dry_run: bool = False

    def as_json(self) -> dict[str, object]:
        current = asdict(replace(self, tables=[replace(table, page_texts=None) for table in self.tables]))
        for table in current["tables"]:
            del table["page_texts"]
        return current


def tell(
    site: Site,
    name: str,
    tables: list[TableReport],
    changed: Changed,
    mode: Mode,
    notices: Sequence[str],
    refusals: Refusals,
) -> LoadReport:
    """The report of a load, from its tables and the effect of writing them."""
    loaded = sum(table.loaded for table in tables)
    events = sum(table.loaded for table in tables if table.source == "events")
    repeats = loaded - events - changed.given
    folded, left_out = _cleaned(site, tables)
    return LoadReport(
        file=name,
        tables=tables,
        rows=sum(table.rows for table in tables),
        loaded=loaded,
        refused=refusals.rows,
        first_day=min((table.first_day for table in tables if table.first_day), default=None),
        last_day=max((table.last_day for table in tables if table.last_day), default=None),
        days=max((table.days for table in tables), default=0),
        repeats_added_up=repeats,
        rows_before=changed.before,
        rows_after=changed.after,
        rows_new=changed.new + events,
        rows_replaced=changed.replaced,
        rows_lost=changed.lost,
        pages=max((table.pages for table in tables), default=0),
        queries=max((table.queries for table in tables), default=0),
        pages_folded=folded,
        pages_left_out=left_out,
        mode=mode,
        changed=changed.blocks > 0 or events > 0,
        notices=[
            *notices,
            *(notice for table in tables for notice in _of_table(table, len(tables) > 1)),
            *_of_all(repeats, changed),
        ],
        refusals=refusals,
    )


def _cleaned(site: Site, tables: Sequence[TableReport]) -> tuple[int, int]:
    """How many of the load's pages are merged or excluded."""
    texts = [table.page_texts for table in tables if table.page_texts is not None and table.page_texts.len()]
    if not texts:
        return 0, 0
    folds = Snapshot(site).pages.folds_of(pl.concat(texts).unique())
    left_out = folds.filter(pl.col("counts_as") == LEFT_OUT).height
    return folds.filter(pl.col("reasons").list.len() > 0, pl.col("counts_as") != LEFT_OUT).height, left_out


def _of_table(table: TableReport, several: bool) -> list[str]:
    """Remarks that do not stop the load."""
    notices = list(table.notices)
    if table.unused:
        notices.append(f"Not used: {', '.join(table.unused)}.")
    if table.totals:
        notices.append(f"{table.totals:,} rows are totals of the others and are skipped.")
    if table.never_shown:
        notices.append(f"{table.never_shown:,} rows without impressions are skipped.")
    if table.own_visits:
        notices.append(f"{table.own_visits:,} rows of your own networks are skipped.")
    if table.of_no_page:
        notices.append(f"{table.of_no_page:,} rows without a page, such as “(not set)”, are skipped.")
    if table.of_own_site:
        notices.append(
            f"{table.of_own_site:,} internal links are skipped: this table is for links from other sites. "
            "A crawl reads internal links."
        )
    if table.of_other_sites:
        notices.append(f"{table.of_other_sites:,} links on other sites are skipped: load them as links from other sites.")
    if table.ctr_differs:
        notices.append(
            f"In {table.ctr_differs:,} rows the CTR is not clicks over impressions (the first: line {table.ctr_differs_line}). "
            "CTR is always computed here; check whether columns are swapped."
        )
    return [f"{table.name}: {notice}" for notice in notices] if several else notices


def _of_all(repeats: int, changed: Changed) -> list[str]:
    notices = []
    if repeats > 0:
        notices.append(f"Duplicate rows were merged ({repeats:,}).")
    if changed.lost:
        notices.append(f"{changed.lost:,} rows of these days are not in the file, which replaced its days: they are removed.")
    return notices


def refusals_of(reading: Reading) -> Refusals:
    refused = reading.all_refused()
    if refused.is_empty():
        return Refusals()
    first = refused.head(PROBLEMS_SHOWN).to_dicts()
    lines = reading.table.lines_of([row[ROW] for row in first])
    problems = [reading.problem(row, lines.get(row[ROW])) for row in first]
    kinds = refused.group_by("failed").len().sort("len", descending=True)
    counts: dict[str, int] = {}
    for failed, number in kinds.iter_rows():
        message = reading.checks[failed].message
        counts[message] = counts.get(message, 0) + number
    return Refusals(problems, counts, refused.height)


def refused_csv(readings: Sequence[tuple[str, Reading]]) -> bytes | None:
    """Every refused row unchanged, with its line and problem, gzip-compressed; None when there is none."""
    text = io.StringIO(newline="")
    writer = csv.writer(text)
    rows = 0
    for name, reading in readings:
        refused = reading.all_refused()
        if refused.is_empty():
            continue
        lines = reading.table.lines_of(refused[ROW].to_list())
        header = reading.table.header
        writer.writerow([*(["file"] if len(readings) > 1 else []), "line", "column", "problem", "remedy", *header])
        for row in refused.iter_rows(named=True):
            problem = reading.problem(row, lines.get(row[ROW]))
            cells = [safe_cell(row[column(index)] or "") for index in range(len(header))]
            result = [problem.line, problem.column, problem.message, problem.remedy, *cells]
            writer.writerow([*([name] if len(readings) > 1 else []), *result])
        rows += refused.height
    return gzip.compress(text.getvalue().encode()) if rows else None
