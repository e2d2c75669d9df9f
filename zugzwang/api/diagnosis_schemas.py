"""What the API takes and gives of diagnoses, pages and decisions. The front end's types are made from these."""

from datetime import date
from typing import Literal

from ninja import Field, Schema

from zugzwang.api.schemas import MeasureBeside, PeriodShown, ScopeAsked
from zugzwang.core.clashes import Kind
from zugzwang.core.evidence import Grade
from zugzwang.core.fit import Fit
from zugzwang.core.landing import Role
from zugzwang.core.leads import Resolution
from zugzwang.core.topic_folds import FoldKind
from zugzwang.desk.breaking import Level, Measure
from zugzwang.desk.changes import By


class DiagnosisAsked(ScopeAsked):
    """`sort`: a column of the rows; by default the order in which the diagnosis gives them."""

    sort: str = Field(default="", max_length=40)
    descending: bool = True
    offset: int = Field(default=0, ge=0, le=10**9)
    limit: int = Field(default=100, ge=1, le=500)


class ChangeAsked(DiagnosisAsked):
    by: By = "page"


class BreaksAsked(DiagnosisAsked):
    level: Level = "page"
    measure: list[Measure] = Field(default=["clicks"], min_length=1, max_length=2)


class FileAsked(ScopeAsked):
    format: Literal["csv", "xlsx", "json"] = "csv"
    by: By = "page"
    level: Level = "page"
    measure: list[Measure] = Field(default=["clicks"], min_length=1, max_length=2)


class ToldShown(Schema):
    """What every diagnosis tells beside its rows: `behind`, how many rows of what stood behind it; `lacking`, what would be
    needed to say more."""

    period: PeriodShown
    before: PeriodShown | None
    sentences: list[str]
    behind: dict[str, int]
    lacking: list[str]
    month_share: float
    total: int
    offset: int


class ContenderShown(Schema):
    page: str
    page_id: int
    share: float
    clicks: int
    impressions: int
    position: float
    days: int
    fit: Fit | None


class DecisionShown(Schema):
    id: int
    choice: str
    note: str
    decided_on: date
    by: str | None
    query_id: int | None = None
    page_id: int | None = None
    page: str | None = None
    query: str | None = None
    lead_id: int | None = None
    lead: str | None = None
    until: date | None = None
    move: int | None = None


class ClashDecision(DecisionShown):
    """What was decided about a clash, and whether it held."""

    status: Literal["contested", "settled", "too early", "accepted"]
    settled_since: date | None
    sentence: str


class ClashShown(Schema):
    query: str
    query_id: int
    kind: Kind
    effective_contenders: float
    hand_offs: float
    overlap: float
    gaps: int
    days: int
    clicks: int
    impressions: int
    best_position: float
    spread: float
    loss: float
    loss_cautious: float
    loss_month: float
    q_value: float
    evidence: Grade
    lead: str
    lead_id: int
    lead_reasons: list[str]
    resolution: Resolution
    resolution_reason: str
    sentence: str
    contenders: list[ContenderShown]
    decision: ClashDecision | None


class NoLongerClashing(Schema):
    """A query over which something was decided, and that does not clash in the period."""

    query: str
    query_id: int
    decision: ClashDecision


class Clashes(ToldShown):
    rows: list[ClashShown]
    no_longer: list[NoLongerClashing]
    kinds: dict[str, int]


class LaneDay(Schema):
    """A day of a contender; `best`: it was the best placed that day."""

    day: date
    clicks: int
    impressions: int
    position: float
    best: bool


class Lane(Schema):
    """A contender day by day, with what its page says, earns and is linked by; null where that is not known."""

    page: str
    page_id: int
    days: list[LaneDay]
    title: str | None
    heading: str | None
    words: int | None
    listing: bool
    clicks_in_all: int
    conversions: float | None
    links: int | None


class ClashBetween(Schema):
    """Another clash in which the same pages meet."""

    query: str
    query_id: int
    loss_month: float


class ClashFile(Schema):
    clash: ClashShown
    beside: list[MeasureBeside]
    alike: list[ClashBetween]
    lanes: list[Lane]


class FoldShown(Schema):
    page: str
    page_id: int
    other: str
    other_id: int
    kind: FoldKind
    shown_for: float
    say: float | None
    queries: int
    impressions: int
    clicks: int
    other_clicks: int
    since: date | None
    group: int
    sentence: str


class PageNamed(Schema):
    page: str
    page_id: int


class ClashOfGroup(ClashBetween):
    decided: Resolution | None


class PageGroup(Schema):
    """Pages shown for the same; `clashes`: the queries that they fight over, `resolution`: what is proposed for most of them
    (null: none)."""

    group: int
    pages: list[PageNamed]
    lead: str
    lead_id: int
    clashes: list[ClashOfGroup]
    resolution: Resolution | None


class TopicFolds(ToldShown):
    rows: list[FoldShown]
    groups: list[PageGroup]


class ChangeParts(Schema):
    clicks_before: float
    clicks_after: float
    demand: float
    rank: float
    snippet: float
    new_queries: float
    lost_queries: float
    unnamed: float


