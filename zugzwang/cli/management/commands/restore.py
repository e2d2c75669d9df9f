"""`manage.py restore FILE`: restore a backup."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError
from django.db import connections

from zugzwang.data import backup
from zugzwang.errors import ProductError


class Command(BaseCommand):
    help = "Restore a backup into the data folder. Stop Zugzwang first. Existing data are moved aside."
    requires_system_checks: list[str] = []

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("--replace", action="store_true", help="move an existing database aside")

    def handle(self, *args: Any, **options: Any) -> None:
        connections.close_all()
        try:
            result, aside = backup.restore(options["file"], options["replace"])
        except ProductError as error:
            raise CommandError(f"{error.message} {error.remedy}") from error
        call_command("migrate", verbosity=0)
        self.stdout.write(f"Restored: {result.counts['store_site']} sites as of {result.made_at}.")
        if aside is not None:
            self.stdout.write(f"The former data are in {aside}.")
