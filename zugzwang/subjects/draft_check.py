"""The check of a draft while it is written, and the data for a text service."""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import polars as pl

from zugzwang import bounded
from zugzwang.core.drafts.check import Checked, Fault, Targets, check, repeats
from zugzwang.core.drafts.help import LETTERS, HelpRequest, HelpTask, Passage
from zugzwang.core.drafts.repeats import Runs, runs_of
from zugzwang.core.facts.addresses import path_of
from zugzwang.core.pages.content import running_text
from zugzwang.core.results.above import RANGE_OF
from zugzwang.core.words import draft_sentences
from zugzwang.core.words.missing_queries import asks
from zugzwang.data.cache import cached
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


@cached
def own_runs(snapshot: Snapshot) -> Runs:
    return runs_of(snapshot.pages.page_words())


def targets_of(view: View, query: int, page: int | None) -> Targets:
    """What a draft for a query is checked against."""
    snapshot = view.snapshot
    texts = dict(snapshot.names.known_texts(Query, some(query)).iter_rows())
    if query not in texts:
        raise NotFound("The site has no such query.", "Choose from its lists.")
    current = drafting(snapshot, view.period, view.setting)
    median = above_median(current).filter(pl.col("query") == query)["coverage_above_median"]
    boxed = snapshot.serps.results().filter(pl.col("query") == query, pl.col("kind") == "featured snippet").height > 0
    return Targets(
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
    targets = targets_of(view, query, page)
    found = bounded.run(bounded.DRAFT, _checked, clean, targets)
    faults = [*found.faults, *repeats(found, targets, own_runs(view.snapshot))]
    used = sum(one.times_used > 0 for one in found.terms)
    return {
        "words": found.words,
        "length": targets.length,
        "reading_ease": found.reading_ease,
        "ease": targets.ease,
        "coverage": found.coverage,
        "coverage_above_median": targets.above_median,
        "sentence": draft_sentences.draft(found.words, used, len(found.terms), targets.above_median, found.coverage),
        "terms": [vars(one) for one in found.terms],
        "faults": _faults(view.snapshot, faults, targets),
        "problems": found.problems,
        "short_answer": found.short_answer,
        "needs_short_answer": targets.short_answer,
    }


def _checked(clean: Callable[[], tuple[str, str, str]], targets: Targets) -> Checked:
    title, description, text = clean()
    return check(text, title, description, targets)


def _faults(snapshot: Snapshot, faults: Sequence[Fault], targets: Targets) -> list[dict[str, Any]]:
    result = []
    for one in faults:
        page = snapshot.names.page_text(one.page) if one.page is not None else None
        other = path_of(page) if page else one.other
        words = draft_sentences.fault(one.kind, one.number, other, targets.length)
        result.append({"kind": one.kind, "quote": one.quote, "words": words, "page": page})
    return result


def help_requested(view: View, query: int, page: int | None, task: HelpTask, term: str, instruction: str) -> HelpRequest:
    """The data for a text service: the query, its terms and questions, and passages of competing pages and of the site."""
    snapshot = view.snapshot
    brief = tell_brief(view, query, page)
    above = snapshot.serps.results_above().filter(pl.col("query") == query).sort("rank")["plain"].head(PASSAGES_MAX)
    content = dict(snapshot.serps.fetched_above().select("address", "content").drop_nulls().iter_rows())
    passages = [Passage(running_text(content[one])[:PASSAGE_MAX], one) for one in above if one in content]
    if page is not None:
        own = snapshot.pages.contents(some(page))["content"].to_list()
        passages += [Passage(running_text(one)[:PASSAGE_MAX], snapshot.names.page_text(page)) for one in own]
    return HelpRequest(
        task, instruction, brief["query"], snapshot.rules.language, LETTERS[task],
        tuple(one["text"] for one in brief["terms"][:TERMS_LISTED]),
        tuple(dict.fromkeys([*brief["questions"], *brief["outline"]]))[:QUESTIONS_LISTED],
        term, tuple(passages),
    )  # fmt: skip