class ChangeShown(ChangeParts):
    """`name` of what it was added up by; its id where that is a page or a query."""

    name: str
    name_id: int | None


class Changes(ToldShown):
    rows: list[ChangeShown]
    by: By
    whole: ChangeParts


class BreakShown(Schema):
    name: str
    page_id: int | None = None
    week: date
    measure: Measure
    size: float
    before: float
    after: float
    evidence: Grade
    event: str | None
    season_known: bool


class CliffShown(Schema):
    event: str | None
    event_day: date | None
    week: date
    fell: bool
    pages: list[str]
    by_chance: float
    beyond_chance: bool
    sentence: str


class SpellOut(Schema):
    page: str
    page_id: int
    since: date
    back: date | None


class Breaks(ToldShown):
    rows: list[BreakShown]
    level: Level
    cliffs: list[CliffShown]
    out: list[SpellOut]


class SectionShown(Schema):
    """`stake_share`: what is at stake, of that and the clicks earned together."""

    section: str
    parent: str | None
    depth: int
    pages: int
    page: str | None
    page_id: int | None
    clicks: int
    impressions: int
    ctr: float | None
    position: float | None
    sessions: int | None
    bounces: int | None
    bounce_rate: float | None
    conversions: float | None
    value: float | None
    at_stake: float
    gain: float
    stake_share: float | None
    at_stake_month: float
    change: int | None = None
    clicks_before: int | None = None
    impressions_before: int | None = None
    sessions_before: int | None = None
    clicks_itself: int
    impressions_itself: int
    ctr_itself: float | None
    position_itself: float | None
    sessions_itself: int | None
    bounce_rate_itself: float | None
    conversions_itself: float | None
    value_itself: float | None
    at_stake_itself: float
    gain_itself: float
    clicks_before_itself: int | None = None


class TypeShown(Schema):
    """`usual_bounce_rate`: of the type, or of all pages where it has too few; null where it is not judged."""

    type: str
    pages: int
    clicks: int
    impressions: int
    at_stake: float
    gain: float
    sessions: int | None
    bounces: int | None
    conversions: float | None
    value: float | None
    usual_bounce_rate: float | None
    compared_with: str | None
    bounce_more: int
    bounce_less: int
    exempt: list[str]


class Sections(ToldShown):
    rows: list[SectionShown]
    types: list[TypeShown]


class PageMeasures(Schema):
    """A page's search measures beside its organic visits; null where they are not told."""

    type: str | None
    path: str | None
    clicks: int
    impressions: int
    ctr: float | None
    position: float | None
    sessions: int | None
    bounces: int | None
    seconds: float | None
    conversions: float | None
    value: float | None
    clicks_before: int | None = None
    impressions_before: int | None = None
    position_before: float | None = None
    sessions_before: int | None = None
    conversions_before: float | None = None
    value_before: float | None = None


class LandingShown(PageMeasures):
    page: str
    page_id: int
    bounce_rate: float | None
    usual_bounce_rate: float | None
    compared_with: str | None
    bounce_q_value: float | None
    bounce_evidence: Grade | None
    bounces_more: bool | None
    sessions_per_click: float | None
    usual_sessions: float | None
    sessions_evidence: Grade | None
    seconds_per_session: float | None
    conversions_per_click: float | None
    value_per_click: float | None
    role: Role | None


class LandingPages(ToldShown):
    rows: list[LandingShown]
    roles: dict[str, int]
    whole: dict[str, float | None]


class Account(PageMeasures):
    """A page's account, in clicks of the period (core/account.py); worth in the currency of the visits."""

    rows: int
    snippet: float
    rank: float
    unite: float
    snippet_cautious: float
    rank_cautious: float
    unite_cautious: float
    at_stake: float
    gain: float
    evidence: Grade
    value_per_click: float | None
    worth_basis: str | None
    worth: float | None
    gain_worth: float | None
    clashes: int
    misfits: int


class AccountShown(Account):
    page: str
    page_id: int
    reasons: list[str]
    gain_month: float
    at_stake_month: float
    change: int | None


class Pages(ToldShown):
    rows: list[AccountShown]
    whole: dict[str, float]


class AccountOfPage(Account):
    bounce_rate: float | None
    sessions_change: int | None


class EntryShown(Schema):
    """A row of a page's account; the levers are null for branded rows and those below the floor."""

    query: str
    query_id: int
    clicks: int
    impressions: int
    ctr: float | None
    position: float | None
    expected_clicks: float
    branded: bool
    snippet: float | None
    rank: float | None
    unite: float | None
    snippet_cautious: float | None
    rank_cautious: float | None
    unite_cautious: float | None
    at_stake: float
    evidence: Grade | None
    rank_evidence: Grade | None
    clash_evidence: Grade | None
    fit: Fit | None
    lacking: list[str] | None


class QueryChange(ChangeParts):
    query: str
    query_id: int


class ChangeOfPage(ChangeParts):
    sentences: list[str]
    queries: list[QueryChange]


class WeekShown(Schema):
    week: date
    clicks: int
    impressions: int


