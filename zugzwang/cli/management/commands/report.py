"""`manage.py report --site SLUG --period P --output report.pdf`: what a client or a boss reads, as PDF or as a page."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.utils.timezone import localdate

from zugzwang.access import OPERATOR
from zugzwang.cli.base import ProductCommand
from zugzwang.core.reports.blocks import LANGUAGES
from zugzwang.core.reports.reading import as_page
from zugzwang.core.reports.typeset import as_pdf
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid
from zugzwang.subjects.report import PARTS, Planned, period_named, tell_report


class Command(ProductCommand):
    help = "A report: where the site stands, why, what was found, done, tried, and what is next."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--site", required=True, metavar="SLUG")
        parser.add_argument("--period", default="last-month", metavar="P", help="2026-10, 2026-10-01..2026-10-31 or last-month")
        parser.add_argument("--parts", default=",".join(PARTS), help=f"in order: {', '.join(PARTS)}")
        parser.add_argument("--words", type=Path, metavar="FILE", help="own words (Markdown) on top of the first part")
        parser.add_argument("--title", default="")
        parser.add_argument("--name", default="", help="who makes it")
        parser.add_argument("--contact", default="")
        parser.add_argument("--language", default="en_GB", choices=LANGUAGES, help="of numbers and days")
        parser.add_argument("--output", type=Path, required=True, metavar="FILE", help="report.pdf, or report.html")

    def handle(self, *args: Any, **options: Any) -> None:
        snapshot = Snapshot(OPERATOR.site(options["site"]))
        days = snapshot.days()
        if not days:
            raise Invalid("The site has no facts by day yet.", "Load some first.", "site")
        parts = tuple(part.strip() for part in options["parts"].split(",") if part.strip())
        words = {parts[0]: options["words"].read_text()} if options["words"] and parts else {}
        period = period_named(options["period"], days[-1])
        planned = Planned(
            period.first, period.last, parts, words, options["title"], options["name"], options["contact"], options["language"]
        )
        document = tell_report(snapshot, planned, localdate())
        output: Path = options["output"]
        if output.suffix == ".html":
            output.write_text(as_page(document))
        elif output.suffix == ".pdf":
            output.write_bytes(as_pdf(document))
        else:
            raise Invalid(f"“{output.name}” is neither a PDF nor a page.", "Name it report.pdf or report.html.", "output")
        self.stdout.write(f"{output}: {len(document.parts)} parts, {period.first} to {period.last}.")
