"""Monitoring: liveness, readiness, Prometheus metrics, request ids and slow requests."""

import logging
import os
import re
import shutil
import time
import uuid
from collections.abc import Callable, Iterator

from django.conf import settings
from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor
from django.db.models import Count, Min, Sum
from django.db.models.functions import Length
from django.http import HttpRequest, HttpResponse, HttpResponseNotFound, JsonResponse
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_safe
from prometheus_client import CONTENT_TYPE_LATEST, REGISTRY, Counter, Histogram, generate_latest
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.registry import Collector

from zugzwang.bounded import ANSWER_SECONDS, answer_by, person
from zugzwang.data import backup
from zugzwang.data.block_store import potential, store
from zugzwang.data.heartbeats import silent
from zugzwang.data.models import Block, Heartbeat, Job, ReportSending, Site
from zugzwang.logs import request_id

log = logging.getLogger("zugzwang.requests")
METHODS = ("GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS")
_ID = re.compile(r"[\w.-]{8,64}")
_asked = Counter("zugzwang_requests_total", "Requests by method and status", ["method", "status"])
_took = Histogram(
    "zugzwang_request_seconds", "Seconds a request took", ["route"], buckets=(0.05, 0.1, 0.3, 1.0, 3.0, 10.0, 30.0)
)


