"""What a finding is: one declaration that everything else follows from.

The route, the command line, exports, the API's schema, the types and columns of the screens, what a list can be sorted and
filtered by, and the list in docs/methods.md are made from it; nothing else knows a finding's name.
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
from zugzwang.findings.view import ALWAYS, FILTERS, Asked, Branded, View

# What a column holds. "page" and "query" are ids in frames and, once reported, a text with its id next to it (`<name>_id`).
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

    `label` and `explains`: its header, and what that means. `unit`: of its numbers. `shown`: "list" where the list shows it,
    "extra" where a reader may choose it, "data" where it is reported to programs alone. `null`: it may be unknown. `low`:
    sorted upwards first. `choices`: all words it may hold. `shape`: the type of what is no single value. `when`: (field,
    value), shown only where the view asks so. `compared`: shown only next to days compared with. `late`: made of the rows that
    are reported alone (Finding.dress), so nothing can be sorted by it."""

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
        """The column as a list shows it, in words of its own where they are given."""
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

    def included(self, asked: Asked, compared: bool) -> bool:
        """Whether it is reported in answer to what was asked."""
        if self.compared and not compared:
            return False
        return self.when is None or getattr(asked, self.when[0]) == self.when[1]


@dataclass(frozen=True)
class Found:
    """What a finding found in a snapshot: all its `rows`, in its own order, ids in place of texts; `behind`: how many rows of
    what was behind them; `lacking`: what would be needed to say more, in sentences; `more`: what belongs next to the rows."""

    rows: pl.DataFrame
    behind: dict[str, int]
    lacking: list[str] = field(default_factory=list)
    more: dict[str, Any] = field(default_factory=dict)


Frames = Callable[[View, pl.DataFrame], pl.DataFrame]


@dataclass(frozen=True)
class Finding:
    """A question that is answered with rows.

    `makes`: the fields of a view that its rows are made from (with "compare" where it compares, "curve" where the click curve
    is behind its numbers); `chooses`: those that choose among the rows made. `find` gives the rows, from the snapshot alone;
    `order` names the column by which it orders them. `says`: what the chosen rows and what goes with them say, in sentences.
    `dress` adds to rows that are reported what only those need, and what people decided. `next to`: what is reported next to
    the rows that are chosen; `more`: the types of that and of `Found.more`. `choose`: how a field chooses where that is not the
    usual way. `by`: what it is added up by unless asked otherwise. `all_weeks`: of all whole weeks of data, unless days are
    asked for. `decided`: which of its rows are decided. `plan`: its rows are what people decided, so nothing of them is kept.
    `opens`: what its place asks as it opens, made ready after each load. `key`: the columns that name a row among the others.
    `needs`: the kinds of data without which it lists nothing, one of each group, in addition to search data."""

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
    beside: Callable[[View, Found, pl.DataFrame], dict[str, Any]] | None = None
    more: Mapping[str, Any] = field(default_factory=dict)
    choose: Mapping[str, Frames] = field(default_factory=dict)
    decided: Callable[[View, pl.DataFrame], pl.Series] | None = None
    compare: Comparison = "none"
    branded: Branded = "without"
    by: By | None = None
    all_weeks: bool = False
    plan: bool = False
    opens: tuple[Asked, ...] = ()
    key: tuple[str, ...] = ("page", "query")
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
        """What names each of its rows, in the order of the key: ids as they are (none: 0), texts as one checksum."""
        names = [name for name in self.key if name in rows.columns]
        texts = [name for name in names if not rows.schema[name].is_integer()]
        parts = [pl.col(name).fill_null(0).cast(pl.String) for name in names if name not in texts]
        if texts:
            words = pl.concat_str([pl.col(name).cast(pl.String).fill_null("") for name in texts], separator="\n")
            parts.append(words.map_elements(xxhash.xxh64_hexdigest, return_dtype=pl.String))
        return rows.select(pl.concat_str(parts, separator="-").alias("key"))["key"]

    @property
    def sorts(self) -> tuple[str, ...]:
        """What its rows can be sorted by."""
        return tuple(one.name for one in self.columns if one.sortable)
