"""Moves: saved, edited by several people without overwriting each other, deleted and restored, with a history."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from django.contrib.auth.models import User
from django.utils import timezone

from zugzwang.access import Actor
from zugzwang.changing import changes_site
from zugzwang.core.facts.periods import FIRST_DAY_POSSIBLE
from zugzwang.core.worth.moves import DONE, EFFORT_HOURS, KINDS, STATES
from zugzwang.data.decided import SUBJECTS_MAX, people, plan_changed
from zugzwang.data.models import Decision, Move, MoveChange, Page, Query, Site
from zugzwang.errors import Conflict, Invalid, NotFound
from zugzwang.plan.decisions import NOTE_MAX

TWICE_SECONDS = 60
WORDS = {
    "kind": "kind", "effort": "effort", "state": "state", "note": "note", "who": "who", "due": "due", "made_on": "made on",
    "recrawl_on": "recrawl requested on", "new_title": "new title", "new_description": "new description",
}  # fmt: skip


@dataclass(frozen=True)
class Planned:
    """A move to create: its subject, the reason, and the expected gain in clicks a month."""

    page: int | None
    query: int | None
    finding: str
    reason: str
    gain: float | None
    gain_cautious: float | None
    evidence: str
    fields: Mapping[str, Any]  # kind, effort, note, who, due
    decision: Decision | None = None  # the decision that it carries out


@changes_site(plan=True)
def make(actor: Actor, site: Site, planned: Planned) -> Move:
    """Save a move. Raises Invalid with the problem. The same move again within a minute – a button pressed twice – returns the
    first one.
    """
    _check_subject(site, planned)
    move = Move(
        site=site,
        page_id=planned.page,
        query_id=planned.query,
        finding=planned.finding,
        reason=planned.reason,
        gain=planned.gain,
        gain_cautious=planned.gain_cautious,
        evidence=planned.evidence,
        decision=planned.decision,
        user=actor.user,
    )
    for name, value in _checked(site, move, planned.fields).items():
        setattr(move, name, value)
    twin = _twin(move)
    if twin is not None:
        return twin
    move.save()
    return move


@changes_site()
def make_all(actor: Actor, site: Site, planned: Sequence[Planned]) -> list[Move]:
    """Save several moves, all or none."""
    return [make(actor, site.slug, one) for one in planned]


def _twin(move: Move) -> Move | None:
    """The same move, made by the same person just before."""
    since = timezone.now() - timedelta(seconds=TWICE_SECONDS)
    names = ("site_id", "page_id", "query_id", "finding", "user_id", "decision_id", *map(_stored, WORDS))
    same = {name: getattr(move, name) for name in names}
    return Move.objects.filter(**same, made_at__gt=since).first()


@changes_site()
def change(actor: Actor, site: Site, move_id: int, seen: int, fields: Mapping[str, Any]) -> Move:
    """Change fields of a move, based on version `seen`. Others' changes to other fields stay. Raises Conflict where they
    changed the same field differently: nothing changes then.
    """
    # Two changes of one move run one after the other, so each sees the other's result.
    Move.objects.select_for_update().filter(site=site, id=move_id).first()
    move = find(site, move_id)
    values = _checked(site, move, fields)
    meanwhile = set(move.changes.filter(version__gt=seen).values_list("field", flat=True))
    lost = [name for name in values if name in meanwhile and getattr(move, _stored(name)) != _raw(values[name])]
    if lost:
        words = " and ".join(WORDS[name] for name in lost)
        raise Conflict(f"Someone else changed {words} in the meantime.", "Compare both and choose which to keep.", lost)
    return _apply(actor, move, values)


@changes_site()
def change_all(actor: Actor, site: Site, seen: Mapping[int, int], fields: Mapping[str, Any]) -> list[Move]:
    """Change the same fields of several moves (id → the version they are based on), all or none."""
    if not seen or len(seen) > SUBJECTS_MAX:
        raise Invalid(f"1 to {SUBJECTS_MAX} moves are changed at once.", "Mark some moves.", "moves")
    return [change(actor, site.slug, move_id, version, fields) for move_id, version in seen.items()]


def _apply(actor: Actor, move: Move, values: Mapping[str, Any]) -> Move:
    changed = {name: value for name, value in values.items() if getattr(move, _stored(name)) != _raw(value)}
    if not changed:
        return move
    move.version += 1
    for name, value in changed.items():
        before = _described(move, name)
        setattr(move, name, value)
        MoveChange.objects.create(
            move=move, version=move.version, field=name, before=before, after=_described(move, name), user=actor.user
        )
    move.save(update_fields=[*changed, "version"])
    plan_changed(move.site)
    return move


@changes_site()
def keep_outcome(actor: Actor, site: Site, move_id: int, outcome: Mapping[str, Any]) -> Move:
    """Save the result of a move: it is measured."""
    move = find(site, move_id)
    move.outcome = dict(outcome)
    move.save(update_fields=["outcome"])
    return _apply(actor, move, {"state": "measured"})


@changes_site(plan=True)
def drop(actor: Actor, site: Site, move_ids: Sequence[int]) -> list[Move]:
    """Delete moves, all or none; they can be restored. Deleted ones stay so."""
    stored = [find(site, move_id, dropped=True) for move_id in move_ids]
    Move.objects.filter(id__in=move_ids, dropped_at=None).update(dropped_at=timezone.now())
    return stored


@changes_site(plan=True)
def restore(actor: Actor, site: Site, move_id: int) -> Move:
    move = find(site, move_id, dropped=True)
    move.dropped_at = None
    move.save(update_fields=["dropped_at"])
    return move


def find(site: Site, move_id: int, dropped: bool = False) -> Move:
    stored = Move.objects.filter(site=site, id=move_id).select_related("site", "page", "query", "who", "user", "decision__lead")
    move = (stored if dropped else stored.filter(dropped_at=None)).first()
    if move is None:
        raise NotFound("This move does not exist.", "It may have been deleted: check Moves.")
    return move


def history(move: Move) -> list[dict[str, Any]]:
    """A move's changes, latest first."""
    return [
        {
            "field": one.field,
            "words": WORDS[one.field],
            "before": one.before,
            "after": one.after,
            "by": one.user.get_username() if one.user else None,
            "at": one.made_at,
            "version": one.version,
        }
        for one in move.changes.select_related("user")
    ]


