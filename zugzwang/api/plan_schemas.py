"""Request and response models for moves, marks and saved views."""

from datetime import date, datetime
from typing import Annotated, Any, Literal

from ninja import Field, Schema

from zugzwang.api.findings import ROWS, ViewParameters
from zugzwang.api.schemas import Id
from zugzwang.core.clicks.evidence import Grade
from zugzwang.core.drafts.help import HelpTask
from zugzwang.core.topics.edits import EditKind
from zugzwang.core.trials.units import Design, Measure
from zugzwang.core.worth.moves import Effort, Kind, State
from zugzwang.plan.trials import Verdict

MoveRow: Any = ROWS["moves"]
AcceptedLinksRow: Any = ROWS["accepted-links"]
LinkChoice = Literal["open", "accepted", "refused"]


class Several(Schema):
    ids: list[Id] = Field(min_length=1, max_length=500)


class SubjectInput(Schema):
    """A row (page and query), a page, or the clash over a query (without a page)."""

    page: Id | None = None
    query: Id | None = None


class DecisionInput(Schema):
    subjects: list[SubjectInput] = Field(max_length=500)
    choice: str = Field(max_length=10)
    lead: Id | None = None
    note: str = Field(default="", max_length=5_000)
    until: date | None = None
    decided_on: date | None = None


class LinkInput(Schema):
    """A suggested link; `seen`: its decision when the list was read."""

    source: Id
    target: Id
    anchor: str = Field(default="", max_length=300)
    sentence: str = Field(default="", max_length=1_000)
    seen: LinkChoice = "open"


class LinksDecided(Schema):
    links: list[LinkInput] = Field(min_length=1, max_length=500)
    choice: LinkChoice
    note: str = Field(default="", max_length=5_000)


class PlannedLinkShown(Schema):
    """An accepted or dismissed link, and the move that carries it out."""

    source_id: int
    target_id: int
    choice: LinkChoice
    anchor: str
    note: str
    move_id: int | None


class TopicEditInput(Schema):
    """`queries`: to join topics, one query of each; to split, all queries that leave; otherwise one query of the topic."""

    kind: EditKind
    queries: list[Id] = Field(min_length=1, max_length=2_000)
    name: str = Field(default="", max_length=500)


class TopicEditShown(Schema):
    id: int
    kind: EditKind
    queries: list[int]
    name: str
    by: str | None
    made_at: datetime


class FindingParameters(ViewParameters):
    """The finding that the moves come from; its view determines the expected gains."""

    finding: str = Field(default="", max_length=20)


class SubjectsInput(Schema):
    subjects: list[SubjectInput] = Field(max_length=500)


class Proposal(Schema):
    """Moves on several subjects, filled in. `gain`, `gain_cautious`: clicks a month together; null where unknown, with the
    `reason`. `kind`, `effort`: null where subjects need different ones. `worked`: results of earlier tests, by kind.
    """

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
    worked: dict[str, str]


class MainQueryInput(Schema):
    query_id: Id | None = None


class ToDo(Schema):
    """How to carry out a move; null effort means the usual effort of its kind."""

    effort: Effort | None = None
    who: str | None = Field(default=None, max_length=150)
    due: date | None = None


class MovesInput(ToDo):
    """Null `kind`: the kind proposed for each subject."""

    subjects: list[SubjectInput] = Field(max_length=500)
    kind: Kind | None = None
    note: str = Field(default="", max_length=5_000)
    new_title: str = Field(default="", max_length=5_000)
    new_description: str = Field(default="", max_length=5_000)


class SettledInput(ToDo):
    """Decisions on clashes, and how to carry them out. Null `choice`: use the proposed lead and resolution of each."""

    queries: list[Id] = Field(min_length=1, max_length=500)
    choice: str | None = Field(default=None, max_length=10)
    lead: Id | None = None
    note: str = Field(default="", max_length=5_000)


class FieldsChanged(Schema):
    """Fields to change; fields that are absent stay as they are."""

    kind: Kind | None = None
    effort: Effort | None = None
    state: State | None = None
    note: str | None = Field(default=None, max_length=5_000)
    who: str | None = Field(default=None, max_length=150)
    due: date | None = None
    made_on: date | None = None
    recrawl_on: date | None = None
    new_title: str | None = Field(default=None, max_length=5_000)
    new_description: str | None = Field(default=None, max_length=5_000)


class MoveChanged(FieldsChanged):
    """`seen`: the version that the change is based on."""

    seen: int = Field(ge=1)


class MoveSeen(Schema):
    id: int
    seen: int = Field(ge=1)


class MovesChanged(FieldsChanged):
    moves: list[MoveSeen] = Field(max_length=500)


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
    """The result of a move (core/worth/outcomes.py): before and after, for its pages and the control pages."""

    before: RatesShown
    after: RatesShown
    controls_before: RatesShown
    controls_after: RatesShown
    days: int
    controls: int
    expected_a_day: float
    result_clicks: float
    low: float | None = None  # null: too few controls, or saved before intervals existed
    high: float | None = None
    ctr_gained: float | None
    positions_gained: float | None
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


class MoveFile(MoveRow):  # type: ignore[misc]
    """`decided`: for a move that carries out a decision on a clash, its lead and whether it is settled. `links`: links that
    the move sets on its page.
    """

    dropped: bool
    decided: str | None
    outcome: OutcomeShown | None
    waiting: str | None
    crawled: str | None  # the first crawler fetch after it, where access logs show crawlers
    history: list[HistoryShown]
    people: list[str]
    links: list[AcceptedLinksRow]


