"""The live check of a draft: what it covers and lacks compared with competing pages, and writing problems.

  long sentence    more than LONG_SENTENCE words
  wall of text     a paragraph of more than WALL words
  headings         no main heading, several, or a skipped level
  picture          a picture without alternative text
  repeated         text of another page of the site (core.drafts.repeats)
  short answer     needed, but no paragraph of 40 to 300 characters follows a heading that asks the query
  title, description   as core.words.titles checks them
  length           outside the quartiles of the competing pages

A term is overused where a text has it more than OFTEN times the competing pages' upper quartile, and at least OFTEN_LEAST
times. Bounds are our own choice, no source; those for sentences and paragraphs follow common practice.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import groupby, pairwise
from operator import itemgetter
from typing import Literal, get_args

from zugzwang.core.drafts.repeats import Repeated, Runs, repeated
from zugzwang.core.drafts.terms import RelatedTerm, Tier, coverage, uses
from zugzwang.core.drafts.text import content_of, pictures_of
from zugzwang.core.pages.content import HEADINGS, RUNNING, Kind, pieces_of, running_of
from zugzwang.core.results.above import Passage, passage_of
from zugzwang.core.words.reading_ease import reading_ease
from zugzwang.core.words.titles import Problem, SnippetTexts, problems_of
from zugzwang.core.words.wording import WORD, words

LONG_SENTENCE, WALL = 30, 120
OFTEN, OFTEN_LEAST = 2.0, 4
FAULTS_MAX = 500  # limits of the lists of problems and of repeats
FaultKind = Literal["long sentence", "wall of text", "headings", "picture", "repeated", "short answer", "length"]
FAULT_KINDS: tuple[FaultKind, ...] = get_args(FaultKind)
TermState = Literal["missing", "used", "too often"]
TERM_STATES: tuple[TermState, ...] = get_args(TermState)
_SENTENCE_ENDS = re.compile(r"(?<=[.!?…])\s+")


@dataclass(frozen=True)
class Targets:
    """What a draft is checked against. `length`, `ease`: lower and upper quartile of the competing pages; None: unknown."""

    query: str
    language: str
    terms: tuple[RelatedTerm, ...] = ()
    length: tuple[float, float] | None = None
    ease: tuple[float, float] | None = None
    short_answer: bool = False
    above_median: float | None = None
    page: int | None = None  # the page that the draft is for


@dataclass(frozen=True)
class TermChecked:
    """`times_used`: its count; `least`, `most`: the quartiles on competing pages for a text of this length."""

    text: str
    tier: Tier
    times_used: int
    least: float
    most: float
    state: TermState


@dataclass(frozen=True)
class Fault:
    """A writing problem. `quote`: the passage concerned; `number`: words, characters …; `other`: another name in the
    message."""

    kind: FaultKind
    quote: str = ""
    number: int = 0
    other: str = ""
    page: int | None = None


@dataclass(frozen=True)
class Checked:
    words: int
    reading_ease: float | None
    terms: list[TermChecked]
    coverage: float | None
    faults: list[Fault]
    problems: list[Problem] = field(default_factory=list)  # of title and description
    short_answer: int | None = None  # its characters
    pieces: Sequence[tuple[Kind, str]] = ()  # the parsed text


def check(text: str, title: str, description: str, targets: Targets) -> Checked:
    """Check a draft's text (HTML of core.drafts.text), except for repeats of other pages (`repeats`)."""
    content = content_of(text)
    pieces = pieces_of(content)
    running = running_of(pieces)
    number = len(words(running))
    times_used = uses(content, title, targets.terms, targets.language)
    heading = next((words_of for kind, words_of in pieces if kind == "h1"), None)
    passage = passage_of(pieces, targets.query, targets.language)
    faults = [*_headings(pieces), *_length(number, targets), *_short_answer(passage, targets), *_sentences(pieces)]
    faults += [Fault("picture", other=name) for name, alt in pictures_of(text) if not alt.strip()]
    of_snippet = SnippetTexts(title or None, description or None, heading, 1, 1, main_query=targets.query)
    return Checked(
        number,
        reading_ease(running, targets.language),
        [_term(one, times, number) for one, times in zip(targets.terms, times_used, strict=True)],
        coverage(targets.terms, times_used) if targets.terms else None,
        faults[:FAULTS_MAX],
        problems_of(of_snippet, 0, 0, targets.language),
        passage.characters if passage and passage.is_short_answer else None,
        pieces,
    )


