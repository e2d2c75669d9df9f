"""Accepting and dismissing suggested links. Links accepted on one page form one move, because the page is edited once."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.utils import timezone

from zugzwang.access import Actor
from zugzwang.changing import changes_site
from zugzwang.core.words import link_sentences
from zugzwang.core.worth.moves import OPEN
from zugzwang.data.decided import SUBJECTS_MAX
from zugzwang.data.models import Move, Page, PlannedLink, Site
from zugzwang.data.rules import host_of
from zugzwang.errors import Conflict, Invalid, NotFound
from zugzwang.plan.decisions import NOTE_MAX

ANCHOR_MAX, SENTENCE_MAX = 300, 1_000
CHOICES = ("open", "accepted", "refused")


@dataclass(frozen=True)
class Suggested:
    """A link as someone saw it; `seen`: its decision then."""

    source: int
    target: int
    anchor: str = ""
    sentence: str = ""
    seen: str = "open"


@changes_site(plan=True)
def decide(actor: Actor, site: Site, links: Sequence[Suggested], choice: str, note: str = "") -> list[PlannedLink]:
    """Accept links, dismiss them for a reason, or reopen them, all or none. Raises Conflict where someone decided differently
    since: nothing changes then.
    """
    _check(site, links, choice, note)
    pages = {one.source for one in links}
    made = [_decide(actor, site, one, choice, note) for one in links]
    for page in pages:
        _keep_move(actor, site, page)
    return [one for one in made if one is not None]


def _check(site: Site, links: Sequence[Suggested], choice: str, note: str) -> None:
    if not 0 < len(links) <= SUBJECTS_MAX:
        raise Invalid(f"1 to {SUBJECTS_MAX} links can be decided at once.", "Choose fewer.", "links")
    if choice not in CHOICES:
        raise Invalid(f"Unknown choice “{choice}”.", f"Choices: {', '.join(CHOICES)}.", "choice")
    if len(note) > NOTE_MAX:
        raise Invalid(f"The reason has more than {NOTE_MAX} letters.", "Shorten it.", "note")
    if choice == "refused" and not note.strip():
        raise Invalid("Refusing a link needs a reason.", "Enter a reason, so that it is not suggested again.", "note")
    ends = {number for one in links for number in (one.source, one.target)}
    if Page.objects.filter(site=site, id__in=ends).count() < len(ends):
        raise NotFound("The site has no such page.", "Choose from its lists.")
    for one in links:
        if one.source == one.target:
            raise Invalid("A page does not link to itself.", "Choose another page.", "links")
        if len(one.anchor) > ANCHOR_MAX or len(one.sentence) > SENTENCE_MAX:
            raise Invalid(f"An anchor has {ANCHOR_MAX} letters at most, a sentence {SENTENCE_MAX}.", "Shorten it.", "links")


def _decide(actor: Actor, site: Site, link: Suggested, choice: str, note: str) -> PlannedLink | None:
    stored = PlannedLink.objects.filter(site=site, source=link.source, target=link.target).select_related("user").first()
    now = stored.choice if stored else "open"
    if now != link.seen and now != choice:
        by = stored.user.get_username() if stored and stored.user else "Somebody"
        raise Conflict(f"{by} has decided in the meantime: this link is {now}.", "Check it again.", ["choice"])
    if choice == "open":
        if stored:
            stored.delete()
        return None
    if stored and now == choice and (stored.anchor, stored.note) == (link.anchor, note.strip()):
        return stored  # pressed twice, or by two people
    result = {"choice": choice, "anchor": link.anchor.strip(), "sentence": link.sentence.strip(), "note": note.strip()}
    made, _ = PlannedLink.objects.update_or_create(
        site=site, source_id=link.source, target_id=link.target, defaults={**result, "user": actor.user, "move": None}
    )
    return made


def _keep_move(actor: Actor, site: Site, page: int) -> None:
    """One move for each page to edit, with all links accepted on it that are not part of a finished move."""
    taken = (
        PlannedLink.objects.filter(site=site, source=page, choice="accepted").select_related("target", "move").order_by("id")
    )
    links = [one for one in taken if one.move is None or (one.move.state in OPEN and one.move.dropped_at is None)]
    move = Move.objects.filter(
        site=site, page=page, query=None, finding="suggested-links", state__in=OPEN, dropped_at=None
    ).first()
    if not links:
        if move is not None and move.version == 1:  # unchanged since
            move.dropped_at = timezone.now()
            move.save(update_fields=["dropped_at"])
        return
    path = f"//{host_of(site)}"
    reason = link_sentences.move_reason([(one.anchor, one.target.text.partition(path)[2] or one.target.text) for one in links])
    if move is None:
        kind = {"finding": "suggested-links", "kind": "give", "effort": "hour", "user": actor.user}
        move = Move.objects.create(site=site, page_id=page, reason=reason, **kind)
    elif move.reason != reason:
        move.reason = reason
        move.save(update_fields=["reason"])
    PlannedLink.objects.filter(id__in=[one.id for one in links]).update(move=move)
