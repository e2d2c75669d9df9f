"""A curve for each device: a normal CTR on phones is not low compared with desktop."""

from datetime import date, timedelta

import numpy as np
import polars as pl
import pytest

from zugzwang.core.clicks.click_curve import own_curve
from zugzwang.core.clicks.device_curves import Curves
from zugzwang.core.clicks.lenses import appraise, stakes
from zugzwang.core.facts.grains import DEVICES
from zugzwang.core.facts.search import SCHEMA

DESKTOP, MOBILE = DEVICES.index("desktop"), DEVICES.index("mobile")
NO_BRAND = pl.Series([], dtype=pl.UInt32)
DAYS = 60


def facts(seed: int = 1) -> pl.DataFrame:
    """600 rows; CTR on phones is half that on desktop. The first 60 rows have impressions on phones only."""
    rng = np.random.default_rng(seed)
    row, day = np.repeat(np.arange(600), DAYS), np.tile(np.arange(DAYS), 600)
    home, shown, factor = np.exp(rng.uniform(0, 3, 600)), rng.uniform(4, 60, 600), rng.gamma(12, 1 / 12, 600)
    parts = []
    for device, level in ((DESKTOP, 0.4), (MOBILE, 0.2)):
        share = np.where(row < 60, float(device == MOBILE), rng.uniform(0.3, 0.7))
        position = np.clip(home[row] * rng.lognormal(0, 0.05, row.size), 1, 100)
        seen = rng.poisson(shown[row] * share)
        clicks = rng.binomial(seen, np.minimum(level * position**-1.0 * factor[row], 0.9))
        days = [date(2026, 9, 1) + timedelta(days=int(one)) for one in day]
        columns = {"day": days, "page": row, "query": row, "clicks": clicks, "impressions": seen, "position": position}
        parts.append(pl.DataFrame(columns).with_columns(device=pl.lit(device, dtype=pl.UInt8)))
    return pl.concat(parts).filter(pl.col("impressions") > 0).cast(dict(SCHEMA))


def test_rows_are_held_against_the_curve_of_their_device() -> None:
    result = appraise(facts(), NO_BRAND)
    ratio = result.curves.of(MOBILE)(np.array([2.0, 5.0])) / result.curves.of(DESKTOP)(np.array([2.0, 5.0]))
    assert ratio == pytest.approx(0.5, abs=0.06)
    together = appraise(facts().drop("device"), NO_BRAND)

    mixed = together.rows.filter(pl.col("page") < 60)
    assert mixed["expected_clicks"].sum() > 1.3 * mixed["clicks"].sum()  # one curve for all expects too much of phones
    on_phones = result.rows.filter(pl.col("page") < 60)
    assert on_phones["expected_clicks"].sum() == pytest.approx(on_phones["clicks"].sum(), rel=0.12)


def test_expected_clicks_by_hand() -> None:
    """100 impressions at 3 on a phone, μ = 0.08, and 50 on a desktop, μ = 0.12: 8 + 6."""
    flat = {level: own_curve([(1.0, level), (100.0, level)]) for level in (0.08, 0.12, 0.5)}
    curves = Curves(flat[0.5], {MOBILE: flat[0.08], DESKTOP: flat[0.12]})
    device = np.array([MOBILE, DESKTOP, 0], dtype=np.uint8)
    assert curves.expected(np.full(3, 3.0), np.array([100, 50, 10]), device) == pytest.approx([8, 6, 5])
    shown_on = {MOBILE: np.array([100]), DESKTOP: np.array([50])}
    assert curves.earned_at(np.array([1.0]), np.array([160]), shown_on) == pytest.approx([8 + 6 + 5])


def test_a_device_with_too_little_data_shares_the_curve_of_all() -> None:
    few = facts().filter((pl.col("device") == MOBILE) | (pl.col("page") < 62))
    result = appraise(few, NO_BRAND)
    assert set(result.curves.by_device) == {MOBILE}
    assert stakes(result, 100)["potential"].is_finite().all()
