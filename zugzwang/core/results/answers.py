"""Answer boxes: who holds them, which could be taken, with what passage, and what one may lose.

An opening is a captured featured snippet that is not the site's own, for a query where our result is the second to tenth
organic one: boxes are taken from page one (common practice, no source). A page that takes the box has no organic result below
it (common practice), so a box of your site is watched, and its passage changed with care.

What the site's own lacks is read off the kind of the box and the holder's passage: a heading that asks the query; right below
it a paragraph of 40 to 300 characters, a list of as many items as the holder's (three at least), or a table.

Gain, in clicks of the period: what the box would bring beyond what the row has now, by the site's own factors for a box of the
site and of others; where none of the site is known, what the box of others takes; where neither is, what first position would
bring."""

from dataclasses import dataclass
from typing import Literal

from zugzwang.core.results.above import Passage
from zugzwang.core.results.blocks import AnswerKind

Advice = Literal["take it", "yours: watch it", "rank on page one first"]
TAKEN_FROM, TAKEN_TO = 2, 10
ITEMS_LEAST = 3


@dataclass(frozen=True)
class Box:
    """A captured featured snippet: whose it is, its kind, and your rank among the organic results (None: none of them)."""

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
    """What our page lacks of an answer of that kind. `the site's own`, `holder`: what is below a heading that asks the query;
    None where there is no such passage, or the page is not known."""
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
    """Clicks of the period that the box would bring. `the site's own`, `others`: the site's factors for a box of your site and
    of others above; None where too little is known. `at_first`: the clicks at first position.

    Worked: 100 expected, 35 clicked under another's box that leaves 0.4, the site's own would bring 1.2 times: 120 − 40 = 80.
    """
    now = max(clicks, expected * (others if others is not None else 1.0))
    there = expected * ours if ours is not None else expected if others is not None else at_first
    return max(there - now, 0.0)