def _check_subject(site: Site, planned: Planned) -> None:
    if planned.page is None and planned.query is None:
        raise Invalid("A move needs a page, a query or both.", "Say which.", "page")
    for words, wanted in ((Page, planned.page), (Query, planned.query)):
        if wanted is not None and not words.objects.filter(site=site, id=wanted).exists():
            raise Invalid("The site has no such page or query.", "Choose from its lists.", words.__name__.lower())


def _checked(site: Site, move: Move, fields: Mapping[str, Any]) -> dict[str, Any]:
    """The fields in the model's types, and the fields they imply. Raises Invalid with the problem."""
    values = dict(fields)
    for name, known in (("kind", list(KINDS)), ("effort", list(EFFORT_HOURS)), ("state", list(STATES))):
        if name in values and values[name] not in known:
            raise Invalid(f"There is no {name} “{values[name]}”.", f"There are: {', '.join(known)}.", name)
    for name in ("note", "new_title", "new_description"):
        if values.get(name) is not None:
            values[name] = values[name].strip()
            if len(values[name]) > NOTE_MAX:
                raise Invalid(f"The {WORDS[name]} is too long.", f"Use at most {NOTE_MAX} characters.", name)
    if values.get("who") is not None and not isinstance(values["who"], User):
        values["who"] = _person(site, values["who"])
    return _with_state(move, values)


def _with_state(move: Move, values: dict[str, Any]) -> dict[str, Any]:
    """A state needs its day or its reason; a day implies the state done."""
    today = timezone.localdate()
    if values.get("made_on") is not None:
        if values["made_on"] > today:
            raise Invalid("The move is dated in the future.", "Choose a day until today, or set when it is due.", "made_on")
        if values["made_on"] < FIRST_DAY_POSSIBLE:
            raise Invalid(
                f"The move is dated before {FIRST_DAY_POSSIBLE:%Y}, before the data begin.",
                "Check the year.",
                "made_on",
            )
        if move.state not in DONE:
            values.setdefault("state", "done")
    if values.get("recrawl_on") is not None and values["recrawl_on"] > today:
        raise Invalid("The recrawl request is in the future.", "Choose a day until today.", "recrawl_on")
    if values.get("state") in DONE and move.made_on is None and values.get("made_on") is None:
        values["made_on"] = today
    if values.get("state") == "dismissed" and not values.get("note", move.note):
        raise Invalid("Dismissing a move needs a reason.", "Write it in the note.", "note")
    return values


def _person(site: Site, name: str) -> User:
    if name not in people(site):
        raise Invalid(f"“{name}” may not change this site.", f"Choose one of: {', '.join(people(site))}.", "who")
    return User.objects.get(username=name)


def _stored(name: str) -> str:
    return "who_id" if name == "who" else name


def _raw(value: Any) -> Any:
    return value.id if isinstance(value, User) else value


def _described(move: Move, name: str) -> str | None:
    """A field as the history stores it."""
    value = getattr(move, name)
    if isinstance(value, User):
        return value.get_username()
    return value.isoformat() if isinstance(value, date) else value
