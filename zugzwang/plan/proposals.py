"""Moves filled in from findings, with expected gain and reason; also for several subjects at once."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from typing import Any

import polars as pl

from zugzwang.access import Actor
from zugzwang.changing import changes_site
from zugzwang.core.clicks.evidence import GRADES
from zugzwang.core.contest.leads import RESOLUTIONS
from zugzwang.core.facts.search import ROW
from zugzwang.core.pages.account import LEVERS
from zugzwang.core.words import sentences
from zugzwang.core.worth.moves import gain_together, suggested_by_lever, suggested_for_clash
from zugzwang.core.worth.moves import largest as largest_lever
from zugzwang.data.decided import SUBJECTS_MAX, Subject, resolved
from zugzwang.data.models import Decision, Move, Page, Query, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid, NotFound
from zugzwang.findings.clashes import CLASHES
from zugzwang.findings.finding import Finding, Proposal, Proposes
from zugzwang.findings.lenses import targets
from zugzwang.findings.pages import GRADED_BY, PAGES_FOUND, every_entry
from zugzwang.findings.registry import FINDINGS
from zugzwang.findings.table import find
from zugzwang.findings.view import View, ViewOptions, settle
from zugzwang.plan import moves
from zugzwang.plan.decisions import Decided, decide

UNKNOWN: dict[str, Any] = {"gain": None, "gain_cautious": None, "evidence": "too little data", "reason": sentences.NO_GAIN}
Texts = Mapping[tuple[str, int | None], str]


def propose(
    snapshot: Snapshot, options: ViewOptions, subjects: Sequence[Subject], finding: str, today: date
) -> list[dict[str, Any]]:
    """A move for each subject, filled in: its kind and usual effort, expected clicks a month, and reason. Where the gain is
    unknown (a branded row, too few impressions) it is None, and the reason says so.
    """
    if any(one.page is None and one.query is None for one in subjects):
        raise Invalid("A move needs a page, a query or both.", "Say which.", "page")
    # Filters on rows and pages do not apply: the subjects are given.
    options = replace(
        options, section="", page_type=(), query_group=(), topic=(), text="", evidence=GRADES, decided="any",
        position_from=None, position_to=None,
    )  # fmt: skip
    view = settle(snapshot, options, today, PAGES_FOUND.compare, PAGES_FOUND.branded)
    texts = _texts(view, subjects)
    filled = _filled(view, list(dict.fromkeys(subjects)), FINDINGS.get(finding), texts)
    result = []
    for one in subjects:
        own = filled[one]
        about = {"page": one.page, "query": one.query, "finding": finding, "kind": own.move.kind, "effort": own.move.effort}
        about |= {"page_text": texts.get(("page", one.page)), "query_text": texts.get(("query", one.query))}
        gain = {"gain": own.gain, "gain_cautious": own.gain_cautious, "evidence": own.evidence, "reason": own.reason}
        result.append({**about, **gain})
    return result


def _filled(view: View, subjects: Sequence[Subject], finding: Finding | None, texts: Texts) -> dict[Subject, Proposal]:
    """The proposal for each subject: by the finding that lists it, otherwise by the account of its page, or its clash."""
    proposes = finding.proposes if finding else Proposes()
    result = _of_rows_found(view, subjects, finding) if finding and proposes.fill else {}
    for default in (PAGES_FOUND, CLASHES):
        rest = [one for one in subjects if one not in result and _key_of(one) == default.key]
        result |= _of_rows_found(view, rest, default)
    for one in subjects:
        if one not in result and _key_of(one) == PAGES_FOUND.key:
            result[one] = Proposal(proposes.usual or suggested_by_lever({}), **UNKNOWN)
    rows = [one for one in subjects if one not in result]
    return result | _of_account(view, rows, proposes, texts)


def _of_rows_found(view: View, subjects: Sequence[Subject], finding: Finding) -> dict[Subject, Proposal]:
    """The proposals of a finding for those subjects that are rows of it."""
    fill, absent = finding.proposes.fill, finding.proposes.absent
    like = [one for one in subjects if _key_of(one) == finding.key]
    if not like or fill is None:
        return {}
    wanted = pl.DataFrame(
        [tuple(getattr(one, name) for name in finding.key) for one in like], dict.fromkeys(finding.key, pl.UInt32), orient="row"
    )
    rows = find(view, finding).rows.join(wanted, on=list(finding.key), how="semi", maintain_order="left")
    if absent and rows.height < len(like):
        raise NotFound(*absent)
    keys = (Subject(**entry) for entry in rows.select(finding.key).iter_rows(named=True))
    return dict(zip(keys, fill(view, rows), strict=True))


def _key_of(subject: Subject) -> tuple[str, ...]:
    return tuple(name for name in ROW if getattr(subject, name) is not None)


def propose_together(
    snapshot: Snapshot, options: ViewOptions, subjects: Sequence[Subject], finding: str, today: date
) -> dict[str, Any]:
    """Moves on several subjects, filled in: a single one as in `propose`; for several, the values they share (None: they
    differ) and their total gain, nothing counted twice.
    """
    if not subjects or len(subjects) > SUBJECTS_MAX:
        raise Invalid("Moves can be made for 1 to 500 rows.", "Choose rows, pages or clashes.", "subjects")
    result = propose(snapshot, options, list(dict.fromkeys(subjects)), finding, today)
    if len(result) == 1:
        return {**result[0], "subjects": 1}
    gains = {
        name: gain_together((one["page"], one["query"], one[name] or 0.0) for one in result)
        for name in ("gain", "gain_cautious")
    }
    kinds, efforts = ({one[name] for one in result} for name in ("kind", "effort"))
    return {
        "subjects": len(result),
        "page_text": None,
        "query_text": None,
        "kind": kinds.pop() if len(kinds) == 1 else None,
        "effort": efforts.pop() if len(efforts) == 1 else None,
        **gains,
        "evidence": max((one["evidence"] for one in result), key=GRADES.index),
        "reason": sentences.proposals(len(result), sum(one["gain"] is None for one in result)),
    }


def plan_moves(
    snapshot: Snapshot, options: ViewOptions, subjects: Sequence[Subject], finding: str, fields: Mapping[str, Any], today: date
) -> list[moves.Planned]:
    """Moves to save; the gain is computed again from the request. A kind or effort of None is the proposed one."""
    planned = []
    for one, subject in zip(propose(snapshot, options, subjects, finding, today), subjects, strict=True):
        kind = fields["kind"] or one["kind"]
        usual = suggested_for_clash(kind).effort if subject.is_clash and kind in RESOLUTIONS else one["effort"]
        chosen = {**fields, "kind": kind, "effort": fields["effort"] or usual}
        names = ("page", "query", "finding", "reason", "gain", "gain_cautious", "evidence")
        planned.append(moves.Planned(**{name: one[name] for name in names}, fields=chosen))
    return planned


def make_moves(
    actor: Actor,
    slug: str,
    options: ViewOptions,
    subjects: Sequence[Subject],
    finding: str,
    fields: Mapping[str, Any],
    today: date,
) -> list[Move]:
    """Save a move for each subject, all or none."""
    snapshot = Snapshot(actor.site_to_change(slug))
    return moves.make_all(actor, slug, plan_moves(snapshot, options, subjects, finding, fields, today))


def settle_clashes(
    actor: Actor, slug: str, options: ViewOptions, decided: Decided, fields: Mapping[str, Any], today: date
) -> list[Decision]:
    """Decide clashes and save what to do about each as a move, all or none. Accepted and snoozed clashes need no move."""
    snapshot = Snapshot(actor.site_to_change(slug))
    return _settle(actor, slug, [(decided, _to_do(snapshot, options, decided, fields, today))])


def settle_as_proposed(
    actor: Actor, slug: str, options: ViewOptions, queries: Sequence[int], note: str, fields: Mapping[str, Any], today: date
) -> list[Decision]:
    """Settle clashes by their proposed lead and resolution, all or none; existing decisions stay."""
    snapshot = Snapshot(actor.site_to_change(slug))
    clashes = _clash_rows(settle(snapshot, options, today), queries)
    settled = []
    for query in dict.fromkeys(queries):
        row = clashes[query]
        decided = Decided([Subject(query=query)], row["resolution"], row["lead"], note)
        settled.append((decided, _to_do(snapshot, options, decided, fields, today)))
    return _settle(actor, slug, settled, only_open=True)


def _to_do(
    snapshot: Snapshot, options: ViewOptions, decided: Decided, fields: Mapping[str, Any], today: date
) -> list[moves.Planned]:
    """What to do about clashes under a decision."""
    if decided.choice not in RESOLUTIONS or decided.choice == "accept":
        return []
    subjects = list(dict.fromkeys(decided.subjects))
    return plan_moves(snapshot, options, subjects, "clashes", {**fields, "kind": decided.choice, "note": decided.note}, today)


@changes_site()
def _settle(
    actor: Actor, site: Site, settled: Sequence[tuple[Decided, Sequence[moves.Planned]]], only_open: bool = False
) -> list[Decision]:
    already = resolved(site) if only_open else {}
    made: list[Decision] = []
    for decided, to_do in settled:
        if any(one.query in already for one in decided.subjects):
            continue
        decisions = decide(actor, site.slug, decided)
        of = {(one.page_id, one.query_id): one for one in decisions}
        moves.make_all(actor, site.slug, [replace(one, decision=of[one.page, one.query]) for one in to_do])
        made += decisions
    return made


def _texts(view: View, subjects: Sequence[Subject]) -> dict[tuple[str, int | None], str]:
    """The texts of moves' pages and queries. Raises NotFound where the site has none such."""
    result: dict[tuple[str, int | None], str] = {}
    words: dict[str, type[Page] | type[Query]] = {"page": Page, "query": Query}
    for name, kind in words.items():
        ids = {getattr(one, name) for one in subjects} - {None}
        if kind.objects.filter(site=view.site, id__in=ids).count() < len(ids):
            raise NotFound(f"The site has no such {name}.", "Choose from its lists.")
        rows = view.snapshot.names.named(pl.DataFrame({name: pl.Series(list(ids), dtype=pl.UInt32)}), (name,))
        result |= {(name, number): text for number, text in rows.select(f"{name}_id", name).iter_rows()}
    return result


