"""Validation of archived rows: no more than what people could have entered on the screens. An archive may be forged, and its
contents are shown to everyone who may see the site.
"""

import math
from collections.abc import Callable, Collection
from datetime import date, datetime
from typing import Any

from django.db import models
from django.utils.timezone import is_naive
from pydantic import JsonValue, TypeAdapter
from typing_extensions import TypedDict  # pydantic needs this one below Python 3.12

from zugzwang.core.clicks.evidence import GRADES
from zugzwang.core.contest.leads import RESOLUTIONS
from zugzwang.core.drafts.help import HELP_TASKS, INSTRUCTION_MAX
from zugzwang.core.drafts.text import TEXT_MAX, cleaned
from zugzwang.core.facts.grains import SOURCES
from zugzwang.core.facts.periods import FIRST_DAY_POSSIBLE
from zugzwang.core.topics.edits import EDIT_KINDS
from zugzwang.core.trials.units import MEASURES
from zugzwang.core.worth.moves import EFFORT_HOURS, KINDS, STATES
from zugzwang.core.worth.outcomes import Outcome
from zugzwang.data import models as store
from zugzwang.data.fields import without_nul
from zugzwang.data.rules import as_json, checked, from_json
from zugzwang.data.services import check_service
from zugzwang.names import checked_name
from zugzwang.plan.decisions import NOTE_MAX, SETTLED_WITHOUT_MOVE
from zugzwang.plan.drafts import Words
from zugzwang.plan.links import ANCHOR_MAX, SENTENCE_MAX
from zugzwang.plan.logo import cleaned_logo
from zugzwang.plan.moves import WORDS
from zugzwang.plan.reports import MESSAGE_MAX, PartOf, Template, check_template
from zugzwang.plan.trials import UNITS_MAX, WEEKS, Verdict
from zugzwang.plan.views import ADDRESS

FieldOf = tuple[type[models.Model], str]
# Computed fields, and those that people cannot set.
DAYS_RECKONED_FROM = ((store.Move, "made_on"), (store.Trial, "first_day"))
LAST_DAY_POSSIBLE = date(2199, 12, 31)
NUMBER_MAX = 2**31 - 1


class _Visible(TypedDict, total=False):
    smallest: float | None
    changed: int
    clicks: float


class _Days(TypedDict):
    first: date
    last: date


class _OutcomeSummary(TypedDict):
    periods: list[_Days]
    sentences: list[str]
    lacking: list[str]


class _LeftOut(TypedDict):
    unit: tuple[int, int | None]
    why: str


class _Part(TypedDict):
    name: str
    words: str


# The possible values of a field, where its model does not define them.
ONE_OF: dict[FieldOf, Collection[str]] = {
    (store.Load, "source"): SOURCES,
    (store.ColumnMemory, "source"): SOURCES,
    (store.Decision, "choice"): (*RESOLUTIONS, *SETTLED_WITHOUT_MOVE),
    (store.Move, "kind"): KINDS,
    (store.Move, "effort"): EFFORT_HOURS,
    (store.Move, "state"): STATES,
    (store.Move, "evidence"): GRADES,
    (store.MoveChange, "field"): WORDS,
    (store.TopicEdit, "kind"): EDIT_KINDS,
    (store.Trial, "kind"): KINDS,
    (store.Trial, "measure"): MEASURES,
}


def _shape(wanted: Any) -> Callable[[Any], Any]:
    adapter = TypeAdapter[Any](wanted)
    return lambda result: adapter.dump_python(adapter.validate_python(result), mode="json")


def checked_rules(result: Any) -> Any:
    """Cleaning rules, validated as if set by hand. Raises Invalid with the problem."""
    return as_json(checked(from_json(result))) if result else {}


_COUNTED, _TOLD = _shape(Outcome), _shape(_OutcomeSummary)


def _outcome(result: Any) -> Any:
    """The result of a move; older ones have no interval."""
    if result is None:
        return None
    return _COUNTED({"low": None, "high": None, **result}) | _TOLD(result)


# Maximum characters of a text, where it differs from the default.
TEXT_LETTERS_MAX = 10_000
LETTERS_MAX: dict[FieldOf, int] = {
    (store.Draft, "text"): TEXT_MAX, (store.DraftVersion, "text"): TEXT_MAX, (store.PlannedLink, "anchor"): ANCHOR_MAX,
    (store.PlannedLink, "sentence"): SENTENCE_MAX, (store.Move, "note"): NOTE_MAX, (store.Decision, "note"): NOTE_MAX,
    (store.ReportTemplate, "message"): MESSAGE_MAX,
}  # fmt: skip


def checked_currency(result: Any) -> str:
    """A currency sign or code, or nothing."""
    return checked_name(str(result), "currency", 3, needed=False)


