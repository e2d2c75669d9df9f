"""What stops a load until a person decides: impossible numbers, another site's pages, days that would be lost.

A number that can be read in two ways is read in the possible way; where neither is possible, the load stops.
"""

from collections.abc import Sequence
from dataclasses import replace
from urllib.parse import urlsplit

import polars as pl

from zugzwang.core.facts.search import ctr
from zugzwang.data.blocks import Changed
from zugzwang.intake.kinds.kind import ROW
from zugzwang.intake.reading import Reading
from zugzwang.intake.tables import Choices, Table, column, refuse
from zugzwang.intake.values import DayOrder

POSITION_MAX = 1_000  # the largest possible position: common practice, no source
CTR_FACTOR = 2.0  # a factor too large for rounding
FAR_DAYS, FAR_SHARE = 400, 0.05
KEYS = ("day", "page", "query", "device", "country")
UNUSED_SHARE, UNUSED_SAMPLE = 0.05, 2_000  # share of rows that would be summed; sample size
LOST_SHARE = 0.1  # share of existing rows on the file's days that it does not contain


def read_possibly(reading: Reading, choices: Choices) -> Reading:
    """The reading, or the one with the other decimal separator where only that gives possible numbers. Raises FileRefused with
    both readings where neither does, or where a person chose the separator.
    """
    wrong = _impossible(reading)
    if wrong is None:
        return reading
    if choices.decimal is None:
        style = replace(reading.style, decimal="," if reading.style.decimal == "." else ".")
        other = Reading(reading.table, reading.source, reading.mapping, style)
        other.read_all(lambda _: None)
        if _impossible(other) is None and not other.all_refused().height:
            other.table.notices.append(f"“{style.decimal}” is read as the decimal sign: otherwise, {wrong[1]}.")
            return other
    row, said = wrong
    line = reading.table.lines_of([row]).get(row)
    remedy = "Choose the decimal sign, or check for a column mapped to the wrong field."
    raise refuse(reading.table.name, said, remedy, line=line)


def _impossible(reading: Reading) -> tuple[int, str] | None:
    """The first row with impossible numbers, and why; None where all are possible."""
    good = reading.good()
    if reading.source != "search" or good.is_empty():
        return None
    if "position" in good.columns:
        beyond = good.filter(pl.col("position") > POSITION_MAX)
        if beyond.height:
            row, position = beyond.select(ROW, "position").row(0)
            return row, f"a position of {position:,.0f} is read from “{_cell(reading, row, 'position')}”"
    if {"ctr", "clicks", "impressions"} <= set(good.columns):
        rows = good.filter(pl.col("clicks") > 0, pl.col("ctr").is_not_null()).with_columns(own=ctr())
        # Many files write 3.4 for 3.4 %, without the percent sign.
        times = pl.col("ctr") / pl.col("own")
        separate = rows.filter(*(~(times / per).is_between(1 / CTR_FACTOR, CTR_FACTOR) for per in (1, 100)))
        if separate.height * 2 > rows.height:
            row, said, clicks, shown, own = separate.select(ROW, "ctr", "clicks", "impressions", "own").row(0)
            return row, (
                f"a CTR of {100 * said:.3g} % is read from “{_cell(reading, row, 'ctr')}”, "
                f"and {clicks:,} clicks of {shown:,} impressions make {100 * own:.3g} %"
            )
    return None


def _cell(reading: Reading, row: int, field: str) -> str:
    """The cell as in the file."""
    for batch in reading.table.batches():
        if batch[ROW][-1] >= row:
            return str(batch.filter(pl.col(ROW) == row)[column(reading.mapping[field])][0])
    return ""


def check_far_days(reading: Reading) -> None:
    """Raises FileRefused where a few days lie far from all others, usually a typing error in the year. They would stretch
    every default period.
    """
    good = reading.good()
    if "day" not in good.columns or good.is_empty():
        return
    days = good.group_by("day").len().sort("day")
    separate = (days["day"].diff().dt.total_days() > FAR_DAYS).fill_null(False)
    clusters = days.with_columns(cluster=separate.cum_sum()).group_by("cluster", maintain_order=True)
    few = clusters.agg(pl.col("day").first(), pl.col("len").sum()).filter(pl.col("len") < FAR_SHARE * good.height)
    if few.is_empty():
        return
    day, rows = few.select("day", "len").row(0)
    row = good.filter(pl.col("day") == day)[ROW][0]
    remedy = "Correct the day; or load those days separately, if they are right."
    number = f"{rows:,} rows are" if rows > 1 else "one row is"
    message = f"{number} of {day} or days near it are more than a year away from all others"
    raise refuse(reading.table.name, message, remedy, line=reading.table.lines_of([row]).get(row))


def check_host(name: str, own_hosts: Sequence[str], texts: pl.Series) -> None:
    """Raises FileRefused where most pages belong to another site. `texts`: addresses; plain paths are the site's own."""
    whole = texts.drop_nulls().filter(texts.drop_nulls().str.contains(r"(?i)^https?://"))
    hosts = [_host(text) for text in whole.to_list()]
    owns = [host.removeprefix("www.") for host in own_hosts]
    others = [host for host in hosts if not any(f".{host}".endswith(f".{own}") for own in owns)]
    if len(others) * 2 <= len(hosts):
        return
    most = max(set(others), key=others.count)
    remedy = f"Load it into the site of {most}; or confirm that these pages belong to this site (--any-host)."
    said = f"{len(others):,} of its {len(hosts):,} pages are of other hosts, such as {most}, not of {owns[0]}"
    raise refuse(name, said, remedy)