class ViewInput(Schema):
    name: str = Field(min_length=1, max_length=100)
    address: str = Field(min_length=1, max_length=4_000)


class ViewShown(ViewInput):
    id: int
    by: str | None


class DraftBegun(Schema):
    """`page` null: a page to write, which also creates a move. `query` null: the page's main query."""

    query: Id | None = None
    page: Id | None = None


class DraftWords(Schema):
    """`text`: HTML with headings, paragraphs, lists, tables and links; everything else is removed."""

    title: str = Field(default="", max_length=5_000)
    description: str = Field(default="", max_length=5_000)
    text: str = Field(default="", max_length=500_000)


Window = Annotated[str, Field(min_length=8, max_length=40, pattern="^[A-Za-z0-9-]+$")]


class DraftSaved(DraftWords):
    """`seen`, `base`: the version that the changes are based on, and its text."""

    window: Window
    seen: int = Field(ge=1)
    base: DraftWords


class DraftShown(DraftWords):
    """`writer`, `writer_window`: who is writing now, and in which window; null when no one is."""

    id: int
    name: str
    version: int
    state: Literal["open", "done"]
    done_on: date | None
    query: str
    query_id: int
    page: str | None
    page_id: int | None
    move_id: int | None
    by: str | None
    made_at: datetime
    changed_at: datetime
    writer: str | None
    writer_window: str | None
    crawled: bool
    dropped: bool


class MergedShown(Schema):
    """Blocks of a merged text; `theirs` is null where there is no conflict."""

    mine: list[str]
    theirs: list[str] | None


class ChoiceShown(Schema):
    """`theirs` is null where there is no conflict."""

    mine: str
    theirs: str | None


class DraftSaving(Schema):
    """The result of saving. `text` null: everything was saved; otherwise nothing was, and these are the conflicts."""

    draft: DraftShown
    text: list[MergedShown] | None
    title: ChoiceShown | None
    description: ChoiceShown | None


class Writing(Schema):
    window: Window
    take: bool = False


class VersionShown(Schema):
    number: int
    by: str | None
    begun_at: datetime
    made_at: datetime


class DifferenceShown(Schema):
    what: Literal["kept", "added", "removed"]
    text: str


class DraftCompared(Schema):
    """The differences between two versions, block by block."""

    title: list[list[DifferenceShown]]
    description: list[list[DifferenceShown]]
    text: list[list[DifferenceShown]]


class PutBack(Schema):
    window: Window
    version: int = Field(ge=0, le=10**9)


class DraftFinished(Schema):
    """`page`: the address or path of the published page, once the site knows it."""

    on: date
    page: str = Field(default="", max_length=2_000)
    note: str = Field(default="", max_length=5_000)


class DraftNamed(Schema):
    name: str = Field(min_length=1, max_length=500)


class HelpInput(Schema):
    """`term`: only for a paragraph."""

    task: HelpTask
    term: str = Field(default="", max_length=200)


class ProposedShown(Schema):
    text: str
    faults: list[str]


class Helped(Schema):
    """Checked suggestions of a text service. `by`: the service's own name."""

    task: HelpTask
    by: str
    proposals: list[ProposedShown]


class HelpSettings(Schema):
    """`instructions`: what the service is asked to do, by task; `connected`: whether the site has a text service."""

    instructions: dict[str, str]
    connected: bool


class InstructionInput(Schema):
    task: HelpTask
    text: str = Field(default="", max_length=10_000)


class TrialInput(Schema):
    """A planned test. `subjects`: pages or rows; for a randomised test all of them, because half are drawn at random."""

    subjects: list[SubjectInput] = Field(min_length=1, max_length=500)
    change: str = Field(default="", max_length=5_000)
    name: str = Field(default="", max_length=5_000)
    kind: Kind = "rewrite"
    hope: str = Field(default="", max_length=5_000)
    design: Design = "before-after"
    measure: Measure = "clicks"
    first_day: date
    weeks: int = Field(default=4, ge=1, le=60)
    seed: int | None = Field(default=None, ge=0, le=2**31)


class VisibleShown(Schema):
    """`smallest`: the smallest detectable effect, as the logarithm of a ratio or in positions; null when unknown."""

    smallest: float | None = None
    changed: int = 0
    clicks: float = 0.0


class TrialPlan(Schema):
    """The smallest effect that the test could detect, and what speaks against the plan."""

    visible: VisibleShown
    sentence: str
    problems: list[str]
    controls: int = 0
    worked: str | None


class TrialUnit(Schema):
    page_id: int
    query_id: int | None
    page: str
    query: str | None


class UnitLeftOut(TrialUnit):
    why: str


class TrialWeek(Schema):
    first: date
    changed: int
    controls: int


class TextChanged(DraftCompared):
    page: str


class TrialShown(Schema):
    """`waiting`: why the test has no result yet; `worked`: the pooled results of concluded tests of its kind."""

    id: int
    name: str
    change: str
    kind: Kind
    kind_words: str
    hope: str
    design: Design
    measure: Measure
    seed: int
    first_day: date
    weeks: int
    before_first: date
    until: date
    state: Literal["planned", "running", "ended", "concluded"]
    dropped: bool
    by: str | None
    made_at: datetime
    read_at: datetime | None
    visible: str
    waiting: str | None
    faults: list[str]
    verdict: Verdict | None
    weekly: list[TrialWeek]
    changed: list[TrialUnit]
    unchanged: list[TrialUnit]
    out: list[UnitLeftOut]
    texts: list[TextChanged]
    worked: str | None


class LeftOut(SubjectInput):
    """`why` empty: include it again."""

    why: str = Field(default="", max_length=5_000)
