"""Pages: clicks, opportunity by lever, and reasons."""

from typing import Any

import polars as pl

from zugzwang.core.clicks.evidence import GRADES, SURE
from zugzwang.core.clicks.headroom import Target
from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.search import ROW, ctr
from zugzwang.core.pages.account import LEVERS, accounts, entries, value_per_click, with_page_verdicts
from zugzwang.core.words import sentences
from zugzwang.core.worth.moves import suggested_by_lever
from zugzwang.data.cache import cached
from zugzwang.data.decided import settled_rows
from zugzwang.data.snapshot import Setting, Snapshot
from zugzwang.findings.clashes import cached_clashes, clashes_in
from zugzwang.findings.columns import (
    CHANGE,
    CLICKS,
    CLICKS_BEFORE,
    CTR,
    EVIDENCE,
    IMPRESSIONS,
    IMPRESSIONS_BEFORE,
    LOST_MONTH,
    PAGE,
    PAGES,
    PART,
    POSITION,
    POSITION_BEFORE,
    POSITIONS,
    POTENTIAL_MONTH,
    STAKES,
    TAKEN,
)
from zugzwang.findings.finding import Column, Finding, Found, Proposal, Proposes
from zugzwang.findings.lenses import all_stakes, lens_rows, row_fits, targets
from zugzwang.findings.measures import page_measures, visits_lacking
from zugzwang.findings.view import View, ViewOptions

REASONS = 3
GRADE = pl.Enum(GRADES)
GRADED_BY = {"snippet": "evidence", "rank": "rank_evidence", "unite": "clash_evidence"}


@cached
def page_entries(snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int, target: Target) -> pl.DataFrame:
    """What each non-brand row adds to its page's account (core.account.entries)."""
    rows = all_stakes(snapshot, period, setting, min_impressions, target)
    current = cached_clashes(snapshot, period, setting, min_impressions)
    costly = current.clashes.queries.filter(pl.col("loss") > 0).select(
        "query", "loss", "loss_cautious", clash_evidence=pl.col("evidence")
    )
    leads = pl.DataFrame(
        [(query, lead) for query, (lead, *_) in current.leads.items()],
        schema={"query": pl.UInt32, "lead_page": pl.UInt32},
        orient="row",
    )
    contested = current.clashes.contenders.select(ROW).join(costly, on="query").join(leads, on="query")
    contested = contested.with_columns(lead=pl.col("page") == pl.col("lead_page")).drop("lead_page")
    return entries(rows, contested)


def every_entry(view: View) -> pl.DataFrame:
    """What rows of all queries and positions add to accounts."""
    return page_entries(view.snapshot, view.period, view.setting, view.min_impressions, view.options.target)


def entries_of(view: View) -> pl.DataFrame:
    """What rows of the requested queries and positions add to accounts."""
    current = every_entry(view)
    if view.queries is not None:
        current = current.filter(pl.col("query").is_in(view.queries.implode()))
    return view.at_positions(current)


def account_rows(view: View) -> pl.DataFrame:
    """Every page: measures (page_measures), type, path, account (core.account), value and worth, counts of clashes and
    mismatches; largest gain first.
    """
    measures = page_measures(view)
    current = _graded(view, accounts(entries_of(view)))
    facets = view.snapshot.pages.every().select("page", "type", "path")
    amounts = [name for name in current.columns if name not in ("page", "evidence")]
    rows = (
        measures.join(facets, on="page", how="left")
        .join(current, on="page", how="left")
        .with_columns(pl.col(amounts).fill_null(0), pl.col("evidence").fill_null(pl.lit("too little data", dtype=GRADE)))
    )
    worth = value_per_click(rows.select("page", "type", "sessions", "value").join(_prices(view), on="page", how="left"))
    a_month = pl.col("value_per_click") * view.month_share
    frame = rows.join(worth, on="page", how="left").with_columns(
        worth=pl.col("opportunity") * a_month, gain_worth=pl.col("gain") * a_month
    )
    for name, counted in (("clashes", _fought_over(view)), ("misfits", _misfits(view))):
        frame = frame.join(counted.group_by("page").agg(pl.len().alias(name)), on="page", how="left")
    frame = frame.with_columns(pl.col("clashes", "misfits").fill_null(0), ctr=ctr())
    return frame.sort("gain", "opportunity", "clicks", "page", descending=[True, True, True, False])


