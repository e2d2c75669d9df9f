"""`manage.py report --site SLUG --period P --output report.pdf`: a report as PDF or HTML."""

from argparse import ArgumentParser
from dataclasses import replace
from pathlib import Path
from typing import Any

from django.utils.timezone import localdate

from zugzwang.access import OPERATOR
from zugzwang.cli.base import ProductCommand
from zugzwang.core.reports.blocks import LANGUAGES
from zugzwang.core.reports.reading import as_page
from zugzwang.core.reports.typeset import as_pdf
from zugzwang.data.models import ReportTemplate
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid
from zugzwang.plan.reports import Template, planned_of, template_named
from zugzwang.subjects.report import PARTS, PERIODS, tell_report


class Command(ProductCommand):
    help = "A report: how the site does, why, what was found, done and tested, and what is next."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--site", required=True, metavar="SLUG")
        parser.add_argument("--template", metavar="T", help="a template of the site; the options below override it")
        periods = f"2026-10, 2026-10-01..2026-10-31, {', '.join(PERIODS)}"
        parser.add_argument("--period", metavar="P", help=f"{periods}; default: the template's, else last-month")
        parser.add_argument("--parts", help=f"in order: {', '.join(PARTS)}")
        parser.add_argument("--words", type=Path, metavar="FILE", help="introduction (Markdown)")
        parser.add_argument("--title", default="")
        parser.add_argument("--name", default="", help="who makes it")
        parser.add_argument("--contact", default="")
        parser.add_argument("--language", choices=LANGUAGES, help="of numbers and days")
        parser.add_argument("--output", type=Path, required=True, metavar="FILE", help="report.pdf, or report.html")

    def handle(self, *args: Any, **options: Any) -> None:
        snapshot = Snapshot(OPERATOR.site(options["site"]))
        name = options["template"]
        template = template_named(snapshot.site, name) if name else ReportTemplate(**Template("").fields())
        planned = planned_of(template, snapshot, options["period"] or template.period, None)
        values: dict[str, Any] = {field: options[field] for field in ("title", "name", "contact", "language") if options[field]}
        if options["parts"]:
            values["parts"] = tuple(part.strip() for part in options["parts"].split(",") if part.strip())
        planned = replace(planned, **values)
        if options["words"] and planned.parts:
            planned = replace(planned, words={**planned.words, planned.parts[0]: options["words"].read_text()})
        document = tell_report(snapshot, planned, localdate())
        output: Path = options["output"]
        if output.suffix == ".html":
            output.write_text(as_page(document))
        elif output.suffix == ".pdf":
            output.write_bytes(as_pdf(document))
        else:
            raise Invalid(f"“{output.name}” is neither a PDF nor an HTML page.", "Name it report.pdf or report.html.", "output")
        self.stdout.write(f"{output}: {len(document.parts)} parts, {planned.first} to {planned.last}.")
