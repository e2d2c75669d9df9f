"""A test for display: its progress, what may spoil it, its result, and the pooled result of its kind."""

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

import polars as pl
from django.utils import timezone

from zugzwang.core.drafts.merging import differences
from zugzwang.core.drafts.text import blocks_of
from zugzwang.core.facts.periods import Period
from zugzwang.core.trials.summing import sum_up, variance_of
from zugzwang.core.words import trial_sentences
from zugzwang.core.worth.moves import KINDS
from zugzwang.data import decided
from zugzwang.data.models import Event, Page, Query, Site, Trial
from zugzwang.data.snapshot import Snapshot
from zugzwang.findings.trials import trial_state
from zugzwang.findings.view import ViewOptions, incomplete, settle
from zugzwang.plan.drafts import as_crawled
from zugzwang.plan.trial_units import touched_otherwise
from zugzwang.plan.trials import find, measure_of
from zugzwang.plan.units import Level, facts_of, grain_of, unit_of, windows, with_unit

TEXTS_LISTED, BLOCKS_LISTED = 20, 12


def faults(snapshot: Snapshot, trial: Trial) -> list[str]:
    """What may spoil a test: missing days, another move on a page, an event, a page that is gone or was not changed."""
    before, after = windows(trial.first_day, trial.weeks)
    days = snapshot.facts.days()
    result = []
    if days:
        until = min(after.last, days[-1])
        spans = [(before, "Before it")] + ([(Period(after.first, until), "After it")] if until >= after.first else [])
        result += [message for span, what in spans if (message := incomplete(snapshot, span, what))]
    pages = {unit[0] for unit in trial.changed}
    span = Period(before.first, after.last)
    for move in decided.moves(snapshot.site):
        if move.page_id in pages and move.made_on and span.first <= move.made_on <= span.last and move.page:
            result.append(f"Another move was made on {move.page.text} on {move.made_on:%-d %b %Y}: {KINDS[move.kind]}.")
    for event in Event.objects.filter(site=snapshot.site, first_day__lte=after.last, last_day__gte=trial.first_day):
        result.append(f"{event.title} ({event.first_day:%-d %b %Y}) falls into this time.")
    return [*result, *_not_changed(snapshot, trial)]


def _not_changed(snapshot: Snapshot, trial: Trial) -> list[str]:
    """Test pages that a crawl after the change found missing or unchanged. A test that was entered after it began does not
    know their earlier texts.
    """
    read_at = snapshot.pages.crawl_read_at()
    if read_at is None or read_at <= trial.made_at or timezone.localdate(read_at) <= trial.first_day:
        return []
    crawled = {row["page"]: row for row in snapshot.pages.crawled_pages().iter_rows(named=True)}
    gone, same = [], []
    for page, words in trial.before.items():
        row, now = crawled.get(int(page)), as_crawled(snapshot, int(page))
        if row is None or (row.get("status") or 200) >= 400:
            gone.append(snapshot.names.page_text(int(page)))
        elif now is not None and asdict(now) == words:
            same.append(snapshot.names.page_text(int(page)))
    return trial_sentences.found_by_crawl(timezone.localdate(read_at), gone, same)


def results_by_kind(site: Site) -> dict[str, str]:
    """The pooled results of concluded tests on clicks, by kind of change."""
    result: dict[str, str] = {}
    stored = [one for one in Trial.objects.filter(site=site, dropped_at=None, measure="clicks") if one.verdict]
    for kind in dict.fromkeys(one.kind for one in stored):
        known = [one.verdict for one in stored if one.kind == kind and one.verdict and one.verdict["effect"] is not None]
        summed = sum_up([one["effect"] for one in known], [variance_of(one["low"], one["high"]) for one in known])
        if summed is not None:
            helped = sum(one["p_value"] <= trial_sentences.SURE and one["effect"] > 0 for one in known)
            result[kind] = trial_sentences.worked(summed, helped)
    return result


