"""Drafts over HTTP: start, save, check, get help with and finish a draft. The list is a finding (findings/drafts.py)."""

from functools import partial
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Query, Router, Status

from zugzwang.api import plan_schemas as s
from zugzwang.api.findings import ViewParameters, options_of
from zugzwang.api.problems import actor
from zugzwang.api.subject_schemas import DraftChecked
from zugzwang.api.subjects import whole_view
from zugzwang.data.models import Draft
from zugzwang.errors import Invalid
from zugzwang.intake.text_service import ask_for_help, connection_of
from zugzwang.plan import drafts
from zugzwang.plan.drafts import Format, Words
from zugzwang.subjects.brief import query_of
from zugzwang.subjects.draft_check import help_requested, tell_check

router = Router()
_KINDS: dict[Format, str] = {
    "md": "text/markdown; charset=utf-8",
    "html": "text/html; charset=utf-8",
    "docx": "application/vnd.openxmlformats-officedocument.wordprocessingml.document",
}


def _words(payload: s.DraftWords) -> Words:
    return Words(payload.title, payload.description, payload.text)


@router.post("/sites/{slug}/drafts", response={201: s.DraftShown})
def begin_draft(request: HttpRequest, slug: str, payload: s.DraftBegun, options: Query[ViewParameters]) -> Status[Any]:
    """Start a draft of an existing page, or of a page to write, which also creates a move."""
    actor(request).site_to_change(slug)
    if payload.page is not None:
        query = payload.query or query_of(whole_view(request, slug, options), payload.page)
        made = drafts.begin(actor(request), slug, query, payload.page)
    elif payload.query is not None:
        made = drafts.begin_to_write(actor(request), slug, options_of(options), payload.query, timezone.localdate())
    else:
        raise Invalid("A draft needs a page or a query.", "Name one of them.", "query")
    return Status(201, _shown(request, slug, made.id))


@router.get("/sites/{slug}/drafts/{int:draft_id}", response={200: s.DraftShown})
def show_draft(request: HttpRequest, slug: str, draft_id: int) -> Any:
    """A draft with its text."""
    return _shown(request, slug, draft_id)


def _shown(request: HttpRequest, slug: str, draft_id: int) -> dict[str, Any]:
    return drafts.shown(drafts.find(actor(request).site(slug), draft_id, dropped=True))


@router.put("/sites/{slug}/drafts/{int:draft_id}", response={200: s.DraftSaving})
def save_draft(request: HttpRequest, slug: str, draft_id: int, payload: s.DraftSaved) -> Any:
    """Save a draft. Changes that others saved in the meantime are merged block by block; where both sides changed the same
    block, nothing is saved and the answer lists the conflicts.
    """
    made = drafts.save(actor(request), slug, draft_id, payload.window, payload.seen, _words(payload.base), _words(payload))
    result = {"text": made.text, "title": made.title, "description": made.description}
    return {**result, "draft": drafts.shown(made.draft)}


@router.post("/sites/{slug}/drafts/{int:draft_id}/writer", response={200: s.DraftShown})
def write_draft(request: HttpRequest, slug: str, draft_id: int, payload: s.Writing) -> Any:
    """Take over writing, or confirm that you still write."""
    return drafts.shown(drafts.write(actor(request), slug, draft_id, payload.window, payload.take))


@router.post("/sites/{slug}/drafts/{int:draft_id}/writer/gone", response={204: None})
def stop_writing(request: HttpRequest, slug: str, draft_id: int, payload: s.Writing) -> Status[None]:
    """Release the draft for other writers."""
    drafts.stop(actor(request), slug, draft_id, payload.window)
    return Status(204, None)


@router.get("/sites/{slug}/drafts/{int:draft_id}/versions", response={200: list[s.VersionShown]})
def list_versions(request: HttpRequest, slug: str, draft_id: int) -> Any:
    """Versions of a draft, latest first."""
    return drafts.versions(actor(request).site(slug), draft_id)


@router.get("/sites/{slug}/drafts/{int:draft_id}/versions/{int:one}/{int:other}", response={200: s.DraftCompared})
def compare_versions(request: HttpRequest, slug: str, draft_id: int, one: int, other: int) -> Any:
    """The differences between two versions; version 0 is the page as crawled."""
    return drafts.compare(actor(request).site(slug), draft_id, one, other)


@router.post("/sites/{slug}/drafts/{int:draft_id}/versions", response={200: s.DraftShown})
def restore_version(request: HttpRequest, slug: str, draft_id: int, payload: s.PutBack) -> Any:
    """Restore a version of a draft."""
    return drafts.shown(drafts.restore(actor(request), slug, draft_id, payload.window, payload.version))


