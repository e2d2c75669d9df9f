"""Request and response models. The front end's types are generated from them."""

from datetime import date, datetime
from typing import TYPE_CHECKING, Annotated, Any, Literal, TypeAlias

from ninja import Field, Schema

from zugzwang.core.facts.grains import SERVED
from zugzwang.core.facts.visits import Channel
from zugzwang.intake.kinds import KINDS
from zugzwang.intake.tables import Repeats

if TYPE_CHECKING:
    Source: TypeAlias = str
    Served: TypeAlias = str
else:
    Source = Literal[*KINDS]
    Served = Literal[*SERVED]
Id = Annotated[int, Field(ge=1, le=2**31)]  # of a page, a query or anything that has rows


class Days(Schema):
    """The first and last day, both included."""

    first: date
    last: date


class Credentials(Schema):
    username: str = Field(max_length=150)
    password: str = Field(max_length=1000)
    code: str = Field(default="", max_length=20)  # of the second factor, if required


class PreferencesShown(Schema):
    """A person's reading preferences; empty means the defaults."""

    language: str = Field(default="", max_length=8)
    time_zone: str = Field(default="", max_length=64)
    currency: str = Field(default="", max_length=3)
    single_keys: bool = True


class Session(Schema):
    username: str | None
    preferences: PreferencesShown


class CurvePoint(Schema):
    position: float
    ctr: float


class SiteAdded(Schema):
    name: str = Field(max_length=200)
    address: str = Field(max_length=200)
    slug: str = Field(max_length=50)


class SiteChanged(Schema):
    brand_patterns: list[str] | None = Field(default=None, max_length=100)
    min_impressions: int | None = Field(default=None, ge=0, le=10**9)
    curve: list[CurvePoint] | Literal["fitted"] | None = None


class SiteShown(Schema):
    slug: str
    name: str
    address: str
    may_change: bool
    may_own: bool
    archived: bool
    brand_patterns: list[str]
    min_impressions: int
    currency: str
    own_curve: list[CurvePoint] | None
    first_day: date | None
    last_day: date | None
    missing_days: int
    spans: list[Days]
    sources: list[Source]  # the kinds of data that the site has


class BrandEffect(Schema):
    patterns: list[str]
    queries: int
    clicks_share: float | None
    examples: list[str]


class ChoicesMade(Schema):
    """Choices for a file that its contents leave open; null: use the suggestion."""

    sheet: str | None = Field(default=None, max_length=200)
    encoding: str | None = Field(default=None, max_length=20)
    header_line: int | None = Field(default=None, ge=1, le=1000)
    decimal: Literal[".", ","] | None = None
    day_order: Literal["day first", "month first"] | None = None
    channel: Channel | None = None
    span: Days | None = None
    any_host: bool = False
    repeats: Repeats | None = None


class TableChosen(Schema):
    source: Source | None = None
    mapping: dict[str, int] | None = None
    choices: ChoicesMade = ChoicesMade()
    skip: bool = False


class FieldShown(Schema):
    name: str
    required: bool


class TableSeen(Schema):
    name: str
    refused: str
    source: Source
    header: list[str]
    header_line: int
    unit: str
    mapping: dict[str, int]
    missing: list[str]
    fields: list[FieldShown]
    first_rows: list[list[str]]
    rows_about: int
    notices: list[str]
    sheets: list[str]
    sheet: str | None
    encoding: str | None
    decimal: str
    day_order: str | None
    ambiguous_days: bool
    remembered: bool
    could_be: list[Source]
    needs_span: bool
    span: Days | None
    span_from: str


class Uploaded(Schema):
    upload: str
    name: str
    tables: list[TableSeen]
    encodings: list[str]


class ArchiveRequest(Schema):
    site: str
    job: int


class CompetingPagesRequest(Schema):
    queries: list[Id] | None = Field(default=None, max_length=5_000)


class LookRequest(Schema):
    tables: dict[int, TableChosen] = Field(default={}, max_length=200)


class LoadRequest(LookRequest):
    upload: str
    mode: Literal["replace", "add"] | None = None
    keep_good_rows: bool = False
    dry_run: bool = False


class RetryRequest(Schema):
    keep_good_rows: bool = False


class LogLine(Schema):
    at: datetime
    line: str


