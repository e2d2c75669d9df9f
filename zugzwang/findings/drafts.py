"""Drafts in progress: page, query and writer."""

from datetime import date
from typing import Any

import polars as pl

from zugzwang.core.drafts.text import content_of
from zugzwang.core.pages.content import running_text
from zugzwang.core.words import draft_sentences
from zugzwang.core.words.wording import words
from zugzwang.data.models import Draft
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.view import View

STATES = ("open", "done")
_SCHEMA: dict[str, Any] = {
    "id": pl.Int64, "name": pl.String, "query": pl.String, "query_id": pl.UInt32, "page": pl.String, "page_id": pl.UInt32,
    "words": pl.UInt32, "state": pl.Enum(STATES), "done_on": pl.Date, "due": pl.Date, "changed_at": pl.Datetime("us", "UTC"),
    "by": pl.String, "move_id": pl.Int64,
}  # fmt: skip


def _described(draft: Draft) -> dict[str, Any]:
    due: date | None = draft.move.due if draft.move else None
    return {
        "id": draft.id, "name": draft.name, "query": draft.query.text, "query_id": draft.query_id,
        "page": draft.page.text if draft.page else None, "page_id": draft.page_id,
        "words": len(words(running_text(content_of(draft.text)))), "state": draft.state, "done_on": draft.done_on, "due": due,
        "changed_at": draft.changed_at, "by": draft.user.get_username() if draft.user else None, "move_id": draft.move_id,
    }  # fmt: skip


def find_drafts(view: View) -> Found:
    """All drafts, open ones first, then by the latest change."""
    stored = Draft.objects.filter(site=view.site, dropped_at=None).select_related("page", "query", "user", "move")
    rows = pl.DataFrame([_described(one) for one in stored], schema=_SCHEMA)
    rows = rows.sort(pl.col("state").to_physical(), "changed_at", descending=[False, True])
    return Found(rows, {"drafts": rows.height})


def _with_text(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    text = view.words.lower()
    names = ("name", "query", "page")
    holds = [pl.col(name).str.to_lowercase().str.contains(text, literal=True).fill_null(False) for name in names]
    return rows.filter(pl.any_horizontal(holds)) if text else rows


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    return [draft_sentences.drafts(rows.filter(pl.col("state") == "open").height, rows.height)]


DRAFTS = Finding(
    name="drafts",
    place=("drafts", 1),
    title="Drafts",
    question="What is being written, for which page and query, and how far is it?",
    method="drafts",
    claims=("draft", "drafts"),
    order="changed_at",
    makes=(),
    chooses=("text",),
    columns=(
        Column("name", "text", "draft", "name, and the page it is for", shown="list", low=True),
        Column("words", "count", "words", "words of the text", "words", "list"),
        Column("state", "word", "state", "state of the draft", shown="list", choices=STATES, low=True),
        Column("due", "day", "due", "due date of its move", shown="list", null=True, low=True),
        Column("changed_at", "time", "changed", "last change of the text", shown="list"),
        Column("query", "text", "query", "query it is written for", shown="extra", low=True),
        Column("page", "text", "page", "page it is for; empty: a new page", shown="extra", null=True, low=True),
        Column("by", "text", "begun by", "who started it", shown="extra", null=True, low=True),
        Column("done_on", "day", "done on", "day of publication", shown="extra", null=True),
        Column("id", "count"),
        Column("query_id", "count"),
        Column("page_id", "count", null=True),
        Column("move_id", "count", null=True),
    ),
    find=find_drafts,
    says=_says,
    choose={"text": _with_text},
    plan=True,
    key=("id",),
)  # fmt: skip
