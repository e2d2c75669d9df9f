"""Patterns that a person gives, checked."""

from collections.abc import Sequence

from zugzwang.core.facts.patterns import PatternError, check_patterns
from zugzwang.errors import Invalid


def patterns_for(patterns: Sequence[str], field: str = "patterns") -> tuple[str, ...]:
    """The patterns, with blanks and repeats gone; Invalid names the one that cannot be read."""
    try:
        return check_patterns(patterns)
    except PatternError as error:
        raise Invalid(str(error), "A plain word will do; a regular expression may stand too.", field) from error
