"""Search facts: clicks, impressions and position."""

from collections.abc import Sequence

import polars as pl

from zugzwang.core.facts.grains import DAY, PAGE, PAGE_QUERY, QUERY, SEARCH_GRAINS
from zugzwang.core.words import sentences
from zugzwang.core.words.sentences import few
from zugzwang.data.models import Site
from zugzwang.intake.header_words import OTHER_WORDS
from zugzwang.intake.kinds.kind import (
    COUNTRY,
    DAY_WORDS,
    DEVICE,
    MONTH_WORDS,
    PAGE_WORDS,
    QUERY_WORDS,
    ROW,
    Check,
    Field,
    GrainLoaded,
    Kind,
    Making,
    Unsound,
)
from zugzwang.intake.kinds.making import filled
from zugzwang.intake.kinds.spans import spans_said

CTR_TOLERANCE = 0.0006  # a CTR written as 3.4 % or 0.034 is rounded by up to half of 0.1 %
EXAMPLES = 20


def _rows(rows: pl.DataFrame, making: Making) -> pl.DataFrame:
    if "position_sum" in rows.columns and "position" not in rows.columns:
        # Position sums count from 0 (common practice, no source).
        rows = rows.with_columns(position=pl.col("position_sum") / pl.col("impressions") + 1)
    shown = rows.filter(pl.col("impressions") > 0)
    making.made.never_shown = rows.height - shown.height
    if "ctr" in rows.columns:
        frame = shown.filter(pl.col("ctr").is_not_null())
        differs = frame.filter((pl.col("ctr") - pl.col("clicks") / pl.col("impressions")).abs() > CTR_TOLERANCE)
        making.made.ctr_differs = differs.height
        making.made.ctr_differs_first = differs[ROW][0] if differs.height else None
    return filled(shown, making)


def _says(site: Site) -> str:
    return spans_said(site, SEARCH_GRAINS)


def _without_pages(site: Site, grains: Sequence[GrainLoaded]) -> list[Unsound]:
    """Days with clicks on the whole site and none on any page."""
    by_name = {grain.name: {day.day for day in grain.days if day.measure > 0} for grain in grains}
    whole = by_name.get(DAY.name, set()) | by_name.get(QUERY.name, set())
    lacking = sorted(whole - by_name.get(PAGE.name, set()) - by_name.get(PAGE_QUERY.name, set()))
    if not lacking:
        return []
    message = f"{few(len(lacking), 'day has', 'days have')} clicks but no pages that were clicked."
    return [
        Unsound(
            message,
            "Load facts by page and query, or by page, for those days.",
            [sentences.day(day) for day in lacking[:EXAMPLES]],
            len(lacking),
        )
    ]


KIND = Kind(
    name="search",
    title="Search data",
    holds="clicks, impressions and position by day, page and query",
    needed="search data",
    order=10,
    grains=SEARCH_GRAINS,
    fields=(
        Field("day", "day", (*DAY_WORDS, *OTHER_WORDS["day"], *MONTH_WORDS)),
        Field("page", "page", PAGE_WORDS),
        Field("query", "query", QUERY_WORDS),
        DEVICE,
        COUNTRY,
        Field("clicks", "whole", ("clicks", "click", "url clicks"), required=True),
        Field("impressions", "whole", ("impressions", "impression", "shown", "times shown"), required=True),
        Field(
            "position",
            "real",
            ("position", "average position", "avg position", "mean position", "rank", "average rank", "avg pos"),
            required=True,
            least=1,
        ),
        Field("position_sum", "real", ("sum position", "sum top position", "position sum", "sum of positions")),
        Field(
            "ctr",
            "share",
            ("ctr", "click through rate", "clickthrough rate", "click through", "url ctr", "site ctr", "average ctr"),
                says="CTR, to check"),
    ),
    telling=("clicks", "impressions", "position"),
    made_of={"position": "position_sum"},
    checks=(
        Check(
            "clicks+impressions", pl.col("clicks") > pl.col("impressions"), "more clicks than impressions",
            "Check whether two columns are swapped.",
        ),
    ),
    rows=_rows,
    says=_says,
    unsound=_without_pages,
    notes={
        "day": "none: totals of a span",
        "position": "or `position_sum`",
        "ctr": "only to check",
        "": "With page and query, one of them, or neither: four separate grains",
    },
)  # fmt: skip
