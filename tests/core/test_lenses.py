"""The lenses on a planted site: planted rows are found, others are not."""

import numpy as np
import polars as pl
import pytest

from tests.planted import planted_site, true_curve
from zugzwang.core.clicks.click_curve import expected_clicks
from zugzwang.core.clicks.evidence import false_discovery, upper_tail
from zugzwang.core.clicks.lenses import appraise, look

NO_BRAND = pl.Series([], dtype=pl.UInt32)
FLOOR = 100


def sure(rows: pl.DataFrame) -> set[int]:
    return set(rows.filter(pl.col("evidence").is_in(["firm", "likely"]))["query"].to_list())


def test_poor_rows_are_found_and_few_others() -> None:
    """The share of false findings is a mean over sites, so it is averaged over several."""
    found = false = planted = 0
    for seed in range(5):
        site = planted_site(seed)
        called = sure(look(appraise(site.facts, NO_BRAND), "low-ctr", FLOOR))
        assert site.giant in called
        found, false, planted = found + len(called & site.poor), false + len(called - site.poor), planted + len(site.poor)
    assert found >= 0.9 * planted
    assert false <= 0.1 * (found + false)


def test_poor_rows_do_not_drag_the_curve_down_to_themselves() -> None:
    """150 of 2,500 rows at a tenth of their clicks: included, they would lower the curve by a tenth; excluded, they do not."""
    curve = appraise(planted_site(1, poor=150).facts, NO_BRAND).curve
    positions = np.array([1.5, 3.0, 5.0, 8.0])
    assert np.mean(curve(positions) / true_curve(positions)) >= 0.97


def test_a_row_that_moved_is_no_star() -> None:
    """At its mean position it would be an outperformer, because the curve is convex. Summed day by day it is not."""
    site = planted_site()
    appraisal = appraise(site.facts, NO_BRAND)
    rows = appraisal.rows.filter(pl.col("impressions") >= FLOOR)
    clicks, shown, position = (rows[name].to_numpy() for name in ("clicks", "impressions", "position"))
    at_mean = upper_tail(clicks, expected_clicks(appraisal.curve, position, shown), appraisal.curve.shape)
    stars_at_mean = set(rows.filter(pl.Series(false_discovery(at_mean) <= 0.1))["query"].to_list())
    assert len(stars_at_mean & site.movers) >= 10
    assert not sure(look(appraisal, "outperformers", FLOOR)) & site.movers


def test_branded_rows_neither_shape_the_curve_nor_are_shown() -> None:
    site = planted_site()
    first_page = appraise(site.facts, NO_BRAND).rows.filter(pl.col("position") < 2)["query"]
    loved = site.facts.with_columns(
        clicks=pl.when(pl.col("query").is_in(first_page.implode())).then("impressions").otherwise("clicks")
    )
    without = appraise(loved, first_page)
    assert without.curve(np.array([1.2]))[0] < 0.5 < appraise(loved, NO_BRAND).curve(np.array([1.2]))[0]
    assert not set(look(without, "outperformers", 0)["query"]) & set(first_page)


def test_rows_of_a_lens() -> None:
    appraisal = appraise(planted_site().facts, NO_BRAND)
    low, reach, out = (look(appraisal, lens, FLOOR) for lens in ("low-ctr", "striking-distance", "outperformers"))
    assert (low["shortfall"] > 0).all()
    assert (low["impressions"] >= FLOOR).all()
    for rows, own in ((low, "lost"), (reach, "potential")):
        # What is sure by its size, what is possible by its size times its probability.
        is_sure = rows["evidence"].cast(pl.String).is_in(["firm", "likely"])
        weighed = rows[own] * rows["probability"].zip_with(~is_sure, pl.repeat(1.0, rows.height, eager=True))
        assert weighed.is_sorted(descending=True)
    assert set(low.filter(low["evidence"] == "possible")["query"]) > set()
    assert np.allclose(low["opportunity"], low["shortfall"] + low["potential"])
    assert reach["position"].is_between(4, 20).all()
    assert (out["shortfall"] < 0).all()
    assert np.allclose(out["opportunity"], out["potential"])
    assert (out["position"].round() > 1).all()


def test_false_alarms_are_counted_over_all_rows_that_can_be_called_and_not_over_those_listed() -> None:
    """Benjamini & Hochberg 1995: q of the i-th smallest of m p-values is the least of p_j · m / j, j ≥ i; m are the rows above
    the floor that no clicks at all would make a finding (Tarone 1990), whichever of them the lens lists."""
    appraisal = appraise(planted_site().facts, NO_BRAND)
    for floor in (FLOOR, 5_000):
        above = appraisal.rows.filter(pl.col("impressions") >= floor)
        none = np.zeros(above.height, dtype=np.int64)
        least = appraisal.scatter.lower(none, above["expected_clicks"].to_numpy(), above["position"].to_numpy())
        number = next(k for k in range(1, above.height + 1) if (least <= 0.1 / k).sum() <= k)
        tested = above.filter(pl.Series(least <= 0.1 / number))
        tails = appraisal.scatter.lower(*(tested[name].to_numpy() for name in ("clicks", "expected_clicks", "position")))
        order = np.argsort(tails)
        steps = tails[order] * tested.height / np.arange(1, tested.height + 1)
        expected = np.minimum(np.minimum.accumulate(steps[::-1])[::-1], 1.0)
        result = dict(zip(tested["query"].to_numpy()[order], expected, strict=True))
        rows = look(appraisal, "low-ctr", floor)
        assert 0 < rows.height < above.height
        assert [result.get(query, 1.0) for query in rows["query"]] == pytest.approx(rows["q_value"].to_list(), rel=1e-6)


def test_facts_that_were_never_shown_say_nothing() -> None:
    facts = planted_site(queries=200, poor=2, movers=2).facts
    silent = facts.head(1).with_columns(pl.lit(0, pl.UInt32).alias("impressions"), pl.lit(0, pl.UInt32).alias("clicks"))
    assert appraise(pl.concat([facts, silent]), NO_BRAND).rows.equals(appraise(facts, NO_BRAND).rows)
    assert appraise(silent, NO_BRAND).rows.is_empty()
