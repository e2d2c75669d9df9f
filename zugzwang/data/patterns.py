"""Patterns that a person gives, checked."""

from collections.abc import Sequence

from zugzwang.core.facts.patterns import PatternError, check_patterns
from zugzwang.errors import Invalid

LETTERS_MAX = 500


def patterns_for(patterns: Sequence[str], field: str = "patterns") -> tuple[str, ...]:
    """The patterns, with blanks and repeats gone; Invalid names the one that cannot be read."""
    longest = max(map(len, patterns), default=0)
    if longest > LETTERS_MAX:
        raise Invalid(f"A pattern has {longest:,} letters.", f"Use at most {LETTERS_MAX}; several patterns may stand.", field)
    try:
        return check_patterns(patterns)
    except PatternError as error:
        raise Invalid(str(error), "A plain word will do; a regular expression may stand too.", field) from error
