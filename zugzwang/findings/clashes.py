"""Clashes: queries that the site's own pages compete for, the suggested lead, what to do, and whether earlier decisions
lasted.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Any

import polars as pl
from typing_extensions import TypedDict  # pydantic needs this one below Python 3.12

from zugzwang.core.contest.clashes import KINDS, Clashes, contenders_of, find_clashes, subject
from zugzwang.core.contest.leads import RESOLUTIONS, Contender, propose_lead, propose_resolution, settled_since
from zugzwang.core.contest.overlapping_pages import say_alike
from zugzwang.core.facts.grains import LINKS, NOT_REPORTED, PAGE_QUERY
from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.search import ROW
from zugzwang.core.facts.visits import CHANNELS
from zugzwang.core.pages.fit import Fit
from zugzwang.core.words import sentences
from zugzwang.core.worth.moves import suggested_for_clash
from zugzwang.data.blocks import read_facts
from zugzwang.data.cache import cached
from zugzwang.data.decided import decision_shown, resolved, settled_queries
from zugzwang.data.models import Decision
from zugzwang.data.snapshot import Part, Setting, Snapshot
from zugzwang.findings.columns import CLICKS, EVIDENCE, IMPRESSIONS, PAGES, PART, POSITIONS, QUERY, SENTENCE
from zugzwang.findings.finding import Column, Finding, Found, Proposal, Proposes
from zugzwang.findings.shapes import ClashDecision, NoLongerClashing
from zugzwang.findings.view import View, ViewOptions

STRETCH_DAYS = 28  # days between two checks of a query after a decision
NUMBERS = (
    "kind", "effective_contenders", "hand_offs", "overlap", "gaps", "days", "clicks", "impressions", "best_position", "spread",
    "loss", "loss_cautious", "q_value", "evidence",
)  # fmt: skip


class ContenderShown(TypedDict):
    page: str
    page_id: int
    share: float
    clicks: int
    impressions: int
    position: float
    days: int
    fit: Fit | None


@dataclass(frozen=True)
class FoundClashes:
    """The clashes of a period with proposals: `leads`: query → (lead, reasons, resolution, why)."""

    clashes: Clashes
    leads: dict[int, tuple[int, tuple[str, ...], str, str]]


@cached
def clashes_in(snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int) -> Clashes:
    """The clashes over non-brand queries."""
    of_brand = snapshot.facts.branded(setting.patterns)
    facts = snapshot.facts.listed(period, setting.part)
    if of_brand.len():
        facts = facts.filter(~pl.col("query").is_in(of_brand.implode()))
    current = snapshot.facts.appraisal(period, setting)
    by_day = snapshot.facts.by_day(period)
    plain = current.rows.filter(~pl.col("branded"))
    contenders = with_subjects(snapshot, contenders_of(facts, min_impressions, plain, by_day))
    people = _people(snapshot, period, setting.part, contenders, facts)
    return find_clashes(facts, contenders, current.curve, people, by_day)


@cached
def cached_clashes(snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int) -> FoundClashes:
    """The clashes, with the proposals for each."""
    found = clashes_in(snapshot, period, setting, min_impressions)
    return FoundClashes(found, _proposed(snapshot, period, setting, found))


def _people(
    snapshot: Snapshot, period: Period, part: Part, contenders: pl.DataFrame, facts: pl.DataFrame
) -> pl.DataFrame | None:
    """The devices and countries of the contenders; None where the facts have neither. Facts by page and query are read without
    countries; where those are reported, they are read again with them.
    """
    fought = pl.col("query").is_in(contenders["query"].unique().implode())
    if snapshot.facts.split()["country"]:
        facts = snapshot.facts.rows(PAGE_QUERY, period, part, ("page", "query", "device", "country", "impressions"))
        facts = facts if "device" in facts.columns else facts.with_columns(device=pl.lit(NOT_REPORTED, dtype=pl.UInt8))
    elif "device" in facts.columns:
        facts = facts.with_columns(country=pl.lit(NOT_REPORTED, dtype=pl.UInt16))
    else:
        return None
    return facts.filter(fought).select("page", "query", "device", "country", "impressions")


def with_subjects(snapshot: Snapshot, contenders: pl.DataFrame) -> pl.DataFrame:
    """Contenders with their fit, whether they are listings, and whether they are about the query."""
    fitting = snapshot.pages.fits(contenders.select(ROW)).select(*ROW, "fit")
    rows = contenders.join(fitting, on=ROW, how="left", maintain_order="left").join(
        listings(snapshot), on="page", how="left", maintain_order="left"
    )
    return rows.with_columns(subject=subject())


def listings(snapshot: Snapshot) -> pl.DataFrame:
    """Every page, and whether its type is exempt from queries: page, listing."""
    exempt = snapshot.pages.exempt_types("queries")
    return snapshot.pages.every().select("page", listing=pl.col("type").fill_null("").is_in(exempt))


def _proposed(
    snapshot: Snapshot, period: Period, setting: Setting, found: Clashes
) -> dict[int, tuple[int, tuple[str, ...], str, str]]:
    leads, others = {}, {}
    for query, contenders in _contenders(snapshot, period, found).items():
        leads[query] = propose_lead(contenders)
        others[query] = next(one for one in contenders if one.page != leads[query].page)
    kinds = dict(found.queries.select("query", "kind").iter_rows())
    pairs = [(leads[query].page, others[query].page) for query in leads]
    rows = snapshot.facts.appraisal(period, setting).rows.filter(~pl.col("branded"))
    own = _own_clicks(rows, pairs)
    say, much = say_alike(pairs, snapshot.pages.page_stems(tuple(sorted({page for pair in pairs for page in pair}))))
    result: dict[int, tuple[int, tuple[str, ...], str, str]] = {}
    for query, pair, likeness in zip(leads, pairs, say, strict=True):
        in_all, of_its_own = own.get(pair, (0, 0))
        other = replace(others[query], clicks_in_all=in_all, own_clicks=of_its_own)
        result[query] = (pair[0], leads[query].reasons, *propose_resolution(kinds[query], other, likeness, much))
    return result


def _contenders(snapshot: Snapshot, period: Period, found: Clashes) -> dict[int, list[Contender]]:
    """The criteria of each contender of each clash, most impressions first."""
    conversions, links = conversions_of(snapshot, period), snapshot.links.referring_domains()
    result: dict[int, list[Contender]] = {}
    columns = found.contenders.select("query", "page", "clicks", "position", "fit", "listing")
    for query, page, clicks, position, fit, listing in columns.iter_rows():
        converted = None if conversions is None else conversions.get(page, 0.0)
        linked = None if links is None else links.get(page, 0)
        result.setdefault(query, []).append(Contender(page, clicks, position, fit, bool(listing), converted, linked))
    return result


def _own_clicks(rows: pl.DataFrame, pairs: list[tuple[int, int]]) -> dict[tuple[int, int], tuple[int, int]]:
    """For each pair (lead, other) the other's total clicks, and those from queries that the lead does not rank for."""
    kinds = {"lead": pl.UInt32, "other": pl.UInt32}
    distinct = pl.DataFrame(list(dict.fromkeys(pairs)), schema=kinds, orient="row")
    clicks = rows.select("page", "query", "clicks")
    of_other = distinct.join(clicks, left_on="other", right_on="page")
    in_all = of_other.group_by("lead", "other").agg(pl.col("clicks").sum())
    own = of_other.join(clicks, left_on=["lead", "query"], right_on=["page", "query"], how="anti")
    of_its_own = own.group_by("lead", "other").agg(own_clicks=pl.col("clicks").sum())
    together = in_all.join(of_its_own, on=["lead", "other"], how="left").with_columns(pl.col("own_clicks").fill_null(0))
    return {(lead, other): (total, alone) for lead, other, total, alone in together.iter_rows()}


