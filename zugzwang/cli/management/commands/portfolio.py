"""`manage.py portfolio OUT`: the findings of many sites, computed in parallel."""

import os
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import CommandError
from django.db.models import Sum
from django.utils import timezone

from zugzwang.access import OPERATOR
from zugzwang.cli import portfolio
from zugzwang.cli.base import Extend, ProductCommand
from zugzwang.findings.registry import FINDINGS


class Command(ProductCommand):
    help = "Calculate the lists of many sites as Parquet files; continues where an earlier run ended."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("out", type=Path)
        parser.add_argument("--site", action=Extend, metavar="SLUG", help="default: all")
        parser.add_argument("--all", action="store_true", help="all sites; the default without --site")
        parser.add_argument("--finding", action=Extend, choices=FINDINGS, metavar="FINDING", help="default: all")
        parser.add_argument("--engine", choices=["local", "dask"], default="local")
        parser.add_argument("--workers", type=int, default=os.cpu_count() or 1, metavar="N")
        parser.add_argument(
            "--scheduler", default="", metavar="ADDRESS", help="of a running Dask cluster; default: a local one"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        sites = OPERATOR.sites().annotate(facts=Sum("blocks__rows")).order_by("-facts", "slug")
        slugs = list(sites.values_list("slug", flat=True))
        if options["site"]:
            wanted = {OPERATOR.site(slug).slug for slug in options["site"]}
            slugs = [slug for slug in slugs if slug in wanted]
        findings = options["finding"] or [name for name, one in FINDINGS.items() if one.opens]
        how = (timezone.localdate(), options["engine"], options["workers"], options["scheduler"])
        failed = 0
        for entry in portfolio.run(slugs, findings, options["out"], *how):
            if entry["problems"]:
                failed += 1
                problems = "; ".join(f"{name or 'the site'}: {problem}" for name, problem in entry["problems"].items())
                self.stderr.write(f"{entry['slug']}: {problems}")
            else:
                rows = sum(entry["rows"].values())
                stood = " (up to date)" if entry["stood"] else ""
                self.stdout.write(f"{entry['slug']}: {len(entry['rows'])} findings, {rows:,} rows{stood}")
        if failed:
            raise CommandError(f"{failed} of {len(slugs)} sites failed: see above. Run it again: the other sites are done.")
