"""Tests: planned with their smallest detectable effect, started, and concluded once at their end; pooled by kind of change."""

import secrets
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import date, timedelta
from typing import Any

import numpy as np
from django.utils import timezone
from typing_extensions import TypedDict  # pydantic needs this one below Python 3.12

from zugzwang.access import Actor
from zugzwang.changing import changes_site
from zugzwang.core.facts.periods import Period
from zugzwang.core.trials.effect import UNTOUCHED_LEAST, effect, smallest_visible
from zugzwang.core.trials.split import PAIRS_LEAST, draw, pairs_of, smallest_visible_by_lot, split_effect
from zugzwang.core.trials.units import DESIGNS, MEASURES, Measure
from zugzwang.core.words import trial_sentences
from zugzwang.core.worth.moves import KINDS
from zugzwang.data.decided import Subject
from zugzwang.data.models import Page, Query, Site, Trial
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Conflict, Invalid, NotFound
from zugzwang.findings.trials import trial_state
from zugzwang.plan.drafts import as_crawled
from zugzwang.plan.trial_units import clicks_of, only, touched_otherwise, units_of
from zugzwang.plan.units import unit_of, windows

WEEKS = (3, 26)
UNITS_MAX, TRIALS_MAX, TEXT_MAX, OUT_MAX = 500, 500, 2_000, 500
LOTS_LISTED = 400  # ticks of the chart


@dataclass(frozen=True)
class Planned:
    """A planned test. `subjects`: pages or rows; for a randomised test all of them, because half are drawn."""

    subjects: Sequence[Subject]
    change: str
    first_day: date
    name: str = ""
    kind: str = "rewrite"
    hope: str = ""
    design: str = "before-after"
    measure: Measure = "clicks"
    weeks: int = 4
    seed: int | None = None


class Verdict(TypedDict):
    """The result of a test, saved permanently. Effects are logarithms of ratios, or positions; `lots`: the placebo effects,
    ascending.
    """

    effect: float | None
    low: float | None
    high: float | None
    p_value: float | None
    controls: int
    lots: list[float]
    words: str


# --- planning and starting ------------------------------------------------------------------------------------------------


def tell_plan(actor: Actor, slug: str, planned: Planned, today: date) -> dict[str, Any]:
    """The smallest effect that a test could detect, and what speaks against it; nothing is saved."""
    site = actor.site(slug)
    _check(site, planned, today)
    return _plan(Snapshot(site), planned)[0]


def start(actor: Actor, slug: str, planned: Planned, today: date) -> Trial:
    """Save a test; a randomised one is drawn now, by its seed. Raises Invalid with the problem."""
    site = actor.site_to_change(slug)
    _check(site, planned, today)
    if not planned.change.strip():
        raise Invalid("A trial needs a change.", "Describe the change.", "change")
    if Trial.objects.filter(site=site, dropped_at=None).count() >= TRIALS_MAX:
        raise Invalid(f"{TRIALS_MAX} trials are kept.", "Drop some.", "name")
    result, changed, unchanged, seed = _plan(Snapshot(site), planned)
    if result["problems"]:
        raise Invalid(" ".join(result["problems"]), "Choose others, or other weeks.", "subjects")
    trial = Trial(
        site=site, name=(planned.name.strip() or planned.change.strip())[:200], change=planned.change.strip(),
        kind=planned.kind, hope=planned.hope.strip(), design=planned.design, measure=planned.measure, changed=changed,
        unchanged=unchanged, seed=seed, first_day=planned.first_day, weeks=planned.weeks, power=result["visible"],
        before=_said_by(Snapshot(site), [one[0] for one in changed]), user=actor.user,
    )  # fmt: skip
    return _store(actor, slug, trial)


@changes_site(plan=True)
def _store(actor: Actor, site: Site, trial: Trial) -> Trial:
    if problems := _taken(site, {one[0] for one in trial.changed}):
        raise Invalid(" ".join(problems), "Choose others.", "subjects")
    trial.save()
    return trial


