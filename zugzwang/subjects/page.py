"""One page: its account and the rows behind each figure."""

from dataclasses import replace
from datetime import date
from typing import Any

import polars as pl

from zugzwang.core.clicks.evidence import GRADES
from zugzwang.core.facts.search import ROW
from zugzwang.core.pages.account import LEVERS, LOST, POTENTIAL
from zugzwang.core.time.breaks import MEASURES
from zugzwang.core.time.change import rolled_up
from zugzwang.core.words import sentences
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import NotFound
from zugzwang.findings.breaks import BREAKS, over_all_weeks, weekly
from zugzwang.findings.change import rows_changed, totals_changed
from zugzwang.findings.clashes import CLASHES, contenders_in
from zugzwang.findings.finding import Finding
from zugzwang.findings.measures import measures_compared, visits_compared
from zugzwang.findings.overlapping_pages import FOLDS_FOUND
from zugzwang.findings.pages import PAGES_FOUND, entries_of, reasons_of
from zugzwang.findings.table import find, returned_rows
from zugzwang.findings.view import View, ViewOptions, settle
from zugzwang.subjects.links import links_of
from zugzwang.subjects.results import results_of


def tell_page(snapshot: Snapshot, options: ViewOptions, page: int, today: date) -> dict[str, Any]:
    """One page's account, and the rows behind each figure. Filters on pages do not apply; everything else – days, part,
    target, queries – is as in the list.
    """
    options = replace(options, section="", page_type=(), text="", evidence=GRADES, decided="any")
    view = settle(snapshot, options, today, PAGES_FOUND.compare, PAGES_FOUND.branded)
    of_page = pl.col("page") == page
    rows = find(view, PAGES_FOUND).rows.filter(of_page)
    if rows.is_empty():
        raise NotFound("This page had no impressions or visits in the period.", "Choose other days.")
    sessions = pl.col("sessions")
    account = returned_rows(view, PAGES_FOUND, rows).with_columns(
        bounce_rate=pl.when(sessions > 0).then(pl.col("bounces") / sessions),
        sessions_change=rows["sessions_change"] if view.before else pl.lit(None, dtype=pl.Int64),
    )
    row = account.to_dicts()[0]
    crawl = snapshot.pages.crawled_pages().filter(of_page)
    return {
        "page_id": page,
        "page": row["page"],
        "account": row,
        "months": _months(row, view.month_share),
        "compared": measures_compared(view, of_page),
        "reasons": reasons_of(view, rows["page"]).get(page, []) or _not_judged(view, page),
        "rows": _rows_of(view, page),
        "change": _change_of(view, page),
        **_breaks_of(view, page),
        "clashes": _of_finding(settle(snapshot, options, today), CLASHES, page),
        "overlapping_pages": _of_finding(settle(snapshot, options, today), FOLDS_FOUND, page),
        "weeks": _weeks(view, page),
        "crawl": crawl.drop("page").to_dicts()[0] if crawl.height else None,
        "links": links_of(snapshot, page),
        **results_of(view, of_page),
        "lacking": visits_compared(view),
    }


def _not_judged(view: View, page: int) -> list[str]:
    """A page without known queries cannot be judged; that does not mean that all is well."""
    known = view.appraisal.rows.filter(pl.col("page") == page, pl.col("query") > 0)
    return [sentences.NOT_JUDGED] if known.is_empty() else []


def _months(account: dict[str, Any], month: float) -> dict[str, Any]:
    """The account a month, in whole clicks: its levers add up to the printed total."""
    ends = {"": ("expected", "opportunity_month"), "_cautious": ("at_least", "gain_month")}
    result: dict[str, Any] = {"earned": round(account["clicks"] * month)}
    for end, (name, total) in ends.items():
        amounts = sentences.rounded([account[f"{lever}{end}"] * month for lever in LEVERS], round(account[total]))
        result[name] = {**dict(zip(LEVERS, amounts, strict=True)), "together": round(account[total])}
    return result


def _rows_of(view: View, page: int) -> list[dict[str, Any]]:
    """The rows of the account, with the page's fit to each query, and the branded ones."""
    of_page = pl.col("page") == page
    frame = entries_of(view).filter(of_page)
    amounts = [name for name in frame.columns if name not in (*ROW, "clicks", "impressions", "position")]
    # A page without reported queries has one row without a query: the account itself.
    shown = view.appraisal.rows.filter(of_page, pl.col("query") > 0)
    rows = shown.select(*ROW, "clicks", "impressions", "ctr", "position", "expected_clicks", "branded").join(
        frame.select(*ROW, *amounts), on=ROW, how="left"
    )
    fitting = view.snapshot.pages.fits(rows.select(ROW)).select(*ROW, "fit", "lacking")
    rows = view.snapshot.pages.lacking_words(rows.join(fitting, on=ROW, how="left"))
    parts = {"lost": LOST, "potential": (POTENTIAL,), "opportunity": LEVERS}
    sums = {name: pl.sum_horizontal(pl.col(levers).fill_null(0.0)) for name, levers in parts.items()}
    month = view.month_share
    rows = rows.with_columns(**sums).with_columns((pl.col(name) * month).alias(f"{name}_month") for name in parts).drop("page")
    ordered = view.snapshot.names.named(rows, ("query",))
    return ordered.sort("opportunity", "impressions", "query", descending=[True, True, False]).to_dicts()


def _change_of(view: View, page: int) -> dict[str, Any] | None:
    """Why the page's clicks changed, with each query's part; None without a comparison."""
    grain = view.grain_of(view.snapshot.facts.finest(view.period))
    if view.like(grain) is None:
        return None
    of_page = pl.col("page") == page
    rows = rows_changed(view, grain, of_page)
    totals = None if view.some_queries_only else totals_changed(view, "page")
    totals = totals.filter(of_page) if totals is not None else None
    parts = rolled_up(rows, ["page"], totals).drop("page").to_dicts()
    if not parts:
        return None
    by_query = view.snapshot.names.named(rolled_up(rows, ["query"]).filter(pl.col("query") > 0), ("query",))
    return {**parts[0], "sentences": sentences.change(parts[0]), "queries": by_query.to_dicts()}


def _breaks_of(view: View, page: int) -> dict[str, Any]:
    """The page's breaks in clicks and impressions, and its drop-outs; taken from those of all pages, which are cached, because
    the shared movement is removed from each.
    """
    whole = over_all_weeks(replace(view, options=replace(view.options, level="page", measure=MEASURES)))
    found = find(whole, BREAKS)
    spells = [
        {"page": view.snapshot.names.page_text(page), "page_id": page, "since": since, "back": back}
        for one, since, back in found.more["out"]
        if one == page
    ]
    return {"breaks": returned_rows(whole, BREAKS, found.rows.filter(pl.col("page") == page)).to_dicts(), "out": spells}


def _of_finding(view: View, finding: Finding, page: int) -> list[dict[str, Any]]:
    """The clashes, or overlapping pairs, that include the page."""
    rows = find(view, finding).rows
    if finding is CLASHES:
        queries = contenders_in(view).filter(pl.col("page") == page)["query"]
        rows = rows.filter(pl.col("query").is_in(queries.implode()))
    else:
        rows = rows.filter((pl.col("page") == page) | (pl.col("other") == page))
    return returned_rows(view, finding, rows).to_dicts()


def _weeks(view: View, page: int) -> list[dict[str, Any]]:
    """Clicks and impressions of the page by week, over all whole weeks of the site."""
    by_week = weekly(over_all_weeks(view), "page").filter(pl.col("name") == page)
    return by_week.select("week", "clicks", "impressions").sort("week").to_dicts()
