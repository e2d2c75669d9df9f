"""The lenses on page × query rows: the list, the evidence of one row, the field, and all of it as a file."""

from dataclasses import dataclass
from datetime import date
from functools import lru_cache
from typing import Any, Literal

import numpy as np
import polars as pl

from zugzwang.core import sentences
from zugzwang.core.click_curve import ClickCurve
from zugzwang.core.evidence import GRADES, usual_factors, usual_range, wilson_interval
from zugzwang.core.facts import ROW, sums
from zugzwang.core.fit import advice, closest_pages
from zugzwang.core.headroom import target_position
from zugzwang.core.lenses import Context, Lens, tested_rows
from zugzwang.core.periods import Period
from zugzwang.desk import frames
from zugzwang.desk.clashing import held_clashes
from zugzwang.desk.frames import Setting
from zugzwang.desk.measures import facts_beside
from zugzwang.desk.scope import FILTERS, Scope, Settled, settle
from zugzwang.errors import Invalid, NotFound
from zugzwang.plan.marks import settled_rows
from zugzwang.store.models import Site

FIELD_DOTS = 4_000
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
FIT_COLUMNS = ["fit", "lacking", "fit_known_by", "advice"]
Sort = Literal[
    "page", "query", "change", "clicks_before", "clicks", "impressions", "ctr", "position", "expected_clicks",
    "expected_ctr", "shortfall", "headroom", "at_stake", "q_value", "evidence",
]  # fmt: skip
OF_BRAND = {"without": False, "only": True, "with": None}


@dataclass(frozen=True)
class Question(Scope):
    """What is asked of a site: a lens, a scope, and the order of rows."""

    lens: Lens = "low-ctr"
    sort: Sort = "at_stake"
    descending: bool = True


@dataclass(frozen=True)
class Answer:
    """A question settled against a site: what was meant by it, and all rows that it shows."""

    question: Question
    settled: Settled
    rows: pl.DataFrame
    tested: int
    in_lens: dict[str, int]

    @property
    def site(self) -> Site:
        return self.settled.site

    @property
    def curve(self) -> ClickCurve:
        return self.settled.curve


def ask(site: Site, question: Question, today: date) -> Answer:
    """Settle a question. NotFound when the site has no data yet."""
    settled = settle(site, question)
    of_brand = OF_BRAND[settled.branded]
    floor = settled.min_impressions
    rows = frames.lens_rows(*settled.key, settled.period, settled.setting, question.lens, floor, question.target, of_brand)
    if question.lens == "off-fit":
        rows = frames.lacking_words(*settled.key, rows)
        rows = rows.join(_advice(settled), on=ROW, how="left", maintain_order="left")
    if settled.before is not None:
        rows = rows.join(
            frames.sums(*settled.key, settled.before, settled.setting.part), on=ROW, how="left", maintain_order="left"
        ).with_columns(pl.col("clicks_before", "impressions_before").fill_null(0))
        rows = rows.with_columns(change=pl.col("clicks") - pl.col("clicks_before"))
    in_lens = dict(rows.group_by("evidence").len().iter_rows())
    return Answer(
        question=question,
        settled=settled,
        rows=_sorted(settled, _filtered(settled, rows, question, today), question),
        tested=_tested(settled, question).height,
        in_lens={grade: in_lens.get(grade, 0) for grade in GRADES},
    )


def _advice(settled: Settled) -> pl.DataFrame:
    """What each row of off-fit wants: page, query, advice."""
    return advice_for(*settled.key, settled.period, settled.setting, settled.min_impressions)


@lru_cache(maxsize=8)
def advice_for(site_id: int, version: int, period: Period, setting: Setting, min_impressions: int) -> pl.DataFrame:
    rows = frames.row_fits(site_id, version, period, setting, min_impressions).filter(pl.col("fit").is_in(["loose", "off"]))
    clashing_queries = set(held_clashes(site_id, version, period, setting, min_impressions).clashes.queries["query"])
    closest = closest_pages(frames.query_stems(site_id, version, rows["query"]), frames.every_page_says(site_id, version))
    told = [
        advice(kind, lacking, page, closest.get(query), query in clashing_queries)
        for page, query, kind, lacking in rows.select(*ROW, "fit", "lacking").iter_rows()
    ]
    return rows.select(ROW).with_columns(pl.Series("advice", told, dtype=pl.String))


def _tested(settled: Settled, question: Question) -> pl.DataFrame:
    held = frames.appraisal(*settled.key, settled.period, settled.setting)
    # Fit leaves rows out of what off-fit shows, not of what it looks at.
    lens: Lens = "striking-distance" if question.lens == "off-fit" else "low-ctr"
    return tested_rows(held, lens, settled.min_impressions, Context(OF_BRAND[settled.branded]))


def _filtered(settled: Settled, rows: pl.DataFrame, question: Question, today: date) -> pl.DataFrame:
    if set(question.evidence) != set(GRADES):
        rows = rows.filter(pl.col("evidence").is_in(list(question.evidence)))
    if question.position_from is not None:
        rows = rows.filter(pl.col("position") >= question.position_from)
    if question.position_to is not None:
        rows = rows.filter(pl.col("position") <= question.position_to)
    rows = settled.chosen(rows)
    if question.decided == "any":
        return rows
    done, pages = settled_rows(settled.site, today)
    kept = rows.join(done, on=ROW, how="anti", maintain_order="left").filter(~pl.col("page").is_in(pages.implode()))
    return kept if question.decided == "open" else rows.join(kept.select(ROW), on=ROW, how="anti", maintain_order="left")


