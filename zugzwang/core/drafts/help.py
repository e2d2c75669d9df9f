"""Drafting help: the tasks for a text service, the data it gets, and the checks on its suggestions.

No suggestion enters a text by itself: it is reduced to plain words, checked, and shown as a suggestion.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from html import unescape
from typing import Literal, get_args

from selectolax.lexbor import LexborHTMLParser

from zugzwang.core.results.above import SHORT_ANSWER
from zugzwang.core.words.pixels import DESCRIPTION_CHARACTERS, DESCRIPTION_CUT, DESCRIPTION_PX, TITLE_CUT, TITLE_PX, width
from zugzwang.core.words.wording import content_stems, stem, words

HelpTask = Literal["outline", "titles", "descriptions", "short answer", "paragraph"]
HELP_TASKS: tuple[HelpTask, ...] = get_args(HelpTask)
PROPOSALS_MOST, OUTLINE_MOST = 5, 20
LETTERS: Mapping[HelpTask, int] = {
    "outline": 120, "titles": 70, "descriptions": DESCRIPTION_CHARACTERS, "short answer": 290, "paragraph": 800,
}  # fmt: skip
INSTRUCTION_MAX = 4_000
# The instructions for a service, unless a site sets its own.
INSTRUCTIONS: Mapping[HelpTask, str] = {
    "outline": "Propose headings for the page, in the order in which a reader asks. Use questions where people ask them.",
    "titles": "Propose titles that start with the query, describe the page and name no price.",
    "descriptions": "Propose descriptions of one or two sentences with the query and what the reader will find.",
    "short answer": "Answer the query in one or two plain sentences that need no context.",
    "paragraph": "Write one paragraph that explains the term in the context of the query, in plain words.",
}
_SHOWN: Mapping[HelpTask, tuple[float, float]] = {
    "titles": (TITLE_PX, TITLE_CUT), "descriptions": (DESCRIPTION_PX, DESCRIPTION_CUT)
}  # fmt: skip
_BREAKS = re.compile(r"<(?:br|/p|/li|/h\d)\b[^>]*>", re.IGNORECASE)


@dataclass(frozen=True)
class Passage:
    """A passage that a suggestion may rest on, and its page."""

    text: str
    source: str


@dataclass(frozen=True)
class HelpRequest:
    """The request to the service. `term`: only for a paragraph."""

    task: HelpTask
    instruction: str
    query: str
    language: str
    letters: int
    terms: tuple[str, ...] = ()
    questions: tuple[str, ...] = ()
    term: str = ""
    passages: tuple[Passage, ...] = ()


@dataclass(frozen=True)
class Proposed:
    """`faults`: problems in words; a suggestion without any may still be untrue."""

    text: str
    faults: list[str]


def checked(task: HelpTask, proposals: Sequence[str], query: str, term: str = "", language: str = "english") -> list[Proposed]:
    """Suggestions as plain words, without duplicates, with their problems.

    >>> checked("short answer", ["<b>A canoe cart</b> carries the boat to the water."], "canoe cart")
    [Proposed(text='A canoe cart carries the boat to the water.', faults=[])]
    """
    most = OUTLINE_MOST if task == "outline" else PROPOSALS_MOST
    texts = list(dict.fromkeys(text for one in proposals if (text := plain_words(one))))[:most]
    return [Proposed(one[: 4 * LETTERS[task]], _faults(task, one, term or query, language)) for one in texts]


def plain_words(text: str) -> str:
    """The text without markup and leading list markers."""
    body = LexborHTMLParser(_BREAKS.sub(" ", text)).body
    rows = " ".join(unescape(body.text() if body else "").split())
    return re.sub(r"^(?:[-*•#]+|\d+[.)])\s+", "", rows).strip()


def _faults(task: HelpTask, text: str, query: str, language: str) -> list[str]:
    result = []
    if len(text) > LETTERS[task]:
        result.append(f"{len(text) - LETTERS[task]} characters too long")
    elif (task == "titles" and width(text, TITLE_PX) > TITLE_CUT) or (
        task == "descriptions" and width(text, DESCRIPTION_PX) > DESCRIPTION_CUT
    ):
        result.append("too wide: it is cut off on a SERP")
    if task == "short answer" and len(text) < SHORT_ANSWER[0]:
        result.append("too short for an answer")
    lacking = set(content_stems(query, language)) - set(content_stems(text, language))
    if task != "outline" and lacking:
        result.append(f"lacks “{' '.join(one for one in words(query) if stem(one, language) in lacking)}”")
    return result
