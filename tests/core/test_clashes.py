"""Clashes: concentration against the guidelines, each kind found on planted queries, and harmless pairs not reported."""

from datetime import date, timedelta

import numpy as np
import polars as pl
import pytest

from zugzwang.core.clicks.click_curve import own_curve
from zugzwang.core.contest.clashes import Clashes, contenders_of, find_clashes
from zugzwang.core.facts.search import SCHEMA

CURVE = own_curve([(1.0, 0.28), (3.0, 0.1), (5.0, 0.055), (10.0, 0.02), (11.0, 0.012), (20.0, 0.006), (100.0, 0.001)])
FIRST, DAYS = date(2026, 8, 17), 91


def clashes(facts: pl.DataFrame, min_impressions: int, subjects: pl.DataFrame | None = None) -> Clashes:
    contenders = contenders_of(facts, min_impressions)
    if subjects is not None:
        contenders = contenders.join(subjects, on=["page", "query"], how="left", maintain_order="left")
    return find_clashes(facts, contenders, CURVE)


def rows(rng: np.random.Generator, page: int, query: int, shown: float, position: float, days: np.ndarray) -> list[tuple]:  # type: ignore[type-arg]
    found = []
    for day in days:
        impressions = int(rng.poisson(shown))
        if impressions:
            at = max(position * rng.lognormal(0, 0.1), 1.0)
            clicks = int(rng.binomial(impressions, float(CURVE(np.array([at]))[0])))
            found.append((FIRST + timedelta(days=int(day)), page, query, clicks, impressions, at))
    return found


def frame(current: list[tuple]) -> pl.DataFrame:  # type: ignore[type-arg]
    return pl.DataFrame(current, schema=SCHEMA, orient="row")


def test_concentration_as_the_merger_guidelines_tell() -> None:
    """Horizontal Merger Guidelines, US DOJ & FTC 2010, section 5.3: shares 30, 30, 20, 20 have an index of 2,600; N equal
    shares are N effective contenders."""
    days = [FIRST + timedelta(days=n) for n in range(10)]

    def effective(*shares: int) -> float:
        current = [(day, page, 1, 0, share, 6.0) for day in days for page, share in enumerate(shares)]
        return float(clashes(frame(current), 0).queries["effective_contenders"].item())

    assert effective(30, 30, 20, 20) == pytest.approx(10_000 / 2_600)
    assert effective(25, 25, 25, 25) == pytest.approx(4)
    assert effective(10, 10) == pytest.approx(2)


