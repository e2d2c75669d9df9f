"""SERP captures for some rows, and the depth of the site's result; and everything about one query's SERP: the page to
scale, a comparison of competing pages, the featured snippet, competitor queries.
"""

from datetime import date
from typing import Any

import polars as pl

from zugzwang.core.facts.grains import DEVICES, RESULTS
from zugzwang.core.pages.content import pieces_of
from zugzwang.core.results.above import MEASURES, SAYS, Passage, out_of_range, passage_of
from zugzwang.core.results.block_costs import BlockCost
from zugzwang.core.results.blocks import SCREEN, changes, depths, with_kinds
from zugzwang.core.words import sentences
from zugzwang.data.blocks import read_facts
from zugzwang.data.dictionary import some
from zugzwang.data.models import Query
from zugzwang.data.snapshot import WHOLE
from zugzwang.errors import NotFound
from zugzwang.findings.competing_pages import facts_above, own_facts
from zugzwang.findings.competitor_queries import COMPETITOR_QUERIES
from zugzwang.findings.featured_snippets import FEATURED_SNIPPETS
from zugzwang.findings.serp_captures import RESULTS as RESULTS_FOUND
from zugzwang.findings.table import find, returned_rows
from zugzwang.findings.view import View


def results_of(view: View, rows: pl.Expr) -> dict[str, Any]:
    """`results`: the captured blocks for the queries of some rows, most impressions first, the latest capture of each;
    `results_sentence`: the depth of the site's result in the first (None without a capture).
    """
    blocks = _blocks(view, rows)
    if not blocks:
        return {"results": [], "results_sentence": None}
    first = [(one["block"], one["own"]) for one in blocks if one["query_id"] == blocks[0]["query_id"]]
    return {"results": blocks, "results_sentence": sentences.results_page(first)}


def _blocks(view: View, rows: pl.Expr) -> list[dict[str, Any]]:
    results = read_facts(view.site, RESULTS)
    if results.is_empty() or view.setting.part != WHOLE:
        return []
    by_query = view.appraisal.rows.filter(rows).group_by("query").agg(pl.col("impressions").sum())
    frame = results.join(by_query, on="query").filter(pl.col("captured") == pl.col("captured").max().over("query"))
    named = view.snapshot.names.named(view.snapshot.serps.with_own(frame), ("query",))
    order = ["impressions", "query", "device", "country", "rank"]
    columns = ["captured", "device", "country", "rank", "block", "title", "address", "snippet"]
    return named.sort(order, descending=[True, *[False] * 4]).select("query_id", "query", *columns, "own").to_dicts()


CAPTURES = 6
WON = 12


def tell_results(view: View, query: int) -> dict[str, Any]:
    """Everything about one query's SERP."""
    snapshot = view.snapshot
    texts = dict(snapshot.names.known_texts(Query, some(query)).iter_rows())
    if query not in texts:
        raise NotFound("The site has no such query.", "Choose from its lists.")
    row = find(view, RESULTS_FOUND).rows.filter(pl.col("query") == query)
    costs = [
        sentences.block_cost(one.kind, one.rows, one.factor, one.low, one.high, one.counts != 1) for one in _costs(view, query)
    ]
    current = row.to_dicts()[0] if row.height else None
    page = current["page"] if current else None
    return {
        "query": texts[query],
        "query_id": query,
        "page": snapshot.names.page_text(page) if page else None,
        "page_id": page,
        "captures": _captures(view, query),
        "costs": costs,
        "finding": returned_rows(view, RESULTS_FOUND, row).to_dicts()[0] if current else None,
        "side_by_side": _side_by_side(view, query, page) if page else None,
        "box": _box(view, query, page, texts[query]) if page else None,
        "won": _won(view, page) if page else [],
    }


def _costs(view: View, query: int) -> list[BlockCost]:
    """The effect of the kinds of feature above the site's result here."""
    above = view.snapshot.serps.result_ranks().filter(pl.col("query") == query)["above"].to_list()
    kinds = above[0] if above else []
    return [one for one in view.snapshot.serps.block_costs(view.period, view.setting) if one.kind in kinds] if kinds else []


