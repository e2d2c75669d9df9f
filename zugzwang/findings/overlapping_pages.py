"""Overlapping pages: pairs of pages that rank for the same queries, with the similarity of their texts, and the groups they
form.
"""

from collections import Counter
from datetime import date, timedelta
from typing import Any

import polars as pl

from zugzwang.core.contest.overlapping_pages import FOLDS, SHOWN_ALIKE, groups, kind_of, say_alike, shown_alike
from zugzwang.core.facts.grains import PAGE_QUERY
from zugzwang.core.facts.periods import Period
from zugzwang.core.words import sentences
from zugzwang.data.cache import cached
from zugzwang.data.decided import resolved
from zugzwang.data.snapshot import Part, Setting, Snapshot
from zugzwang.findings.clashes import CLASHES, contenders_in
from zugzwang.findings.columns import CLICKS, IMPRESSIONS, PAGE, PAGES, PART, SENTENCE
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.shapes import PageGroup
from zugzwang.findings.table import find
from zugzwang.findings.view import View, ViewOptions

WINDOW_DAYS, WINDOWS = 14, 36  # the steps in which the start of an overlap is searched
UNCRAWLED = "Crawl the site: without page text, overlapping topics and duplicates look the same."


def find_folds(view: View) -> Found:
    snapshot = view.snapshot
    pairs = alike(snapshot, view.period, view.setting, view.min_impressions)
    clicks = view.appraisal.rows.filter(~pl.col("branded")).group_by("page").agg(pl.col("clicks").sum())
    for side, name in (("page", "clicks"), ("other", "other_clicks")):
        result = clicks.rename({"page": side, "clicks": name})
        pairs = pairs.join(result, on=side, how="left", maintain_order="left").with_columns(pl.col(name).fill_null(0))
    lacking = [UNCRAWLED] if snapshot.pages.crawled().is_empty() else []
    return Found(pairs, {"pages": pairs["page"].n_unique()}, lacking)


