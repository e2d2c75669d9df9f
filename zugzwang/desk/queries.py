"""The lenses on page × query rows: the list, the evidence of one row, the field, and all of it as a file."""

from dataclasses import dataclass
from datetime import date
from typing import Any, Literal

import numpy as np
import polars as pl

from zugzwang.core import sentences
from zugzwang.core.click_curve import ClickCurve, expected_clicks
from zugzwang.core.evidence import GRADES, Grade, usual_factors, usual_range, wilson_interval
from zugzwang.core.facts import sums
from zugzwang.core.headroom import Target, target_position
from zugzwang.core.lenses import Lens
from zugzwang.core.periods import Comparison, Period
from zugzwang.desk import frames
from zugzwang.desk.sites import patterns_for, period_for
from zugzwang.errors import Invalid, NotFound
from zugzwang.store.models import Page, Query, Site

FIELD_DOTS = 4_000
DAYS_A_MONTH = 365.25 / 12
FINDING_COLUMNS = [
    "clicks",
    "impressions",
    "ctr",
    "position",
    "expected_clicks",
    "expected_ctr",
    "shortfall",
    "headroom",
    "at_stake",
    "q_value",
    "evidence",
]
Sort = Literal[
    "page", "query", "change", "clicks_before", "clicks", "impressions", "ctr", "position", "expected_clicks",
    "expected_ctr", "shortfall", "headroom", "at_stake", "q_value", "evidence",
]  # fmt: skip


@dataclass(frozen=True)
class Question:
    """What is asked of a site: a lens, days, and which rows to show. None stands for the site's own setting."""

    lens: Lens = "low-ctr"
    first: date | None = None
    last: date | None = None
    compare: Comparison = "none"
    min_impressions: int | None = None
    brand: tuple[str, ...] | None = None
    target: Target = "next-band"
    text: str = ""
    evidence: tuple[Grade, ...] = GRADES
    position_from: float | None = None
    position_to: float | None = None
    sort: Sort = "at_stake"
    descending: bool = True


@dataclass(frozen=True)
class Answer:
    """A question settled against a site: what was meant by it, and all rows that it shows."""

    site: Site
    question: Question
    period: Period
    before: Period | None
    patterns: tuple[str, ...]
    min_impressions: int
    curve: ClickCurve
    rows: pl.DataFrame
    tested: int
    in_lens: dict[str, int]

    @property
    def month_share(self) -> float:
        """What turns clicks over the period into clicks a month."""
        return DAYS_A_MONTH / self.period.days

    def named(self, rows: pl.DataFrame) -> pl.DataFrame:
        return frames.named(self.site.id, self.site.data_version, rows)


def ask(site: Site, question: Question) -> Answer:
    """Settle a question. NotFound when the site has no data yet."""
    patterns = patterns_for(site.brand_patterns if question.brand is None else question.brand)
    period = period_for(site, question.first, question.last)
    if period is None:
        raise NotFound(f"{site.name} has no data yet.", "Load a file of search facts first.")
    before = period.compared(question.compare)
    floor = site.min_impressions if question.min_impressions is None else question.min_impressions
    if floor < 0:
        raise Invalid("The floor is below 0.", "Write how often a row must have been shown.", "min_impressions")
    points = tuple((position, ctr) for position, ctr in site.own_curve or ())
    key = (site.id, site.data_version)
    appraisal = frames.appraisal(*key, period, patterns, points)
    rows = frames.lens_rows(*key, period, before, patterns, points, question.lens, floor, question.target)
    in_lens = dict(rows.group_by("evidence").len().iter_rows())
    return Answer(
        site=site,
        question=question,
        period=period,
        before=before,
        patterns=patterns,
        min_impressions=floor,
        curve=appraisal.curve,
        rows=_sorted(site, _filtered(site, rows, question), question),
        tested=appraisal.rows.filter(~pl.col("branded"), pl.col("impressions") >= floor).height,
        in_lens={grade: in_lens.get(grade, 0) for grade in GRADES},
    )


