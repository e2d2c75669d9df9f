"""Sections of a site: sums of the pages below each directory and of its own page told apart; page types beside them."""

import polars as pl

from zugzwang.core import sentences
from zugzwang.core.landing import judge_bounces
from zugzwang.core.sections import tree
from zugzwang.desk import cleaning
from zugzwang.desk.accounts import account_rows
from zugzwang.desk.measures import visits_lacking
from zugzwang.desk.scope import Scope, Settled, settle
from zugzwang.desk.told import Told
from zugzwang.store.models import Site

SUMS = ("clicks", "impressions", "sessions", "bounces", "seconds", "conversions", "value", "at_stake", "gain")


def tell_sections(site: Site, scope: Scope) -> Told:
    """The directories of the site, parents before children, and its page types."""
    settled = settle(site, scope, compare="year", branded="with")
    rows = account_rows(settled)
    names = [*SUMS, *(f"{name}_before" for name in ("clicks", "impressions", "sessions") if f"{name}_before" in rows.columns)]
    # A position adds up weighted by impressions.
    weighted = rows.with_columns(
        ranks=pl.col("position") * pl.col("impressions"),
        # Sums of what no page tells would be 0: they are told as unknown below.
        visited=pl.col("sessions").is_not_null().cast(pl.Int64),
    )
    sums = [*names, "ranks", "visited"]
    nodes = tree(rows.select("page", "path"), weighted, sums)
    told = _rates(nodes).with_columns(at_stake_month=pl.col("at_stake") * settled.month_share)
    named = settled.named(told.filter(pl.col("page").is_not_null()).select("page"), ("page",)) if told.height else None
    texts = dict(named.iter_rows()) if named is not None else {}
    listed = [{**row, "page": texts.get(row["page"]), "page_id": row["page"]} for row in told.iter_rows(named=True)]
    types = page_types(settled, rows)
    said = sentences.sections(nodes.height, rows.height)
    return Told(settled, listed, [said], {"pages": rows.height}, visits_lacking(settled), {"types": types})


def _rates(nodes: pl.DataFrame) -> pl.DataFrame:
    """CTR, position, bounce rate and share at stake of the sums; visits that no page tells as unknown."""
    told = nodes
    for end in ("", "_itself"):
        shown, visited = pl.col(f"impressions{end}") > 0, pl.col(f"visited{end}") > 0
        told = told.with_columns(
            pl.when(shown).then(pl.col(f"clicks{end}") / pl.col(f"impressions{end}")).alias(f"ctr{end}"),
            pl.when(shown).then(pl.col(f"ranks{end}") / pl.col(f"impressions{end}")).alias(f"position{end}"),
            pl.when(pl.col(f"sessions{end}") > 0)
            .then(pl.col(f"bounces{end}") / pl.col(f"sessions{end}"))
            .alias(f"bounce_rate{end}"),
            *(
                pl.when(visited).then(pl.col(f"{name}{end}")).alias(f"{name}{end}")
                for name in ("sessions", "bounces", "seconds", "conversions", "value")
            ),
        )
    could = pl.col("clicks") + pl.col("at_stake")
    told = told.with_columns(stake_share=pl.when(could > 0).then(pl.col("at_stake") / could))
    if "clicks_before" in told.columns:
        told = told.with_columns(change=pl.col("clicks") - pl.col("clicks_before"))
    return told.drop("ranks", "ranks_itself", "visited", "visited_itself")


def page_types(settled: Settled, rows: pl.DataFrame) -> list[dict[str, object]]:
    """Each page type: its pages, sums, usual bounce rate and how many pages deviate from it; "" for pages without a type."""
    rules = cleaning.rules_of(settled.site)
    exempt = {one.name: list(one.exempt) for one in rules.page_types}
    judged = judge_bounces(rows.select("page", "type", "sessions", "bounces"), exempt_from_bounce(settled.site))
    told = rows.join(judged, on="page", how="left").with_columns(pl.col("type").fill_null(""))
    sums = told.group_by("type").agg(
        pl.len().alias("pages"),
        pl.col("clicks", "impressions", "at_stake", "gain").sum(),
        *(
            pl.when(pl.col(name).count() > 0).then(pl.col(name).sum()).alias(name)
            for name in ("sessions", "bounces", "conversions", "value")
        ),
        pl.col("usual_bounce_rate").max(),
        pl.col("compared_with").drop_nulls().first(),
        pl.col("bounces_more").sum().alias("bounce_more"),
        (~pl.col("bounces_more")).sum().alias("bounce_less"),
    )
    return [
        {**row, "exempt": exempt.get(row["type"], [])}
        for row in sums.sort("clicks", "type", descending=[True, False]).to_dicts()
    ]


def exempt_from_bounce(site: Site) -> list[str]:
    return [one.name for one in cleaning.rules_of(site).page_types if "bounce" in one.exempt]
