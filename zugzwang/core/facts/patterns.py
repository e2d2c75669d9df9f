r"""Patterns: how an analyst selects queries or addresses.

A pattern is a regular expression, matched anywhere in the text, ignoring case; a plain word is one too. The engine is
linear in the length of the text, but a compiled pattern can be ten thousand times as large as its source: `\w{200}` takes
0.15 s and up to 44 MB, and stays in the engine's cache. So the compiled size is estimated first, and bounded.
"""

import re
from collections.abc import Sequence

import polars as pl

MAX_PATTERN_LENGTH = 200
# Estimated size, in units of about a microsecond of compiling (measured with polars 2.1: a class of all Unicode letters
# takes 700, one of all digits 75, any character 25, a range 6, a letter 2; repeats multiply).
SIZE_MAX, SIZE_OF_ALL_MAX = 40_000, 400_000
_LETTER, _RANGE, _ANY, _DIGITS, _CLASS = 2.0, 6.0, 25.0, 75.0, 700.0
_TOKEN = re.compile(
    r"(?P<escape>\\[pP]\{[^}]*\}|\\x\{[^}]*\}|\\.)|(?P<flags>\(\?[\w-]+\))|(?P<opens>\((?:\?(?:P?<\w+>|[\w-]*:))?)|(?P<closes>\))"
    r"|(?P<class>\[)|(?P<repeat>[*+?]|\{(?P<least>\d+)(?P<comma>,)?(?P<most>\d*)\})|(?P<other>.)",
    re.DOTALL,
)


class PatternError(ValueError):
    """An unusable pattern: `pattern` and what is wrong with it."""

    def __init__(self, pattern: str, reason: str) -> None:
        super().__init__(f"the pattern “{pattern}” cannot be used: {reason}")
        self.pattern, self.reason = pattern, reason

    def __reduce__(self) -> tuple[type["PatternError"], tuple[str, str]]:
        return PatternError, (self.pattern, self.reason)


def compiled_size(pattern: str) -> float:
    r"""The approximate size of the compiled pattern, in units of SIZE_MAX. Invalid patterns have a size too.

    >>> compiled_size("red kayak"), compiled_size(r"(?:\w{10}){3}"), compiled_size(r"[a-z\d]+")
    (18.0, 21000.0, 79.0)
    """
    sums, last = [0.0], 0.0  # of the open groups, the innermost last; of the atom that a repeat applies to
    at = 0
    while at < len(pattern) and (found := _TOKEN.match(pattern, at)):
        at = found.end()
        if found["opens"]:
            sums.append(0.0)
            continue
        if found["repeat"]:
            times = max(int(found["most"] or found["least"] or 1) + bool(found["comma"] and not found["most"]), 1)
            last, grown = last * times, last * (times - 1)
            sums[-1] += grown
            continue
        if found["closes"]:
            last = sums.pop() if len(sums) > 1 else 0.0
        elif found["class"]:
            at, last = _class_end(pattern, at)
        else:
            last = (
                0.0
                if found["flags"]
                else _size_of(found["escape"])
                if found["escape"]
                else _ANY
                if found[0] == "."
                else _LETTER
            )
        sums[-1] += last
    return sum(sums)


def _class_end(pattern: str, at: int) -> tuple[int, float]:
    """Where the bracketed class that begins before `at` ends, and its size; classes can be nested."""
    depth, size = 1, _RANGE
    while depth and at < len(pattern):
        if pattern[at] == "\\":
            escape = _TOKEN.match(pattern, at)
            size += _size_of(escape[0]) - _LETTER if escape else 0.0
            at = escape.end() if escape else at + 1
            continue
        depth += {"[": 1, "]": -1}.get(pattern[at], 0)
        at += 1
    return at, size


def _size_of(escape: str) -> float:
    if escape[1] in "wWpP":
        return _CLASS
    return _DIGITS if escape[1] in "dDsS" else _LETTER


def cleaned_patterns(patterns: Sequence[str]) -> tuple[str, ...]:
    """The patterns without spaces around them and duplicates. Raises PatternError at the first that is too long or would be
    too large.
    """
    cleaned = tuple(dict.fromkeys(pattern.strip() for pattern in patterns if pattern.strip()))
    for pattern in cleaned:
        if len(pattern) > MAX_PATTERN_LENGTH:
            raise PatternError(pattern, f"it is longer than {MAX_PATTERN_LENGTH} characters")
        if compiled_size(pattern) > SIZE_MAX:
            raise PatternError(pattern, "it repeats too much: compiled it would be too large")
    if cleaned and (size := sum(map(compiled_size, cleaned))) > SIZE_OF_ALL_MAX:
        raise PatternError(
            max(cleaned, key=compiled_size), f"together the {len(cleaned)} patterns are too large ({size:,.0f} units)"
        )
    return cleaned


def check_patterns(patterns: Sequence[str]) -> tuple[str, ...]:
    """The patterns without spaces around them and duplicates. Raises PatternError at the first invalid one. Compiles each."""
    cleaned = cleaned_patterns(patterns)
    for pattern in cleaned:
        try:
            pl.select(pl.lit("").str.contains(f"(?i)(?:{pattern})"))
        except pl.exceptions.ComputeError as error:
            # The engine's message shows the position under the pattern and repeats our expression: its own words come last
            # before that.
            message = " ".join(str(error).partition("This error occurred")[0].split())
            raise PatternError(pattern, message.rpartition("error: ")[2]) from error
    return cleaned


def matches(text: pl.Expr, patterns: Sequence[str]) -> pl.Expr:
    """True where a text matches any of the patterns; False everywhere without patterns."""
    if not patterns:
        return pl.lit(False)
    joined = "|".join(f"(?:{pattern})" for pattern in patterns)
    return text.str.contains(f"(?i){joined}")
