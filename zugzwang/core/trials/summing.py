"""Tests of one kind of change, pooled: its average effect on this site, and how often it helped.

The random-effects mean of DerSimonian & Laird (1986, Controlled Clinical Trials 7:177–188): tests differ by more than
chance, so each is weighted by its own variance and the variance between tests.

Example (Borenstein, Hedges, Higgins & Rothstein 2009, chapter 14): effects .095 .277 .367 .664 .462 .185 with variances
.033 .031 .050 .011 .043 .023: random mean 0.358, between-trial variance 0.036.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np

NORMAL_95 = 1.959964


@dataclass(frozen=True)
class Summed:
    """`mean`, `low`, `high`: differences of outcomes; `between`: the variance between tests; `trials`: their number."""

    mean: float
    low: float
    high: float
    between: float
    trials: int


def sum_up(effects: Sequence[float], variances: Sequence[float]) -> Summed | None:
    """The pooled effect; None without tests, and unchanged for a single one."""
    if not effects:
        return None
    result, variance = np.array(effects, float), np.maximum(np.array(variances, float), 1e-12)
    fixed = 1 / variance
    mean = float(fixed @ result / fixed.sum())
    spread = float(fixed @ (result - mean) ** 2)
    scale = float(fixed.sum() - (fixed**2).sum() / fixed.sum())
    between = max((spread - (len(result) - 1)) / scale, 0.0) if len(result) > 1 else 0.0
    weight = 1 / (variance + between)
    mean = float(weight @ result / weight.sum())
    reach = NORMAL_95 / sqrt(float(weight.sum()))
    return Summed(mean, mean - reach, mean + reach, between, len(result))


def variance_of(low: float, high: float) -> float:
    """The variance implied by a 95 % interval."""
    return ((high - low) / (2 * NORMAL_95)) ** 2
