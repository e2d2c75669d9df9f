"""Everything that can be found, by name: what the command line and exports give, whole and with what made it."""

import json
from dataclasses import dataclass, replace
from datetime import date
from typing import Any, Literal, cast

import polars as pl

from zugzwang.core import sentences
from zugzwang.core.lenses import LENSES, Lens
from zugzwang.desk import breaking, changes, clashing, queries
from zugzwang.desk.accounts import tell_pages
from zugzwang.desk.grouping import tell_query_groups
from zugzwang.desk.landing import tell_landing_pages
from zugzwang.desk.scope import Scope
from zugzwang.desk.sectioning import tell_sections
from zugzwang.desk.told import Told
from zugzwang.store.models import Site

Diagnosis = Literal["clashes", "topic-folds", "change", "breaks", "sections", "query-groups", "landing-pages", "pages"]
DIAGNOSES: tuple[Diagnosis, ...] = (
    "clashes", "topic-folds", "change", "breaks", "sections", "query-groups", "landing-pages", "pages"
)  # fmt: skip
Finding = Lens | Diagnosis
FINDINGS: tuple[Finding, ...] = (*LENSES, *DIAGNOSES)


# Which fields of a scope each of them looks at; "curve": the click curve stands behind its numbers.
_PART = ("device", "country", "section", "page_type", "text")
USED: dict[Diagnosis, tuple[str, ...]] = {
    "clashes": (
        *_PART, "query_group", "min_impressions", "branded", "evidence", "position_from", "position_to", "decided", "curve"
    ),
    "topic-folds": (*_PART, "min_impressions", "branded"),
    "change": (*_PART, "query_group", "branded", "curve"),
    "breaks": (*_PART, "query_group", "branded"),
    "sections": (
        *_PART, "query_group", "min_impressions", "branded", "target", "position_from", "position_to", "curve"
    ),
    "query-groups": (
        *_PART, "query_group", "min_impressions", "branded", "target", "position_from", "position_to", "curve"
    ),
    "landing-pages": (*_PART, "query_group", "branded", "evidence"),
    "pages": (
        *_PART, "query_group", "min_impressions", "branded", "target", "position_from", "position_to", "evidence", "decided",
        "curve"
    ),
}  # fmt: skip


@dataclass(frozen=True)
class Details:
    """What only some findings can be asked: `by`, what a change is added up by; `level` and `measures` of breaks."""

    by: changes.By = "page"
    level: breaking.Level = "page"
    measures: tuple[breaking.Measure, ...] = ("clicks",)


def tell(site: Site, diagnosis: Diagnosis, scope: Scope, today: date, details: Details = Details()) -> Told:
    """A diagnosis, settled; what was asked for that it does not look at is said in `lacking`."""
    told = _told(site, diagnosis, scope, today, details)
    return replace(told, lacking=[*told.lacking, *told.settled.not_used(USED[diagnosis])])


def _told(site: Site, diagnosis: Diagnosis, scope: Scope, today: date, details: Details) -> Told:
    if diagnosis == "clashes":
        return clashing.tell_clashes(site, scope, today)
    if diagnosis == "topic-folds":
        return clashing.tell_topic_folds(site, scope)
    if diagnosis == "change":
        return changes.tell_change(site, scope, details.by)
    if diagnosis == "breaks":
        return breaking.tell_breaks(site, scope, details.level, details.measures)
    if diagnosis == "sections":
        return tell_sections(site, scope)
    if diagnosis == "query-groups":
        return tell_query_groups(site, scope)
    return tell_landing_pages(site, scope) if diagnosis == "landing-pages" else tell_pages(site, scope, today)


def find(site: Site, finding: Finding, scope: Scope, today: date, details: Details = Details()) -> dict[str, Any]:
    """Everything that a lens or diagnosis has found, with what a reader needs to judge it."""
    more: dict[str, Any]
    if finding in LENSES:
        answer = queries.ask(site, queries.Question(**vars(scope), lens=finding), today)
        said = [sentences.lens(finding, answer.in_lens, answer.tested)]
        told = Told(answer.settled, queries.finding_rows(answer).to_dicts(), said, {"rows": answer.tested})
        more, filters = {"curve": answer.curve.points()}, queries.filters(answer)
    else:
        diagnosis = cast(Diagnosis, finding)
        told = tell(site, diagnosis, scope, today, details)
        more, filters = told.more, told.settled.filters(USED[diagnosis])
    settled = told.settled
    return {
        "lens": finding,
        "site": site.slug,
        "period": {"from": str(settled.period.first), "to": str(settled.period.last)},
        "compared_with": filters["compared_with"],
        "filters": filters,
        "sentences": told.sentences,
        "behind": told.behind,
        "missing": settled.missing(),
        "lacking": told.lacking,
        **more,
        "rows": list(told.rows),
    }


def as_table(found: dict[str, Any]) -> pl.DataFrame:
    """The rows as a table; lists and objects within a cell become JSON, for a table has no other place for them."""
    flat = [
        {name: json.dumps(cell, ensure_ascii=False) if isinstance(cell, list | dict) else cell for name, cell in row.items()}
        for row in found["rows"]
    ]
    return pl.DataFrame(flat, infer_schema_length=None, strict=False)


def made_by(found: dict[str, Any]) -> dict[str, Any]:
    """What made a list, to be written into its file."""
    names = ("site", "lens", "period", "compared_with", "sentences", "missing", "lacking")
    return {**{name: found[name] for name in names}, **found["filters"]}
