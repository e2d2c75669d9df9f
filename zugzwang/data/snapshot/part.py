"""What the parts of a snapshot share."""

from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np
import polars as pl

from zugzwang.core.clicks.lenses import ListedBy
from zugzwang.core.facts.cleaning import LEFT_OUT
from zugzwang.core.facts.grains import (
    PAGE,
    PAGE_QUERY,
    QUERY,
    Grain,
)
from zugzwang.core.facts.periods import Period
from zugzwang.data.models import Site

if TYPE_CHECKING:
    from zugzwang.data.snapshot import Snapshot


class Part(NamedTuple):
    """The selected part of the facts: devices and countries by code; empty means all."""

    devices: tuple[int, ...] = ()
    countries: tuple[int, ...] = ()


WHOLE = Part()


class Setting(NamedTuple):
    """What a site's numbers depend on besides its facts: brand patterns, a curve set by hand, the selected part."""

    patterns: tuple[str, ...] = ()
    points: tuple[tuple[float, float], ...] = ()
    part: Part = WHOLE


class PageMap(NamedTuple):
    """`to[id]` is the id under which a page counts, LEFT_OUT where it counts nowhere; None where no pages are merged. `texts`:
    id, text of pages whose address differs from that of their id.
    """

    to: np.ndarray[Any, np.dtype[np.uint32]] | None
    texts: pl.DataFrame

    def cleaned(self, facts: pl.DataFrame) -> pl.DataFrame:
        """Facts as they count: pages by the ids they merge into, without excluded ones. Callers sum repeated keys."""
        if self.to is None or "page" not in facts.columns:
            return facts
        counted = facts.with_columns(pl.Series("page", self.to[facts["page"].to_numpy()]))
        return counted.filter(pl.col("page") != LEFT_OUT)


# The grain for each kind of list, finest first.
LISTED: dict[ListedBy, Grain] = {"row": PAGE_QUERY, "query": QUERY, "page": PAGE}


def counted(rows: pl.DataFrame, period: Period | None) -> pl.DataFrame:
    """The rows of the days that count in a period."""
    return rows.filter(~pl.col("day").is_in(list(period.without))) if period and period.without else rows


class PartOfSnapshot:
    """A part of a snapshot, with its key and so its cache."""

    def __init__(self, snapshot: "Snapshot") -> None:
        self.snapshot = snapshot

    def __reduce__(self) -> tuple[Any, ...]:
        return type(self), (self.snapshot,)

    @property
    def site(self) -> Site:
        return self.snapshot.site

    @property
    def key(self) -> tuple[int, int]:
        return self.snapshot.key