def repeats(found: Checked, targets: Targets, runs: Runs) -> list[Fault]:
    """The passages of a checked draft that other pages of the site contain too."""
    running = running_of(found.pieces)
    return _repeated(found.pieces, repeated(running, runs, [targets.page] if targets.page else []))[:FAULTS_MAX]


def _term(term: RelatedTerm, times_used: int, number: int) -> TermChecked:
    low, _, high = (rate * number / 1_000 for rate in term.per_thousand)
    often = times_used >= OFTEN_LEAST and times_used > OFTEN * high
    return TermChecked(
        term.text, term.tier, times_used, low, high, "too often" if often else "used" if times_used else "missing"
    )


def _headings(pieces: Sequence[tuple[Kind, str]]) -> list[Fault]:
    levels = [(int(kind[1]), text) for kind, text in pieces if kind in HEADINGS]
    mains = [text for level, text in levels if level == 1]
    result = [] if mains else [Fault("headings", other="no main heading")]
    result += [Fault("headings", quote=text, other="a second main heading") for text in mains[1:]]
    for (before, _), (level, text) in pairwise(levels):
        if level > before + 1:
            result.append(Fault("headings", quote=text, number=before + 1, other="a heading level is missing"))
    return result


def _length(number: int, targets: Targets) -> list[Fault]:
    if targets.length is None or targets.length[0] <= number <= targets.length[1]:
        return []
    return [Fault("length", number=number, other="short" if number < targets.length[0] else "long")]


def _short_answer(passage: Passage | None, targets: Targets) -> list[Fault]:
    if not targets.short_answer or (passage and passage.heading and passage.is_short_answer):
        return []
    return [Fault("short answer", quote=passage.text if passage else "", number=passage.characters if passage else 0)]


def _sentences(pieces: Sequence[tuple[Kind, str]]) -> list[Fault]:
    result = []
    for kind, text in pieces:
        if kind not in ("p", "li", "td"):
            continue
        if kind == "p" and (number := len(words(text))) > WALL:
            result.append(Fault("wall of text", quote=text, number=number))
        for sentence in sentences_of(text):
            if (number := len(words(sentence))) > LONG_SENTENCE:
                result.append(Fault("long sentence", quote=sentence, number=number))
    return result


def sentences_of(text: str) -> list[str]:
    """The sentences of a text; punctuation within a word or number does not end one.

    >>> sentences_of("Carts cost 9.50 each. Why? Ask us")
    ['Carts cost 9.50 each.', 'Why?', 'Ask us']
    """
    return [one for one in _SENTENCE_ENDS.split(text.strip()) if one]


def _repeated(pieces: Sequence[tuple[Kind, str]], found: Sequence[Repeated]) -> list[Fault]:
    """Repeated passages as problems; each quotes the longest contiguous piece."""
    placed = [(text, word.span()) for kind, text in pieces if kind in RUNNING for word in WORD.finditer(text)]
    result = []
    for one in found:
        stretches = [list(group) for _, group in groupby(placed[one.first : one.end], key=itemgetter(0))]
        longest = max(stretches, key=len, default=[])
        quote = longest[0][0][longest[0][1][0] : longest[-1][1][1]] if longest else ""
        result.append(Fault("repeated", quote=quote, number=one.end - one.first, page=one.page))
    return result
