"""Missing queries: a page ranks for them but mentions them too little, too late or not at all.

A row is one of: missing; only in other forms; late – an exact mention, but first in the second half of the words and in no
heading; present. Present queries are left unchanged, or reduced where their density exceeds the upper quartile of the competing
pages: that is stuffing. Other forms in title or heading are left unchanged too. Otherwise the first that applies (our own
choice, no source):

  resolve the clash first                    several pages compete for the query
  move it up                                 mentioned, but late
  link to the page that covers it            another page of the site fits it closely
  write a page for it                        the page is about something else (fit off)
  add it to the title                        it is the page's main query
  add it as a heading, with a short answer   it is a question
  add it to the text                         everything else
"""

from dataclasses import dataclass
from typing import Literal, get_args

from zugzwang.core.pages.fit import Fit
from zugzwang.core.words.occurrences import Occurrences
from zugzwang.core.words.wording import words

OnPage = Literal["missing", "other forms", "low on the page", "on the page"]
ON_PAGE: tuple[OnPage, ...] = get_args(OnPage)
LATE = 0.5
PROMINENT = ("title", "main heading", "heading")
_ASKS = frozenset(
    [
        "how",
        "what",
        "where",
        "which",
        "who",
        "whose",
        "whom",
        "when",
        "why",
        "can",
        "could",
        "do",
        "does",
        "did",
        "is",
        "are",
        "was",
        "were",
        "should",
        "will",
        "would",
    ]
)


@dataclass(frozen=True)
class Context:
    """Other data about a row. `usual_high`: exact mentions in 1,000 words at the upper quartile of the competing pages; None
    where unknown.
    """

    fit: Fit | None
    in_clash: bool = False
    another_says_it: bool = False
    is_main: bool = False
    usual_high: float | None = None


def on_page_of(found: Occurrences) -> OnPage:
    if not found.exactly:
        return "other forms" if found.in_other_forms else "missing"
    late = found.first_at is not None and found.first_at > LATE and not set(found.where) & {*PROMINENT, "first 100 words"}
    return "low on the page" if late else "on the page"


def asks(query: str) -> bool:
    """Whether a query is a question, by its first word (English) or a question mark.

    >>> asks("how long should a paddle be"), asks("kayak paddle")
    (True, False)
    """
    result = words(query)
    return query.rstrip().endswith("?") or (len(result) > 1 and result[0] in _ASKS)


def what_to_do(query: str, found: Occurrences, extras: Context) -> str:
    on_page = on_page_of(found)
    stuffed = extras.usual_high is not None and found.exactly > 2 and found.per_thousand > extras.usual_high
    if on_page == "on the page":
        return "use it less often" if stuffed else "leave it"
    if on_page == "other forms" and set(found.where) & set(PROMINENT):
        return "leave it"
    if extras.in_clash:
        return "resolve the clash first"
    if on_page == "low on the page":
        return "move it up"
    if extras.another_says_it:
        return "link to the page that covers it"
    if extras.fit == "off" and on_page == "missing":
        return "write a page for it"
    if extras.is_main:
        return "add it to the title"
    return "add it as a heading, with a short answer" if asks(query) else "add it to the text"
