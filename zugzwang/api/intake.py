"""The HTTP interface of Data: files, loads, services, crawls, events, rules of cleaning."""

import gzip
import tempfile
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import File, Query, Router, Status
from ninja.files import UploadedFile

from zugzwang import bounded
from zugzwang.api import schemas as s
from zugzwang.api.problems import actor
from zugzwang.core.facts.cleaning import Rules
from zugzwang.data.models import Connection, Job, Load, RuleChange, Site
from zugzwang.data.rules import as_json, from_json, rules_of
from zugzwang.errors import NotFound
from zugzwang.intake import cleaning, connections, jobs, loading, overview, sources, uploads
from zugzwang.intake.delimited import ENCODINGS
from zugzwang.intake.kinds import KINDS
from zugzwang.intake.seen import Seen
from zugzwang.intake.tables import refuse

FIRST_ROWS = 6
LOADS_LISTED = 50

router = Router()


@router.get("/sites/{slug}/sources", response={200: list[s.SourceLoaded]})
def list_sources(request: HttpRequest, slug: str) -> Any:
    """The data of each source, and problems with them."""
    return sources.sources(actor(request).site(slug))


@router.get("/portfolio", response={200: list[overview.SiteState]})
def portfolio(request: HttpRequest) -> Any:
    """All sites that the person may read, with their state."""
    return overview.portfolio(actor(request))


@router.post("/refresh", response={202: s.RefreshesRequest})
def refresh_all(request: HttpRequest) -> Any:
    """Refresh several sites."""
    return Status(202, {"sites": [job.site.name for job in jobs.ask_for_all(actor(request))]})


# --- files -------------------------------------------------------------------------------------------------------------


def shown_upload(key: str, name: str, seen: Sequence[Seen]) -> s.Uploaded:
    return s.Uploaded(upload=key, name=name, tables=[shown_table(one) for one in seen], encodings=list(ENCODINGS))


def shown_table(seen: Seen) -> s.TableSeen:
    table = seen.table
    return s.TableSeen(
        name=seen.name,
        refused=seen.refused,
        source=seen.source,
        header=table.header if table else [],
        header_line=table.header_line if table else 0,
        unit=table.unit if table else "line",
        mapping=dict(seen.mapping),
        missing=list(seen.missing),
        fields=[s.FieldShown(name=field.name, required=field.required) for field in KINDS[seen.source].fields],
        first_rows=[list(row) for row in seen.first_rows[:FIRST_ROWS]],
        rows_about=table.rows_about if table else 0,
        notices=table.notices if table else [],
        sheets=table.sheets if table else [],
        sheet=table.sheet if table else None,
        encoding=table.encoding if table else None,
        decimal=seen.style.decimal,
        day_order=seen.style.day_order,
        ambiguous_days=seen.ambiguous_days,
        remembered=seen.remembered,
        could_be=list(seen.could_be),
        needs_span=seen.needs_span,
        span=s.Days(first=seen.span.first, last=seen.span.last) if seen.span else None,
        span_from=seen.span_from,
    )


@router.post("/sites/{slug}/uploads", response={201: s.Uploaded})
def upload(request: HttpRequest, slug: str, file: File[UploadedFile]) -> Any:
    """Upload a file; returns what was recognised in it."""
    site = actor(request).site_to_change(slug)
    key = uploads.keep(site, file.name or "file", file.chunks(), file.size or 0)
    try:
        return Status(201, look(site, key, s.LookRequest()))
    except Exception:
        uploads.discard(key)
        raise


@router.post("/site-archives", response={202: s.ArchiveRequest})
def take_in_archive(request: HttpRequest, file: File[UploadedFile]) -> Any:
    """Create a site from the archive of another one. A worker does the job."""
    name = file.name or "file"
    try:
        job = jobs.ask_for_archive(actor(request), name, file.chunks(), file.size or 0)
    except bounded.LimitReached as error:
        raise refuse(name, error.message.rstrip("."), error.remedy) from error
    return Status(202, {"site": job.site.slug, "job": job.id})


@router.post("/sites/{slug}/uploads/{key}/preview", response={200: s.Uploaded})
def preview_upload(request: HttpRequest, slug: str, key: str, payload: s.LookRequest) -> Any:
    """What an upload becomes with other choices."""
    return look(actor(request).site_to_change(slug), key, payload)


def look(site: Site, key: str, payload: s.LookRequest) -> s.Uploaded:
    path, name = uploads.find(site, key)
    try:
        with tempfile.TemporaryDirectory() as scratch:
            result = (site.id, str(path), key, name, scratch, as_tables(payload))
            return bounded.run(bounded.UPLOAD.of_file(path), looked_at, *result)
    except bounded.LimitReached as error:
        raise refuse(name, error.message.rstrip("."), error.remedy) from error


