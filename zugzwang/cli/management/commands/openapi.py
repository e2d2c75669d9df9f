"""`manage.py openapi`: write the files that follow from declarations: the API schema and catalog that the front end is
generated from, and the list of findings in docs/methods.md.
"""

import json
import re
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand

from zugzwang.api.routes import api
from zugzwang.core.words.terms import TERMS
from zugzwang.findings.registry import FINDINGS, catalog, view_fields
from zugzwang.findings.view import SUMS
from zugzwang.intake.kinds import KINDS

API = settings.BASE_DIR / "web" / "src" / "api"
FILES = settings.BASE_DIR / "docs" / "files.md"
METHODS = settings.BASE_DIR / "docs" / "methods.md"
_KINDS = re.compile(r"(?<=<!-- kinds -->\n).*?(?=<!-- /kinds -->)", re.DOTALL)
_LISTED = re.compile(r"(?<=<!-- findings -->\n).*?(?=<!-- /findings -->)", re.DOTALL)


class Command(BaseCommand):
    help = "Write the API's OpenAPI schema, the catalog of findings, and their list in docs/methods.md."

    def handle(self, *args: Any, **options: Any) -> None:
        for path, text in made().items():
            # Only what changed: a newer file means a new build.
            if not path.exists() or path.read_text(encoding="utf-8") != text:
                path.write_text(text, encoding="utf-8")


def made() -> dict[Path, str]:
    """The generated files and their contents."""
    schema = json.dumps(api.get_openapi_schema(path_prefix="/api/"), indent=1, sort_keys=True, ensure_ascii=False)
    result = json.dumps({one.pop("name"): one for one in catalog()}, indent=2, ensure_ascii=False)
    terms = json.dumps(TERMS, indent=2, ensure_ascii=False)
    fields = json.dumps(view_fields(), indent=2, ensure_ascii=False)
    named = {
        "CATALOG": result,
        "FIELDS": fields,
        "KINDS": json.dumps(_kinds(), indent=2, ensure_ascii=False),
        "SUMS": json.dumps(SUMS),
        "TERMS": terms,
    }
    consts = "\n".join(f"export const {name} = {value} as const;\n" for name, value in named.items())
    head = "// Made by manage.py openapi from the declarations of findings; do not change by hand."
    listed = "".join(f"- `{one.name}`: {one.question} ({one.method.replace('-', ' ')})\n" for one in FINDINGS.values())
    return {
        API / "schema.json": f"{schema}\n",
        API / "catalog.generated.ts": f"{head}\n{consts}",
        FILES: _KINDS.sub(lambda _: _kinds_table(), FILES.read_text(encoding="utf-8")),
        METHODS: _LISTED.sub(lambda _: listed, METHODS.read_text(encoding="utf-8")),
    }


def _kinds() -> dict[str, dict[str, Any]]:
    """What the screens say of each kind of table."""
    return {
        one.name: {
            "title": one.title, "holds": one.holds, "needed": one.needed,
            "fields": {field.name: field.label for field in one.fields},
        }
        for one in KINDS.values()
    }  # fmt: skip


def _kinds_table() -> str:
    """The table of docs/files.md: the fields of each kind, * for those that must be there."""
    lines = ["| source | fields |", "|---|---|"]
    for one in KINDS.values():
        if one.fields:
            fields = ", ".join(
                f"`{field.name}`{'*' * field.required}" + (f" ({note})" if (note := one.notes.get(field.name)) else "")
                for field in one.fields
            )
            more = f". {one.notes['']}" if "" in one.notes else ""
            lines.append(f"| {one.name} | {fields}{more} |")
    return "\n".join(lines) + "\n"
