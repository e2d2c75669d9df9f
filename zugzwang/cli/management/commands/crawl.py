"""`manage.py crawl --site SLUG`: crawl a site."""

from argparse import ArgumentParser
from typing import Any

from zugzwang.access import OPERATOR
from zugzwang.cli.base import Extend, ProductCommand, finish
from zugzwang.intake import jobs


class Command(ProductCommand):
    help = "Crawl a site: its pages with texts and links. Obeys robots.txt and never leaves the site."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--site", required=True, metavar="SLUG")
        parser.add_argument("--host", action=Extend, default=[], metavar="HOST", help="other hosts that belong to the site")
        parser.add_argument("--pages-max", type=int, default=50_000, metavar="N")
        parser.add_argument("--connections", type=int, default=8, metavar="N", help="at once; 1 to 32")
        parser.add_argument("--delay-seconds", type=float, default=0.0, metavar="S", help="between two requests")
        parser.add_argument("--allow-private", action="store_true", help="the site may have a private address")
        parser.add_argument("--format", choices=["text", "json"], default="text")

    def handle(self, *args: Any, **options: Any) -> None:
        request = {
            "hosts": options["host"],
            "pages_max": options["pages_max"],
            "connections": options["connections"],
            "delay_seconds": options["delay_seconds"],
            "private_allowed": options["allow_private"],
        }
        finish(self, jobs.ask_for_crawl(OPERATOR, options["site"], request), options["format"])
