"""Sentences about tests: the smallest detectable effect, the progress, the result."""

from datetime import date
from math import exp

from zugzwang.core.trials.summing import Summed
from zugzwang.core.trials.units import Measure
from zugzwang.core.words.sentences import count

WHAT: dict[Measure, str] = {"clicks": "clicks", "impressions": "impressions", "ctr": "CTR", "position": "places"}
SURE = 0.05


def amount(difference: float, measure: Measure) -> str:
    r"""An effect in words: a percentage, or positions.

    >>> amount(0.1823, "clicks"), amount(-0.2, "ctr"), amount(1.24, "position")
    ('+20\u202f%', '−18\u202f%', '+1.2')
    """
    if measure == "position":
        return f"{difference:+.1f}".replace("-", "−")
    share = 100 * (exp(difference) - 1)
    if share >= 200:
        return f"{exp(difference):.1f} times as much"
    return f"{share:+.0f}\u202f%".replace("-", "−")


def visible(smallest: float | None, measure: Measure, units: int, clicks: float, by_row: bool = False) -> str:
    """The smallest detectable effect; `clicks`: of the test pages in the weeks before.

    >>> visible(1.43, "clicks", 1, 17.0)
    '1 page with 17 clicks in those weeks: only a rise to 4.2 times as much would be detected in four of five cases.'
    """
    if smallest is None:
        return "At least 30 control pages are needed to estimate the smallest detectable effect."
    one, many = ("row", "rows") if by_row else ("page", "pages")
    what = f"{count(units)} {one if units == 1 else many} with {count(clicks)} clicks in those weeks"
    if measure == "position":
        return f"{what}: a gain of {smallest:.1f} positions would be detected in four of five cases."
    ratio = exp(smallest)
    rise = f"only a rise to {ratio:.1f} times as much" if ratio >= 3 else f"a rise of {100 * (ratio - 1):.0f}\u202f%"
    of = "" if measure == "clicks" else f" of {WHAT[measure]}"
    return f"{what}: {rise}{of} would be detected in four of five cases."


def running(last: date, until: date) -> str:
    return (
        f"Data reach {last:%-d %b %Y}; the trial ends on {until:%-d %b %Y}. Do not judge it before: "
        "looking often enough shows an effect where there is none."
    )


def verdict(effect: float, low: float, high: float, p_value: float, measure: Measure, smallest: float | None) -> str:
    r"""The result of a test.

    >>> verdict(0.18, 0.05, 0.31, 0.01, "clicks", 0.2)
    'It helped: +20\u202f% clicks (95\u202f% interval: +5\u202f% to +36\u202f%), p = 0.010.'
    """
    span = f"(95\u202f% interval: {amount(low, measure)} to {amount(high, measure)})"
    result = f"{amount(effect, measure)} {WHAT[measure]} {span}, p {'< 0.001' if p_value < 0.001 else f'= {p_value:.3f}'}."
    if p_value <= SURE:
        return f"It {'helped' if effect > 0 else 'harmed'}: {result}"
    seen = "" if smallest is None else f" An effect below {amount(smallest, measure)} would probably be missed."
    return f"No effect beyond chance: {result}{seen}"


def worked(summed: Summed, helped: int, measure: Measure = "clicks") -> str:
    r"""The pooled result of concluded tests of a kind.

    >>> worked(Summed(0.1, 0.02, 0.18, 0.0, 3), 2)
    '3 trials of this kind here: +11\u202f% clicks on average (+2\u202f% to +20\u202f%); 2 helped beyond chance.'
    """
    trials = "1 trial" if summed.trials == 1 else f"{count(summed.trials)} trials"
    span = f"({amount(summed.low, measure)} to {amount(summed.high, measure)})"
    mean = f"{amount(summed.mean, measure)} {WHAT[measure]}{'' if summed.trials == 1 else ' on average'}"
    return f"{trials} of this kind here: {mean} {span}; {count(helped)} helped beyond chance."


def trials(running_ones: int, ready: int, concluded: int) -> str:
    """How many tests there are.

    >>> trials(1, 0, 2)
    '1 trial is running, 2 are finished.'
    """
    if not running_ones + ready + concluded:
        return "No trial yet. Select pages in Pages and start one: you see beforehand the smallest detectable effect."
    result = [f"{count(running_ones)} trial{' is' if running_ones == 1 else 's are'} running"]
    result += [f"{count(ready)} {'has' if ready == 1 else 'have'} ended and can be concluded"] if ready else []
    result += [f"{count(concluded)} {'is' if concluded == 1 else 'are'} finished"] if concluded else []
    return f"{', '.join(result)}."


def nothing(controls: int, pairs: int) -> str:
    few = f"fewer than {controls} control pages or {pairs} pairs are left"
    return f"No result: {few}, or none of the changed ones had impressions."


def found_by_crawl(on: date, gone: list[str], same: list[str]) -> list[str]:
    """What the crawl after the change contradicts.

    >>> found_by_crawl(date(2026, 11, 3), [], ["/a/"])
    ['The crawl of 3 Nov 2026 still shows the old title and text of /a/.']
    """
    result = []
    if gone:
        result.append(f"The crawl of {on:%-d %b %Y} did not find {_some(gone)}.")
    if same:
        result.append(f"The crawl of {on:%-d %b %Y} still shows the old title and text of {_some(same)}.")
    return result


def _some(pages: list[str]) -> str:
    more = f" and {count(len(pages) - 1)} more" if len(pages) > 1 else ""
    return f"{pages[0]}{more}"
