"""Links from other sites."""

import polars as pl

from zugzwang.core.facts.grains import LINKS
from zugzwang.core.words.sentences import few
from zugzwang.data.blocks import read_facts
from zugzwang.data.models import Site
from zugzwang.intake.kinds.kind import LINKED_WORDS, LINKING_WORDS, Field, Kind, Making
from zugzwang.intake.kinds.making import is_inner, links


def _rows(rows: pl.DataFrame, making: Making) -> pl.DataFrame:
    """Links between pages of the site belong to the crawl; here the site would count as its own referring domain."""
    outer = rows.filter(~is_inner(making.site, "from_address"))
    making.made.of_own_site = rows.height - outer.height
    return links(outer, making)


def _says(site: Site) -> str:
    rows = read_facts(site, LINKS, columns=["page", "from_address"])
    hosts = rows["from_address"].str.extract(r"^https?://([^/]+)").n_unique()
    pages = few(rows["page"].n_unique(), "page", "pages")
    return f"{few(rows.height, 'link', 'links')} from {few(hosts, 'host', 'hosts')} to {pages}."


KIND = Kind(
    name="links",
    title="Links from other sites",
    holds="who links to which page, with which anchor text",
    needed="links from other sites",
    order=40,
    grains=(LINKS,),
    fields=(
        Field("from_address", "text", LINKING_WORDS, required=True, concept="linking", says="linking page"),
        Field("page", "page", LINKED_WORDS, required=True, concept="linked"),
        Field("anchor", "text", ("anchor", "anchor text", "link text", "text")),
        Field("followed", "yes", ("followed", "follow", "dofollow", "link type", "rel")),
        Field("not_followed", "yes", ("nofollow", "no follow")),
        Field("first_seen", "day", ("first seen", "found", "discovered", "first found")),
        Field("last_seen", "day", ("last seen", "last checked", "last found")),
    ),
    telling=("from_address", "anchor", "followed"),
    rows=_rows,
    says=_says,
)  # fmt: skip
