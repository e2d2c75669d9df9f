"""`manage.py dataset OUT`: all facts as Parquet files for other tools."""

from argparse import ArgumentParser
from collections import Counter
from pathlib import Path
from typing import Any

from django.core.management.base import CommandError

from zugzwang.access import OPERATOR
from zugzwang.cli.base import Extend, ProductCommand
from zugzwang.data.dataset import write_dataset
from zugzwang.errors import ProductError


class Command(ProductCommand):
    help = "Write the facts of all sites, or of some, as a Parquet data set partitioned by site, table and month."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("out", type=Path)
        parser.add_argument("--site", action=Extend, metavar="SLUG", help="default: all")

    def handle(self, *args: Any, **options: Any) -> None:
        sites = [OPERATOR.site(slug) for slug in options["site"]] if options["site"] else list(OPERATOR.sites())
        failed = 0
        for site in sites:
            rows: Counter[str] = Counter()
            try:
                for name, number in write_dataset(site, options["out"]):
                    rows[name] += number
            except ProductError as error:  # an error of one site does not stop the others
                failed += 1
                self.stderr.write(f"{site.slug}: {error.message} {error.remedy}")
                continue
            self.stdout.write(f"{site.slug}: {', '.join(f'{name} {number:,}' for name, number in rows.items()) or 'no facts'}")
        if failed:
            raise CommandError(f"{failed} of {len(sites)} sites could not be written completely: see above.")