def _check(site: Site, planned: Planned, today: date) -> None:
    if planned.design not in DESIGNS:
        raise Invalid(f"Unknown design “{planned.design}”.", f"There are: {', '.join(DESIGNS)}.", "design")
    if planned.measure not in MEASURES or planned.kind not in KINDS:
        raise Invalid("Unknown measure or kind.", f"Measures: {', '.join(MEASURES)}. Kinds: {', '.join(KINDS)}.", "measure")
    if not WEEKS[0] <= planned.weeks <= WEEKS[1]:
        raise Invalid(f"A trial takes {WEEKS[0]} to {WEEKS[1]} weeks.", "Four are usual.", "weeks")
    if (planned.first_day - today).days > 366:
        raise Invalid("The trial begins in more than a year.", "Choose an earlier day.", "first_day")
    if not 0 < len(planned.subjects) <= UNITS_MAX:
        raise Invalid(f"A trial needs 1 to {UNITS_MAX} pages or rows.", "Mark some.", "subjects")
    if max(len(planned.change), len(planned.hope), len(planned.name)) > TEXT_MAX:
        raise Invalid(f"A text has more than {TEXT_MAX} letters.", "Shorten it.", "change")
    if len({one.query is None for one in planned.subjects}) > 1 or any(one.page is None for one in planned.subjects):
        raise Invalid("A trial is about pages, or about rows (page and query).", "Choose one or the other.", "subjects")
    pages = {one.page for one in planned.subjects if one.page}
    queries = {one.query for one in planned.subjects if one.query}
    known = Page.objects.filter(site=site, id__in=pages), Query.objects.filter(site=site, id__in=queries)
    if (known[0].count(), known[1].count()) != (len(pages), len(queries)):
        raise NotFound("The site has no such page or query.", "Choose from its lists.")


def _plan(snapshot: Snapshot, planned: Planned) -> tuple[dict[str, Any], list[Any], list[Any], int]:
    """The data of a plan; its test and control units, and the seed."""
    pairs = list(dict.fromkeys((one.page, one.query) for one in planned.subjects))
    by_row = pairs[0][1] is not None
    problems = _taken(snapshot.site, {page for page, _ in pairs if page is not None})
    days = snapshot.facts.days()
    if not days:
        return {"visible": {}, "problems": ["Trials need daily data."], "sentence": ""}, [], [], 0
    # The smallest detectable effect comes from the last weeks before it, without changes.
    until = min(days[-1], planned.first_day - timedelta(days=1))
    begun = until - timedelta(days=7 * planned.weeks)
    units = units_of(snapshot, begun, planned.weeks, by_row, planned.measure, planned.design == "randomised")
    wanted = [unit_of(*pair) for pair in pairs]
    out = touched_otherwise(snapshot, by_row, Period(begun, until), wanted)
    of_unit = {unit_of(*pair): list(pair) for pair in pairs}
    changed, unchanged, seed = wanted, list[int](), 0
    if planned.design == "randomised":
        seed = planned.seed if planned.seed is not None else secrets.randbelow(2**31)
        chosen = only(units, wanted)
        stored = pairs_of(chosen)
        if len(stored) < PAIRS_LEAST:
            problems.append(
                f"A randomised test needs {PAIRS_LEAST} pairs with impressions in the last weeks; there are {len(stored)}."
            )
        changed, unchanged = draw(stored, seed)
        smallest = smallest_visible_by_lot(units, changed, unchanged, out)
    else:
        smallest = smallest_visible(units, wanted, out)
    if not units.unit.size or not np.isin(units.unit, wanted).any():
        problems.append("None of them had impressions in the last weeks.")
    clicks = clicks_of(snapshot, begun, planned.weeks, changed)
    visible = {"smallest": smallest, "changed": len(changed), "clicks": clicks}
    sentence = trial_sentences.visible(smallest, planned.measure, len(changed), clicks, by_row)
    result = {"visible": visible, "problems": problems, "sentence": sentence, "controls": int(units.unit.size - len(wanted))}
    return result, [of_unit[one] for one in changed], [of_unit[one] for one in unchanged], seed


def _taken(site: Site, pages: set[int]) -> list[str]:
    """A page can be in only one test at a time."""
    running = Trial.objects.filter(site=site, dropped_at=None, read_at=None)
    both = {one.name for one in running if pages & {unit[0] for unit in [*one.changed, *one.unchanged]}}
    return [f"Some of the pages are in the trial “{name}” already." for name in sorted(both)]


def _said_by(snapshot: Snapshot, pages: Sequence[int]) -> dict[str, Any]:
    """The crawled texts of the test pages before the change."""
    return {str(page): asdict(words) for page in dict.fromkeys(pages) if (words := as_crawled(snapshot, page)) is not None}


# --- how it is, and reading it ----------------------------------------------------------------------------------------


def find(site: Site, number: int, dropped: bool = False) -> Trial:
    stored = Trial.objects.filter(site=site, id=number).select_related("site", "user")
    trial = (stored if dropped else stored.filter(dropped_at=None)).first()
    if trial is None:
        raise NotFound("This trial does not exist.", "It may have been deleted: check the list of trials.")
    return trial


