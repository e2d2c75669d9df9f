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
from zugzwang.core.words import sentences, topic_sentences
from zugzwang.core.worth.moves import (
    Suggestion,
    gain_together,
    suggested_for_clash,
    suggested_for_page,
    suggested_for_query,
    suggested_for_row,
    suggested_new_page,
)
from zugzwang.core.worth.moves import largest as largest_lever
from zugzwang.data.decided import SUBJECTS_MAX, Subject, resolved
from zugzwang.data.models import Decision, Move, Page, Query, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid, NotFound
from zugzwang.findings.clashes import CLASHES
from zugzwang.findings.content_gaps import CONTENT_GAPS
from zugzwang.findings.featured_snippets import FEATURED_SNIPPETS
from zugzwang.findings.lenses import targets
from zugzwang.findings.missing_queries import MISSING_QUERIES
from zugzwang.findings.pages import GRADED_BY, PAGES_FOUND, every_entry, reasons_of
from zugzwang.findings.table import find
from zugzwang.findings.titles import TITLES
from zugzwang.findings.view import View, ViewOptions, settle
from zugzwang.plan import moves
from zugzwang.plan.decisions import Decided, decide

_WORDING = {one.name: one for one in (TITLES, MISSING_QUERIES, FEATURED_SNIPPETS)}
UNKNOWN = {"gain": None, "gain_cautious": None, "evidence": "too little data", "reason": sentences.NO_GAIN}
Filled = tuple[Suggestion, dict[str, Any]]


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
    rows = [one for one in subjects if one.page is not None and one.query is not None]
    filled: dict[Subject, Filled] = {
        **_of_rows(view, rows, finding, texts),
        **_of_pages(view, [one for one in subjects if one.query is None]),
        **_of_wording(view, subjects, finding),
        **(written := _of_writing(view, subjects, finding)),
        **_of_clashes(settle(snapshot, options, today), [one for one in subjects if one.is_clash and one not in written]),
    }
    result = []
    for one in subjects:
        wanted, gain = filled[one]
        about = {"page": one.page, "query": one.query, "finding": finding, "kind": wanted.kind, "effort": wanted.effort}
        about |= {"page_text": texts.get(("page", one.page)), "query_text": texts.get(("query", one.query))}
        result.append({**about, **gain})
    return result


def _of_writing(view: View, subjects: Sequence[Subject], finding: str) -> dict[Subject, Filled]:
    """Pages to write. Their gain is unknown, because it depends on the position they get."""
    if finding != CONTENT_GAPS.name:
        return {}
    rows = find(view.only(CONTENT_GAPS.makes), CONTENT_GAPS).rows.select("query", "number", "ranking_queries", "searches")
    of = {query: topic_sentences.reason(*entry) for query, *entry in rows.iter_rows()}
    reasons = {one: of.get(one.query) for one in subjects if one.is_clash}
    return {one: (suggested_new_page(), {**UNKNOWN, "reason": why}) for one, why in reasons.items() if why}


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
        rows = view.snapshot.named(pl.DataFrame({name: pl.Series(list(ids), dtype=pl.UInt32)}), (name,))
        result |= {(name, number): text for number, text in rows.select(f"{name}_id", name).iter_rows()}
    return result


def _of_rows(
    view: View, subjects: Sequence[Subject], finding: str, texts: Mapping[tuple[str, int | None], str]
) -> dict[Subject, Filled]:
    wanted = pl.DataFrame([(one.page, one.query) for one in subjects], dict.fromkeys(ROW, pl.UInt32), orient="row")
    found = every_entry(view).join(wanted, on=ROW, how="semi").iter_rows(named=True) if subjects else ()
    stored = {Subject(row["page"], row["query"]): row for row in found}
    result: dict[Subject, Filled] = {}
    for one in subjects:
        row = stored.get(one)
        if row is None:
            result[one] = suggested_for_row(finding, {}), UNKNOWN
        else:
            result[one] = _of_row(view, row, finding, texts["query", one.query])
    return result