def _of_pages(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """The pairs with a requested page."""
    wanted = view.chosen(pl.DataFrame({"page": pl.concat([rows["page"], rows["other"]]).unique()}))["page"]
    return rows.filter(pl.col("page").is_in(wanted.implode()) | pl.col("other").is_in(wanted.implode()))


def _groups(rows: pl.DataFrame) -> list[tuple[int, list[int]]]:
    """The groups that pairs form: number and pages."""
    pages = pl.concat([rows.select("group", "page"), rows.select("group", page="other")]).unique()
    frame = pages.group_by("group").agg(pl.col("page").sort()).sort("group")
    return [(number, list(found)) for number, found in frame.iter_rows()]


def _dress(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    lines = [sentences.fold(row["kind"], row["shared_queries"], row["say"], row["since"]) for row in rows.iter_rows(named=True)]
    return rows.with_columns(pl.Series("sentence", lines, dtype=pl.String))


def _extras(view: View, found: Found, rows: pl.DataFrame) -> dict[str, Any]:
    clicks = {**dict(rows.select("other", "other_clicks").iter_rows()), **dict(rows.select("page", "clicks").iter_rows())}
    pages = pl.concat([rows["page"], rows["other"]]).unique()
    texts = dict(view.snapshot.names.page_texts(pages).iter_rows()) if pages.len() else {}
    groups_of_pages = _groups(rows)
    clashes = _clashes_among(view, groups_of_pages)
    result = []
    for number, group in groups_of_pages:
        lead = max(group, key=lambda page: (clicks.get(page, 0), -page))
        among = clashes.get(number, [])
        proposed = Counter(one.pop("resolution") for one in among)
        result.append(
            {
                "group": number,
                "pages": [{"page": texts[page], "page_id": page} for page in group],
                "lead": texts[lead],
                "lead_id": lead,
                "resolution": proposed.most_common(1)[0][0] if proposed else None,
                "clashes": among,
                "still_open": sum(one["decided"] is None for one in among),
            }
        )
    return {"groups": result}


def _clashes_among(view: View, groups_of_pages: list[tuple[int, list[int]]]) -> dict[int, list[dict[str, Any]]]:
    """For each group the clashes (without doubles) between at least two of its pages, costliest first, with the proposal for
    each, so one decision settles the group.
    """
    of_group = pl.DataFrame(groups_of_pages, schema={"group": pl.Int64, "page": pl.List(pl.UInt32)}, orient="row")
    meeting = contenders_in(view).join(of_group.explode("page"), on="page").group_by("group", "query").len()
    seen = view.only(CLASHES.makes)
    rows = find(seen, CLASHES).rows.filter(pl.col("kind") != "double listing").select("query", "loss_month", "resolution")
    rows = rows.join(meeting.filter(pl.col("len") > 1), on="query").sort("loss_month", "query", descending=[True, False])
    decided = {query: one.choice for query, one in resolved(view.site).items()}
    result: dict[int, list[dict[str, Any]]] = {}
    for row in view.snapshot.names.named(rows.drop("len"), ("query",)).iter_rows(named=True):
        result.setdefault(row.pop("group"), []).append({**row, "decided": decided.get(row["query_id"])})
    return result


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    return [sentences.folds(rows["kind"].to_list(), len(_groups(rows)))]


@cached
def alike(snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int) -> pl.DataFrame:
    """Pairs of pages that rank for the same queries: the columns of shown_alike, say, kind, group, since (a day; null:
    throughout).
    """
    rows = snapshot.facts.appraisal(period, setting).rows.filter(~pl.col("branded"))
    pairs = shown_alike(rows, min_impressions)
    pages = pl.concat([pairs["page"], pairs["other"]]).unique().sort()
    say, much = say_alike(pairs.select("page", "other").iter_rows(), snapshot.pages.page_stems(tuple(pages)))
    kinds = pl.Series("kind", [kind_of(one, much) for one in say], dtype=pl.String)
    found = groups(pairs.select("page", "other", "shared_queries").iter_rows())
    group_of = {page: number for number, group in enumerate(found, start=1) for page in group}
    frame = pairs.with_columns(pl.Series("say", say, dtype=pl.Float64), kinds)
    frame = frame.with_columns(pl.Series("group", [group_of[page] for page in frame["page"]], dtype=pl.Int64))
    since = _since(snapshot, period, setting.part, pairs, pages)
    return frame.join(since, on=["page", "other"], how="left", maintain_order="left")


def _since(snapshot: Snapshot, period: Period, part: Part, pairs: pl.DataFrame, pages: pl.Series) -> pl.DataFrame:
    """The first day since which pairs have overlapped without a break, in steps of two weeks."""
    kinds = {"page": pl.UInt32, "other": pl.UInt32, "since": pl.Date}
    days = snapshot.facts.days()
    if pairs.is_empty() or not days:
        return pl.DataFrame(schema=kinds)
    first = max(days[0], period.last - timedelta(days=WINDOWS * WINDOW_DAYS - 1))
    columns = ("day", "page", "query", "impressions")
    facts = snapshot.facts.rows(PAGE_QUERY, Period(first, period.last), part, columns)
    rows = facts.filter(pl.col("page").is_in(pages.implode()))
    number = (pl.lit(period.last) - pl.col("day")).dt.total_days() // WINDOW_DAYS
    by_window = rows.group_by("page", "query", window=number).agg(pl.col("impressions").cast(pl.Int64).sum())
    separate: dict[tuple[int, int], int] = {}
    for window in range((period.last - first).days // WINDOW_DAYS + 1):
        here = by_window.filter(pl.col("window") == window)
        shown = set(here["page"].unique())
        found = shown_alike(here, 0, 0.0).select("page", "other", "shared_queries")
        now = {(page, other): value for page, other, value in found.iter_rows()}
        for pair in pairs.select("page", "other").iter_rows():
            both = pair[0] in shown and pair[1] in shown
            if pair not in separate and both and now.get(pair, 0.0) < SHOWN_ALIKE / 2:
                separate[pair] = window
    result: list[tuple[int, int, date]] = [
        (*pair, period.last - timedelta(days=window * WINDOW_DAYS - 1)) for pair, window in separate.items() if window > 0
    ]
    return pl.DataFrame(result, schema=kinds, orient="row")


FOLDS_FOUND = Finding(
    name="overlapping-pages",
    place=("clashes", 2),
    title="Overlapping pages",
    question="Which pages are shown for the same queries, and do they say the same?",
    method="overlapping-pages",
    claims=("pair of pages is shown for the same", "pairs of pages are shown for the same"),
    order="shared_queries",
    makes=(*PART, "min_impressions", "branded"),
    chooses=(*PAGES, "text"),
    columns=(
        PAGE.listed(),
        Column("other", "page", "other page", "other page that ranks for the same queries", shown="list"),
        Column(
            "kind", "word", "kind", "one subject twice, or two topics treated as one", shown="list", choices=FOLDS, low=True
        ),
        Column("shared_queries", "share", "shared queries", "share of queries that both rank for", shown="list"),
        Column("say", "share", "say", "similarity of their texts", shown="list", null=True),
        Column("queries", "count", "queries", "queries that both rank for", "queries", "list"),
        IMPRESSIONS.listed(),
        CLICKS,
        Column("other_clicks", "count", "", "clicks of the other page", "clicks in the period"),
        Column("since", "day", "since", "start of the overlap, to two weeks; empty: since both rank", null=True),
        Column("group", "count", "group", "group of overlapping pages"),
        SENTENCE,
    ),
    find=find_folds,
    says=_says,
    dress=_dress,
    extras=_extras,
    more={"groups": list[PageGroup]},
    choose=dict.fromkeys((*PAGES, "text"), _of_pages),
    opens=(ViewOptions(compare="year"),),
    key=("page", "other"),
)
