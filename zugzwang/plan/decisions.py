"""Decisions about a row, a page or the clash over a query, with author and reason; each can be undone."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from django.utils import timezone

from zugzwang.access import Actor
from zugzwang.changing import changes_site
from zugzwang.core.contest.leads import RESOLUTIONS
from zugzwang.data.audit import note
from zugzwang.data.decided import SUBJECTS_MAX, Subject
from zugzwang.data.models import Decision, Page, Query, Site
from zugzwang.errors import Invalid, NotFound

NOTE_MAX = 5_000

SETTLED_WITHOUT_MOVE = ("dismiss", "snooze")


@dataclass(frozen=True)
class Decided:
    """The decision on one or several subjects."""

    subjects: Sequence[Subject]
    choice: str
    lead: int | None = None
    note: str = ""
    until: date | None = None
    decided_on: date | None = None


@changes_site(plan=True)
def decide(actor: Actor, site: Site, decided: Decided) -> list[Decision]:
    """Save a decision on each subject, all or none. Raises Invalid with the problem."""
    _check(site, decided)
    note(actor.user, site, "decide", decided.choice, subjects=len(decided.subjects), note=decided.note.strip()[:200])
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
        raise Invalid("Decide on 1 to 500 rows at once.", "Choose rows, pages or clashes.", "subjects")
    if any(subject.page is None and subject.query is None for subject in decided.subjects):
        raise Invalid("A decision needs a page, a query or both.", "Say which.", "subjects")
    known = (*RESOLUTIONS, "snooze") if all(subject.is_clash for subject in decided.subjects) else SETTLED_WITHOUT_MOVE
    if decided.choice not in known or len({subject.is_clash for subject in decided.subjects}) > 1:
        raise Invalid(f"“{decided.choice}” is not possible here.", f"Possible: {', '.join(known)}.", "choice")
    if decided.choice == "snooze" and decided.until is None:
        raise Invalid("A snoozed row needs a day to come back.", "Say until when.", "until")
    if len(decided.note) > NOTE_MAX:
        raise Invalid("The note is too long.", f"Use at most {NOTE_MAX} characters.", "note")
    for words, ids in (
        (Page, {subject.page for subject in decided.subjects} | {decided.lead}),
        (Query, {subject.query for subject in decided.subjects}),
    ):
        wanted = {one for one in ids if one is not None}
        if words.objects.filter(site=site, id__in=wanted).count() < len(wanted):
            raise Invalid("The site has no such page or query.", "Choose from its lists.", "subjects")


@changes_site(plan=True)
def undo(actor: Actor, site: Site, decisions: Sequence[int]) -> list[Decision]:
    """Undo decisions, all or none, together with the moves that they created, unless those were changed since."""
    stored = list(Decision.objects.filter(site=site, id__in=decisions).select_related("user", "page", "query", "lead"))
    if not stored or len(stored) < len(set(decisions)):
        raise NotFound("This decision does not exist.", "Check the list of decisions.")
    note(actor.user, site, "take decision back", ", ".join(sorted({one.choice for one in stored})), decisions=len(stored))
    for one in stored:
        if one.taken_back_at is None:
            one.taken_back_at = timezone.now()
            one.save(update_fields=["taken_back_at"])
            one.moves.filter(version=1, dropped_at=None).update(dropped_at=one.taken_back_at)
    return stored
