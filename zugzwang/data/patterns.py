"""Validated patterns.

Patterns are compiled in a bounded process the first time; accepted ones are remembered, so patterns given again – in an
address, say – cost nothing. Stored patterns were validated before and are used as they are.
"""

import threading
from collections import OrderedDict
from collections.abc import Sequence

from zugzwang import bounded
from zugzwang.core.facts.patterns import PatternError, check_patterns, cleaned_patterns
from zugzwang.errors import Invalid

LETTERS_MAX, NUMBER_MAX = 500, 200
REMEMBERED_MAX = 5_000
_accepted: OrderedDict[str, None] = OrderedDict()
_guard = threading.Lock()


def patterns_for(patterns: Sequence[str], field: str = "patterns", most: int = NUMBER_MAX) -> tuple[str, ...]:
    """The patterns without spaces around them and duplicates. Raises Invalid with the unusable one."""
    longest = max(map(len, patterns), default=0)
    if longest > LETTERS_MAX:
        raise Invalid(f"A pattern has {longest:,} letters.", f"Use at most {LETTERS_MAX}; several patterns are allowed.", field)
    if len(patterns) > most:
        raise Invalid(f"There are {len(patterns):,} patterns.", f"Use at most {most:,}: join some with |.", field)
    try:
        cached = cleaned_patterns(patterns)
        new = [one for one in cached if one not in _accepted]
        if new:
            bounded.run(bounded.PATTERNS, check_patterns, new)
    except PatternError as error:
        raise Invalid(str(error), "Use a plain word or a regular expression.", field) from error
    with _guard:
        for one in cached:
            _accepted[one] = None
            _accepted.move_to_end(one)
        while len(_accepted) > REMEMBERED_MAX:
            _accepted.popitem(last=False)
    return cached