def _captures(view: View, query: int) -> list[dict[str, Any]]:
    """The captures of a query, newest first, each with its blocks to scale."""
    frame = read_facts(view.site, RESULTS).filter(pl.col("query") == query)
    if frame.is_empty():
        return []
    blocks = view.snapshot.serps.with_own(with_kinds(frame)).sort("captured", "device", "rank")
    current = {(one["captured"], one["device"]): one for one in depths(blocks).to_dicts()}
    capture_rows: list[dict[str, Any]] = []
    earlier: dict[str, tuple[date, pl.DataFrame]] = {}
    for (captured, device), rows in blocks.group_by("captured", "device", maintain_order=True):
        depth = current[captured, device]
        name = DEVICES[int(str(device))]
        columns = ["rank", "kind", "answer", "pixels", "title", "address", "snippet", "own"]
        capture_rows.append({
            "captured": captured, "device": name, "screen": SCREEN.get(name, SCREEN["desktop"]),
            "blocks_above": depth["blocks_above"], "screens_down": depth["screens_down"],
            "sentence": sentences.results_page(list(rows.select("kind", "own").iter_rows())),
            "blocks": rows.select(columns).to_dicts(),
            "changed": _changed(earlier.get(name), rows),
        })  # fmt: skip
        earlier[name] = depth["captured"], rows
    return capture_rows[::-1][:CAPTURES]


def _changed(earlier: tuple[date, pl.DataFrame] | None, now: pl.DataFrame) -> str | None:
    """The changes since the previous capture, in words; None for the first."""
    return sentences.results_changed(earlier[0], *changes(earlier[1], now)) if earlier else None


def _side_by_side(view: View, query: int, page: int) -> dict[str, Any] | None:
    """The site's page and the competing pages, one measure a row; None where none ranks above, or none was fetched."""
    above = facts_above(view.snapshot).get(query, [])
    if not above:
        return None
    ours = own_facts(view.snapshot, pl.DataFrame({"page": some(page), "query": some(query)}))[query]
    outside = out_of_range(ours, [facts for _, facts in above])
    reach = view.snapshot.serps.within_strength().filter(pl.col("query") == query).to_dicts()
    measures = [
        {
            "name": name, "label": label, "yes_no": name in SAYS, "outside": outside.get(name),
            "ours": _number(ours.get(name)), "above": [_number(facts.get(name)) for _, facts in above],
        }
        for name, label in {**MEASURES, **SAYS}.items()
    ]  # fmt: skip
    fetched = any(facts["words"] is not None for _, facts in above)
    potential = reach[0] if reach else {"organic_rank": None, "rank": None, "stronger": None}
    return {
        "pages": [address for address, _ in above],
        "measures": measures,
        "fetched": fetched,
        "rank": potential["organic_rank"],
        "rank_within_reach": potential["rank"],
        "stronger": potential["stronger"],
    }


def _number(value: float | bool | None) -> float | None:
    return None if value is None else float(value)


def _box(view: View, query: int, page: int, text: str) -> dict[str, Any] | None:
    """The featured snippet of a query, with the site's passage that could win it; None where no capture has one."""
    row = find(view, FEATURED_SNIPPETS).rows.filter(pl.col("query") == query)
    if row.is_empty():
        return None
    current = returned_rows(view, FEATURED_SNIPPETS, row).to_dicts()[0]
    contents = view.snapshot.pages.contents(some(page))
    ours = passage_of(pieces_of(contents["content"][0]), text, view.snapshot.rules.language) if contents.height else None
    fetched = view.snapshot.serps.fetched_above().filter(pl.col("address") == current["holder_page"])
    content = fetched["content"][0] if fetched.height else None
    holder = passage_of(pieces_of(content), text, view.snapshot.rules.language) if content else None
    return {"finding": current, "ours": _passage(ours), "holder": _passage(holder)}


def _passage(passage: Passage | None) -> dict[str, Any] | None:
    return None if passage is None else {**vars(passage), "is_short_answer": passage.is_short_answer}


def _won(view: View, page: int) -> list[dict[str, Any]]:
    """The queries that bring competing pages the most visits."""
    rows = find(view, COMPETITOR_QUERIES).rows.filter(pl.col("page") == page).head(WON)
    return returned_rows(view, COMPETITOR_QUERIES, rows).to_dicts()
