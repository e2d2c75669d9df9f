"""The seasonality of a topic: each month's share of a year's searches, and when its page must be ready.

Index: a month's searches divided by the mean month's, so 1 is average. A topic is **seasonal** where its queries agree on
the order of months beyond chance – Friedman's test with months as treatments and the topic's queries as blocks (Friedman
1937), at 1 in 1,000 – and its peak month is at least PEAK_LEAST of the mean. With fewer than QUERIES_LEAST queries
agreement cannot be tested: then the peak must reach ALONE_LEAST.

Ready by: two months before the index exceeds 1 on its way to the peak, because a page takes that long to be found (common
practice, no source; two months are our own choice).
"""

from dataclasses import dataclass
from datetime import date

import numpy as np
import numpy.typing as npt
import scipy

PEAK_LEAST, ALONE_LEAST = 1.25, 1.75
QUERIES_LEAST, QUERIES_MOST = 4, 200
CHANCE = 0.001
MONTHS_AHEAD = 2
Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Season:
    """`index`: twelve numbers, January first, mean 1; `peak`: the peak month (1…12); `rises`: the month in which the index
    exceeds 1 on the way to it. Both None for a topic without seasonality.
    """

    index: tuple[float, ...]
    peak: int | None
    rises: int | None


def season(searches: Floats) -> Season | None:
    """`searches`: queries × 12 months, January first, the most searched query first. None without searches.

    >>> season(np.array([[10, 10, 10, 10, 20, 40, 40, 20, 10, 10, 10, 10.0]])).peak
    6
    """
    sums = searches.sum(axis=0)
    if not sums.sum():
        return None
    index = sums / sums.mean()
    result = tuple(float(one) for one in index)
    if not _is_seasonal(searches, index):
        return Season(result, None, None)
    peak = int(index.argmax())
    rises = peak
    while index[(rises - 1) % 12] > 1 and (rises - 1) % 12 != peak:
        rises = (rises - 1) % 12
    return Season(result, peak + 1, rises + 1)


def _is_seasonal(searches: Floats, index: Floats) -> bool:
    result = searches[(searches > 0).sum(axis=1) >= 6][:QUERIES_MOST]
    if len(result) < QUERIES_LEAST:
        return bool(index.max() >= ALONE_LEAST)
    if index.max() < PEAK_LEAST:
        return False
    return float(scipy.stats.friedmanchisquare(*result.T).pvalue) < CHANCE


def ready_by(rises: int, today: date) -> date:
    """The first day of the month by which a page must be ready for the next season.

    >>> ready_by(5, date(2026, 11, 26)), ready_by(12, date(2026, 11, 26))
    (datetime.date(2027, 3, 1), datetime.date(2026, 10, 1))
    """
    year = today.year if rises > today.month else today.year + 1
    month = rises - MONTHS_AHEAD
    return date(year, month, 1) if month > 0 else date(year - 1, month + 12, 1)
