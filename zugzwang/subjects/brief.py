"""A content brief: everything a writer needs for a page to write or rewrite, as text or document."""

import io
from typing import Any

import docx
import numpy as np
import polars as pl

from zugzwang.core.drafts.terms import TIERS
from zugzwang.core.pages.content import pieces_of
from zugzwang.core.results.above import MEASURES, SHORT_ANSWER
from zugzwang.core.topics.writing import outline
from zugzwang.core.words import draft_sentences
from zugzwang.core.words.missing_queries import asks
from zugzwang.core.words.pixels import DESCRIPTION_CHARACTERS, TITLE_CHARACTERS
from zugzwang.data.decided import chosen_main_queries
from zugzwang.data.dictionary import some
from zugzwang.data.models import Query
from zugzwang.data.topics import query_graph, topics_of
from zugzwang.errors import Invalid, NotFound
from zugzwang.findings.competing_pages import facts_above
from zugzwang.findings.drafting import above_median, drafting
from zugzwang.findings.suggested_links import SUGGESTED_LINKS, plan_rows
from zugzwang.findings.table import returned_rows
from zugzwang.findings.titles import proposed_main_queries
from zugzwang.findings.topics import topic_rows
from zugzwang.findings.view import View

NEIGHBOURS, QUESTIONS, LINKS = 20, 10, 10
TIED_LEAST = 0.3


def query_of(view: View, page: int) -> int:
    """The query that a page targets."""
    chosen = chosen_main_queries(view.site)
    main = proposed_main_queries(view.snapshot, view.period, view.setting, view.min_impressions, view.options.target)
    found = {**main, **chosen}.get(page)
    if found is None:
        raise NotFound("This page has no main query yet.", "Choose one in On the page, or name a query.")
    return found


def tell_brief(view: View, query: int, page: int | None) -> dict[str, Any]:
    """The brief for a query, for a page of the site or one to write."""
    snapshot = view.snapshot
    texts = dict(snapshot.names.known_texts(Query, some(query)).iter_rows())
    if query not in texts:
        raise NotFound("The site has no such query.", "Choose from its lists.")
    topic = _topic(view, query)
    current = drafting(snapshot, view.period, view.setting)
    kinds = set(snapshot.serps.results().filter(pl.col("query") == query)["kind"].to_list())
    boxed = "featured snippet" in kinds
    own = current.ours.filter(pl.col("query") == query, pl.col("page") == (page or 0))
    median = above_median(current).filter(pl.col("query") == query)["coverage_above_median"]
    uses = own["times_used"][0].to_list() if own.height else []
    return {
        "query": texts[query],
        "page": snapshot.names.page_text(page) if page else None,
        **topic,
        "terms": [
            {"text": one.text, "tier": one.tier, "pages": one.pages, "per_thousand": list(one.per_thousand),
             "ours": uses[index] if uses else None}
            for index, one in enumerate(current.terms.get(query, ()))
        ],
        "coverage": float(own["coverage"][0]) if own.height else None,
        "coverage_above_median": float(median[0]) if median.len() else None,
        "coverage_sentence": draft_sentences.goes_with_rank(
            *((current.goes.rho, current.goes.p_value, current.goes.queries) if current.goes else (None, None, 0))
        ),
        "above": _above(view, query),
        "outline": _outline(view, query, [texts[query], *(one["query"] for one in topic["queries"])]),
        "title_letters": TITLE_CHARACTERS,
        "description_letters": DESCRIPTION_CHARACTERS,
        "short_answer_letters": SHORT_ANSWER[1] if boxed or asks(texts[query]) else None,
        "links": _links(view, page),
    }  # fmt: skip


def _topic(view: View, query: int) -> dict[str, Any]:
    """Related queries, with their topic's seasonality and intent; empty for a query without a topic."""
    topics = topics_of(view.snapshot).queries
    of = topics.filter(pl.col("query") == query)["topic"]
    none = {"topic": None, "peak_month": None, "ready_by": None, "intent": None}
    if of.is_empty():
        return {**none, "searches": None, "queries": [], "questions": []}
    own = topics.filter(pl.col("query") == query)["searches"][0]
    near = _tied(view, query)
    text = dict(view.snapshot.names.known_texts(Query, near["query"]).iter_rows())
    extras = [(text[one], searches) for one, searches in near.select("query", "searches").iter_rows()]
    row = topic_rows(view).filter(pl.col("topic_id") == of[0]).select(*none).to_dicts()
    return {
        **(row[0] if row else none),
        "searches": own,
        "queries": [{"query": one, "searches": searches} for one, searches in extras[:NEIGHBOURS]],
        "questions": [one for one, _ in extras if asks(one)][:QUESTIONS],
    }


def _tied(view: View, query: int) -> pl.DataFrame:
    """The queries tied to one (core.topics.communities), most searched first: query, searches."""
    graph = query_graph(view.snapshot)
    index = graph.queries["query"].index_of(query)
    if index is None:
        return graph.queries.clear()
    current = graph.held
    strong = current.weight >= TIED_LEAST
    places = [
        *current.other[strong & (current.one == index)].tolist(),
        *current.one[strong & (current.other == index)].tolist(),
    ]
    return graph.queries[sorted(places)]


