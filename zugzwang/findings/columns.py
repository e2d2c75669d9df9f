"""Columns and fields that several findings share, declared once."""

from zugzwang.findings.finding import Column

PART = ("device", "country")
PAGES = ("section", "page_type")
POSITIONS = ("position_from", "position_to")

PAGE = Column("page", "page", "page", "the address of the page", low=True)
QUERY = Column("query", "query", "query", "what was searched for", low=True)
CLICKS = Column("clicks", "count", "clicks", "clicks in the period", "clicks in the period")
IMPRESSIONS = Column("impressions", "count", "shown", "how often it was shown in search in the period", "times in the period")
CTR = Column("ctr", "share", "CTR", "clicks divided by impressions", null=True, low=True)
POSITION = Column("position", "position", "pos.", "average position, weighted by impressions; 1 is first", null=True, low=True)
EVIDENCE = Column("evidence", "grade", "evidence", "how sure it is: firm (1 % false alarms), likely (10 %) or thin", low=True)
CHANGE = Column("change", "count", "change", "clicks now less clicks in the days compared with", null=True, compared=True)
CLICKS_BEFORE = Column("clicks_before", "count", "clicks then", "clicks in the days compared with", null=True, compared=True)
IMPRESSIONS_BEFORE = Column(
    "impressions_before", "count", "shown then", "how often it was shown in the days compared with", null=True, compared=True
)
POSITION_BEFORE = Column(
    "position_before", "position", "pos. then", "average position in the days compared with", null=True, low=True, compared=True
)
LOST = "what is missing where it stands"
REACHABLE = "what a better place would bring, if it got there"
LOST_MONTH = Column("lost_month", "amount", "lost", f"clicks a month: {LOST}", "clicks a month")
REACHABLE_MONTH = Column("reachable_month", "amount", "reachable", f"clicks a month: {REACHABLE}", "clicks a month")
TAKEN = "what stands above it on its results page takes of the clicks that its positions usually bring"
TAKEN_MONTH = Column("taken_month", "amount", "taken", f"clicks a month: {TAKEN}", "clicks a month")
AT_STAKE_MONTH = Column("at_stake_month", "amount", "", "clicks a month lost and reachable together", "clicks a month")
STAKES = (
    Column("lost", "amount", "", LOST, "clicks in the period"),
    Column("reachable", "amount", "", REACHABLE, "clicks in the period"),
    Column("at_stake", "amount", "", "lost and reachable together", "clicks in the period"),
    AT_STAKE_MONTH,
)
SENTENCE = Column("sentence", "text", late=True)
PARTS = (
    Column("shown", "amount", "shown", "the part of the change that comes from how often it was shown", "clicks"),
    Column(
        "place_or_demand",
        "amount",
        "place or demand",
        "the same for rows that crossed position 10, where fewer see a result: from its place or from demand",
        "clicks",
    ),
    Column("device_mix", "amount", "devices", "the part that comes from another mix of devices", "clicks"),
    Column("demand", "amount", "", "how often it was shown in all: shown, and place or demand", "clicks"),
    Column("rank", "amount", "rank", "the part that comes from ranking changes", "clicks"),
    Column("snippet", "amount", "snippet", "the part that comes from how well its results are clicked", "clicks"),
    Column("new_queries", "amount", "new queries", "clicks of queries that are new", "clicks"),
    Column("lost_queries", "amount", "lost queries", "clicks of queries that are gone", "clicks"),
    Column("unnamed", "amount", "unnamed queries", "the change that no named query explains", "clicks"),
)
