"""Visits with search data: against a published fit, scipy's distributions and planted pages."""

import numpy as np
import polars as pl
import pytest
from scipy import stats

from zugzwang.core.pages.landing import beta_binomial_tails, fit_beta_binomial, judge_bounces, reconcile, roles


def test_fit_of_the_families_of_twelve() -> None:
    """Geissler 1889, boys in 6,115 families of 12, as tabulated by Lindsey & Altham 1998: α ≈ 34.10, β ≈ 31.58."""
    families = [3, 24, 104, 286, 670, 1033, 1343, 1112, 829, 478, 181, 45, 7]
    boys = np.repeat(np.arange(13), families)
    alpha, beta = fit_beta_binomial(boys, np.full(boys.size, 12))
    assert alpha == pytest.approx(34.10, rel=0.01)
    assert beta == pytest.approx(31.58, rel=0.01)
    assert stats.betabinom.logpmf(boys, 12, alpha, beta).sum() == pytest.approx(-12492.87, abs=0.05)


@pytest.mark.parametrize(("count", "trials"), [(0, 5), (3, 12), (12, 12), (150, 400), (300, 900), (2100, 5000)])
def test_tails_are_those_of_scipy(count: int, trials: int) -> None:
    lower, upper = beta_binomial_tails(np.array([count]), np.array([trials]), 6.0, 9.0)
    exact = stats.betabinom(trials, 6.0, 9.0)
    tolerance = 1e-9 if trials <= 400 else 0.003  # the beta of the same mean and variance
    assert lower[0] == pytest.approx(exact.cdf(count), abs=tolerance)
    assert upper[0] == pytest.approx(exact.sf(count - 1), abs=tolerance)


def planted(seed: int = 3) -> pl.DataFrame:
    """40 guides with a bounce rate of 70 %, 40 products with 35 %, both with scatter; one of each bounces like the other type.
    Two contact pages.
    """
    rng = np.random.default_rng(seed)
    sessions = rng.integers(60, 900, 82)
    usual = np.r_[np.full(40, 0.7), np.full(40, 0.35), 0.9, 0.9]
    usual[[0, 40]] = 0.3, 0.75
    sessions[[0, 40]] = 600
    share = rng.beta(usual * 40, (1 - usual) * 40)
    types = ["guide"] * 40 + ["product"] * 40 + ["contact"] * 2
    kinds = {"page": pl.UInt32, "type": pl.String, "sessions": pl.UInt32, "bounces": pl.UInt32}
    columns = {"page": np.arange(82), "type": types, "sessions": sessions, "bounces": rng.binomial(sessions, share)}
    return pl.DataFrame(columns, schema=kinds)


def test_bounces_are_judged_against_the_pages_of_a_type() -> None:
    """Ten sites: nine in ten of the two are found, and hardly any of the 78 others (the false discovery rate is a mean)."""
    found = false = 0
    for seed in range(10):
        result = judge_bounces(planted(seed), ["contact"])
        sure = dict(result.filter(pl.col("bounces_more").is_not_null()).select("page", "bounces_more").iter_rows())
        found += (sure.pop(0, None) is False) + (sure.pop(40, None) is True)
        false += len(sure)
        assert result.filter(pl.col("page") >= 80)["bounce_evidence"].to_list() == [None, None]  # exempt
        assert result.filter(pl.col("page") == 5)["expected_bounce_rate"].item() == pytest.approx(0.7, abs=0.05)
    assert found >= 18
    assert false <= 4


def test_types_with_few_pages_are_held_against_all_and_small_pages_not_at_all() -> None:
    few = planted().with_columns(pl.when(pl.col("page") < 35).then(pl.col("type")).otherwise(pl.lit("other")).alias("type"))
    few = few.with_columns(type=pl.when(pl.col("page") >= 78).then(pl.lit("rare")).otherwise(pl.col("type")))
    few = few.with_columns(sessions=pl.when(pl.col("page") == 1).then(20).otherwise("sessions"))
    rows = judge_bounces(few.with_columns(pl.min_horizontal("bounces", "sessions").alias("bounces")), [])
    assert set(rows.filter(pl.col("page") >= 78)["compared_with"]) == {"all pages"}
    assert rows.filter(pl.col("page") == 1)["bounce_evidence"].item() is None
    assert judge_bounces(planted().head(5), [])["bounce_evidence"].null_count() == 5  # too few pages in all


def test_pages_whose_sessions_do_not_match_their_clicks() -> None:
    rng = np.random.default_rng(5)
    clicks = rng.integers(50, 2000, 60)
    sessions = rng.poisson(clicks * 0.85 * rng.gamma(60, 1 / 60, 60))
    sessions[7] = 30  # its counter is broken
    clicks[7] = 900
    rows = reconcile(pl.DataFrame({"page": np.arange(60), "clicks": clicks, "sessions": sessions}))
    sure = rows.filter(pl.col("sessions_evidence").is_in(["firm", "likely"]))
    assert sure["page"].to_list() == [7]
    assert sure["expected_sessions"].item() == pytest.approx(0.85 * 900, rel=0.05)


def test_earning_and_informing() -> None:
    """At 2 %, 200 sessions without a conversion have probability e^-4: the page informs; 100 may be chance."""
    pages = pl.DataFrame({"page": [1, 2, 3, 4], "sessions": [9_700, 200, 100, 50], "conversions": [200.0, 0.0, 0.0, 1.0]})
    assert roles(pages)["role"].to_list() == ["earns", "informs", "unknown", "earns"]
    assert roles(pages.with_columns(conversions=pl.lit(None, dtype=pl.Float64)))["role"].to_list() == [None] * 4
