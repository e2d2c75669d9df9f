"""Refreshing a site from its services: missing days, and the last days, which were not final.

Data are stored page by page (`JobPart`) with the address of the next one; a resumed job continues there. Once complete,
they are loaded like a file, in one piece; until then the site's data stay unchanged.
"""

import gzip
import tempfile
import time
from collections.abc import Callable, Sequence
from datetime import date, timedelta
from functools import partial
from pathlib import Path
from typing import Any

from django.utils import timezone

from zugzwang.core.facts.grains import DAY, GRAINS, PAGE, PAGE_QUERY, QUERY, VISITS, Grain, Source
from zugzwang.data.blocks import read_days
from zugzwang.data.models import Connection, Job, JobPart
from zugzwang.errors import Invalid
from zugzwang.intake.loading import LoadOptions, TableRequest, load_file, usual_mode
from zugzwang.intake.services import About, Service
from zugzwang.intake.tables import Choices

NOT_FINAL_DAYS = 3
STRETCH_DAYS = 31

Progress = Callable[[str, float], None]
Log = Callable[[str], None]

# Services' names for the grains of search facts.
GRAIN_NAMES: dict[str, Grain] = {"page,query": PAGE_QUERY, "page": PAGE, "query": QUERY, "day": DAY}


def refresh(job: Job, progress: Progress, log: Log) -> dict[str, Any]:
    """Fetch and load what the job's connections have and the site lacks; returns the outcome for each connection."""
    connections = list(Connection.objects.filter(site=job.site, id__in=job.request["connections"]).order_by("id"))
    if not connections:
        raise Invalid("No service is connected.", "Connect one first.")
    done = []
    for number, connection in enumerate(connections):
        share = number / len(connections)

        def told(step: str, part: float, share: float = share) -> None:
            progress(step, share + part / len(connections))

        done.append(_refresh_one(job, connection, told, log))
    return {"connections": done}


def _refresh_one(job: Job, connection: Connection, progress: Progress, log: Log) -> dict[str, Any]:
    def wait(why: str, seconds: float) -> None:
        log(f"{connection.source}: {why}; trying again in {seconds:.1f} s.")
        until = timezone.now() + timedelta(seconds=seconds)
        while (left := (until - timezone.now()).total_seconds()) > 0:
            progress(f"Waiting for {connection.source}", 0.0)
            time.sleep(min(left, 0.5))

    with Service(connection, wait) as service:
        plan = _plan(job, connection, service)
        log(f"{connection.source}: {_said(plan)}")
        for number, stretch in enumerate(plan):
            _fetch(job, service, stretch, partial(_tell_part, progress, 0.7 * number / len(plan)))
    reports = [
        report
        for grain in dict.fromkeys(stretch["grain"] for stretch in plan)
        if (report := _load(job, connection, plan, grain, progress)) is not None
    ]
    Connection.objects.filter(id=connection.id).update(requested_at=timezone.now())
    rows = sum(report["loaded"] for report in reports)
    log(f"{connection.source}: {rows:,} rows loaded." if reports else f"{connection.source}: up to date.")
    return {
        "source": connection.source,
        "reports": reports,
        "rows": rows,
        "new": sum(report["new"] for report in reports),
        "replaced": sum(report["replaced"] for report in reports),
    }


def _tell_part(progress: Progress, share: float, step: str) -> None:
    progress(step, share)


def _said(plan: Sequence[dict[str, Any]]) -> str:
    days = sum((date.fromisoformat(one["to"]) - date.fromisoformat(one["from"])).days + 1 for one in plan if one["from"])
    return f"{len(plan)} ranges, {days} days to fetch." if days else "the complete table to fetch."


