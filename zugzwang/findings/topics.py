"""Topics: what people search for around the site, when, the site's share, and what is missing."""

from collections import defaultdict
from datetime import date
from typing import Any

import numpy as np
import polars as pl

from zugzwang.core.clicks.headroom import Target
from zugzwang.core.facts.periods import DAYS_A_MONTH, Period
from zugzwang.core.pages.account import accounts
from zugzwang.core.topics.edits import Edit
from zugzwang.core.topics.intent import INTENTS, IntentFound, by_blocks, by_words, of_topic
from zugzwang.core.topics.season import Season, ready_by, season
from zugzwang.core.words import topic_sentences
from zugzwang.data.cache import cached
from zugzwang.data.models import Query
from zugzwang.data.snapshot import Setting, Snapshot
from zugzwang.data.topics import (
    MONTHS,
    has_months,
    monthly_impressions,
    monthly_volumes,
    queries_of_topics,
    query_graph,
    topic_edits,
    topic_names,
    topics_of,
)
from zugzwang.findings.columns import PART
from zugzwang.findings.competitor_queries import name_of
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.pages import page_entries
from zugzwang.findings.view import View, ViewOptions

HOSTS = 3
RESTS = ("SERPs", "ranking pages", "words only")
RESULTS_LEAST, SHOWN_LEAST = 0.1, 0.5  # of a topic's queries


@cached
def intents(snapshot: Snapshot) -> dict[int, tuple[IntentFound, IntentFound]]:
    """The intent of each query by its words and by its SERP; queries with neither are left out."""
    results = snapshot.serps.results()
    others = results.filter(~pl.col("own"), pl.col("address").is_not_null())["address"].unique().to_list()
    names = frozenset(name for name in map(name_of, [*others, f"{snapshot.site.address}/"]) if name)
    blocks = dict(results.group_by("query", maintain_order=True).agg("kind").iter_rows())
    queries = query_graph(snapshot).queries["query"]
    wanted = snapshot.names.known_texts(Query, queries).filter(pl.col("id").is_in(queries.implode()))
    measured: dict[int, tuple[IntentFound, IntentFound]] = {}
    for query, text in wanted.iter_rows():
        words, shown = by_words(text, names), by_blocks(blocks.get(query, ()))
        if words or shown:
            measured[query] = words, shown
    return measured


@cached
def described_topics(
    snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int, target: Target, edits: tuple[Edit, ...]
) -> pl.DataFrame:
    """Every topic with all its values, most searched first. `edits`: people's edits, which `topics_of` reads too."""
    current = topics_of(snapshot).queries
    texts = topic_names(snapshot)
    size = pl.coalesce("searches", "shown")
    sums = current.group_by("topic", maintain_order=True).agg(
        pl.len().alias("queries"), pl.col("searches").sum(), known=pl.col("searches").count(), size=size.sum()
    )
    rows = (
        sums.with_columns(searches=pl.when(pl.col("known") > 0).then(pl.col("searches")))
        .join(_ours(snapshot, period, current), on="topic", how="left", maintain_order="left")
        .join(
            _stakes(snapshot, period, setting, min_impressions, target, current), on="topic", how="left", maintain_order="left"
        )
        .join(_market(snapshot, period, current), on="topic", how="left", maintain_order="left")
        .join(_others(snapshot, current), on="topic", how="left", maintain_order="left")
        .join(_seasons(snapshot, current), on="topic", how="left", maintain_order="left")
        .join(_wanted(snapshot, current), on="topic", how="left", maintain_order="left")
        .join(_rests_on(snapshot, current), on="topic", how="left", maintain_order="left")
        .with_columns(pl.col("clicks", "pages", "opportunity_month").fill_null(0), topic_id=pl.col("topic"))
    )
    name = pl.col("topic_id").replace_strict(texts, default=None, return_dtype=pl.String)
    return rows.sort("size", descending=True, maintain_order=True).with_columns(topic=name)


def _ours(snapshot: Snapshot, period: Period, frame: pl.DataFrame) -> pl.DataFrame:
    """The site's figures for each topic: clicks (a month), pages, position (mean by impressions), share_won (of the known
    searches).
    """
    rows = snapshot.facts.sums(period, by=snapshot.facts.finest(period)).join(frame, on="query")
    months = period.days / DAYS_A_MONTH
    known = pl.col("searches").is_not_null()
    searched = frame.group_by("topic").agg(all_searches=pl.col("searches").sum())
    return (
        rows.group_by("topic")
        .agg(
            clicks=pl.col("clicks").sum() / months,
            pages=pl.col("page").filter(pl.col("page") > 0).n_unique(),
            position=(pl.col("position") * pl.col("impressions")).sum() / pl.col("impressions").sum(),
            won=pl.col("clicks").filter(known).sum() / months,
        )
        .join(searched, on="topic")
        .with_columns(
            share_won=pl.when(pl.col("all_searches") > 0).then((pl.col("won") / pl.col("all_searches")).clip(upper_bound=1))
        )
        .drop("won", "all_searches")
    )


