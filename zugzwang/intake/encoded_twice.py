"""Text that was encoded twice: UTF-8 that a program took for Latin-1 and wrote as UTF-8 again ("fÃ¼r" for "für").

ftfy decides what is damaged and how to repair it. Searchers type such text too, so a few damaged texts among good ones
stay: the file is repaired only where most of its texts with non-ASCII letters are damaged.
"""

import re
from collections.abc import Iterable
from pathlib import Path

from ftfy import fix_encoding
from ftfy.badness import is_bad

ENCODED_TWICE = "utf-8 twice"
LINES_AT_ONCE = 10_000
# A quick test for most such files, over many lines at once; ftfy itself is slower, and repairs mixed text.
_BETWEEN = re.compile(r"[\s,;|\"]+")
_USUAL = "sloppy-windows-1252"


def example_of(texts: Iterable[str]) -> tuple[str, str] | None:
    """One of the texts before and after repair, where most texts with non-ASCII letters were encoded twice."""
    beyond = [text for text in texts if not text.isascii()]
    bad = [(text, repaired) for text in beyond if is_bad(text) and (repaired := fix_encoding(text)) != text]
    if len(bad) * 2 <= len(beyond):
        return None
    different = ((before, after) for text, repaired in bad for before, after in _words(text, repaired) if before != after)
    return next(different, (bad[0][0][:80], bad[0][1][:80]))


def _words(text: str, repaired: str) -> list[tuple[str, str]]:
    before, after = _BETWEEN.split(text), _BETWEEN.split(repaired)
    return [*zip(before, after, strict=True)] if len(before) == len(after) else [(text[:80], repaired[:80])]


def repair(path: Path, copy: Path) -> None:
    """Rewrite a UTF-8 text with its lines repaired."""
    with (
        path.open(encoding="utf-8-sig", errors="replace", newline="") as old,
        copy.open("w", encoding="utf-8", newline="") as new,
    ):
        while lines := old.readlines(LINES_AT_ONCE * 100):
            new.write(_repaired("".join(lines)))


def _repaired(text: str) -> str:
    try:
        return text.encode(_USUAL).decode("utf-8")
    except UnicodeError:
        return "".join(line if line.isascii() else fix_encoding(line) for line in text.splitlines(keepends=True))
