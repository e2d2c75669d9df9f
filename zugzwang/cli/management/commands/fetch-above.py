"""`manage.py fetch-above --site SLUG [--query Q …]`: fetch the competing pages of captured SERPs."""  # noqa: N999 – the name of the command

from argparse import ArgumentParser
from typing import Any

from zugzwang.access import OPERATOR
from zugzwang.cli.base import Extend, ProductCommand, finish
from zugzwang.data.models import Query
from zugzwang.errors import NotFound
from zugzwang.intake import jobs


class Command(ProductCommand):
    help = "Fetch the competing pages of captured SERPs, politely, each once in thirty days."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--site", required=True, metavar="SLUG")
        parser.add_argument("--query", action=Extend, metavar="Q", help="default: every query with a SERP capture")
        parser.add_argument("--allow-private", action="store_true", help="they may have private addresses")
        parser.add_argument("--format", choices=["text", "json"], default="text")

    def handle(self, *args: Any, **options: Any) -> None:
        queries = None if options["query"] is None else self._ids(options["site"], options["query"])
        job = jobs.fetch_competing_pages(OPERATOR, options["site"], queries, options["allow_private"])
        finish(self, job, options["format"])

    def _ids(self, slug: str, texts: list[str]) -> list[int]:
        known = dict(Query.objects.filter(site=OPERATOR.site(slug), text__in=texts).values_list("text", "id"))
        unknown = [text for text in texts if text not in known]
        if unknown:
            raise NotFound(f"The site knows no query “{unknown[0]}”.", "Write it as the search data have it.")
        return [known[text] for text in texts]