def _stakes(
    snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int, target: Target, rows: pl.DataFrame
) -> pl.DataFrame:
    entries = page_entries(snapshot, period, setting, min_impressions, target).join(rows.select("query", "topic"), on="query")
    month = DAYS_A_MONTH / period.days
    return accounts(entries, "topic").select("topic", opportunity_month=pl.col("opportunity") * month)


def _market(snapshot: Snapshot, period: Period, rows: pl.DataFrame) -> pl.DataFrame:
    """The topic's cost per click, weighted by searches."""
    volumes = snapshot.facts.searches(period)
    if volumes is None:
        return pl.DataFrame(schema={"topic": pl.UInt32, "price_per_click": pl.Float64})
    priced = volumes.drop_nulls("price_per_click").join(rows.select("query", "topic"), on="query")
    price = (pl.col("price_per_click") * pl.col("searches")).sum() / pl.col("searches").sum()
    return priced.group_by("topic").agg(price_per_click=price)


def _others(snapshot: Snapshot, frame: pl.DataFrame) -> pl.DataFrame:
    """Who ranks on the captured SERPs: instead (hosts, most frequent first), competition (median referring domains of other
    sites' pages; null: unknown), captured (queries).
    """
    organic = snapshot.serps.results().filter(pl.col("kind") == "organic", ~pl.col("own"), pl.col("address").is_not_null())
    rows = organic.join(frame.select("query", "topic"), on="query")
    known = snapshot.serps.strengths()
    rows = rows.with_columns(
        host=pl.col("address").str.extract(r"^https?://(?:www\.)?([^/:?#]+)"),
        strength=pl.col("address").replace_strict(known, default=None, return_dtype=pl.UInt32) if known else pl.lit(None),
    )
    hosts = rows.group_by("topic", "host").agg(pl.col("query").n_unique().alias("queries"))
    hosts = hosts.sort("queries", "host", descending=[True, False]).group_by("topic", maintain_order=True).head(HOSTS)
    instead = hosts.group_by("topic", maintain_order=True).agg(instead="host")
    counted = rows.group_by("topic").agg(
        competition=pl.col("strength").cast(pl.Float64).median(), captured=pl.col("query").n_unique()
    )
    return instead.join(counted, on="topic")


def _seasons(snapshot: Snapshot, frame: pl.DataFrame) -> pl.DataFrame:
    """Seasonality: months (the index of each), peak_month, rises, season_by ("searches", "impressions")."""
    by = "searches" if has_months(snapshot) else "impressions"
    monthly = monthly_volumes(snapshot) if by == "searches" else monthly_impressions(snapshot)
    schema: dict[str, Any] = {
        "topic": pl.UInt32, "months": pl.List(pl.Float64), "peak_month": pl.UInt32, "rises": pl.UInt32, "season_by": pl.String,
    }  # fmt: skip
    if monthly is None:
        return pl.DataFrame(schema=schema)
    # The most searched query of a topic comes first, as `season` requires.
    rows = frame.select("query", "topic").join(monthly, on="query", maintain_order="left")
    result = []
    for (topic,), of_topic_ in rows.group_by("topic", maintain_order=True):
        found: Season | None = season(of_topic_.select(MONTHS).to_numpy().astype(np.float64))
        if found:
            result.append((topic, list(found.index), found.peak, found.rises, by))
    return pl.DataFrame(result, schema=schema, orient="row")


def _wanted(snapshot: Snapshot, rows: pl.DataFrame) -> pl.DataFrame:
    """Search intent: intent (null: unknown) and intent_reasons."""
    known = intents(snapshot)
    of: dict[int, list[tuple[float, IntentFound, IntentFound]]] = defaultdict(list)
    for query, topic, searches, shown in rows.select("query", "topic", "searches", "shown").iter_rows():
        if query in known:
            of[topic].append((searches if searches is not None else shown, *known[query]))
    result = [(topic, *of_topic(queries)) for topic, queries in of.items()]
    return pl.DataFrame(
        result, schema={"topic": pl.UInt32, "intent": pl.String, "intent_reasons": pl.List(pl.String)}, orient="row"
    )


def _rests_on(snapshot: Snapshot, rows: pl.DataFrame) -> pl.DataFrame:
    """The evidence that joins a topic's queries: rests_on."""
    captured = snapshot.serps.results()["query"].unique()
    shares = rows.group_by("topic").agg(
        results=pl.col("query").is_in(captured.implode()).mean(), seen=(pl.col("shown") > 0).mean()
    )
    rests = (
        pl.when(pl.col("results") >= RESULTS_LEAST)
        .then(pl.lit(RESTS[0]))
        .when(pl.col("seen") >= SHOWN_LEAST)
        .then(pl.lit(RESTS[1]))
        .otherwise(pl.lit(RESTS[2]))
    )
    return shares.select("topic", rests_on=rests)


