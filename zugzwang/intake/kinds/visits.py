"""Visits: sessions by landing page and channel."""

import polars as pl

from zugzwang.core.facts.grains import VISITS
from zugzwang.core.facts.visits import CHANNELS
from zugzwang.data.models import Site
from zugzwang.intake.header_words import OTHER_WORDS
from zugzwang.intake.kinds.kind import CHANNEL_WORDS, DAY_WORDS, LANDING_WORDS, MONTH_WORDS, Check, Field, Kind, Making
from zugzwang.intake.kinds.making import filled, is_own
from zugzwang.intake.kinds.spans import spans_said

NO_PAGE = ("(not set)", "not set", "(other)", "(entrance)")  # the names that visit data use for an unknown page
_SWAPPED = "Check whether two columns are swapped."


def _leave_out(rows: pl.DataFrame, making: Making) -> pl.DataFrame:
    """Visits of an unknown page, and from the site's own networks."""
    known = rows.filter(~pl.col("page").cast(pl.String).str.to_lowercase().is_in(list(NO_PAGE)))
    making.made.of_no_page = rows.height - known.height
    if "network_address" not in rows.columns or not making.own_networks:
        return known
    result = known.filter(~is_own(known["network_address"], making.own_networks))
    making.made.own_visits = known.height - result.height
    return result


def _rows(rows: pl.DataFrame, making: Making) -> pl.DataFrame:
    """Bounces from engaged sessions or a rate, seconds from a mean, where a file has those instead."""
    sessions, current = pl.col("sessions"), set(rows.columns)
    if "bounces" not in current and "engaged" in current:
        rows = rows.with_columns(bounces=sessions - pl.col("engaged"))
    elif "bounces" not in current and "bounce_rate" in current:
        rows = rows.with_columns(bounces=(sessions * pl.col("bounce_rate")).round().cast(pl.Int64))
    if "seconds" not in current and "mean_seconds" in current:
        rows = rows.with_columns(seconds=sessions * pl.col("mean_seconds"))
    if "channel" in rows.columns:
        rows = rows.with_columns(pl.col("channel").fill_null(CHANNELS.index("other")))
    else:
        rows = rows.with_columns(channel=pl.lit(CHANNELS.index(making.channel or "other"), dtype=pl.UInt8))
    return filled(rows, making)


def _says(site: Site) -> str:
    return spans_said(site, (VISITS,))


KIND = Kind(
    name="visits",
    title="Visits",
    holds="sessions, bounces, conversions by day, landing page and channel",
    needed="visits",
    order=20,
    grains=(VISITS,),
    fields=(
        Field("day", "day", (*DAY_WORDS, *OTHER_WORDS["day"], *MONTH_WORDS)),
        Field("page", "page", LANDING_WORDS, required=True),
        Field("channel", "channel", CHANNEL_WORDS),
        Field("sessions", "whole", ("sessions", "visits", "entrances", "session"), required=True),
        Field("users", "whole", ("users", "visitors", "unique visitors", "total users", "active users")),
        Field("bounces", "whole", ("bounces", "bounced sessions")),
        Field("engaged", "whole", ("engaged sessions", "engaged visits"), says="engaged sessions"),
        Field("bounce_rate", "share", ("bounce rate", "bounces rate")),
        Field("seconds", "real", ("seconds", "time on site", "total time", "duration", "session duration", "engagement time")),
        Field(
            "mean_seconds",
            "real",
            ("average session duration", "avg session duration", "seconds per session", "average seconds", "average time"),
                says="seconds a session"),
        Field("conversions", "real", ("conversions", "goals", "orders", "transactions", "key events", "goal completions")),
        Field("value", "real", ("value", "revenue", "total revenue", "conversion value", "goal value"), least=None),
        Field("network_address", "text", ("network address", "ip", "ip address", "client address", "remote address"),
                says="network address (to leave out own visits)"),
    ),
    telling=("sessions", "bounces", "engaged", "bounce_rate", "conversions", "channel"),
    checks=(
        Check("bounces+sessions", pl.col("bounces") > pl.col("sessions"), "more bounces than sessions", _SWAPPED),
        Check("engaged+sessions", pl.col("engaged") > pl.col("sessions"), "more engaged sessions than sessions", _SWAPPED),
        Check(
            "bounce_rate", ~pl.col("bounce_rate").is_between(0, 1), "the rate is not between 0 and 100 %",
            "Write it as 41 % or 0.41.",
        ),
    ),
    leave_out=_leave_out,
    rows=_rows,
    says=_says,
    notes={
        "day": "none: totals of a span",
        "page": "landing page",
        "bounces": "or `engaged` sessions, or `bounce_rate`",
        "seconds": "or `mean_seconds` a session",
    },
)  # fmt: skip
