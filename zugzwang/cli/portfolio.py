"""The findings of many sites in parallel, one process a site: on this machine or on a Dask cluster.

OUT/site=SLUG/FINDING.parquet holds a finding's rows in the default view, OUT/site=SLUG/done.json the outcome. A site whose
done.json matches the current data, decisions and day is skipped, so an interrupted run continues where it stopped. A
failure is reported in its site's file and does not stop the others.
"""

import json
import os
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor, as_completed
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import Any, Literal, cast

import django
from django.apps import apps
from django.conf import settings

from zugzwang import bounded
from zugzwang.errors import Invalid, ProductError

Engine = Literal["local", "dask"]
SITE_SECONDS = 3_600.0
DONE = "done.json"


def compute(slug: str, findings: Sequence[str], out: str, today: str) -> dict[str, Any]:
    """Compute a site's findings unless they are current. Returns its slug, the outcome, rows by finding, and errors. An error
    of one site is returned, never raised.
    """
    if not apps.ready:
        os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zugzwang.settings")
        django.setup()  # in a process of the cluster
    from zugzwang.access import OPERATOR
    from zugzwang.data.blocks import Damaged
    from zugzwang.data.snapshot import Snapshot
    from zugzwang.exporting import as_table
    from zugzwang.findings.registry import finding_named
    from zugzwang.findings.table import ask, whole_file
    from zugzwang.subjects.warming import AS_OPENED

    site = OPERATOR.site(slug)
    folder = Path(out) / f"site={slug}"
    key = {"facts": site.data_version, "plan": site.plan_version, "day": today, "findings": sorted(findings)}
    if (known := _read(folder / DONE)) and known["key"] == key and not known["problems"]:
        return {**known, "stood": True}
    folder.mkdir(parents=True, exist_ok=True)
    rows: dict[str, int] = {}
    result: dict[str, Any] = {"slug": slug, "key": key, "rows": rows, "lacking": {}, "problems": {}, "stood": False}
    snapshot = Snapshot(site)
    for name in findings:
        finding = finding_named(name)
        try:
            found = whole_file(ask(snapshot, finding, next(iter(finding.opens), AS_OPENED), date.fromisoformat(today)))
        except Exception as error:
            # Without the data it needs, a finding is empty, which is not an error.
            well = isinstance(error, ProductError) and not isinstance(error, Damaged)
            result["lacking" if well else "problems"][name] = _words(error)
            continue
        as_table(found["rows"]).write_parquet(folder / f".{name}.parquet")
        os.replace(folder / f".{name}.parquet", folder / f"{name}.parquet")
        rows[name] = found["rows"].height
    _write(folder / DONE, result)
    return result


def run(
    slugs: Sequence[str], findings: Sequence[str], out: Path, today: date, engine: Engine, workers: int, scheduler: str = ""
) -> Iterator[dict[str, Any]]:
    """The outcome of each site as it finishes; pass large sites first. Raises Invalid where the engine is not available."""
    values = (list(findings), str(out.resolve()), today.isoformat())
    return _on_dask(slugs, values, workers, scheduler) if engine == "dask" else _here(slugs, values, workers)


def _here(slugs: Sequence[str], values: tuple[Any, ...], workers: int) -> Iterator[dict[str, Any]]:
    def one(slug: str) -> dict[str, Any]:
        try:
            kind = replace(bounded.JOB, memory_bytes=settings.JOB_MEMORY_BYTES, seconds=SITE_SECONDS)
            return bounded.run(kind, compute, slug, *values)
        except Exception as error:  # its process died, for example: that affects only this site
            return _failed(slug, error)

    with ThreadPoolExecutor(workers) as pool:
        for future in as_completed(pool.submit(one, slug) for slug in slugs):
            yield future.result()


def _on_dask(slugs: Sequence[str], values: tuple[Any, ...], workers: int, scheduler: str) -> Iterator[dict[str, Any]]:
    try:
        import distributed
    except ImportError:
        raise Invalid("Dask is not installed.", "Install requirements/cluster.txt, on every machine of the cluster.") from None
    cluster: dict[str, Any] = {"n_workers": workers, "threads_per_worker": 1, "dashboard_address": None}
    with distributed.Client(scheduler) if scheduler else distributed.Client(**cluster) as client:  # type: ignore[no-untyped-call]
        futures = {client.submit(compute, slug, *values, pure=False, retries=1): slug for slug in slugs}
        for future in distributed.as_completed(futures):  # type: ignore[no-untyped-call]
            error = future.exception()
            yield _failed(futures[future], error) if error else cast(dict[str, Any], future.result())


def _failed(slug: str, error: BaseException) -> dict[str, Any]:
    return {"slug": slug, "rows": {}, "lacking": {}, "problems": {"": _words(error)}, "stood": False}


def _words(error: BaseException) -> str:
    return error.message if isinstance(error, ProductError) else f"{type(error).__name__}: {error}"


def _read(path: Path) -> dict[str, Any] | None:
    try:
        return cast(dict[str, Any], json.loads(path.read_text()))
    except (OSError, ValueError):
        return None


def _write(path: Path, result: dict[str, Any]) -> None:
    making = path.with_name(f".{path.name}")
    making.write_text(json.dumps(result, ensure_ascii=False, indent=1))
    os.replace(making, path)