def topic_rows(view: View) -> pl.DataFrame:
    """The current topics, with `ready_by` as of today."""
    rows = described_topics(
        view.snapshot, view.period, view.setting, view.min_impressions, view.options.target, tuple(topic_edits(view.site))
    )
    return with_ready_by(view, rows)


def with_ready_by(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    days = [None if rises is None else ready_by(rises, view.today) for rises in rows["rises"].to_list()]
    return rows.with_columns(pl.Series("ready_by", days, dtype=pl.Date))


def find_topics(view: View) -> Found:
    rows = topic_rows(view)
    lacking = [] if rows["season_by"].drop_nulls().len() or rows.is_empty() else [topic_sentences.NEEDS_MONTHS]
    lacking += [] if rows["searches"].drop_nulls().len() or rows.is_empty() else [topic_sentences.NEEDS_VOLUMES]
    return Found(rows, {"queries": query_graph(view.snapshot).queries.height}, lacking)


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    soon = rows.filter(pl.col("ready_by").is_not_null() & (pl.col("ready_by") <= _in_months(view.today, 2)))
    return topic_sentences.topics(
        rows.height, int(rows["queries"].sum()), rows["peak_month"].drop_nulls().len(), soon["topic"].head(3).to_list()
    )


def _in_months(day: date, months: int) -> date:
    at = day.month - 1 + months
    return date(day.year + at // 12, at % 12 + 1, 1)


def _with_text(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """Topics with the text in their name or a query."""
    holding = view.snapshot.names.matching(Query, view.words)
    of = topics_of(view.snapshot).queries.filter(pl.col("query").is_in(holding.implode()))["topic"]
    return rows.filter(
        pl.col("topic_id").is_in(of.implode())
        | pl.col("topic").str.to_lowercase().str.contains(view.words.lower(), literal=True)
    )


def _of_names(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    return rows.filter(pl.col("topic_id").is_in(topics_requested(view)))


def topics_requested(view: View) -> list[int]:
    """The topics with the requested names."""
    queries = queries_of_topics(view.snapshot, view.options.topic)
    current = topics_of(view.snapshot).queries
    return current.filter(pl.col("query").is_in(queries.implode()))["topic"].unique().to_list()


PEAK = Column("peak_month", "count", "peak", "the month with the most searches, 1 to 12", "month", "extra", null=True)
READY_BY = Column("ready_by", "day", "ready by", "when a page for the coming season should be live", shown="list", null=True)
INTENT = Column(
    "intent", "word", "search intent", "what most searchers look for", shown="list", null=True, low=True, choices=INTENTS
)
SEARCHES = Column("searches", "amount", "searches", "searches a month", "a month", "list", null=True)

TOPICS = Finding(
    name="topics",
    place=("topics", 1),
    title="Topics",
    question="What do people search for around this site, when in the year, and what do we win of it?",
    method="topics",
    claims=("topic", "topics"),
    makes=(*PART, "min_impressions", "target", "curve"),
    chooses=("text", "topic"),
    columns=(
        Column("topic", "text", "topic", "its most searched query, or the name you gave it", shown="list", low=True),
        Column("topic_id", "count", "", "the id of its most searched query"),
        SEARCHES,
        Column(
            "months", "shape", "year", "searches of each month relative to the mean", shown="list", shape=list[float], null=True
        ),
        READY_BY,
        INTENT.listed(shown="extra"),
        Column("share_won", "share", "won", "your clicks divided by known searches", shown="list", null=True),
        Column("opportunity_month", "amount", "opportunity", "lost and potential clicks", "clicks a month", "list"),
        Column("queries", "count", "queries", "queries that belong to it", "queries", "list"),
        Column("pages", "count", "pages", "your pages that rank for it", "pages", "list"),
        Column("position", "position", "position", "average position of your pages", shown="extra", null=True, low=True),
        Column("clicks", "amount", "clicks", "clicks of your pages", "a month", "extra"),
        PEAK,
        Column("price_per_click", "money", "price", "price of an ad click", shown="extra", null=True),
        Column("competition", "amount", "competition", "referring domains of the median page", "sites", "extra", null=True),
        Column("instead", "words", "who ranks", "sites on captured SERPs", shown="extra", null=True),
        Column("captured", "count", "captured", "queries with a SERP capture", "queries", null=True),
        Column("intent_reasons", "words", "", "what tells the intent", null=True),
        Column("rests_on", "word", "rests on", "what its queries have in common", shown="extra", choices=RESTS, low=True),
        Column("season_by", "word", "", "what the season is based on", null=True, choices=("searches", "impressions")),
    ),
    find=find_topics,
    says=_says,
    choose={"text": _with_text, "topic": _of_names},
    plan=True,
    opens=(ViewOptions(),),
    key=("topic_id",),
)  # fmt: skip