def _graded(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """The accounts with the verdict on each page as a whole; with a filter on queries or positions only rows can be judged."""
    if view.queries is not None or view.options.position_from is not None or view.options.position_to is not None:
        return rows
    options = (view.snapshot, view.period, view.setting)
    whole = lens_rows(*options, "low-ctr", "page", view.min_impressions, view.options.target, False)
    return with_page_verdicts(rows, whole)


def _fought_over(view: View) -> pl.DataFrame:
    current = clashes_in(view.snapshot, view.period, view.setting, view.min_impressions)
    return current.contenders.join(current.queries.filter(pl.col("kind") != "double listing"), on="query", how="semi")


def _misfits(view: View) -> pl.DataFrame:
    fitting = row_fits(view.snapshot, view.period, view.setting, view.min_impressions)
    return fitting.filter(pl.col("fit").cast(pl.String).is_in(["loose", "off"]))


def _prices(view: View) -> pl.DataFrame:
    """The cost per click of each page's queries, weighted by impressions: page, price."""
    searches = view.snapshot.facts.searches(view.period, view.setting.part)
    if searches is None or searches["price_per_click"].null_count() == searches.height:
        return pl.DataFrame(schema={"page": pl.UInt32, "price": pl.Float64})
    priced = view.appraisal.rows.join(searches, on="query").filter(pl.col("price_per_click").is_not_null())
    weighted = (pl.col("price_per_click") * pl.col("impressions")).sum() / pl.col("impressions").sum()
    return priced.group_by("page").agg(weighted.alias("price"))


def find_pages(view: View) -> Found:
    """Every page with its account, largest gain first."""
    month = view.month_share
    rows = account_rows(view).with_columns(
        *((pl.col(name) * month).alias(f"{name}_month") for name in ("gain", "lost", "potential", "opportunity")),
        could_earn=pl.col("clicks") + pl.col("opportunity"),
    )
    return Found(rows, {"pages": rows.height, "rows": int(rows["rows"].sum())}, visits_lacking(view))


def reasons_of(view: View, pages: pl.Series) -> dict[int, list[str]]:
    """The reasons for each page's account: its most important rows, in words."""
    rows = entries_of(view).filter(pl.col("page").is_in(pages.implode()))
    levers = pl.concat(
        rows.select(
            *ROW, "position", pl.lit(lever).alias("lever"), pl.col(lever).alias("stake"),
            pl.col(f"{lever}_cautious").alias("gain"), pl.col(column).cast(GRADE).to_physical().alias("grade"),
        ).filter(pl.col("stake") >= 1)
        for lever, column in GRADED_BY.items()
    )  # fmt: skip
    # The most certain comes first: a firm shortfall before a larger headroom that is only likely.
    ordered = levers.sort("grade", "gain", "stake", "query", descending=[False, True, True, False], nulls_last=True)
    first = ordered.group_by("page", maintain_order=True).head(REASONS)
    reached = targets(view, first["position"].fill_null(1.0).to_numpy(), first["query"].to_list())
    result: dict[int, list[str]] = {}
    for row, target in zip(view.snapshot.names.named(first, ("query",)).iter_rows(named=True), reached, strict=True):
        amount = row["stake"] * view.month_share
        lines = sentences.reason(row["lever"], row["query"], amount, row["position"], float(target))
        result.setdefault(row["page"], []).append(lines)
    return result


def _dress(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    reasons = reasons_of(view, rows["page"])
    result = [reasons.get(page, []) for page in rows["page"]]
    return rows.with_columns(pl.Series("reasons", result, dtype=pl.List(pl.String)))


def decided_pages(view: View, rows: pl.DataFrame) -> pl.Series:
    _, done = settled_rows(view.site, view.today)
    return rows["page"].is_in(done.implode())


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    sure = rows.filter(pl.col("evidence").cast(pl.String).is_in(SURE))
    lost, potential = (float(one.sum()) * view.month_share for one in (sure["lost_cautious"], rows["potential"]))
    by_query = view.snapshot.facts.finest(view.period) == "row"
    return [sentences.accounts(rows.height, sure.height, lost, potential, by_query)]


def _extras(view: View, found: Found, rows: pl.DataFrame) -> dict[str, Any]:
    sums = [
        name
        for name in (*LEVERS, "lost", "potential", "opportunity", "gain", "clicks", "clicks_before")
        if name in rows.columns
    ]
    whole = {name: float(rows[name].sum()) for name in sums}
    longest = rows["could_earn"].max() if rows.height else 0.0
    added = rows.select(pl.sum_horizontal(LEVERS)).to_series().max() if rows.height else 0.0
    # The maxima of ledger lines: as a whole, and of what could be added.
    return {"whole": {**whole, "longest": longest, "longest_added": added}}


def _amount(name: str, label: str, explains: str) -> Column:
    return Column(name, "amount", label, explains, "clicks in the period", "extra")


def visit(name: str, kind: str, label: str, explains: str, shown: str = "extra") -> Column:
    return Column(name, kind, label, explains, shown=shown, null=True)  # type: ignore[arg-type]


MEASURES = (
    CLICKS.listed(explains="clicks in the period, and their change"),
    CHANGE,
    CLICKS_BEFORE,
    POSITION.listed(),
    visit("sessions", "count", "visits", "organic visits in the period", "list"),
    IMPRESSIONS.listed(shown="extra"),
    CTR.listed(shown="extra"),
    visit("conversions", "amount", "conversions", "conversions of organic visits"),
    visit("value", "money", "value", "value of organic visits"),
    visit("bounces", "count", "", "organic visits that bounced", "data"),
    visit("seconds", "amount", "", "seconds of organic visits", "data"),
    visit("users", "count", "", "people of organic visits, counted by the day", "data"),
    IMPRESSIONS_BEFORE,
    POSITION_BEFORE,
    *(
        Column(f"{name}_before", kind, "", f"{name} in the days compared with", null=True, compared=True)  # type: ignore[arg-type]
        for name, kind in (
            ("sessions", "count"), ("users", "count"), ("bounces", "count"), ("seconds", "amount"), ("conversions", "amount"),
            ("value", "money"),
        )
    ),
    Column("type", "text", "page type", "the type of the page", null=True),
    Column("path", "text", "", "the path of its address", null=True),
)  # fmt: skip


def _propose(view: View, rows: pl.DataFrame) -> list[Proposal]:
    reasons = reasons_of(view, rows["page"]) if rows.height else {}
    return [
        Proposal(
            suggested_by_lever({lever: row[lever] for lever in LEVERS}), row["opportunity_month"], row["gain_month"],
            row["evidence"], " ".join(reasons.get(row["page"], [])) or sentences.NO_GAIN,
        )
        for row in rows.iter_rows(named=True)
    ]  # fmt: skip


PAGES_FOUND = Finding(
    name="pages",
    place=("pages", 1),
    title="Pages",
    question="Which pages lose most, or could gain most, and by which lever?",
    method="the-account-of-a-page",
    claims=("page", "pages"),
    order="gain_month",
    makes=(*PART, "query_group", "topic", "min_impressions", "branded", "target", *POSITIONS, "compare", "curve"),
    chooses=(*PAGES, "text", "evidence", "decided"),
    columns=(
        PAGE.listed(explains="address, with its clicks and opportunity"),
        Column(
            "gain_month",
            "amount",
            "opportunity",
            "lost and potential clicks together, by a cautious estimate",
            "clicks a month",
            "list",
        ),
        LOST_MONTH.listed(shown="extra"),
        POTENTIAL_MONTH.listed(shown="extra"),
        Column("worth", "money", "worth", "what the opportunity is worth a month", shown="list", null=True),
        *MEASURES,
        _amount("snippet", "by snippet", "lost clicks that a better snippet could win"),
        _amount("unite", "by uniting", "lost clicks that resolving clashes could win"),
        _amount("rank", "by position", "potential clicks at a better position"),
        _amount("taken", "lost to SERP features", TAKEN),
        *(Column(f"{lever}_cautious", "amount", "", "the same, cautiously", "clicks in the period") for lever in LEVERS),
        *STAKES,
        Column("lost_cautious", "amount", "", "lost clicks, cautiously", "clicks in the period"),
        Column("gain", "amount", "", "lost and potential clicks, cautiously", "clicks in the period"),
        EVIDENCE,
        Column("rows", "count", "", "rows behind it", "rows"),
        Column("clashes", "count", "clashes", "queries with a clash", "queries"),
        Column("misfits", "count", "misfits", "queries within reach that the page covers loosely or not at all", "queries"),
        Column("value_per_click", "money", "", "what a click is worth", null=True),
        Column("worth_basis", "text", "", "where that is from", null=True),
        Column("gain_worth", "money", "", "what the cautious estimate is worth a month", null=True),
        Column("reasons", "words", "why", "rows with most of the opportunity", late=True),
    ),
    find=find_pages,
    says=_says,
    dress=_dress,
    extras=_extras,
    more={"whole": dict[str, float]},
    decided=decided_pages,
    compare="year",
    branded="with",
    opens=(ViewOptions(compare="year"),),
    key=("page",),
    proposes=Proposes(fill=_propose),
)