def _filtered(site: Site, rows: pl.DataFrame, question: Question) -> pl.DataFrame:
    if set(question.evidence) != set(GRADES):
        rows = rows.filter(pl.col("evidence").is_in(list(question.evidence)))
    if question.position_from is not None:
        rows = rows.filter(pl.col("position") >= question.position_from)
    if question.position_to is not None:
        rows = rows.filter(pl.col("position") <= question.position_to)
    if question.text.strip():
        key = (site.id, site.data_version)
        pages, queries = (frames.matching(*key, words, question.text.strip()) for words in (Page, Query))
        rows = rows.filter(pl.col("page").is_in(pages.implode()) | pl.col("query").is_in(queries.implode()))
    return rows


def _sorted(site: Site, rows: pl.DataFrame, question: Question) -> pl.DataFrame:
    """Rows in the order asked for; ties by what is at stake, then by id, so that windows never overlap."""
    if question.sort == "at_stake" and question.descending:
        return rows  # the order in which the lens gives them
    by: pl.Expr = pl.col(question.sort) if question.sort != "change" else pl.lit(0)
    if question.sort in ("page", "query"):
        rows = frames.named(site.id, site.data_version, rows, (question.sort,))
        by = pl.col(f"{question.sort}_text").str.to_lowercase()
    elif question.sort in ("change", "clicks_before"):
        if "clicks_before" not in rows.columns:
            raise Invalid("There is nothing to compare with.", "Choose a comparison first.", "sort")
        by = pl.col("clicks_before") if question.sort == "clicks_before" else pl.col("clicks") - pl.col("clicks_before")
    ordered = rows.sort(by, "at_stake", "page", "query", descending=[question.descending, True, False, False], nulls_last=True)
    return ordered.drop("page_text", "query_text", strict=False)


def window(answer: Answer, offset: int, limit: int) -> list[dict[str, Any]]:
    """Rows `offset` to `offset + limit`, named, with what is at stake a month."""
    rows = answer.named(answer.rows.slice(offset, limit))
    return rows.with_columns(at_stake_month=pl.col("at_stake") * answer.month_share).to_dicts()


def findings(answer: Answer) -> dict[str, Any]:
    """Everything that the lens shows, no cap, with what it was asked: the shape of `manage.py findings`."""
    return {
        "lens": answer.question.lens,
        "site": answer.site.slug,
        "period": {"from": str(answer.period.first), "to": str(answer.period.last)},
        "filters": filters(answer),
        "curve": answer.curve.points(),
        "rows": finding_rows(answer).to_dicts(),
    }


def finding_rows(answer: Answer) -> pl.DataFrame:
    """page and query as texts, then FINDING_COLUMNS (and the comparison's, where there is one)."""
    more = ["clicks_before", "impressions_before", "ctr_before", "position_before"] if answer.before else []
    named = answer.named(answer.rows)
    return named.select(pl.col("page_text").alias("page"), pl.col("query_text").alias("query"), *FINDING_COLUMNS, *more)


def filters(answer: Answer) -> dict[str, Any]:
    """What made the list, in words that a file can carry."""
    question = answer.question
    return {
        "min_impressions": answer.min_impressions,
        "brand_left_out": list(answer.patterns),
        "text": question.text,
        "evidence": list(question.evidence),
        "position_from": question.position_from,
        "position_to": question.position_to,
        "target": question.target,
        "compared_with": {"from": str(answer.before.first), "to": str(answer.before.last)} if answer.before else None,
        "curve_basis": answer.curve.basis,
        "scatter_shape": answer.curve.shape,
        "rows_tested": answer.tested,
    }


