"""The accounts of pages: what each earns, what could be gained by which lever, how sure that is; and one page with all rows
behind its figures."""

from dataclasses import replace
from datetime import date
from functools import lru_cache
from typing import Any

import polars as pl

from zugzwang.core import sentences
from zugzwang.core.account import LEVERS, accounts, entries, value_per_click
from zugzwang.core.change import change, rolled_up
from zugzwang.core.evidence import GRADES
from zugzwang.core.facts import ROW
from zugzwang.core.grains import RESULTS
from zugzwang.core.headroom import Target, target_position
from zugzwang.core.lenses import appraise
from zugzwang.core.periods import Period
from zugzwang.core.sections import path_of
from zugzwang.desk import breaking, clashing, cleaning, frames
from zugzwang.desk.frames import WHOLE, Setting
from zugzwang.desk.linking import tell_links
from zugzwang.desk.measures import measures_beside, page_measures, visits_compared, visits_lacking
from zugzwang.desk.scope import Scope, Settled, settle
from zugzwang.desk.told import Told
from zugzwang.errors import NotFound
from zugzwang.plan.marks import settled_rows
from zugzwang.store.blocks import read_facts
from zugzwang.store.models import Site

REASONS = 3
GRADE = pl.Enum(GRADES)


@lru_cache(maxsize=8)
def page_entries(
    site_id: int, version: int, period: Period, setting: Setting, min_impressions: int, target: Target
) -> pl.DataFrame:
    """What every row adds to its page's account (core.account.entries); rows without brand."""
    rows = frames.all_stakes(site_id, version, period, setting, min_impressions, target)
    held = clashing.held_clashes(site_id, version, period, setting, min_impressions)
    costly = held.clashes.queries.filter(pl.col("loss") > 0).select(
        "query", "loss", "loss_cautious", clash_evidence=pl.col("evidence")
    )
    leads = pl.DataFrame(
        [(query, lead) for query, (lead, *_) in held.leads.items()],
        schema={"query": pl.UInt32, "lead_page": pl.UInt32},
        orient="row",
    )
    contested = (
        held.clashes.contenders.select(ROW)
        .join(costly, on="query")
        .join(leads, on="query")
        .with_columns(lead=pl.col("page") == pl.col("lead_page"))
        .drop("lead_page")
    )
    return entries(rows, contested)


def entries_of(settled: Settled) -> pl.DataFrame:
    """What the rows of the scope's queries and positions add to accounts."""
    held = page_entries(*settled.key, settled.period, settled.setting, settled.min_impressions, settled.scope.target)
    scope = settled.scope
    if settled.queries is not None:
        held = held.filter(pl.col("query").is_in(settled.queries.implode()))
    if scope.position_from is not None:
        held = held.filter(pl.col("position") >= scope.position_from)
    return held if scope.position_to is None else held.filter(pl.col("position") <= scope.position_to)


def tell_pages(site: Site, scope: Scope, today: date) -> Told:
    """Every page with its account, the most to gain first."""
    settled = settle(site, scope, compare="year", branded="with")
    rows = account_rows(settled)
    rows = rows.filter(pl.col("evidence").is_in(list(scope.evidence)))
    if scope.decided != "any":
        _, done = settled_rows(site, today)
        is_done = pl.col("page").is_in(done.implode())
        rows = rows.filter(is_done if scope.decided == "settled" else ~is_done)
    named = settled.named(rows, ("page",)).rename({"page": "page_id", "page_text": "page"})
    told = named.select("page", pl.exclude("page")).to_dicts()
    reasons = reasons_of(settled, rows["page"])
    for row in told:
        row["reasons"] = reasons.get(row["page_id"], [])
        row["gain_month"], row["at_stake_month"] = row["gain"] * settled.month_share, row["at_stake"] * settled.month_share
        row["change"] = None if row["clicks_before"] is None else row["clicks"] - row["clicks_before"]
    sure = rows.filter(pl.col("evidence") != "thin")
    said = sentences.accounts(rows.height, sure.height, float(rows["gain"].sum()) * settled.month_share)
    whole = {name: float(rows[name].sum()) for name in (*LEVERS, "at_stake", "gain", "clicks", "clicks_before")}
    whole["longest"] = rows.select((pl.col("clicks") + pl.col("at_stake")).max().fill_null(0.0)).item()  # of ledger lines
    behind = {"pages": rows.height, "rows": int(rows["rows"].sum())}
    return Told(settled, told, [said], behind, visits_lacking(settled), {"whole": whole, "month_share": settled.month_share})


