"""The queries of topics, with the site's best page for each."""

from typing import Any

import polars as pl

from zugzwang.core.facts.periods import DAYS_A_MONTH
from zugzwang.core.pages.fit import FITS
from zugzwang.core.topics.intent import INTENTS
from zugzwang.core.words import topic_sentences
from zugzwang.data.topics import topic_names, topics_of
from zugzwang.findings.columns import PART, POSITIONS
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.topics import SEARCHES, intents
from zugzwang.findings.view import View


def find_queries(view: View) -> Found:
    """Every query of a topic, by topic and searches; page: the site's page with the most impressions."""
    snapshot = view.snapshot
    current = topics_of(snapshot).queries
    rows = snapshot.facts.sums(view.period, by=snapshot.facts.finest(view.period))
    most = rows.sort("impressions", "page", descending=[True, False]).unique("query", keep="first", maintain_order=True)
    most = most.select("query", page=pl.when(pl.col("page") > 0).then(pl.col("page")))
    sums = rows.group_by("query").agg(
        clicks=pl.col("clicks").sum() * DAYS_A_MONTH / view.period.days,
        position=(pl.col("position") * pl.col("impressions")).sum() / pl.col("impressions").sum(),
    )
    frame = current.join(most, on="query", how="left", maintain_order="left")
    frame = frame.join(sums, on="query", how="left", maintain_order="left").with_columns(topic_id=pl.col("topic"))
    names = topic_names(snapshot)
    wanted = {query: (words or shown or (None,))[0] for query, (words, shown) in intents(snapshot).items()}
    size = pl.coalesce("searches", "shown").sum().over("topic_id")
    frame = frame.with_columns(
        topic=pl.col("topic_id").replace_strict(names, default=None, return_dtype=pl.String),
        intent=pl.col("query").replace_strict(wanted, default=None, return_dtype=pl.String)
        if wanted
        else pl.lit(None, pl.String),
    )
    return Found(frame.sort(size, descending=True, maintain_order=True), {"queries": frame.height})


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    return topic_sentences.topics(rows["topic_id"].n_unique(), rows.height, 0, [])[:1]


def _fits(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """The fit of the page with the most impressions."""
    ours = rows.select("page", "query").drop_nulls()
    fits = view.snapshot.pages.fits(ours).select("page", "query", "fit")
    return rows.join(fits, on=["page", "query"], how="left", maintain_order="left")


TOPIC_QUERIES = Finding(
    name="topic-queries",
    place=("topics", 3),
    title="Topic queries",
    question="Which queries belong to a topic, and which of your pages rank for them?",
    method="topics",
    claims=("query", "queries"),
    makes=PART,
    chooses=("text", "query_group", "topic", *POSITIONS),
    columns=(
        Column("query", "query", "query", "query", shown="list"),
        Column("topic", "text", "topic", "topic of its queries", shown="extra", low=True),
        Column("topic_id", "count", ""),
        SEARCHES,
        Column("shown", "amount", "impressions", "impressions of your pages", "times a month", "list"),
        Column("page", "page", "your page", "your page with the most impressions for it", shown="list", null=True),
        Column("position", "position", "position", "where it ranks", shown="list", null=True, low=True),
        Column("clicks", "amount", "clicks", "clicks of your pages", "a month", "list", null=True),
        Column("fit", "word", "fit", "how well the page covers the query", shown="extra", null=True, choices=FITS, late=True),
        Column("intent", "word", "intent", "what most searchers look for", shown="extra", null=True, choices=INTENTS, low=True),
    ),
    find=find_queries,
    says=_says,
    dress=_fits,
    plan=True,
    key=("query",),
)  # fmt: skip
