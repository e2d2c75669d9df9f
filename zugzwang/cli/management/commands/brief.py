"""`manage.py brief --site SLUG --page P | --query Q`: a content brief as Markdown, DOCX or JSON."""

import json
import sys
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.utils.timezone import localdate

from zugzwang.access import OPERATOR
from zugzwang.cli.base import ProductCommand
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid
from zugzwang.findings.view import ViewOptions, settle
from zugzwang.subjects.brief import document, markdown, subject_of, tell_brief


class Command(ProductCommand):
    help = "A brief for a writer: queries, related terms, outline, lengths, links."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--site", required=True, metavar="SLUG")
        parser.add_argument("--page", default="", metavar="P", help="a page of the site, by its address or path")
        parser.add_argument("--query", default="", metavar="Q", help="a query, in place of the page's main one")
        parser.add_argument("--format", choices=["md", "docx", "json"], default="md")
        parser.add_argument("--output", type=Path, metavar="FILE", help="default: written to standard output")

    def handle(self, *args: Any, **options: Any) -> None:
        asked = ViewOptions(page=options["page"])
        view = settle(Snapshot(OPERATOR.site(options["site"])), asked, localdate(), "none", "without")
        brief = tell_brief(view, *subject_of(view, options["page"], options["query"]))
        if options["format"] == "docx":
            result = document(brief)
        elif options["format"] == "json":
            result = json.dumps(brief, ensure_ascii=False, default=str).encode()
        else:
            result = markdown(brief).encode()
        if options["output"]:
            options["output"].write_bytes(result)
        elif options["format"] == "docx" and self.stdout.isatty():
            raise Invalid("A document cannot be written to the terminal.", "Name a file: --output brief.docx.", "output")
        else:
            sys.stdout.buffer.write(result)
