"""Why clicks changed: of pages, sections, page types, queries, query groups, or the site."""

from typing import Literal

import polars as pl

from zugzwang.core import sentences
from zugzwang.core.change import PARTS, change, rolled_up
from zugzwang.core.grains import DAY, PAGE, QUERY, Grain
from zugzwang.core.lenses import appraise
from zugzwang.core.periods import Period
from zugzwang.desk import frames
from zugzwang.desk.scope import Scope, Settled, settle
from zugzwang.desk.told import Told
from zugzwang.errors import Invalid, NotFound
from zugzwang.store.models import Site

By = Literal["page", "section", "page-type", "query", "query-group", "site"]
BYS: tuple[By, ...] = ("page", "section", "page-type", "query", "query-group", "site")
# The grain that tells all clicks of each, also those of queries that are not named.
_TOTALS: dict[By, Grain] = {"page": PAGE, "section": PAGE, "page-type": PAGE, "query": QUERY, "query-group": QUERY, "site": DAY}


def tell_change(site: Site, scope: Scope, by: By = "page") -> Told:
    """The change of clicks in its parts, most lost first. Invalid without a comparison, NotFound without data to compare
    with."""
    settled = settle(site, scope, compare="year", branded="with")
    if settled.before is None:
        raise Invalid("A change needs days to compare with.", "Compare with last year, or with the days before.", "compare")
    held = frames.appraisal(*settled.key, settled.period, settled.setting)
    facts_then = frames.facts(*settled.key, settled.before, settled.setting.part)
    if facts_then.is_empty():
        raise NotFound("There are no data on the days compared with.", "Compare with the days before, or load older days.")
    then = appraise(facts_then, settled.of_brand, held.curves).rows
    rows = settled.without_brand(settled.chosen(change(then, held.rows, held.curve.shape)))
    totals = _totals(settled, settled.before, by)
    told = rolled_up(_with_name(settled, rows, by), ["name"], _named_totals(settled, totals, by))
    whole = {name: float(told[name].sum()) for name in ("clicks_before", "clicks_after", *PARTS)}
    if by in ("page", "query"):
        told = settled.named(told.rename({"name": by}), (by,)).rename({by: f"{by}_id", f"{by}_text": by})
    else:
        told = told.rename({"name": by.replace("-", "_")})
    lacking = [] if totals is not None else [_why_no_totals(settled, by)]
    first = by.replace("-", "_")
    ordered = told.select(first, pl.exclude(first))
    return Told(
        settled, ordered.to_dicts(), sentences.change(whole), {"rows": rows.height}, lacking, {"by": by, "whole": whole}
    )


def change_if_known(site: Site, scope: Scope, by: By) -> tuple[Told | None, list[str]]:
    """The change with what it lacks; without days to compare with None, and what is lacking."""
    try:
        told = tell_change(site, scope, by)
    except (Invalid, NotFound) as error:
        return None, [f"{error.message} {error.remedy}"]
    return told, told.lacking


def _why_no_totals(settled: Settled, by: By) -> str:
    if settled.some_queries_only:
        return "Some queries are left out, so that what queries without a name did is not told."
    return f"The site has no search facts in the grain {_TOTALS[by].name}, so that what queries without a name did is not told."


def _totals(settled: Settled, before: Period, by: By) -> pl.DataFrame | None:
    """Clicks of each page, query or the site in both periods; None where they are not known for either, or where the scope
    looks at some queries or pages only."""
    grain = _TOTALS[by]
    if (settled.some_queries_only and grain is not QUERY) or (settled.pages is not None and grain is not PAGE):
        return None
    thing = [name for name in ("page", "query") if name in grain.schema.names()]
    parts = []
    for name, period in (("clicks_before", before), ("clicks_after", settled.period)):
        facts = frames.part_of(*settled.key, grain, period, settled.setting.part, ("day", *thing, "clicks"))
        if facts.is_empty():
            return None
        facts = settled.without_brand(facts)
        clicks = pl.col("clicks").cast(pl.Int64).sum().alias(name)
        parts.append(facts.group_by(thing).agg(clicks) if thing else facts.select(clicks))
    if not thing:
        return pl.concat(parts, how="horizontal")
    together = parts[0].join(parts[1], on=thing, how="full", coalesce=True).fill_null(0)
    return settled.chosen(together)


def _named_totals(settled: Settled, totals: pl.DataFrame | None, by: By) -> pl.DataFrame | None:
    if totals is None:
        return None
    clicks = pl.col("clicks_before", "clicks_after").sum()
    return _with_name(settled, totals, by).group_by("name").agg(clicks)


def _with_name(settled: Settled, rows: pl.DataFrame, by: By) -> pl.DataFrame:
    """The rows with `name`, what they are added up by."""
    if by in ("page", "query"):
        return rows.with_columns(name=pl.col(by))
    if by == "site":
        return rows.with_columns(name=pl.lit(settled.site.slug))
    if by == "query-group":
        groups = frames.query_groups(*settled.key)
        told = rows.join(groups, on="query", how="left").explode("groups", empty_as_null=True)
        return told.with_columns(name=pl.col("groups").fill_null(""))
    facets = frames.page_facets(*settled.key)
    if by == "page-type":
        return rows.join(facets.select("page", name=pl.col("type").fill_null("")), on="page", how="left")
    return rows.join(facets.select("page", name=section_name(settled.scope.section)), on="page", how="left")


def section_name(inside: str) -> pl.Expr:
    """The section of a page (its `path`) one level below `inside`: the first directory of the site by default; pages that lie
    in none of them are told under `inside` itself."""
    above = inside if inside.endswith("/") else inside + "/"
    head = (
        pl.col("path").str.extract(rf"^((?://[^/]+)?{_escaped(above)}[^/]+/)")
        if inside
        else (pl.col("path").str.extract(r"^((?://[^/]+)?/[^/]+/)"))
    )
    return pl.coalesce(head, pl.lit(above if inside else "/"))


def _escaped(text: str) -> str:
    return "".join(f"\\{sign}" if sign in r".^$*+?()[]{}|\-" else sign for sign in text)
