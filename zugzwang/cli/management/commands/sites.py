"""`manage.py sites`: list the sites, or add one."""

from argparse import ArgumentParser
from typing import Any

from django.contrib.auth.models import User
from django.core.management.base import CommandError

from zugzwang.access import OPERATOR, Actor
from zugzwang.cli.base import ProductCommand
from zugzwang.subjects.sites import add_site, site_days


class Command(ProductCommand):
    help = "List the sites, or add one with --add NAME --address URL --slug SLUG."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--add", metavar="NAME", help="the name of a new site")
        parser.add_argument("--address", metavar="URL", help="its address, such as https://www.shop.example")
        parser.add_argument("--slug", help="its short name in addresses and commands")
        parser.add_argument("--member", metavar="USERNAME", help="a user who gets access")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["add"] is None:
            self._list()
            return
        if not options["address"] or not options["slug"]:
            raise CommandError("A new site needs --address and --slug.")
        actor = OPERATOR
        if options["member"]:
            user = User.objects.filter(username=options["member"]).first()
            if user is None:
                raise CommandError(f"There is no user “{options['member']}”; make one with manage.py createsuperuser.")
            actor = Actor(user)
        site = add_site(actor, options["add"], options["address"], options["slug"])
        self.stdout.write(f"Added {site.name} ({site.slug}).")

    def _list(self) -> None:
        for site in OPERATOR.sites():
            days = site_days(site)
            current = f"{days.first} to {days.last}" if days else "no data yet"
            self.stdout.write(f"{site.slug}\t{site.name}\t{site.address}\t{current}")