def account_rows(settled: Settled) -> pl.DataFrame:
    """Every page of the scope: its measures (page_measures), type, path, its account (core.account), value and worth; the most
    to gain first."""
    measures = page_measures(settled)
    if settled.before is None:
        measures = measures.with_columns(clicks_before=pl.lit(None, dtype=pl.Int64))
    held = accounts(entries_of(settled))
    facets = frames.page_facets(*settled.key).select("page", "type", "path")
    amounts = [name for name in held.columns if name not in ("page", "evidence")]
    rows = (
        measures.join(facets, on="page", how="left")
        .join(held, on="page", how="left")
        .with_columns(pl.col(amounts).fill_null(0), pl.col("evidence").fill_null(pl.lit("thin", dtype=GRADE)))
    )
    worth = value_per_click(rows.select("page", "type", "sessions", "value").join(_prices(settled), on="page", how="left"))
    told = rows.join(worth, on="page", how="left").with_columns(
        worth=pl.col("at_stake") * pl.col("value_per_click"), gain_worth=pl.col("gain") * pl.col("value_per_click")
    )
    clashes = clashing.held_clashes(*settled.key, settled.period, settled.setting, settled.min_impressions).clashes
    fought = clashes.contenders.join(clashes.queries.filter(pl.col("kind") != "double"), on="query", how="semi")
    fitting = frames.row_fits(*settled.key, settled.period, settled.setting, settled.min_impressions)
    misfits = fitting.filter(pl.col("fit").is_in(["loose", "off"])).group_by("page").agg(pl.len().alias("misfits"))
    told = told.join(fought.group_by("page").agg(pl.len().alias("clashes")), on="page", how="left")
    told = told.join(misfits, on="page", how="left").with_columns(pl.col("clashes", "misfits").fill_null(0))
    ctr = pl.when(pl.col("impressions") > 0).then(pl.col("clicks") / pl.col("impressions"))
    return told.with_columns(ctr=ctr).sort("gain", "at_stake", "clicks", "page", descending=[True, True, True, False])


def _prices(settled: Settled) -> pl.DataFrame:
    """What a click costs on the market for each page's queries, weighted by impressions: page, price."""
    searches = frames.searches(*settled.key, settled.period, settled.setting.part)
    rows = frames.appraisal(*settled.key, settled.period, settled.setting).rows
    if searches is None or searches["price_per_click"].null_count() == searches.height:
        return pl.DataFrame(schema={"page": pl.UInt32, "price": pl.Float64})
    priced = rows.join(searches, on="query").filter(pl.col("price_per_click").is_not_null())
    weighted = (pl.col("price_per_click") * pl.col("impressions")).sum() / pl.col("impressions").sum()
    return priced.group_by("page").agg(weighted.alias("price"))


