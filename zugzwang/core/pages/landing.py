"""Landing pages: what visitors from search do, compared with the clicks that search reports for the same pages.

Clicks and sessions. A click starts a session, but not every click is counted as one (consent, a page left before it loads),
and not every session came from a click. So the site's own ratio of organic sessions to clicks is the norm, and a page is
reported where it has far fewer or more: gamma–Poisson with mean clicks × ratio and the scatter of the site's pages
(evidence.py).

Bounce rates are judged against pages of the same type, because a contact page bounces by nature (common practice, no
source): a page's bounces are beta-binomial with its type's α and β by maximum likelihood, fitted without extreme pages.
Exempt types are not judged; types with fewer than `TYPE_PAGES` pages are judged against all pages, and the result says so.
The false discovery rate is controlled over the pages judged.

Earning and informing. A page earns when its visits converted. It informs when none did, although at the site's conversion
rate that had a probability of 5 % or less (e^(−sessions · rate)). Otherwise it has too few visits.

Example: at a site rate of 2 %, a page with 200 sessions and no conversion has e^−4 = 1.8 %: it informs; with 100 sessions
13.5 %: unknown.
"""

from collections.abc import Sequence
from typing import Literal

import numpy as np
import polars as pl
import scipy

from zugzwang.core.clicks.evidence import (
    GRADES,
    Counts,
    Floats,
    false_discovery,
    fit_scatter,
    fit_shape,
    grades,
    lower_tail,
    upper_tail,
)

Role = Literal["earns", "informs", "unknown"]
ROLES: tuple[Role, ...] = ("earns", "informs", "unknown")
SESSIONS_FLOOR = 30  # with fewer, neither bounce rate nor ratio is judged
TYPE_PAGES = 8
NONE_BY_CHANCE = 0.05
EXTREME = 0.001
SCATTER_ROUNDS = 2
EXACT_UP_TO = 400  # sessions; beyond, the beta-binomial is approximated by the beta with the same mean and variance
_STRENGTH_BOUNDS = (np.log(1e-2), np.log(1e6))


def fit_beta_binomial(counts: Counts, trials: Counts) -> tuple[float, float]:
    """α and β by maximum likelihood. One value a page: `counts` out of `trials` (above 0)."""

    def minus_log_likelihood(free: Floats) -> float:
        alpha, beta = _alpha_beta(free)
        return -float(
            np.sum(scipy.special.betaln(counts + alpha, trials - counts + beta))
            - counts.size * scipy.special.betaln(alpha, beta)
        )

    mean = min(max(float(counts.sum() / trials.sum()), 0.01), 0.99)
    # Mean and strength are almost independent parameters, unlike α and β.
    start = np.array([scipy.special.logit(mean), np.log(10.0)])
    found = scipy.optimize.minimize(minus_log_likelihood, start, method="Nelder-Mead", options={"xatol": 1e-4, "fatol": 1e-6})
    return _alpha_beta(found.x)


def _alpha_beta(free: Floats) -> tuple[float, float]:
    mean, strength = scipy.special.expit(free[0]), np.exp(np.clip(free[1], *_STRENGTH_BOUNDS))
    return float(mean * strength), float((1 - mean) * strength)


def beta_binomial_tails(counts: Counts, trials: Counts, alpha: float, beta: float) -> tuple[Floats, Floats]:
    """P(K ≤ count) and P(K ≥ count) of beta-binomial counts."""
    lower, upper = np.ones(counts.size), np.ones(counts.size)
    for row in np.flatnonzero(trials <= EXACT_UP_TO):
        n, k = int(trials[row]), int(counts[row])
        support = np.arange(n + 1)
        log_chance = (
            scipy.special.betaln(support + alpha, n - support + beta)
            - scipy.special.betaln(alpha, beta)
            - np.log(n + 1)
            - scipy.special.betaln(n - support + 1, support + 1)
        )
        chance = np.exp(log_chance)
        lower[row], upper[row] = chance[: k + 1].sum(), chance[k:].sum()
    large = trials > EXACT_UP_TO
    of_large, mean = trials[large], alpha / (alpha + beta)
    # The variance of the share is mean (1 − mean) (1 + (n − 1) ρ) / n, that of a beta mean (1 − mean) / (a + b + 1).
    correlation = 1 / (alpha + beta + 1)
    strength = of_large / (1 + (of_large - 1) * correlation) - 1
    a, b = mean * strength, (1 - mean) * strength
    lower[large] = scipy.stats.beta.cdf((counts[large] + 0.5) / of_large, a, b)
    upper[large] = scipy.stats.beta.sf((counts[large] - 0.5) / of_large, a, b)
    return np.minimum(lower, 1.0), np.minimum(upper, 1.0)


def _usual(counts: Counts, trials: Counts) -> tuple[float, float]:
    """α and β of the pages that are not extreme under them."""
    included = np.ones(counts.size, dtype=bool)
    alpha, beta = fit_beta_binomial(counts, trials)
    for _ in range(2):
        lower, upper = beta_binomial_tails(counts, trials, alpha, beta)
        included = np.minimum(lower, upper) >= EXTREME
        if included.sum() < TYPE_PAGES:
            break
        alpha, beta = fit_beta_binomial(counts[included], trials[included])
    return alpha, beta


