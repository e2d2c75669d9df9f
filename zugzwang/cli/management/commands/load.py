"""`manage.py load FILE --site SLUG`: load a file of search facts."""

import gzip
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import CommandError

from zugzwang.access import OPERATOR
from zugzwang.cli.base import ProductCommand
from zugzwang.intake.columns import by_names, propose
from zugzwang.intake.delimited import open_table
from zugzwang.intake.loading import LoadReport, load_search_facts


class Command(ProductCommand):
    help = "Load search facts (day, page, query, clicks, impressions, position) from a CSV or TSV file."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("--site", required=True, metavar="SLUG")
        parser.add_argument("--map", nargs="+", default=[], metavar="FIELD=COLUMN", help='such as "query=Search term"')
        parser.add_argument(
            "--days",
            choices=["replace", "add"],
            default="replace",
            help="replace: the file holds all of its days (default); add: it is a slice, keep other rows of its days",
        )
        parser.add_argument(
            "--keep-good-rows", action="store_true", help="load the good rows and write the refused ones beside the file"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        path: Path = options["file"]
        if not path.is_file():
            raise CommandError(f"There is no file {path}.")
        site = OPERATOR.site_to_change(options["site"])
        table = open_table(path, path.name)
        mapping = {**propose(table.header), **by_names(options["map"], table.header)}
        loaded = load_search_facts(site, path, path.name, self._progress, mapping, options["days"], options["keep_good_rows"])
        self._tell(loaded.report)
        if loaded.refused_csv is not None:
            beside = path.with_name(f"{path.name}.refused.csv")
            beside.write_bytes(gzip.decompress(loaded.refused_csv))
            self.stdout.write(f"The {loaded.report.refused:,} refused rows stand in {beside}, with what is wrong with each.")

    def _progress(self, step: str, share: float) -> None:
        if self.stderr.isatty():
            self.stderr.write(f"\r{share:4.0%} {step:<50}", ending="")

    def _tell(self, report: LoadReport) -> None:
        if not report.changed:
            self.stdout.write(f"{report.file}: nothing changed, all of its {report.loaded:,} rows stood here already.")
        else:
            self.stdout.write(
                f"{report.file}: {report.loaded:,} of {report.rows:,} rows loaded, {report.days} days from {report.first_day} "
                f"to {report.last_day}, {report.pages:,} pages, {report.queries:,} queries."
            )
        for notice in report.notices:
            self.stdout.write(notice)