def plant(kind: str, query: int, rng: np.random.Generator) -> list[tuple]:  # type: ignore[type-arg]
    a, b, every = 2 * query, 2 * query + 1, np.arange(DAYS)
    shown = rng.uniform(15, 120)
    if kind == "alternating":
        turn = (every // int(rng.integers(5, 11))) % 2 == 0
        return rows(rng, a, query, shown, rng.uniform(5, 9), every[turn]) + rows(
            rng, b, query, shown, rng.uniform(5, 9), every[~turn]
        )
    if kind == "split":
        at = rng.uniform(5, 9)
        return rows(rng, a, query, shown, at, every) + rows(rng, b, query, shown * rng.uniform(0.7, 1), at + 1, every)
    if kind == "double listing":
        return rows(rng, a, query, shown, 1.4, every) + rows(rng, b, query, shown, rng.uniform(3, 8), every)
    if kind == "hardly shown":
        return rows(rng, a, query, shown, 5, every) + rows(rng, b, query, shown * 0.05, 30, every)
    if kind == "took its place once":
        return rows(rng, a, query, shown, 5, every[:45]) + rows(rng, b, query, shown, 5, every[45:])
    return rows(rng, a, query, shown, 5, every) + rows(rng, b, query, shown * 0.25, 14, every)  # a weaker companion


@pytest.mark.parametrize("seed", range(3))
def test_kinds_are_told_apart(seed: int) -> None:
    rng = np.random.default_rng(seed)
    kinds = [
        kind
        for kind in ("alternating", "split", "double listing", "hardly shown", "took its place once", "companion")
        for _ in range(30)
    ]
    facts = frame([row for query, kind in enumerate(kinds) for row in plant(kind, query, rng)])
    found = clashes(facts, 200)
    listed = dict(found.queries.select("query", "kind").iter_rows())
    for kind in ("alternating", "split", "double listing"):
        right = [listed.get(query) == kind for query, planted in enumerate(kinds) if planted == kind]
        assert np.mean(right) >= 0.9, kind
    assert not [query for query in listed if kinds[query] in ("hardly shown", "took its place once", "companion")]
    assert found.contenders["query"].n_unique() == found.queries.height


@pytest.mark.parametrize(("stretch", "days", "relay"), [(15, 91, True), (19, 91, False), (15, 44, False)])
def test_turns_make_a_relay_from_five_in_a_hundred_days_and_three_in_all(stretch: int, days: int, relay: bool) -> None:
    """Six changes in 91 days are 6.6 in a hundred; four are 4.4; two in 44 days are too few at any rate."""
    current = [(FIRST + timedelta(days=n), n // stretch % 2, 1, 3, 60, 6.0) for n in range(days)]
    assert (clashes(frame(current), 0).queries["kind"].to_list() == ["alternating"]) is relay


def test_the_page_that_ranks_is_not_the_one_whose_subject_it_is() -> None:
    rng = np.random.default_rng(3)
    every = np.arange(DAYS)
    facts = frame(rows(rng, 1, 7, 60, 6.5, every) + rows(rng, 2, 7, 12, 15.0, every))
    subjects = pl.DataFrame(
        {"page": [1, 2], "query": [7, 7], "subject": [False, True]},
        schema={"page": pl.UInt32, "query": pl.UInt32, "subject": pl.Boolean},
    )
    assert clashes(facts, 100).queries.is_empty()
    assert clashes(facts, 100, subjects).queries["kind"].to_list() == ["wrong page ranks"]
    both = subjects.with_columns(subject=pl.lit(True))
    assert clashes(facts, 100, both).queries.is_empty()


def test_the_loss_by_hand() -> None:
    """Twenty days at 4 and twenty at 12, 100 impressions a day, clicks on the curve: resolved at 4, it would have earned μ(4)
    on all days.
    """
    current = []
    for day in range(40):
        page, at = (1, 4.0) if (day // 4) % 2 == 0 else (2, 12.0)
        current.append((FIRST + timedelta(days=day), page, 1, round(100 * float(CURVE(np.array([at]))[0])), 100, at))
    clash = clashes(frame(current), 0).queries.to_dicts()[0]
    had = sum(row[3] for row in current)
    assert clash["kind"] == "alternating"
    assert clash["loss"] == pytest.approx(40 * 100 * float(CURVE(np.array([4.0]))[0]) - had, abs=1e-6)
    assert (clash["hand_offs"], clash["overlap"], clash["gaps"]) == (pytest.approx(9 * 100 / 40), 0.0, 0)


def test_days_without_any_contender_are_gaps_and_few_are_no_contender() -> None:
    current = [(FIRST + timedelta(days=day), 1 + (day // 3) % 2, 1, 0, 50, 6.0) for day in range(30) if day % 10 != 9]
    clash = clashes(frame(current), 0).queries.to_dicts()[0]
    assert (clash["days"], clash["gaps"]) == (27, 2)
    two_days = [(FIRST + timedelta(days=day), 1 if day > 1 else 2, 1, 0, 50 if day > 1 else 500, 6.0) for day in range(20)]
    assert clashes(frame(two_days), 0).queries.is_empty()
    assert clashes(frame(current), 10_000).queries.is_empty()


def test_a_contender_has_a_tenth_of_the_query_on_three_days() -> None:
    current = [
        (FIRST + timedelta(days=day), page, 1, 0, shown, 6.0) for day in range(20) for page, shown in ((1, 60), (2, 31), (3, 9))
    ]
    once = [(FIRST + timedelta(days=day), 4, 1, 0, 400, 6.0) for day in range(2)]
    found = contenders_of(frame([*current, *once]), 0)
    assert found["page"].to_list() == [1, 2]
    assert found["share"].to_list() == [pytest.approx(1200 / 2800), pytest.approx(620 / 2800)]


def shown_to(facts: pl.DataFrame, mix: dict[int, tuple[float, ...]]) -> pl.DataFrame:
    """Facts with each page's impressions split over two devices: by `mix`, or half and half."""
    result = []
    for device, place in ((1, 0), (2, 1)):
        parts = {page: share[place] for page, share in mix.items()}
        share = pl.col("page").replace_strict(parts, default=0.5, return_dtype=pl.Float64)
        result.append(facts.with_columns(impressions=(pl.col("impressions") * share).round(), device=device, country=0))
    return pl.concat(result).filter(pl.col("impressions") > 0)


def test_pages_for_other_people_do_not_fight() -> None:
    """200 queries each: pages for phones and for desktops, with a fifth of the other device; and the same pages for both
    devices.
    """
    rng = np.random.default_rng(4)
    kinds = ["split", "alternating", "double listing"] * 70
    facts = frame([row for query, kind in enumerate(kinds) for row in plant(kind, query, rng)])
    separate = {page: ((0.95, 0.05), (0.05, 0.95))[page % 2] for page in range(2 * len(kinds))}
    current = contenders_of(facts, 200)
    alike = find_clashes(facts, current, CURVE, shown_to(facts, {})).queries.height
    fought = find_clashes(facts, current, CURVE, shown_to(facts, separate)).queries.height
    assert alike == find_clashes(facts, current, CURVE).queries.height >= 0.9 * len(kinds)
    assert fought <= 0.02 * len(kinds)


@pytest.mark.parametrize(("overlap", "most"), [(0, 0.02), (21, 0.2)])
def test_a_page_that_replaced_another_is_no_clash_any_more(overlap: int, most: float) -> None:
    """200 migrations on a day of the period's first two thirds, with no overlap or three weeks of it."""
    rng = np.random.default_rng(overlap)
    current = []
    for query in range(200):
        at = int(rng.integers(25, 60))
        every, shown, place = np.arange(DAYS), rng.uniform(15, 120), rng.uniform(4, 9)
        current += rows(rng, 2 * query, query, shown, place, every[: at + overlap // 2])
        current += rows(rng, 2 * query + 1, query, shown, place, every[at - overlap // 2 :])
    found = clashes(frame(current), 200).queries
    assert found.height <= most * 200


def test_a_query_shown_on_one_day_is_fought_over_in_totals_alone() -> None:
    """Totals have one row a page; with facts by day, one day is too little for a clash."""
    day = np.array([3])
    facts = frame([*rows(np.random.default_rng(1), 1, 1, 400, 7.0, day), *rows(np.random.default_rng(2), 2, 1, 380, 7.5, day)])
    assert contenders_of(facts, 0).is_empty()
    current = contenders_of(facts, 0, by_day=False)
    result = find_clashes(facts, current, CURVE, by_day=False).queries
    assert result.select("kind", pl.col("evidence").cast(pl.String)).rows() == [("split", "too little data")]
