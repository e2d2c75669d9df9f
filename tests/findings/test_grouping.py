"""Query groups: their queries, and those in none."""

import polars as pl
import pytest

from tests.conftest import keep
from tests.findings.conftest import LAST, answer, rows
from zugzwang.access import OPERATOR
from zugzwang.core.facts.cleaning import QueryGroup, Rules
from zugzwang.core.facts.grains import QUERY
from zugzwang.data.models import Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.findings.view import ViewOptions
from zugzwang.intake import cleaning


def grouped(shop: Site, asked: ViewOptions | None = None) -> dict[str, dict[str, object]]:
    shop.refresh_from_db()
    return {row["group"]: row for row in rows(shop, "query-groups", asked)}


def test_a_query_counts_in_each_of_its_groups_and_those_in_none_are_told(shop: Site) -> None:
    groups = (QueryGroup("paddles", ("paddle",)), QueryGroup("kayaks", ("kayak",)), QueryGroup("sea", (r"\bsea\b",)))
    cleaning.keep(OPERATOR, "shop", Rules(query_groups=groups))
    found = grouped(shop)
    assert [(name, row["queries"]) for name, row in found.items() if name] == [("kayaks", 2), ("sea", 2), ("paddles", 1)]
    assert list(found)[-1] == ""  # those in none are last
    of_kayaks = answer(shop, "striking-distance", min_impressions=1).rows.filter(pl.col("query").is_in([3, 5]))
    assert found["kayaks"]["clicks"] == of_kayaks["clicks"].sum()
    alone = grouped(shop, ViewOptions(query_group=("kayaks",)))
    assert alone["kayaks"]["opportunity"] == pytest.approx(found["kayaks"]["opportunity"])
    assert "" not in alone
    why = found["kayaks"]["why"]
    assert isinstance(why, dict)
    assert why["rank"] < 0  # its page lost rank
    assert found["kayaks"]["change"] == pytest.approx(why["clicks_after"] - why["clicks_before"])


def test_clicks_of_a_group_are_those_that_queries_tell_where_the_site_has_them(shop: Site) -> None:
    """By page and query some clicks are withheld; the facts by query have them."""
    facts = Snapshot(shop).facts.rows(QUERY, None)
    assert facts.is_empty()
    keep(shop, pl.DataFrame({"day": [LAST], "query": [1], "clicks": [7], "impressions": [70], "position": [5.0]}), grain=QUERY)
    assert grouped(shop)["paddles"]["clicks"] == 7
    assert grouped(shop, ViewOptions(section="/guides/"))["paddles"]["clicks"] != 7  # of some pages only their rows tell


def test_without_groups_it_says_where_they_are_made(shop: Site) -> None:
    cleaning.keep(OPERATOR, "shop", Rules())
    shop.refresh_from_db()
    result = answer(shop, "query-groups")
    assert result.window() == []
    assert "no query groups yet" in result.sentences[0]
