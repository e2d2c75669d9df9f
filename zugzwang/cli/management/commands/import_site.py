"""`manage.py import_site FILE`: create a site from an archive."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.contrib.auth.models import User
from django.core.management.base import CommandError

from zugzwang.access import OPERATOR
from zugzwang.cli.base import ProductCommand
from zugzwang.data.models import Membership
from zugzwang.plan.site_archive import take_in


class Command(ProductCommand):
    help = "Create a site from an archive. Its services and report schedules are off until you turn them on."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("--slug", help="its slug in addresses; default: unchanged")
        parser.add_argument("--owner", metavar="NAME", help="who owns it here")

    def handle(self, *args: Any, **options: Any) -> None:
        owner = User.objects.filter(username=options["owner"]).first()
        if options["owner"] and owner is None:
            raise CommandError(f"There is no user “{options['owner']}”. Choose another, or omit --owner.")
        site = take_in(OPERATOR, options["file"], options["slug"])
        if owner is not None:
            Membership.objects.create(site=site, user=owner, role=Membership.Role.OWNER)
        self.stdout.write(f"{site.name} is at /{site.slug}.")