class JobShown(Schema):
    id: int
    kind: Literal["load", "refresh", "crawl", "above", "report", "archive"]
    title: str
    state: Literal["waiting", "running", "done", "refused", "failed", "cancelled"]
    step: str
    done_share: float
    cancel_requested: bool
    outcome: dict[str, Any]
    log: list[LogLine]
    dry_run: bool
    upload: str | None
    has_refused_rows: bool
    made_at: datetime
    ended_at: datetime | None


class DayLoaded(Schema):
    day: date
    rows: int
    measure: int


class GrainLoaded(Schema):
    name: str
    rows: int
    first_day: date | None
    last_day: date | None
    days: list[DayLoaded]
    missing: list[date]
    clicks: int | None
    withheld_clicks: int | None


class Unsound(Schema):
    message: str
    remedy: str
    examples: list[str]
    count: int


class SourceLoaded(Schema):
    source: Source
    rows: int
    grains: list[GrainLoaded]
    loaded_at: datetime | None
    loaded_by: str
    loaded_from: str
    says: str
    unsound: list[Unsound]


class RefreshesRequest(Schema):
    sites: list[str]


class LoadListed(Schema):
    id: int
    source: Source
    name: str
    by: str
    rows: int
    first_day: date | None
    last_day: date | None
    made_at: datetime
    taken_back_at: datetime | None
    taken_back_by: str


class LoadShown(LoadListed):
    report: dict[str, Any]


class Loads(Schema):
    total: int
    loads: list[LoadListed]


class ConnectionInput(Schema):
    address: str = Field(max_length=500)
    token: str | None = Field(default=None, max_length=500)
    private_allowed: bool = False
    nightly: bool = False


class ConnectionShown(Schema):
    source: Served
    address: str
    has_token: bool
    private_allowed: bool
    nightly: bool
    requested_at: datetime | None


class RefreshRequest(Schema):
    sources: list[Source] | None = None


class CrawlRequest(Schema):
    hosts: list[str] = Field(default=[], max_length=50)
    pages_max: int = Field(default=50_000, ge=1, le=1_000_000)
    connections: int = Field(default=8, ge=1, le=32)
    delay_seconds: float = Field(default=0.0, ge=0, le=60)


class EventInput(Schema):
    first_day: date
    last_day: date | None = None
    title: str = Field(max_length=300)
    kind: str = Field(default="", max_length=60)
    note: str = Field(default="", max_length=5000)


class EventShown(EventInput):
    id: int


class PageTypeInput(Schema):
    name: str = Field(max_length=60)
    patterns: list[str] = Field(default=[], max_length=100)
    structured_data: list[str] = Field(default=[], max_length=100)
    exempt: list[Literal["bounce", "queries"]] = []


class QueryGroupInput(Schema):
    name: str = Field(max_length=60)
    patterns: list[str] = Field(max_length=100)


class RulesInput(Schema):
    drop_parameters: list[str] = Field(max_length=200)
    fold_host: bool
    former_hosts: list[str] = Field(default=[], max_length=50)
    slash: Literal["seen", "with", "without", "separate"]
    separate: list[str] = Field(max_length=200)
    left_out: list[str] = Field(max_length=200)
    page_types: list[PageTypeInput] = Field(max_length=50)
    query_groups: list[QueryGroupInput] = Field(max_length=500)
    own_networks: list[str] = Field(max_length=200)
    search_hosts: list[str] = Field(max_length=200)
    crawlers: list[str] = Field(default=[], max_length=200)
    language: str = Field(default="english", max_length=30)
    version: str | None = Field(default=None, max_length=64)  # the version of the rules that the change is based on; null: any


class FoldExample(Schema):
    from_: str = Field(alias="from")
    to: str
    reasons: list[str]
    clicks: int


class PageExample(Schema):
    text: str
    clicks: int


class Counted(Schema):
    name: str
    count: int
    clicks: int
    examples: list[str]


class HostSeen(Schema):
    host: str | None
    pages: int
    clicks: int


class RulesEffect(Schema):
    pages: int
    pages_counting: int
    folded: int
    folded_by_reason: dict[str, int]
    folded_examples: list[FoldExample]
    left_out: int
    left_out_clicks_share: float | None
    left_out_examples: list[PageExample]
    types: list[Counted]
    groups: list[Counted]
    hosts: list[HostSeen]


class RuleChangeShown(Schema):
    id: int
    made_at: datetime
    by: str
    words: str


class BrandSuggestion(Schema):
    pattern: str
    reason: str
    queries: int
    ctr: float | None
    ctr_of_other_queries: float | None
