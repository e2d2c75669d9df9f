"""Cleaning: which addresses are one page, which are excluded, page types, and query groups.

Nothing here changes facts. A page keeps its id; rules say under which page's id its facts count (or that they count
nowhere), so every rule can be undone and nothing is lost.

Addresses are merged in this order, each step with its reason:
  1. the normal form of RFC 3986, section 6.2.2; fragment dropped;
  2. parameters on the drop list removed, the rest sorted by name;
  3. scheme, `www.` and former hosts replaced by the site's own;
  4. the trailing slash, where an address occurs both with and without it: as the crawl shows, otherwise as on most
     of the site's addresses.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from fnmatch import translate
from typing import Literal

import polars as pl

from zugzwang.core.facts.addresses import Address, normal, parts
from zugzwang.core.facts.patterns import matches

Slash = Literal["seen", "with", "without", "separate"]
DROP_PARAMETERS = ("utm_*", "*clid", "sessionid", "session_id", "sid", "phpsessid", "jsessionid")
LEFT_OUT = 0  # the id of pages that count nowhere

# Matches normalised addresses without parameters to drop: most addresses, tested by one expression.
_PLAIN = r"^https?://[a-z0-9.-]+(/[A-Za-z0-9\-._~!$&'()*+,=:@]*)+$"
_DOTS = r"/\.{1,2}(/|$)"
_SESSION_IN_PATH = re.compile(r";jsessionid=[^/?#]*", re.IGNORECASE)
_FILE_NAME = r"/[^/]*\.[^/]*$"


@dataclass(frozen=True)
class PageType:
    """A page type: patterns of its addresses, kinds of structured data that identify it, measures it is exempt from."""

    name: str
    patterns: tuple[str, ...] = ()
    structured_data: tuple[str, ...] = ()
    exempt: tuple[str, ...] = ()


@dataclass(frozen=True)
class QueryGroup:
    name: str
    patterns: tuple[str, ...]


@dataclass(frozen=True)
class Rules:
    """An analyst's rules for a site. Patterns: see patterns.py; parameters: names, with `*` for any text."""

    drop_parameters: tuple[str, ...] = DROP_PARAMETERS
    fold_host: bool = True
    former_hosts: tuple[str, ...] = ()  # former hosts, whose addresses count as those of today
    slash: Slash = "seen"
    separate: tuple[str, ...] = ()  # addresses that are never merged
    left_out: tuple[str, ...] = ()
    page_types: tuple[PageType, ...] = ()
    query_groups: tuple[QueryGroup, ...] = ()
    own_networks: tuple[str, ...] = ()  # the site's own people: 192.0.2.0/24
    language: str = "english"  # language of the stems (wording.LANGUAGES)
    search_hosts: tuple[str, ...] = field(default=(r"^(www\.)?search\.",))
    crawlers: tuple[str, ...] = ()  # names of search engine crawlers in access logs


def fold(pages: pl.DataFrame, site_address: str, rules: Rules, crawled: pl.DataFrame | None = None) -> pl.DataFrame:
    """Where each page's facts count.

    `pages`: id, text (absolute addresses). `crawled`: address, points_to (its canonical link or redirect; null for none).
    Returns id, counts_as (the smallest id of those merged into one; LEFT_OUT), folded (the address they merge into),
    reasons (list of words; empty where the address is unchanged).
    """
    own = parts(normal(site_address))
    excluded = pages.select(matches(pl.col("text"), rules.separate)).to_series()
    separate = pages["text"].is_in(pages["text"].filter(excluded).implode())
    plain = pages.select(pl.col("text").str.contains(_PLAIN) & ~pl.col("text").str.contains(_DOTS)).to_series()
    drop = re.compile("|".join(translate(name.lower()) for name in rules.drop_parameters) or r"(?!)")
    odd = pages.filter(~plain & ~separate)
    bared = [bare(text, drop) for text in odd["text"]]
    kinds: dict[str, pl.DataType] = {"id": pages.schema["id"], "bared": pl.String(), "reasons": pl.List(pl.String())}
    by_id = pl.DataFrame(
        {"id": odd["id"], "bared": [text for text, _ in bared], "reasons": [why for _, why in bared]}, schema=kinds
    )
    rows = (
        pages.with_columns(separate=separate)
        .join(by_id, on="id", how="left", maintain_order="left")
        .with_columns(pl.coalesce("bared", "text").alias("folded"), pl.col("reasons").fill_null([]))
    )
    if rules.fold_host and own.host:
        rows = _with_reason(rows, _own_host(own, own.host), "host or scheme")
    for former in rules.former_hosts:
        rows = _with_reason(rows, _own_host(own, former), "former host")
    rows = _fold_slash(rows, rules.slash, crawled)
    left_out = matches(pl.col("folded"), rules.left_out)
    return rows.select(
        "id",
        pl.when(left_out)
        .then(LEFT_OUT)
        .otherwise(pl.col("id").min().over("folded"))
        .cast(pages.schema["id"])
        .alias("counts_as"),
        "folded",
        "reasons",
    )


def bare(text: str, drop: re.Pattern[str]) -> tuple[str, list[str]]:
    """The address in normal form without fragment, without parameters whose names match `drop`, the rest sorted."""
    reasons = []
    values = parts(normal(_SESSION_IN_PATH.sub("", text)))
    if str(values) != text.strip():
        reasons.append("spelling")
    query = values.query
    if values.fragment is not None:
        reasons.append("fragment")
    if query is not None:
        pieces = [piece for piece in query.split("&") if piece]
        remaining = [piece for piece in pieces if not drop.match(piece.partition("=")[0].lower())]
        if len(remaining) < len(pieces):
            reasons.append("parameters")
        if remaining != sorted(remaining, key=_name):
            reasons.append("order of parameters")
        query = "&".join(sorted(remaining, key=_name)) or None
    return str(Address(values.scheme, values.authority, values.path, query, None)), reasons