def named(site: Site, name: str) -> Trial:
    trial = Trial.objects.filter(site=site, name=name, dropped_at=None).select_related("site", "user").first()
    if trial is None:
        raise NotFound(f"There is no trial “{name}”.", "Check the list of trials.")
    return trial


def read(actor: Actor, slug: str, number: int) -> Trial:
    """Conclude a test once, at its end; the verdict is saved permanently."""
    site = actor.site_to_change(slug)
    snapshot = Snapshot(site)
    trial = find(site, number)
    if trial.verdict is not None:
        return trial
    days = snapshot.facts.days()
    if trial_state(trial, days[-1] if days else None) != "ended":
        _, after = windows(trial.first_day, trial.weeks)
        raise Conflict(f"The trial ends on {after.last:%-d %b %Y}.", "Conclude it when the data reach that day.", ["verdict"])
    return _store_verdict(actor, slug, number, _verdict(snapshot, trial))


@changes_site(plan=True)
def _store_verdict(actor: Actor, site: Site, number: int, verdict: Verdict) -> Trial:
    trial = find(site, number)
    if trial.verdict is None:
        trial.verdict, trial.read_at = verdict, timezone.now()
        trial.save(update_fields=["verdict", "read_at"])
    return trial


def _verdict(snapshot: Snapshot, trial: Trial) -> Verdict:
    by_row, measure = trial.changed[0][1] is not None, measure_of(trial)
    before, after = windows(trial.first_day, trial.weeks)
    units = units_of(snapshot, trial.first_day, trial.weeks, by_row, measure, trial.design == "randomised")
    changed, unchanged = ([unit_of(*one) for one in side] for side in (trial.changed, trial.unchanged))
    own = [*changed, *unchanged]
    out = touched_otherwise(
        snapshot, by_row, Period(before.first, after.last), own, [unit_of(*one["unit"]) for one in trial.out]
    )
    sign = -1.0 if measure == "position" else 1.0  # a smaller position is a gain
    smallest = trial.power.get("smallest")
    if trial.design == "randomised":
        found = split_effect(units, changed, unchanged, out, trial.seed)
        lots = found.lots if found else np.zeros(0)
        numbers = (found.effect, found.low, found.high, found.p_value) if found else None
        extras = len(unchanged)
    else:
        stored = effect(units, changed, out, trial.seed)
        lots = stored.placed if stored else np.zeros(0)
        numbers = (stored.effect, stored.low, stored.high, stored.p_value) if stored else None
        extras = stored.controls if stored else 0
    if numbers is None:
        words = trial_sentences.nothing(UNTOUCHED_LEAST, PAIRS_LEAST)
        return {"effect": None, "low": None, "high": None, "p_value": None, "controls": extras, "lots": [], "words": words}
    result, low, high, p_value = numbers
    low, high = sorted((sign * low, sign * high))
    picture = np.sort(sign * lots[:: max(len(lots) // LOTS_LISTED, 1)]).tolist()
    words = trial_sentences.verdict(sign * result, low, high, p_value, measure, smallest)
    return {
        "effect": sign * result, "low": low, "high": high, "p_value": p_value, "controls": extras, "lots": picture,
        "words": words,
    }  # fmt: skip


def measure_of(trial: Trial) -> Measure:
    return trial.measure  # type: ignore[return-value]  # always written by us


@changes_site(plan=True)
def leave_out(actor: Actor, site: Site, number: int, unit: Subject, why: str) -> Trial:
    """Exclude a control unit for a reason; or include it again (no reason)."""
    Trial.objects.select_for_update().filter(site=site, id=number).first()
    trial = find(site, number)
    if trial.verdict is not None:
        raise Conflict("The trial is concluded.", "Its control pages cannot change.", ["out"])
    wanted = [unit.page, unit.query]
    if wanted in [*trial.changed, *trial.unchanged]:
        raise Invalid("It is a test page.", "Exclude one of its control pages.", "unit")
    stored = [one for one in trial.out if one["unit"] != wanted]
    if why.strip():
        if len(stored) >= OUT_MAX or len(why) > TEXT_MAX:
            raise Invalid(f"{OUT_MAX} can be excluded at most, each with a short reason.", "Include some again.", "unit")
        stored.append({"unit": wanted, "why": why.strip()})
    trial.out = stored
    trial.save(update_fields=["out"])
    return trial


@changes_site(plan=True)
def drop(actor: Actor, site: Site, number: int, back: bool = False) -> Trial:
    """Delete a test from the list, or restore it."""
    trial = find(site, number, dropped=True)
    trial.dropped_at = None if back else timezone.now()
    trial.save(update_fields=["dropped_at"])
    return trial