def looked_at(site: int, path: str, key: str, name: str, scratch: str, tables: dict[str, Any]) -> s.Uploaded:
    """The contents of an uploaded file, for display."""
    options = jobs.tables_requested(tables)
    with loading.in_words(name):
        return shown_upload(key, name, loading.look(Site.objects.get(id=site), Path(path), name, Path(scratch), options))


def as_tables(payload: s.LookRequest) -> dict[str, Any]:
    return {str(number): table.model_dump(mode="json") for number, table in payload.tables.items()}


@router.post("/sites/{slug}/loads", response={202: s.JobShown})
def start_load(request: HttpRequest, slug: str, payload: s.LoadRequest) -> Status[s.JobShown]:
    """Load an upload."""
    result = {
        "mode": payload.mode,
        "keep_good_rows": payload.keep_good_rows,
        "dry_run": payload.dry_run,
        "tables": as_tables(payload),
    }
    return Status(202, shown_job(jobs.start_load(actor(request), slug, payload.upload, result)))


def listed_load(load: Load) -> dict[str, Any]:
    names = ("id", "source", "name", "rows", "first_day", "last_day", "made_at", "taken_back_at")
    by, back = load.user, load.taken_back_by
    who = {"by": by.get_username() if by else "", "taken_back_by": back.get_username() if back else ""}
    return {**{name: getattr(load, name) for name in names}, **who}


@router.get("/sites/{slug}/loads", response={200: s.Loads})
def list_loads(request: HttpRequest, slug: str, offset: int = Query(0, le=10**9)) -> Any:  # type: ignore[type-arg]
    """Loads, latest first."""
    loads = Load.objects.filter(site=actor(request).site(slug)).select_related("user", "taken_back_by").defer("report")
    first = max(offset, 0)
    return {"total": loads.count(), "loads": [listed_load(load) for load in loads[first : first + LOADS_LISTED]]}


@router.get("/sites/{slug}/loads/{load_id}", response={200: s.LoadShown})
def show_load(request: HttpRequest, slug: str, load_id: int) -> Any:
    """A load and its report."""
    load = loading.find_load(actor(request), slug, load_id)
    return {**listed_load(load), "report": load.report}


@router.post("/sites/{slug}/loads/{load_id}/undo", response={200: s.LoadShown})
def undo_load(request: HttpRequest, slug: str, load_id: int) -> Any:
    """Undo a load."""
    loading.undo(actor(request), slug, load_id)
    return show_load(request, slug, load_id)


# --- jobs --------------------------------------------------------------------------------------------------------------


def shown_job(job: Job) -> s.JobShown:
    computed = {"has_refused_rows", "dry_run", "upload"}
    return s.JobShown(
        **{name: getattr(job, name) for name in s.JobShown.model_fields if name not in computed},
        has_refused_rows=bool(job.outcome.get("refused")),
        dry_run=bool(job.request.get("dry_run", False)),
        upload=job.request.get("upload"),
    )


@router.get("/sites/{slug}/jobs", response={200: list[s.JobShown]})
def list_jobs(request: HttpRequest, slug: str) -> list[s.JobShown]:
    """Recent jobs, latest first."""
    return [shown_job(job) for job in jobs.recent(actor(request), slug)]


@router.get("/sites/{slug}/jobs/{job_id}", response={200: s.JobShown})
def show_job(request: HttpRequest, slug: str, job_id: int) -> s.JobShown:
    """A job: its state, progress, report and log."""
    return shown_job(jobs.find(actor(request), slug, job_id))


@router.post("/sites/{slug}/jobs/{job_id}/cancel", response={200: s.JobShown})
def cancel_job(request: HttpRequest, slug: str, job_id: int) -> s.JobShown:
    """Cancel a job."""
    return shown_job(jobs.cancel(actor(request), slug, job_id))


@router.post("/sites/{slug}/jobs/{job_id}/again", response={202: s.JobShown})
def retry_job(request: HttpRequest, slug: str, job_id: int, payload: s.RetryRequest) -> Status[s.JobShown]:
    """Start a failed or cancelled job again."""
    return Status(202, shown_job(jobs.retry_job(actor(request), slug, job_id, payload.keep_good_rows)))


