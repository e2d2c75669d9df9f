"""The declaration of a finding, from which everything else follows.

The route, the command line, exports, the API schema, the screens' types and columns, sorting and filtering, and the list in
docs/methods.md are generated from it; nothing else knows a finding's name.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from typing import Any, Literal

import polars as pl
import xxhash

from zugzwang.core.clicks.evidence import GRADES
from zugzwang.core.facts.grains import Source
from zugzwang.core.facts.periods import Comparison
from zugzwang.core.time.change import By
from zugzwang.core.worth.moves import Suggestion
from zugzwang.findings.view import ALWAYS, FILTERS, Branded, View, ViewOptions

# The content of a column. "page" and "query" are ids in frames and, when returned, texts with their ids next to them
# (`<name>_id`).
Kind = Literal[
    "page", "query", "text", "word", "words", "flag", "count", "amount", "share", "rate", "position", "money", "grade", "day",
    "time", "shape",
]  # fmt: skip
PYTHON: Mapping[str, Any] = {
    "page": str, "query": str, "text": str, "word": str, "words": list[str], "flag": bool, "count": int, "amount": float,
    "share": float, "rate": float, "position": float, "money": float, "grade": Literal[*GRADES], "day": date, "time": datetime,
}  # fmt: skip
NAMED = ("page", "query")


@dataclass(frozen=True)
class Column:
    """One column of a finding's rows.

    `label` and `explains`: its header and tooltip. `unit`: of its numbers. `shown`: "list" where the list shows it, "extra"
    where readers may add it, "data" for programs only. `null`: it may be unknown. `low`: sorts ascending first. `choices`:
    the possible words. `shape`: the type of a nested value. `when`: (field, value), shown only in such a view. `compared`:
    shown only in a comparison. `late`: computed only for the returned rows (Finding.dress), so it cannot be sorted by.
    """

    name: str
    kind: Kind
    label: str = ""
    explains: str = ""
    unit: str = ""
    shown: Literal["list", "extra", "data"] = "data"
    null: bool = False
    low: bool = False
    choices: tuple[str, ...] = ()
    shape: Any = None
    when: tuple[str, str] | None = None
    compared: bool = False
    late: bool = False

    def listed(self, label: str = "", explains: str = "", **more: Any) -> "Column":
        """The column as a list shows it, with its own label where given."""
        result = {"label": label or self.label, "explains": explains or self.explains, "shown": "list", **more}
        return replace(self, **result)

    @property
    def sortable(self) -> bool:
        return not self.late and self.kind not in ("words", "shape")

    @property
    def python(self) -> Any:
        """Its type over HTTP."""
        if self.shape is not None:
            return self.shape
        return Literal[*self.choices] if self.choices else PYTHON[self.kind]

    @property
    def optional(self) -> bool:
        return self.null or self.compared or self.when is not None

    def included(self, options: ViewOptions, compared: bool) -> bool:
        """Whether it is part of the answer to this view."""
        if self.compared and not compared:
            return False
        return self.when is None or getattr(options, self.when[0]) == self.when[1]


@dataclass(frozen=True)
class Found:
    """The result of a finding: all its `rows`, in its own order, with ids instead of texts; `behind`: how many rows they were
    computed from; `lacking`: data that would allow it to say more, in sentences; `more`: further values for the answer.
    """

    rows: pl.DataFrame
    behind: dict[str, int]
    lacking: list[str] = field(default_factory=list)
    more: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Proposal:
    """A move, filled in: its kind, effort and lever, expected clicks a month (None: unknown), evidence and reason."""

    move: Suggestion
    gain: float | None
    gain_cautious: float | None
    evidence: str
    reason: str


@dataclass(frozen=True)
class Proposes:
    """The moves that a finding proposes.

    `usual`: for a row, whose gain is its part of the page's account; `explained`: instead of it where SERP features explain
    the row's low CTR. `fill`: from the finding's own rows, one proposal each, in their order. `absent`: what is said, and what
    to do, where a subject is in none of its rows; without it, such a subject has no gain.
    """

    usual: Suggestion | None = None
    explained: Suggestion | None = None
    fill: Callable[[View, pl.DataFrame], list[Proposal]] | None = None
    absent: tuple[str, str] | None = None


Frames = Callable[[View, pl.DataFrame], pl.DataFrame]


@dataclass(frozen=True)
class Finding:
    """A question whose answer is a list of rows.

    `makes`: the view fields that its rows depend on (with "compare" where it compares, "curve" where it uses the click
    curve); `chooses`: the fields that filter its rows. `find` computes the rows from the snapshot only; `order` names the
    column they are ordered by. `says`: sentences about the filtered rows. `dress` adds columns to returned rows that only
    those need, and people's decisions. `extras`: further values for the filtered rows; `more`: the types of these and of
    `Found.more`. `choose`: how a field filters where that is unusual. `by`: the default grouping. `all_weeks`: covers all
    whole weeks of data unless days are requested. `decided`: which rows have a decision. `plan`: its rows are people's
    decisions, so they are not cached. `opens`: the default view of its place, computed after each load. `key`: the columns
    that identify a row. `proposes`: the moves for its rows. `place`: of the
    screens, and which list of it; none where a screen draws it in its own way. `needs`: the kinds of data without which it
    lists nothing, one of each group, in addition to search data.
    """

    name: str
    title: str
    question: str
    method: str
    makes: tuple[str, ...]
    chooses: tuple[str, ...]
    columns: tuple[Column, ...]
    find: Callable[[View], Found]
    says: Callable[[View, Found, pl.DataFrame, dict[str, Any]], list[str]]
    claims: tuple[str, str] = ("", "")
    order: str = ""
    dress: Frames | None = None
    extras: Callable[[View, Found, pl.DataFrame], dict[str, Any]] | None = None
    more: Mapping[str, Any] = field(default_factory=dict)
    choose: Mapping[str, Frames] = field(default_factory=dict)
    decided: Callable[[View, pl.DataFrame], pl.Series] | None = None
    compare: Comparison = "none"
    branded: Branded = "without"
    by: By | None = None
    all_weeks: bool = False
    plan: bool = False
    opens: tuple[ViewOptions, ...] = ()
    key: tuple[str, ...] = ("page", "query")
    proposes: Proposes = Proposes()
    place: tuple[str, int] = ("", 0)
    needs: tuple[tuple[Source, ...], ...] = ()

    def __post_init__(self) -> None:
        unknown = {*self.makes, *self.chooses} - {*FILTERS, *ALWAYS, "compare", "curve"}
        if unknown:
            raise ValueError(f"{self.name} looks at {unknown}, which no view has")

    @property
    def looks_at(self) -> tuple[str, ...]:
        return (*self.makes, *self.chooses)

    def column(self, name: str) -> Column | None:
        return next((one for one in self.columns if one.name == name), None)

    def keys(self, rows: pl.DataFrame) -> pl.Series:
        """The identity of each row, in the order of the key: ids as they are (none: 0), texts as one checksum."""
        names = [name for name in self.key if name in rows.columns]
        texts = [name for name in names if not rows.schema[name].is_integer()]
        parts = [pl.col(name).fill_null(0).cast(pl.String) for name in names if name not in texts]
        if texts:
            words = pl.concat_str([pl.col(name).cast(pl.String).fill_null("") for name in texts], separator="\n")
            parts.append(words.map_elements(xxhash.xxh64_hexdigest, return_dtype=pl.String))
        return rows.select(pl.concat_str(parts, separator="-").alias("key"))["key"]

    @property
    def sorts(self) -> tuple[str, ...]:
        """The columns that its rows can be sorted by."""
        return tuple(one.name for one in self.columns if one.sortable)
