"""The tables of facts, one for each grain: columns, keys, and how duplicates are united.

Search facts come in four grains (page × query, page, query, the whole day). They do not add up to each other, because
search engines withhold rare queries. So each grain is stored as loaded, and what is withheld is reported as the difference
(`withheld`), never invented. Device and country are 0 where the data do not have them.

Totals of a span – several days added up, as most exports hold them – are separate tables: the same columns with the span's
`first` and `last` day instead of `day` (`OF_SPANS`). Totals of two spans are never summed.

Visit facts are described in visits.py. Tables without days (backlinks, volumes, SERPs, a crawl) have one row for each key;
of duplicates the later row counts.
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace

import polars as pl

from zugzwang.core.facts.search import pair_key, sums

Source = str  # the name of a kind of table; each is declared in intake/kinds
SOURCES: list[Source] = []  # all kinds in order
SERVED: list[Source] = ["text"]  # those that a service can provide
TEXT_SERVICE = "text"  # provides no data, only text (core.drafts.help)

DEVICES = ("", "desktop", "mobile", "tablet", "other")  # stored by their index; 0 is "not reported"
NOT_REPORTED = 0


SPAN = ("first", "last")


@dataclass(frozen=True)
class Grain:
    """One table of facts: `schema` in the order of columns, `key` the columns that identify a row, `when` the columns with a
    row's days; empty for tables without days.
    """

    name: str
    source: Source
    schema: pl.Schema
    key: tuple[str, ...]
    when: tuple[str, ...] = ("day",)

    @property
    def dated(self) -> bool:
        return self.when == ("day",)

    @property
    def spanned(self) -> bool:
        return self.when == SPAN

    @property
    def is_search(self) -> bool:
        return self.source == "search"


def _search(name: str, *things: str) -> Grain:
    ids = {thing: pl.UInt32() for thing in things}
    split = {"device": pl.UInt8(), "country": pl.UInt16()}
    measures = {"clicks": pl.UInt32(), "impressions": pl.UInt32(), "position": pl.Float64()}
    return Grain(name, "search", pl.Schema({"day": pl.Date(), **ids, **split, **measures}), (*things, "day", *split))


PAGE_QUERY = _search("page × query", "page", "query")
PAGE = _search("page", "page")
QUERY = _search("query", "query")
DAY = _search("day")
SEARCH_GRAINS = (PAGE_QUERY, PAGE, QUERY, DAY)

VISITS = Grain(
    "visits",
    "visits",
    pl.Schema(
        {
            "day": pl.Date(),
            "page": pl.UInt32(),
            "channel": pl.UInt8(),
            "sessions": pl.UInt32(),
            "users": pl.UInt32(),  # of the day; people on two days may be the same
            "bounces": pl.UInt32(),
            "seconds": pl.Float64(),
            "conversions": pl.Float64(),
            "value": pl.Float64(),
        }
    ),
    ("page", "day", "channel"),
)
VISIT_MEASURES = ("sessions", "users", "bounces", "seconds", "conversions", "value")

LINKS = Grain(
    "links",
    "links",
    pl.Schema(
        {
            "from_address": pl.String(),
            "page": pl.UInt32(),
            "anchor": pl.String(),
            "followed": pl.Boolean(),
            "first_seen": pl.Date(),
            "last_seen": pl.Date(),
        }
    ),
    ("from_address", "page", "anchor"),
    when=(),
)
VOLUMES = Grain(
    "volumes",
    "volumes",
    pl.Schema(
        {
            "query": pl.UInt32(),
            "country": pl.UInt16(),
            "month": pl.Date(),  # null: the yearly average
            "searches": pl.UInt32(),
            "price_per_click": pl.Float64(),
            "rough": pl.Boolean(),  # whether the volume was given as a range
        }
    ),
    ("query", "country", "month"),
    when=(),
)
RESULTS = Grain(
    "results",
    "results",
    pl.Schema(
        {
            "query": pl.UInt32(),
            "country": pl.UInt16(),
            "device": pl.UInt8(),
            "captured": pl.Date(),
            "rank": pl.UInt16(),  # 1 is the topmost block of the page
            "block": pl.String(),
            "kind": pl.String(),  # of a featured snippet: paragraph, list, table …
            "height_px": pl.UInt32(),
            "title": pl.String(),
            "address": pl.String(),
            "snippet": pl.String(),
        }
    ),
    ("query", "country", "device", "captured", "rank"),
    when=(),
)
# Referring domains and backlinks of any address, the site's own or another site's.
STRENGTHS = Grain(
    "strengths",
    "strengths",
    pl.Schema({"address": pl.String(), "referring_domains": pl.UInt32(), "links": pl.UInt32()}),
    ("address",),
    when=(),
)
# Queries that bring visits to any page.
PAGE_QUERIES = Grain(
    "page queries",
    "page-queries",
    pl.Schema(
        {
            "address": pl.String(),
            "query": pl.String(),
            "position": pl.Float64(),
            "searches": pl.UInt32(),
            "share": pl.Float64(),  # of the page's visits, 0…1
            "visits": pl.Float64(),
        }
    ),
    ("address", "query"),
    when=(),
)
CRAWL_PAGES = Grain(
    "crawl pages",
    "crawl",
    pl.Schema(
        {
            "address": pl.String(),
            "status": pl.UInt16(),
            "redirect_to": pl.String(),
            "canonical": pl.String(),
            "robots": pl.String(),
            "title": pl.String(),
            "description": pl.String(),
            "headings": pl.List(pl.String()),  # in order, each as "h2 Its words"
            "titles": pl.UInt16(),  # number of title elements; null: not reported
            "descriptions": pl.UInt16(),
            "content": pl.String(),  # the page's content, in pieces (core.pages.content)
            "main_text": pl.String(),
            "words": pl.UInt32(),
            "images": pl.UInt32(),
            "images_without_text": pl.UInt32(),
            "structured_data": pl.List(pl.String()),
            "depth": pl.UInt16(),  # click depth from the crawl's start; null: found only in a sitemap
            "problem": pl.String(),
        }
    ),
    ("address",),
    when=(),
)
# Other sites' pages from SERPs, fetched once and read like the site's own.
ABOVE = Grain(
    "pages above",
    "above",
    pl.Schema({**{name: kind for name, kind in CRAWL_PAGES.schema.items() if name != "depth"}, "fetched": pl.Date()}),
    ("address",),
    when=(),
)
CRAWL_LINKS = Grain(
    "crawl links",
    "crawl",
    pl.Schema(
        {
            "from_address": pl.String(),
            "to_address": pl.String(),
            "anchor": pl.String(),
            "in_body": pl.Boolean(),
            "followed": pl.Boolean(),
        }
    ),
    ("from_address", "to_address", "anchor", "in_body"),
    when=(),
)
# Internal links from a loaded table.
PAGE_LINKS = replace(CRAWL_LINKS, name="page links", source="page-links")


def _of_spans(grain: Grain) -> Grain:
    """The table of span totals for a dated one."""
    ends = dict.fromkeys(SPAN, pl.Date())
    schema = pl.Schema({**ends, **{name: kind for name, kind in grain.schema.items() if name != "day"}})
    key = tuple(name for name in grain.key if name != "day")
    return Grain(f"{grain.name}, span", grain.source, schema, (*SPAN, *key), SPAN)


OF_SPANS = {grain.name: _of_spans(grain) for grain in (*SEARCH_GRAINS, VISITS)}
GRAINS = {
    grain.name: grain
    for grain in (
        *SEARCH_GRAINS, VISITS, *OF_SPANS.values(), LINKS, VOLUMES, RESULTS, STRENGTHS, PAGE_QUERIES, CRAWL_PAGES, ABOVE,
        CRAWL_LINKS, PAGE_LINKS,
    )
}  # fmt: skip


def declare(source: Source, tables: Iterable[Grain], served: bool) -> None:
    """Make a kind of table known, with its tables that no rule needs."""
    GRAINS.update((grain.name, grain) for grain in tables)
    SOURCES.append(source)
    if served:
        SERVED.insert(-1, source)


def grain_of(fields: frozenset[str] | set[str]) -> Grain:
    """The search grain of a file with these fields."""
    if "page" in fields:
        return PAGE_QUERY if "query" in fields else PAGE
    return QUERY if "query" in fields else DAY


def in_order(facts: pl.DataFrame, grain: Grain) -> pl.DataFrame:
    """The rows sorted by the grain's key."""
    if grain is not PAGE_QUERY or _is_split(facts):
        return facts.sort(grain.key, maintain_order=not grain.dated)
    # Most loads come here, and two stable sorts by one number each take half the time of one by three columns.
    by_day = facts if facts["day"].is_sorted() else facts.sort("day")
    return by_day.with_columns(key=pair_key()).sort("key", maintain_order=True).drop("key")