def _plan(job: Job, connection: Connection, service: Service) -> list[dict[str, Any]]:
    """The stretches to fetch, decided once for each job, so a resumed job does what it started."""
    plans = job.request.get("plans", {})
    key = str(connection.id)
    if key not in plans:
        about = service.about()
        if about.source != connection.source:
            message = f"The service at {connection.address} holds {about.source}, not {connection.source}."
            raise Invalid(message, "Check the connection.", "address")
        stretches = missing_stretches(job, about)
        plans[key] = [{"key": f"{key}:{number}", **one} for number, one in enumerate(stretches)]
        job.request["plans"] = plans
        Job.objects.filter(id=job.id).update(request=job.request)
    return list(plans[key])


def missing_stretches(job: Job, about: About) -> list[dict[str, Any]]:
    """Stretches of days to fetch, by grain: missing days, and the last days, which may have changed."""
    if about.first_day is None or about.last_day is None:
        return [{"grain": "", "from": None, "to": None}]
    names = [name for name in about.grains if name in GRAIN_NAMES] if about.source == "search" else [""]
    stretches = []
    for name in names:
        current = read_days(job.site, GRAIN_NAMES[name] if name else VISITS)
        final = set(current[:-NOT_FINAL_DAYS])
        every = [about.first_day + timedelta(days=n) for n in range((about.last_day - about.first_day).days + 1)]
        for first, last in _stretches([day for day in every if day not in final]):
            stretches.append({"grain": name, "from": str(first), "to": str(last)})
    return stretches


def _stretches(days: Sequence[date]) -> list[tuple[date, date]]:
    """Consecutive days as stretches of at most STRETCH_DAYS."""
    found: list[tuple[date, date]] = []
    for day in days:
        if found and day == found[-1][1] + timedelta(days=1) and (day - found[-1][0]).days < STRETCH_DAYS:
            found[-1] = (found[-1][0], day)
        else:
            found.append((day, day))
    return found


def _fetch(job: Job, service: Service, stretch: dict[str, Any], progress: Callable[[str], None]) -> None:
    """All pages of a stretch, each stored as it arrives."""
    last = JobPart.objects.filter(job=job, state__key=stretch["key"]).order_by("-number").defer("payload").first()
    if last is not None and last.state["next"] is None:
        return
    wanted = {name: stretch[name] for name in ("grain", "from", "to") if stretch[name]}
    address = last.state["next"] if last is not None else service.first_page(**wanted)
    rows = sum(JobPart.objects.filter(job=job, state__key=stretch["key"]).values_list("state__rows", flat=True))
    number = JobPart.objects.filter(job=job).count()
    for page in service.pages(address):
        rows += page.rows
        state = {"key": stretch["key"], "next": page.next, "rows": page.rows}
        JobPart.objects.create(job=job, number=number, state=state, payload=gzip.compress(page.ndjson, 1))
        number += 1
        days = f", {stretch['from']} to {stretch['to']}" if stretch["from"] else ""
        progress(f"Fetching {service.connection.source}{days}, {rows:,} rows")


def _load(
    job: Job, connection: Connection, plan: Sequence[dict[str, Any]], grain: str, progress: Progress
) -> dict[str, Any] | None:
    """Load the fetched data of a grain as one file."""
    source: Source = connection.source
    keys = [one["key"] for one in plan if one["grain"] == grain]
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "rows.ndjson"
        with path.open("wb") as file:
            for part in JobPart.objects.filter(job=job, state__key__in=keys).order_by("number").iterator(chunk_size=20):
                file.write(gzip.decompress(part.payload))
        if not path.stat().st_size:
            return None
        name = f"{connection.address} ({GRAINS[GRAIN_NAMES[grain].name].name})" if grain else connection.address
        # Whoever connected the service declared its pages to be the site's, whatever their hosts.
        table = TableRequest(source=source, choices=Choices(any_host=True, repeats="once"))
        wanted = LoadOptions({0: table}, usual_mode([source]), user=job.user, job=job)
        report = load_file(job.site, path, name, lambda step, share: progress(step, 0.7 + 0.3 * share), wanted).report
    return {
        "loaded": report.loaded,
        "new": report.rows_new,
        "replaced": report.rows_replaced,
        "days": report.days,
        "loads": report.loads,
    }
