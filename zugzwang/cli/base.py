"""What our commands share: a database to work on, and errors told as one line of what is wrong and what to do."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from zugzwang.errors import FileRefused, ProductError

PROBLEMS_TOLD = 20


class ProductCommand(BaseCommand):
    """A command on the database of `ZUGZWANG_DATA_DIR`, which is made when there is none yet."""

    def execute(self, *args: Any, **options: Any) -> str | None:
        if not connection.introspection.table_names():
            call_command("migrate", verbosity=0)
        executor = MigrationExecutor(connection)
        if executor.migration_plan(executor.loader.graph.leaf_nodes()):
            raise CommandError("The database is older than the program: run `manage.py migrate` first.")
        try:
            return super().execute(*args, **options)
        except FileRefused as error:
            raise CommandError("\n".join([error.message, *_listed(error)])) from error
        except ProductError as error:
            raise CommandError(f"{error.message} {error.remedy}") from error


def _listed(error: FileRefused) -> list[str]:
    lines = [f"  {problem}" for problem in error.refusals.first[:PROBLEMS_TOLD]]
    if error.refusals.rows > len(lines):
        kinds = "; ".join(f"{message}: {count:,}" for message, count in error.refusals.counts.items())
        lines.append(f"  … of {error.refusals.rows:,} in all ({kinds})")
    return lines
