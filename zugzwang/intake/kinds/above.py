"""Competing pages: the text of other sites' pages on SERPs, fetched by the crawler."""

import polars as pl

from zugzwang.core.facts.grains import ABOVE
from zugzwang.core.words import sentences
from zugzwang.core.words.sentences import few
from zugzwang.data.blocks import read_facts
from zugzwang.data.models import Site
from zugzwang.intake.kinds.kind import Kind


def _says(site: Site) -> str:
    rows = read_facts(site, ABOVE, columns=["fetched", "status"])
    good, last = int((rows["status"] == 200).sum()), sentences.day(rows.select(pl.max("fetched")).item())
    return f"{few(good, 'page', 'pages')} of others that could be read, the newest fetched on {last}."


KIND = Kind(
    name="above",
    title="Competing pages",
    holds="the text of competing pages",
    needed="the text of competing pages",
    order=100,
    grains=(ABOVE,),
    says=_says,
    served=False,
)  # fmt: skip
