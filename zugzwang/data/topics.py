"""The topics of a site: its queries in groups, and people's edits.

Communities depend on facts only and are cached with a snapshot; edits are applied on request.
"""

from dataclasses import dataclass
from datetime import timedelta
from typing import cast

import numpy as np
import polars as pl
from django.db.models import Count, Max

from zugzwang.core.facts.grains import PAGE_QUERY, QUERY, VOLUMES, Grain
from zugzwang.core.facts.periods import DAYS_A_MONTH, Period
from zugzwang.core.topics.communities import Evidence, Ties, communities, ties
from zugzwang.core.topics.edits import Edit, EditKind, apply
from zugzwang.data.blocks import read_facts
from zugzwang.data.cache import cached
from zugzwang.data.models import Query, Site, TopicEdit
from zugzwang.data.snapshot import Snapshot

QUERIES_MOST = 200_000
ORGANIC = 10
YEAR = timedelta(days=364)


@dataclass(frozen=True)
class QueryGraph:
    """`queries`: query (id), searches (a month; null: unknown), shown (impressions a month), community – most searched first,
    so an index is a rank. `cached`: their ties, by index.
    """

    queries: pl.DataFrame
    held: Ties


@dataclass(frozen=True)
class Topics:
    """`queries`: query, topic (the id of its most searched query), searches, shown; without dropped topics. `names`: names
    given by people; other topics are named after their most searched query.
    """

    queries: pl.DataFrame
    names: dict[int, str]


@cached
def query_graph(snapshot: Snapshot) -> QueryGraph:
    """All queries with impressions in the last year or a volume, the 200,000 most searched, with their ties."""
    year = _year(snapshot)
    grain: Grain = QUERY if year and not snapshot.facts.has(PAGE_QUERY, year) else PAGE_QUERY
    rows = snapshot.facts.rows(grain, year) if year else grain.schema.to_frame()
    months = year.days / DAYS_A_MONTH if year else 1.0
    shown = rows.group_by("query").agg(shown=pl.col("impressions").sum() / months)
    searched = monthly_volumes(snapshot).select("query", searches=pl.mean_horizontal(MONTHS))
    both = shown.join(searched, on="query", how="full", coalesce=True).with_columns(pl.col("shown").fill_null(0.0))
    size = pl.max_horizontal("searches", "shown")
    queries = both.filter(size > 0).sort(size, "query", descending=[True, False]).head(QUERIES_MOST)
    rank = queries.select("query").with_row_index("place")
    stems = snapshot.pages.query_stems(queries["query"])
    message = pl.DataFrame({"query": list(stems), "stem": [list(dict.fromkeys(one)) for one in stems.values()]},
                        schema={"query": pl.UInt32, "stem": pl.List(pl.String)})  # fmt: skip
    organic = snapshot.serps.results().filter(pl.col("kind") == "organic", pl.col("address").is_not_null())
    organic = organic.group_by("query", maintain_order=True).head(ORGANIC)
    pages = rows.group_by("query", "page").agg(pl.col("impressions").sum()) if "page" in rows.columns else None
    none = pl.DataFrame(schema={"query": pl.UInt32, "page": pl.UInt32, "impressions": pl.UInt32})

    def ranked(frame: pl.DataFrame) -> pl.DataFrame:
        return frame.join(rank, on="query").drop("query").rename({"place": "query"})

    evidence = Evidence(
        queries.height,
        ranked(message.explode("stem", empty_as_null=True).drop_nulls()),
        ranked(none if pages is None else pages),
        ranked(organic.select("query", "address")),
    )
    current = ties(evidence)
    found = communities(queries.height, current) if queries.height else np.zeros(0, np.int64)
    return QueryGraph(queries.with_columns(community=pl.Series(found, dtype=pl.Int64)), current)


MONTHS = [str(month) for month in range(1, 13)]


@cached
def monthly_volumes(snapshot: Snapshot) -> pl.DataFrame:
    """How often each query is searched in each calendar month: query, "1" … "12". From volumes, summed over countries and
    averaged over years; a yearly average fills months that are not reported.
    """
    volumes = read_facts(snapshot.site, VOLUMES)
    by_month = volumes.group_by("query", "month").agg(pl.col("searches").sum())
    yearly = by_month.filter(pl.col("month").is_null()).select("query", mean="searches")
    named = by_month.filter(pl.col("month").is_not_null()).group_by("query", month=pl.col("month").dt.month())
    wide = named.agg(pl.col("searches").mean()).pivot("month", index="query", values="searches")
    for name in MONTHS:
        wide = wide if name in wide.columns else wide.with_columns(pl.lit(None, dtype=pl.Float64).alias(name))
    both = wide.join(yearly, on="query", how="full", coalesce=True)
    usual = pl.coalesce("mean", pl.mean_horizontal(MONTHS))
    return both.select("query", *(pl.coalesce(pl.col(name), usual).cast(pl.Float64) for name in MONTHS))


