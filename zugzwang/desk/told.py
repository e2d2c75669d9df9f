"""The answer to a diagnosis: rows, and what a reader needs to judge them."""

from dataclasses import dataclass, field
from typing import Any

from zugzwang.desk.scope import Settled


@dataclass(frozen=True)
class Told:
    """`rows`: texts in place of ids (ids beside them as `<name>_id`). `sentences`: what they say in plain words. `behind`: how
    many rows of what stood behind them. `lacking`: what would be needed to say more, in sentences."""

    settled: Settled
    rows: list[dict[str, Any]]
    sentences: list[str]
    behind: dict[str, int]
    lacking: list[str] = field(default_factory=list)
    more: dict[str, Any] = field(default_factory=dict)