def reasons_of(settled: Settled, pages: pl.Series) -> dict[int, list[str]]:
    """Why each page stands where it does: the rows that carry most of its account, in words."""
    held = entries_of(settled).filter(pl.col("page").is_in(pages.implode()))
    graded = {"snippet": "evidence", "rank": "rank_evidence", "unite": "clash_evidence"}
    columns = [*ROW, "position"]
    levers = pl.concat(
        held.select(
            *columns, pl.lit(lever).alias("lever"), pl.col(lever).alias("stake"), pl.col(f"{lever}_cautious").alias("gain"),
            pl.col(column).cast(GRADE).to_physical().alias("grade"),
        ).filter(pl.col("stake") >= 1)
        for lever, column in graded.items()
    )  # fmt: skip
    # What is surest comes first: a firm shortfall before a larger headroom that is only likely.
    ordered = levers.sort("grade", "gain", "stake", "query", descending=[False, True, True, False], nulls_last=True)
    first = ordered.group_by("page", maintain_order=True).head(REASONS)
    targets = target_position(first["position"].fill_null(1.0).to_numpy(), settled.scope.target)
    told: dict[int, list[str]] = {}
    for row, target in zip(settled.named(first, ("query",)).iter_rows(named=True), targets, strict=True):
        told.setdefault(row["page"], []).append(
            sentences.reason(
                row["lever"], row["query_text"], row["stake"] * settled.month_share, row["position"], float(target)
            )
        )
    return told


def tell_page(site: Site, scope: Scope, page: int, today: date) -> dict[str, Any]:
    """One page's account, and the rows behind each of its figures."""
    settled = settle(site, scope, compare="year", branded="with")
    # What chooses pages is put aside; what its figures depend on – days, part, target, queries – is as in the list.
    scope = replace(scope, section="", page_type=(), text="", evidence=GRADES, decided="any")
    whole = replace(settled, scope=scope)
    rates = {
        "bounce_rate": pl.when(pl.col("sessions") > 0).then(pl.col("bounces") / pl.col("sessions")),
        "sessions_change": pl.col("sessions") - pl.col("sessions_before") if whole.before else pl.lit(None, dtype=pl.Int64),
    }
    account = account_rows(whole).filter(pl.col("page") == page).cast({pl.UInt32: pl.Int64}).with_columns(**rates)
    account = account.with_columns(pl.col("page").cast(pl.UInt32))
    if account.is_empty():
        raise NotFound("This page was neither shown nor visited in the period.", "Choose other days.")
    row = settled.named(account, ("page",)).to_dicts()[0]
    return {
        "page_id": page,
        "page": row["page_text"],
        "account": {name: value for name, value in row.items() if name not in ("page", "page_text")},
        "beside": [vars(one) for one in measures_beside(whole, pl.col("page") == page)],
        "reasons": reasons_of(whole, account["page"]).get(page, []),
        "rows": _rows_of(whole, page),
        "change": _change_of(whole, page),
        **_breaks_of(site, replace(scope, first=None, last=None), page),
        "clashes": [
            one for one in clashing.tell_clashes(site, scope, today).rows if page in {c["page_id"] for c in one["contenders"]}
        ],
        "topic_folds": [
            one for one in clashing.tell_topic_folds(site, scope).rows if page in (one["page_id"], one["other_id"])
        ],
        "weeks": _weeks(whole, page),
        "crawl": _crawl_of(settled, page),
        "links": tell_links(*settled.key, page),
        "results": (results := results_of(whole, pl.col("page") == page)),
        "results_sentence": said_of_results(results),
        "lacking": visits_compared(settled),
    }


def _rows_of(settled: Settled, page: int) -> list[dict[str, Any]]:
    """The rows that make up the account, with the fit of the page to each query, and the branded ones."""
    of_page = pl.col("page") == page
    held = entries_of(settled).filter(of_page)
    shown = frames.appraisal(*settled.key, settled.period, settled.setting).rows.filter(of_page)
    amounts = [name for name in held.columns if name not in (*ROW, "clicks", "impressions", "position")]
    rows = shown.select(*ROW, "clicks", "impressions", "ctr", "position", "expected_clicks", "branded").join(
        held.select(*ROW, *amounts), on=ROW, how="left"
    )
    fitting = frames.fits_of(*settled.key, rows.select(ROW)).select(*ROW, "fit", "lacking")
    rows = frames.lacking_words(*settled.key, rows.join(fitting, on=ROW, how="left"))
    rows = rows.with_columns(at_stake=pl.sum_horizontal(pl.col(LEVERS).fill_null(0.0)))
    ordered = settled.named(rows, ("query",)).rename({"query": "query_id", "query_text": "query"}).drop("page")
    return ordered.sort("at_stake", "impressions", "query", descending=[True, True, False]).to_dicts()


