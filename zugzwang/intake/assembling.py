"""The good rows of a reading as tables of grains.py; missing values become "not reported"."""

import ipaddress
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import polars as pl

from zugzwang.core.facts.addresses import normal, resolve
from zugzwang.core.facts.grains import (
    CRAWL_PAGES,
    LINKS,
    NOT_REPORTED,
    OF_SPANS,
    PAGE_LINKS,
    PAGE_QUERIES,
    RESULTS,
    STRENGTHS,
    VISITS,
    VOLUMES,
    Grain,
    grain_of,
)
from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.visits import CHANNELS
from zugzwang.data.dictionary import ids_for
from zugzwang.data.models import Page, Query, Site
from zugzwang.data.rules import bare_host, hosts_of
from zugzwang.intake.checks import NAMES
from zugzwang.intake.reading import Reading
from zugzwang.intake.tables import ROW

NO_PAGE = ("(not set)", "not set", "(other)", "(entrance)")  # the names that visit data use for an unknown page
GONE = 400  # the first status that means missing
CTR_TOLERANCE = 0.0006  # a CTR written as 3.4 % or 0.034 is rounded by up to half of 0.1 %


@dataclass
class Assembled:
    """The rows of a file as one grain's table, and the number of rows left out."""

    grain: Grain
    rows: pl.DataFrame
    page_texts: pl.Series
    new_pages: int = 0
    never_shown: int = 0
    own_visits: int = 0
    ctr_differs: int = 0
    ctr_differs_first: int | None = None
    of_no_page: int = 0
    of_own_site: int = 0
    of_other_sites: int = 0


def assemble(
    site: Site,
    reading: Reading,
    good: pl.DataFrame,
    own_networks: Sequence[str],
    channel: str | None,
    span: Period | Literal["month"] | None,
    keep: bool,
) -> Assembled:
    """The `good` rows of a reading as a grain's table, with ids for the texts of pages and queries.

    `span`: the days that a table without days covers; "month": each row covers the month of its day. `keep` false: nothing
    is added to the dictionaries; new texts get ids that only this table knows.
    """
    page_texts, new_pages, of_no_page = pl.Series([], dtype=pl.String), 0, 0
    if reading.source == "visits":
        remaining = good.filter(~pl.col("page").cast(pl.String).str.to_lowercase().is_in(list(NO_PAGE)))
        good, of_no_page = remaining, good.height - remaining.height
    for name in NAMES:
        if name in good.columns and good.height and reading.source != "page-queries":
            good, texts, new = _with_ids(good, name, site, keep)
            if name == "page":
                page_texts, new_pages = texts, new
    makers: dict[str, Callable[[pl.DataFrame, Assembled], pl.DataFrame]] = {
        "search": _search,
        "visits": _visits,
        "crawl": _crawl,
        "links": _links,
        "volumes": _volumes,
        "results": _filled,
        "strengths": _of_any_address,
        "page-queries": _of_any_address,
        "page-links": _links,
    }
    grains = {
        "visits": VISITS, "crawl": CRAWL_PAGES, "links": LINKS, "volumes": VOLUMES, "results": RESULTS, "strengths": STRENGTHS,
        "page-queries": PAGE_QUERIES, "page-links": PAGE_LINKS,
    }  # fmt: skip
    if span is not None:
        good = _of_span(good, span)
    current = set(reading.mapping) & set(good.columns)
    grain = grain_of(current) if reading.source == "search" else grains[reading.source]
    if span is not None:
        grain = OF_SPANS[grain.name]
    made = Assembled(grain, grain.schema.to_frame(), page_texts, new_pages)
    made.of_no_page = of_no_page
    if reading.source == "visits":
        good = _without_own(good, own_networks, made)
        if channel and "channel" not in good.columns:
            good = good.with_columns(channel=pl.lit(CHANNELS.index(channel), dtype=pl.UInt8))
    if reading.source == "links":
        good = _without_inner(good, site, made)
    if reading.source in ("crawl", "page-links"):
        good = _of_own_addresses(good, site, reading.source, made, keep)
    made.rows = makers[reading.source](good, made)
    return made


def _of_own_addresses(
    rows: pl.DataFrame, site: Site, source: Literal["crawl", "page-links"], made: Assembled, keep: bool
) -> pl.DataFrame:
    """The rows of a crawl, or of internal links, with absolute addresses; `keep`: add these to the known pages."""
    for name in ("address",) if source == "crawl" else ("from_address", "to_address"):
        rows = rows.with_columns(_absolute_addresses(site, rows[name].cast(pl.String)).alias(name))
    if source == "page-links":
        rows = _without_outer(rows, site, made)
    if keep:
        ends = [rows[name] for name in ("address", "from_address", "to_address") if name in rows.columns]
        know_pages(site, pl.concat(ends), rows if source == "crawl" else None)
    return rows


