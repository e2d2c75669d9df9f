"""A generated shop with 2,500 pages and 900,000 rows over two years: numbers on screens equal a Polars script that shares only
the files with the program.
"""

from datetime import date, timedelta
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl
import pytest
from django.test import Client

from zugzwang.data.models import Site
from zugzwang.intake.loading import load_file

LAST_DAY, DAYS, PAGES, QUERIES, ROWS = date(2026, 11, 15), 455, 2_500, 6_000, 900_000
SECTIONS = ("kayaks", "paddles", "guides", "trips", "clothing")
FIRST, BEFORE = date(2026, 8, 17), date(2025, 8, 18)  # the last 13 whole weeks, and the same of the year before


def made() -> tuple[pl.DataFrame, pl.DataFrame]:
    """Search facts and visits, as files have them."""
    rng = np.random.default_rng(20261115)
    count = int(ROWS * 1.7)
    day = rng.integers(0, DAYS, count)
    pair = np.minimum(rng.pareto(0.9, count) * 1_500, 11_999).astype(int)
    page, query = (pair * 7919) % PAGES, (pair * 104_729) % QUERIES
    rows = pl.DataFrame({"n": day, "p": page, "q": query}).unique(maintain_order=True).head(ROWS)
    impressions = rng.integers(1, 400, rows.height)
    position = np.round(1 + rng.gamma(2.0, 4.0, rows.height), 2)
    clicks = rng.binomial(impressions, np.minimum(0.3 / position, 0.9))
    address = [f"https://www.shop.example/{SECTIONS[n % 5]}/item-{n}/" for n in range(PAGES)]
    text = [f"{'northshore ' if n % 11 == 0 else ''}{('canoe', 'kayak', 'paddle')[n % 3]} {n}" for n in range(QUERIES)]
    days = [(LAST_DAY - timedelta(days=DAYS - 1 - n)).isoformat() for n in range(DAYS)]
    facts = rows.select(
        day=pl.col("n").replace_strict(dict(enumerate(days)), return_dtype=pl.String),
        page=pl.col("p").replace_strict(dict(enumerate(address)), return_dtype=pl.String),
        query=pl.col("q").replace_strict(dict(enumerate(text)), return_dtype=pl.String),
    ).with_columns(
        clicks=pl.Series(clicks), impressions=pl.Series(impressions), position=pl.Series(position),
        device=pl.Series(np.where(rng.random(rows.height) < 0.6, "mobile", "desktop")),
    )  # fmt: skip
    visits = facts.group_by("day", "page", maintain_order=True).agg(pl.col("clicks").sum()).filter(pl.col("clicks") > 0)
    visits = visits.select(
        "day", "page", channel=pl.lit("Organic Search"), sessions="clicks", bounces=pl.col("clicks") // 3,
        conversions=pl.col("clicks") // 10,
    )  # fmt: skip
    return facts, visits


@pytest.fixture
def shop(site: Site, signed_in: Client, tmp_path: Path) -> tuple[Client, pl.DataFrame, pl.DataFrame]:
    Site.objects.filter(id=site.id).update(address="https://www.shop.example", brand_patterns=["northshore"])
    site.refresh_from_db()
    tables = made()
    for name, table in zip(("facts", "visits"), tables, strict=True):
        table.write_csv(tmp_path / f"{name}.csv")
        load_file(site, tmp_path / f"{name}.csv", f"{name}.csv")
        site.refresh_from_db()
    with_days = [table.with_columns(pl.col("day").str.to_date()) for table in tables]
    return signed_in, with_days[0], with_days[1]


def sums(facts: pl.DataFrame, first: date) -> dict[str, float]:
    of = facts.filter(pl.col("day").is_between(first, first + timedelta(days=90)))
    clicks, shown = int(of["clicks"].sum()), int(of["impressions"].sum())
    position = float((of["position"] * of["impressions"]).sum()) / shown
    return {"clicks": clicks, "impressions": shown, "ctr": clicks / shown, "position": position}


def test_what_the_screens_show_is_what_the_files_say(shop: tuple[Client, pl.DataFrame, pl.DataFrame]) -> None:
    client, facts, visits = shop
    assert facts.height == ROWS
    seen: list[tuple[str, float, float]] = []

    def ask(path: str) -> Any:
        answer = client.get(f"/api/sites/shop/{path}")
        assert answer.status_code == 200, answer.content[:300]
        return answer.json()

    def standing(query: str, of: pl.DataFrame) -> Any:
        result = ask(f"changes?compare=year{query}")
        assert (result["period"]["first"], result["before"]["first"]) == (str(FIRST), str(BEFORE))
        by_name = {one["name"]: one for one in result["measures"]}
        for end, first in (("now", FIRST), ("before", BEFORE)):
            for name, value in sums(of, first).items():
                seen.append((f"changes{query} {name} {end}", by_name[name][end], value))
        return result

    result = standing("", facts)
    standing("&section=/kayaks/", facts.filter(pl.col("page").str.contains("/kayaks/", literal=True)))
    standing("&device=mobile", facts.filter(pl.col("device") == "mobile"))
    standing("&branded=without", facts.filter(~pl.col("query").str.contains("northshore")))
    of_visits = visits.filter(pl.col("day") >= FIRST)
    sessions = next(one for one in result["measures"] if one["name"] == "sessions")
    seen.append(("organic visits", sessions["now"], int(of_visits["sessions"].sum())))

    now = facts.filter(pl.col("day") >= FIRST)
    row = ask("findings/pages?compare=year&sort=clicks&branded=with&limit=1")
    best = now.group_by("page").agg(pl.col("clicks", "impressions").sum()).sort("clicks", descending=True)
    of_best = facts.filter(pl.col("page") == best["page"][0])
    first = row["rows"][0]
    assert first["page"] == best["page"][0]
    seen += [(f"page {name}", first[name], sums(of_best, FIRST)[name]) for name in ("clicks", "impressions")]
    seen.append(("page clicks then", first["clicks_before"], sums(of_best, BEFORE)["clicks"]))
    seen.append(("pages", row["total"], now["page"].n_unique()))

    file = ask(f"pages/{first['page_id']}?compare=year")
    queries = now.filter(pl.col("page") == first["page"])
    seen.append(("queries of the page", len(file["rows"]), queries["query"].n_unique()))
    (section,) = (one for one in ask("findings/sections?compare=year")["rows"] if one["section"] == "/guides/")
    guides = facts.filter(pl.col("page").str.contains("/guides/", literal=True))
    seen += [
        (f"section {name}", section[name], sums(guides, FIRST)[name]) for name in ("clicks", "impressions", "ctr", "position")
    ]
    seen.append(("section then", section["clicks_before"], sums(guides, BEFORE)["clicks"]))
    seen.append(("visits of the section", section["sessions"],
                 int(of_visits.filter(pl.col("page").str.contains("/guides/", literal=True))["sessions"].sum())))  # fmt: skip

    changed = ask("findings/change?compare=year&by=query&sort=clicks_before&limit=1")["rows"][0]
    of_query = facts.filter(pl.col("query") == changed["query"])
    seen += [("query", changed["clicks_after"], sums(of_query, FIRST)["clicks"]),
             ("query then", changed["clicks_before"], sums(of_query, BEFORE)["clicks"])]  # fmt: skip
    in_file = ask(f"queries/{changed['query_id']}?compare=year")["pages"]
    seen.append(("pages of the query", len(in_file), of_query.filter(pl.col("day") >= FIRST)["page"].n_unique()))

    assert len(seen) >= 30
    wrong = [one for one in seen if one[1] != pytest.approx(one[2], rel=1e-6)]
    assert not wrong
