"""The moves and decisions recorded before the demo starts; demo/README.md lists them."""

from dataclasses import dataclass
from datetime import date

from demo.scenario import REWRITTEN_DAY, address, guide


@dataclass(frozen=True)
class PlannedMove:
    """A move at the start of the demo; `kept`: whether its result is saved."""

    page: str
    query: str
    finding: str
    kind: str
    effort: str
    note: str
    state: str = "to do"
    made_on: date | None = None
    due: date | None = None
    kept: bool = False


MOVES = [
    PlannedMove(
        guide("how-to-plan-a-river-trip"), "river trip planner", "low-ctr", "rewrite", "hour",
        "New title names what one gets: a printable plan for a day, a weekend and a week.", "done", REWRITTEN_DAY,
    ),
    PlannedMove(
        guide("canoe-camping-checklist"), "canoe camping checklist", "striking-distance", "links", "hour",
        "Linked from every trip page, under “What to take”.", "done", date(2026, 9, 7), kept=True,
    ),
    PlannedMove(
        address("/clothing/dry-suit/"), "dry suit for kayaking", "low-ctr", "rewrite", "hour",
        "Title said “Drysuits” alone. Now: sizes, sea and river, from which price.", "done", date(2026, 11, 9),
    ),
    PlannedMove(
        guide("what-size-canoe-do-i-need"), "what size canoe do i need", "low-ctr", "answer", "hour",
        "An answer box stands above us. A short answer by weight of the crew, as a table, at the top of the guide.",
        due=date(2026, 12, 4),
    ),
    PlannedMove(
        guide("how-to-read-a-river"), "reading rapids", "striking-distance", "deepen", "day",
        "Photos of each grade, and what to do when it goes wrong.", "in progress", due=date(2026, 11, 20),
    ),
]  # fmt: skip
# Two results of your own on page one: left as they are.
ACCEPTED = "river ossel canoe hire"
ACCEPTED_FOR = "Rental and trip page stand at 1 and 3 together: a strength."

# Two concluded tests: one of titles that were planted to help, and a randomised one without a planted effect,
# whose result is chance.
# The report that its analyst makes of each month.
REPORT_NAME, REPORT_OWN_NAME, REPORT_CONTACT = "Monthly report", "Marrowbank search desk", "desk@marrowbank.example"
REPORT_WORDS = (
    "October was **steady** compared with last year. The rental titles with a price did what we hoped; more of them follow."
)
REPORT_LOGO = b"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 220 60"><path d="M10 34q100 34 200 0q-100 16-200 0z"
fill="#2e6350"/><path d="M96 8l6 0l-24 44l-6 0z" fill="#211d18"/></svg>"""
PRICED_NAME, PRICED_CHANGE = "Rental titles with a price", "Titles of six rental pages that tell the price of a day"
PRICED_HOPE = "Half as many clicks again"
TRIED = "/guides/"
TRIED_NAME, TRIED_CHANGE = "Guides that ask", "Titles of guides that ask the question instead of naming the subject"
TRIED_HOPE, TRIED_ON = "A fifth more clicks", date(2026, 10, 1)
