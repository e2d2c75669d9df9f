"""One table of a file as it is seen before it is loaded."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from zugzwang.core.facts.grains import Source
from zugzwang.core.facts.periods import Period
from zugzwang.intake.fields import Side
from zugzwang.intake.tables import Table
from zugzwang.intake.values import Style


@dataclass(frozen=True)
class Seen:
    """One table of a file before it is loaded: its suggested source, and what is still missing."""

    name: str
    table: Table | None
    refused: str  # why it cannot be read; empty where it can
    source: Source = "search"
    mapping: Mapping[str, int] = field(default_factory=dict)
    missing: Sequence[str] = ()
    style: Style = field(default_factory=Style)
    ambiguous_days: bool = False
    remembered: bool = False
    could_be: tuple[Source, ...] = ()  # other possible sources; the best is `source`
    first_rows: Sequence[Sequence[str]] = ()
    # For a table without days: the days it covers, and the basis; None without one.
    needs_span: bool = False
    span: Period | None = None
    span_from: str = ""
    # The filters of the export, from a small table: name → value.
    filters: Mapping[str, str] = field(default_factory=dict)
    # For search facts: the device and country of all rows, by code, from such a table.
    part: Mapping[str, int] = field(default_factory=dict)
    place: int = 0  # its index among all tables of the file
    monthly: bool = False  # for search or visit facts: each row covers a calendar month, stored as a span
    side: Side | None = None  # for a table with two periods: which of them
