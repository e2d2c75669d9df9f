"""Shared by all commands: a database to work on, and errors as one line that says what is wrong and what to do."""

import json
import time
from argparse import Action
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from zugzwang.data.database_copy import check_known
from zugzwang.data.models import Job
from zugzwang.errors import FileRefused, ProductError
from zugzwang.intake import jobs

PROBLEMS_LISTED = 20


class Extend(Action):
    """A repeatable option: the first value replaces the default, further values are added."""

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **{"nargs": "+", **options})

    def __call__(self, parser: Any, namespace: Any, values: Any, option_string: str | None = None) -> None:
        current = getattr(namespace, self.dest, None)
        before = [] if current is None or current is self.default else current
        setattr(namespace, self.dest, [*before, *values])


def check_database() -> None:
    """Raises CommandError where the database is missing or of another version than the program. It is never created here: on
    an unmounted disk, an empty database would hide the real one.
    """
    name = str(connection.settings_dict["NAME"])
    is_new = connection.vendor == "sqlite" and "memory" not in name and not Path(name).is_file()
    if is_new or not connection.introspection.table_names():
        where = f"{Path(name).parent} has no database" if connection.vendor == "sqlite" else "The database has no tables"
        raise CommandError(
            f"{where}. For a new installation run `make setup` or `manage.py migrate`; or check that its disk is mounted."
        )
    executor = MigrationExecutor(connection)
    if executor.migration_plan(executor.loader.graph.leaf_nodes()):
        raise CommandError("The database is older than the program: run `manage.py migrate` first.")
    try:
        check_known(
            max((name for app, name in executor.loader.applied_migrations if app == "store"), default=""), "The database"
        )
    except ProductError as error:
        raise CommandError(f"{error.message} {error.remedy}") from error


class ProductCommand(BaseCommand):
    """A command on the database of `ZUGZWANG_DATA_DIR`."""

    # Django's checks of the whole application take as long as most commands.
    requires_system_checks: list[str] = []

    def execute(self, *args: Any, **options: Any) -> str | None:
        check_database()
        try:
            return super().execute(*args, **options)
        except FileRefused as error:
            raise CommandError("\n".join([error.message, *_listed(error)])) from error
        except ProductError as error:
            raise CommandError(f"{error.message} {error.remedy}") from error

    def show_progress(self, step: str, share: float) -> None:
        if self.stderr.isatty():
            self.stderr.write(f"\r{share:4.0%} {step:<70.70}", ending="")


def finish(command: BaseCommand, job: Job, form: str) -> None:
    """Run a job here and now, unless a worker has taken it, and print its result."""
    jobs.run_job.func(job.id)
    while True:
        job.refresh_from_db()
        if job.state not in (Job.State.WAITING, Job.State.RUNNING):
            break
        time.sleep(0.2)
    if job.state != Job.State.DONE:
        raise CommandError(f"{job.outcome.get('message', job.state)} {job.outcome.get('remedy', '')}".strip())
    if form == "json":
        command.stdout.write(json.dumps(job.outcome, ensure_ascii=False))
        return
    for line in job.log:
        command.stdout.write(line["line"])
    if job.kind == Job.Kind.ABOVE:
        result = job.outcome
        command.stdout.write(
            f"{result['pages']:,} pages fetched, {result['failed']:,} not; {result['fresh']:,} are up to date."
        )
    if job.kind == Job.Kind.CRAWL:
        command.stdout.write(
            f"{job.outcome['pages']:,} pages and {job.outcome['links']:,} links; by status: {job.outcome['statuses']}."
        )


def _listed(error: FileRefused) -> list[str]:
    lines = [f"  {problem}" for problem in error.refusals.first[:PROBLEMS_LISTED]]
    if error.refusals.rows > len(lines):
        kinds = "; ".join(f"{message}: {count:,}" for message, count in error.refusals.counts.items())
        lines.append(f"  … of {error.refusals.rows:,} in all ({kinds})")
    return lines
