"""The measures of a site in two periods.

Counts add up over pages; CTR, position and bounce rate are computed from sums, never from pages' own rates. What no page
reports is unknown (None, never 0). A change is now − before; its share of before exists only for counts: a position that
falls by a fifth means nothing.

Example: 40 and 60 clicks now, 50 and 75 before: −25, or −20 %.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import polars as pl

SEARCH = ("clicks", "impressions")
VISITS = ("sessions", "bounces", "conversions", "value")


@dataclass(frozen=True)
class Compared:
    """`now` and `before` in the unit of the measure: counts, CTR and bounce rate 0…1, position in ranks, value in the currency
    of the visits."""

    name: str
    now: float | None
    before: float | None
    change: float | None
    change_share: float | None


def compared(now: Mapping[str, float | None], before: Mapping[str, float | None]) -> list[Compared]:
    """Sums of two periods as measures: clicks, impressions, ctr, position, sessions, bounce_rate, conversions, value; measures
    that neither period has are left out.
    """
    result, compared = _measures(now), _measures(before)
    return [
        Compared(name, one, compared[name], _change(one, compared[name]), _share(name, one, compared[name]))
        for name, one in result.items()
        if one is not None or compared[name] is not None
    ]


def search_sums(rows: pl.DataFrame, ending: str = "") -> dict[str, float | None]:
    """The sums of clicks, impressions and ranks (position · impressions) of pages; `ending`: the suffix of the other period's
    columns. None where the columns are missing.
    """
    if f"clicks{ending}" not in rows.columns:
        return {}
    ranks = (pl.col(f"position{ending}") * pl.col(f"impressions{ending}")).sum().alias("ranks")
    sums = rows.select(*(pl.col(f"{name}{ending}").sum().cast(pl.Float64).alias(name) for name in SEARCH), ranks)
    return sums.to_dicts()[0]


def _measures(sums: Mapping[str, float | None]) -> dict[str, float | None]:
    counts = {name: sums.get(name) for name in (*SEARCH, *VISITS)}
    return {
        "clicks": counts["clicks"],
        "impressions": counts["impressions"],
        "ctr": _over(counts["clicks"], counts["impressions"]),
        "position": _over(sums.get("ranks"), counts["impressions"]),
        "sessions": counts["sessions"],
        "bounce_rate": _over(counts["bounces"], counts["sessions"]),
        "conversions": counts["conversions"],
        "value": counts["value"],
    }


def _over(part: float | None, whole: float | None) -> float | None:
    return part / whole if part is not None and whole else None


def _change(now: float | None, before: float | None) -> float | None:
    return None if now is None or before is None else now - before


def _share(name: str, now: float | None, before: float | None) -> float | None:
    if now is None or not before or name not in (*SEARCH, *VISITS):
        return None
    return now / before - 1