class CrawlFacts(Schema):
    status: int | None
    title: str | None
    heading: str | None
    headings: list[str] | None
    description: str | None
    words: int | None
    robots: str | None
    canonical: str | None


class AnchorShown(Schema):
    anchor: str
    pages: int


class LinksOfPage(Schema):
    """How many pages of the site link to a page, and to how many it links; `pages_in_body`: from their main text; `sites`:
    other sites that link to it, null where links are not loaded."""

    pages_in: int
    pages_in_body: int
    anchors: list[AnchorShown]
    from_body: list[str]
    pages_out: int
    sites: int | None


class ResultBlock(Schema):
    query: str
    query_id: int
    captured: date
    device: int
    country: int
    place: int
    block: str
    title: str | None
    address: str | None
    snippet: str | None
    own: bool


class DecidedShown(Schema):
    """A move or a decision about a page, a row of it, or a clash that it shall lead; `came_of_it`: clicks a day, kept on
    record."""

    on: date
    word: str
    what: str
    query: str | None
    note: str
    by: str | None
    move: int | None
    came_of_it: float | None
    outcome_evidence: Grade | None


class PageFile(Schema):
    """One page with all that is known of it, and the rows behind each figure of its account."""

    page: str
    page_id: int
    account: AccountOfPage
    beside: list[MeasureBeside]
    reasons: list[str]
    rows: list[EntryShown]
    change: ChangeOfPage | None
    breaks: list[BreakShown]
    out: list[SpellOut]
    clashes: list[ClashShown]
    topic_folds: list[FoldShown]
    weeks: list[WeekShown]
    crawl: CrawlFacts | None
    links: LinksOfPage | None
    results: list[ResultBlock]
    results_sentence: str | None
    decided: list[DecidedShown]
    lacking: list[str]


class QueryPage(Schema):
    """A page that was shown for a query; `days` of the first eight pages alone."""

    page: str
    page_id: int
    clicks: int
    impressions: int
    ctr: float | None
    position: float | None
    expected_clicks: float
    change: int | None = None
    clicks_before: int | None = None
    position_before: float | None = None
    fit: Fit | None
    lacking: list[str] | None
    days: list[LaneDay]


class QueryFile(Schema):
    """One query with every page shown for it; `clash`: why it is fought over, null where it is not."""

    period: PeriodShown
    before: PeriodShown | None
    query: str
    query_id: int
    branded: bool
    sentences: list[str]
    beside: list[MeasureBeside]
    pages: list[QueryPage]
    clash: str | None
    results: list[ResultBlock]
    results_sentence: str | None


class WeekBeside(Schema):
    """A week beside the same week a year before; null: not known. `days`: how many of its days have search facts."""

    week: date
    days: int
    in_period: bool
    clicks: int | None
    impressions: int | None
    sessions: int | None
    clicks_before: int | None
    impressions_before: int | None
    sessions_before: int | None
    clicks_change: int | None
    impressions_change: int | None
    sessions_change: int | None


class Mover(ChangeParts):
    page: str
    page_id: int
    by: float
    role: Role | None


class RoleChange(Schema):
    role: Role | None
    pages: int
    clicks_before: float
    clicks_after: float
    by: float


class ChangeOfSite(ChangeParts):
    sentences: list[str]


class EventFlag(Schema):
    id: int
    first_day: date
    last_day: date
    title: str
    kind: str


class Standing(Schema):
    """Where the site, or a section of it, stands; `change` null where there is nothing to compare with."""

    period: PeriodShown
    before: PeriodShown | None
    sentences: list[str]
    measures: list[MeasureBeside]
    weeks: list[WeekBeside]
    change: ChangeOfSite | None
    down: list[Mover]
    up: list[Mover]
    by_role: list[RoleChange]
    events: list[EventFlag]
    lacking: list[str]


class SubjectGiven(Schema):
    """A row (page and query), a page, or the clash over a query (no page)."""

    page: int | None = Field(default=None, ge=1, le=2**31)
    query: int | None = Field(default=None, ge=1, le=2**31)


class DecisionGiven(Schema):
    subjects: list[SubjectGiven] = Field(max_length=500)
    choice: str = Field(max_length=10)
    lead: int | None = Field(default=None, ge=1, le=2**31)
    note: str = Field(default="", max_length=5_000)
    until: date | None = None
    decided_on: date | None = None


class Facets(Schema):
    devices: list[str]
    countries: list[str]
    page_types: list[str]
    query_groups: list[str]


class MethodShown(Schema):
    """A rule in our words: its name in addresses, its title, its text (Markdown)."""

    name: str
    title: str
    text: str


class QueryGroupShown(Schema):
    """A query group; "" for the queries that lie in none. `change`, `why`: null without days to compare with."""

    group: str
    queries: int
    pages: int
    clicks: int
    impressions: int
    ctr: float | None
    position: float | None
    at_stake: float
    at_stake_month: float
    gain: float
    gain_month: float
    evidence: Grade
    change: float | None
    why: ChangeOfSite | None


class QueryGroups(ToldShown):
    """`known`: how many groups the site has, shown or not."""

    known: int
    rows: list[QueryGroupShown]
