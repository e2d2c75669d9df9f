"""Visits: what people did after they arrived, by landing page, channel and day.

A visit fact: day, landing page, channel → sessions, bounces, seconds, conversions, value. Where a file has engaged sessions
instead of bounces, bounces = sessions − engaged sessions. What a file lacks is null, never 0.

An access log has requests, not visits. Sessions are rebuilt from it by common practice (no source): requests of one network
address and user agent belong together until a pause of half an hour; a session with one page is a bounce; its seconds run
from its first page to its last, so a bounce has none. Fetches by search engine crawlers, recognised by the names they send
(a site's rule), are a separate channel, counted by fetch.
"""

from collections.abc import Sequence
from typing import Literal, get_args

import polars as pl

Channel = Literal["organic", "paid", "direct", "referral", "social", "email", "other", "crawler"]
CHANNELS: tuple[Channel, ...] = get_args(Channel)  # stored by index
SILENCE_MINUTES = 30

# The trade's names of channels; letters and spaces only. Anything else is "other".
_CHANNEL_WORDS: dict[Channel, str] = {
    "crawler": r"^crawlers?$",
    "paid": r"\b(paid|cpc|ppc|cpm|ads?|display|paidsearch)\b",
    "organic": r"\b(organic|seo|natural)\b",
    "direct": r"\b(direct|none|typed|bookmarks?)\b",
    "email": r"\b(e ?mail|newsletter|mailing)\b",
    "social": r"\b(social)\b",
    "referral": r"\b(referr?als?|referrer|website|link|external)\b",
}
# Programs that identify themselves when fetching pages (common practice, no source).
BOT_WORDS = (
    r"(?i)bot\b|bot[/;_-]|crawl|spider|slurp|archiver|monitor|uptime|preview|scan|fetch|feed|headless|curl|wget|libwww|python"
    r"|java/|okhttp|http-?client|^-?$"
)
# File types that pages load.
_NO_PAGE = r"(?i)\.(css|js|mjs|map|json|xml|txt|ico|png|jpe?g|gif|webp|avif|svg|woff2?|ttf|eot|otf|mp[34]|webm|pdf|zip|gz)$"


def channel_code(text: pl.Expr) -> pl.Expr:
    """The index in CHANNELS of a channel (or medium) as a file writes it; null stays null."""
    words = text.str.to_lowercase().str.replace_all(r"[^\p{L}\d]+", " ")
    found: pl.Expr = pl.lit(CHANNELS.index("other"))
    for channel, pattern in reversed(_CHANNEL_WORDS.items()):
        found = pl.when(words.str.contains(pattern)).then(pl.lit(CHANNELS.index(channel))).otherwise(found)
    return pl.when(text.is_not_null()).then(found).cast(pl.UInt8)


def is_page_view() -> pl.Expr:
    """Which requests of a log are page views: GET, answered with a page (200 or 304), and not a page's asset."""
    path = pl.col("target").str.split("?").list.first()
    return (pl.col("method") == "GET") & pl.col("status").is_in([200, 304]) & ~path.str.contains(_NO_PAGE)


def sessions(views: pl.DataFrame, own_host: str, search_hosts: Sequence[str]) -> pl.DataFrame:
    """Sessions built from page views, one row each: day, target, channel, bounce, seconds.

    `views`: visitor (any value), at (Datetime), target (path with parameters), referrer (null or address). `search_hosts`:
    expressions for search engine hosts; sessions from these are organic.
    """
    if views.is_empty():
        kinds = {"day": pl.Date, "target": pl.String, "channel": pl.UInt8, "bounce": pl.Boolean, "seconds": pl.Float64}
        return pl.DataFrame(schema=kinds)
    ordered = views.sort("visitor", "at", maintain_order=True)
    silence = pl.col("at") - pl.col("at").shift(1).over("visitor")
    begins = silence.is_null() | (silence > pl.duration(minutes=SILENCE_MINUTES))
    numbered = ordered.with_columns(session=begins.cum_sum())
    seconds = (pl.col("at").last() - pl.col("at").first()).dt.total_milliseconds() / 1000
    return (
        numbered.group_by("session", maintain_order=True)
        .agg(
            pl.col("at").first().dt.date().alias("day"),
            pl.col("target").first(),
            _channel_of_referrer(pl.col("referrer").first(), pl.col("target").first(), own_host, search_hosts).alias("channel"),
            (pl.len() == 1).alias("bounce"),
            seconds.alias("seconds"),
        )
        .drop("session")
    )


def _channel_of_referrer(referrer: pl.Expr, target: pl.Expr, own_host: str, search_hosts: Sequence[str]) -> pl.Expr:
    """The channel of a session: from its address first, then from its referrer."""
    medium = target.str.extract(r"[?&]utm_medium=([^&#]*)")
    host = referrer.str.extract(r"(?i)^https?://(?:www\.)?([^/:?#]+)").str.to_lowercase()
    own = own_host.lower().removeprefix("www.")
    searched = pl.any_horizontal(pl.lit(False), *(host.str.contains(f"(?i){pattern}") for pattern in search_hosts))
    code = {channel: pl.lit(CHANNELS.index(channel), dtype=pl.UInt8) for channel in CHANNELS}
    return (
        pl.when(medium.is_not_null() & (medium != ""))
        .then(channel_code(medium))
        .when(host.is_null() | (host == own))
        .then(code["direct"])
        .when(searched)
        .then(code["organic"])
        .otherwise(code["referral"])
    )
