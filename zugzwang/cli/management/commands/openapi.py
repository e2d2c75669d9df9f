"""`manage.py openapi FILE`: write the API's schema, from which the front end's types are made."""

import json
from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand

from zugzwang.api.routes import api


class Command(BaseCommand):
    help = "Write the API's OpenAPI schema as JSON."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        schema = json.dumps(api.get_openapi_schema(path_prefix="/api/"), indent=1, sort_keys=True, ensure_ascii=False)
        options["file"].write_text(schema + "\n")