def _sorted(settled: Settled, rows: pl.DataFrame, question: Question) -> pl.DataFrame:
    """Rows in the order asked for; ties by what is at stake, then by id, so that windows never overlap."""
    if question.sort == "at_stake" and question.descending:
        return rows  # the order in which the lens gives them
    by = pl.col(question.sort)
    if question.sort in ("page", "query"):
        rows = settled.named(rows, (question.sort,))
        by = pl.col(f"{question.sort}_text").str.to_lowercase()
    elif question.sort not in rows.columns:
        raise Invalid("There is nothing to compare with.", "Choose a comparison first.", "sort")
    ordered = rows.sort(by, "at_stake", "page", "query", descending=[question.descending, True, False, False], nulls_last=True)
    return ordered.drop("page_text", "query_text", strict=False)


def window(answer: Answer, offset: int, limit: int) -> list[dict[str, Any]]:
    """Rows `offset` to `offset + limit`, named, with what is at stake a month."""
    rows = answer.settled.named(answer.rows.slice(offset, limit))
    month = answer.settled.month_share
    return rows.with_columns(
        at_stake_month=pl.col("at_stake") * month,
        snippet_month=pl.max_horizontal(pl.col("shortfall"), 0.0) * month,
        rank_month=pl.col("headroom") * month,
    ).to_dicts()


def finding_rows(answer: Answer) -> pl.DataFrame:
    """page and query as texts, then FINDING_COLUMNS (and the comparison's, where there is one)."""
    more = ["change", "clicks_before", "impressions_before", "ctr_before", "position_before"] if answer.settled.before else []
    more += [name for name in FIT_COLUMNS if name in answer.rows.columns]
    named = answer.settled.named(answer.rows)
    return named.select(pl.col("page_text").alias("page"), pl.col("query_text").alias("query"), *FINDING_COLUMNS, *more)


def filters(answer: Answer) -> dict[str, Any]:
    """What made the list, in words that a file can carry."""
    return {**answer.settled.filters((*FILTERS, "curve")), "rows_tested": answer.tested}


def field(answer: Answer) -> dict[str, Any]:
    """The field: one dot for each row tested, the most shown `FIELD_DOTS` of them, with the curve and its usual band."""
    tested = _tested(answer.settled, answer.question)
    dots = tested.top_k(FIELD_DOTS, by="impressions")
    shown = answer.rows.select("page", "query", "evidence", in_list=pl.lit(True))
    dots = answer.settled.named(dots.join(shown, on=["page", "query"], how="left", maintain_order="left"))
    low, high = usual_factors(answer.curve.shape)
    devices = answer.settled.setting.part.devices
    curves = frames.appraisal(*answer.settled.key, answer.settled.period, answer.settled.setting).curves
    curve = curves.of(devices[0]) if len(devices) == 1 else answer.curve
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
        "curve": [{**point, "low": point["ctr"] * low, "high": min(point["ctr"] * high, 1.0)} for point in curve.points()],
        "basis": sentences.curve_basis(curve.basis, curve.clicks),
    }


def evidence(answer: Answer, page: int, query: int) -> dict[str, Any]:
    """The proof of one row: its numbers, what they say in words, and its days (and the days compared with)."""
    settled = answer.settled
    of_row = (pl.col("page") == page) & (pl.col("query") == query)
    facts = frames.facts(*settled.key, settled.period, settled.setting.part).filter(of_row).sort("day")
    if facts.is_empty():
        raise NotFound("This page was not shown for this query in the period.", "Choose other days.")
    held = frames.appraisal(*settled.key, settled.period, settled.setting)
    curve = held.curve
    device = facts["device"].to_numpy() if "device" in facts.columns else None
    expected = held.curves.expected(facts["position"].to_numpy(), facts["impressions"].to_numpy(), device)
    # Addresses that fold into one page may be shown for the query on the same day.
    days = facts.with_columns(expected_clicks=pl.Series(expected)).group_by("day").agg(*sums(), pl.col("expected_clicks").sum())
    names = answer.settled.named(facts.select("page", "query").head(1)).to_dicts()[0]
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
        if "fit" in found:
            said.append(sentences.fit(found["fit"], found["lacking"], found["fit_known_by"]) + " " + found["advice"])
        said.append(sentences.reach(found["headroom"] * answer.settled.month_share, position, target))
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
        "expected_ctr": float(expected.sum()) / shown,
        "usual_low": usual[0],
        "usual_high": usual[1],
        "target": target,
        "beside": [vars(one) for one in facts_beside(settled, of_row)],
        "finding": {**found, "at_stake_month": found["at_stake"] * answer.settled.month_share} if found else None,
        "days": days.sort("day").to_dicts(),
        "days_before": _days_before(answer, page, query),
    }


def _days_before(answer: Answer, page: int, query: int) -> list[dict[str, Any]]:
    """The days compared with, each under the day of the period that it stands for."""
    if answer.settled.before is None:
        return []
    offset = answer.settled.period.first - answer.settled.before.first
    facts = frames.facts(*answer.settled.key, answer.settled.before, answer.settled.setting.part)
    of_row = facts.filter(pl.col("page") == page, pl.col("query") == query).group_by("day").agg(*sums()).sort("day")
    return of_row.select(pl.col("day") + offset, "clicks", "impressions", "position").to_dicts()
