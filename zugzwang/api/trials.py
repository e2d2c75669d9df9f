"""Tests over HTTP: plan, start and conclude one. The list is a finding (findings/trials.py)."""

from typing import Any

from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Status

from zugzwang.api import plan_schemas as s
from zugzwang.api.findings import snapshot_of
from zugzwang.api.problems import actor
from zugzwang.data.decided import Subject
from zugzwang.plan import trials
from zugzwang.plan.trial_results import results_by_kind, tell
from zugzwang.plan.trials import Planned

router = Router()


def _planned(payload: s.TrialInput) -> Planned:
    fields = payload.dict(exclude={"subjects"})
    return Planned([Subject(one.page, one.query) for one in payload.subjects], **fields)


@router.post("/sites/{slug}/trials/plan", response={200: s.TrialPlan})
def plan_trial(request: HttpRequest, slug: str, payload: s.TrialInput) -> Any:
    """The smallest effect that a test could detect, and what speaks against it; nothing is saved."""
    result = trials.tell_plan(actor(request), slug, _planned(payload), timezone.localdate())
    return {**result, "worked": results_by_kind(actor(request).site(slug)).get(payload.kind)}


@router.post("/sites/{slug}/trials", response={201: s.TrialShown})
def start_trial(request: HttpRequest, slug: str, payload: s.TrialInput) -> Status[Any]:
    """Start a test."""
    made = trials.start(actor(request), slug, _planned(payload), timezone.localdate())
    return Status(201, _shown(request, slug, made.id))


def _shown(request: HttpRequest, slug: str, trial_id: int) -> dict[str, Any]:
    return tell(snapshot_of(request, slug), trial_id)


@router.get("/sites/{slug}/trials/{int:trial_id}", response={200: s.TrialShown})
def show_trial(request: HttpRequest, slug: str, trial_id: int) -> Any:
    """A test with its progress or verdict."""
    return _shown(request, slug, trial_id)


@router.post("/sites/{slug}/trials/{int:trial_id}/verdict", response={200: s.TrialShown})
def read_trial(request: HttpRequest, slug: str, trial_id: int) -> Any:
    """Conclude a test once, at its end; the verdict is saved permanently."""
    trials.read(actor(request), slug, trial_id)
    return _shown(request, slug, trial_id)


@router.post("/sites/{slug}/trials/{int:trial_id}/out", response={200: s.TrialShown})
def leave_out(request: HttpRequest, slug: str, trial_id: int, payload: s.LeftOut) -> Any:
    """Exclude a control page for a reason, or include it again."""
    trials.leave_out(actor(request), slug, trial_id, Subject(payload.page, payload.query), payload.why)
    return _shown(request, slug, trial_id)


@router.delete("/sites/{slug}/trials/{int:trial_id}", response={200: s.TrialShown})
def drop_trial(request: HttpRequest, slug: str, trial_id: int) -> Any:
    """Delete a test."""
    trials.drop(actor(request), slug, trial_id)
    return _shown(request, slug, trial_id)


@router.post("/sites/{slug}/trials/{int:trial_id}/restore", response={200: s.TrialShown})
def restore_trial(request: HttpRequest, slug: str, trial_id: int) -> Any:
    """Restore a deleted test."""
    trials.drop(actor(request), slug, trial_id, back=True)
    return _shown(request, slug, trial_id)
