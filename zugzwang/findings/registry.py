"""All findings, by name."""

from typing import Any

from zugzwang.errors import NotFound
from zugzwang.findings.breaks import BREAKS
from zugzwang.findings.change import CHANGE
from zugzwang.findings.clashes import CLASHES
from zugzwang.findings.country_gaps import COUNTRY_GAPS
from zugzwang.findings.finding import Column, Finding
from zugzwang.findings.landing_pages import LANDING_PAGES
from zugzwang.findings.lenses import LENSES
from zugzwang.findings.moves import MOVES
from zugzwang.findings.pages import PAGES_FOUND
from zugzwang.findings.query_groups import QUERY_GROUPS
from zugzwang.findings.sections import SECTIONS
from zugzwang.findings.topic_folds import FOLDS_FOUND

FINDINGS: dict[str, Finding] = {
    one.name: one
    for one in (
        *LENSES, COUNTRY_GAPS, CLASHES, FOLDS_FOUND, CHANGE, BREAKS, SECTIONS, QUERY_GROUPS, LANDING_PAGES, PAGES_FOUND, MOVES
    )
}  # fmt: skip


def finding_named(name: str) -> Finding:
    if name not in FINDINGS:
        raise NotFound(f"There is no finding “{name}”.", f"Findings: {', '.join(FINDINGS)}.")
    return FINDINGS[name]


def catalog() -> list[dict[str, Any]]:
    """What the screens need to know of each finding: its words, columns, and what it can be sorted and filtered by."""
    return [
        {
            "name": one.name,
            "title": one.title,
            "question": one.question,
            "method": one.method,
            "claims": list(one.claims),
            "order": one.order,
            "looks_at": sorted({*one.looks_at} - {"curve"}),
            "columns": [_column(column) for column in one.columns if column.shown != "data"],
        }
        for one in FINDINGS.values()
    ]


def _column(column: Column) -> dict[str, Any]:
    names = ("name", "kind", "label", "explains", "unit", "low")
    return {**{name: getattr(column, name) for name in names}, "extra": column.shown == "extra", "sorts": column.sortable}
