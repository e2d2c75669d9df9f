"""Visits from a web server's access log in the Combined Log Format, rebuilt into sessions (core/facts/visits.py).

A line: address identity user [day/Mon/year:hour:minute:second zone] "GET /path HTTP/1.1" status bytes "referrer" "agent".
Servers of several sites write host:port before it (Apache's "vhost_combined"); lines of other sites are skipped. Known
programs and the site's own networks are left out. Malformed lines are counted, not refused: logs contain what attackers
send.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

import polars as pl

from zugzwang.core.facts.visits import BOT_WORDS, CHANNELS, is_page_view, sessions
from zugzwang.intake.kinds.kind import ROW
from zugzwang.intake.kinds.making import is_own
from zugzwang.intake.tables import OVERFLOW, Table, column, refuse

HEADER = ["day", "landing page", "channel", "sessions", "bounces", "seconds"]
_LINE = (
    r"^(?:(?P<site>[\w.-]+):\d{1,5} )?(?P<visitor>\S+) \S+ .*?"
    r"\[(?P<at>\d{2}/[A-Z][a-z]{2}/\d{4}:\d{2}:\d{2}:\d{2} [+-]\d{4})\] "
    r'"(?P<method>[A-Z]+) (?P<target>\S+)(?: HTTP/[\d.]+)?" (?P<status>\d{3}) (?:\d+|-)'
    r'(?: "(?P<referrer>(?:[^"\\]|\\.)*)" "(?P<agent>(?:[^"\\]|\\.)*)")?'
)
_SAMPLE_BYTES = 65_536
_NAMED = r"(?i)([a-z][\w-]*(?:bot|crawler|spider)\b)"
NAMES_LISTED = 5


@dataclass(frozen=True)
class LogRules:
    """A site's rules for its logs: host, expressions for search engine hosts, networks of its own people, expressions for the
    names of search engine crawlers.
    """

    own_host: str
    search_hosts: tuple[str, ...] = ()
    own_networks: tuple[str, ...] = ()
    crawlers: tuple[str, ...] = ()


@dataclass
class AccessLog(Table):
    visits: pl.DataFrame
    unit = "line"

    def batches(self) -> Iterator[pl.DataFrame]:
        cells = {name: column(index) for index, name in enumerate(self.visits.columns)}
        numbered = self.visits.rename(cells).with_row_index(ROW).with_columns(pl.lit(None, dtype=pl.String).alias(OVERFLOW))
        yield numbered

    def lines_of(self, records: Sequence[int]) -> dict[int, int]:
        return {record: record + 1 for record in records}


def is_access_log(start: bytes) -> bool:
    """Whether the first lines of a file are log lines."""
    lines = [line for line in start[:_SAMPLE_BYTES].decode("utf-8", errors="replace").splitlines()[:20] if line.strip()]
    found = pl.Series(lines, dtype=pl.String).str.contains(_LINE)
    return bool(lines) and int(found.sum()) * 2 > len(lines)


def open_access_log(path: Path, name: str, rules: LogRules, scratch: Path) -> AccessLog:
    """The visits in a log, summed by day, landing page and channel. Raises FileRefused where it has none."""
    try:
        requests = _requests(path)
    except pl.exceptions.ComputeError:
        # Attackers send bytes that are not text; they are replaced, line by line.
        readable = scratch / f"{path.name}.readable"
        with path.open(encoding="utf-8", errors="replace", newline="") as old, readable.open("w", encoding="utf-8") as new:
            new.writelines(old)
        requests = _requests(readable)
    bad = requests.filter(pl.col("visitor").is_null())
    read = requests.filter(pl.col("visitor").is_not_null())
    read, notices = _of_this_site(read, rules.own_host)
    views = read.filter(is_page_view())
    bots = views["agent"].fill_null("").str.contains(BOT_WORDS)
    own = (
        is_own(views["visitor"], rules.own_networks)
        if rules.own_networks
        else pl.Series([False]).new_from_index(0, views.height)
    )
    people = views.filter(~bots & ~own)
    if people.is_empty():
        raise refuse(name, "the log holds no page views of people", "Check whether your rules exclude all of it.")
    visitor = pl.concat_str("visitor", pl.lit(" "), pl.col("agent").fill_null("")).alias("visitor")
    rows = sessions(people.select(visitor, "at", "target", "referrer"), rules.own_host, rules.search_hosts)
    notices += [
        f"{requests.height:,} lines: {views.height:,} page views; {int(bots.sum()):,} by programs and "
        f"{int((own & ~bots).sum()):,} from your own networks are left out; {rows.height:,} sessions.",
    ]
    if bad.height:
        notices.append(f"{bad.height:,} lines are not log lines and are skipped (the first: line {bad['line'][0] + 1}).")
    if not rows["channel"].eq(CHANNELS.index("organic")).any():
        notices.append("No session came from a search engine of your rules. Add their hosts in Cleaning.")
    crawled = _crawled(views.filter(bots & ~own), rules.crawlers, notices)
    visits = pl.concat([_added_up(rows), crawled]).sort("day", "target", "channel")
    return AccessLog(path, name, HEADER, 0, visits.height, notices, [], None, "utf-8", visits)


def _of_this_site(read: pl.DataFrame, own_host: str) -> tuple[pl.DataFrame, list[str]]:
    """The site's own lines, where lines name their host, and a remark about the others. Where no line names the site, all are
    taken: a server may use another name.
    """
    own = own_host.lower().removeprefix("www.")
    site = read["site"].str.to_lowercase().str.strip_prefix("www.")
    is_own_line = (site == own) | site.str.ends_with(f".{own}")
    others = read.filter(~is_own_line.fill_null(True))
    if others.is_empty():
        return read, []
    if not is_own_line.any():
        first = others["site"][0]
        return read, [f"Its lines are of {first}, not of {own}; all were loaded."]
    return read.filter(is_own_line.fill_null(True)), [f"{others.height:,} lines of other sites are skipped."]


def _crawled(views: pl.DataFrame, crawlers: tuple[str, ...], notices: list[str]) -> pl.DataFrame:
    """Crawler fetches in HEADER's columns, one session each. The names that programs send are reported, so search engines can
    be identified.
    """
    agents = views["agent"].fill_null("")
    known = pl.Series([False]).new_from_index(0, views.height) if views.height else pl.Series([], dtype=pl.Boolean)
    for pattern in crawlers:
        known |= agents.str.contains(f"(?i){pattern}")
    fetched = views.filter(known)
    if fetched.height:
        notices.append(f"{fetched.height:,} pages were fetched by search engine crawlers.")
    names = views.filter(~known)["agent"].str.extract(_NAMED).drop_nulls().value_counts(sort=True).head(NAMES_LISTED)
    if names.height:
        rows = ", ".join(f"{name} ({count:,})" for name, count in names.iter_rows())
        notices.append(f"Other crawlers: {rows}. Choose those of search engines in Cleaning.")
    counted = fetched.group_by(pl.col("at").dt.date().alias("day"), "target").agg(pl.len().alias("sessions"))
    none = pl.lit(None)
    blank = {"channel": pl.lit("crawler"), "bounces": none.cast(pl.UInt32), "seconds": none.cast(pl.Float64)}
    return counted.with_columns(**blank).select("day", "target", "channel", "sessions", "bounces", "seconds")


def _requests(path: Path) -> pl.DataFrame:
    groups = pl.col("text").str.extract_groups(_LINE).struct
    lines = pl.scan_lines(path, name="text", row_index_name="line")
    at = pl.col("at").str.to_datetime("%d/%b/%Y:%H:%M:%S %z", strict=False)
    names = ("site", "visitor", "at", "method", "target", "status", "referrer", "agent")
    return (
        lines.filter(pl.col("text").str.len_bytes() > 0)
        .select("line", *(groups.field(name) for name in names))
        .with_columns(
            # Days follow the server's own clock, as written.
            at.dt.replace_time_zone(None),
            pl.col("status").cast(pl.UInt16),
            pl.when(pl.col("referrer") != "-").then("referrer").alias("referrer"),
        )
        .with_columns(pl.when(pl.col("at").is_not_null()).then("visitor").alias("visitor"))
        .collect()
    )


def _added_up(rows: pl.DataFrame) -> pl.DataFrame:
    """Visits in HEADER's columns. The landing page is the target with its parameters; the site's rules merge them later."""
    return (
        rows.group_by("day", "target", "channel")
        .agg(pl.len().alias("sessions"), pl.col("bounce").sum().alias("bounces"), pl.col("seconds").sum())
        .sort("day", "target", "channel")
        .with_columns(pl.col("channel").replace_strict(list(range(len(CHANNELS))), list(CHANNELS), return_dtype=pl.String))
        .select("day", "target", "channel", "sessions", "bounces", "seconds")
    )
