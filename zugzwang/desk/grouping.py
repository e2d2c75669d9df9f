"""Query groups: what the queries of each earn, could gain, and why their clicks changed. A query may lie in several groups and
counts in each, so that groups do not add up to the site."""

from typing import Any

import polars as pl

from zugzwang.core import sentences
from zugzwang.core.account import accounts
from zugzwang.core.change import PARTS
from zugzwang.core.facts import ROW, add_up
from zugzwang.core.grains import QUERY
from zugzwang.desk import cleaning, frames
from zugzwang.desk.accounts import entries_of
from zugzwang.desk.changes import change_if_known
from zugzwang.desk.scope import Scope, Settled, settle
from zugzwang.desk.told import Told
from zugzwang.store.models import Site


def tell_query_groups(site: Site, scope: Scope) -> Told:
    """Every query group, the most to gain first, and the queries that lie in none (group "")."""
    settled = settle(site, scope, compare="year", branded="with")
    held = frames.appraisal(*settled.key, settled.period, settled.setting).rows
    rows = settled.without_brand(settled.chosen(held.select(*ROW, "clicks", "impressions", "position")))
    groups = frames.query_groups(*settled.key).explode("groups", empty_as_null=True)
    of_group = groups.select("query", group=pl.col("groups").fill_null(""))
    grouped = rows.join(of_group, on="query")
    things = grouped.group_by("group").agg(queries=pl.col("query").n_unique(), pages=pl.col("page").n_unique())
    sums = add_up(_facts(settled, rows).join(of_group, on="query"), ["group"])
    gains = accounts(settled.chosen(entries_of(settled)).join(of_group, on="query"), "group")
    told = things.join(sums, on="group")
    told = told.join(gains.select("group", "at_stake", "gain", "evidence"), on="group", how="left").with_columns(
        pl.col("at_stake", "gain").fill_null(0.0), pl.col("evidence").cast(pl.String).fill_null("thin")
    )
    known = [one.name for one in cleaning.rules_of(site).query_groups]
    listed, lacking = _with_change(settled, told.filter(pl.col("group").is_in([*known, ""])))
    in_one = grouped.filter(pl.col("group") != "")["query"].n_unique()
    said = sentences.query_groups(len(known), in_one, rows["query"].n_unique())
    return Told(settled, listed if known else [], [said], {"rows": rows.height}, lacking, {"known": len(known)})


def _facts(settled: Settled, rows: pl.DataFrame) -> pl.DataFrame:
    """All clicks of the queries looked at, those too whose pages are not told; of some pages, or where the site has no facts by
    query, the rows'."""
    facts = frames.part_of(*settled.key, QUERY, settled.period, settled.setting.part)
    if facts.is_empty() or settled.pages is not None or settled.scope.text.strip():
        return rows
    return settled.without_brand(settled.chosen(facts))


def _with_change(settled: Settled, groups: pl.DataFrame) -> tuple[list[dict[str, Any]], list[str]]:
    """The groups, the most to gain first, those in none last, with why their clicks changed; and what is lacking to tell it."""
    change, lacking = change_if_known(settled.site, settled.scope, "query-group")
    parts = {row["query_group"]: row for row in change.rows} if change else {}
    month = settled.month_share
    rows = []
    for row in groups.sort(pl.col("group") == "", -pl.col("gain"), "group").to_dicts():
        own = parts.get(row["group"])
        why = {name: own[name] for name in ("clicks_before", "clicks_after", *PARTS)} if own else None
        told = {**row, "at_stake_month": row["at_stake"] * month, "gain_month": row["gain"] * month}
        by = own["clicks_after"] - own["clicks_before"] if own else None
        rows.append({**told, "change": by, "why": {**why, "sentences": sentences.change(why)} if why else None})
    return rows, lacking
