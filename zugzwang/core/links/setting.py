"""Whether an accepted link was set, from the next crawl.

  waiting        the page was not crawled since
  set            the page's body links there with the intended anchor (ignoring case and punctuation)
  set otherwise  the page's body links there with another anchor
  missing        the page was crawled since, and the link is not there

Navigation links do not count: the link belongs in a sentence.
"""

from collections.abc import Collection
from datetime import datetime
from typing import Literal, get_args

from zugzwang.core.words.wording import words

SetState = Literal["waiting", "set", "set otherwise", "missing"]
SET_STATES: tuple[SetState, ...] = get_args(SetState)


def set_state(anchor: str, taken_at: datetime, looked_at: datetime | None, anchors: Collection[str] | None) -> SetState:
    """`looked_at`: when the page's links were last read (None: never); `anchors`: of body links from the page to the other
    (None: no link).
    """
    if anchors:
        return "set" if not anchor or any(words(one) == words(anchor) for one in anchors) else "set otherwise"
    return "waiting" if looked_at is None or looked_at <= taken_at else "missing"