def side_by_side(snapshot: Snapshot, trial: Trial) -> list[dict[str, Any]]:
    """Test and control pages week by week: clicks, or impressions."""
    by_row = trial.changed[0][1] is not None
    before, after = windows(trial.first_day, trial.weeks)
    days = snapshot.facts.days()
    if not days:
        return []
    level: Level = "row" if by_row else "page"
    grain = grain_of(snapshot, level, before)
    span = Period(before.first, min(after.last, days[-1]))
    view = settle(snapshot, ViewOptions(first=before.first, last=before.last, compare="none"), before.last)
    facts = with_unit(facts_of(snapshot, grain, span, view.setting.patterns), level)
    changed, unchanged = ([unit_of(*one) for one in side] for side in (trial.changed, trial.unchanged))
    out = touched_otherwise(snapshot, by_row, Period(before.first, after.last), [*changed, *unchanged],
                  [unit_of(*one["unit"]) for one in trial.out])  # fmt: skip
    extras = pl.col("unit").is_in(unchanged) if unchanged else ~pl.col("unit").is_in([*changed, *out])
    name = "impressions" if trial.measure == "impressions" else "clicks"
    day = pl.col("day")
    # The day of the change belongs to no week, and an unfinished week is not drawn.
    first = pl.when(day < trial.first_day).then(pl.lit(before.first)).otherwise(pl.lit(after.first))
    weeks = facts.filter(day != trial.first_day).with_columns(first=first).with_columns(
        first=pl.col("first") + pl.duration(days=7 * ((day - pl.col("first")).dt.total_days() // 7))
    ).filter(pl.col("first") + pl.duration(days=6) <= span.last)  # fmt: skip
    rows = weeks.group_by("first").agg(
        changed=pl.col(name).filter(pl.col("unit").is_in(changed)).cast(pl.Int64).sum(),
        controls=pl.col(name).filter(extras).cast(pl.Int64).sum(),
    ).sort("first")  # fmt: skip
    return rows.to_dicts()


def tell(snapshot: Snapshot, number: int) -> dict[str, Any]:
    """Everything about a test: its question, progress, what may spoil it, and its result."""
    trial = find(snapshot.site, number, dropped=True)
    days = snapshot.facts.days()
    last = days[-1] if days else None
    before, after = windows(trial.first_day, trial.weeks)
    state = trial_state(trial, last)
    names = ("id", "name", "change", "kind", "hope", "design", "measure", "seed", "first_day", "weeks", "verdict", "made_at",
             "read_at")  # fmt: skip
    seen = (
        trial.power.get("smallest"),
        measure_of(trial),
        trial.power.get("changed", 0),
        trial.power.get("clicks", 0.0),
        trial.changed[0][1] is not None,
    )
    left_out = _texts(snapshot, [one["unit"] for one in trial.out])
    return {
        **{name: getattr(trial, name) for name in names},
        "kind_words": KINDS[trial.kind],
        "by": trial.user.get_username() if trial.user else None,
        "state": state,
        "dropped": trial.dropped_at is not None,
        "before_first": before.first,
        "until": after.last,
        "visible": trial_sentences.visible(*seen),
        "waiting": trial_sentences.running(last, after.last) if state == "running" and last else None,
        "faults": faults(snapshot, trial),
        "weekly": side_by_side(snapshot, trial),
        "changed": _texts(snapshot, trial.changed),
        "unchanged": _texts(snapshot, trial.unchanged),
        "out": [{**entry, "why": one["why"]} for entry, one in zip(left_out, trial.out, strict=True)],
        "texts": text_changes(snapshot, trial),
        "worked": results_by_kind(snapshot.site).get(trial.kind),
    }


def text_changes(snapshot: Snapshot, trial: Trial) -> list[dict[str, Any]]:
    """Old and new title and description of test pages that a later crawl found changed."""
    result = []
    for page, words in list(trial.before.items())[:TEXTS_LISTED]:
        now = as_crawled(snapshot, int(page))
        if now is None or asdict(now) == words:
            continue
        names = [name for name in ("title", "description") if getattr(now, name) != words[name]]
        changes = {name: differences([words[name]], [getattr(now, name)]) for name in names}
        blocks = differences(blocks_of(words["text"]), blocks_of(now.text))
        changed = [block for block in blocks if any(part.what != "kept" for part in block)][:BLOCKS_LISTED]
        result.append({"page": snapshot.names.page_text(int(page)), "title": [], "description": [], **changes, "text": changed})
    return result


def _texts(snapshot: Snapshot, units: Sequence[Sequence[int | None]]) -> list[dict[str, Any]]:
    """Units with the texts of their pages and queries."""
    pages = dict(snapshot.names.known_texts(Page, pl.Series([one[0] for one in units], dtype=pl.UInt32)).iter_rows())
    queries = dict(
        snapshot.names.known_texts(Query, pl.Series([one[1] for one in units if one[1]], dtype=pl.UInt32)).iter_rows()
    )
    return [
        {"page_id": page, "query_id": query, "page": pages.get(page, ""), "query": queries.get(query) if query else None}
        for page, query in units
    ]
