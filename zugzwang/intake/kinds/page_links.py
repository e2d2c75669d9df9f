"""Links within the site."""

import polars as pl

from zugzwang.core.facts.grains import PAGE_LINKS
from zugzwang.core.words.sentences import few
from zugzwang.data.blocks import read_facts
from zugzwang.data.models import Site
from zugzwang.intake.kinds.kind import LINKED_WORDS, LINKING_WORDS, Field, Kind, Making
from zugzwang.intake.kinds.making import absolute_addresses, is_inner, know_pages, links

ENDS = ("from_address", "to_address")


def _rows(rows: pl.DataFrame, making: Making) -> pl.DataFrame:
    """Links from the site's own pages, with absolute addresses."""
    rows = rows.with_columns(absolute_addresses(making.site, rows[name].cast(pl.String)).alias(name) for name in ENDS)
    inner = rows.filter(is_inner(making.site, "from_address"))
    making.made.of_other_sites = rows.height - inner.height
    if making.keep:
        know_pages(making.site, pl.concat([inner[name] for name in ENDS]))
    return links(inner, making)


def _says(site: Site) -> str:
    rows = read_facts(site, PAGE_LINKS, columns=["from_address", "to_address"])
    return f"{few(rows.height, 'link', 'links')} on {few(rows['from_address'].n_unique(), 'page', 'pages')}."


KIND = Kind(
    name="page-links",
    title="Links within the site",
    holds="which page links to which, with anchor text and location",
    needed="a table of internal links",
    order=90,
    grains=(PAGE_LINKS,),
    fields=(
        Field("from_address", "text", LINKING_WORDS, required=True, concept="linking", says="linking page"),
        Field("to_address", "text", LINKED_WORDS, required=True, concept="linked"),
        Field("anchor", "text", ("anchor", "anchor text", "link text", "text")),
        Field(
            "in_body", "placement", ("link position", "position in page", "placement", "link location", "in body", "position")
        ),
        Field("followed", "yes", ("followed", "follow", "dofollow", "link type", "rel")),
        Field("not_followed", "yes", ("nofollow", "no follow")),
    ),
    telling=("from_address", "anchor", "followed"),
    rows=_rows,
    says=_says,
    notes={
        "in_body": "where it is: content, navigation, footer …",
        "": "Internal links; distinguished from links of other sites by the hosts that they are on",
    },
)  # fmt: skip