def field(answer: Answer) -> dict[str, Any]:
    """The field: one dot for each row tested, the most shown `FIELD_DOTS` of them, with the curve and its usual band."""
    appraisal = frames.appraisal(
        answer.site.id,
        answer.site.data_version,
        answer.period,
        answer.patterns,
        tuple((position, ctr) for position, ctr in answer.site.own_curve or ()),
    )
    tested = appraisal.rows.filter(~pl.col("branded"), pl.col("impressions") >= answer.min_impressions)
    dots = tested.top_k(FIELD_DOTS, by="impressions")
    shown = answer.rows.select("page", "query", "evidence", in_list=pl.lit(True))
    dots = answer.named(dots.join(shown, on=["page", "query"], how="left", maintain_order="left"))
    low, high = usual_factors(answer.curve.shape)
    return {
        "dots": [
            {
                "page": dot["page"],
                "query": dot["query"],
                "query_text": dot["query_text"],
                "position": dot["position"],
                "ctr": dot["ctr"],
                "impressions": dot["impressions"],
                "evidence": dot["evidence"] if dot["in_list"] else None,
            }
            for dot in dots.iter_rows(named=True)
        ],
        "tested": tested.height,
        "curve": [
            {**point, "low": point["ctr"] * low, "high": min(point["ctr"] * high, 1.0)} for point in answer.curve.points()
        ],
        "basis": sentences.curve_basis(answer.curve.basis, answer.curve.clicks),
    }


def evidence(answer: Answer, page: int, query: int) -> dict[str, Any]:
    """The proof of one row: its numbers, what they say in words, and its days (and the days compared with)."""
    key = (answer.site.id, answer.site.data_version)
    of_row = (pl.col("page") == page) & (pl.col("query") == query)
    facts = frames.facts(*key, answer.period).filter(of_row).sort("day")
    if facts.is_empty():
        raise NotFound("This page was not shown for this query in the period.", "Choose other days.")
    curve = answer.curve
    expected = expected_clicks(curve, facts["position"].to_numpy(), facts["impressions"].to_numpy())
    # Addresses that fold into one page may be shown for the query on the same day.
    days = facts.with_columns(expected_clicks=pl.Series(expected)).group_by("day").agg(*sums(), pl.col("expected_clicks").sum())
    names = answer.named(facts.select("page", "query").head(1)).to_dicts()[0]
    in_lens = answer.rows.filter(of_row)
    clicks, shown = int(facts["clicks"].sum()), int(facts["impressions"].sum())
    position = float((facts["position"] * facts["impressions"]).sum() / shown)
    low, high = wilson_interval(np.array([clicks]), np.array([shown]))
    usual_low, usual_high = usual_range(np.array([expected.sum()]), curve.shape)
    usual = (int(usual_low[0]), int(usual_high[0]))
    target = float(target_position(np.array([position]), answer.question.target)[0])
    said = [sentences.row(clicks, shown, position, usual)]
    found = in_lens.to_dicts()[0] if in_lens.height else None
    if found:
        said.append(sentences.evidence(answer.question.lens, found["evidence"], found["q_value"]))
        said.append(sentences.reach(found["headroom"] * answer.month_share, position, target))
    return {
        "page": page,
        "query": query,
        "page_text": names["page_text"],
        "query_text": names["query_text"],
        "sentences": said,
        "clicks": clicks,
        "impressions": shown,
        "ctr": clicks / shown,
        "ctr_low": float(low[0]),
        "ctr_high": float(high[0]),
        "position": position,
        "expected_clicks": float(expected.sum()),
        "usual_low": usual[0],
        "usual_high": usual[1],
        "target": target,
        "finding": {**found, "at_stake_month": found["at_stake"] * answer.month_share} if found else None,
        "days": days.sort("day").to_dicts(),
        "days_before": _days_before(answer, page, query),
    }


def _days_before(answer: Answer, page: int, query: int) -> list[dict[str, Any]]:
    """The days compared with, each under the day of the period that it stands for."""
    if answer.before is None:
        return []
    offset = answer.period.first - answer.before.first
    facts = frames.facts(answer.site.id, answer.site.data_version, answer.before)
    of_row = facts.filter(pl.col("page") == page, pl.col("query") == query).group_by("day").agg(*sums()).sort("day")
    return of_row.select(pl.col("day") + offset, "clicks", "impressions", "position").to_dicts()
