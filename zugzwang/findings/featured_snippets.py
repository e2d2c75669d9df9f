"""Featured snippets in captured SERPs: those that could be won, with what passage; the site's own, and lost ones."""

from datetime import date
from typing import Any, get_args

import numpy as np
import polars as pl

from zugzwang.core.facts.grains import RESULTS
from zugzwang.core.facts.periods import Period
from zugzwang.core.pages.content import pieces_of
from zugzwang.core.results.above import Passage, passage_of
from zugzwang.core.results.answers import Advice, Box, advice, gain, lacking
from zugzwang.core.results.blocks import ANSWER_KINDS, with_kinds
from zugzwang.core.words import sentences
from zugzwang.core.worth.moves import Suggestion
from zugzwang.data.blocks import read_facts
from zugzwang.data.cache import cached
from zugzwang.data.models import Query
from zugzwang.data.snapshot import HAS_SNIPPET, Setting, Snapshot
from zugzwang.findings.columns import CLICKS, IMPRESSIONS, PAGE, PAGES, PART, POSITION, POSITIONS, QUERY
from zugzwang.findings.finding import Column, Finding, Found, Proposal, Proposes
from zugzwang.findings.view import View, ViewOptions

ADVICE: tuple[Advice, ...] = get_args(Advice)
_SCHEMA: dict[str, Any] = {
    "query": pl.UInt32, "page": pl.UInt32, "kind": pl.String, "holder": pl.String, "holder_page": pl.String,
    "passage": pl.String, "rank": pl.UInt32, "ours": pl.Boolean, "opening": pl.Boolean, "lacking": pl.List(pl.String),
    "gain": pl.Float64, "advice": pl.String, "lost_since": pl.Date, "captured": pl.Date, "clicks": pl.Int64,
    "impressions": pl.Int64, "position": pl.Float64,
}  # fmt: skip


@cached
def boxes(snapshot: Snapshot, period: Period, setting: Setting) -> pl.DataFrame:
    """Every query with a featured snippet in its newest capture, or that the site held before; largest gain first."""
    frame = (
        snapshot.serps.results().filter(pl.col("kind") == "featured snippet").unique("query", keep="first", maintain_order=True)
    )
    lost = _lost_since(snapshot)
    wanted = pl.concat([frame["query"], pl.Series(list(lost), dtype=pl.UInt32)]).unique().sort()
    rows = snapshot.facts.appraisal(period, setting).rows.filter(pl.col("query").is_in(wanted.implode()), pl.col("page") > 0)
    most = {row["query"]: row for row in _most_shown(rows).iter_rows(named=True)}
    own_rank = dict(snapshot.serps.result_ranks().select("query", "organic_rank").iter_rows())
    box_of = {row["query"]: row for row in frame.iter_rows(named=True)}
    texts = dict(snapshot.names.known_texts(Query, wanted).iter_rows())
    ours = _own_passages(snapshot, most, texts)
    factors = {one.kind: one.factor for one in snapshot.serps.block_costs(period, setting)}
    at_first = _at_first(snapshot, period, setting, most)
    result = []
    for query in wanted.to_list():
        row, block = most.get(query), box_of.get(query)
        if row is None or (block is None and not lost.get(query)):
            continue
        box = Box(bool(block and block["own"]), block["answer"] if block else None, own_rank.get(query))
        holder = _passage_at(snapshot, block["address"], texts[query]) if block and not box.ours else None
        there = gain(
            row["expected_clicks"], row["clicks"], factors.get(HAS_SNIPPET), factors.get("featured snippet"), at_first[query]
        )
        result.append({
            "query": query, "page": row["page"], "kind": box.kind, "holder": _host(block["address"]) if block else None,
            "holder_page": block["address"] if block else None, "passage": block["snippet"] if block else None,
            "rank": box.rank, "ours": box.ours, "opening": box.is_opening and block is not None,
            "lacking": [] if box.ours else lacking(box.kind, ours.get(query), holder),
            "gain": there if block is not None and not box.ours and box.rank else 0.0,
            "advice": advice(box), "lost_since": lost.get(query) if not box.ours else None,
            "captured": block["captured"] if block else None,
            "clicks": row["clicks"], "impressions": row["impressions"], "position": row["position"],
        })  # fmt: skip
    return pl.DataFrame(result, schema=_SCHEMA).sort(
        "opening", "gain", "impressions", "query", descending=[True, True, True, False]
    )


def _most_shown(rows: pl.DataFrame) -> pl.DataFrame:
    return rows.sort("impressions", "page", descending=[True, False]).unique("query", keep="first")


