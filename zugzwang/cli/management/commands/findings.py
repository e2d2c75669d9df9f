"""`manage.py findings FINDING --site SLUG`: a finding's rows as JSON, CSV or XLSX."""

from argparse import ArgumentParser
from dataclasses import fields
from datetime import date
from pathlib import Path
from typing import Any, Literal, get_args, get_origin, get_type_hints

from django.core.management.base import CommandError
from django.utils import timezone

from zugzwang.access import OPERATOR
from zugzwang.cli.base import Extend, ProductCommand
from zugzwang.data.snapshot import Snapshot
from zugzwang.exporting import as_table, csv_lines, json_of, xlsx_file
from zugzwang.findings.registry import FINDINGS, finding_named
from zugzwang.findings.table import ask, made_by, whole_file
from zugzwang.findings.view import ViewOptions

# Days have the usual option names; every other option is named after its field.
_DAYS = {"first": "--from", "last": "--to"}


def option(name: str) -> str:
    return _DAYS.get(name, f"--{name.replace('_', '-')}")


class Command(ProductCommand):
    help = "All rows of a list, with the filters that made them, as JSON, CSV or XLSX."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("finding", choices=FINDINGS, metavar="FINDING", help=", ".join(FINDINGS))
        parser.add_argument("--site", required=True, metavar="SLUG")
        hints = get_type_hints(ViewOptions)
        for one in fields(ViewOptions):
            parser.add_argument(
                option(one.name), dest=one.name, default=one.default, help=one.metadata["words"], **_kind(hints[one.name])
            )
        parser.add_argument("--format", choices=["json", "csv", "xlsx"], default="json")
        parser.add_argument("--output", type=Path, metavar="FILE", help="where to write; needed for xlsx")

    def handle(self, *args: Any, **options: Any) -> None:
        values: dict[str, Any] = {one.name: options[one.name] for one in fields(ViewOptions)}
        values = {name: tuple(value) if isinstance(value, list) else value for name, value in values.items()}
        output: Path | None = options["output"]
        if options["format"] == "xlsx" and output is None:
            raise CommandError("A workbook cannot be written to the terminal: use --output FILE.")
        snapshot = Snapshot(OPERATOR.site(options["site"]))
        found = whole_file(ask(snapshot, finding_named(options["finding"]), ViewOptions(**values), timezone.localdate()))
        if options["format"] == "xlsx" and output is not None:
            output.write_bytes(xlsx_file(as_table(found["rows"]), made_by(found)))
            return
        text = "".join(csv_lines(as_table(found["rows"]))) if options["format"] == "csv" else json_of(found)
        if output is not None:
            output.write_text(text, encoding="utf-8")
        else:
            self.stdout.write(text, ending="")


def _kind(hint: Any) -> dict[str, Any]:
    """The argparse type for a view field."""
    parts = [hint, *get_args(hint)]
    several = next((part for part in parts if get_origin(part) is tuple), None)
    if several is not None:
        return {"action": Extend, **_kind(get_args(several)[0])}
    words = [word for part in parts if get_origin(part) is Literal for word in get_args(part) if word]
    if words:
        return {"choices": words}
    for kind in (date, int, float):
        if kind in parts:
            return {"type": date.fromisoformat if kind is date else kind, "metavar": "DAY" if kind is date else "N"}
    return {"metavar": "TEXT"}