def _change_of(settled: Settled, page: int) -> dict[str, Any] | None:
    """Why the page's clicks changed, with each query's part; None without days to compare with."""
    if settled.before is None:
        return None
    held = frames.appraisal(*settled.key, settled.period, settled.setting)
    of_page = pl.col("page") == page
    facts = frames.facts(*settled.key, settled.before, settled.setting.part).filter(of_page)
    then = appraise(facts, settled.of_brand, held.curves).rows
    rows = settled.without_brand(settled.chosen(change(then, held.rows.filter(of_page), held.curve.shape)))
    measures = page_measures(settled).filter(of_page)
    totals = None if settled.some_queries_only else measures.select("page", "clicks_before", clicks_after="clicks")
    told = rolled_up(rows, ["page"], totals).to_dicts()
    if not told:
        return None
    by_query = settled.named(rolled_up(rows, ["query"]), ("query",)).rename({"query": "query_id", "query_text": "query"})
    return {
        **{k: v for k, v in told[0].items() if k != "page"},
        "sentences": sentences.change(told[0]),
        "queries": by_query.to_dicts(),
    }


def _breaks_of(site: Site, scope: Scope, page: int) -> dict[str, Any]:
    told = breaking.tell_breaks(site, scope, "page", breaking.MEASURES)
    return {
        "breaks": [one for one in told.rows if one["page_id"] == page],
        "out": [one for one in told.more["out"] if one["page_id"] == page],
    }


def _weeks(settled: Settled, page: int) -> list[dict[str, Any]]:
    """Clicks and impressions of the page by week, over all days that the site has."""
    days = frames.days(*settled.key)
    whole = replace(settled, period=Period(days[0], days[-1]))
    weekly = breaking.weekly(whole, "page").filter(pl.col("name") == page)
    return weekly.select("week", "clicks", "impressions").sort("week").to_dicts()


def _crawl_of(settled: Settled, page: int) -> dict[str, Any] | None:
    held = frames.crawled_pages(*settled.key).filter(pl.col("page") == page)
    return held.drop("page", "main_text").to_dicts()[0] if held.height else None


def results_of(settled: Settled, rows: pl.Expr) -> list[dict[str, Any]]:
    """The results pages captured for the queries of some rows, the most shown query's first; the latest capture of each."""
    results = read_facts(settled.site, RESULTS)
    if results.is_empty() or settled.setting.part != WHOLE:
        return []
    shown = frames.appraisal(*settled.key, settled.period, settled.setting).rows.filter(rows)
    by_query = shown.group_by("query").agg(pl.col("impressions").sum())
    held = results.join(by_query, on="query").filter(pl.col("captured") == pl.col("captured").max().over("query"))
    named = settled.named(held, ("query",)).sort(
        "impressions", "query", "device", "country", "place", descending=[True, *[False] * 4]
    )
    columns = ["captured", "device", "country", "place", "block", "title", "address", "snippet"]
    path = path_of(pl.col("address"), cleaning.host_of(settled.site))
    own = (path.str.starts_with("/") & ~path.str.starts_with("//")).fill_null(False)
    ids = pl.col("query").alias("query_id"), pl.col("query_text").alias("query")
    return named.select(*ids, *columns, own.alias("own")).to_dicts()


def said_of_results(blocks: list[dict[str, Any]]) -> str | None:
    """How far down the first of some results pages one's own result really is; None without a results page."""
    if not blocks:
        return None
    first = [(one["block"], one["own"]) for one in blocks if one["query_id"] == blocks[0]["query_id"]]
    return sentences.results_page(first)
