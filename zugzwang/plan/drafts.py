"""Drafts: started, written by one person at a time, saved without losing others' changes, and finished as a move.

One window of one person writes; others read. Anyone may take over, and the previous writer's unsaved changes are merged by
blocks when they arrive (core.drafts.merging): nothing is overwritten.
"""

import io
from collections.abc import Callable
from dataclasses import asdict, dataclass
from datetime import date, timedelta
from typing import Any, Literal

import polars as pl
from django.utils import timezone

from zugzwang import bounded
from zugzwang.access import Actor
from zugzwang.changing import changes_site
from zugzwang.core.drafts.formats import as_document, as_html, as_markdown
from zugzwang.core.drafts.help import HELP_TASKS, INSTRUCTION_MAX, INSTRUCTIONS
from zugzwang.core.drafts.merging import Difference, Merged, differences, merge
from zugzwang.core.drafts.text import TEXT_MAX, TooLarge, blocks_of, cleaned, fitting, of_content
from zugzwang.core.pages.content import marked_pieces_of
from zugzwang.core.worth.moves import OPEN
from zugzwang.data.decided import Subject, plan_changed
from zugzwang.data.models import Draft, DraftVersion, Move, Page, Query, Site
from zugzwang.data.rules import rules_of
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Busy, Conflict, Invalid, NotFound
from zugzwang.findings.view import ViewOptions
from zugzwang.names import checked_name
from zugzwang.plan import moves
from zugzwang.plan.decisions import NOTE_MAX
from zugzwang.plan.proposals import plan_moves

Format = Literal["md", "html", "docx"]
HEARD_SECONDS = 45  # a writer without a sign of life for so long is no longer the writer
VERSION_MINUTES = 5
ATTEMPTS = 5  # attempts to save on top of concurrent saves
DRAFTS_MAX, NAME_MAX, SNIPPET_MAX = 2_000, 200, 2_000
_SNIPPET = ("title", "description")


@dataclass(frozen=True)
class Words:
    """A draft's title and description as plain text, and its text as HTML (core.drafts.text)."""

    title: str = ""
    description: str = ""
    text: str = ""


def find(site: Site, number: int, dropped: bool = False) -> Draft:
    stored = Draft.objects.filter(site=site, id=number).select_related("site", "page", "query", "writer", "user", "move")
    draft = (stored if dropped else stored.filter(dropped_at=None)).first()
    if draft is None:
        raise NotFound("This draft does not exist.", "It may have been deleted: check the list of drafts.")
    return draft


def begin(actor: Actor, slug: str, query: int, page: int | None, move: Move | None = None) -> Draft:
    """Start a draft with the page's crawled text; or return the open one for the same page and query."""
    site = actor.site_to_change(slug)
    text = Query.objects.filter(site=site, id=query).values_list("text", flat=True).first()
    if text is None or (page is not None and not Page.objects.filter(site=site, id=page).exists()):
        raise NotFound("The site has no such page or query.", "Choose from its lists.")
    before = as_crawled(Snapshot(site), page) if page is not None else None
    draft = Draft(
        query_id=query, page_id=page, name=text[:NAME_MAX], before=asdict(before) if before else None, user=actor.user,
        move=move, **asdict(before or Words()),
    )  # fmt: skip
    return _store_new(actor, slug, draft)


@changes_site(plan=True)
def _store_new(actor: Actor, site: Site, draft: Draft) -> Draft:
    """A new draft, or the open one for the same page and query."""
    open_ones = Draft.objects.filter(site=site, state=Draft.State.OPEN, dropped_at=None)
    rows = open_ones.filter(query=draft.query_id, page=draft.page_id).first()
    if rows is not None:
        return rows
    if Draft.objects.filter(site=site, dropped_at=None).count() >= DRAFTS_MAX:
        raise Invalid(f"{DRAFTS_MAX} drafts are kept.", "Drop some.", "query")
    draft.site = site
    draft.save()
    _keep_version(draft, actor)
    return draft