@router.get("/sites/{slug}/jobs/{job_id}/refused.csv", response={200: str})
def refused_rows(request: HttpRequest, slug: str, job_id: int) -> HttpResponse:
    """The refused rows of a load, as CSV."""
    job = jobs.find(actor(request), slug, job_id)
    if not job.refused_rows:
        raise NotFound("This load refused no rows.", "There is nothing to download.")
    response = HttpResponse(gzip.decompress(job.refused_rows), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="refused-rows-{job.id}.csv"'
    return response


@router.post("/sites/{slug}/above", response={202: s.JobShown})
def fetch_competing_pages(request: HttpRequest, slug: str, payload: s.CompetingPagesRequest) -> Status[s.JobShown]:
    """Fetch other sites' pages from the SERPs of the given queries, or of all captured queries."""
    return Status(202, shown_job(jobs.fetch_competing_pages(actor(request), slug, payload.queries)))


# --- services and crawls -----------------------------------------------------------------------------------------------


def shown_connection(connection: Connection) -> s.ConnectionShown:
    # The token is sent only to the service.
    names = ("source", "private_allowed", "nightly", "requested_at")
    address = connections.without_password(connection.address)
    stored = {name: getattr(connection, name) for name in names}
    return s.ConnectionShown(**stored, address=address, has_token=bool(connection.token))


@router.get("/sites/{slug}/connections", response={200: list[s.ConnectionShown]})
def list_connections(request: HttpRequest, slug: str) -> Any:
    """Connected services."""
    return [shown_connection(one) for one in connections.connections(actor(request).site(slug))]


@router.put("/sites/{slug}/connections/{source}", response={200: s.ConnectionShown})
def connect(request: HttpRequest, slug: str, source: s.Served, payload: s.ConnectionInput) -> Any:
    """Connect a source to a service."""
    return shown_connection(connections.connect(actor(request), slug, source, **payload.model_dump()))


@router.delete("/sites/{slug}/connections/{source}", response={204: None})
def disconnect(request: HttpRequest, slug: str, source: s.Served) -> Status[None]:
    """Disconnect a service."""
    connections.disconnect(actor(request), slug, source)
    return Status(204, None)


@router.post("/sites/{slug}/refresh", response={202: s.JobShown})
def refresh(request: HttpRequest, slug: str, payload: s.RefreshRequest) -> Any:
    """Refresh the connected sources."""
    chosen = None
    if payload.sources is not None:
        stored = Connection.objects.filter(site=actor(request).site(slug), source__in=payload.sources)
        chosen = list(stored.values_list("id", flat=True))
    return Status(202, shown_job(jobs.ask_for_refresh(actor(request), slug, chosen)))


@router.post("/sites/{slug}/crawl", response={202: s.JobShown})
def crawl(request: HttpRequest, slug: str, payload: s.CrawlRequest) -> Any:
    """Start a crawl of the site."""
    return Status(202, shown_job(jobs.ask_for_crawl(actor(request), slug, payload.model_dump())))


# --- events ------------------------------------------------------------------------------------------------------------


@router.get("/sites/{slug}/events", response={200: list[s.EventShown]})
def list_events(request: HttpRequest, slug: str) -> Any:
    """Dated events."""
    return connections.events(actor(request).site(slug))


@router.post("/sites/{slug}/events", response={201: s.EventShown})
def add_event(request: HttpRequest, slug: str, payload: s.EventInput) -> Any:
    """Add an event."""
    return Status(201, connections.add_event(actor(request), slug, **payload.model_dump()))


@router.delete("/sites/{slug}/events/{event_id}", response={204: None})
def remove_event(request: HttpRequest, slug: str, event_id: int) -> Status[None]:
    """Delete an event."""
    connections.remove_event(actor(request), slug, event_id)
    return Status(204, None)


# --- rules of cleaning -------------------------------------------------------------------------------------------------


def input_rules(payload: s.RulesInput) -> Rules:
    return from_json(payload.model_dump(exclude={"version"}))


def shown_rules(rules: Rules) -> dict[str, Any]:
    return {**as_json(rules), "version": cleaning.version_of(rules)}


@router.get("/sites/{slug}/rules", response={200: s.RulesInput})
def show_rules(request: HttpRequest, slug: str) -> Any:
    """The cleaning rules."""
    return shown_rules(rules_of(actor(request).site(slug)))


@router.put("/sites/{slug}/rules", response={200: s.RulesInput})
def save_rules(request: HttpRequest, slug: str, payload: s.RulesInput) -> Any:
    """Save the cleaning rules."""
    return shown_rules(rules_of(cleaning.keep(actor(request), slug, input_rules(payload), seen=payload.version)))


@router.post("/sites/{slug}/rules/effect", response={200: s.RulesEffect}, by_alias=True)
def rules_effect(request: HttpRequest, slug: str, payload: s.RulesInput) -> Any:
    """The effect of cleaning rules, before saving."""
    return cleaning.effect(actor(request).site(slug), input_rules(payload))


def shown_change(change: RuleChange) -> dict[str, Any]:
    by = change.user.get_username() if change.user else ""
    return {"id": change.id, "made_at": change.made_at, "by": by, "words": change.words}


@router.get("/sites/{slug}/rules/changes", response={200: list[s.RuleChangeShown]})
def rule_changes(request: HttpRequest, slug: str) -> Any:
    """Earlier cleaning rules, latest first."""
    return [shown_change(change) for change in cleaning.changes(actor(request).site(slug))]


@router.post("/sites/{slug}/rules/changes/{change_id}/restore", response={200: s.RulesInput})
def restore_rules(request: HttpRequest, slug: str, change_id: int) -> Any:
    """Restore the rules before a change."""
    return shown_rules(rules_of(cleaning.restore(actor(request), slug, change_id)))
