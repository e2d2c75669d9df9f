"""`manage.py serve`: the web server."""

from argparse import ArgumentParser
from typing import Any

from django.urls import get_resolver

from zugzwang.cli.base import ProductCommand
from zugzwang.cli.serving import serve
from zugzwang.wsgi import application


class Command(ProductCommand):
    help = "Serve the application until stopped."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--listen", default="127.0.0.1:8000", metavar="HOST:PORT")

    def handle(self, *args: Any, **options: Any) -> None:
        # Before the first request: importing everything takes seconds, which the first visitor would wait for.
        _ = get_resolver().url_patterns
        serve(application, options["listen"])