def as_crawled(snapshot: Snapshot, page: int) -> Words | None:
    """A page's text from the latest crawl; None where it was not crawled."""
    own = pl.Series([page], dtype=pl.UInt32)
    stored = snapshot.pages.contents(own)
    if stored.is_empty():
        return None
    row = snapshot.pages.crawled_pages().filter(pl.col("page") == page).row(0, named=True)
    links = snapshot.links.inner_links().filter(pl.col("source") == page, pl.col("in_body"))
    leads = {" ".join(anchor.split()): to for anchor, to in links.select("anchor", "to_address").iter_rows() if anchor}
    text = fitting(of_content(marked_pieces_of(stored["content"][0]), leads))
    return Words(row["title"] or "", row["description"] or "", text)


# --- who writes -----------------------------------------------------------------------------------------------------------


def writer_of(draft: Draft) -> tuple[str, str] | None:
    """The current writer, by name and window; None without one."""
    alive = timezone.now() - timedelta(seconds=HEARD_SECONDS)
    if draft.writer is None or draft.writer_heard_at is None or draft.writer_heard_at < alive:
        return None
    return draft.writer.get_username(), draft.writer_window


@changes_site()
def write(actor: Actor, site: Site, number: int, window: str, take: bool = False) -> Draft:
    """Become the writer, or stay it. Where someone else writes, only `take` changes that; the current one is returned
    (`writer_of`).
    """
    draft = _locked(site, number)
    if take or _may_write(actor, draft, window):
        _become_writer(actor, draft, window)
    return draft


@changes_site()
def stop(actor: Actor, site: Site, number: int, window: str) -> None:
    """Stop writing; where someone else took over, nothing changes."""
    draft = _locked(site, number)
    if draft.writer == actor.user and draft.writer_window == window:
        draft.writer, draft.writer_heard_at = None, None
        draft.save(update_fields=["writer", "writer_heard_at"])


def _locked(site: Site, number: int) -> Draft:
    Draft.objects.select_for_update().filter(site=site, id=number).first()
    return find(site, number)


def _may_write(actor: Actor, draft: Draft, window: str) -> bool:
    now = writer_of(draft)
    return now is None or now == (actor.user.get_username() if actor.user else "", window)


def _become_writer(actor: Actor, draft: Draft, window: str) -> None:
    draft.writer, draft.writer_window, draft.writer_heard_at = actor.user, window, timezone.now()
    draft.save(update_fields=["writer", "writer_window", "writer_heard_at"])


# --- saving ---------------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Choice:
    """A merged title or description; `theirs` is None without a conflict, otherwise both are returned."""

    mine: str
    theirs: str | None = None


@dataclass(frozen=True)
class Saving:
    """The result of saving: `conflicts` is None where everything is saved; otherwise nothing was."""

    draft: Draft
    text: list[Merged] | None = None
    title: Choice | None = None
    description: Choice | None = None


def save(actor: Actor, slug: str, number: int, window: str, seen: int, base: Words, words: Words) -> Saving:
    """Save changes based on a version (`seen`, `base`). Changes that others saved in the meantime are merged by blocks; where
    both changed the same block, nothing is saved and both versions are returned.

    Sanitising and merging happen before the transaction: it only stores, unless the draft changed in the meantime.
    """
    check_lengths(words)
    check_lengths(base)
    for _ in range(ATTEMPTS):
        draft = begin_writing(actor, slug, number, window)
        now = Words(draft.title, draft.description, draft.text)
        prepared = bounded.run(bounded.DRAFT, _prepare, words, None if seen == draft.version else base, now)
        saved = _store_prepared(actor, slug, number, window, draft.version, prepared)
        if saved is not None:
            return saved
    raise Busy("Someone else is saving this draft.", "Save again in a moment; your text is safe.")


@changes_site()
def _store_prepared(actor: Actor, site: Site, number: int, window: str, version: int, prepared: "_Prepared") -> Saving | None:
    """Store a version prepared for the current one; None where the draft has changed."""
    draft = _to_write(actor, site, number, window)
    if draft.version != version:
        return None
    if prepared.choices is not None:
        return Saving(draft, *prepared.choices)
    _store(draft, actor, prepared.words)
    return Saving(draft)