def checked_instructions(result: Any) -> dict[str, str]:
    """Instructions for the text service's tasks, validated as if set by hand."""
    message = {str(task): str(words) for task, words in result.items()}
    if not set(message) <= set(HELP_TASKS) or any(len(words) > INSTRUCTION_MAX for words in message.values()):
        raise ValueError("an instruction is of no task, or too long")
    return message


_UNITS = _shape(list[tuple[int, int | None]])
# The structure of JSON fields; anything beyond it is dropped.
SHAPES: dict[FieldOf, Callable[[Any], Any]] = {
    (store.Load, "report"): _shape(dict[str, JsonValue]),
    (store.ColumnMemory, "mapping"): _shape(dict[str, int]),
    (store.RuleChange, "before"): checked_rules,
    (store.RuleChange, "after"): checked_rules,
    (store.Move, "outcome"): _outcome,
    (store.MoveChange, "before"): _shape(str | None),
    (store.MoveChange, "after"): _shape(str | None),
    (store.TopicEdit, "queries"): _shape(list[int]),
    (store.Draft, "before"): _shape(Words | None),
    (store.Trial, "changed"): _UNITS,
    (store.Trial, "unchanged"): _UNITS,
    (store.Trial, "out"): _shape(list[_LeftOut]),
    (store.Trial, "power"): _shape(_Visible),
    (store.Trial, "before"): _shape(dict[int, Words]),
    (store.Trial, "verdict"): _shape(Verdict | None),
    (store.ReportTemplate, "parts"): _shape(list[_Part]),
    (store.ReportTemplate, "recipients"): _shape(list[str]),
}


def checked_value(model: type[models.Model], one: Any, result: Any) -> Any:
    """An archived value of a field in the field's type. Raises ValueError or ValidationError where it is invalid."""
    if (shape := SHAPES.get((model, one.name))) is not None:
        return shape(result)
    value = without_nul(one.to_python(result))
    if isinstance(one, models.TextField) and len(value or "") > LETTERS_MAX.get((model, one.name), TEXT_LETTERS_MAX):
        raise ValueError(f"{one.name} is too long")
    if isinstance(one, models.CharField) and value:
        checked_name(value, one.name, one.max_length or TEXT_LETTERS_MAX, needed=False)
    if value is None:
        if not one.null:
            raise ValueError(f"{one.name} is missing")
        return None
    one.run_validators(value)
    known = ONE_OF.get((model, one.name)) or (dict(one.flatchoices) if one.choices is not None else None)
    if known is not None and value not in known:
        raise ValueError(f"{one.name} cannot be “{value}”")
    day = value.date() if isinstance(value, datetime) else value
    bound = isinstance(value, datetime) or (model, one.name) in DAYS_RECKONED_FROM
    if bound and not FIRST_DAY_POSSIBLE <= day <= LAST_DAY_POSSIBLE:
        raise ValueError(f"{one.name} cannot be {value}")
    if isinstance(value, datetime) and is_naive(value):
        raise ValueError(f"{one.name} has no time zone")
    if isinstance(value, int | float) and not (math.isfinite(value) and abs(value) <= NUMBER_MAX):
        raise ValueError(f"{one.name} cannot be {value}")
    return value


def check_row(row: models.Model) -> None:
    """Validate fields that depend on each other; remove markup that no draft contains, and invalid logos. Raises ValueError or
    Invalid.
    """
    if isinstance(row, store.Draft | store.DraftVersion):
        row.text = cleaned(row.text)
    if isinstance(row, store.Connection):
        check_service(row.source, row.address)
    if isinstance(row, store.SavedView) and not ADDRESS.fullmatch(row.address):
        raise ValueError("a view leads elsewhere")
    check_references(row)
    if isinstance(row, store.Trial) and not WEEKS[0] <= row.weeks <= WEEKS[1]:
        raise ValueError(f"a trial cannot take {row.weeks} weeks")
    if isinstance(row, store.ReportTemplate):
        if row.logo is not None:
            row.logo = cleaned_logo(bytes(row.logo)).data
        names = (one for one in Template.__dataclass_fields__ if one != "parts")
        parts = [PartOf(**one) for one in row.parts]
        check_template(Template(parts=parts, **{name: getattr(row, name) for name in names}))


def check_references(row: models.Model) -> None:
    """Check that an edit of topics refers to existing queries, and a test to existing pages or rows."""
    if isinstance(row, store.TopicEdit) and not row.queries:
        raise ValueError("a change of topics is of some queries")
    if isinstance(row, store.Trial):
        _check_units(row)


def _check_units(trial: store.Trial) -> None:
    units = [*trial.changed, *trial.unchanged]
    by_row = {query is not None for _, query in units}
    if not trial.changed or len(by_row) > 1 or any(page is None for page, _ in units):
        raise ValueError("a trial is of pages or of rows")
    if trial.unchanged and len(trial.unchanged) != len(trial.changed):
        raise ValueError("a split is of pairs")
    if len(units) > 2 * UNITS_MAX:
        raise ValueError("a trial is of too many")
