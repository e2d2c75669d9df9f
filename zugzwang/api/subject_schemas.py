"""What the API gives of one thing whole: a row, a page, a query, a clash, the site. Rows of findings are as they declare."""

from datetime import date
from typing import Any, Literal

from ninja import Schema

from zugzwang.api.findings import ROWS, ComparisonShown, PeriodShown
from zugzwang.core.clicks.evidence import Grade
from zugzwang.core.drafts.check import FaultKind, TermState
from zugzwang.core.drafts.terms import Tier
from zugzwang.core.pages.fit import Fit
from zugzwang.core.pages.landing import Role
from zugzwang.core.results.blocks import BlockKind
from zugzwang.core.words.missing_queries import OnPage
from zugzwang.core.words.titles import Problem
from zugzwang.findings.shapes import ChangeParts, ChangeSummary, ClashBetween, SpellOut

LensRow: Any = ROWS["low-ctr"]
PageRow: Any = ROWS["pages"]
ClashRow: Any = ROWS["clashes"]
FoldRow: Any = ROWS["overlapping-pages"]
BreakRow: Any = ROWS["breaks"]


MissingQueriesRow: Any = ROWS["missing-queries"]
TitleRow: Any = ROWS["titles"]
ResultsRow: Any = ROWS["serp-captures"]
BoxRow: Any = ROWS["featured-snippets"]
GapRow: Any = ROWS["competitor-queries"]
NeedsRow: Any = ROWS["needs-links"]
LinkFaultRow: Any = ROWS["broken-links"]
SuggestedLinksRow: Any = ROWS["suggested-links"]


class Square(Schema):
    """Fifty words of a page from `first` on, and the sayings that begin among them."""

    first: int
    exact: int
    others: int
    text: str


class HeadingAt(Schema):
    at: int
    level: int
    text: str


class SayingAt(Schema):
    """A saying that begins at the nth word, with its sentence."""

    nth: int
    exact: bool
    sentence: str


class Strip(Schema):
    """What a page says of a phrase, from top to bottom."""

    page: str
    page_id: int
    phrase: str
    title: str | None
    title_says: bool
    description: str | None
    heading: str | None
    heading_says: bool
    words: int
    on_page: OnPage
    said: int
    other_form_uses: int
    first_use_share: float | None
    where: list[str]
    squares: list[Square]
    headings: list[HeadingAt]
    sayings: list[SayingAt]
    long_paragraphs: int
    lists: int
    tables: int
    sentence: str
    finding: MissingQueriesRow | None


class MainCandidate(Schema):
    query_id: int
    query: str
    clicks: int
    impressions: int
    position: float
    fit: Fit | None


class TitleShown(Schema):
    """A title and snippet of the page as a captured SERP has them."""

    query: str
    title: str | None
    snippet: str | None


class TitleFile(Schema):
    page: str
    page_id: int
    title: str | None
    description: str | None
    heading: str | None
    main_query_id: int | None
    chosen: bool
    candidates: list[MainCandidate]
    shown: list[TitleShown]
    finding: TitleRow | None
    missing_queries: list[MissingQueriesRow]


class BlockToScale(Schema):
    rank: int
    kind: BlockKind
    answer: str | None
    pixels: int
    title: str | None
    address: str | None
    snippet: str | None
    own: bool


class Capture(Schema):
    """A captured SERP; `screen`: how many pixels one sees at once."""

    captured: date
    device: str
    screen: int
    blocks_above: int | None
    screens_down: float | None
    sentence: str
    changed: str | None
    blocks: list[BlockToScale]


class MeasureSideBySide(Schema):
    """A measure of the site and of each page above; `outside`: on which side of their range the site's own lies."""

    name: str
    label: str
    yes_no: bool
    outside: Literal["low", "high"] | None
    ours: float | None
    above: list[float | None]


class SideBySide(Schema):
    pages: list[str]
    measures: list[MeasureSideBySide]
    fetched: bool
    rank: int | None
    rank_within_reach: int | None
    stronger: int | None


class PassageShown(Schema):
    heading: str
    text: str
    characters: int
    words: int
    items: int
    cells: int
    is_short_answer: bool


