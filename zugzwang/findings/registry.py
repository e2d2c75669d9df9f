"""All findings by name: everything that a module of this package declares."""

from dataclasses import fields
from datetime import date
from importlib import import_module
from pathlib import Path
from types import UnionType
from typing import Any, Literal, Union, get_args, get_origin, get_type_hints

from zugzwang.errors import NotFound
from zugzwang.findings.finding import Column, Finding
from zugzwang.findings.view import ViewOptions


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
            "place": one.place[0],
            "rank": one.place[1],
            "key": list(one.key),
            "needs": [list(group) for group in one.needs],
            "makes": sorted({*one.makes} - {"curve"}),
            "looks_at": sorted({*one.looks_at} - {"curve"}),
            "columns": [_column(column) for column in one.columns if column.shown != "data"],
        }
        for one in FINDINGS.values()
    ]


def view_fields() -> dict[str, dict[str, Any]]:
    """How an address writes each field of a view: its kind, and the words it can be."""
    hints = get_type_hints(ViewOptions)
    return {one.name: _field(hints[one.name]) for one in fields(ViewOptions)}


def _field(hint: Any) -> dict[str, Any]:
    kinds = [one for one in _parts(hint) if one is not type(None)]
    words = [word for kind in kinds for word in get_args(kind)]
    if kinds[0] is tuple or get_origin(kinds[0]) is tuple:
        inner = get_args(kinds[0])[0]
        choices = [word for kind in _parts(inner) for word in get_args(kind)]
        return {"kind": "choices", "choices": choices} if choices else {"kind": "texts"}
    if get_origin(kinds[0]) is Literal:
        return {"kind": "choice", "choices": list(dict.fromkeys(word for word in words if word))}
    return {"kind": {date: "day", int: "count", float: "number", str: "text"}[kinds[0]]}


def _parts(hint: Any) -> tuple[Any, ...]:
    return get_args(hint) if get_origin(hint) in (Union, UnionType) else (hint,)


def _column(column: Column) -> dict[str, Any]:
    names = ("name", "kind", "label", "explains", "unit", "low")
    return {**{name: getattr(column, name) for name in names}, "extra": column.shown == "extra", "sorts": column.sortable}