def unite_repeats(facts: pl.DataFrame, grain: Grain) -> pl.DataFrame:
    """The rows sorted by the grain's key, with duplicates united: summed, or without days the later one kept."""
    if not grain.when:
        return facts.unique(grain.key, keep="last", maintain_order=True).sort(grain.key, maintain_order=True)
    facts = in_order(facts, grain)
    as_before = facts.select(
        pl.all_horizontal(pl.col(name) == pl.col(name).shift(1) for name in grain.key).fill_null(False)
    ).to_series()
    if not as_before.any():
        return facts
    # Grouping is slow and duplicates are rare, so only these are grouped.
    repeated = as_before | as_before.shift(-1).fill_null(False)
    added = sums() if grain.is_search else [known_sum(name) for name in VISIT_MEASURES]
    united = facts.filter(repeated).group_by(grain.key).agg(*added).select(facts.columns).cast(grain.schema)
    return in_order(pl.concat([facts.filter(~repeated), united]), grain)


def known_sum(name: str) -> pl.Expr:
    """The sum of the known values; null where none is known, because unknown is not 0."""
    return pl.when(pl.col(name).count() > 0).then(pl.col(name).sum()).alias(name)


def _is_split(facts: pl.DataFrame) -> bool:
    return any(bool((facts[name] != NOT_REPORTED).any()) for name in ("device", "country"))


def withheld(totals: pl.DataFrame, named: pl.DataFrame, by: list[str]) -> pl.DataFrame:
    """What named queries leave unexplained: totals minus their sums, by `by`; clicks and impressions.

    `totals`: facts of a coarser grain; `named`: facts of a finer one. Values of `by` that `totals` lacks are skipped. A
    negative difference (the two were loaded differently) stays: it shows that something is wrong.

    Example: a page with 50 clicks whose named queries have 32 of them leaves 18 to anonymised queries.
    """
    measures = ("clicks", "impressions")
    whole, parts = (facts.group_by(by).agg(pl.col(name).cast(pl.Int64).sum() for name in measures) for facts in (totals, named))
    both = whole.join(parts, on=by, how="left", suffix="_named").with_columns(
        pl.col(f"{name}_named").fill_null(0) for name in measures
    )
    return both.select(*by, *((pl.col(name) - pl.col(f"{name}_named")).alias(name) for name in measures)).sort(by)
