"""What the API takes and gives. The front end's types are made from these."""

from datetime import date, datetime
from typing import Any, Literal

from ninja import Field, Schema

from zugzwang.core.click_curve import Basis
from zugzwang.core.evidence import Grade
from zugzwang.core.headroom import Target
from zugzwang.core.lenses import Lens
from zugzwang.core.periods import Comparison
from zugzwang.desk.queries import Sort


class Credentials(Schema):
    username: str = Field(max_length=150)
    password: str = Field(max_length=1000)


class Session(Schema):
    username: str | None


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
    brand_patterns: list[str]
    min_impressions: int
    own_curve: list[CurvePoint] | None
    first_day: date | None
    last_day: date | None
    missing_days: int


class BrandEffect(Schema):
    patterns: list[str]
    queries: int
    clicks_share: float | None
    examples: list[str]


class PeriodShown(Schema):
    first: date
    last: date
    days: int
    sentence: str
    missing: str


class Row(Schema):
    page: int
    query: int
    page_text: str
    query_text: str
    clicks: int
    impressions: int
    ctr: float
    position: float
    expected_clicks: float
    expected_ctr: float
    shortfall: float
    headroom: float
    at_stake: float
    at_stake_month: float
    q_value: float
    evidence: Grade
    clicks_before: int | None = None
    impressions_before: int | None = None
    position_before: float | None = None


class Counts(Schema):
    firm: int
    likely: int
    thin: int


class BandPoint(CurvePoint):
    low: float
    high: float


class Rows(Schema):
    lens: Lens
    period: PeriodShown
    before: PeriodShown | None
    min_impressions: int
    brand_patterns: list[str]
    curve_basis: Basis
    curve_sentence: str
    tested: int
    in_lens: Counts
    total: int
    at_stake_month: float
    offset: int
    rows: list[Row]


class Dot(Schema):
    page: int
    query: int
    query_text: str
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


class Finding(Schema):
    q_value: float
    evidence: Grade
    shortfall: float
    headroom: float
    at_stake: float
    at_stake_month: float
    clicks_before: int | None = None
    impressions_before: int | None = None
    position_before: float | None = None


class Evidence(Schema):
    page: int
    query: int
    page_text: str
    query_text: str
    sentences: list[str]
    clicks: int
    impressions: int
    ctr: float
    ctr_low: float
    ctr_high: float
    position: float
    expected_clicks: float
    usual_low: int
    usual_high: int
    target: float
    finding: Finding | None
    days: list[DayExpected]
    days_before: list[Day]


class Uploaded(Schema):
    upload: str
    name: str
    header: list[str]
    mapping: dict[str, int]
    missing: list[str]
    fields: list[str]
    required: list[str]
    first_rows: list[list[str]]
    rows_about: int


class LoadAsked(Schema):
    upload: str
    mapping: dict[str, int]
    days: Literal["replace", "add"] = "replace"
    keep_good_rows: bool = False


class AskedAgain(Schema):
    keep_good_rows: bool = False


class JobShown(Schema):
    id: int
    title: str
    state: Literal["waiting", "running", "done", "refused", "failed", "cancelled"]
    step: str
    done_share: float
    cancel_asked: bool
    outcome: dict[str, Any]
    has_refused_rows: bool
    made_at: datetime
    ended_at: datetime | None


class ListAsked(Schema):
    """The query string of a lens; field names are those of the browser's address bar."""

    lens: Lens = "low-ctr"
    first: date | None = Field(default=None, alias="from")
    last: date | None = Field(default=None, alias="to")
    compare: Comparison = "none"
    min_impressions: int | None = Field(default=None, ge=0, le=10**9)
    target: Target = "next-band"
    text: str = Field(default="", max_length=500)
    evidence: list[Grade] = Field(default=["firm", "likely", "thin"])
    position_from: float | None = Field(default=None, ge=0, le=1000)
    position_to: float | None = Field(default=None, ge=0, le=1000)
    sort: Sort = "at_stake"
    descending: bool = True


class WindowAsked(ListAsked):
    offset: int = Field(default=0, ge=0, le=10**9)
    limit: int = Field(default=100, ge=1, le=500)
