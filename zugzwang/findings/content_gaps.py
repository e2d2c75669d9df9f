"""Content gaps: queries around the site's topics that no page of the site answers."""

from typing import Any

import numpy as np
import polars as pl

from zugzwang.core.clicks.headroom import Target
from zugzwang.core.facts.periods import Period
from zugzwang.core.pages.content import pieces_of
from zugzwang.core.pages.fit import closest_pages
from zugzwang.core.topics.edits import Edit
from zugzwang.core.topics.writing import SEARCHES_LEAST, groups, outline, wanting
from zugzwang.core.words import topic_sentences
from zugzwang.core.worth.moves import Suggestion
from zugzwang.data.cache import cached
from zugzwang.data.models import Query
from zugzwang.data.snapshot import Setting, Snapshot
from zugzwang.data.topics import query_graph, topic_edits, topics_of
from zugzwang.findings.clashes import clashes_in
from zugzwang.findings.columns import PART
from zugzwang.findings.finding import Column, Finding, Found, Proposal, Proposes
from zugzwang.findings.topics import INTENT, PEAK, READY_BY, described_topics, intents, topics_requested, with_ready_by
from zugzwang.findings.view import View, ViewOptions

QUERIES_LISTED = 30


@cached
def missing_pages(
    snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int, target: Target, edits: tuple[Edit, ...]
) -> pl.DataFrame:
    """Every page to write: query (the most searched of its queries), topic_id, queries (their ids), number, ranking_queries,
    searches (a month; impressions where no volume is known).
    """
    graph = query_graph(snapshot)
    ranked = graph.queries.select("query").with_row_index("place")
    rows = ranked.join(topics_of(snapshot).queries, on="query", how="left", maintain_order="left")
    topic = rows["topic"].fill_null(0).to_numpy().astype(np.int64)
    wants = _wants(snapshot, period, setting, min_impressions, rows)
    numbers = groups(topic, np.flatnonzero(wants.to_numpy() & (topic > 0)), graph.held)
    size = pl.coalesce("searches", "shown")
    grouped = rows.with_columns(group=pl.Series(numbers)).filter(pl.col("group") >= 0).group_by("group", maintain_order=True)
    frame = grouped.agg(
        pl.col("query").first(),
        topic_id=pl.col("topic").first(),
        queries=pl.col("query").head(QUERIES_LISTED),
        number=pl.len(),
        ranking_queries=(pl.col("shown") > 0).sum(),
        searches=size.sum(),
    )
    return (
        frame.filter(pl.col("searches") >= SEARCHES_LEAST).sort("searches", descending=True, maintain_order=True).drop("group")
    )


def _wants(snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int, known_rows: pl.DataFrame) -> pl.Series:
    """Whether each query of the graph needs a page (core.topics.writing)."""
    rows = snapshot.facts.sums(period, by=snapshot.facts.finest(period))
    most = rows.filter(pl.col("page") > 0).sort("impressions", descending=True).unique("query", keep="first")
    fits = snapshot.pages.fits(most.select("page", "query")).select("query", fits="fit")
    stems = snapshot.pages.query_stems(known_rows["query"])
    says = snapshot.pages.every_page_says()
    ours = {stem for one in says.values() for stem in (*one.title, *one.heading, *one.address)}
    covered = closest_pages(stems, says)
    known = intents(snapshot)
    elsewhere = [query for query, (words, blocks) in known.items() if (words or blocks or ("",))[0] == "navigational"]
    clashing = clashes_in(snapshot, period, setting, min_impressions).queries["query"]
    frame = known_rows.select("query").join(fits, on="query", how="left", maintain_order="left")
    return wanting(
        frame.with_columns(
            covered=pl.col("query").is_in(list(covered)),
            known_words=pl.Series(
                [bool(ours & set(stems.get(query, ()))) for query in frame["query"].to_list()], dtype=pl.Boolean
            ),
            clashed=pl.col("query").is_in(clashing.implode()),
            branded=pl.col("query").is_in(snapshot.facts.branded(setting.patterns).implode()),
            elsewhere=pl.col("query").is_in(elsewhere),
        )
    )