@changes_site()
def begin_writing(actor: Actor, site: Site, number: int, window: str) -> Draft:
    return _to_write(actor, site, number, window)


def _to_write(actor: Actor, site: Site, number: int, window: str) -> Draft:
    """The draft, locked, with the caller as its writer. Raises Conflict where it is finished or someone else writes."""
    draft = _locked(site, number)
    if draft.state != Draft.State.OPEN:
        raise Conflict("The draft is published.", "Open it again to continue.", ["text"])
    if not _may_write(actor, draft, window):
        name = draft.writer.get_username() if draft.writer else ""
        here = actor.user is not None and name == actor.user.get_username()
        what = "You are editing it in another window." if here else f"{name} is writing."
        raise Conflict(what, "Take over to edit here.", ["text"])
    _become_writer(actor, draft, window)
    return draft


def _store(draft: Draft, actor: Actor, words: Words) -> None:
    """Store a text as the draft's next version, if it differs."""
    if words == Words(draft.title, draft.description, draft.text):
        return
    draft.title, draft.description, draft.text = words.title, words.description, words.text
    draft.version += 1
    draft.changed_at = timezone.now()
    draft.save(update_fields=["title", "description", "text", "version", "changed_at"])
    _keep_version(draft, actor)
    plan_changed(draft.site)


@dataclass(frozen=True)
class _Prepared:
    """A text to store, or the conflicts to resolve first."""

    words: Words
    choices: tuple[list[Merged], Choice, Choice] | None = None


def _prepare(mine: Words, base: Words | None, now: Words) -> _Prepared:
    """Sanitise a text and, where it is based on an older version (`base`), merge it with `now`."""
    mine = as_stored(mine)
    if base is None:
        return _Prepared(mine)
    base = as_stored(base)
    pieces = merge(blocks_of(base.text), blocks_of(mine.text), blocks_of(now.text))
    title, description = (_chosen(getattr(base, name), getattr(mine, name), getattr(now, name)) for name in _SNIPPET)
    if any(theirs is not None for theirs in (title.theirs, description.theirs, *(one.theirs for one in pieces))):
        return _Prepared(mine, (pieces, title, description))
    text = "\n".join(block for one in pieces for block in one.mine)
    if len(text) > TEXT_MAX:
        raise Invalid(f"After merging, the draft has over {TEXT_MAX:,} characters.", "Shorten it.", "text")
    return _Prepared(Words(title.mine, description.mine, text))


def _chosen(was: str, own: str, now: str) -> Choice:
    """The merged line of two edits."""
    if own in (was, now):
        return Choice(now)
    return Choice(own) if now == was else Choice(own, now)


@changes_site()
def set_instruction(actor: Actor, site: Site, task: str, text: str) -> dict[str, str]:
    """Set the text service's instruction for a task; empty restores the default."""
    if task not in HELP_TASKS:
        raise Invalid(f"No help available for “{task}”.", f"There is: {', '.join(HELP_TASKS)}.", "task")
    if len(text) > INSTRUCTION_MAX:
        raise Invalid(f"An instruction has {INSTRUCTION_MAX} letters at most.", "Shorten it.", "text")
    site.instructions = {**site.instructions, task: text.strip()}
    site.save(update_fields=["instructions"])
    return instructions(site)


def instructions(site: Site) -> dict[str, str]:
    return {task: site.instructions.get(task) or usual for task, usual in INSTRUCTIONS.items()}


def check_lengths(words: Words) -> None:
    """Raises Invalid where a text is longer than a draft may be."""
    if len(words.text) > TEXT_MAX:
        raise Invalid(f"A draft has at most {TEXT_MAX:,} characters of HTML.", "Split it into two pages.", "text")
    if max(len(words.title), len(words.description)) > SNIPPET_MAX:
        raise Invalid(f"Titles and descriptions have {SNIPPET_MAX:,} characters at most.", "Shorten it.", "title")


