"""Why clicks changed between two periods: impressions, devices, rank and snippet; new, lost and anonymised queries.

A row's clicks are k = n · (E/n) · (k/E): impressions, expected CTR at its positions on the site's curve (rank), and click
strength at those positions (snippet). The change of a product is split exactly by the additive logarithmic mean Divisia
index, LMDI-I (Ang 2005, Energy Policy 33:867–871):

    Δk_x = L(k₁, k₀) · ln(x₁/x₀),   L(a, b) = (a − b) / (ln a − ln b),   L(a, a) = a

Example: 100 · 0.05 → 200 · 0.04 is 5 → 8 clicks; L(8, 5) = 3 / ln 1.6 = 6.3829; impressions 6.3829 · ln 2 = 4.42, rank
6.3829 · ln 0.8 = −1.42; together 3.

Rows have few clicks, often none, and the logarithm of 0 would attribute every such row to its snippet. So the strength k/E
of each period is the mean of its gamma posterior, (k + r·s) / (E + r), around the row's own strength over both periods s =
(k₀ + k₁ + r) / (E₀ + E₁ + r), with the shape r of the site's scatter; what chance adds goes to the snippet, the last part
readers look at. For rows with many clicks this is plain LMDI-I. The parts always add up to the change.

Impressions are not demand: beyond page one few people see a result. So where a row crosses position 10, that part is shown
as "rank or demand", because the two cannot be separated. Where devices have their own curves, E/n is the device mix at the
earlier ranks, m = Σ_d s'_d · E_d/n_d, times the effect of ranks, (E'/n') / m.
"""

from collections.abc import Mapping, Sequence
from typing import Literal

import numpy as np
import polars as pl

from zugzwang.core.clicks.evidence import Floats
from zugzwang.core.facts.search import ROW

By = Literal["page", "section", "page-type", "query", "query-group", "site"]
BYS: tuple[By, ...] = ("page", "section", "page-type", "query", "query-group", "site")
OF_ROWS = ("shown", "rank_or_demand", "device_mix", "rank", "snippet", "new_queries", "lost_queries")
PARTS = (*OF_ROWS, "anonymised")
PAGE_ONE = 10


def log_mean(a: Floats, b: Floats) -> Floats:
    """The logarithmic mean of positive numbers, between their geometric and arithmetic means; a where both equal a."""
    a, b = np.asarray(a, dtype=np.float64), np.asarray(b, dtype=np.float64)
    separate = ~np.isclose(a, b, rtol=1e-9, atol=0.0)
    ratio = np.log(np.where(separate, a / b, 2.0))
    return np.where(separate, (a - b) / ratio, (a + b) / 2)


def split(before: Sequence[Floats], after: Sequence[Floats]) -> list[Floats]:
    """LMDI-I: each factor's part of the change of their product. `before` and `after`: one array for each factor, all
    positive, in the same order; the parts are in that order and add up to the change of the product.
    """
    weight = log_mean(np.prod(after, axis=0), np.prod(before, axis=0))
    return [weight * np.log(now / then) for then, now in zip(before, after, strict=True)]


