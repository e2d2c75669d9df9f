"""Columns and fields that several findings share, declared once."""

from zugzwang.findings.finding import Column

PART = ("device", "country")
PAGES = ("section", "page_type")
POSITIONS = ("position_from", "position_to")

PAGE = Column("page", "page", "page", "the address of the page", low=True)
QUERY = Column("query", "query", "query", "what was searched for", low=True)
CLICKS = Column("clicks", "count", "clicks", "clicks in the period", "clicks in the period")
IMPRESSIONS = Column("impressions", "count", "impressions", "impressions in the period", "times in the period")
CTR = Column("ctr", "share", "CTR", "clicks divided by impressions", null=True, low=True)
POSITION = Column(
    "position", "position", "position", "average position, weighted by impressions; 1 is first", null=True, low=True
)
EVIDENCE = Column(
    "evidence",
    "grade",
    "evidence",
    "how sure it is: firm (1 % false alarms), likely (10 %), possible or too little data",
    low=True,
)
CHANGE = Column("change", "count", "change", "clicks now minus clicks in the comparison period", null=True, compared=True)
CLICKS_BEFORE = Column("clicks_before", "count", "clicks before", "clicks in the comparison period", null=True, compared=True)
IMPRESSIONS_BEFORE = Column(
    "impressions_before", "count", "impressions before", "impressions in the comparison period", null=True, compared=True
)
POSITION_BEFORE = Column(
    "position_before",
    "position",
    "position before",
    "average position in the comparison period",
    null=True,
    low=True,
    compared=True,
)
LOST = "expected minus actual clicks"
POTENTIAL = "clicks that the target position would add"
LOST_MONTH = Column("lost_month", "amount", "lost clicks", f"{LOST}, a month", "clicks a month")
POTENTIAL_MONTH = Column("potential_month", "amount", "potential clicks", f"{POTENTIAL}, a month", "clicks a month")
TAKEN = "clicks that SERP features above it take"
TAKEN_MONTH = Column("taken_month", "amount", "lost to SERP features", f"{TAKEN}, a month", "clicks a month")
OPPORTUNITY_MONTH = Column(
    "opportunity_month", "amount", "", "opportunity: lost and potential clicks a month", "clicks a month"
)
STAKES = (
    Column("lost", "amount", "", LOST, "clicks in the period"),
    Column("potential", "amount", "", POTENTIAL, "clicks in the period"),
    Column("opportunity", "amount", "", "opportunity: lost and potential clicks together", "clicks in the period"),
    OPPORTUNITY_MONTH,
)
SENTENCE = Column("sentence", "text", late=True)
PARTS = (
    Column("shown", "amount", "impressions", "the part of the change that comes from impressions", "clicks"),
    Column(
        "rank_or_demand",
        "amount",
        "ranking or demand",
        "change of impressions of rows that crossed position 10: ranking or demand",
        "clicks",
    ),
    Column("device_mix", "amount", "devices", "the part that comes from a different mix of devices", "clicks"),
    Column("demand", "amount", "", "all that comes from impressions", "clicks"),
    Column("rank", "amount", "rank", "the part that comes from ranking changes", "clicks"),
    Column("snippet", "amount", "snippet", "the part that comes from CTR at the same positions", "clicks"),
    Column("new_queries", "amount", "new queries", "clicks of new queries", "clicks"),
    Column("lost_queries", "amount", "lost queries", "clicks of lost queries", "clicks"),
    Column("anonymised", "amount", "anonymised queries", "the change that no known query explains", "clicks"),
)
