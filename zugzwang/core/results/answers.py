"""Featured snippets: who holds them, which could be won, with what passage, and what could be lost.

An opening is a captured featured snippet held by another site, for a query where the site's result is the second to tenth
organic one: featured snippets are won from page one (common practice, no source). The page in the featured snippet usually
loses its organic result (common practice), so one that the site holds is watched, and its passage changed with care.

What the site's page lacks follows from the kind of snippet and the holder's passage: a heading that asks the query; right
below it a paragraph of 40 to 300 characters, a list of as many items as the holder's (three at least), or a table.

Gain, in clicks of the period: the clicks with the snippet minus the row's clicks now. It uses the site's own factors for
snippets of the site and of others; where the site's is unknown, the clicks that others' snippets take; where neither is
known, the clicks at position 1.
"""

from dataclasses import dataclass
from typing import Literal

from zugzwang.core.results.above import Passage
from zugzwang.core.results.blocks import AnswerKind

Advice = Literal["take it", "yours: watch it", "rank on page one first"]
TAKEN_FROM, TAKEN_TO = 2, 10
ITEMS_LEAST = 3


@dataclass(frozen=True)
class Box:
    """A captured featured snippet: its holder, its kind, and the site's rank among organic results (None: not ranked)."""

    ours: bool
    kind: AnswerKind | None
    rank: int | None

    @property
    def is_opening(self) -> bool:
        return not self.ours and self.rank is not None and TAKEN_FROM <= self.rank <= TAKEN_TO


def advice(box: Box) -> Advice:
    if box.ours:
        return "yours: watch it"
    if box.rank is None or box.rank > TAKEN_TO:
        return "rank on page one first"
    return "take it"


def lacking(kind: AnswerKind | None, ours: Passage | None, holder: Passage | None) -> list[str]:
    """What the site's page lacks for a snippet of that kind. `own`, `holder`: the passage below a heading that asks the query;
    None where there is none, or the page is unknown.
    """
    result = [] if ours is not None and ours.heading else ["a heading with the question"]
    if kind == "list":
        wanted = max(ITEMS_LEAST, holder.items if holder else 0)
        if ours is None or ours.items < wanted:
            result.append(f"a list of {wanted} items below it")
    elif kind == "table":
        if ours is None or not ours.cells:
            result.append("a table below it")
    elif kind == "video":
        result.append("a video that shows it")
    elif ours is None or not ours.is_short_answer:
        result.append("an answer of 40 to 300 characters right below it")
    return result


def gain(expected: float, clicks: float, ours: float | None, others: float | None, at_first: float) -> float:
    """Clicks of the period that the snippet would add. `own`, `others`: the site's factors for its own snippets and for
    others' above; None where too little is known. `at_first`: the clicks at position 1.

    Example: 100 expected, 35 clicks under another's snippet that leaves 0.4, an own snippet would bring 1.2 times: 120 − 40
    = 80.
    """
    now = max(clicks, expected * (others if others is not None else 1.0))
    there = expected * ours if ours is not None else expected if others is not None else at_first
    return max(there - now, 0.0)
