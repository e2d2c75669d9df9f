"""Two people's changes of one text, put together by blocks; and how two versions differ, word by word.

What only one of them changed is taken. A block that both changed in different ways is a conflict, and stands in the result as
both left it, to be chosen between. The merge is that of three versions (Khanna, Kunal & Pierce 2007; the package merge3).
"""

import difflib
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from html import unescape
from typing import Any, Literal

import merge3

_BETWEEN = "\0"  # so that changes of two blocks side by side do not meet
_WORDS = re.compile(r"<[^>]*>|\s+|[^\s<]+")


@dataclass(frozen=True)
class Merged:
    """A stretch of a merged text, as blocks. `theirs` is None where nothing is in doubt; else both are told."""

    mine: tuple[str, ...]
    theirs: tuple[str, ...] | None = None


def merge(base: Sequence[str], mine: Sequence[str], theirs: Sequence[str]) -> list[Merged]:
    """Merge `mine` and `theirs`, which were both made of `base`.

    >>> merge(["a", "b"], ["A", "b"], ["a", "B"])
    [Merged(mine=('A', 'B'), theirs=None)]
    >>> merge(["a"], ["x"], ["y"])
    [Merged(mine=('x',), theirs=('y',))]
    """
    told: list[Merged] = []
    matcher: Any = _Exact  # the library's own protocol asks for an argument that it never gives
    made = merge3.Merge3(_parted(base), _parted(mine), _parted(theirs), sequence_matcher=matcher)
    for kind, *lines_of in made.merge_groups():
        if kind == "conflict":
            told.append(Merged(*(_blocks(one) for one in lines_of[-2:])))
        else:
            certain = _blocks(lines_of[0])
            if told and told[-1].theirs is None:
                told[-1] = Merged((*told[-1].mine, *certain))
            elif certain:
                told.append(Merged(certain))
    return told


class _Exact(difflib.SequenceMatcher[str]):
    """As the library has it, without its guess that what stands often – here the signs between blocks – says nothing."""

    def __init__(self, isjunk: Callable[[str], bool] | None, a: Sequence[str], b: Sequence[str]) -> None:
        super().__init__(isjunk, a, b, autojunk=False)


def _parted(blocks: Sequence[str]) -> list[str]:
    return [line for block in blocks for line in (block, _BETWEEN)]


def _blocks(lines: Sequence[str]) -> tuple[str, ...]:
    return tuple(one for one in lines if one != _BETWEEN)


@dataclass(frozen=True)
class Difference:
    """A stretch of two versions: `kept`, `added` or `removed` text of one block."""

    what: Literal["kept", "added", "removed"]
    text: str


def differences(before: Sequence[str], after: Sequence[str]) -> list[list[Difference]]:
    """How two versions differ: block by block, word by word where a block was changed.

    >>> differences(["<p>wide tyres</p>"], ["<p>narrow tyres</p>"])
    [[Difference(what='removed', text='wide'), Difference(what='added', text='narrow'), Difference(what='kept', text=' tyres')]]
    """
    told: list[list[Difference]] = []
    for what, first, last, start, end in _Exact(None, before, after).get_opcodes():
        if what == "equal":
            told += [[Difference("kept", plain(one))] for one in before[first:last]]
            continue
        pairs = min(last - first, end - start)
        told += [_by_word(*both) for both in zip(before[first : first + pairs], after[start : start + pairs], strict=True)]
        told += [[Difference("removed", plain(one))] for one in before[first + pairs : last]]
        told += [[Difference("added", plain(one))] for one in after[start + pairs : end]]
    return told


def _by_word(before: str, after: str) -> list[Difference]:
    one, other = (_WORDS.findall(plain(text)) for text in (before, after))
    told: list[Difference] = []
    for what, first, last, start, end in _Exact(None, one, other).get_opcodes():
        if what == "equal":
            told.append(Difference("kept", "".join(one[first:last])))
            continue
        if last > first:
            told.append(Difference("removed", "".join(one[first:last])))
        if end > start:
            told.append(Difference("added", "".join(other[start:end])))
    return told


def plain(block: str) -> str:
    """The words of a block, items and cells apart."""
    parted = re.sub(r"</(?:li|td|th|tr)>", " ", block)
    return " ".join(unescape(re.sub(r"<[^>]*>", "", parted)).split())
