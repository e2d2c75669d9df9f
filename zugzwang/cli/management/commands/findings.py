"""`manage.py findings LENS --site SLUG`: all that a lens or a diagnosis finds, as JSON, CSV or XLSX."""

import json
from argparse import ArgumentParser
from datetime import date
from pathlib import Path
from typing import Any, get_args

from django.core.management.base import CommandError
from django.utils import timezone

from zugzwang.access import OPERATOR
from zugzwang.cli.base import ProductCommand
from zugzwang.core.evidence import GRADES
from zugzwang.core.headroom import TARGETS
from zugzwang.desk.breaking import LEVELS, MEASURES
from zugzwang.desk.changes import BYS
from zugzwang.desk.findings import FINDINGS, Details, as_table, find, made_by
from zugzwang.desk.scope import Branded, Scope
from zugzwang.exporting import csv_lines, xlsx_file


class Command(ProductCommand):
    help = "All that a lens or a diagnosis finds in a site, with what made it, as JSON, CSV or XLSX."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("lens", choices=FINDINGS)
        parser.add_argument("--site", required=True, metavar="SLUG")
        parser.add_argument("--from", dest="first", type=date.fromisoformat, metavar="DAY", help="such as 2026-08-17")
        parser.add_argument("--to", dest="last", type=date.fromisoformat, metavar="DAY")
        parser.add_argument(
            "--compare", choices=["year", "previous", "none"], help="default: none for rows of queries, else year"
        )
        parser.add_argument("--min-impressions", type=int, metavar="N", help="default: as kept for the site")
        parser.add_argument("--brand", nargs="+", metavar="PATTERN", help="in place of the patterns kept for the site")
        parser.add_argument("--branded", choices=get_args(Branded), help="queries of the brand; default: as fits the lens")
        parser.add_argument("--target", choices=TARGETS, default="next-band", help="the place to reach for in headroom")
        parser.add_argument("--device", nargs="+", default=[], metavar="NAME", help="desktop, mobile, tablet, other")
        parser.add_argument("--country", nargs="+", default=[], metavar="CODE", help="names, or codes of two or three letters")
        parser.add_argument("--section", default="", metavar="PATH", help="such as /guides/")
        parser.add_argument("--page-type", nargs="+", default=[], metavar="TYPE")
        parser.add_argument("--query-group", nargs="+", default=[], metavar="GROUP")
        parser.add_argument("--text", default="", help="that the page or the query contains")
        parser.add_argument("--position-from", type=float, metavar="P")
        parser.add_argument("--position-to", type=float, metavar="P")
        parser.add_argument("--evidence", nargs="+", choices=GRADES, default=list(GRADES))
        parser.add_argument("--decided", choices=["any", "open", "settled"], default="any")
        parser.add_argument("--by", choices=BYS, default="page", help="of change: what it is added up by")
        parser.add_argument("--level", choices=LEVELS, default="page", help="of breaks")
        parser.add_argument("--measure", nargs="+", choices=MEASURES, default=["clicks"], help="of breaks")
        parser.add_argument("--format", choices=["json", "csv", "xlsx"], default="json")
        parser.add_argument("--output", type=Path, metavar="FILE", help="where to write; needed for xlsx")

    def handle(self, *args: Any, **options: Any) -> None:
        names = set(Scope.__dataclass_fields__)
        given: dict[str, Any] = {
            name: tuple(value) if isinstance(value, list) else value for name, value in options.items() if name in names
        }
        details = Details(options["by"], options["level"], tuple(options["measure"]))
        output: Path | None = options["output"]
        if options["format"] == "xlsx" and output is None:
            raise CommandError("A workbook is no text: say where to write it with --output FILE.")
        found = find(OPERATOR.site(options["site"]), options["lens"], Scope(**given), timezone.localdate(), details)
        if options["format"] == "xlsx" and output is not None:
            output.write_bytes(xlsx_file(as_table(found), made_by(found)))
            return
        if options["format"] == "csv":
            text = "".join(csv_lines(as_table(found)))
        else:
            text = json.dumps(found, ensure_ascii=False, allow_nan=False, default=str)
        if output is not None:
            output.write_text(text, encoding="utf-8")
        else:
            self.stdout.write(text, ending="")