def unrepeated(reading: Reading, choices: Choices) -> pl.DataFrame:
    """The good rows, without exact duplicates or with them, as chosen. Raises FileRefused without a choice: duplicate rows
    usually come from joined exports, and summing them doubles the clicks.
    """
    good = reading.good()
    if reading.source != "search" or choices.repeats == "each" or good.is_empty():
        return good
    _check_unused_columns(reading, good)
    fields = [name for name in good.columns if name != ROW]
    # Rows with different hashes differ; comparing rows is slow, and needed only where two hashes are equal.
    if good.select(fields).hash_rows().n_unique() == good.height:
        return good
    rows = good.filter(good.select(fields).is_duplicated())[ROW]
    first_of = _first_like_it(reading, rows)
    if not first_of:
        return good
    if choices.repeats is None:
        again, first = next(iter(first_of.items()))
        lines = reading.table.lines_of([again, first])
        number = f"{len(first_of):,} rows are" if len(first_of) > 1 else "one row is"
        said = f"{number} identical to another row; the first repeats {reading.table.unit} {lines[first]}"
        remedy = "Choose: count identical rows once, or add them up. On the command line: --repeats once, or --repeats each."
        raise refuse(reading.table.name, said, remedy, line=lines[again])
    reading.table.notices.append(f"{len(first_of):,} identical rows were counted once.")
    return good.filter(~pl.col(ROW).is_in(list(first_of)))


def _check_unused_columns(reading: Reading, good: pl.DataFrame) -> None:
    """Raises FileRefused where rows would be summed because a text column that distinguishes them is not used: it may contain
    the queries or pages under an unknown name.
    """
    keys = [name for name in KEYS if name in good.columns]
    repeated = good.filter(good.select(keys).is_duplicated()) if keys else good
    if repeated.height < 2 or repeated.height < UNUSED_SHARE * good.height:
        return
    sample = repeated.select(ROW, *keys).head(UNUSED_SAMPLE)
    frame = [batch.filter(pl.col(ROW).is_in(sample[ROW].implode())) for batch in reading.table.batches()]
    rows = pl.concat(frame, how="vertical_relaxed").join(sample, on=ROW)
    for index, name in enumerate(reading.table.header):
        if index in reading.mapping.values():
            continue
        cells = rows[column(index)].cast(pl.String).str.strip_chars()
        words = cells.str.contains(r"[^\W\d_]").fill_null(False).mean()
        separate = rows.select(*keys, column(index)).n_unique() if keys else cells.n_unique()
        together = rows.select(keys).n_unique() if keys else 1
        if words is not None and float(str(words)) > 0.5 and separate > together + (len(cells) - together) / 2:
            said = (
                f"rows would be added up because the column “{name}” is not used: it sets {separate:,} of {len(cells):,} apart"
            )
            remedy = (
                f"Choose what “{name}” is, or confirm that such rows are added up. On the command line: --map query=“{name}”, "
                "or --repeats each."
            )
            raise refuse(reading.table.name, said, remedy)


def _first_like_it(reading: Reading, rows: pl.Series) -> dict[int, int]:
    """For each row, the earlier row that is identical in every cell, including unused ones."""
    frame = [batch.filter(pl.col(ROW).is_in(rows.implode())) for batch in reading.table.batches()]
    listed = pl.concat(frame, how="vertical_relaxed")
    cells = [name for name in listed.columns if name != ROW]
    listed = listed.with_columns(first=pl.col(ROW).min().over(cells)).filter(pl.col("first") < pl.col(ROW))
    return dict(listed.select(ROW, "first").iter_rows())


def _host(text: str) -> str:
    try:
        return urlsplit(text).hostname or ""
    except ValueError:
        return ""


def lost_too_much(changed: Changed) -> tuple[str, str] | None:
    """What is wrong, and what to choose, where a file would remove many rows of its days without replacing them: it may be a
    filtered part of an export.
    """
    if changed.lost <= LOST_SHARE * changed.before:
        return None
    message = f"{changed.lost:,} of the {changed.before:,} rows of these days are not in the file"
    remedy = "Choose: it replaces these days (other rows are removed) or adds to them (other rows stay)."
    return message, f"{remedy} On the command line: --days replace, or --days add."


def day_order_in(table: Table, index: int) -> DayOrder | None:
    """Whether dates with slashes have the day or the month first, judged by all values of the column; None where they do not
    say or contradict each other.
    """
    shown = [False, False]
    for batch in table.batches():
        parts = batch[column(index)].cast(pl.String).str.extract_groups(r"^\s*(\d{1,2})[/-](\d{1,2})[/-]").struct.unnest()
        for at, name in enumerate(parts.columns):
            shown[at] |= bool((parts[name].cast(pl.UInt8, strict=False) > 12).any())
    return {(True, False): "day first", (False, True): "month first"}.get((shown[0], shown[1]))  # type: ignore[return-value]
