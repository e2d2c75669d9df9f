"""Decisions: what was decided about a row, a page or the clash over a query, by whom, why; each can be taken back."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from django.db import transaction
from django.utils import timezone

from zugzwang.access import Actor
from zugzwang.core.leads import RESOLUTIONS
from zugzwang.errors import Invalid, NotFound
from zugzwang.store.models import Decision, Page, Query, Site

NOTE_MAX = 5_000
SUBJECTS_MAX = 500
SETTING_ASIDE = ("leave", "aside")


@dataclass(frozen=True)
class Subject:
    """A row (page and query), a page (no query) or the clash over a query (no page)."""

    page: int | None = None
    query: int | None = None

    @property
    def is_clash(self) -> bool:
        return self.page is None


@dataclass(frozen=True)
class Decided:
    """What is decided about one subject or several at once."""

    subjects: Sequence[Subject]
    choice: str
    lead: int | None = None
    note: str = ""
    until: date | None = None
    decided_on: date | None = None


def decide(actor: Actor, slug: str, decided: Decided) -> list[Decision]:
    """Keep a decision on each subject, all or none of them. Invalid says what makes no sense."""
    site = actor.site_to_change(slug)
    _check(site, decided)
    with transaction.atomic():
        return [
            Decision.objects.create(
                site=site,
                page_id=subject.page,
                query_id=subject.query,
                choice=decided.choice,
                lead_id=decided.lead,
                note=decided.note.strip(),
                until=decided.until,
                decided_on=decided.decided_on or timezone.localdate(),
                user=actor.user,
            )
            for subject in dict.fromkeys(decided.subjects)
        ]


def _check(site: Site, decided: Decided) -> None:
    if not decided.subjects or len(decided.subjects) > SUBJECTS_MAX:
        raise Invalid("A decision is about 1 to 500 things.", "Choose rows, pages or clashes.", "subjects")
    if any(subject.page is None and subject.query is None for subject in decided.subjects):
        raise Invalid("A decision is about a page, a query or both.", "Say which.", "subjects")
    known = (*RESOLUTIONS, "aside") if all(subject.is_clash for subject in decided.subjects) else SETTING_ASIDE
    if decided.choice not in known or len({subject.is_clash for subject in decided.subjects}) > 1:
        raise Invalid(f"“{decided.choice}” cannot be decided about this.", f"It can be: {', '.join(known)}.", "choice")
    if decided.choice == "aside" and decided.until is None:
        raise Invalid("What is set aside comes back on a day.", "Say until when.", "until")
    if len(decided.note) > NOTE_MAX:
        raise Invalid("The note is too long.", f"Use at most {NOTE_MAX} letters.", "note")
    for words, ids in (
        (Page, {subject.page for subject in decided.subjects} | {decided.lead}),
        (Query, {subject.query for subject in decided.subjects}),
    ):
        wanted = {one for one in ids if one is not None}
        if words.objects.filter(site=site, id__in=wanted).count() < len(wanted):
            raise Invalid("The site has no such page or query.", "Choose from its lists.", "subjects")


def take_back(actor: Actor, slug: str, decision_id: int) -> Decision:
    """Take a decision back, and with it the moves that it made, unless somebody has changed them since."""
    site = actor.site_to_change(slug)
    decision = Decision.objects.filter(site=site, id=decision_id).first()
    if decision is None:
        raise NotFound("There is no such decision.", "Look at the list of decisions.")
    if decision.taken_back_at is None:
        with transaction.atomic():
            decision.taken_back_at = timezone.now()
            decision.save(update_fields=["taken_back_at"])
            decision.moves.filter(version=1, dropped_at=None).update(dropped_at=decision.taken_back_at)
    return decision


def in_force(site: Site) -> list[Decision]:
    """The decision that counts on each subject, the latest first."""
    held: dict[tuple[int | None, int | None], Decision] = {}
    kept = Decision.objects.filter(site=site, taken_back_at=None)
    for one in kept.select_related("user", "page", "query", "lead").prefetch_related("moves"):
        held.setdefault((one.page_id, one.query_id), one)
    return list(held.values())


def shown(one: Decision) -> dict[str, object]:
    """A decision as it is told: its fields, the texts of what it is about, the name of who made it as `by`, the `move` that
    carries it out."""
    names = ("id", "choice", "note", "decided_on", "query_id", "page_id", "lead_id", "until")
    about: dict[str, object] = {"page": one.page.text if one.page else None, "query": one.query.text if one.query else None}
    about["lead"] = one.lead.text if one.lead else None
    about["move"] = next((move.id for move in one.moves.all() if move.dropped_at is None), None)
    return {**{name: getattr(one, name) for name in names}, **about, "by": one.user.get_username() if one.user else None}
