"""`manage.py refresh --site SLUG`: fetch missing data from the site's services."""

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import CommandError

from zugzwang.access import OPERATOR
from zugzwang.cli.base import Extend, ProductCommand, finish
from zugzwang.data.models import Connection
from zugzwang.intake import jobs


class Command(ProductCommand):
    help = "Refresh a site from its connected services."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--site", metavar="SLUG")
        parser.add_argument("--all", action="store_true", help="every site with services, one after the other")
        parser.add_argument("--source", action=Extend, metavar="SOURCE", help="only these; default: all connected")
        parser.add_argument("--format", choices=["text", "json"], default="text")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["all"]:
            for job in jobs.ask_for_all(OPERATOR):
                finish(self, job, options["format"])
            return
        if not options["site"]:
            raise CommandError("Name a site with --site SLUG, or use --all.")
        site = OPERATOR.site_to_change(options["site"])
        stored = Connection.objects.filter(site=site)
        chosen = stored.filter(source__in=options["source"]) if options["source"] else stored
        finish(self, jobs.ask_for_refresh(OPERATOR, site.slug, list(chosen.values_list("id", flat=True))), options["format"])
