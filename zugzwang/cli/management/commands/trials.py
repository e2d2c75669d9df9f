"""`manage.py trials --site SLUG`: list tests, start one (--new) or conclude one (--conclude)."""

import json
import sys
from argparse import ArgumentParser
from datetime import date
from pathlib import Path
from typing import Any

from django.utils.timezone import localdate

from zugzwang.access import OPERATOR
from zugzwang.cli.base import ProductCommand
from zugzwang.core.trials.units import DESIGNS, MEASURES
from zugzwang.core.worth.moves import KINDS
from zugzwang.data.decided import Subject
from zugzwang.data.models import Query, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid
from zugzwang.findings.trials import find_trials
from zugzwang.findings.view import ViewOptions, settle
from zugzwang.plan.trials import Planned, named, read, start

NAMES = ("name", "kind", "changed", "controls", "smallest_visible", "effect", "low", "high", "p_value", "verdict", "state")


class Command(ProductCommand):
    help = "Trials: tests with their detectable effects and results."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--site", required=True, metavar="SLUG")
        parser.add_argument("--new", metavar="NAME", help="start a trial under a name")
        parser.add_argument("--pages", type=Path, metavar="FILE", help="a page a line, or a page, a tab and a query")
        parser.add_argument("--change", default="", metavar="TEXT", help="what is changed")
        parser.add_argument("--change-kind", default="rewrite", choices=list(KINDS))
        parser.add_argument("--from", dest="first_day", type=date.fromisoformat, metavar="DAY", help="default: today")
        parser.add_argument("--weeks", type=int, default=4)
        parser.add_argument("--kind", default="before-after", choices=DESIGNS, help="before/after test, or randomised test")
        parser.add_argument("--measure", default="clicks", choices=MEASURES)
        parser.add_argument("--seed", type=int, help="of the random draw; default: random")
        parser.add_argument("--conclude", metavar="NAME", help="conclude a test that has ended")
        parser.add_argument("--format", choices=["json", "text"], default="json")

    def handle(self, *args: Any, **options: Any) -> None:
        site = OPERATOR.site(options["site"])
        if options["new"]:
            self._start(site, options)
        if options["conclude"]:
            read(OPERATOR, site.slug, named(site, options["conclude"]).id)
        rows = find_trials(settle(Snapshot(OPERATOR.site(site.slug)), ViewOptions(), localdate())).rows
        # On the command line the kind of a test is its design; screens list the kind of change too.
        result = [{**one, "kind": one["design"]} for one in rows.to_dicts()]
        if options["format"] == "json":
            current = [{name: one[name] for name in NAMES} for one in result]
            sys.stdout.write(json.dumps(current, ensure_ascii=False, default=str, indent=1) + "\n")
        else:
            for one in result:
                self.stdout.write(f"{one['name']}: {one['state']}. {one['verdict'] or ''}")

    def _start(self, site: Site, options: dict[str, Any]) -> None:
        if options["pages"] is None or not options["pages"].is_file():
            raise Invalid("A new trial needs a file of pages.", "Name one: --pages pages.txt.", "pages")
        subjects = [_subject(site, line) for line in options["pages"].read_text().splitlines() if line.strip()]
        planned = Planned(
            subjects, options["change"], options["first_day"] or localdate(), options["new"], options["change_kind"], "",
            options["kind"], options["measure"], options["weeks"], options["seed"],
        )  # fmt: skip
        start(OPERATOR, site.slug, planned, localdate())


def _subject(site: Site, line: str) -> Subject:
    page, _, query = (part.strip() for part in line.partition("\t"))
    view = settle(Snapshot(site), ViewOptions(page=page), localdate(), "none", "without")
    if not query:
        return Subject(view.one_page, None)
    found = Query.objects.filter(site=site, text=query).values_list("id", flat=True).first()
    if found is None:
        raise Invalid(f"The site knows no query “{query}”.", "Write it as the search data have it.", "pages")
    return Subject(view.one_page, found)
