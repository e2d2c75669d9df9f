"""Landing pages: search beside visits."""

import polars as pl

from zugzwang.core import sentences
from zugzwang.core.landing import judge_bounces, reconcile, roles
from zugzwang.desk import frames
from zugzwang.desk.measures import page_measures, visits_lacking
from zugzwang.desk.scope import Scope, settle
from zugzwang.desk.sectioning import exempt_from_bounce
from zugzwang.desk.told import Told
from zugzwang.store.models import Site


def tell_landing_pages(site: Site, scope: Scope) -> Told:
    """Every page with its organic visits beside what search says of it, the most sessions first."""
    settled = settle(site, scope, compare="year", branded="with")
    measures = page_measures(settled).join(
        frames.page_facets(*settled.key).select("page", "type", "path"), on="page", how="left"
    )
    rows = (
        measures.join(judge_bounces(measures, exempt_from_bounce(site)), on="page", how="left")
        .join(reconcile(measures), on="page", how="left")
        .join(roles(measures), on="page", how="left")
    )
    sessions, clicks = pl.col("sessions"), pl.col("clicks")
    rows = rows.with_columns(
        ctr=pl.when(pl.col("impressions") > 0).then(clicks / pl.col("impressions")),
        seconds_per_session=pl.when(sessions > 0).then(pl.col("seconds") / sessions),
        conversions_per_click=pl.when(clicks > 0).then(pl.col("conversions") / clicks),
        value_per_click=pl.when(clicks > 0).then(pl.col("value") / clicks),
    )
    graded = ["bounce_evidence", "sessions_evidence"]
    if set(scope.evidence) != {"firm", "likely", "thin"}:
        rows = rows.filter(pl.any_horizontal(pl.col(name).is_in(list(scope.evidence)) for name in graded))
    rows = rows.sort("sessions", "clicks", "page", descending=[True, True, False], nulls_last=True)
    named = settled.named(rows, ("page",)).rename({"page": "page_id", "page_text": "page"})
    told = named.select("page", pl.exclude("page")).to_dicts()
    by_role = dict(rows.filter(pl.col("role").is_not_null()).group_by("role").len().iter_rows())
    more, less = int(rows["bounces_more"].sum()), int((~rows["bounces_more"]).sum())
    totals = {name: _sum(rows, name) for name in ("clicks", "sessions", "bounces", "conversions", "value")}
    said = sentences.landing(totals["clicks"] or 0, totals["sessions"], more, less, by_role)
    behind = {"pages": rows.height, "sessions": int(totals["sessions"] or 0)}
    return Told(settled, told, said, behind, visits_lacking(settled), {"roles": by_role, "whole": totals})


def _sum(rows: pl.DataFrame, name: str) -> float | None:
    return float(rows[name].sum()) if rows[name].count() else None