def conversions_of(snapshot: Snapshot, period: Period) -> dict[int, float] | None:
    visits = snapshot.facts.visits(period)
    rows = visits.filter(pl.col("channel") == CHANNELS.index("organic"), pl.col("conversions").is_not_null())
    return dict(rows.group_by("page").agg(pl.col("conversions").sum()).iter_rows()) if rows.height else None


def find_all(view: View) -> Found:
    current = cached_clashes(view.snapshot, view.period, view.setting, view.min_impressions)
    proposed = pl.DataFrame(
        [(query, *entry) for query, entry in current.leads.items()],
        schema={
            "query": pl.UInt32, "lead": pl.UInt32, "lead_reasons": pl.List(pl.String), "resolution": pl.String,
            "resolution_reason": pl.String,
        },
        orient="row",
    )  # fmt: skip
    rows = current.clashes.queries.rename({"contenders": "number"}).join(proposed, on="query", maintain_order="left")
    rows = rows.with_columns(loss_month=pl.col("loss") * view.month_share)
    shown = view.appraisal.rows.filter(~pl.col("branded")).group_by("query").agg(pl.col("impressions").sum())
    able = shown.filter(pl.col("impressions") >= view.min_impressions).height
    return Found(rows, {"queries": view.appraisal.rows["query"].n_unique(), "often_enough": able}, _lacking(view))