def judge_bounces(pages: pl.DataFrame, exempt: Sequence[str]) -> pl.DataFrame:
    """The bounce rate of each page against pages of its type.

    `pages`: page, type (null: none), sessions, bounces (null: not reported). `exempt`: types whose bounces are not judged.
    Returns page, bounce_rate, expected_bounce_rate (0…1, null where not judged), compared_with (the type, or "all pages"),
    bounce_q_value, bounce_evidence (null where not judged), bounces_more (null unless firm or likely).
    """
    rows = pages.with_columns(bounce_rate=pl.when(pl.col("sessions") > 0).then(pl.col("bounces") / pl.col("sessions")))
    enough = pl.col("bounces").is_not_null() & (pl.col("sessions") >= SESSIONS_FLOOR)
    known = rows.filter(enough, ~pl.col("type").fill_null("").is_in(list(exempt)))
    judged: list[pl.DataFrame] = []
    large = {name for name, count in known.group_by("type").len().iter_rows() if name is not None and count >= TYPE_PAGES}
    for name in [*sorted(large), None]:
        of_type = (
            known.filter(pl.col("type") == name) if name else known.filter(~pl.col("type").fill_null("").is_in(list(large)))
        )
        base = of_type if name else known
        if of_type.is_empty() or base.height < TYPE_PAGES:
            continue
        alpha, beta = _usual(base["bounces"].cast(pl.Int64).to_numpy(), base["sessions"].cast(pl.Int64).to_numpy())
        counts, trials = (of_type[column].cast(pl.Int64).to_numpy() for column in ("bounces", "sessions"))
        lower, upper = beta_binomial_tails(counts, trials, alpha, beta)
        judged.append(
            of_type.select(
                "page",
                expected_bounce_rate=pl.lit(alpha / (alpha + beta)),
                compared_with=pl.lit(name or "all pages"),
                p_value=pl.Series(np.minimum(2 * np.minimum(lower, upper), 1.0)),
            )
        )
    verdicts = pl.concat(judged) if judged else _no_verdicts(pages)
    q_values = false_discovery(verdicts["p_value"].to_numpy())
    verdicts = verdicts.drop("p_value").with_columns(
        bounce_q_value=pl.Series(q_values, dtype=pl.Float64),
        bounce_evidence=pl.Series(grades(q_values), dtype=pl.String).cast(pl.Enum(GRADES)),
    )
    together = rows.select("page", "bounce_rate").join(verdicts, on="page", how="left", maintain_order="left")
    sure = pl.col("bounce_evidence").is_in(["firm", "likely"])
    more = pl.col("bounce_rate") > pl.col("expected_bounce_rate")
    return together.with_columns(bounces_more=pl.when(sure).then(more))


def _no_verdicts(pages: pl.DataFrame) -> pl.DataFrame:
    kinds = {"expected_bounce_rate": pl.Float64(), "compared_with": pl.String(), "p_value": pl.Float64()}
    return pl.DataFrame(schema=pl.Schema({"page": pages.schema["page"], **kinds}))


def reconcile(pages: pl.DataFrame) -> pl.DataFrame:
    """Organic sessions compared with clicks. `pages`: page, clicks, sessions (null: no visits reported).

    Returns page, sessions_per_click (null without clicks), expected_sessions (clicks × the site's ratio), sessions_evidence
    (null where too few are expected to judge).
    """
    known = pages.filter(pl.col("sessions").is_not_null(), pl.col("clicks") > 0)
    ratio = known.select(pl.col("sessions").sum() / pl.col("clicks").sum()).item() if known.height else 0.0
    # The median page's ratio: one page without tracking must not lower the norm for all.
    middle = known.filter(pl.col("clicks") >= SESSIONS_FLOOR).select((pl.col("sessions") / pl.col("clicks")).median()).item()
    usual = known.select("page", "sessions", "clicks").with_columns(expected_sessions=pl.col("clicks") * (middle or ratio))
    judged = usual.filter(pl.col("expected_sessions") >= SESSIONS_FLOOR)
    sessions, expected = judged["sessions"].cast(pl.Int64).to_numpy(), judged["expected_sessions"].to_numpy()
    if judged.height >= TYPE_PAGES:
        shape = fit_shape(sessions, expected)
        for _ in range(SCATTER_ROUNDS):
            shape = fit_scatter(sessions, expected, shape)
        p_values = np.minimum(2 * np.minimum(lower_tail(sessions, expected, shape), upper_tail(sessions, expected, shape)), 1.0)
        graded = pl.Series(grades(false_discovery(p_values)), dtype=pl.String).cast(pl.Enum(GRADES))
    else:
        graded = pl.Series([None] * judged.height, dtype=pl.Enum(GRADES))
    verdicts = judged.select("page", sessions_evidence=graded)
    rows = pages.select("page", "clicks", "sessions").join(
        usual.select("page", "expected_sessions"), on="page", how="left", maintain_order="left"
    )
    per_click = pl.when(pl.col("clicks") > 0).then(pl.col("sessions") / pl.col("clicks"))
    return rows.select("page", per_click.alias("sessions_per_click"), "expected_sessions").join(
        verdicts, on="page", how="left", maintain_order="left"
    )


def roles(pages: pl.DataFrame) -> pl.DataFrame:
    """Whether each page earns or informs. `pages`: page, sessions, conversions (null: not reported). Returns page, role (null
    where no conversions are reported at all).
    """
    rows = pages.select("page", "sessions", "conversions").with_columns(pl.col("conversions").cast(pl.Float64))
    sessions = rows.filter(pl.col("conversions").is_not_null())["sessions"].sum()
    rate = float(rows["conversions"].sum() or 0) / float(sessions) if sessions else 0.0
    never = (-rate * pl.col("sessions")).exp() <= NONE_BY_CHANCE if rate else pl.lit(False)
    role = (
        pl.when(pl.col("conversions").is_null() | pl.lit(rate == 0))
        .then(None)
        .when(pl.col("conversions") > 0)
        .then(pl.lit("earns"))
        .when(never)
        .then(pl.lit("informs"))
        .otherwise(pl.lit("unknown"))
    )
    return rows.select("page", role.alias("role"))
