"""`manage.py findings LENS --site SLUG`: the rows of a lens as JSON or CSV."""

import json
from argparse import ArgumentParser
from datetime import date
from typing import Any

from zugzwang.access import OPERATOR
from zugzwang.cli.base import ProductCommand
from zugzwang.core.evidence import GRADES
from zugzwang.core.lenses import LENSES
from zugzwang.desk.queries import Question, ask, finding_rows, findings
from zugzwang.exporting import csv_lines


class Command(ProductCommand):
    help = "The rows of a lens, all of them, most at stake first, as JSON or CSV."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("lens", choices=LENSES)
        parser.add_argument("--site", required=True, metavar="SLUG")
        parser.add_argument("--from", dest="first", type=date.fromisoformat, metavar="DAY", help="such as 2026-08-17")
        parser.add_argument("--to", dest="last", type=date.fromisoformat, metavar="DAY")
        parser.add_argument("--compare", choices=["year", "previous", "none"], default="none")
        parser.add_argument("--min-impressions", type=int, metavar="N", help="default: as kept for the site")
        parser.add_argument("--brand", nargs="+", metavar="PATTERN", help="in place of the patterns kept for the site")
        parser.add_argument("--evidence", nargs="+", choices=GRADES, default=list(GRADES))
        parser.add_argument("--format", choices=["json", "csv"], default="json")

    def handle(self, *args: Any, **options: Any) -> None:
        question = Question(
            lens=options["lens"],
            first=options["first"],
            last=options["last"],
            compare=options["compare"],
            min_impressions=options["min_impressions"],
            brand=tuple(options["brand"]) if options["brand"] is not None else None,
            evidence=tuple(options["evidence"]),
        )
        answer = ask(OPERATOR.site(options["site"]), question)
        if options["format"] == "csv":
            for piece in csv_lines(finding_rows(answer)):
                self.stdout.write(piece, ending="")
        else:
            self.stdout.write(json.dumps(findings(answer), ensure_ascii=False, allow_nan=False))