def _lacking(view: View) -> list[str]:
    wanted = {
        "a crawl (what pages say)": view.snapshot.pages.crawled().is_empty(),
        "visits (what converts)": view.snapshot.facts.visits(view.period).is_empty(),
        "links from other sites": read_facts(view.site, LINKS, columns=["page"]).is_empty(),
    }
    lines = [] if view.by_day else [sentences.NO_HAND_OFFS]
    absent = [what for what, lacks in wanted.items() if lacks]
    return [*lines, f"To propose a lead with more certainty, load {', '.join(absent)}."] if absent else lines


def contenders_in(view: View) -> pl.DataFrame:
    """The contenders of all clashes (core.contest.clashes)."""
    return clashes_in(view.snapshot, view.period, view.setting, view.min_impressions).contenders


def _with_contender(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """The clashes with a contender among the requested pages, or whose query is requested."""
    chosen = view.chosen(contenders_in(view).select("query", "page"))
    return rows.filter(pl.col("query").is_in(chosen["query"].unique().implode()))


def _with_evidence(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """A double costs nothing, so it needs no evidence."""
    return rows.filter(
        pl.col("evidence").cast(pl.String).is_in(list(view.options.evidence)) | (pl.col("kind") == "double listing")
    )


def _dress(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """The clashes with their contenders, the reasons for their kind, and earlier decisions."""
    wanted = contenders_in(view).filter(pl.col("query").is_in(rows["query"].implode()))
    by_query: dict[int, list[Any]] = {}
    for row in view.snapshot.names.named(wanted, ("page",)).iter_rows(named=True):
        result = {name: row[name] for name in ContenderShown.__annotations__}
        by_query.setdefault(row["query"], []).append(result)
    decided = resolved(view.site)
    lines = [
        sentences.clash(row["kind"], row["number"], row["hand_offs"], row["overlap"], row["spread"], view.by_day)
        for row in rows.iter_rows(named=True)
    ]
    return rows.with_columns(
        pl.Series("sentence", lines, dtype=pl.String),
        pl.Series("contenders", [by_query[query] for query in rows["query"]], dtype=pl.Object),
        pl.Series("decision", [decision_of(view, decided.get(query)) for query in rows["query"]], dtype=pl.Object),
    )


def _extras(view: View, found: Found, rows: pl.DataFrame) -> dict[str, Any]:
    by_kind = dict(rows.group_by("kind").len().sort("kind").iter_rows())
    return {"kinds": by_kind, "no_longer": _no_longer(view, found)}


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    sure = rows.filter(pl.col("kind") != "double listing", pl.col("evidence").cast(pl.String) != "too little data").height
    often_enough, queries = found.behind["often_enough"], found.behind["queries"]
    return [sentences.clashes(extras["kinds"], float(rows["loss_month"].sum()), sure, often_enough, queries)]


def _no_longer(view: View, found: Found) -> list[dict[str, Any]]:
    """Queries with a decision that do not clash in this period."""
    still = set(found.rows["query"])
    gone = {query: one for query, one in resolved(view.site).items() if query not in still}
    return [
        {"query": one.query.text if one.query else "", "query_id": query, "decision": decision_of(view, one)}
        for query, one in gone.items()
    ]


def decision_of(view: View, decision: Decision | None) -> dict[str, Any] | None:
    """The decision about a clash, and whether it lasted."""
    if decision is None:
        return None
    status, since = standing(view, decision)
    lines = sentences.standing(status, since, STRETCH_DAYS)
    return {**decision_shown(decision), "status": status, "settled_since": since, "sentence": lines}


def standing(view: View, decision: Decision) -> tuple[str, date | None]:
    """Whether a query still clashes after a decision: "contested", "settled" (and since when), "too early" (fewer than four
    whole weeks), or "accepted".
    """
    if decision.choice == "accept" or decision.query_id is None:
        return "accepted", None
    contested = _contested(view.snapshot, decision.query_id, decision.decided_on, view.period, view.setting)
    if not contested:
        return "too early", None
    since = settled_since(contested)
    if since is None:
        return "contested", None
    return "settled", decision.decided_on + timedelta(days=1 + STRETCH_DAYS * since)


@cached
def _contested(snapshot: Snapshot, query: int, decided_on: date, period: Period, setting: Setting) -> list[bool]:
    """For each whole stretch after a day, whether a query clashed."""
    current = snapshot.facts.days()
    last = current[-1] if current else decided_on
    result = []
    first = decided_on + timedelta(days=1)
    while first + timedelta(days=STRETCH_DAYS - 1) <= last:
        stretch = Period(first, first + timedelta(days=STRETCH_DAYS - 1))
        facts = snapshot.facts.rows(PAGE_QUERY, stretch).filter(pl.col("query") == query)
        contenders = with_subjects(snapshot, contenders_of(facts, 0))
        found = find_clashes(facts, contenders, snapshot.facts.appraisal(period, setting).curve)
        result.append(bool(found.queries.filter(pl.col("kind") != "double listing").height))
        first += timedelta(days=STRETCH_DAYS)
    return result


def decided_clashes(view: View, rows: pl.DataFrame) -> pl.Series:
    return rows["query"].is_in(settled_queries(view.site, view.today).implode())


MORE: Mapping[str, Any] = {"kinds": dict[str, int], "no_longer": list[NoLongerClashing]}
COLUMNS = (
    QUERY.listed("query, who should lead", "query, and the page that should lead"),
    Column(
        "kind",
        "word",
        "kind",
        "kind of clash: alternating, split, wrong page ranks, or double listing (a strength)",
        shown="list",
        choices=KINDS,
        low=True,
    ),
    Column("effective_contenders", "amount", "contenders", "number of competing pages, weighted by their share", "pages"),
    Column("hand_offs", "amount", "hand-offs", "changes of the best page per 100 days", "in 100 days", "extra"),
    Column("overlap", "share", "together", "share of days on which two or more pages rank"),
    Column("gaps", "count", "gaps", "days in between without impressions", "days"),
    Column("days", "count", "days", "days with impressions", "days"),
    Column("loss_month", "amount", "lost clicks", "clicks lost to the clash a month", "clicks a month", "list"),
    CLICKS.listed(explains="clicks of all contenders in the period"),
    IMPRESSIONS.listed(explains="impressions of all contenders in the period"),
    Column("best_position", "position", "best", "average position of the best contender", shown="list", low=True),
    Column("spread", "amount", "spread", "spread of the day's best position", "places"),
    Column("loss", "amount", "", "clicks of the period that the clash costs", "clicks in the period"),
    Column("loss_cautious", "amount", "", "what it costs at least", "clicks in the period"),
    Column("q_value", "rate", "", "the share of false alarms among clashes at least as sure as this one"),
    EVIDENCE,
    Column("lead", "page", "lead", "page that should rank for the query"),
    Column("lead_reasons", "words", "", "why that page should lead"),
    Column("resolution", "word", "proposed", "what to do", choices=RESOLUTIONS),
    Column("resolution_reason", "text", "", "why"),
    SENTENCE,
    Column("contenders", "shape", "contenders", "the pages that compete for it", shape=list[ContenderShown], late=True),
    Column("decision", "shape", "decided", "the decision, and whether it lasted", shape=ClashDecision, null=True, late=True),
)


def _propose(view: View, rows: pl.DataFrame) -> list[Proposal]:
    result = []
    for row in rows.iter_rows(named=True):
        why = sentences.clash(row["kind"], row["number"], row["hand_offs"], row["overlap"], row["spread"], view.by_day)
        reason = f"{why} {row['resolution_reason'].capitalize()}."
        cautious = row["loss_cautious"] * view.month_share
        result.append(Proposal(suggested_for_clash(row["resolution"]), row["loss_month"], cautious, row["evidence"], reason))
    return result


CLASHES = Finding(
    name="clashes",
    place=("clashes", 1),
    title="Clashes",
    question="Which queries do my pages compete for, which page should lead, and what should be done?",
    method="clashes",
    claims=("query is contested", "queries are contested"),
    order="loss_month",
    makes=(*PART, "min_impressions", "branded", "curve"),
    chooses=(*PAGES, "query_group", "topic", "text", *POSITIONS, "evidence", "decided"),
    columns=COLUMNS,
    find=find_all,
    says=_says,
    dress=_dress,
    extras=_extras,
    more=MORE,
    choose={
        **dict.fromkeys((*PAGES, "query_group", "topic", "text"), _with_contender),
        "evidence": _with_evidence,
        **dict.fromkeys(POSITIONS, lambda view, rows: view.at_positions(rows, "best_position")),
    },
    decided=decided_clashes,
    opens=(ViewOptions(compare="year"),),
    key=("query",),
    proposes=Proposes(
        fill=_propose,
        absent=("No pages compete for this query in the period.", "Choose other days, or another query."),
    ),
)