def find_missing(view: View) -> Found:
    options = (
        view.snapshot,
        view.period,
        view.setting,
        view.min_impressions,
        view.options.target,
        tuple(topic_edits(view.site)),
    )
    rows = missing_pages(*options)
    of_topic = described_topics(*options).select("topic_id", "topic", "intent", "peak_month", "rises")
    frame = rows.join(of_topic, on="topic_id", how="left", maintain_order="left")
    frame = with_ready_by(view, frame).drop("rises")
    lacking = [] if view.snapshot.pages.every_page_says() else [topic_sentences.NEEDS_PAGES]
    return Found(frame, {"queries": query_graph(view.snapshot).queries.height}, lacking)


def _dress(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """Its queries, a suggested outline, and the reason for the suggestion."""
    snapshot = view.snapshot
    ids = rows["queries"].explode(empty_as_null=True).drop_nulls()
    texts = dict(snapshot.names.known_texts(Query, ids).iter_rows())
    above = snapshot.serps.results_above().select("query", "plain")
    content = dict(snapshot.serps.fetched_above().select("address", "content").drop_nulls().iter_rows())
    of_query: dict[int, list[str]] = {}
    for query, plain in above.filter(pl.col("query").is_in(ids.implode())).iter_rows():
        heads = [words for kind, words in pieces_of(content.get(plain, "")) if kind in ("h2", "h3")]
        of_query.setdefault(query, []).extend(heads)
    queries, outlines, reasons = [], [], []
    for entry, number, shown, searches in rows.select("queries", "number", "ranking_queries", "searches").iter_rows():
        words = [texts[query] for query in entry]
        queries.append(words)
        outlines.append(outline(words, [one for query in entry for one in of_query.get(query, ())], snapshot.rules.language))
        reasons.append(topic_sentences.reason(number, shown, searches))
    return rows.with_columns(
        pl.Series("queries", queries, dtype=pl.List(pl.String)),
        pl.Series("outline", outlines, dtype=pl.List(pl.String)),
        pl.Series("reason", reasons, dtype=pl.String),
    )


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    return found.lacking or [topic_sentences.to_write(rows.height, float(rows["searches"].sum()))]


def _with_text(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    holding = view.snapshot.names.matching(Query, view.words)
    return rows.filter(pl.col("queries").list.set_intersection(holding.cast(pl.UInt32).implode()).list.len() > 0)


def _of_topics(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    return rows.filter(pl.col("topic_id").is_in(topics_requested(view)))


def _propose(view: View, rows: pl.DataFrame) -> list[Proposal]:
    """New pages. Their gain is unknown, because it depends on the position they get."""
    move = Suggestion("write", "week", "rank")
    return [
        Proposal(move, None, None, "too little data", topic_sentences.reason(*entry))
        for entry in rows.select("number", "ranking_queries", "searches").iter_rows()
    ]


CONTENT_GAPS = Finding(
    name="content-gaps",
    place=("topics", 2),
    title="Content gaps",
    question="What do people search around your topics that none of your pages answers?",
    method="content-gaps",
    needs=(("crawl",),),
    claims=("page is missing", "pages are missing"),
    order="searches",
    makes=(*PART, "min_impressions", "target", "curve"),
    chooses=("text", "topic"),
    columns=(
        Column("query", "query", "page for", "the most searched query of the gap", shown="list"),
        Column("searches", "amount", "searches", "searches a month of all its queries", "a month", "list"),
        Column("number", "count", "queries", "queries that one page could answer", "queries", "list"),
        Column("ranking_queries", "count", "you rank for", "number of these that your pages rank for", "queries", "list"),
        INTENT,
        READY_BY,
        Column("topic", "text", "topic", "topic of its queries", shown="extra", null=True, low=True),
        Column("topic_id", "count", ""),
        PEAK,
        Column("queries", "words", "", "its queries, the most searched first", late=True),
        Column("outline", "words", "", "what it would go through", late=True),
        Column("reason", "text", "", "why it is suggested", late=True),
    ),
    find=find_missing,
    says=_says,
    dress=_dress,
    choose={"text": _with_text, "topic": _of_topics},
    plan=True,
    opens=(ViewOptions(),),
    key=("query",),
    proposes=Proposes(fill=_propose),
)  # fmt: skip