class BoxShown(Schema):
    finding: BoxRow
    ours: PassageShown | None
    holder: PassageShown | None


class CaptureFile(Schema):
    """A query's SERP with everything about it."""

    query: str
    query_id: int
    page: str | None
    page_id: int | None
    captures: list[Capture]
    costs: list[str]
    finding: ResultsRow | None
    side_by_side: SideBySide | None
    box: BoxShown | None
    won: list[GapRow]


class CurvePoint(Schema):
    position: float
    ctr: float


class BandPoint(CurvePoint):
    low: float
    high: float


class MeasureCompared(Schema):
    """A measure now and before, over the days that both periods have; `change_share` of counts alone."""

    name: Literal["clicks", "impressions", "ctr", "position", "sessions", "bounce_rate", "conversions", "value"]
    now: float | None
    before: float | None
    change: float | None
    change_share: float | None


class Dot(Schema):
    page_id: int
    query_id: int
    name: str
    position: float
    ctr: float
    impressions: int
    evidence: Grade | None


class QueryField(Schema):
    dots: list[Dot]
    tested: int
    curve: list[BandPoint]
    basis: str


class Day(Schema):
    day: date
    clicks: int
    impressions: int
    position: float | None


class DayExpected(Day):
    expected_clicks: float


class RowProof(Schema):
    """One row with its proof; `finding`: it as the lens lists it, null where it does not. Over all pages of a query (or all
    queries of a page) the page (or the query) is null, its id 0."""

    page: str | None
    page_id: int
    query: str | None
    query_id: int
    sentences: list[str]
    clicks: int
    impressions: int
    ctr: float
    ctr_low: float
    ctr_high: float
    position: float
    expected_clicks: float
    expected_ctr: float
    usual_low: int
    usual_high: int
    target: float
    beside: list[MeasureCompared]
    finding: LensRow | None
    days: list[DayExpected]
    days_before: list[Day]


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


class ClashFile(Schema):
    clash: ClashRow
    beside: list[MeasureCompared]
    alike: list[ClashBetween]
    lanes: list[Lane]


class AccountOfPage(PageRow):  # type: ignore[misc]
    bounce_rate: float | None
    sessions_change: int | None


class LeversByMonth(Schema):
    """Clicks a month in whole numbers; `together` is their sum."""

    snippet: int
    unite: int
    rank: int
    together: int


class AccountByMonth(Schema):
    """A page's account by the month: `expected`, and `at_least` by a cautious estimate."""

    earned: int
    expected: LeversByMonth
    at_least: LeversByMonth


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
    lost: float
    potential: float
    opportunity: float
    lost_month: float
    potential_month: float
    opportunity_month: float
    evidence: Grade | None
    rank_evidence: Grade | None
    clash_evidence: Grade | None
    fit: Fit | None
    lacking: list[str] | None


class QueryChange(ChangeParts):
    query: str
    query_id: int


class ChangeOfPage(ChangeSummary):
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


class LinkShown(Schema):
    """A link of a page, by the page at its other end."""

    page_id: int | None
    address: str
    anchors: list[str]
    in_body: bool
    followed: bool


class LinksFile(Schema):
    """A page's links with what it needs, and the plan for it; authority as a share of the site, 0…1."""

    finding: NeedsRow
    inward: list[LinkShown]
    outward: list[LinkShown]
    faults: list[LinkFaultRow]
    plan: list[SuggestedLinksRow]
    sentences: list[str]
    authority_before: float
    authority_after: float


class ResultBlock(Schema):
    query: str
    query_id: int
    captured: date
    device: int
    country: int
    rank: int
    block: str
    title: str | None
    address: str | None
    snippet: str | None
    own: bool


class DecidedShown(Schema):
    """A move or a decision about a page, a row of it, or a clash that it should lead; `result_clicks`: clicks a day, kept on
    record."""

    on: date
    word: str
    what: str
    query: str | None
    note: str
    by: str | None
    move: int | None
    result_clicks: float | None
    outcome_evidence: Grade | None


