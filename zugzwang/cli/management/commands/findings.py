"""`manage.py findings LENS --site SLUG`: the rows of a lens, or a diagnosis of pages or queries, as JSON or CSV."""

import json
from argparse import ArgumentParser
from datetime import date
from typing import Any

import polars as pl

from zugzwang.access import OPERATOR
from zugzwang.cli.base import ProductCommand
from zugzwang.core.evidence import GRADES
from zugzwang.core.lenses import LENSES
from zugzwang.desk.diagnosis import DIAGNOSES, Asked, tell
from zugzwang.desk.queries import Question, ask, finding_rows, findings
from zugzwang.exporting import csv_lines


class Command(ProductCommand):
    help = "The rows of a lens (or why clicks changed, which weeks broke, which queries clash), all of them, as JSON or CSV."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("lens", choices=[*LENSES, *DIAGNOSES])
        parser.add_argument("--site", required=True, metavar="SLUG")
        parser.add_argument("--from", dest="first", type=date.fromisoformat, metavar="DAY", help="such as 2026-08-17")
        parser.add_argument("--to", dest="last", type=date.fromisoformat, metavar="DAY")
        parser.add_argument("--compare", choices=["year", "previous", "none"], help="default: none; for change: year")
        parser.add_argument("--min-impressions", type=int, metavar="N", help="default: as kept for the site")
        parser.add_argument("--brand", nargs="+", metavar="PATTERN", help="in place of the patterns kept for the site")
        parser.add_argument("--evidence", nargs="+", choices=GRADES, default=list(GRADES))
        parser.add_argument("--format", choices=["json", "csv"], default="json")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["lens"] in DIAGNOSES:
            self._diagnosis(options)
            return
        question = Question(
            lens=options["lens"],
            first=options["first"],
            last=options["last"],
            compare=options["compare"] or "none",
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

    def _diagnosis(self, options: dict[str, Any]) -> None:
        asked = Asked(
            diagnosis=options["lens"],
            first=options["first"],
            last=options["last"],
            compare=options["compare"] or "year",
            min_impressions=options["min_impressions"],
            brand=tuple(options["brand"]) if options["brand"] is not None else None,
        )
        site = OPERATOR.site(options["site"])
        told = tell(site, asked)
        if options["format"] == "csv":
            # Lists within a row become JSON: a CSV has no other place for them.
            flat = [
                {name: json.dumps(cell) if isinstance(cell, list) else cell for name, cell in row.items()} for row in told.rows
            ]
            for piece in csv_lines(pl.DataFrame(flat, infer_schema_length=None)):
                self.stdout.write(piece, ending="")
            return
        compared = {"from": str(told.before.first), "to": str(told.before.last)} if told.before else None
        shown = {
            "lens": asked.diagnosis,
            "site": site.slug,
            "period": {"from": str(told.period.first), "to": str(told.period.last)},
            "compared_with": compared,
            "filters": told.filters,
            "missing": told.missing,
            "rows": told.rows,
        }
        self.stdout.write(json.dumps(shown, ensure_ascii=False, allow_nan=False))