def change(before: pl.DataFrame, after: pl.DataFrame, shape: float) -> pl.DataFrame:
    """The change of each row that had impressions in either period, in its parts (clicks).

    `before`, `after`: page, query, clicks, impressions (above 0), position, expected_clicks on one curve for both, and with
    device curves `shown_<code>` and `expected_<code>`; `shape`: of the site's scatter. Returns page, query, clicks_before,
    clicks_after, and OF_ROWS.
    """
    devices = [name for name in before.columns if name.startswith(("shown_", "expected_")) and name in after.columns]
    names = ["clicks", "impressions", "position", *dict.fromkeys(["expected_clicks", *devices])]
    both = before.select(*ROW, *names).join(after.select(*ROW, *names), on=ROW, how="full", coalesce=True, suffix="_after")
    both = both.rename({name: f"{name}_before" for name in names})
    lasting = both["impressions_before"].is_not_null() & both["impressions_after"].is_not_null()
    counts = ("clicks", "impressions", "expected_clicks")
    stayed = both.filter(lasting)
    k0, n0, e0, k1, n1, e1 = (
        stayed[f"{name}_{when}"].cast(pl.Float64).to_numpy() for when in ("before", "after") for name in counts
    )
    strength = (k0 + k1 + shape) / (e0 + e1 + shape)
    s0, s1 = (k0 + shape * strength) / (e0 + shape), (k1 + shape * strength) / (e1 + shape)
    mixed = _at_ranks_of_before(stayed, devices)
    ones = np.ones(n0.size)
    shown, mix, rank, snippet = split([n0, e0 / n0, ones, s0], [n1, mixed, (e1 / n1) / mixed, s1])
    on_page_one = [stayed[f"position_{when}"].round().to_numpy() <= PAGE_ONE for when in ("before", "after")]
    crosses = on_page_one[0] != on_page_one[1]
    snippet = snippet + (k1 - e1 * s1) - (k0 - e0 * s0)
    parts = both.filter(lasting).select(
        *ROW,
        "clicks_before",
        "clicks_after",
        shown=pl.Series(np.where(crosses, 0.0, shown)),
        rank_or_demand=pl.Series(np.where(crosses, shown, 0.0)),
        device_mix=pl.Series(mix),
        rank=pl.Series(rank),
        snippet=pl.Series(snippet),
        new_queries=pl.lit(0.0),
        lost_queries=pl.lit(0.0),
    )
    others = both.filter(~lasting).select(
        *ROW,
        pl.col("clicks_before", "clicks_after").fill_null(0),
        shown=pl.lit(0.0),
        rank_or_demand=pl.lit(0.0),
        device_mix=pl.lit(0.0),
        rank=pl.lit(0.0),
        snippet=pl.lit(0.0),
        new_queries=pl.when(pl.col("impressions_before").is_null()).then(pl.col("clicks_after")).otherwise(0).cast(pl.Float64),
        lost_queries=pl.when(pl.col("impressions_after").is_null())
        .then(-pl.col("clicks_before").cast(pl.Float64))
        .otherwise(0.0),
    )
    return pl.concat([parts, others.select(parts.columns).cast(parts.schema)])


def to_totals(parts: Mapping[str, float], before: float, after: float) -> dict[str, float]:
    """Reconcile the parts of a change with the totals of the whole site: clicks beyond its pages go to `unnamed`, so the parts
    still add up to the change.
    """
    beyond = (after - before) - (parts["clicks_after"] - parts["clicks_before"])
    return {**parts, "clicks_before": before, "clicks_after": after, "anonymised": parts["anonymised"] + beyond}


def _at_ranks_of_before(rows: pl.DataFrame, devices: Sequence[str]) -> Floats:
    """The expected CTR of each row with the later device mix at the earlier ranks; unchanged where devices are not reported or
    had no impressions then.
    """
    names = ("impressions_before", "expected_clicks_before", "impressions_after")
    n0, e0, n1 = (rows[name].cast(pl.Float64).to_numpy() for name in names)
    usual = e0 / n0
    mixed, result = np.zeros(n0.size), np.zeros(n0.size)
    for code in (name.removeprefix("shown_") for name in devices if name.startswith("shown_")):
        then, expected, now = (
            rows[name].cast(pl.Float64).to_numpy()
            for name in (f"shown_{code}_before", f"expected_{code}_before", f"shown_{code}_after")
        )
        rate = np.divide(expected, then, out=usual.copy(), where=then > 0)
        mixed += now / n1 * np.where(rate > 0, rate, usual)
        result += now / n1
    return np.asarray(mixed + np.maximum(1 - result, 0.0) * usual)


def rolled_up(rows: pl.DataFrame, by: Sequence[str], totals: pl.DataFrame | None = None) -> pl.DataFrame:
    """The parts of rows summed by `by`, largest loss first; with `totals` (by, clicks_before, clicks_after of all queries,
    including anonymised ones) the part `unnamed` is the rest of the change.

    Returns by, clicks_before, clicks_after, PARTS, and demand: the total impressions, which is two of the parts.
    """
    named = rows.group_by(by).agg(
        pl.col("clicks_before", "clicks_after").cast(pl.Int64).sum(),
        pl.col(OF_ROWS).sum(),
    )
    if totals is not None:
        frame = totals.select(*by, "clicks_before", "clicks_after").join(named, on=by, how="left", suffix="_named").fill_null(0)
        explained = pl.col("clicks_after_named") - pl.col("clicks_before_named")
        named = frame.with_columns(anonymised=(pl.col("clicks_after") - pl.col("clicks_before") - explained).cast(pl.Float64))
        named = named.drop("clicks_before_named", "clicks_after_named")
    else:
        named = named.with_columns(anonymised=pl.lit(0.0))
    named = named.with_columns(demand=pl.col("shown") + pl.col("rank_or_demand"))
    return named.sort(pl.col("clicks_after") - pl.col("clicks_before"), *by)
