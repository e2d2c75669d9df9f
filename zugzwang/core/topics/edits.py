"""People's edits of topics: merged, split off, named, dropped. They are stored by query, not by community number, so they
survive new data: a topic is the one that contains its query now.

Edits apply in the order in which they were made: split off – the given queries leave for a new topic –, merged – the topics
of two queries become one –, then names and drops. A query that is gone changes nothing.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
import numpy.typing as npt

EditKind = Literal["join", "split", "name", "drop"]
EDIT_KINDS: tuple[EditKind, ...] = get_args(EditKind)
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True)
class Edit:
    """`queries`: to merge, one query of each topic; to split off, all that leave; otherwise one query of the topic."""

    kind: EditKind
    queries: tuple[int, ...]
    name: str = ""


@dataclass(frozen=True)
class Edited:
    """The topic of each query by number, names by topic, and dropped topics."""

    topic: Ints
    names: dict[int, str]
    dropped: frozenset[int]


def apply(queries: Ints, topic: Ints, edits: Sequence[Edit]) -> Edited:
    """`queries`: ids, any order; `topic`: the community of each."""
    current, index = topic.copy(), {query: at for at, query in enumerate(queries.tolist())}
    free = int(current.max(initial=-1)) + 1
    for edit in edits:
        known = [index[query] for query in edit.queries if query in index]
        if edit.kind == "split" and known:
            current[known], free = free, free + 1
        elif edit.kind == "join" and len(known) > 1:
            first, *others = dict.fromkeys(current[known].tolist())
            current[np.isin(current, others)] = first
    names: dict[int, str] = {}
    dropped: set[int] = set()
    for edit in edits:
        if edit.kind in ("name", "drop") and edit.queries[0] in index:
            of = int(current[index[edit.queries[0]]])
            if edit.kind == "name":
                names[of] = edit.name
            else:
                dropped.add(of)
    return Edited(current, names, frozenset(dropped))