@cached
def has_months(snapshot: Snapshot) -> bool:
    """Whether volumes are known by month."""
    months = read_facts(snapshot.site, VOLUMES, columns=["month"])["month"]
    return months.drop_nulls().dt.month().n_unique() == 12


@cached
def monthly_impressions(snapshot: Snapshot) -> pl.DataFrame | None:
    """Impressions of each query in each calendar month, a day: query, "1" … "12". None with less than a year by day."""
    year = _year(snapshot)
    if year is None or not snapshot.facts.by_day(year) or (snapshot.facts.days()[-1] - snapshot.facts.days()[0]) < YEAR:
        return None
    grain = QUERY if snapshot.facts.has(QUERY, year) else PAGE_QUERY
    rows = snapshot.facts.rows(grain, year, columns=("day", "query", "impressions") if grain is QUERY else ())
    sums = rows.group_by("query", month=pl.col("day").dt.month()).agg(pl.col("impressions").sum().cast(pl.Float64))
    wide = sums.pivot("month", index="query", values="impressions")
    for name in MONTHS:
        wide = wide if name in wide.columns else wide.with_columns(pl.lit(0.0).alias(name))
    return wide.select("query", *(pl.col(name).fill_null(0.0) for name in MONTHS))


def _year(snapshot: Snapshot) -> Period | None:
    usual = snapshot.facts.usual_period()
    if usual is None or not snapshot.facts.by_day(usual):
        return usual
    last = snapshot.facts.days()[-1]
    return Period(max(last - YEAR, snapshot.facts.days()[0]), last)


def topic_edits(site: Site) -> list[Edit]:
    stored = TopicEdit.objects.filter(site=site).values_list("kind", "queries", "name")
    return [Edit(cast(EditKind, kind), tuple(queries), name) for kind, queries, name in stored]


def edits_version(site: Site) -> int:
    """A number that changes with every edit of the site's topics; 0 without any."""
    stored = TopicEdit.objects.filter(site=site).aggregate(last=Max("id"), number=Count("id"))
    return int((stored["last"] or 0) * 10_000 + stored["number"])


def topics_of(snapshot: Snapshot) -> Topics:
    """The current topics, with edits applied."""
    return _topics(snapshot, tuple(topic_edits(snapshot.site)))


@cached
def _topics(snapshot: Snapshot, edits: tuple[Edit, ...]) -> Topics:
    graph = query_graph(snapshot).queries
    edited = apply(graph["query"].to_numpy().astype(np.int64), graph["community"].to_numpy(), edits)
    rows = graph.drop("community").with_columns(number=pl.Series(edited.topic, dtype=pl.Int64))
    # The first of each is the most searched, and names its topic.
    rows = rows.with_columns(topic=pl.col("query").first().over("number"))
    rows = rows.filter(~pl.col("number").is_in(list(edited.dropped)))
    anchor = dict(rows.select("number", "topic").unique().iter_rows())
    names = {anchor[number]: name for number, name in edited.names.items() if number in anchor}
    return Topics(rows.select("query", "topic", "searches", "shown"), names)


def topic_names(snapshot: Snapshot) -> dict[int, str]:
    """The name of each topic."""
    topics = topics_of(snapshot)
    ids = topics.queries["topic"].unique()
    return dict(snapshot.names.known_texts(Query, ids).filter(pl.col("id").is_in(ids.implode())).iter_rows()) | topics.names


def queries_of_topics(snapshot: Snapshot, names: tuple[str, ...]) -> pl.Series:
    """The queries of the topics with these names; empty for a dropped topic. Raises KeyError with a name that never existed."""
    current = topics_of(snapshot).queries
    of_query = dict(current.select("query", "topic").iter_rows())
    wanted = [of_query.get(_query_named(snapshot.site, name)) for name in names]
    return current.filter(pl.col("topic").is_in([one for one in wanted if one is not None]))["query"]


def _query_named(site: Site, name: str) -> int:
    """A query of the topic that has or had a name: people's names first, then the query itself. So a saved address still leads
    to a topic that was renamed or merged since.
    """
    for edit in reversed(topic_edits(site)):
        if edit.kind == "name" and edit.name == name:
            return edit.queries[0]
    found = Query.objects.filter(site=site, text=name).values_list("id", flat=True).first()
    if found is None:
        raise KeyError(name)
    return int(found)