def _of_span(rows: pl.DataFrame, span: Period | Literal["month"]) -> pl.DataFrame:
    """The rows with the first and last day that they cover instead of their day."""
    if span == "month":
        day = pl.col("day")
        return rows.with_columns(first=day.dt.month_start(), last=day.dt.month_end()).drop("day")
    return rows.with_columns(first=pl.lit(span.first), last=pl.lit(span.last))


def _search(rows: pl.DataFrame, made: Assembled) -> pl.DataFrame:
    if "position_sum" in rows.columns and "position" not in rows.columns:
        # Position sums count from 0 (common practice, no source).
        rows = rows.with_columns(position=pl.col("position_sum") / pl.col("impressions") + 1)
    shown = rows.filter(pl.col("impressions") > 0)
    made.never_shown = rows.height - shown.height
    if "ctr" in rows.columns:
        frame = shown.filter(pl.col("ctr").is_not_null())
        differs = frame.filter((pl.col("ctr") - pl.col("clicks") / pl.col("impressions")).abs() > CTR_TOLERANCE)
        made.ctr_differs = differs.height
        made.ctr_differs_first = differs[ROW][0] if differs.height else None
    return _filled(shown, made)


def _visits(rows: pl.DataFrame, made: Assembled) -> pl.DataFrame:
    """Bounces from engaged sessions or a rate, seconds from a mean, where a file has those instead."""
    sessions, current = pl.col("sessions"), set(rows.columns)
    if "bounces" not in current and "engaged" in current:
        rows = rows.with_columns(bounces=sessions - pl.col("engaged"))
    elif "bounces" not in current and "bounce_rate" in current:
        rows = rows.with_columns(bounces=(sessions * pl.col("bounce_rate")).round().cast(pl.Int64))
    if "seconds" not in current and "mean_seconds" in current:
        rows = rows.with_columns(seconds=sessions * pl.col("mean_seconds"))
    if "channel" in rows.columns:
        rows = rows.with_columns(pl.col("channel").fill_null(CHANNELS.index("other")))
    else:
        rows = rows.with_columns(channel=pl.lit(CHANNELS.index("other"), dtype=pl.UInt8))
    return _filled(rows, made)


def _without_own(rows: pl.DataFrame, own_networks: Sequence[str], made: Assembled) -> pl.DataFrame:
    if "network_address" not in rows.columns or not own_networks:
        return rows
    remaining = rows.filter(~is_own(rows["network_address"], own_networks))
    made.own_visits = rows.height - remaining.height
    return remaining


def know_pages(site: Site, addresses: pl.Series, crawled: pl.DataFrame | None = None) -> None:
    """Add addresses on the site's own host to the dictionary, so a page counts as one whether or not search has shown it.
    Missing pages among `crawled` (address, status) are left out.
    """
    if crawled is not None and "status" in crawled.columns:
        gone = crawled.filter(pl.col("status").cast(pl.Int32, strict=False) >= GONE)["address"]
        addresses = addresses.filter(~addresses.is_in(gone.implode()))
    own = addresses.drop_nulls().unique(maintain_order=True)
    ids_for(site, Page, own.filter(own.to_frame("address").select(_is_inner(site, "address")).to_series()))


def _is_inner(site: Site, name: str) -> pl.Expr:
    """Whether an address is the site's own."""
    owns = [bare_host(host) for host in hosts_of(site)]
    address = pl.col(name).cast(pl.String)
    host = address.str.extract(r"(?i)^(?:https?://)?(?:www\.)?([^/:?#]+)").str.to_lowercase()
    at_own = pl.any_horizontal((host == own) | host.str.ends_with(f".{own}") for own in owns)
    return (at_own | address.str.starts_with("/")).fill_null(False)


def _without_outer(rows: pl.DataFrame, site: Site, made: Assembled) -> pl.DataFrame:
    """Links from the site's own pages."""
    remaining = rows.filter(_is_inner(site, "from_address"))
    made.of_other_sites = rows.height - remaining.height
    return remaining


def _without_inner(rows: pl.DataFrame, site: Site, made: Assembled) -> pl.DataFrame:
    """Backlinks. Links between pages of the site belong to the crawl; here the site would count as its own referring domain."""
    remaining = rows.filter(~_is_inner(site, "from_address"))
    made.of_own_site = rows.height - remaining.height
    return remaining


def is_own(addresses: pl.Series, networks: Sequence[str]) -> pl.Series:
    """Which network addresses lie in one of the networks (CIDR); anything but a network address does not."""
    current = [ipaddress.ip_network(network, strict=False) for network in networks]

    def within(text: str | None) -> bool:
        try:
            address = ipaddress.ip_address((text or "").strip())
        except ValueError:
            return False
        return any(address.version == network.version and address in network for network in current)

    different = addresses.unique()
    flags = pl.Series([within(text) for text in different.to_list()], dtype=pl.Boolean)
    return addresses.replace_strict(different, flags, return_dtype=pl.Boolean)