def as_stored(words: Words) -> Words:
    """A text as stored. Raises Invalid beyond a limit. Its cost depends on the text, so run it bounded."""
    check_lengths(words)
    try:
        return Words(" ".join(words.title.split()), " ".join(words.description.split()), cleaned(words.text))
    except TooLarge as error:
        raise Invalid(error.message, error.remedy, "text") from None


def cleaned_words(words: Words) -> tuple[str, str, str]:
    """Title, description and text as they would be stored."""
    made = as_stored(words)
    return made.title, made.description, made.text


def _keep_version(draft: Draft, actor: Actor) -> None:
    """Store the draft's current version; saves of one person within some minutes are one version."""
    begun = timezone.now() - timedelta(minutes=VERSION_MINUTES)
    result = {"title": draft.title, "description": draft.description, "text": draft.text, "number": draft.version}
    last = draft.versions.first()
    if last is not None and last.number > 1 and last.user == actor.user and last.begun_at > begun:
        DraftVersion.objects.filter(id=last.id).update(**result, made_at=timezone.now())
    else:
        DraftVersion.objects.create(draft=draft, user=actor.user, **result)


def versions(site: Site, number: int) -> list[dict[str, Any]]:
    """The versions of a draft, latest first."""
    draft = find(site, number, dropped=True)
    return [
        {"number": one.number, "by": one.user.get_username() if one.user else None, "made_at": one.made_at,
         "begun_at": one.begun_at}
        for one in draft.versions.select_related("user").defer("text")
    ]  # fmt: skip


def compare(site: Site, number: int, before: int, after: int) -> dict[str, list[list[Difference]]]:
    """The differences between two versions of a draft; 0 is the page as crawled."""
    draft = find(site, number, dropped=True)
    one, other = (_version(draft, wanted) for wanted in (before, after))
    return bounded.run(bounded.DRAFT, _compare, one, other)


def _compare(one: Words, other: Words) -> dict[str, list[list[Difference]]]:
    ways: tuple[tuple[str, Callable[[str], list[str]]], ...] = (("title", _line), ("description", _line), ("text", blocks_of))
    return {name: differences(lines(getattr(one, name)), lines(getattr(other, name))) for name, lines in ways}


def as_file(draft: Draft, kind: Format) -> bytes:
    """A draft as Markdown, HTML or a document (DOCX)."""
    words = Words(draft.title, draft.description, draft.text)
    return bounded.run(bounded.DRAFT, _as_file, kind, words, rules_of(draft.site).language)


def _as_file(kind: Format, words: Words, language: str) -> bytes:
    result = (words.title, words.description, words.text)
    if kind == "docx":
        file = io.BytesIO()
        as_document(*result).save(file)
        return file.getvalue()
    return (as_markdown(*result) if kind == "md" else as_html(*result, language)).encode()


def _line(text: str) -> list[str]:
    return [text] if text else []


def _version(draft: Draft, number: int) -> Words:
    if number == 0:
        return Words(**draft.before) if draft.before else Words()
    rows = draft.versions.filter(number=number).first()
    if rows is None:
        raise NotFound("This version does not exist.", "Choose from its list.")
    return Words(rows.title, rows.description, rows.text)


@changes_site()
def restore(actor: Actor, site: Site, number: int, window: str, version: int) -> Draft:
    """Restore the text of a version; the current one stays as a version too."""
    draft = _to_write(actor, site, number, window)
    _store(draft, actor, _version(draft, version))
    return draft


# --- done, dropped --------------------------------------------------------------------------------------------------------


@changes_site(plan=True)
def finish(actor: Actor, site: Site, number: int, on: date, page: int | None = None, note: str = "") -> Draft:
    """Mark a draft as published on a day: its move is done. `page`: the page that a page to write became."""
    if len(note) > NOTE_MAX:
        raise Invalid(f"The note has more than {NOTE_MAX} letters.", "Shorten it.", "note")
    draft = _locked(site, number)
    if draft.page is None and page is not None:
        draft.page = Page.objects.get(site=draft.site, id=page)
    if not draft.text:
        raise Invalid("The draft has no text.", "Write it first, or delete the draft.", "text")
    draft.move = _finished_move(actor, draft, on, note)
    draft.state, draft.done_on, draft.writer, draft.writer_heard_at = Draft.State.DONE, on, None, None
    draft.save(update_fields=["page", "move", "state", "done_on", "writer", "writer_heard_at"])
    return draft


