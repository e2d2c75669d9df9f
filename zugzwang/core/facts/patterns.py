"""Patterns: how an analyst says which queries or addresses are meant.

A pattern is a regular expression, matched anywhere in the text, letters' case ignored; a plain word is one too. The engine
is linear in the length of the text, so no pattern can stall the application.
"""

from collections.abc import Sequence

import polars as pl

MAX_PATTERN_LENGTH = 200


class PatternError(ValueError):
    """A pattern that cannot be read: `pattern` and what is wrong with it."""

    def __init__(self, pattern: str, reason: str) -> None:
        super().__init__(f"the pattern “{pattern}” cannot be read: {reason}")
        self.pattern = pattern


def check_patterns(patterns: Sequence[str]) -> tuple[str, ...]:
    """The patterns without blanks and repeats; raises PatternError at the first that is none."""
    kept = tuple(dict.fromkeys(pattern.strip() for pattern in patterns if pattern.strip()))
    for pattern in kept:
        if len(pattern) > MAX_PATTERN_LENGTH:
            raise PatternError(pattern, f"it is longer than {MAX_PATTERN_LENGTH} characters")
        try:
            pl.select(pl.lit("").str.contains(f"(?i)(?:{pattern})"))
        except pl.exceptions.ComputeError as error:
            raise PatternError(pattern, " ".join(str(error).split())) from error
    return kept


def matches(text: pl.Expr, patterns: Sequence[str]) -> pl.Expr:
    """True where a text matches any of the patterns; false everywhere without patterns."""
    if not patterns:
        return pl.lit(False)
    joined = "|".join(f"(?:{pattern})" for pattern in patterns)
    return text.str.contains(f"(?i){joined}")
