"""Invariants for any facts."""

from datetime import date, timedelta
from typing import get_args

import numpy as np
import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zugzwang.core.clicks.click_curve import expected_clicks
from zugzwang.core.clicks.evidence import GRADES
from zugzwang.core.clicks.headroom import Target
from zugzwang.core.clicks.lenses import LENSES, appraise, look
from zugzwang.core.facts.search import SCHEMA
from zugzwang.core.words import sentences

row = st.tuples(
    st.integers(0, 20), st.integers(1, 4), st.integers(1, 9), st.integers(0, 30), st.integers(0, 300), st.floats(1, 100)
)
quick = settings(max_examples=60, deadline=None, database=None)


def frame(rows: list[tuple[int, int, int, int, int, float]]) -> pl.DataFrame:
    dated = [
        (date(2026, 8, 17) + timedelta(days=day), page, query, min(clicks, shown), shown, position)
        for day, page, query, clicks, shown, position in rows
    ]
    return pl.DataFrame(dated, schema=SCHEMA, orient="row").unique(["day", "page", "query"], maintain_order=True)


@quick
@given(st.lists(row, min_size=1, max_size=60))
def test_nothing_is_lost_or_invented(rows: list[tuple[int, int, int, int, int, float]]) -> None:
    facts = frame(rows)
    appraisal = appraise(facts, pl.Series([1], dtype=pl.UInt32))
    shown = facts.filter(pl.col("impressions") > 0)
    assert appraisal.rows["clicks"].sum() == shown["clicks"].sum()
    assert appraisal.rows["impressions"].sum() == shown["impressions"].sum()
    expected = expected_clicks(appraisal.curve, shown["position"].to_numpy(), shown["impressions"].to_numpy())
    assert appraisal.rows["expected_clicks"].sum() == pytest.approx(expected.sum())
    assert set(appraisal.rows.filter("branded")["query"]) <= {1}
    assert np.all(np.diff(appraisal.curve.rates) <= 1e-12)
    assert 0 < appraisal.curve.rates[-1] <= appraisal.curve.rates[0] <= 1


@quick
@given(st.lists(row, min_size=1, max_size=60), st.sampled_from(LENSES), st.sampled_from(get_args(Target)), st.integers(0, 200))
def test_every_row_of_a_lens_makes_sense(rows, lens, target, floor) -> None:  # type: ignore[no-untyped-def]
    found = look(appraise(frame(rows), pl.Series([1], dtype=pl.UInt32)), lens, floor, target)
    assert 1 not in found["query"]
    assert (found["impressions"] >= floor).all()
    assert (found["potential"] >= 0).all()
    assert found["q_value"].is_between(0, 1).all()
    assert found["opportunity"].is_finite().all()
    assert np.allclose(found["opportunity"], found["shortfall"].clip(lower_bound=0) + found["potential"])
    assert set(found["evidence"]) <= set(GRADES)


@quick
@given(st.lists(row, min_size=2, max_size=40), st.randoms(use_true_random=False))
def test_the_order_of_facts_does_not_matter(rows, random) -> None:  # type: ignore[no-untyped-def]
    facts = frame(rows)
    order = list(range(facts.height))
    random.shuffle(order)
    one, other = (look(appraise(each, pl.Series([], dtype=pl.UInt32)), "low-ctr", 0) for each in (facts, facts[order]))
    key = ["page", "query"]
    assert set(one.select(*key, "clicks").rows()) == set(other.select(*key, "clicks").rows())
    for name in ("expected_clicks", "q_value"):  # sums in another order, and a minimiser that stops near the minimum
        assert np.allclose(one.sort(key)[name], other.sort(key)[name], rtol=1e-4)


@pytest.mark.parametrize(
    ("said", "expected"),
    [
        (
            sentences.row(0, 1, 3.0, (0, 0)),
            "1 impression at position 3.0, 0 clicks; your pages at these positions usually get 0 clicks.",
        ),
        (
            sentences.row(2, 20, 3.0, (1, 1)),
            "20 impressions at position 3.0, 2 clicks; your pages at these positions usually get 1 click.",
        ),
        (sentences.reach(0.2, 3.1, 3), "Moving from 3.1 to 3 would bring next to nothing."),
        (sentences.reach(9.0, 2.1, 2.1), "At 2.1 no better position is assumed; choose a target in the filters."),
        (sentences.reach(49.6, 5.0, 3), "At 3 instead of 5.0 it would get about 50 more clicks a month."),
        (sentences.curve_basis("own", 0), "This site uses its own curve, set by an analyst."),
        (sentences.missing_days([date(2026, 11, 9)], "The period"), "The period has no data for 9 Nov 2026."),
        (sentences.missing_days([], "The period"), ""),
    ],
)
def test_words(said: str, expected: str) -> None:
    assert said == expected


def test_the_words_of_evidence_say_how_often_they_are_wrong() -> None:
    assert "about 0.5\u202f% would be false alarms" in sentences.evidence("low-ctr", "firm", 0.005)
    assert "fewer than 0.01\u202f% would be false alarms" in sentences.evidence("outperformers", "firm", 1e-9)
    for lens in LENSES:
        assert sentences.evidence(lens, "likely", 0.05).startswith("Likely: ")
