"""`manage.py verify`: check that all stored data are intact."""

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import CommandError

from zugzwang.access import OPERATOR
from zugzwang.cli.base import ProductCommand
from zugzwang.data.verifying import verify


class Command(ProductCommand):
    help = "Check all blocks, load rows and references; repair from loads; exit 1 on problems."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--site", metavar="SLUG", help="default: all")

    def handle(self, *args: Any, **options: Any) -> None:
        sites = [OPERATOR.site(options["site"])] if options["site"] else list(OPERATOR.sites())
        checked = verify(sites)
        for one in checked.faults:
            self.stdout.write(f"{one.where}: {one.what}{'; rebuilt from its loads' if one.mended else ''}.")
        self.stdout.write(f"{checked.blocks:,} blocks and {checked.parts:,} parts of loads were read, of {len(sites)} sites.")
        if any(not one.mended for one in checked.faults):
            raise CommandError("Something is damaged: see above.")
