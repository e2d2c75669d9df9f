"""`manage.py export_site SLUG FILE`: a whole site as one archive."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from zugzwang.access import OPERATOR
from zugzwang.cli.base import ProductCommand
from zugzwang.plan.site_archive import write_archive


class Command(ProductCommand):
    help = "Write all data of a site to one archive of open formats, for import_site."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("site", metavar="SLUG")
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        write_archive(OPERATOR, options["site"], options["file"])
        self.stdout.write(f"{options['file']}: {options['file'].stat().st_size / 1e6:,.1f} MB.")
