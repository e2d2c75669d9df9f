"""Totals of spans in addition to days, in a sentence."""

from collections.abc import Sequence

from zugzwang.core.facts.grains import Grain
from zugzwang.core.facts.periods import Period
from zugzwang.core.words import sentences
from zugzwang.data.models import Site
from zugzwang.data.snapshot import Snapshot


def spans_said(site: Site, grains: Sequence[Grain]) -> str:
    """The totals in addition to days."""
    snapshot = Snapshot(site)
    by_span: dict[Period, list[str]] = {}
    for grain in grains:
        if grain.dated:
            for span in snapshot.facts.spans_of(grain.name):
                by_span.setdefault(span, []).append(grain.name)
    rows = [f"{sentences.period(span)} by {' and by '.join(names)}" for span, names in by_span.items()]
    return f"Totals: {'; '.join(rows)}." if rows else ""
