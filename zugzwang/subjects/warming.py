"""The default list of each place, computed after a load, so the first visitor does not wait."""

from collections.abc import Callable
from datetime import date

from zugzwang.data.cache import store
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import ProductError
from zugzwang.findings.registry import FINDINGS
from zugzwang.findings.table import ask
from zugzwang.findings.view import ViewOptions
from zugzwang.subjects.changes import describe_changes
from zugzwang.subjects.page import tell_page

GETTING_READY = "Preparing the lists"
AS_OPENED = ViewOptions(compare="year")


def warm(snapshot: Snapshot, tell: Callable[[str, float], None], today: date) -> None:
    """Compute every place's default list. Does nothing for a site without search facts."""
    if snapshot.facts.usual_period() is None:
        return
    store().drop_older(snapshot.key)
    questions = [(finding, options) for finding in FINDINGS.values() for options in finding.opens]
    for number, (finding, options) in enumerate(questions):
        tell(GETTING_READY, number / (len(questions) + 2))
        try:
            ask(snapshot, finding, options, today).shown(limit=1)
        except ProductError:
            continue  # nothing to compare with, for example: the visitor gets the message
    tell(GETTING_READY, 1.0)
    describe_changes(snapshot, AS_OPENED, today)
    first = ask(snapshot, FINDINGS["pages"], AS_OPENED, today).rows["page"].head(1)
    for page in first:
        tell_page(snapshot, AS_OPENED, page, today)
