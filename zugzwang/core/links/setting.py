"""Whether a link that someone took on was set: what the crawl after it says.

  waiting        no one has looked at the page's links since
  set            the page links there in its body, with the anchor that was meant (letters' case and signs ignored)
  set otherwise  it links there in its body with other words
  missing        its links were read since, and it does not

Links in the navigation do not count: the link belongs in a sentence."""

from collections.abc import Collection
from datetime import datetime
from typing import Literal, get_args

from zugzwang.core.words.wording import words

SetState = Literal["waiting", "set", "set otherwise", "missing"]
SET_STATES: tuple[SetState, ...] = get_args(SetState)


def set_state(anchor: str, taken_at: datetime, looked_at: datetime | None, anchors: Collection[str] | None) -> SetState:
    """`looked_at`: when the page's links were last read (None: never); `anchors`: of the links in the body from the page to the
    other (None: none)."""
    if anchors:
        return "set" if not anchor or any(words(one) == words(anchor) for one in anchors) else "set otherwise"
    return "waiting" if looked_at is None or looked_at <= taken_at else "missing"
