"""Why clicks changed: of pages, sections, page types, queries, query groups, or the site."""

from typing import Any

import polars as pl

from zugzwang.core.clicks.lenses import appraise
from zugzwang.core.facts.grains import DAY, PAGE, QUERY, Grain
from zugzwang.core.pages.sections import section_name
from zugzwang.core.time.change import PARTS as PART_NAMES
from zugzwang.core.time.change import By, change, rolled_up
from zugzwang.core.words import sentences
from zugzwang.data.snapshot import LISTED
from zugzwang.errors import Invalid, NotFound
from zugzwang.findings.columns import PAGES, PART, PARTS
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.shapes import ChangeParts
from zugzwang.findings.view import View, ViewOptions

# The grain with all clicks of each, including anonymised queries.
_TOTALS: dict[By, Grain] = {"page": PAGE, "section": PAGE, "page-type": PAGE, "query": QUERY, "query-group": QUERY, "site": DAY}
EVERY_ROW = pl.lit(True)
COLUMN_OF: dict[By, str] = {
    "page": "page", "section": "section", "page-type": "page_type", "query": "query", "query-group": "query_group",
    "site": "site",
}  # fmt: skip


def find_change(view: View) -> Found:
    """The change of clicks in its parts, largest loss first. Raises Invalid without a comparison, NotFound without data to
    compare with.
    """
    by: By = view.options.by if view.options.by and view.options.by != "row" else "page"
    rows = changed_rows(view)
    totals = totals_changed(view, by)
    result = rolled_up(_with_name(view, rows, by), ["name"], _named_totals(view, totals, by))
    result = result.with_columns(change=pl.col("clicks_after") - pl.col("clicks_before"))
    lacking = [] if totals is not None else [_why_no_totals(view, by)]
    return Found(result.rename({"name": COLUMN_OF[by]}), {"rows": rows.height}, lacking)


def changed_rows(view: View) -> pl.DataFrame:
    """The change of each selected page × query row (core.change)."""
    if view.before is None and not view.by_day:
        raise Invalid(
            "There are no totals of an earlier span to compare with.",
            "Load them, best of the same weeks a year before.",
            "compare",
        )
    if view.requested_before is None:
        raise Invalid("A change needs days to compare with.", "Compare with last year, or with the days before.", "compare")
    grain = view.grain_of(view.snapshot.facts.finest(view.period))
    if view.like(grain) is None or view.before is None or not view.snapshot.facts.has(grain, view.before):
        raise NotFound("There are no data on the days compared with.", "Compare with the days before, or load older days.")
    return rows_changed(view, grain)


def rows_changed(view: View, grain: Grain, of_rows: pl.Expr = EVERY_ROW) -> pl.DataFrame:
    """The change of rows of a grain with facts of both periods, over comparable days."""
    by = next(by for by, listed in LISTED.items() if listed is grain)
    periods = view.like(grain)
    if periods is None:
        raise ValueError("nothing is compared")
    now, then = (
        view.appraisal.rows.filter(of_rows)
        if period == view.period
        else appraise(
            view.snapshot.facts.listed(period, view.setting.part, by).filter(of_rows), view.of_brand, view.appraisal.curves
        ).rows
        for period in periods
    )
    return view.without_brand(view.chosen(change(then, now, view.curve.shape)))


def _why_no_totals(view: View, by: By) -> str:
    if view.some_queries_only:
        return "Some queries are left out, so the effect of anonymised queries is unknown."
    return f"The site has no search facts by {_TOTALS[by].name}, so the effect of anonymised queries is unknown."