def _name(piece: str) -> str:
    return piece.partition("=")[0]


def _own_host(own: Address, host: str) -> pl.Expr:
    """The address on the site's own host, where it is on `host` or its www variant."""
    bare_host = re.escape(host.removeprefix("www."))
    return pl.col("folded").str.replace(rf"^https?://(?:www\.)?{bare_host}/", f"{own.scheme}://{own.authority}/")


def _with_reason(rows: pl.DataFrame, to: pl.Expr, reason: str) -> pl.DataFrame:
    """Set `folded` to `to` where the address is not kept separate; add the reason where that changes it."""
    rows = rows.with_columns(to=pl.when("separate").then(pl.col("folded")).otherwise(to))
    changed = pl.col("to") != pl.col("folded")
    return rows.with_columns(
        pl.when(changed).then(pl.col("reasons").list.concat(pl.lit([reason]))).otherwise("reasons").alias("reasons"),
        pl.col("to").alias("folded"),
    ).drop("to")


def _fold_slash(rows: pl.DataFrame, slash: Slash, crawled: pl.DataFrame | None) -> pl.DataFrame:
    if slash == "separate" or rows.is_empty():
        return rows
    # Path and query are computed once: as expressions they would be evaluated for each use, a gigabyte for a million
    # addresses.
    cut = rows.with_columns(
        _path=pl.col("folded").str.extract(r"^([^?]*)"), _query=pl.col("folded").str.extract(r"(\?.*)$").fill_null("")
    )
    path = pl.col("_path")
    at_root = path.str.count_matches("/", literal=True) <= 3
    may = ~path.str.contains(_FILE_NAME) & ~(at_root & path.str.ends_with("/"))
    # The normal form of `http://shop.example` is `http://shop.example/`, so there is always a path.
    robots = cut.with_columns(
        _may=may & path.str.contains(r"^https?://[^/]+/"), _without=path.str.strip_suffix("/"), _ending=path.str.ends_with("/")
    ).drop("_path")
    if slash == "seen":
        most = bool(robots.filter("_may").select((pl.col("_ending").mean() >= 0.5).fill_null(True)).item())
        # Not with n_unique, which takes 4 KB a group.
        both = pl.col("_ending").any().over("_without", "_query") & ~pl.col("_ending").all().over("_without", "_query")
        robots = robots.join(_crawl_says(crawled), on="_without", how="left", maintain_order="left")
        wants = pl.col("_crawl_ending").fill_null(most)
        robots = robots.with_columns(_may=pl.col("_may") & (both | pl.col("_crawl_ending").is_not_null()), _wants=wants)
    else:
        robots = robots.with_columns(_wants=pl.lit(slash == "with"))
    to = (
        pl.when(~pl.col("_may"))
        .then(pl.col("folded"))
        .otherwise(pl.col("_without") + pl.when("_wants").then(pl.lit("/")).otherwise(pl.lit("")) + pl.col("_query"))
    )
    return _with_reason(robots, to, "trailing slash").drop(
        "_may", "_without", "_ending", "_query", "_wants", "_crawl_ending", strict=False
    )


def _crawl_says(crawled: pl.DataFrame | None) -> pl.DataFrame:
    """For addresses whose crawled canonical differs only by the slash: whether it has one."""
    if crawled is None:
        return pl.DataFrame(schema={"_without": pl.String, "_crawl_ending": pl.Boolean})
    bare_from, bare_to = (pl.col(name).str.strip_suffix("/") for name in ("address", "points_to"))
    pointing = crawled.filter(pl.col("points_to").is_not_null(), bare_from == bare_to)
    return pointing.group_by(bare_from.alias("_without")).agg(
        pl.col("points_to").str.ends_with("/").last().alias("_crawl_ending")
    )


def page_types(pages: pl.DataFrame, types: Sequence[PageType], structured: pl.DataFrame | None = None) -> pl.DataFrame:
    """The type of each page: the first of `types` whose patterns or structured data match; null where none does.

    `pages`: text. `structured`: text, structured_data (list of kinds). Returns pages with `type`.
    """
    if structured is None:
        structured = pl.DataFrame(schema={"text": pl.String, "structured_data": pl.List(pl.String)})
    known = pages.join(structured, on="text", how="left", maintain_order="left")
    found: pl.Expr = pl.lit(None, dtype=pl.String)
    for page_type in reversed(types):
        says = matches(pl.col("text"), page_type.patterns) | pl.col("structured_data").list.set_intersection(
            pl.lit(list(page_type.structured_data), dtype=pl.List(pl.String))
        ).list.len().fill_null(0).gt(0)
        found = pl.when(says).then(pl.lit(page_type.name)).otherwise(found)
    return known.with_columns(type=found).drop("structured_data")


def query_groups(texts: pl.DataFrame, groups: Sequence[QueryGroup]) -> pl.DataFrame:
    """The groups of each query (it may be in several): `texts` (text) with `groups`, a list of names."""
    named = [pl.when(matches(pl.col("text"), group.patterns)).then(pl.lit(group.name)) for group in groups]
    rows = pl.concat_list(named).list.drop_nulls() if named else pl.lit([], dtype=pl.List(pl.String))
    return texts.with_columns(groups=rows)
