"""`manage.py load FILE|SERVICE --site SLUG`: load a file, or fetch from a connected service."""

import gzip
import json
import tempfile
from argparse import ArgumentParser, ArgumentTypeError
from datetime import date
from pathlib import Path
from typing import Any, get_args

from django.core.management.base import CommandError

from zugzwang.access import OPERATOR
from zugzwang.cli.base import Extend, ProductCommand, finish
from zugzwang.core.facts.periods import Period
from zugzwang.data.models import Connection, Site
from zugzwang.intake import jobs
from zugzwang.intake.fields import by_names
from zugzwang.intake.kinds import KINDS
from zugzwang.intake.loading import LoadOptions, TableRequest, load_file, look
from zugzwang.intake.reports import LoadReport
from zugzwang.intake.seen import Seen
from zugzwang.intake.tables import Choices, Repeats


def _span(text: str) -> Period:
    first, _, last = text.partition("..")
    try:
        return Period(date.fromisoformat(first), date.fromisoformat(last))
    except ValueError as error:
        raise ArgumentTypeError("write it as 2026-08-16..2026-11-15, the earlier day first") from error


class Command(ProductCommand):
    help = (
        "Load a file of any source (search facts, visits, a crawl, links, volumes, SERP captures, events), in any common "
        "format; or, given a source, fetch missing data from its service."
    )

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file", metavar="FILE|SERVICE", help="a path, or a source such as “search” with a service")
        parser.add_argument("--site", required=True, metavar="SLUG")
        parser.add_argument(
            "--kind", choices=[name for name, kind in KINDS.items() if kind.fields], help="default: recognised by columns"
        )
        parser.add_argument("--map", action=Extend, default=[], metavar="FIELD=COLUMN", help='such as "query=Search term"')
        parser.add_argument("--sheet", help="the sheet of a workbook")
        parser.add_argument("--encoding", help="of a text; default: detected")
        parser.add_argument("--decimal", choices=[".", ","], help="the decimal sign; default: detected")
        parser.add_argument("--day-order", choices=["day first", "month first"], help="of days such as 03/04/2026")
        parser.add_argument(
            "--span", type=_span, metavar="FIRST..LAST", help="the days of tables without days: 2026-08-16..2026-11-15"
        )
        parser.add_argument("--any-host", action="store_true", help="all hosts belong to this site")
        parser.add_argument("--repeats", choices=get_args(Repeats), help="identical rows: count one, or each")
        parser.add_argument("--channel", help="of all visits in a file without channels, such as organic")
        parser.add_argument(
            "--days",
            choices=["replace", "add"],
            help="replace: the file has all rows of its days (default); add: keep other rows of its days",
        )
        parser.add_argument(
            "--keep-good-rows", action="store_true", help="load the good rows and write the refused ones to a second file"
        )
        parser.add_argument("--dry-run", action="store_true", help="show what would change, and change nothing")
        parser.add_argument("--format", choices=["text", "json"], default="text")

    def handle(self, *args: Any, **options: Any) -> None:
        site = OPERATOR.site_to_change(options["site"])
        path = Path(options["file"])
        if not path.is_file():
            self._from_service(site, options)
            return
        names = ("sheet", "encoding", "decimal", "day_order", "channel", "span", "any_host", "repeats")
        choices = Choices(**{name: options[name] for name in names})
        table = TableRequest(source=options["kind"], choices=choices)
        if options["map"]:
            seen = self._seen(site, path, table)
            mapping = {**seen.mapping, **by_names(seen.source, options["map"], seen.table.header if seen.table else [])}
            table = TableRequest(source=seen.source, mapping=mapping, choices=choices)
        several = dict.fromkeys(range(200), table) if options["kind"] or any(vars(choices).values()) else {0: table}
        asked = LoadOptions(several, options["days"], options["keep_good_rows"], options["dry_run"])
        loaded = load_file(site, path, path.name, self.show_progress, asked)
        if options["format"] == "json":
            self.stdout.write(json.dumps(loaded.report.as_json(), ensure_ascii=False))
        else:
            self._tell(loaded.report)
        if loaded.refused_csv is not None and not options["dry_run"]:
            extras = path.with_name(f"{path.name}.refused.csv")
            extras.write_bytes(gzip.decompress(loaded.refused_csv))
            self.stderr.write(f"The {loaded.report.refused:,} refused rows are in {extras}, with the reason for each.")

    def _seen(self, site: Site, path: Path, table: TableRequest) -> Seen:
        with tempfile.TemporaryDirectory() as scratch:
            return look(site, path, path.name, Path(scratch), {0: table})[0]

    def _from_service(self, site: Site, options: dict[str, Any]) -> None:
        connection = Connection.objects.filter(site=site, source=options["file"]).first()
        if connection is None:
            raise CommandError(f"There is no file {options['file']}, and no service is connected for a source of this name.")
        finish(self, jobs.ask_for_refresh(OPERATOR, site.slug, [connection.id]), options["format"])

    def _tell(self, report: LoadReport) -> None:
        if report.dry_run:
            self.stdout.write(
                f"{report.file} would bring {report.rows_new:,} new rows and replace {report.rows_replaced:,}; "
                f"{report.rows_lost:,} rows would be removed; {report.pages_folded:,} addresses are merged into other pages, "
                f"{report.pages_left_out:,} are excluded. Nothing was changed."
            )
        elif not report.changed:
            self.stdout.write(f"{report.file}: nothing changed, all of its {report.loaded:,} rows were already here.")
        else:
            current = f"{report.days} days" if report.days else "totals"
            days = f", {current} from {report.first_day} to {report.last_day}" if report.first_day else ""
            self.stdout.write(
                f"{report.file}: {report.loaded:,} of {report.rows:,} rows loaded{days}, "
                f"{report.pages:,} pages, {report.queries:,} queries."
            )
        for notice in report.notices:
            self.stdout.write(notice)