def totals_changed(view: View, by: By) -> pl.DataFrame | None:
    """Clicks of each page, query or the site in both periods; None where they are unknown for either, or where queries or
    pages are filtered.
    """
    grain = _TOTALS[by]
    if (view.some_queries_only and grain is not QUERY) or (view.pages is not None and grain is not PAGE):
        return None
    thing = [name for name in ("page", "query") if name in grain.schema.names()]
    parts = []
    # Rows and totals must cover the same days: their difference is the clicks of anonymised queries.
    listed = view.grain_of(view.snapshot.facts.finest(view.period))
    periods = view.like(listed, grain)
    if periods is None or periods != view.like(listed):
        return None
    for name, period in zip(("clicks_after", "clicks_before"), periods, strict=True):
        facts = view.snapshot.facts.rows(grain, period, view.setting.part, ("day", *thing, "clicks"))
        if facts.is_empty():
            return None
        facts = view.without_brand(facts)
        clicks = pl.col("clicks").cast(pl.Int64).sum().alias(name)
        parts.append(facts.group_by(thing).agg(clicks) if thing else facts.select(clicks))
    if not thing:
        return pl.concat(parts, how="horizontal")
    together = parts[0].join(parts[1], on=thing, how="full", coalesce=True).fill_null(0)
    return view.chosen(together)


def _named_totals(view: View, totals: pl.DataFrame | None, by: By) -> pl.DataFrame | None:
    if totals is None:
        return None
    clicks = pl.col("clicks_before", "clicks_after").sum()
    return _with_name(view, totals, by).group_by("name").agg(clicks)


def _with_name(view: View, rows: pl.DataFrame, by: By) -> pl.DataFrame:
    """The rows with `name`, the column that they are summed by."""
    if by in ("page", "query"):
        return rows.with_columns(name=pl.col(by))
    if by == "site":
        return rows.with_columns(name=pl.lit(view.site.slug))
    if by == "query-group":
        frame = rows.join(view.snapshot.pages.query_groups(), on="query", how="left").explode("groups", empty_as_null=True)
        return frame.with_columns(name=pl.col("groups").fill_null(""))
    facets = view.snapshot.pages.every()
    if by == "page-type":
        return rows.join(facets.select("page", name=pl.col("type").fill_null("")), on="page", how="left")
    return rows.join(facets.select("page", name=section_name(view.options.section)), on="page", how="left")


def whole_of(rows: pl.DataFrame) -> dict[str, Any]:
    """The parts of rows summed."""
    return {name: float(rows[name].sum()) for name in ("clicks_before", "clicks_after", *PART_NAMES, "demand")}


def _extras(view: View, found: Found, rows: pl.DataFrame) -> dict[str, Any]:
    return {"whole": whole_of(rows)}


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    return sentences.change(whole_of(rows))


def _by(by: By, kind: str, label: str) -> Column:
    return Column(COLUMN_OF[by], kind, label, f"the {label}", shown="list", when=("by", by), low=True)  # type: ignore[arg-type]


CHANGE = Finding(
    name="change",
    title="Why clicks changed",
    question="Why did clicks change: how often shown, ranking, snippet, or queries that came and went?",
    method="why-clicks-changed",
    claims=("line of the change", "lines of the change"),
    makes=(*PART, *PAGES, "text", "query_group", "topic", "branded", "compare", "by", "curve"),
    chooses=(),
    columns=(
        _by("page", "page", "page"),
        _by("section", "text", "section"),
        _by("page-type", "text", "page type"),
        _by("query", "query", "query"),
        _by("query-group", "text", "query group"),
        _by("site", "text", "site"),
        Column("clicks_before", "amount", "clicks before", "clicks in the comparison period", "clicks", "list"),
        Column("clicks_after", "amount", "clicks now", "clicks in the period", "clicks", "list"),
        *PARTS,
        Column("change", "amount", "change", "clicks now minus clicks before", "clicks", "list", low=True),
    ),
    find=find_change,
    says=_says,
    extras=_extras,
    more={"whole": ChangeParts},
    compare="year",
    by="page",
    branded="with",
    opens=(ViewOptions(compare="year"),),
    key=("page", "section", "page_type", "query", "query_group", "site"),
)
