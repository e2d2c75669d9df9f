"""The check of a draft while it is written, and the data for a text service."""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import polars as pl

from zugzwang import bounded
from zugzwang.core.drafts.check import Checked, Fault, Wanted, check, repeats
from zugzwang.core.drafts.help import LETTERS, HelpAsked, HelpTask, Passage
from zugzwang.core.drafts.repeats import Runs, runs_of
from zugzwang.core.facts.addresses import path_of
from zugzwang.core.pages.content import running_text
from zugzwang.core.results.above import RANGE_OF
from zugzwang.core.words import draft_sentences
from zugzwang.core.words.missing_queries import asks
from zugzwang.data.cache import kept
from zugzwang.data.dictionary import some
from zugzwang.data.models import Query
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import NotFound
from zugzwang.findings.competing_pages import facts_above
from zugzwang.findings.drafting import above_median, drafting
from zugzwang.findings.view import View
from zugzwang.subjects.brief import tell_brief

PASSAGE_MAX, PASSAGES_MAX = 6_000, 8  # characters, pages
TERMS_LISTED, QUESTIONS_LISTED = 20, 12


@kept
def own_runs(snapshot: Snapshot) -> Runs:
    return runs_of(snapshot.page_words())


def wanted_of(view: View, query: int, page: int | None) -> Wanted:
    """What a draft for a query is checked against."""
    snapshot = view.snapshot
    texts = dict(snapshot.known_texts(Query, some(query)).iter_rows())
    if query not in texts:
        raise NotFound("The site has no such query.", "Choose from its lists.")
    current = drafting(snapshot, view.period, view.setting)
    median = above_median(current).filter(pl.col("query") == query)["coverage_above_median"]
    boxed = snapshot.results().filter(pl.col("query") == query, pl.col("kind") == "featured snippet").height > 0
    return Wanted(
        texts[query],
        snapshot.rules.language,
        current.terms.get(query, ()),
        _quartiles(snapshot, query, "words"),
        _quartiles(snapshot, query, "reading_ease"),
        boxed or asks(texts[query]),
        float(median[0]) if median.len() else None,
        page,
    )


def _quartiles(snapshot: Snapshot, query: int, measure: str) -> tuple[float, float] | None:
    known = [float(one) for _, facts in facts_above(snapshot).get(query, []) if (one := facts.get(measure)) is not None]
    if len(known) < RANGE_OF:
        return None
    low, high = np.quantile(known, (0.25, 0.75)).tolist()
    return low, high


def tell_check(view: View, query: int, page: int | None, clean: Callable[[], tuple[str, str, str]]) -> dict[str, Any]:
    """A draft compared with the competing pages: its terms and problems. `clean`: returns its title, description and text as
    stored; it runs bounded, with the check.
    """
    wanted = wanted_of(view, query, page)
    found = bounded.run(bounded.DRAFT, _checked, clean, wanted)
    faults = [*found.faults, *repeats(found, wanted, own_runs(view.snapshot))]
    said = sum(one.said > 0 for one in found.terms)
    return {
        "words": found.words,
        "length": wanted.length,
        "reading_ease": found.reading_ease,
        "ease": wanted.ease,
        "coverage": found.coverage,
        "coverage_above_median": wanted.above_median,
        "sentence": draft_sentences.draft(found.words, said, len(found.terms), wanted.above_median, found.coverage),
        "terms": [vars(one) for one in found.terms],
        "faults": _faults(view.snapshot, faults, wanted),
        "problems": found.problems,
        "short_answer": found.short_answer,
        "short_answer_wanted": wanted.short_answer,
    }


def _checked(clean: Callable[[], tuple[str, str, str]], wanted: Wanted) -> Checked:
    title, description, text = clean()
    return check(text, title, description, wanted)


def _faults(snapshot: Snapshot, faults: Sequence[Fault], wanted: Wanted) -> list[dict[str, Any]]:
    result = []
    for one in faults:
        page = snapshot.page_text(one.page) if one.page is not None else None
        other = path_of(page) if page else one.other
        words = draft_sentences.fault(one.kind, one.number, other, wanted.length)
        result.append({"kind": one.kind, "quote": one.quote, "words": words, "page": page})
    return result


def help_asked(view: View, query: int, page: int | None, task: HelpTask, term: str, instruction: str) -> HelpAsked:
    """The data for a text service: the query, its terms and questions, and passages of competing pages and of the site."""
    snapshot = view.snapshot
    brief = tell_brief(view, query, page)
    above = snapshot.results_above().filter(pl.col("query") == query).sort("rank")["plain"].head(PASSAGES_MAX)
    content = dict(snapshot.fetched_above().select("address", "content").drop_nulls().iter_rows())
    passages = [Passage(running_text(content[one])[:PASSAGE_MAX], one) for one in above if one in content]
    if page is not None:
        own = snapshot.contents(some(page))["content"].to_list()
        passages += [Passage(running_text(one)[:PASSAGE_MAX], snapshot.page_text(page)) for one in own]
    return HelpAsked(
        task, instruction, brief["query"], snapshot.rules.language, LETTERS[task],
        tuple(one["text"] for one in brief["terms"][:TERMS_LISTED]),
        tuple(dict.fromkeys([*brief["questions"], *brief["outline"]]))[:QUESTIONS_LISTED],
        term, tuple(passages),
    )  # fmt: skip
