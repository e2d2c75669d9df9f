"""Response models for single subjects: a row, a page, a query, a clash, the site. Findings declare their own rows."""

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
    """Fifty words of a page from word `first` on, and the occurrences that begin among them."""

    first: int
    exact: int
    other_forms: int
    text: str


class HeadingAt(Schema):
    at: int
    level: int
    text: str


class SayingAt(Schema):
    """An occurrence that begins at the nth word, with its sentence."""

    nth: int
    exact: bool
    sentence: str


class Strip(Schema):
    """Where on a page a phrase occurs, from top to bottom."""

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
    exact_uses: int
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
    """The page's title and snippet in a captured SERP."""

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
    """A captured SERP; `screen`: the height in pixels visible at once."""

    captured: date
    device: str
    screen: int
    blocks_above: int | None
    screens_down: float | None
    sentence: str
    changed: str | None
    blocks: list[BlockToScale]


class MeasureSideBySide(Schema):
    """A measure for the site and each competing page; `outside`: on which side of the competitors' range the site lies."""

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
    """A query's SERP and everything computed from it."""

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
    """A measure now and before, over the days that both periods have; only counts have a `change_share`."""

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
    """A row with its evidence; `finding`: the row as listed, null where it is not listed. For all pages of a query (or all
    queries of a page) the page (or query) is null with id 0.
    """

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
    compared: list[MeasureCompared]
    finding: LensRow | None
    days: list[DayExpected]
    days_before: list[Day]


class LaneDay(Schema):
    """One day of a contender; `best`: it ranked best that day."""

    day: date
    clicks: int
    impressions: int
    position: float
    best: bool


class Lane(Schema):
    """A contender day by day, with its fit to the query, clicks and links; null where unknown."""

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
    compared: list[MeasureCompared]
    alike: list[ClashBetween]
    lanes: list[Lane]


class AccountOfPage(PageRow):  # type: ignore[misc]
    bounce_rate: float | None
    sessions_change: int | None


class LeversByMonth(Schema):
    """Clicks a month as whole numbers; `together` is their sum."""

    snippet: int
    unite: int
    rank: int
    together: int


class AccountByMonth(Schema):
    """A page's opportunity a month: `expected`, and `at_least` as a cautious estimate."""

    earned: int
    expected: LeversByMonth
    at_least: LeversByMonth


class EntryShown(Schema):
    """A row of a page's account; the levers are null for branded rows and rows with too few impressions."""

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
    """How many of the site's pages link to this page, and how many it links to; `pages_in_body`: from main text only; `sites`:
    referring domains, null where backlinks are not loaded.
    """

    pages_in: int
    pages_in_body: int
    anchors: list[AnchorShown]
    from_body: list[str]
    pages_out: int
    sites: int | None


class LinkShown(Schema):
    """A link of a page, with the page at its other end."""

    page_id: int | None
    address: str
    anchors: list[str]
    in_body: bool
    followed: bool


class LinksFile(Schema):
    """A page's links, what it needs, and suggested links; authority as a share of the site, 0…1."""

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
    """A move or decision about a page, one of its rows, or a clash that it should lead; `result_clicks`: clicks a day, as
    saved.
    """

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
    """Everything known of one page, and the rows behind each figure of its account."""

    page: str
    page_id: int
    account: AccountOfPage
    months: AccountByMonth
    compared: list[MeasureCompared]
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
    """A page that ranks for a query; `days` only for the first eight pages."""

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
    """One query with every page that ranks for it; `clash`: why pages compete, null where they do not."""

    period: PeriodShown
    before: PeriodShown | None
    comparison: ComparisonShown | None
    query: str
    query_id: int
    branded: bool
    sentences: list[str]
    compared: list[MeasureCompared]
    pages: list[QueryPage]
    clash: str | None
    results: list[ResultBlock]
    results_sentence: str | None


class WeekCompared(Schema):
    """A week and the same week a year before; null: unknown. `days`: its days with search data."""

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
    """The site's or a section's clicks over time; `change` null without a period to compare with."""

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
    """A term on competing pages. `per_thousand`: lower quartile, median and upper quartile in 1,000 words; `own`: count on the
    site's own page (null without one).
    """

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
    """A link to set to the page, and the page to set it on."""

    page: str
    anchor: str
    sentence: str | None


class BriefShown(Schema):
    """Everything a writer needs. `above`: values of the fetched competing pages; lengths are maximum characters, null where no
    short answer is needed.
    """

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
    """A term in a draft: how often it occurs, and the range on competing pages for a text of this length."""

    text: str
    tier: Tier
    times_used: int
    least: float
    most: float
    state: TermState


class FaultShown(Schema):
    """A writing problem: the passage concerned, and what to do. `page`: another page of the site."""

    kind: FaultKind
    quote: str
    words: str
    page: str | None


class DraftChecked(Schema):
    """A draft compared with competing pages. `length`, `ease`: quartiles of the competing pages; `short_answer`: its
    characters.
    """

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
    needs_short_answer: bool


class Named(Schema):
    id: int
    text: str


class NamesFound(Schema):
    """Pages and queries that contain the typed text."""

    pages: list[Named]
    queries: list[Named]