@router.post("/sites/{slug}/drafts/{int:draft_id}/check", response={200: DraftChecked})
def check_draft(request: HttpRequest, slug: str, draft_id: int, payload: s.DraftWords, options: Query[ViewParameters]) -> Any:
    """Check the text that was sent against the competing pages; nothing is saved."""
    draft = _draft(request, slug, draft_id)
    clean = partial(drafts.cleaned_words, _words(payload))
    return tell_check(whole_view(request, slug, options), draft.query_id, draft.page_id, clean)


@router.get("/sites/{slug}/drafts/{int:draft_id}/file", response={200: bytes})
def draft_file(request: HttpRequest, slug: str, draft_id: int, kind: Format = "docx") -> HttpResponse:
    """The draft as Markdown, HTML or a document (DOCX)."""
    draft = _draft(request, slug, draft_id)
    file = drafts.as_file(draft, kind)
    disposition = f'attachment; filename="draft-{draft_id}.{kind}"'
    return HttpResponse(file, content_type=_KINDS[kind], headers={"Content-Disposition": disposition})


@router.post("/sites/{slug}/drafts/{int:draft_id}/done", response={200: s.DraftShown})
def finish_draft(request: HttpRequest, slug: str, draft_id: int, payload: s.DraftFinished) -> Any:
    """Mark the draft as published on a given day; its move is done."""
    actor(request).site_to_change(slug)
    page = whole_view(request, slug, ViewParameters(page=payload.page)).one_page if payload.page.strip() else None
    return drafts.shown(drafts.finish(actor(request), slug, draft_id, payload.on, page, payload.note))


@router.post("/sites/{slug}/drafts/{int:draft_id}/open", response={200: s.DraftShown})
def reopen_draft(request: HttpRequest, slug: str, draft_id: int) -> Any:
    """Reopen a finished draft."""
    return drafts.shown(drafts.reopen(actor(request), slug, draft_id))


@router.patch("/sites/{slug}/drafts/{int:draft_id}", response={200: s.DraftShown})
def rename_draft(request: HttpRequest, slug: str, draft_id: int, payload: s.DraftNamed) -> Any:
    """Rename a draft."""
    return drafts.shown(drafts.rename(actor(request), slug, draft_id, payload.name))


@router.delete("/sites/{slug}/drafts/{int:draft_id}", response={200: s.DraftShown})
def drop_draft(request: HttpRequest, slug: str, draft_id: int) -> Any:
    """Delete a draft."""
    return drafts.shown(drafts.drop(actor(request), slug, draft_id))


@router.post("/sites/{slug}/drafts/{int:draft_id}/restore", response={200: s.DraftShown})
def restore_draft(request: HttpRequest, slug: str, draft_id: int) -> Any:
    """Restore a deleted draft."""
    return drafts.shown(drafts.drop(actor(request), slug, draft_id, back=True))


def _draft(request: HttpRequest, slug: str, draft_id: int) -> Draft:
    return drafts.find(actor(request).site(slug), draft_id)


# --- help -----------------------------------------------------------------------------------------------------------------


@router.post("/sites/{slug}/drafts/{int:draft_id}/help", response={200: s.Helped})
def help_with_draft(
    request: HttpRequest, slug: str, draft_id: int, payload: s.HelpInput, options: Query[ViewParameters]
) -> Any:
    """Ask the site's text service for suggestions and check them; the draft itself does not change."""
    site = actor(request).site_to_change(slug)
    draft = _draft(request, slug, draft_id)
    instruction = drafts.instructions(site)[payload.task]
    view = whole_view(request, slug, options)
    return ask_for_help(site, help_requested(view, draft.query_id, draft.page_id, payload.task, payload.term, instruction))


@router.get("/sites/{slug}/help", response={200: s.HelpSettings})
def show_help_settings(request: HttpRequest, slug: str) -> Any:
    """The connected text service and the site's instructions for it."""
    site = actor(request).site(slug)
    return {"instructions": drafts.instructions(site), "connected": connection_of(site) is not None}


@router.put("/sites/{slug}/help", response={200: s.HelpSettings})
def set_instruction(request: HttpRequest, slug: str, payload: s.InstructionInput) -> Any:
    """Set the instruction that the text service gets for a task; empty restores the default."""
    drafts.set_instruction(actor(request), slug, payload.task, payload.text)
    return show_help_settings(request, slug)
