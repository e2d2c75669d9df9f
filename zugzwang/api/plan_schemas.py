"""What the API takes and gives of moves, marks and saved views."""

from datetime import date, datetime
from typing import Literal

from ninja import Field, Schema

from zugzwang.api.diagnosis_schemas import SubjectGiven
from zugzwang.api.schemas import ScopeAsked
from zugzwang.core.evidence import Grade
from zugzwang.core.lenses import Lens
from zugzwang.core.moves import Effort, Kind, State


class FoundAsked(ScopeAsked):
    """The lens that moves were found with; gains are told as the scope tells them."""

    finding: Lens | Literal["", "pages", "clashes"] = ""


class SubjectsGiven(Schema):
    subjects: list[SubjectGiven] = Field(max_length=500)


class Proposal(Schema):
    """Moves on some subjects, filled in. `gain`, `gain_cautious`: clicks a month together; null where they cannot be told, and
    `reason` says why. `kind`, `effort`: null where the subjects want different ones."""

    subjects: int
    page_text: str | None
    query_text: str | None
    kind: Kind | None
    effort: Effort | None
    gain: float | None
    gain_cautious: float | None
    evidence: Grade
    reason: str
    kinds: dict[str, str]


class ToDo(Schema):
    """How a move shall be done; an effort of null is the usual one."""

    effort: Effort | None = None
    who: str | None = Field(default=None, max_length=150)
    due: date | None = None


class MovesGiven(ToDo):
    """A kind of null is the one proposed for each subject."""

    subjects: list[SubjectGiven] = Field(max_length=500)
    kind: Kind | None = None
    note: str = Field(default="", max_length=5_000)


class SettledGiven(ToDo):
    """Clashes over queries, what is decided about them, and how it shall be done. A choice of null: each by the lead and the
    resolution that are proposed for it."""

    queries: list[int] = Field(min_length=1, max_length=500)
    choice: str | None = Field(default=None, max_length=10)
    lead: int | None = Field(default=None, ge=1, le=2**31)
    note: str = Field(default="", max_length=5_000)


class FieldsChanged(Schema):
    """Only the fields that are sent are changed."""

    kind: Kind | None = None
    effort: Effort | None = None
    state: State | None = None
    note: str | None = Field(default=None, max_length=5_000)
    who: str | None = Field(default=None, max_length=150)
    due: date | None = None
    made_on: date | None = None


class MoveChanged(FieldsChanged):
    """`seen`: the version that was looked at."""

    seen: int = Field(ge=1)


class MoveSeen(Schema):
    id: int
    seen: int = Field(ge=1)


class MovesChanged(FieldsChanged):
    moves: list[MoveSeen] = Field(max_length=500)


class MoveShown(Schema):
    """`rank`: clicks a month to gain at least for each hour of effort. `ready`: what came of it can be told."""

    id: int
    version: int
    page_id: int | None
    query_id: int | None
    page: str | None
    query: str | None
    finding: str
    reason: str
    gain: float | None
    gain_cautious: float | None
    evidence: Grade
    kind: Kind
    kind_words: str
    effort: Effort
    state: State
    note: str
    who: str | None
    due: date | None
    made_on: date | None
    by: str | None
    made_at: datetime
    rank: float
    late: bool
    ready: bool
    ready_on: date | None
    came_of_it: float | None
    outcome_evidence: Grade | None


class MovesAsked(Schema):
    state: State | Literal["", "open"] = ""
    text: str = Field(default="", max_length=500)
    sort: str = Field(default="", max_length=40)
    descending: bool = True
    offset: int = Field(default=0, ge=0, le=10**9)
    limit: int = Field(default=100, ge=1, le=500)


class MovesFile(Schema):
    state: State | Literal["", "open"] = ""
    text: str = Field(default="", max_length=500)
    format: Literal["csv", "xlsx", "json"] = "csv"


class Moves(Schema):
    rows: list[MoveShown]
    total: int
    by_state: dict[str, int]
    sentences: list[str]
    people: list[str]


class RatesShown(Schema):
    clicks: int
    impressions: int
    clicks_a_day: float
    shown_a_day: float
    ctr: float | None
    position: float | None


class SpanShown(Schema):
    first: date
    last: date


class OutcomeShown(Schema):
    """What came of a move (core/outcomes.py): before and after, of it and of the untouched."""

    before: RatesShown
    after: RatesShown
    untouched_before: RatesShown
    untouched_after: RatesShown
    days: int
    untouched: int
    of_its_size: bool
    expected_a_day: float
    came_of_it: float
    ctr_gained: float | None
    places_gained: float | None
    as_far: int
    p_value: float
    chance: float
    evidence: Grade
    periods: list[SpanShown]
    sentences: list[str]
    lacking: list[str]


class HistoryShown(Schema):
    field: str
    words: str
    before: str | None
    after: str | None
    by: str | None
    at: datetime
    version: int


class MoveFile(MoveShown):
    """`decided`: of a move that carries out what was decided on a clash, who leads and whether it is settled."""

    dropped: bool
    decided: str | None
    outcome: OutcomeShown | None
    waiting: str | None
    history: list[HistoryShown]
    people: list[str]


class MarkShown(Schema):
    """What is decided about a row (page and query), a page or a query, in a word."""

    page: int | None
    query: int | None
    query_text: str | None
    word: str
    why: str
    by: str | None
    until: date | None
    move: int | None
    decision: int | None


class ViewGiven(Schema):
    name: str = Field(min_length=1, max_length=100)
    address: str = Field(min_length=1, max_length=4_000)


class ViewShown(ViewGiven):
    id: int
    by: str | None
