"""Query groups: clicks, opportunity, and why their clicks changed. A query in several groups counts in each, so groups do not
add up to the site.
"""

from dataclasses import replace
from typing import Any

import polars as pl

from zugzwang.core.clicks.evidence import GRADES
from zugzwang.core.facts.grains import QUERY
from zugzwang.core.facts.search import ROW, add_up
from zugzwang.core.pages.account import accounts
from zugzwang.core.time.change import PARTS
from zugzwang.core.words import sentences
from zugzwang.errors import Invalid, NotFound
from zugzwang.findings.change import find_change
from zugzwang.findings.columns import (
    CLICKS,
    CTR,
    EVIDENCE,
    IMPRESSIONS,
    LOST_MONTH,
    PAGES,
    PART,
    POSITION,
    POSITIONS,
    POTENTIAL_MONTH,
    STAKES,
)
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.pages import entries_of
from zugzwang.findings.shapes import ChangeSummary
from zugzwang.findings.view import View, ViewOptions

GAINS = ("lost", "potential", "opportunity", "gain")


def find_query_groups(view: View) -> Found:
    """Every query group, largest gain first, and the queries in no group ("")."""
    rows = view.without_brand(view.chosen(view.appraisal.rows.select(*ROW, "clicks", "impressions", "position")))
    groups = view.snapshot.pages.query_groups().explode("groups", empty_as_null=True)
    of_group = groups.select("query", group=pl.col("groups").fill_null(""))
    grouped = rows.join(of_group, on="query")
    things = grouped.group_by("group").agg(queries=pl.col("query").n_unique(), pages=pl.col("page").n_unique())
    sums = add_up(_facts(view, rows).join(of_group, on="query"), ["group"])
    gains = accounts(view.chosen(entries_of(view)).join(of_group, on="query"), "group")
    frame = things.join(sums, on="group").join(gains.select("group", *GAINS, "evidence"), on="group", how="left")
    thin = pl.lit("too little data", dtype=pl.Enum(GRADES))
    frame = frame.with_columns(pl.col(GAINS).fill_null(0.0), pl.col("evidence").fill_null(thin))
    frame = frame.with_columns((pl.col(name) * view.month_share).alias(f"{name}_month") for name in GAINS)
    known = [one.name for one in view.snapshot.rules.query_groups]
    parts, lacking = _why(view)
    frame = frame.filter(pl.col("group").is_in([*known, ""])) if known else frame.clear()
    frame = frame.join(parts, on="group", how="left").sort(pl.col("group") == "", -pl.col("gain"), "group")
    in_one = grouped.filter(pl.col("group") != "")["query"].n_unique()
    more = {"known": len(known), "in_one": in_one, "of": rows["query"].n_unique()}
    return Found(frame, {"rows": rows.height}, lacking, more)


def _facts(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """All clicks of the selected queries, including those without a page; with a filter on pages, or without facts by query,
    those of rows.
    """
    facts = view.snapshot.facts.rows(QUERY, view.period, view.setting.part)
    if facts.is_empty() or view.pages is not None or view.words:
        return rows
    return view.without_brand(view.chosen(facts))


def _why(view: View) -> tuple[pl.DataFrame, list[str]]:
    """The parts of each group's change (group, clicks_before, clicks_after, the parts, change), and the data it lacks."""
    try:
        found = find_change(replace(view, options=replace(view.options, by="query-group")))
    except (Invalid, NotFound) as error:
        kinds = {"group": pl.String, **dict.fromkeys(("clicks_before", "clicks_after", *PARTS, "demand", "change"), pl.Float64)}
        return pl.DataFrame(schema=kinds), [f"{error.message} {error.remedy}"]
    return found.rows.rename({"query_group": "group"}), found.lacking


def _dress(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    result: list[Any] = []
    for row in rows.iter_rows(named=True):
        why = {name: row[name] for name in ("clicks_before", "clicks_after", *PARTS, "demand")}
        result.append({**why, "sentences": sentences.change(why)} if row["change"] is not None else None)
    return rows.with_columns(pl.Series("why", result, dtype=pl.Object))


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    return [sentences.query_groups(found.more["known"], found.more["in_one"], found.more["of"])]


QUERY_GROUPS = Finding(
    name="query-groups",
    place=("queries", 5),
    title="Groups",
    question="Which subjects gain and lose, and why?",
    method="the-account-of-a-page",
    claims=("group", "groups"),
    order="gain_month",
    makes=(
        *PART, *PAGES, "text", "query_group", "topic", "min_impressions", "branded", "target", *POSITIONS, "compare", "curve"
    ),
    chooses=(),
    columns=(
        Column("group", "text", "group", "the query group", shown="list", low=True),
        Column(
            "gain_month", "amount", "opportunity", "lost and potential clicks, cautiously", "clicks a month", "list"
        ),
        LOST_MONTH.listed(shown="extra"),
        POTENTIAL_MONTH.listed(shown="extra"),
        Column("queries", "count", "queries", "queries in the group", "queries", "list"),
        Column("pages", "count", "", "pages shown for them", "pages"),
        CLICKS.listed(explains="clicks in the period, and their change"),
        IMPRESSIONS.listed(),
        CTR.listed(),
        POSITION.listed(),
        EVIDENCE,
        *STAKES,
        Column("gain", "amount", "", "lost and potential clicks, cautiously", "clicks in the period"),
        Column("change", "amount", "change", "clicks now minus clicks before", "clicks", null=True),
        Column("why", "shape", "", "why its clicks changed", shape=ChangeSummary, null=True, late=True),
    ),
    find=find_query_groups,
    says=_says,
    dress=_dress,
    more={"known": int},
    compare="year",
    branded="with",
    opens=(ViewOptions(compare="year"),),
    key=("group",),
)  # fmt: skip