class PageFile(Schema):
    """One page with all that is known of it, and the rows behind each figure of its account."""

    page: str
    page_id: int
    account: AccountOfPage
    months: AccountByMonth
    beside: list[MeasureCompared]
    reasons: list[str]
    rows: list[EntryShown]
    change: ChangeOfPage | None
    breaks: list[BreakRow]
    out: list[SpellOut]
    clashes: list[ClashRow]
    overlapping_pages: list[FoldRow]
    weeks: list[WeekShown]
    crawl: CrawlFacts | None
    links: LinksOfPage | None
    results: list[ResultBlock]
    results_sentence: str | None
    decided: list[DecidedShown]
    lacking: list[str]


class QueryPage(Schema):
    """A page that ranked for a query; `days` of the first eight pages alone."""

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
    """One query with every page that ranks for it; `clash`: why it is contested, null where it is not."""

    period: PeriodShown
    before: PeriodShown | None
    comparison: ComparisonShown | None
    query: str
    query_id: int
    branded: bool
    sentences: list[str]
    beside: list[MeasureCompared]
    pages: list[QueryPage]
    clash: str | None
    results: list[ResultBlock]
    results_sentence: str | None


class WeekCompared(Schema):
    """A week next to the same week a year before; null: not known. `days`: how many of its days have search facts."""

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


class EventFlag(Schema):
    id: int
    first_day: date
    last_day: date
    title: str
    kind: str


class Changes(Schema):
    """Where the site, or a section of it, is; `change` null where there is nothing to compare with."""

    period: PeriodShown
    before: PeriodShown | None
    comparison: ComparisonShown | None
    sentences: list[str]
    measures: list[MeasureCompared]
    weeks: list[WeekCompared]
    change: ChangeSummary | None
    down: list[Mover]
    up: list[Mover]
    by_role: list[RoleChange]
    events: list[EventFlag]
    lacking: list[str]


class BriefQuery(Schema):
    query: str
    searches: float | None


class BriefTerm(Schema):
    """A term of the competing pages. `per_thousand`: lower quartile, middle and upper quartile in 1,000 words; `the site's
    own`: how often our page says it (null: none is compared)."""

    text: str
    tier: Tier
    pages: int
    per_thousand: list[float]
    ours: int | None


class BriefMeasure(Schema):
    name: str
    low: float
    middle: float
    high: float
    pages: int


class BriefLink(Schema):
    """A link to set to the page, and the page that it is on."""

    page: str
    anchor: str
    sentence: str | None


class BriefShown(Schema):
    """All that a writer must know. `above`: what the fetched pages above have; lengths are the most letters; null where no
    short answer is wanted."""

    query: str
    page: str | None
    topic: str | None
    searches: float | None
    intent: str | None
    peak_month: int | None
    ready_by: date | None
    queries: list[BriefQuery]
    questions: list[str]
    terms: list[BriefTerm]
    coverage: float | None
    coverage_above_median: float | None
    coverage_sentence: str
    above: list[BriefMeasure]
    outline: list[str]
    title_letters: int
    description_letters: int
    short_answer_letters: int | None
    links: list[BriefLink]


class TermChecked(Schema):
    """A term in a draft: how often it is said, and between which counts the competing pages say it in a text of this length."""

    text: str
    tier: Tier
    said: int
    least: float
    most: float
    state: TermState


class FaultShown(Schema):
    """Something that reads badly: the stretch of text that is meant, and what to do. `page`: another page of the site."""

    kind: FaultKind
    quote: str
    words: str
    page: str | None


class DraftChecked(Schema):
    """A draft next to the competing pages. `length`, `ease`: the quartiles of the competing pages; `short_answer`: its
    characters."""

    words: int
    length: tuple[float, float] | None
    reading_ease: float | None
    ease: tuple[float, float] | None
    coverage: float | None
    coverage_above_median: float | None
    sentence: str
    terms: list[TermChecked]
    faults: list[FaultShown]
    problems: list[Problem]
    short_answer: int | None
    short_answer_wanted: bool


class Named(Schema):
    id: int
    text: str


class NamesFound(Schema):
    """Pages and queries whose text contains what was typed."""

    pages: list[Named]
    queries: list[Named]