def _above(view: View, query: int) -> list[dict[str, Any]]:
    """The fetched competing pages: lower quartile, median and upper quartile of each measure."""
    facts = [one for _, one in facts_above(view.snapshot).get(query, []) if one["words"] is not None]
    found = []
    for name, label in MEASURES.items():
        known = [float(value) for one in facts if (value := one.get(name)) is not None]
        if len(known) > 2:
            low, middle, high = np.quantile(known, [0.25, 0.5, 0.75]).tolist()
            found.append({"name": label, "low": low, "middle": middle, "high": high, "pages": len(known)})
    return found


def _outline(view: View, query: int, near: list[str]) -> list[str]:
    above = view.snapshot.serps.results_above().filter(pl.col("query") == query)["plain"]
    rows = view.snapshot.serps.fetched_above().filter(pl.col("address").is_in(above.implode()))
    heads = [words for content in rows["content"].drop_nulls() for kind, words in pieces_of(content) if kind in ("h2", "h3")]
    return outline(near, heads, view.snapshot.rules.language)


def _links(view: View, page: int | None) -> list[dict[str, Any]]:
    """Links to set to the page: source page, anchor, sentence."""
    if page is None:
        return []
    plan = plan_rows(view, page).filter(pl.col("choice") != "refused").head(LINKS)
    rows = returned_rows(view, SUGGESTED_LINKS, plan.rename({"source": "from", "target": "to"})).to_dicts()
    return [{"page": one["from"], "anchor": one["anchor"], "sentence": one["sentence"]} for one in rows]


# --- as a text ------------------------------------------------------------------------------------------------------------


def _parts(brief: dict[str, Any]) -> list[tuple[str, list[str]]]:
    """The brief as headings with lines."""
    about = [f"Page: {brief['page'] or 'to be written'}", f"Main query: {brief['query']}{_searched(brief['searches'])}"]
    about += [f"Wanted: {brief['intent']}"] if brief["intent"] else []
    about += [f"Ready by: {brief['ready_by']:%-d %b %Y}"] if brief["ready_by"] else []
    letters = [f"Title: {brief['title_letters']} characters at most, with the main query.",
               f"Description: {brief['description_letters']} characters at most."]  # fmt: skip
    if brief["short_answer_letters"]:
        letters.append(
            f"Short answer: {brief['short_answer_letters']} characters at most, right below a heading with the question."
        )
    terms = [
        (f"{tier.capitalize()} terms", [_term(one) for one in brief["terms"] if one["tier"] == tier])
        for tier in TIERS
    ]  # fmt: skip
    above = [
        f"{one['name']}: {_plain(one['middle'])} ({_plain(one['low'])} to {_plain(one['high'])})" for one in brief["above"]
    ]
    links = [f"{one['page']}: “{one['anchor']}”" for one in brief["links"]]
    parts = [
        ("About", about), ("Related queries", [f"{one['query']}{_searched(one['searches'])}" for one in brief["queries"]]),
        ("Questions", brief["questions"]), ("Outline", brief["outline"]), *terms,
        ("What competing pages have (median, quartiles)", above), ("Lengths", letters), ("Suggested links to it", links),
    ]  # fmt: skip
    return [(name, lines) for name, lines in parts if lines]


def _searched(searches: float | None) -> str:
    return "" if searches is None else f" ({searches:,.0f} searches a month)"


def _term(one: dict[str, Any]) -> str:
    low, _, high = one["per_thousand"]
    ours = "" if one["ours"] is None else f"; on your page {one['ours']} times" if one["ours"] else "; not on your page"
    return f"{one['text']}: {_plain(low)} to {_plain(high)} in 1,000 words, on {one['pages']} pages{ours}"


def _plain(value: float) -> str:
    return f"{value:,.0f}" if value == round(value) or value >= 10 else f"{value:.1f}"


def markdown(brief: dict[str, Any]) -> str:
    result = [f"# Brief: {brief['query']}", ""]
    for name, lines in _parts(brief):
        result += [f"## {name}", "", *(f"- {one}" for one in lines), ""]
    return "\n".join([*result, brief["coverage_sentence"], ""])


def document(brief: dict[str, Any]) -> bytes:
    """The brief as a document (DOCX)."""
    made = docx.Document()
    made.core_properties.author, made.core_properties.title = "", f"Brief: {brief['query']}"
    made.add_heading(f"Brief: {brief['query']}", level=1)
    for name, lines in _parts(brief):
        made.add_heading(name, level=2)
        for one in lines:
            made.add_paragraph(one, style="List Bullet")
    made.add_paragraph(brief["coverage_sentence"])
    file = io.BytesIO()
    made.save(file)
    return file.getvalue()


def subject_of(view: View, page: str, query: str) -> tuple[int, int | None]:
    """The query and page of a brief, from typed text."""
    if query:
        found = Query.objects.filter(site=view.site, text=query).values_list("id", flat=True).first()
        if found is None:
            raise Invalid(f"The site knows no query “{query}”.", "Write it as the search data have it.", "query")
        return int(found), view.one_page
    if view.one_page is None:
        raise Invalid("A brief needs a page or a query.", "Name one of them.", "page")
    return query_of(view, view.one_page), view.one_page
