"""The plain words for a row's numbers. Every sentence that a person reads about a finding is made here."""

from collections.abc import Sequence
from datetime import date

from zugzwang.core.evidence import Grade
from zugzwang.core.periods import Period

THIN_SPACE = "\u2009"


def count(value: float) -> str:
    """A whole number with thin spaces: 4120 → "4 120"."""
    return f"{round(value):,}".replace(",", THIN_SPACE)


def times(value: float) -> str:
    return {0: "never", 1: "once", 2: "twice"}.get(round(value), f"{count(value)} times")


def day(value: date) -> str:
    return f"{value.day} {value:%b} {value.year}"


def period(value: Period) -> str:
    """ "13 weeks to 15 Nov 2026" when whole weeks, else "10 Aug 2026 to 15 Nov 2026"."""
    if value.first.isoweekday() == 1 and value.last.isoweekday() == 7:
        weeks = value.days // 7
        return f"{weeks} week{'s' if weeks != 1 else ''} to {day(value.last)}"
    if value.days == 1:
        return day(value.last)
    return f"{day(value.first)} to {day(value.last)}"


def missing_days(missing: Sequence[date], what: str) -> str:
    """What a period lacks, or nothing."""
    if not missing:
        return ""
    if len(missing) == 1:
        return f"{what} has no data for {day(missing[0])}."
    return f"{what} has no data for {len(missing)} of its days, from {day(missing[0])} to {day(missing[-1])}."


def row(clicks: int, impressions: int, position: float, usual: tuple[int, int]) -> str:
    """What was seen, and what is usual.

    >>> row(11, 4120, 5.4, (190, 260)).replace(THIN_SPACE, " ")
    'Shown 4 120 times at 5.4, clicked 11 times; pages of yours at those positions usually get 190 to 260 clicks.'
    """
    low, high = usual
    span = f"{count(low)} to {count(high)} clicks" if low < high else f"{count(low)} click{'s' if low != 1 else ''}"
    return (
        f"Shown {times(impressions)} at {position:.1f}, clicked {times(clicks)}; "
        f"pages of yours at those positions usually get {span}."
    )


def evidence(lens: str, grade: Grade, q_value: float) -> str:
    """How sure the finding is, in the words of the lens."""
    rate = "fewer than 0.01 %" if q_value < 0.0001 else f"about {100 * q_value:.2g} %"
    if grade == "thin":
        return "Too little to tell from chance and your site's usual scatter: no finding, only a row."
    sure = "Firm" if grade == "firm" else "Likely"
    claim = {
        "low-ctr": "clicked less than chance and your site's usual scatter explain",
        "outperformers": "clicked more than chance and your site's usual scatter explain",
        "striking-distance": "the better place would bring more clicks than chance takes away",
        "off-fit": "the better place would bring more clicks than chance takes away",
    }[lens]
    return f"{sure}: {claim}. Of rows as sure as this one, {rate} would be false alarms."


def reach(headroom_a_month: float, position: float, target: float) -> str:
    """What a better place would bring."""
    if headroom_a_month < 0.5:
        return f"From {position:.1f} up to {target:.0f} there is next to nothing to gain."
    return f"From {position:.1f} up to {target:.0f} it would bring about {count(headroom_a_month)} more clicks a month."


def curve_basis(basis: str, clicks: int) -> str:
    if basis == "prior":
        return (
            f"Too little data for a curve of your own ({count(clicks)} non-brand clicks): a usual curve is leaned on, "
            "so take every expectation with care."
        )
    if basis == "own":
        return "The curve was set by hand for this site."
    return f"The curve is your site's own, from {count(clicks)} non-brand clicks of the period."
