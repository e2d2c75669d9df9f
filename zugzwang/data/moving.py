"""Move an installation from SQLite to PostgreSQL, every row unchanged."""

import os
import subprocess
import sys
from pathlib import Path

from django.apps import apps
from django.conf import settings
from django.core.management import call_command
from django.core.management.color import no_style
from django.db import connection, connections, models, transaction

from zugzwang.data.fields import without_nul
from zugzwang.errors import ProductError

SOURCE = "sqlite"
ROWS_AT_ONCE = 50  # some contain megabytes


class NotMovedError(ProductError):
    """The rows could not be moved; nothing was changed."""


def move_rows(source: Path) -> None:
    """Replace the contents of the configured PostgreSQL database with the rows of a SQLite one, all or none."""
    _bring_up_to_date(source)
    call_command("migrate", verbosity=0)
    connections.settings[SOURCE] = connections.configure_settings({"default": {**settings.SQLITE, "NAME": source}})["default"]
    tables = [model for model in apps.get_models(include_auto_created=True) if model._meta.managed and not model._meta.proxy]
    try:
        # References are checked at the end of the transaction, so tables can come in any order.
        with transaction.atomic():
            names = [model._meta.db_table for model in tables]
            _run(connection.ops.sql_flush(no_style(), names, reset_sequences=True))
            for model in tables:
                _copy(model)
            _run(connection.ops.sequence_reset_sql(no_style(), tables))
    finally:
        connections[SOURCE].close()
        del connections[SOURCE], connections.settings[SOURCE]


def _copy(model: type[models.Model]) -> None:
    fields = model._meta.concrete_fields
    names = ", ".join(connection.ops.quote_name(str(one.column)) for one in fields)
    into = f"COPY {connection.ops.quote_name(model._meta.db_table)} ({names}) FROM STDIN"
    rows = model._base_manager.using(SOURCE).order_by("pk").iterator(chunk_size=ROWS_AT_ONCE)
    # Field by field as Django writes them, except for times that it would set again.
    with connection.cursor() as cursor, cursor.copy(into) as copy:
        for row in rows:
            copy.write_row(
                [one.get_db_prep_save(without_nul(getattr(row, one.attname)), connection=connection) for one in fields]
            )


def _run(statements: list[str]) -> None:
    with connection.cursor() as cursor:
        for one in statements:
            cursor.execute(one)


def _bring_up_to_date(source: Path) -> None:
    """Migrate the old database in a separate process that uses it: migrations of an older database ask for the configured
    one."""
    env = {**os.environ, "ZUGZWANG_DATA_DIR": str(source.parent), "ZUGZWANG_DATABASE": ""}
    command = [sys.executable, str(settings.BASE_DIR / "manage.py"), "migrate", "--verbosity", "0"]
    done = subprocess.run(command, env=env, capture_output=True, text=True, check=False)  # noqa: S603 – our own
    if done.returncode:
        message = (done.stderr.strip().splitlines() or ["it ended"])[-1]
        raise NotMovedError(f"The backup’s database cannot be upgraded: {message}.", "Use the version that made it.")
