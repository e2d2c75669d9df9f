"""Landing pages: search and visit figures."""

from typing import Any

import polars as pl

from zugzwang.core.clicks.evidence import GRADES
from zugzwang.core.facts.search import ctr
from zugzwang.core.pages.landing import ROLES, judge_bounces, reconcile, roles
from zugzwang.core.words import sentences
from zugzwang.findings.columns import PAGE, PAGES, PART
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.measures import page_measures, visits_lacking
from zugzwang.findings.pages import MEASURES, visit
from zugzwang.findings.view import View, ViewOptions


def find_landing_pages(view: View) -> Found:
    """Every page with its organic visits and search figures, most sessions first."""
    measures = page_measures(view).join(view.snapshot.pages.every().select("page", "type", "path"), on="page", how="left")
    rows = (
        measures.join(judge_bounces(measures, view.snapshot.pages.exempt_types("bounce")), on="page", how="left")
        .join(reconcile(measures), on="page", how="left")
        .join(roles(measures), on="page", how="left")
    )
    sessions, clicks = pl.col("sessions"), pl.col("clicks")
    rows = rows.with_columns(
        ctr=ctr(),
        seconds_per_session=pl.when(sessions > 0).then(pl.col("seconds") / sessions),
        conversions_per_click=pl.when(clicks > 0).then(pl.col("conversions") / clicks),
        value_per_click=pl.when(clicks > 0).then(pl.col("value") / clicks),
    )
    rows = rows.sort("sessions", "clicks", "page", descending=[True, True, False], nulls_last=True)
    behind = {"pages": rows.height, "sessions": int(rows["sessions"].sum() or 0)}
    return Found(rows, behind, visits_lacking(view))


def _with_evidence(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    if set(view.options.evidence) == set(GRADES):
        return rows
    graded = [
        pl.col(name).cast(pl.String).is_in(list(view.options.evidence)) for name in ("bounce_evidence", "sessions_evidence")
    ]
    return rows.filter(pl.any_horizontal(graded))


def _whole(rows: pl.DataFrame) -> dict[str, float | None]:
    names = ("clicks", "sessions", "bounces", "conversions", "value")
    return {name: float(rows[name].sum()) if rows[name].count() else None for name in names}


def _roles(rows: pl.DataFrame) -> dict[str, int]:
    return dict(rows.filter(pl.col("role").is_not_null()).group_by("role").len().iter_rows())


def _extras(view: View, found: Found, rows: pl.DataFrame) -> dict[str, Any]:
    return {"roles": _roles(rows), "whole": _whole(rows)}


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    whole = _whole(rows)
    more, less = int(rows["bounces_more"].sum()), int((~rows["bounces_more"]).sum())
    return sentences.landing(whole["clicks"] or 0, whole["sessions"], more, less, _roles(rows))


LANDING_PAGES = Finding(
    name="landing-pages",
    title="Landing pages",
    question="What do visits show about each page, compared with search?",
    method="landing-pages",
    claims=("page", "pages"),
    order="sessions",
    makes=(*PART, *PAGES, "text", "query_group", "topic", "branded", "compare"),
    chooses=("evidence",),
    columns=(
        PAGE.listed(),
        *MEASURES,
        visit("bounce_rate", "share", "bounce rate", "share of organic visits that bounced", "list"),
        visit("expected_bounce_rate", "share", "expected", "the bounce rate of pages of its type", "list"),
        visit("compared_with", "text", "", "which pages it is compared with", "data"),
        visit("bounce_q_value", "rate", "", "the share of false alarms among pages at least as sure as this one", "data"),
        Column("bounce_evidence", "grade", "evidence", "how sure it is that the rate differs", null=True, low=True),
        visit("bounces_more", "flag", "", "whether it bounces more than usual", "data"),
        visit("sessions_per_click", "amount", "visits per click", "organic visits for each click"),
        visit("expected_sessions", "amount", "", "visits that its clicks usually bring", "data"),
        Column("sessions_evidence", "grade", "", "how sure it is that visits and clicks differ", null=True, low=True),
        visit("seconds_per_session", "amount", "seconds a visit", "seconds for each organic visit"),
        visit("conversions_per_click", "amount", "conversions per click", "conversions for each click"),
        visit("value_per_click", "money", "value per click", "value for each click"),
        Column("role", "word", "role", "whether the page earns (converts) or informs", null=True, choices=ROLES, low=True),
    ),
    find=find_landing_pages,
    says=_says,
    extras=_extras,
    more={"roles": dict[str, int], "whole": dict[str, float | None]},
    choose={"evidence": _with_evidence},
    compare="year",
    branded="with",
    opens=(ViewOptions(compare="year"),),
    key=("page",),
)