def _crawl(rows: pl.DataFrame, made: Assembled) -> pl.DataFrame:
    if "heading" in rows.columns:
        heading = pl.concat_list(pl.concat_str(pl.lit("h1 "), "heading"))
        rows = rows.with_columns(headings=pl.when(pl.col("heading").is_not_null()).then(heading))
    if "robots" in rows.columns:
        # Some tables state in words whether a page is indexable.
        message = pl.col("robots").str.to_lowercase()
        in_words = (
            pl.when(message.str.contains(r"^non-?\s?indexable"))
            .then(pl.lit("noindex"))
            .when(message != "indexable")
            .then("robots")
        )
        rows = rows.with_columns(robots=in_words)
    return _filled(rows, made)


def _links(rows: pl.DataFrame, made: Assembled) -> pl.DataFrame:
    if "not_followed" in rows.columns and "followed" not in rows.columns:
        rows = rows.with_columns(followed=~pl.col("not_followed"))
    return _filled(rows, made)


def _volumes(rows: pl.DataFrame, made: Assembled) -> pl.DataFrame:
    if "month" in rows.columns:
        rows = rows.with_columns(pl.col("month").dt.month_start())
    return _filled(rows, made)


def _of_any_address(rows: pl.DataFrame, made: Assembled) -> pl.DataFrame:
    """Rows with addresses of any site in normal form, so they match those of SERPs."""
    addresses = rows["address"].cast(pl.String)
    different = addresses.unique()
    frame = pl.Series([_plain_address(one) for one in different.to_list()], dtype=pl.String)
    rows = rows.with_columns(address=addresses.replace_strict(different, frame, return_dtype=pl.String))
    if "query" in rows.columns:
        rows = rows.with_columns(pl.col("query").cast(pl.String))
    return _filled(rows, made)


def _plain_address(text: str) -> str:
    """An address in normal form, with a scheme added where it has none."""
    return normal(text if "://" in text else f"https://{text}").partition("#")[0]


def _filled(rows: pl.DataFrame, made: Assembled) -> pl.DataFrame:
    """The rows in the columns of the grain; missing fields are "not reported": 0 for device and country, otherwise null."""
    lacking = {
        name: pl.lit(NOT_REPORTED if name in ("device", "country") else None, dtype=kind)
        for name, kind in made.grain.schema.items()
        if name not in rows.columns
    }
    return rows.with_columns(**lacking).select(pl.col(name).cast(kind) for name, kind in made.grain.schema.items())


def _with_ids(rows: pl.DataFrame, name: str, site: Site, keep: bool) -> tuple[pl.DataFrame, pl.Series, int]:
    """The rows with ids instead of a column's texts, the distinct texts, and how many are new."""
    words = Page if name == "page" else Query
    code = rows[name].to_physical().to_numpy()
    used = np.flatnonzero(np.bincount(code)).astype(np.uint32)
    texts = pl.Series(used).cat.to(rows.schema[name]).cast(pl.String)
    if name == "page":
        texts = _absolute_pages(site, texts)
    different = texts.unique(maintain_order=True)
    ids, new = ids_for(site, words, different, keep)
    id_of_text = texts.replace_strict(different, ids, return_dtype=pl.UInt32)
    id_of_code = np.zeros(int(code.max()) + 1, dtype=np.uint32)
    id_of_code[used] = id_of_text.to_numpy()
    return rows.with_columns(pl.Series(name, id_of_code[code])), different, new


def _absolute_addresses(site: Site, texts: pl.Series) -> pl.Series:
    """Addresses as absolute addresses in normal form without fragment; each distinct one is handled once."""
    different = texts.drop_nulls().unique()
    result = [normal(_absolute(site, text)).partition("#")[0] for text in different.to_list()]
    return texts.replace_strict(different, pl.Series(result, dtype=pl.String), default=None, return_dtype=pl.String)


def _absolute_pages(site: Site, texts: pl.Series) -> pl.Series:
    """Addresses as absolute addresses: visit data and crawls often have only paths."""
    if texts.str.contains(r"(?i)^https?://").all():
        return texts
    return pl.Series([_absolute(site, text) for text in texts.to_list()], dtype=pl.String)


def _absolute(site: Site, text: str) -> str:
    if text.lower().startswith(("http://", "https://")):
        return text
    host = site.address.split("//", 1)[-1].split("/", 1)[0].removeprefix("www.")
    if text.removeprefix("www.").startswith(host):
        return normal(f"{site.address.split('//', 1)[0]}//{text}")
    return resolve(normal(site.address), text if text.startswith("/") else f"/{text}")
