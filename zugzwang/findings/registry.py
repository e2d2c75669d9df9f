"""All findings by name: everything that a module of this package declares."""

from importlib import import_module
from pathlib import Path
from typing import Any

from zugzwang.errors import NotFound
from zugzwang.findings.finding import Column, Finding


def _declared() -> list[Finding]:
    modules = (import_module(f"{__package__}.{path.stem}") for path in sorted(Path(__file__).parent.glob("[a-z]*.py")))
    every = [value for module in modules if module.__name__ != __name__ for value in vars(module).values()]
    return [one for one in every if isinstance(one, Finding)] + [
        one for many in every if isinstance(many, tuple) for one in many if isinstance(one, Finding)
    ]


FINDINGS: dict[str, Finding] = {one.name: one for one in sorted(_declared(), key=lambda one: one.name)}


def finding_named(name: str) -> Finding:
    if name not in FINDINGS:
        raise NotFound(f"There is no finding “{name}”.", f"Findings: {', '.join(FINDINGS)}.")
    return FINDINGS[name]


def catalog() -> list[dict[str, Any]]:
    """What the screens need to know of each finding: its texts, columns, sorting and filters."""
    return [
        {
            "name": one.name,
            "title": one.title,
            "question": one.question,
            "method": one.method,
            "claims": list(one.claims),
            "order": one.order,
            "needs": [list(group) for group in one.needs],
            "looks_at": sorted({*one.looks_at} - {"curve"}),
            "columns": [_column(column) for column in one.columns if column.shown != "data"],
        }
        for one in FINDINGS.values()
    ]


def _column(column: Column) -> dict[str, Any]:
    names = ("name", "kind", "label", "explains", "unit", "low")
    return {**{name: getattr(column, name) for name in names}, "extra": column.shown == "extra", "sorts": column.sortable}