def _lost_since(snapshot: Snapshot) -> dict[int, date]:
    """Queries whose featured snippet the site held in an earlier capture and has lost, with the first capture without it."""
    every = with_kinds(read_facts(snapshot.site, RESULTS))
    newest = snapshot.serps.results()
    own_hosts = newest.filter("own")["address"].unique()
    own = pl.col("address").is_in(own_hosts.implode())
    boxed = (own & (pl.col("kind") == "featured snippet")).any().alias("ours")
    history = every.group_by("query", "captured").agg(boxed).sort("query", "captured")
    result: dict[int, date] = {}
    for (query,), rows in history.group_by("query", maintain_order=True):
        current = rows["ours"].to_list()
        if any(current) and not current[-1]:
            last = len(current) - 1 - current[::-1].index(True)
            result[int(str(query))] = rows["captured"][last + 1]
    return result


def _own_passages(snapshot: Snapshot, most: dict[int, dict[str, Any]], texts: dict[int, str]) -> dict[int, Passage | None]:
    """The passage of the site's page below a heading that asks each query."""
    pages = pl.Series(sorted({row["page"] for row in most.values()}), dtype=pl.UInt32)
    contents = {page: content for page, _, content in snapshot.pages.contents(pages).iter_rows()}
    language = snapshot.rules.language
    return {
        query: passage_of(pieces_of(contents[row["page"]]), texts[query], language) if row["page"] in contents else None
        for query, row in most.items()
    }


def _passage_at(snapshot: Snapshot, address: str | None, query: str) -> Passage | None:
    """The passage of the page that holds a featured snippet, where it was fetched."""
    found = snapshot.serps.fetched_above().filter(pl.col("address") == address) if address else pl.DataFrame()
    content = found["content"][0] if found.height else None
    return passage_of(pieces_of(content), query, snapshot.rules.language) if content else None


def _at_first(snapshot: Snapshot, period: Period, setting: Setting, most: dict[int, dict[str, Any]]) -> dict[int, float]:
    curve = snapshot.facts.appraisal(period, setting).curve
    first = float(curve(np.array([1.0]))[0])
    return {query: row["impressions"] * first for query, row in most.items()}


def _host(address: str | None) -> str | None:
    return (address or "").partition("//")[2].partition("/")[0].removeprefix("www.") or None


def find_boxes(view: View) -> Found:
    rows = view.without_brand(boxes(view.snapshot, view.period, view.setting))
    rows = rows.with_columns((pl.col("gain") * view.month_share).alias("gain"))
    lacking = [] if view.snapshot.serps.results().height else [sentences.NO_RESULTS]
    return Found(rows, {"captures": view.snapshot.serps.result_ranks().height}, lacking)


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    if found.lacking:
        return found.lacking
    openings = rows.filter("opening")
    lost = rows.filter(pl.col("lost_since").is_not_null()).height
    return [
        sentences.featured_snippets(
            rows.height, openings.height, rows.filter("ours").height, lost, float(openings["gain"].sum())
        )
    ]


_MOVE = Suggestion("answer", "hour", "snippet")


def _propose(view: View, rows: pl.DataFrame) -> list[Proposal]:
    return [
        Proposal(_MOVE, row["gain"], None, "too little data", sentences.reason_box(row["holder"], row["lacking"]))
        for row in rows.iter_rows(named=True)
    ]


FEATURED_SNIPPETS = Finding(
    name="featured-snippets",
    place=("on-page", 3),
    title="Featured snippets",
    question="Which featured snippets could you win, and what would it take?",
    method="featured-snippets",
    needs=(("results",),),
    claims=("featured snippet", "featured snippets"),
    order="gain",
    makes=(*PART, "branded", "curve"),
    chooses=(*PAGES, "query_group", "topic", "text", *POSITIONS),
    columns=(
        QUERY.listed("query, page", "the query, and your page with the most impressions for it"),
        PAGE,
        Column("gain", "amount", "opportunity", "clicks that the featured snippet would bring", "clicks a month", "list"),
        Column("opening", "flag", "open", "another site has it, and you rank 2 to 10", shown="extra"),
        Column("kind", "word", "kind", "the kind of answer", shown="list", null=True, choices=ANSWER_KINDS, low=True),
        Column("holder", "text", "holder", "site that holds the featured snippet", shown="list", null=True, low=True),
        Column("holder_page", "text", "", "the page that holds it", null=True),
        Column("passage", "text", "", "what the box says", null=True),
        Column("rank", "count", "rank", "your rank among the organic results", shown="list", null=True, low=True),
        Column("advice", "word", "what to do", "what to do about it", shown="list", choices=ADVICE, low=True),
        Column("lacking", "words", "lacking", "what your page lacks for such an answer", shown="extra"),
        Column("ours", "flag", "yours", "whether you hold the featured snippet", shown="extra"),
        Column("lost_since", "day", "lost since", "first capture in which you no longer hold it", shown="extra", null=True),
        Column("captured", "day", "captured", "day of the SERP capture", shown="extra", null=True),
        IMPRESSIONS.listed(),
        CLICKS.listed(shown="extra"),
        POSITION.listed(shown="extra"),
    ),
    find=find_boxes,
    proposes=Proposes(_MOVE, fill=_propose),
    says=_says,
    opens=(ViewOptions(),),
)  # fmt: skip