def _of_row(view: View, row: Mapping[str, Any], finding: str, query: str) -> Filled:
    gains: dict[str, float] = {lever: row[lever] for lever in LEVERS}
    wanted = suggested_for_row(finding, gains, row["explained"])
    lever = largest_lever(gains) if wanted.lever == "all" else wanted.lever
    names = LEVERS if wanted.lever == "all" else (wanted.lever,)
    month = view.month_share
    target = float(targets(view, pl.Series([row["position"] or 1.0]).to_numpy(), [row["query"]])[0])
    reason = sentences.reason(lever, query, row[lever] * month, row["position"], target)
    if wanted.kind == "answer":
        reason = sentences.reason_above(query, row["taken"] * month)
    return wanted, {
        "gain": sum(row[name] for name in names) * month,
        "gain_cautious": sum(min(row[name], row[f"{name}_cautious"]) for name in names) * month,
        "evidence": row[GRADED_BY[lever]] or "too little data",
        "reason": reason if wanted.kind == "answer" or row[lever] * month >= 0.5 else sentences.NO_GAIN,
    }


def _of_pages(view: View, subjects: Sequence[Subject]) -> dict[Subject, Filled]:
    pages = pl.Series("page", [one.page for one in subjects], dtype=pl.UInt32)
    found = find(view, PAGES_FOUND).rows.filter(pl.col("page").is_in(pages.implode())) if subjects else pl.DataFrame()
    stored = {row["page"]: row for row in found.iter_rows(named=True)}
    reasons = reasons_of(view, pages) if subjects else {}
    result: dict[Subject, Filled] = {}
    for one in subjects:
        row = stored.get(one.page)
        if row is None or one.page is None:
            result[one] = suggested_for_page({}), UNKNOWN
            continue
        result[one] = (
            suggested_for_page({lever: row[lever] for lever in LEVERS}),
            {
                "gain": row["opportunity_month"],
                "gain_cautious": row["gain_month"],
                "evidence": row["evidence"],
                "reason": " ".join(reasons.get(one.page, [])) or sentences.NO_GAIN,
            },
        )
    return result


def _of_wording(view: View, subjects: Sequence[Subject], finding: str) -> dict[Subject, Filled]:
    """Subjects found by their texts: what to change, and why."""
    if finding not in _WORDING:
        return {}
    made = _WORDING[finding]
    rows = find(view, made).rows
    by = ["page"] if finding == "titles" else list(ROW)
    wanted = pl.DataFrame([(one.page, one.query) for one in subjects], dict.fromkeys(ROW, pl.UInt32), orient="row")
    result: dict[Subject, Filled] = {}
    for row in rows.join(wanted, on=by, how="semi").iter_rows(named=True):
        subject = Subject(row["page"], None if finding == "titles" else row["query"])
        if finding == "titles":
            options, gain, reason = suggested_for_row(finding, {}), row["lost_month"], sentences.reason_title(row["problems"])
        elif finding == "missing-queries":
            reason = sentences.reason_missing(row["on_page"], row["what_to_do"])
            options, gain = suggested_for_query(row["what_to_do"]), row["gain"]
        else:
            options, gain, reason = (
                suggested_for_row(finding, {}),
                row["gain"],
                sentences.reason_box(row["holder"], row["lacking"]),
            )
        evidence = row.get("evidence", "too little data")
        result[subject] = options, {"gain": gain, "gain_cautious": None, "evidence": evidence, "reason": reason}
    return result


def _clash_rows(view: View, queries: Sequence[int]) -> dict[int, dict[str, Any]]:
    """The clashes over some queries. Raises NotFound where there is none."""
    wanted = pl.Series("query", list(queries), dtype=pl.UInt32)
    rows = find(view, CLASHES).rows.filter(pl.col("query").is_in(wanted.implode()))
    stored = {row["query"]: row for row in rows.iter_rows(named=True)}
    if len(stored) < len(set(queries)):
        raise NotFound("No pages compete for this query in the period.", "Choose other days, or another query.")
    return stored


def _of_clashes(view: View, subjects: Sequence[Subject]) -> dict[Subject, Filled]:
    if not subjects:
        return {}
    stored = _clash_rows(view, [one.query for one in subjects if one.query is not None])
    result: dict[Subject, Filled] = {}
    for one in subjects:
        row = stored[one.query or 0]
        message = sentences.clash(row["kind"], row["number"], row["hand_offs"], row["overlap"], row["spread"], view.by_day)
        result[one] = (
            suggested_for_clash(row["resolution"]),
            {
                "gain": row["loss_month"],
                "gain_cautious": row["loss_cautious"] * view.month_share,
                "evidence": row["evidence"],
                "reason": f"{message} {row['resolution_reason'].capitalize()}.",
            },
        )
    return result