def _finished_move(actor: Actor, draft: Draft, on: date, note: str) -> Move:
    fields = {"state": "done", "made_on": on, "new_title": draft.title, "new_description": draft.description}
    if note.strip():
        fields["note"] = note
    stored = draft.move
    if stored is None or stored.dropped_at is not None:
        kind = {"kind": "deepen" if draft.page else "write", "effort": "day"}
        reason = f"Its draft was written for “{draft.query.text}”."
        planned = moves.Planned(
            draft.page_id, draft.query_id, "drafts", reason, None, None, "too little data", {**kind, "note": "", **fields}
        )
        return moves.make(actor, draft.site.slug, planned)
    if stored.page_id is None and draft.page_id is not None:
        stored.page_id = draft.page_id
        stored.save(update_fields=["page"])
    return moves.change(actor, draft.site.slug, stored.id, stored.version, fields)


@changes_site(plan=True)
def reopen(actor: Actor, site: Site, number: int) -> Draft:
    """Reopen a finished draft; its move is in progress again."""
    draft = _locked(site, number)
    if draft.state == Draft.State.DONE:
        draft.state, draft.done_on = Draft.State.OPEN, None
        draft.save(update_fields=["state", "done_on"])
        if draft.move is not None and draft.move.dropped_at is None:
            moves.change(actor, site.slug, draft.move.id, draft.move.version, {"state": "in progress", "made_on": None})
    return draft


@changes_site(plan=True)
def rename(actor: Actor, site: Site, number: int, name: str) -> Draft:
    name = checked_name(" ".join(name.split()), most=NAME_MAX)
    draft = find(site, number)
    draft.name = name
    draft.save(update_fields=["name"])
    return draft


@changes_site(plan=True)
def drop(actor: Actor, site: Site, number: int, back: bool = False) -> Draft:
    """Delete a draft from the list, or restore it; its text is kept."""
    draft = find(site, number, dropped=True)
    draft.dropped_at = None if back else timezone.now()
    draft.save(update_fields=["dropped_at"])
    return draft


def begin_to_write(actor: Actor, slug: str, options: ViewOptions, query: int, today: date) -> Draft:
    """Start a draft for a page to write, and its move."""
    site = actor.site_to_change(slug)
    fields = {"note": "", "who": None, "due": None}
    try:
        unknown = {"kind": None, "effort": None}
        (planned,) = plan_moves(Snapshot(site), options, [Subject(None, query)], "content-gaps", {**unknown, **fields}, today)
    except NotFound:
        # It is no longer suggested; the writer has other reasons.
        kind = {"kind": "write", "effort": "week"}
        reason = "A page for a query chosen by hand."
        planned = moves.Planned(None, query, "drafts", reason, None, None, "too little data", {**kind, **fields})
    return begin(actor, slug, query, None, _move_to_write(actor, slug, planned))


@changes_site()
def _move_to_write(actor: Actor, site: Site, planned: moves.Planned) -> Move:
    """The open move to write a page for a query, or the planned one."""
    subject = {"query_id": planned.query, "page": None, "state__in": OPEN, "dropped_at": None}
    stored = Move.objects.filter(site=site, kind="write", **subject).first()
    return stored or moves.make(actor, site.slug, planned)


def shown(draft: Draft) -> dict[str, Any]:
    """A draft for display."""
    now = writer_of(draft)
    names = ("id", "name", "title", "description", "text", "version", "state", "done_on", "query_id", "page_id", "move_id",
             "made_at", "changed_at")  # fmt: skip
    return {
        **{name: getattr(draft, name) for name in names},
        "query": draft.query.text,
        "page": draft.page.text if draft.page else None,
        "by": draft.user.get_username() if draft.user else None,
        "writer": now[0] if now else None,
        "writer_window": now[1] if now else None,
        "crawled": draft.before is not None,
        "dropped": draft.dropped_at is not None,
    }
