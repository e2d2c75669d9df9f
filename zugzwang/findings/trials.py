"""Tests: changes with a question asked beforehand, their progress and results."""

from datetime import date, timedelta
from typing import Any

import polars as pl

from zugzwang.core.trials.units import DESIGNS, MEASURES
from zugzwang.core.words import trial_sentences
from zugzwang.core.worth.moves import KINDS
from zugzwang.data.models import Trial
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.view import View

STATES = ("running", "ended", "planned", "concluded")
_SCHEMA: dict[str, Any] = {
    "id": pl.Int64, "name": pl.String, "change": pl.String, "kind": pl.String, "kind_words": pl.String, "design": pl.String,
    "measure": pl.String, "changed": pl.UInt32, "first_day": pl.Date, "until": pl.Date, "weeks": pl.UInt32,
    "state": pl.Enum(STATES), "effect": pl.Float64, "low": pl.Float64, "high": pl.Float64, "p_value": pl.Float64,
    "controls": pl.UInt32, "smallest_visible": pl.Float64, "verdict": pl.String, "by": pl.String,
}  # fmt: skip


def trial_state(trial: Trial, last_day: date | None) -> str:
    """The state of a test, by the data."""
    if trial.verdict is not None:
        return "concluded"
    if last_day is None or last_day < trial.first_day:
        return "planned"
    return "ended" if last_day >= trial.first_day + timedelta(days=7 * trial.weeks) else "running"


def _described(trial: Trial, last_day: date | None) -> dict[str, Any]:
    verdict = trial.verdict or {}
    return {
        **{name: getattr(trial, name) for name in ("id", "name", "change", "kind", "design", "measure", "first_day", "weeks")},
        "kind_words": KINDS[trial.kind], "changed": len(trial.changed), "state": trial_state(trial, last_day),
        "until": trial.first_day + timedelta(days=7 * trial.weeks), "smallest_visible": trial.power.get("smallest"),
        **{name: verdict.get(name) for name in ("effect", "low", "high", "p_value", "controls")},
        "verdict": verdict.get("words"), "by": trial.user.get_username() if trial.user else None,
    }  # fmt: skip


def find_trials(view: View) -> Found:
    """All tests: running ones first, then the latest."""
    days = view.snapshot.facts.days()
    stored = Trial.objects.filter(site=view.site, dropped_at=None).select_related("user")
    rows = pl.DataFrame([_described(one, days[-1] if days else None) for one in stored], schema=_SCHEMA)
    rows = rows.sort(pl.col("state").to_physical(), "first_day", "id", descending=[False, True, True])
    return Found(rows, {"trials": rows.height})


def _with_text(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    text = view.words.lower()
    holds = [pl.col(name).str.to_lowercase().str.contains(text, literal=True) for name in ("name", "change")]
    return rows.filter(pl.any_horizontal(holds)) if text else rows


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    number = {state: rows.filter(pl.col("state") == state).height for state in STATES}
    return [trial_sentences.trials(number["running"] + number["planned"], number["ended"], number["concluded"])]


TRIALS = Finding(
    name="trials",
    place=("moves", 2),
    title="Trials",
    question="Which changes are tried, what could be seen at all, and what came of them?",
    method="trials",
    claims=("trial", "trials"),
    order="first_day",
    makes=(),
    chooses=("text",),
    columns=(
        Column("name", "text", "trial", "name, and the change", shown="list", low=True),
        Column("changed", "count", "changed", "number of changed pages or rows", "pages", "list"),
        Column("state", "word", "state", "state of the trial", shown="list", choices=STATES, low=True),
        Column("until", "day", "until", "last day of the trial", shown="list"),
        Column("effect", "amount", "effect", "the result, as a share or in positions", shown="list", null=True),
        Column("p_value", "rate", "p", "probability that chance goes as far", shown="list", null=True, low=True),
        Column("design", "word", "design", "before/after test, or randomised test", shown="extra", choices=DESIGNS),
        Column("measure", "word", "measure", "measure of the trial", shown="extra", choices=MEASURES),
        Column("first_day", "day", "from", "the day of the change", shown="extra"),
        Column("smallest_visible", "amount", "detectable", "smallest detectable effect", shown="extra", null=True),
        Column("by", "text", "begun by", "who started it", shown="extra", null=True, low=True),
        Column("id", "count"),
        Column("change", "text", "change", "the change"),
        Column("kind", "word", choices=tuple(KINDS)),
        Column("kind_words", "text", "kind", "kind of change"),
        Column("weeks", "count", "", "how long it is"),
        Column("low", "amount", "low", "the lower end of the interval", null=True),
        Column("high", "amount", "high", "the upper end of the interval", null=True),
        Column("controls", "count", "controls", "number of control pages", null=True),
        Column("verdict", "text", "verdict", "result in words", null=True),
    ),
    find=find_trials,
    says=_says,
    choose={"text": _with_text},
    plan=True,
    key=("id",),
)  # fmt: skip
