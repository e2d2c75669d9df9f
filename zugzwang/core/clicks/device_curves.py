"""One click curve a device, where the data distinguish devices: a phone shows fewer results at once, so its CTR by position
differs.

Each device with enough data has its own curve (click_curve.py); the others share the curve of all devices. A row's expected
clicks are summed over its facts, each on its device's curve: E = Σ n·μ_device(p).
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from zugzwang.core.clicks.click_curve import ClickCurve, added_up, expected_clicks, fit_click_curve, refit_shape
from zugzwang.core.clicks.evidence import Counts, Floats

Devices = npt.NDArray[np.uint8]


@dataclass(frozen=True)
class Curves:
    """`together`: the curve of all devices, with the site's scatter. `by_device`: the devices with their own curve, by code in
    grains.DEVICES; empty where the data do not distinguish devices.
    """

    together: ClickCurve
    by_device: Mapping[int, ClickCurve] = field(default_factory=dict)

    def of(self, device: int) -> ClickCurve:
        return self.by_device.get(device, self.together)

    def expected(self, position: Floats, impressions: Counts, device: Devices | None = None) -> Floats:
        """Expected clicks of each fact."""
        found = expected_clicks(self.together, position, impressions)
        if device is None:
            return found
        for code, curve in self.by_device.items():
            current = np.flatnonzero(device == code)
            found[current] = expected_clicks(curve, position[current], impressions[current])
        return found

    def earned_at(self, position: Floats, impressions: Counts, shown_on: Mapping[int, Counts]) -> Floats:
        """The clicks that rows would get at a position. `shown_on`: the share of their impressions on each device with its own
        curve.
        """
        rest = impressions.astype(np.float64)
        earned = np.zeros(position.size)
        for code, shown in shown_on.items():
            earned += shown * self.of(code)(position)
            rest = rest - shown
        return np.asarray(earned + np.maximum(rest, 0.0) * self.together(position))


def fit_curves(
    row: npt.NDArray[np.intp], position: Floats, clicks: Counts, impressions: Counts, rows: int, device: Devices | None = None
) -> Curves:
    """The site's curves from daily facts of non-brand rows; arguments as for fit_click_curve, plus `device`, one code a
    fact."""
    together = fit_click_curve(row, position, clicks, impressions, rows)
    if device is None:
        return Curves(together)
    codes = [int(code) for code in np.unique(device)]
    if len(codes) < 2:
        return Curves(together)
    by_device = {}
    for code in codes:
        current = np.flatnonzero(device == code)
        own = fit_click_curve(row[current], position[current], clicks[current], impressions[current], rows)
        if own.basis == "site":
            by_device[code] = own
    curves = Curves(together, by_device)
    expected = added_up(row, curves.expected(position, impressions, device), rows)
    return replace(
        curves, together=refit_shape(together, added_up(row, clicks.astype(np.float64), rows).astype(np.int64), expected)
    )
