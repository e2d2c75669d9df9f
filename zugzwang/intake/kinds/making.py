"""How rows of a file become rows of a grain: what several kinds share."""

import ipaddress
from collections.abc import Sequence

import polars as pl

from zugzwang.core.facts.addresses import normal, resolve
from zugzwang.core.facts.grains import NOT_REPORTED, Grain
from zugzwang.core.words.sentences import few
from zugzwang.data.blocks import read_facts
from zugzwang.data.dictionary import ids_for
from zugzwang.data.models import Page, Site
from zugzwang.data.rules import bare_host, hosts_of
from zugzwang.intake.kinds.kind import Making

GONE = 400  # the first status that means missing


def filled(rows: pl.DataFrame, making: Making) -> pl.DataFrame:
    """The rows in the columns of the grain; missing fields are "not reported": 0 for device and country, otherwise null."""
    lacking = {
        name: pl.lit(NOT_REPORTED if name in ("device", "country") else None, dtype=kind)
        for name, kind in making.made.grain.schema.items()
        if name not in rows.columns
    }
    return rows.with_columns(**lacking).select(pl.col(name).cast(kind) for name, kind in making.made.grain.schema.items())


def know_pages(site: Site, addresses: pl.Series, crawled: pl.DataFrame | None = None) -> None:
    """Add addresses on the site's own host to the dictionary, so a page counts as one whether or not search has shown it.
    Missing pages among `crawled` (address, status) are left out.
    """
    if crawled is not None and "status" in crawled.columns:
        gone = crawled.filter(pl.col("status").cast(pl.Int32, strict=False) >= GONE)["address"]
        addresses = addresses.filter(~addresses.is_in(gone.implode()))
    own = addresses.drop_nulls().unique(maintain_order=True)
    ids_for(site, Page, own.filter(own.to_frame("address").select(is_inner(site, "address")).to_series()))


def is_inner(site: Site, name: str) -> pl.Expr:
    """Whether an address is the site's own."""
    owns = [bare_host(host) for host in hosts_of(site)]
    address = pl.col(name).cast(pl.String)
    host = address.str.extract(r"(?i)^(?:https?://)?(?:www\.)?([^/:?#]+)").str.to_lowercase()
    at_own = pl.any_horizontal((host == own) | host.str.ends_with(f".{own}") for own in owns)
    return (at_own | address.str.starts_with("/")).fill_null(False)


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


def absolute_addresses(site: Site, texts: pl.Series) -> pl.Series:
    """Addresses as absolute addresses in normal form without fragment; each distinct one is handled once."""
    different = texts.drop_nulls().unique()
    result = [normal(absolute(site, text)).partition("#")[0] for text in different.to_list()]
    return texts.replace_strict(different, pl.Series(result, dtype=pl.String), default=None, return_dtype=pl.String)


def absolute(site: Site, text: str) -> str:
    if text.lower().startswith(("http://", "https://")):
        return text
    host = site.address.split("//", 1)[-1].split("/", 1)[0].removeprefix("www.")
    if text.removeprefix("www.").startswith(host):
        return normal(f"{site.address.split('//', 1)[0]}//{text}")
    return resolve(normal(site.address), text if text.startswith("/") else f"/{text}")


def links(rows: pl.DataFrame, making: Making) -> pl.DataFrame:
    if "not_followed" in rows.columns and "followed" not in rows.columns:
        rows = rows.with_columns(followed=~pl.col("not_followed"))
    return filled(rows, making)


def of_any_address(rows: pl.DataFrame, making: Making) -> pl.DataFrame:
    """Rows with addresses of any site in normal form, so they match those of SERPs."""
    addresses = rows["address"].cast(pl.String)
    different = addresses.unique()
    frame = pl.Series([_plain_address(one) for one in different.to_list()], dtype=pl.String)
    rows = rows.with_columns(address=addresses.replace_strict(different, frame, return_dtype=pl.String))
    if "query" in rows.columns:
        rows = rows.with_columns(pl.col("query").cast(pl.String))
    return filled(rows, making)


def _plain_address(text: str) -> str:
    """An address in normal form, with a scheme added where it has none."""
    return normal(text if "://" in text else f"https://{text}").partition("#")[0]


def of_any_pages(site: Site, grain: Grain) -> str:
    """How many pages of any site a table has, in a sentence."""
    addresses = read_facts(site, grain, columns=["address"])["address"].n_unique()
    return f"Of {few(addresses, 'page', 'pages')} of any site."
