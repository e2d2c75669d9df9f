"""SERP captures."""

import polars as pl

from zugzwang.core.facts.grains import RESULTS
from zugzwang.core.words import sentences
from zugzwang.core.words.sentences import few
from zugzwang.data.blocks import read_facts
from zugzwang.data.models import Site
from zugzwang.intake.kinds.kind import COUNTRY, DAY_WORDS, DEVICE, QUERY_WORDS, Field, Kind
from zugzwang.intake.kinds.making import filled


def _says(site: Site) -> str:
    rows = read_facts(site, RESULTS, columns=["query", "captured"])
    newest = sentences.day(rows.select(pl.max("captured")).item())
    return f"{few(rows['query'].n_unique(), 'query', 'queries')}, the newest captured on {newest}."


KIND = Kind(
    name="results",
    title="SERP captures",
    holds="the SERP of a query, from top to bottom",
    needed="SERP captures",
    order=60,
    grains=(RESULTS,),
    fields=(
        Field("query", "query", QUERY_WORDS, required=True),
        COUNTRY,
        DEVICE,
        Field("captured", "day", ("captured", "captured on", "capture date", "checked on", *DAY_WORDS), required=True),
        Field("rank", "whole", ("rank", "place", "block rank", "block place", "position", "order"), required=True, least=1),
        Field("block", "text", ("block", "block kind", "type", "feature", "kind"), required=True),
        Field("kind", "text", ("answer kind", "box kind", "kind", "subtype")),
        Field("height_px", "whole", ("height px", "height", "pixels", "height in pixels")),
        Field("title", "text", ("title", "result title", "heading")),
        Field("address", "text", ("address", "url", "link", "page", "result url", "source url")),
        Field("snippet", "text", ("snippet", "description", "text", "result text")),
    ),
    telling=("captured", "block", "rank", "snippet"),
    rows=filled,
    says=_says,
    notes={
        "rank": "1 is uppermost; `place` and `position` are read too",
        "kind": "of a featured snippet: paragraph, list, table, video, expandable",
        "address": "of a featured snippet: its source",
    },
)  # fmt: skip