def _of_account(view: View, subjects: Sequence[Subject], proposes: Proposes, texts: Texts) -> dict[Subject, Proposal]:
    """Rows, with their part of their page's account."""
    wanted = pl.DataFrame([(one.page, one.query) for one in subjects], dict.fromkeys(ROW, pl.UInt32), orient="row")
    found = every_entry(view).join(wanted, on=ROW, how="semi").iter_rows(named=True) if subjects else ()
    result = {Subject(row["page"], row["query"]): _of_row(view, row, proposes, texts["query", row["query"]]) for row in found}
    unknown = Proposal(proposes.usual or suggested_by_lever({}), **UNKNOWN)
    return {one: result.get(one, unknown) for one in subjects}


def _of_row(view: View, row: Mapping[str, Any], proposes: Proposes, query: str) -> Proposal:
    gains: dict[str, float] = {lever: row[lever] for lever in LEVERS}
    move = proposes.explained if row["explained"] and proposes.explained else proposes.usual or suggested_by_lever(gains)
    lever = largest_lever(gains) if move.lever == "all" else move.lever
    names = LEVERS if move.lever == "all" else (move.lever,)
    month = view.month_share
    target = float(targets(view, pl.Series([row["position"] or 1.0]).to_numpy(), [row["query"]])[0])
    reason = sentences.reason(lever, query, row[lever] * month, row["position"], target)
    if move.kind == "answer":
        reason = sentences.reason_above(query, row["taken"] * month)
    return Proposal(
        move,
        gain=sum(row[name] for name in names) * month,
        gain_cautious=sum(min(row[name], row[f"{name}_cautious"]) for name in names) * month,
        evidence=row[GRADED_BY[lever]] or "too little data",
        reason=reason if move.kind == "answer" or row[lever] * month >= 0.5 else sentences.NO_GAIN,
    )


def _clash_rows(view: View, queries: Sequence[int]) -> dict[int, dict[str, Any]]:
    """The clashes over some queries. Raises NotFound where there is none."""
    wanted = pl.Series("query", list(queries), dtype=pl.UInt32)
    rows = find(view, CLASHES).rows.filter(pl.col("query").is_in(wanted.implode()))
    result = {row["query"]: row for row in rows.iter_rows(named=True)}
    if len(result) < len(set(queries)) and CLASHES.proposes.absent:
        raise NotFound(*CLASHES.proposes.absent)
    return result
