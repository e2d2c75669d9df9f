"""Days whose data look incomplete."""

from collections.abc import Sequence
from datetime import date

import numpy as np

SUDDEN_SHARE = 0.1
NEIGHBOURS_DAYS = 7
ENOUGH = 20  # with fewer clicks a day, a tenth of them can be chance


def sudden_days(days: Sequence[tuple[date, int]]) -> list[date]:
    """Days with at most a tenth of the median of the surrounding days (a week on either side), the mark of a truncated load.

    Example: 100, 90, 8, 110, 95 clicks: the days around the third have a median of 97.5, and 8 is less than a tenth of it.
    """
    counts = np.array([count for _, count in days], dtype=np.float64)
    found = []
    for index, (day, count) in enumerate(days):
        around = np.concatenate(
            [counts[max(index - NEIGHBOURS_DAYS, 0) : index], counts[index + 1 : index + 1 + NEIGHBOURS_DAYS]]
        )
        usual = float(np.median(around)) if around.size else 0.0
        if usual >= ENOUGH and count <= SUDDEN_SHARE * usual:
            found.append(day)
    return found
