"""Accepted links by page to edit, and whether they were set."""

from typing import Any

import polars as pl

from zugzwang.core.links.setting import SET_STATES, set_state
from zugzwang.core.words import link_sentences
from zugzwang.data.decided import planned_links
from zugzwang.findings.columns import PAGES
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.view import View

_SCHEMA = pl.Schema(
    {
        "id": pl.UInt32(), "from": pl.UInt32(), "to": pl.UInt32(), "anchor": pl.String(), "sentence": pl.String(),
        "state": pl.Enum(SET_STATES), "found_anchor": pl.String(), "by": pl.String(), "accepted_on": pl.Date(),
        "move": pl.UInt32(),
    }
)  # fmt: skip


def find_work(view: View) -> Found:
    taken = [one for one in planned_links(view.site) if one.choice == "accepted"]
    pairs = pl.DataFrame(
        [(one.source_id, one.target_id) for one in taken], schema={"source": pl.UInt32, "target": pl.UInt32}, orient="row"
    )
    links = view.snapshot.links
    there = links.body_links_between(pairs)
    # An incomplete crawl, or a table of some pages, says nothing about the others.
    looked_at, read = (
        view.snapshot.links.links_read_at(),
        set(view.snapshot.links.inner_links()["source"].drop_nulls().unique()),
    )
    rows = []
    for one in taken:
        anchors = there.get((one.source_id, one.target_id))
        state = set_state(one.anchor, one.made_at, looked_at if one.source_id in read else None, anchors)
        found = anchors[0] if anchors and state == "set otherwise" else None
        by = one.user.get_username() if one.user else None
        rows.append(
            (one.id, one.source_id, one.target_id, one.anchor, one.sentence, state, found, by, one.made_at.date(), one.move_id)
        )
    frame = pl.DataFrame(rows, schema=_SCHEMA, orient="row")
    path = view.snapshot.pages.every().select(pl.col("page").alias("from"), "path")
    frame = frame.join(path, on="from", how="left").sort("path", "id").drop("path")
    return Found(frame, {"links": frame.height})


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    return link_sentences.work(extras["by_state"], rows["from"].n_unique())


def _extras(view: View, found: Found, rows: pl.DataFrame) -> dict[str, Any]:
    return {"by_state": {state: number for state in SET_STATES if (number := rows.filter(pl.col("state") == state).height)}}


def _of_pages(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """Links on or to the requested pages."""
    wanted = view.chosen(pl.DataFrame({"page": pl.concat([rows["from"], rows["to"]]).unique()}))["page"]
    return rows.filter(pl.col("from").is_in(wanted.implode()) | pl.col("to").is_in(wanted.implode()))


ACCEPTED_LINKS = Finding(
    name="accepted-links",
    place=("links", 3),
    title="Accepted links",
    question="Which links are to be set on which page, and were they?",
    method="suggested-links",
    needs=(("crawl", "page-links"),),
    claims=("link was taken", "links were taken"),
    makes=(),
    chooses=(*PAGES, "text"),
    columns=(
        Column("from", "page", "page to edit, leads to", "page to edit, and the link target", shown="list"),
        Column("to", "page", "leads to", "link target"),
        Column("anchor", "text", "anchor", "anchor text", shown="list"),
        Column("sentence", "text", "sentence", "where the link can go", shown="extra", null=True),
        Column("state", "word", "set", "whether the last crawl found it", shown="list", choices=SET_STATES, low=True),
        Column("found_anchor", "text", "found", "anchor text found by the crawl", shown="extra", null=True),
        Column("by", "text", "accepted by", "who accepted it", shown="extra", null=True),
        Column("accepted_on", "day", "accepted on", "when it was accepted", shown="list"),
        Column("move", "count", "", "the move that carries it out", null=True),
        Column("id", "count", ""),
    ),
    find=find_work,
    says=_says,
    extras=_extras,
    more={"by_state": dict[str, int]},
    choose=dict.fromkeys((*PAGES, "text"), _of_pages),
    plan=True,
    key=("id",),
)  # fmt: skip
