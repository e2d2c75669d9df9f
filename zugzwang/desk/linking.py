"""Links to a page – from pages of the site, as its crawl saw them, and from other sites – and its own to pages of the site."""

from functools import lru_cache
from typing import Any

import polars as pl

from zugzwang.core.grains import CRAWL_LINKS, LINKS
from zugzwang.desk import cleaning, frames
from zugzwang.store.blocks import read_facts
from zugzwang.store.models import Page, Site

ANCHORS, SOURCES = 5, 5


def tell_links(site_id: int, version: int, page: int) -> dict[str, Any] | None:
    """Links in (by how many pages, how many of them in their main text, with which words, from which pages), links out, and how
    many other sites link to it (None: not loaded). None where no crawl tells links."""
    links = inner_links(site_id, version)
    if links.is_empty():
        return None
    into = links.filter(pl.col("target") == str(page), pl.col("source") != str(page))
    out = links.filter(pl.col("source") == str(page), pl.col("target") != str(page))
    sources = pl.col("source").n_unique()
    anchors = into.filter(pl.col("anchor") != "").group_by("anchor").agg(pages=sources)
    in_body = into.filter(pl.col("in_body"))
    named = in_body.sort("source").unique("source", keep="first", maintain_order=True).head(SOURCES)
    others = linking_sites(site_id, version)
    return {
        "pages_in": into["source"].n_unique(),
        "pages_in_body": in_body["source"].n_unique(),
        "anchors": anchors.sort("pages", "anchor", descending=[True, False]).head(ANCHORS).to_dicts(),
        "from_body": named["from_address"].to_list(),
        "pages_out": out["target"].n_unique(),
        "sites": None if others is None else others.get(page, 0),
    }


@lru_cache(maxsize=2)
def inner_links(site_id: int, version: int) -> pl.DataFrame:
    """The crawl's links: source and target – the page that an address counts as, by its id as text, or the address where search
    never showed it –, from_address, anchor, in_body."""
    known = _page_of(site_id, version)
    links = read_facts(Site(id=site_id), CRAWL_LINKS)
    for side, name in (("from_address", "source"), ("to_address", "target")):
        found = known.select(pl.col("text").alias(side), pl.col("page").cast(pl.String).alias(name))
        links = links.join(found, on=side, how="left").with_columns(pl.col(name).fill_null(pl.col(side)))
    return links.select("source", "target", "from_address", "anchor", "in_body")


def _page_of(site_id: int, version: int) -> pl.DataFrame:
    """The page that each known address counts as: text, page; by its own text and by that of the page it folds into."""
    own = frames.texts(site_id, version, Page).select("text", page="id")
    folded = frames.page_facets(site_id, version).select(text="address", page="page")
    counted = cleaning.cleaned(own, cleaning.page_map(site_id, version))
    both = (one.select("text", pl.col("page").cast(pl.UInt32)) for one in (folded, counted))
    return pl.concat(both).unique("text", keep="first")


@lru_cache(maxsize=2)
def linking_sites(site_id: int, version: int) -> dict[int, int] | None:
    """How many other sites link to each page; None where the site has no links loaded."""
    links = cleaning.cleaned(read_facts(Site(id=site_id), LINKS), cleaning.page_map(site_id, version))
    if links.is_empty():
        return None
    host = pl.col("from_address").str.extract(r"^https?://(?:www\.)?([^/:?#]+)")
    return dict(links.group_by("page").agg(host.n_unique().alias("sites")).iter_rows())
