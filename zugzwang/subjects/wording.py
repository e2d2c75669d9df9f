"""Where on a page a phrase occurs, from top to bottom: squares of fifty words, headings, each occurrence with its sentence;
and the candidates for its main query.
"""

import re
from typing import Any

import polars as pl

from zugzwang.core.facts.search import ROW
from zugzwang.core.pages.content import HEADINGS, RUNNING, pieces_of
from zugzwang.core.words import sentences
from zugzwang.core.words.missing_queries import on_page_of
from zugzwang.core.words.occurrences import Reader, read_texts
from zugzwang.core.words.wording import words
from zugzwang.data.decided import chosen_main_queries
from zugzwang.data.dictionary import some
from zugzwang.data.models import Query
from zugzwang.errors import NotFound
from zugzwang.findings.missing_queries import MISSING_QUERIES
from zugzwang.findings.table import find, returned_rows
from zugzwang.findings.titles import TITLES, main_queries_of
from zugzwang.findings.view import View

SQUARE_WORDS = 50
LONG_PARAGRAPH = 120
PHRASE_MAX = 200
CANDIDATES = 8
MISSING_SHOWN = 6
_SENTENCE = re.compile(r"(?<=[.!?…])\s+")


def tell_strip(view: View, page: int, query: int | None, phrase: str) -> dict[str, Any]:
    """A page as a strip, with the occurrences of a query or a typed phrase."""
    snapshot = view.snapshot
    current = snapshot.pages.contents(some(page))
    if current.is_empty():
        raise NotFound("The text of this page is unknown.", "Crawl the site in Data.")
    texts = dict(snapshot.names.known_texts(Query, some(query)).iter_rows()) if query else {}
    if query and query not in texts:
        raise NotFound("The site has no such query.", "Choose from its lists.")
    wanted_phrase = phrase.strip()[:PHRASE_MAX] or texts.get(query or 0, "")
    title, content = current.row(0)[1:]
    reader = Reader(read_texts(current, snapshot.rules.language))
    pieces = pieces_of(content)
    crawled = snapshot.pages.crawled_pages().filter(pl.col("page") == page).to_dicts()[0]
    uses = reader.occurrences(page, wanted_phrase)
    sayings = reader.sayings(page, wanted_phrase)
    row = find(view, MISSING_QUERIES).rows.filter(pl.col("page") == page, pl.col("query") == (query or 0))
    return {
        "page": snapshot.names.page_text(page),
        "page_id": page,
        "phrase": wanted_phrase,
        "title": title,
        "title_says": "title" in uses.where,
        "description": crawled["description"],
        "heading": crawled["heading"],
        "heading_says": "main heading" in uses.where,
        "words": uses.words,
        "on_page": on_page_of(uses),
        "exact_uses": uses.exactly,
        "other_form_uses": uses.in_other_forms,
        "first_use_share": uses.first_at,
        "where": list(uses.where),
        **_squares(pieces, sayings),
        "long_paragraphs": sum(kind == "p" and len(words(text)) > LONG_PARAGRAPH for kind, text in pieces),
        "lists": sum(kind in ("ul", "ol") for kind, _ in pieces),
        "tables": sum(kind == "table" for kind, _ in pieces),
        "sentence": sentences.mentions(wanted_phrase, uses.exactly, uses.in_other_forms, uses.first, uses.words, uses.where),
        "finding": returned_rows(view, MISSING_QUERIES, row).to_dicts()[0] if row.height else None,
    }


def _squares(pieces: list[tuple[Any, str]], sayings: list[tuple[int, bool]]) -> dict[str, Any]:
    """The running words in squares of fifty, with the headings and occurrences that begin in each."""
    spoken, headings, at = [], [], 0
    for kind, text in pieces:
        if kind not in RUNNING:
            continue
        if kind in HEADINGS:
            headings.append({"at": at + 1, "level": int(kind[1]), "text": text})
        for sentence in _SENTENCE.split(text):
            number = len(words(sentence))
            if number:
                spoken.append((at + 1, at + number, sentence))
            at += number
    found = [
        {"nth": nth, "exact": exact, "sentence": next((text for first, last, text in spoken if first <= nth <= last), "")}
        for nth, exact in sayings
    ]
    squares = [
        {
            "first": first,
            "exact": sum(first <= nth < first + SQUARE_WORDS for nth, exact in sayings if exact),
            "other_forms": sum(first <= nth < first + SQUARE_WORDS for nth, exact in sayings if not exact),
            "text": " ".join(text for begins, ends, text in spoken if begins < first + SQUARE_WORDS and ends >= first),
        }
        for first in range(1, at + 1, SQUARE_WORDS)
    ]
    return {"squares": squares, "headings": headings, "sayings": found}


def tell_titles(view: View, page: int) -> dict[str, Any]:
    """A page's title and description, their problems, and the candidates for its main query."""
    snapshot = view.snapshot
    crawled = snapshot.pages.crawled_pages().filter(pl.col("page") == page).to_dicts()
    if not crawled:
        raise NotFound("The text of this page is unknown.", "Crawl the site in Data.")
    rows = view.appraisal.rows.filter(pl.col("page") == page, ~pl.col("branded"), pl.col("query") > 0)
    rows = rows.sort("clicks", "impressions", descending=True).head(CANDIDATES)
    main = main_queries_of(view).get(page)
    fits = snapshot.pages.fits(rows.select(ROW)).select(*ROW, "fit")
    named = snapshot.names.named(rows.join(fits, on=ROW, how="left", maintain_order="left"), ("query",))
    shown = [
        {"query": text, "title": title, "snippet": snippet}
        for query, (title, snippet) in snapshot.serps.shown_titles().get(page, {}).items()
        for text in snapshot.names.known_texts(Query, some(query)).filter(pl.col("id") == query)["text"]
    ]
    found = find(view, TITLES).rows.filter(pl.col("page") == page)
    return {
        "page": snapshot.names.page_text(page),
        "page_id": page,
        "title": crawled[0]["title"],
        "description": crawled[0]["description"],
        "heading": crawled[0]["heading"],
        "main_query_id": main,
        "chosen": page in chosen_main_queries(view.site),
        "candidates": named.select("query_id", "query", "clicks", "impressions", "position", "fit").to_dicts(),
        "shown": shown,
        "finding": returned_rows(view, TITLES, found).to_dicts()[0] if found.height else None,
        "missing_queries": returned_rows(
            view, MISSING_QUERIES, _open(find(view, MISSING_QUERIES).rows.filter(pl.col("page") == page))
        ).to_dicts(),
    }


def _open(rows: pl.DataFrame) -> pl.DataFrame:
    """The queries of a page that it mentions too little, largest gain first."""
    left = rows.filter(pl.col("on_page").cast(pl.String) != "on the page", pl.col("what_to_do") != "leave it")
    return left.sort("gain", descending=True).head(MISSING_SHOWN)
