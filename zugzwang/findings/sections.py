"""Sections of a site: sums over the pages in each folder, and its own page; page types likewise."""

from typing import Any

import polars as pl

from zugzwang.core.pages.landing import judge_bounces
from zugzwang.core.pages.sections import tree
from zugzwang.core.words import sentences
from zugzwang.findings.columns import LOST_MONTH, OPPORTUNITY_MONTH, PAGES, PART, POSITIONS, POTENTIAL_MONTH
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.measures import visits_lacking
from zugzwang.findings.pages import account_rows
from zugzwang.findings.shapes import TypeShown
from zugzwang.findings.view import View, ViewOptions

VISITED = ("sessions", "bounces", "seconds", "conversions", "value")
SUMS = ("clicks", "impressions", *VISITED, "lost", "potential", "opportunity", "gain")


def find_sections(view: View) -> Found:
    """The folders of the site, parents before children, and its page types."""
    rows = account_rows(view)
    compared = ("clicks_before", "impressions_before", "sessions_before", "change")
    names = [*SUMS, *(name for name in compared if name in rows.columns)]
    # A position adds up weighted by impressions.
    weighted = rows.with_columns(
        ranks=pl.col("position") * pl.col("impressions"),
        # Sums that no page reports would be 0: they become unknown below.
        visited=pl.col("sessions").is_not_null().cast(pl.Int64),
    )
    nodes = tree(rows.select("page", "path"), weighted, [*names, "ranks", "visited"])
    frame = _rates(nodes).with_columns(
        (pl.col(name) * view.month_share).alias(f"{name}_month") for name in ("lost", "potential", "opportunity")
    )
    return Found(frame, {"pages": rows.height}, visits_lacking(view), {"types": page_types(view, rows)})


def _rates(nodes: pl.DataFrame) -> pl.DataFrame:
    """CTR, position, bounce rate and share lost, from sums; visits that no page reports are unknown."""
    result = nodes
    for end in ("", "_itself"):
        shown, visited = pl.col(f"impressions{end}") > 0, pl.col(f"visited{end}") > 0
        result = result.with_columns(
            pl.when(shown).then(pl.col(f"clicks{end}") / pl.col(f"impressions{end}")).alias(f"ctr{end}"),
            pl.when(shown).then(pl.col(f"ranks{end}") / pl.col(f"impressions{end}")).alias(f"position{end}"),
            pl.when(pl.col(f"sessions{end}") > 0)
            .then(pl.col(f"bounces{end}") / pl.col(f"sessions{end}"))
            .alias(f"bounce_rate{end}"),
            *(pl.when(visited).then(pl.col(f"{name}{end}")).alias(f"{name}{end}") for name in VISITED),
        )
    could = pl.col("clicks") + pl.col("lost")
    result = result.with_columns(lost_share=pl.when(could > 0).then(pl.col("lost") / could))
    return result.drop("ranks", "ranks_itself", "visited", "visited_itself")


def page_types(view: View, rows: pl.DataFrame) -> list[dict[str, Any]]:
    """Each page type: pages, sums, usual bounce rate and how many pages deviate from it; "" for pages without a type."""
    exempt = {one.name: list(one.exempt) for one in view.snapshot.rules.page_types}
    judged = judge_bounces(rows.select("page", "type", "sessions", "bounces"), view.snapshot.pages.exempt_types("bounce"))
    frame = rows.join(judged, on="page", how="left").with_columns(pl.col("type").fill_null(""))
    sums = frame.group_by("type").agg(
        pl.len().alias("pages"),
        pl.col("clicks", "impressions", "lost", "potential", "opportunity", "gain").sum(),
        *(
            pl.when(pl.col(name).count() > 0).then(pl.col(name).sum()).alias(name)
            for name in ("sessions", "bounces", "conversions", "value")
        ),
        pl.col("expected_bounce_rate").max(),
        pl.col("compared_with").drop_nulls().first(),
        pl.col("bounces_more").sum().alias("bounce_more"),
        (~pl.col("bounces_more")).sum().alias("bounce_less"),
    )
    ordered = sums.sort("clicks", "type", descending=[True, False]).to_dicts()
    return [{**row, "exempt": exempt.get(row["type"], [])} for row in ordered]


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    return [sentences.sections(rows.height, found.behind["pages"])]


def _sums(end: str, whose: str) -> tuple[Column, ...]:
    """The columns of a section, or of its own page (`end`: "_itself"); lists show the former."""
    listed: Any = "data" if end else "list"

    def column(name: str, kind: Any, label: str, explains: str, unit: str = "", null: bool = False) -> Column:
        return Column(f"{name}{end}", kind, label if not end else "", f"{explains} {whose}", unit, listed, null)

    return (
        column("clicks", "count", "clicks", "clicks", "clicks in the period"),
        column("impressions", "count", "impressions", "impressions", "times in the period"),
        column("ctr", "share", "CTR", "clicks divided by impressions", null=True),
        column("position", "position", "position", "average position", null=True),
        column("sessions", "count", "visits", "organic visits", null=True),
        column("bounces", "count", "bounces", "organic visits that bounced", null=True),
        column("bounce_rate", "share", "bounce rate", "share of organic visits that bounced", null=True),
        column("seconds", "amount", "seconds", "seconds of organic visits", null=True),
        column("conversions", "amount", "conversions", "conversions of organic visits", null=True),
        column("value", "money", "value", "value of organic visits", null=True),
        column("lost", "amount", "lost clicks", "clicks missing at their current positions", "clicks in the period"),
        column("potential", "amount", "potential clicks", "clicks that better positions would bring", "clicks in the period"),
        column("opportunity", "amount", "opportunity", "lost and potential clicks together", "clicks in the period"),
        column(
            "gain", "amount", "opportunity at least", "lost and potential clicks by a cautious estimate", "clicks in the period"
        ),
        *(
            Column(f"{name}_before{end}", "count", "", f"{name} then {whose}", null=True, compared=True)
            for name in ("clicks", "impressions", "sessions")
        ),
    )


SECTIONS = Finding(
    name="sections",
    title="Sections",
    question="Which directories of the site earn, lose, and could gain most?",
    method="sections",
    claims=("section", "sections"),
    makes=(
        *PART, *PAGES, "text", "query_group", "topic", "min_impressions", "branded", "target", *POSITIONS, "compare", "curve"
    ),
    chooses=(),
    columns=(
        Column("section", "text", "section", "section (folder)", shown="list", low=True),
        Column("parent", "text", "", "the directory above", null=True),
        Column("depth", "count", "", "how deep it lies"),
        Column("pages", "count", "pages", "pages in and below it", "pages", "list"),
        Column("page", "page", "", "its own page", null=True),
        *_sums("", "of all its pages"),
        *_sums("_itself", "of its own page alone"),
        Column("lost_share", "share", "", "lost clicks as a share of expected clicks", null=True),
        LOST_MONTH.listed(),
        POTENTIAL_MONTH.listed(),
        OPPORTUNITY_MONTH,
        Column("change", "count", "change", "clicks now minus clicks before", null=True, compared=True),
    ),
    find=find_sections,
    says=_says,
    more={"types": list[TypeShown]},
    compare="year",
    branded="with",
    opens=(ViewOptions(compare="year"),),
    key=("section",),
)  # fmt: skip
