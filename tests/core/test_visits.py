"""Visits: channels as files write them, and sessions rebuilt from a log's requests."""

from datetime import datetime, timedelta

import polars as pl
import pytest

from zugzwang.core.facts.visits import BOT_WORDS, CHANNELS, channel_code, is_page_view, sessions


@pytest.mark.parametrize(
    ("text", "channel"),
    [
        ("Organic Search", "organic"), ("organic", "organic"), ("Paid Search", "paid"), ("cpc", "paid"),
        ("(direct) / (none)", "direct"),
        ("Organic Social", "organic"), ("Referral", "referral"), ("email", "email"), ("e-mail", "email"), ("social", "social"),
        ("Display", "paid"), ("television", "other"),
    ],
)  # fmt: skip
def test_channels_as_the_trade_writes_them(text: str, channel: str) -> None:
    """Common practice, no source."""
    code = pl.select(channel_code(pl.lit(text))).item()
    assert CHANNELS[code] == channel


START = datetime(2026, 11, 9, 23, 50)  # noqa: DTZ001 – a server's own clock


def view(visitor: str, minutes: float, target: str = "/a", referrer: str | None = None) -> dict[str, object]:
    return {"visitor": visitor, "at": START + timedelta(minutes=minutes), "target": target, "referrer": referrer}


def rebuilt(*views: dict[str, object]) -> list[dict[str, object]]:
    frame = pl.DataFrame(views, schema={"visitor": pl.String, "at": pl.Datetime, "target": pl.String, "referrer": pl.String})
    rows = sessions(frame, "www.shop.example", [r"^search\."]).to_dicts()
    return [{**row, "channel": CHANNELS[row["channel"]]} for row in rows]


def test_half_an_hour_of_silence_ends_a_session_and_midnight_does_not() -> None:
    first, second = rebuilt(view("a", 0), view("a", 29, "/b"), view("a", 60, "/c"))
    assert (first["target"], first["bounce"], first["seconds"]) == ("/a", False, 29 * 60)
    assert (second["target"], second["bounce"], second["seconds"]) == ("/c", True, 0)
    assert (first["day"], second["day"]) == (START.date(), START.date() + timedelta(days=1))


def test_two_visitors_at_once_are_two_sessions() -> None:
    assert len(rebuilt(view("a", 0), view("b", 1), view("a", 2), view("b", 3))) == 2


@pytest.mark.parametrize(
    ("referrer", "target", "channel"),
    [
        ("https://search.example/", "/a", "organic"),
        ("https://news.example/post", "/a", "referral"),
        ("https://shop.example/b", "/a", "direct"),
        (None, "/a", "direct"),
        ("https://search.example/", "/a?utm_medium=cpc", "paid"),
        (None, "/a?x=1&utm_medium=email", "email"),
    ],
)
def test_where_a_session_came_from(referrer: str | None, target: str, channel: str) -> None:
    assert rebuilt(view("a", 0, target, referrer))[0]["channel"] == channel


def test_page_views_are_pages_that_were_answered() -> None:
    requests = pl.DataFrame(
        {
            "method": ["GET", "POST", "GET", "GET", "GET", "GET"],
            "status": [200, 200, 404, 304, 200, 200],
            "target": ["/a", "/a", "/a", "/a?x=1.css", "/style.css?v=2", "/a.html"],
        }
    )
    assert requests.select(is_page_view()).to_series().to_list() == [True, False, False, True, False, True]


def test_programs_that_say_what_they_are_are_known() -> None:
    people = "Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/120 Safari/537.36"
    programs = ["ExampleBot/2.1 (+https://search.example/bot)", "curl/8.1", "python-requests/2", "-", "", "SomeSpider/1.0"]
    found = pl.Series([people, *programs]).str.contains(BOT_WORDS).to_list()
    assert found == [False, *[True] * len(programs)]