def watched(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: give each request an id that is returned, logged and passed to its jobs; log slow requests.

    Probes are answered here for any host and scheme, because monitors ask the server directly, without the proxy that other
    requests come through.
    """

    def middleware(request: HttpRequest) -> HttpResponse:
        # Keep an id set by the proxy in front; anyone else's could inject text into the log.
        payload = request.headers.get("X-Request-ID", "") if settings.TRUSTED_PROXY else ""
        own = payload if _ID.fullmatch(payload) else uuid.uuid4().hex
        token = request_id.set(own)
        person.set(f"address {request.META.get('REMOTE_ADDR')}")  # until the actor is known; threads are reused
        until = answer_by.set(time.monotonic() + ANSWER_SECONDS)
        begun = time.perf_counter()
        try:
            probe = PROBES.get(request.path)
            response = probe(request) if probe else get_response(request)
            seconds = time.perf_counter() - begun
            route = request.path if probe else request.resolver_match.route if request.resolver_match else "none"
            # Clients can send any method name: only those of HTTP get a label, because labels are kept forever.
            method = request.method if request.method in METHODS else "other"
            _asked.labels(method, str(response.status_code)).inc()
            _took.labels(route).observe(seconds)
            if seconds > settings.SLOW_SECONDS:
                who = request.user.get_username() if hasattr(request, "user") else ""
                # Addresses that contain a secret are not logged.
                secret = request.resolver_match is not None and "token" in request.resolver_match.kwargs
                path = route if secret else request.get_full_path()[:2_000]
                result = {"path": path, "who": who, "seconds": round(seconds, 3)}
                log.warning("Slow: %s %s took %.1f s", request.method, route, seconds, extra=result)
            response["X-Request-ID"] = own
            return response
        except BaseException as error:
            if isinstance(error, Exception | SystemExit | KeyboardInterrupt | GeneratorExit):
                raise
            # A panic of a native library is not an Exception: without this, the request would get no response.
            raise RuntimeError(f"a native library failed: {error}") from error
        finally:
            request_id.reset(token)
            answer_by.reset(until)

    return middleware


@require_safe
@never_cache
def alive(request: HttpRequest) -> HttpResponse:
    """The process responds; nothing else is checked."""
    return HttpResponse("alive\n", content_type="text/plain")


@require_safe
@never_cache
def ready(request: HttpRequest) -> HttpResponse:
    """Whether it can work: the database responds and matches the program's version, the data folder is writable, and block
    storage can be reached.
    """
    wrong = list(_wrong())
    # Without clock or worker, requests still work, but nothing is refreshed, sent or loaded: it is reported here and in the
    # log, and the server stays in service.
    quiet = [] if wrong else silent(timezone.now())
    for words in quiet:
        log.warning("Background work is behind: %s", words)
    return JsonResponse({"ready": not wrong, "wrong": wrong, "silent": quiet}, status=503 if wrong else 200)


def _wrong() -> Iterator[str]:
    try:
        executor = MigrationExecutor(connection)
        if executor.migration_plan(executor.loader.graph.leaf_nodes()):
            yield "the database is older than the program"
        if connection.vendor == "postgresql":
            with connection.cursor() as cursor:
                cursor.execute("SHOW transaction_read_only")
                if cursor.fetchone()[0] == "on":
                    yield "the database cannot be written to"
    except DatabaseError:
        yield "the database does not answer"
    if not os.access(settings.DATA_DIR, os.W_OK):
        yield "the data folder cannot be written to"
    elif shutil.disk_usage(settings.DATA_DIR).free < settings.DISK_LEAST_BYTES:
        yield "the disk is almost full"
    if not potential():
        yield "the store of blocks cannot be reached"


@require_safe
@never_cache
def metrics(request: HttpRequest) -> HttpResponse:
    """Metrics for Prometheus; 404 unless ZUGZWANG_METRICS is set."""
    if not settings.METRICS:
        return HttpResponseNotFound("Nothing here.", content_type="text/plain")
    return HttpResponse(generate_latest(REGISTRY), content_type=CONTENT_TYPE_LATEST)


PROBES: dict[str, Callable[[HttpRequest], HttpResponse]] = {"/healthz": alive, "/readyz": ready, "/metrics": metrics}


class Kept(Collector):
    """Sizes of the database and the disk, counted on request."""

    def describe(self) -> list[GaugeMetricFamily]:
        return []

    def collect(self) -> Iterator[GaugeMetricFamily]:
        free = shutil.disk_usage(settings.DATA_DIR).free
        yield _gauge("zugzwang_disk_free_bytes", "Bytes free on the data folder's disk", free)
        stored = backup.backups(backup.folder_of()) if settings.BACKUP_DIR else []
        newest = backup.made_at(stored[-1]) if stored else None
        if newest is not None:
            since = (timezone.now() - newest).total_seconds()
            yield _gauge("zugzwang_backup_age_seconds", "Seconds since the last backup", since)
        try:
            of_database = list(_of_database())
        except DatabaseError:
            of_database = []  # the other figures matter most while the database is down
        yield _gauge("zugzwang_database_up", "1 where the database answers", float(bool(of_database)))
        yield from of_database


def _of_database() -> Iterator[GaugeMetricFamily]:
    jobs = GaugeMetricFamily("zugzwang_jobs", "Jobs by kind and state", labels=["kind", "state"])
    for one in Job.objects.values("kind", "state").annotate(number=Count("id")).order_by():
        jobs.add_metric([one["kind"], one["state"]], one["number"])
    yield jobs
    waiting = Job.objects.filter(state=Job.State.WAITING).aggregate(first=Min("made_at"))["first"]
    age = (timezone.now() - waiting).total_seconds() if waiting else 0.0
    yield _gauge("zugzwang_job_waits_seconds", "Seconds the oldest job in line has waited", age)
    yield _gauge("zugzwang_sites", "Sites", Site.objects.filter(deleted_at=None).count())
    if store() is None:  # otherwise the database holds only the names of blocks
        size = Block.objects.aggregate(bytes=Sum(Length("payload")))["bytes"] or 0
        yield _gauge("zugzwang_block_bytes", "Bytes of facts in the database", size)
    for heard in Heartbeat.objects.all():
        since = (timezone.now() - heard.at).total_seconds()
        yield _gauge(f"zugzwang_{heard.name}_silent_seconds", f"Seconds since the {heard.name} was last heard of", since)
    failed = ReportSending.objects.filter(state=ReportSending.State.FAILED).count()
    yield _gauge("zugzwang_mails_failed", "Report mails that failed permanently", failed)


def _gauge(name: str, words: str, value: float) -> GaugeMetricFamily:
    return GaugeMetricFamily(name, words, value=value)


REGISTRY.register(Kept())
