"""A report on a site: its parts for a period, as blocks (core.reports), with the same figures as the screens."""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any, Literal, cast

from zugzwang.core.facts.addresses import path_of
from zugzwang.core.facts.periods import Comparison, Period
from zugzwang.core.reports.blocks import ACCENT, Block, Chart, Document, Logo, Numbers, OwnWords, Part, Sentence, table
from zugzwang.core.reports.charts import bars, lines
from zugzwang.core.words import sentences
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid
from zugzwang.findings.accepted_links import ACCEPTED_LINKS
from zugzwang.findings.moves import MOVES
from zugzwang.findings.pages import PAGES_FOUND
from zugzwang.findings.table import ask
from zugzwang.findings.trials import TRIALS
from zugzwang.findings.view import ViewOptions
from zugzwang.subjects.changes import describe_changes

PartName = Literal["changes", "why", "found", "done", "trials", "links", "next"]
ROWS, MOVERS, WEEKS, WORDS_MAX, LINES_MAX = 10, 5, 53, 20_000, 600
MEASURES = {
    "clicks": "clicks", "impressions": "impressions", "ctr": "CTR", "position": "position", "sessions": "organic visits",
    "bounce_rate": "bounce rate", "conversions": "conversions", "value": "value",
}  # fmt: skip
COMPARED: Mapping[Comparison, str] = {"year": "a year before", "previous": "the days before", "none": ""}
PERIODS = ("last-month", "last-4-weeks", "last-13-weeks")
CHANGES = {
    "shown": "impressions",
    "rank_or_demand": "crossing position 10",
    "rank": "ranking",
    "snippet": "snippets",
    "new_queries": "new queries",
    "lost_queries": "lost queries",
    "device_mix": "mix of devices",
    "anonymised": "queries not named",
}


@dataclass(frozen=True)
class Planned:
    """A report's contents. `parts`: their names in order; `words`: own text before a part, Markdown."""

    first: date
    last: date
    parts: tuple[str, ...]
    words: Mapping[str, str]
    title: str = ""
    name: str = ""
    contact: str = ""
    language: str = "en_GB"
    compare: Comparison = "year"
    accent: str = ACCENT
    logo: Logo | None = None


@dataclass(frozen=True)
class _Making:
    snapshot: Snapshot
    options: ViewOptions
    period: Period
    today: date
    write: Numbers

    def rows(self, finding: Any, options: ViewOptions | None = None) -> tuple[list[dict[str, Any]], list[str]]:
        """All rows of a finding, and its sentences."""
        answer = ask(self.snapshot, finding, options or self.options, self.today)
        return answer.window(), [*answer.sentences, *answer.lacking]


def tell_report(snapshot: Snapshot, planned: Planned, today: date) -> Document:
    """The report's parts from the current data. Raises Invalid for an unknown part, or days without data."""
    unknown = [name for name in planned.parts if name not in PARTS]
    if unknown or not planned.parts:
        raise Invalid(f"Unknown part “{', '.join(unknown)}”.", f"Parts: {', '.join(PARTS)}.", "parts")
    for text in planned.words.values():
        check_words(text)
    period = Period(planned.first, planned.last)
    missing = period.missing(snapshot.facts.days())
    if len(missing) == period.days:
        raise Invalid(f"No day of {sentences.period(period)} is loaded.", "Refresh the site, or choose other days.", "days")
    options = ViewOptions(first=planned.first, last=planned.last, compare=planned.compare)
    making = _Making(snapshot, options, period, today, Numbers(planned.language))
    parts = []
    for name in planned.parts:
        title, _, make = PARTS[cast("PartName", name)]
        own = planned.words.get(name, "").strip()
        made = (
            Sentence(making.write.sentence(one.text), one.lead) if isinstance(one, Sentence) else one for one in make(making)
        )
        parts.append(Part(title, (*((OwnWords(own),) if own else ()), *made)))
    site = snapshot.site
    days = making.write.period(period)
    if missing:
        first = making.write.day(missing[0])
        result = f"{making.write.count(len(missing))} of the {period.days} days are not loaded, the first of them {first}."
        parts[0] = Part(parts[0].title, (Sentence(result), *parts[0].blocks))
    title = planned.title.strip() or f"{site.name}: search, {days}"
    name, contact = planned.name.strip() or site.name, planned.contact.strip()
    subtitle = f"{site.address}, {days}"
    return Document(title, subtitle, name, contact, tuple(parts), planned.accent, planned.logo)


def check_words(text: str) -> None:
    """Raises Invalid where own text is too long to be typeset in seconds."""
    if len(text) > WORDS_MAX:
        raise Invalid(f"An introduction has at most {WORDS_MAX:,} characters.", "Shorten it.", "parts")
    if text.count("\n") > LINES_MAX:
        raise Invalid(f"An introduction has at most {LINES_MAX} lines.", "Shorten it.", "parts")


def list_of(part: PartName, first: date, last: date, compare: Comparison) -> str:
    """The list with a part's figures row by row: place and parameters."""
    address = PARTS[part][1]
    if address.startswith(("moves", "links")):
        return address
    return f"{address}?first={first}&last={last}" + (f"&compare={compare}" if address == "changes" else "")


def period_named(name: str, today: date) -> Period:
    """A period by its name: 2026-10 (a month), 2026-10-01..2026-10-31, or one of PERIODS: whole months and whole weeks that
    ended before a day.

    >>> period_named("last-month", date(2026, 11, 15)).first
    datetime.date(2026, 10, 1)
    >>> period_named("last-4-weeks", date(2026, 11, 18))
    Period(first=datetime.date(2026, 10, 19), last=datetime.date(2026, 11, 15))
    """
    if name == "last-month":
        last = today.replace(day=1) - timedelta(days=1)
        return Period(last.replace(day=1), last)
    if name in PERIODS:
        last = today - timedelta(days=today.weekday() + 1)
        return Period(last - timedelta(days=7 * int(name.split("-")[1]) - 1), last)
    try:
        if re.fullmatch(r"\d{4}-\d\d", name):
            first = date.fromisoformat(f"{name}-01")
            return Period(first, (first + timedelta(days=32)).replace(day=1) - timedelta(days=1))
        first, last = (date.fromisoformat(part) for part in name.split(".."))
    except ValueError:
        wanted = f"Write a month as 2026-10, days as 2026-10-01..2026-10-31, or {', '.join(PERIODS)}."
        raise Invalid(f"“{name}” is not a period.", wanted, "period") from None
    if last < first:
        raise Invalid("The period ends before it begins.", "Swap the two days.", "period")
    return Period(first, last)


# --- the parts --------------------------------------------------------------------------------------------------------------


def _changes(making: _Making) -> list[Block]:
    result, write = describe_changes(making.snapshot, making.options, making.today), making.write
    rows = []
    for one in result["measures"]:
        how = {"ctr": write.share, "bounce_rate": write.share, "position": write.position}.get(one.name, write.count)
        changed = write.share(one.change_share) if one.change_share is not None else "–"
        rows.append((MEASURES[one.name], how(one.now), how(one.before), changed))
    blocks: list[Block] = [Sentence(" ".join(result["sentences"]), lead=True)]
    weeks = [one for one in result["weeks"] if one["week"] <= making.period.last][-WEEKS:]
    if len(weeks) > 1:
        now, before = ([one[name] for one in weeks] for name in ("clicks", "clicks_before"))
        most = max(one for one in (*now, *before, 0) if one is not None)
        ends = write.day(weeks[0]["week"]), write.day(weeks[-1]["week"])
        says = "Clicks a week. Broken line: the same week a year before."
        blocks.append(Chart(lines(now, before, ends, f"{write.count(most)} clicks a week"), says))
    if compared_with := COMPARED[making.options.compare or "year"]:
        blocks.append(table(("", "now", compared_with, "change"), rows))
    else:
        blocks.append(table(("", "now"), [row[:2] for row in rows]))
    return [*blocks, *(Sentence(one) for one in result["lacking"])]


def _why(making: _Making) -> list[Block]:
    result, write = describe_changes(making.snapshot, making.options, making.today), making.write
    change = result["change"]
    if change is None:
        return [
            Sentence("The reasons for the change are unknown: " + (" ".join(result["lacking"]) or "nothing is compared with."))
        ]
    total = round(change["clicks_after"]) - round(change["clicks_before"])
    amounts = sentences.rounded([float(change[name]) for name in CHANGES], total)
    shown = [
        (words, float(amount), write.change(amount)) for words, amount in zip(CHANGES.values(), amounts, strict=True) if amount
    ]
    blocks: list[Block] = [Sentence(" ".join(change["sentences"]), lead=True)]
    if shown:
        blocks.append(Chart(bars(shown), "The parts of the change, in clicks of the period."))
    for name, what in (("down", "Pages with the largest losses"), ("up", "Pages with the largest gains")):
        counts = ("clicks_before", "clicks_after")
        some = result[name][:MOVERS]
        rows = [(path_of(one["page"]), *(write.count(one[side]) for side in counts), write.change(one["by"])) for one in some]
        if rows:
            blocks.append(table((what, "clicks then", "now", "change"), rows))
    return blocks


def _found(making: _Making) -> list[Block]:
    rows, says = making.rows(PAGES_FOUND, ViewOptions(first=making.options.first, last=making.options.last, compare="none"))
    write = making.write
    top = [one for one in rows if one["gain_month"] >= 1][:ROWS]
    shown = [(path_of(one["page"]), float(one["gain_month"]), write.count(one["gain_month"])) for one in top]
    blocks: list[Block] = [Sentence(" ".join(says), lead=True)]
    if shown:
        blocks.append(Chart(bars(shown), "Cautious opportunity in clicks a month, of the first pages."))
        head = ("page", "lost clicks", "potential", "gain at least")
        cells = [(path_of(one["page"]), *(write.count(one[name]) for name in ("lost_month", "potential_month", "gain_month")))
                 for one in top]  # fmt: skip
        blocks.append(table(head, cells))
    return blocks


def _done(making: _Making) -> list[Block]:
    rows, _ = making.rows(MOVES, ViewOptions())
    made = [one for one in rows if one["made_on"] and making.period.first <= one["made_on"] <= making.period.last]
    write = making.write
    result = f"{write.count(len(made))} {'move was' if len(made) == 1 else 'moves were'} made in these days."
    cells = [
        (one["kind_words"], _subject(one), write.day(one["made_on"]), _result(one, write)) for one in made
    ]  # fmt: skip
    return [
        Sentence(result, lead=True),
        *([table(("what", "on what", "done on", "clicks a day"), cells, (0, 1))] if cells else []),
    ]


def _result(one: Mapping[str, Any], write: Numbers) -> str:
    if one["result_clicks"] is None:
        return f"from {write.day(one['ready_on'])}" if one["ready_on"] else "–"
    return f"{write.change(one['result_clicks'])} ({one['outcome_evidence']})"


def _trials(making: _Making) -> list[Block]:
    rows, says = making.rows(TRIALS, ViewOptions())
    inside = [one for one in rows if one["until"] >= making.period.first and one["first_day"] <= making.period.last]
    blocks: list[Block] = [Sentence(" ".join(says), lead=True)]
    for one in inside:
        what = one["verdict"] or f"{one['state'].capitalize()}, until {making.write.day(one['until'])}."
        blocks.append(Sentence(f"{one['name']} ({making.write.count(one['changed'])} changed): {one['change']}. {what}"))
    return blocks


def _links(making: _Making) -> list[Block]:
    rows, says = making.rows(ACCEPTED_LINKS, ViewOptions())
    cells = [(path_of(one["from"]), path_of(one["to"]), one["anchor"], one["state"]) for one in rows[: 2 * ROWS]]
    head = ("page to edit", "leads to", "words", "by the last crawl")
    return [Sentence(" ".join(says), lead=True), *([table(head, cells, (0, 1, 2, 3))] if cells else [])]


def _next(making: _Making) -> list[Block]:
    rows, says = making.rows(MOVES, ViewOptions(state="open"))
    write = making.write
    cells = [
        (one["kind_words"], _subject(one), one["who"] or "–", write.day(one["due"]), write.count(one["gain_cautious"]))
        for one in rows[:ROWS]
    ]
    head = ("what", "on what", "who", "due", "clicks a month at least")
    return [Sentence(" ".join(says), lead=True), *([table(head, cells, (0, 1, 2))] if cells else [])]


def _subject(one: Mapping[str, Any]) -> str:
    words = f"“{one['query']}”" if one["query"] else ""
    return " on ".join(part for part in (words, path_of(one["page"]) if one["page"] else "") if part)


# Title, place with its figures row by row, function.
PARTS: Mapping[PartName, tuple[str, str, Callable[[_Making], Sequence[Block]]]] = {
    "changes": ("How the site performs", "changes", _changes),
    "why": ("Why clicks changed", "changes", _why),
    "found": ("What was found", "pages", _found),
    "done": ("Moves and their results", "moves?state=done", _done),
    "trials": ("What was tried", "moves?finding=trials", _trials),
    "links": ("Links set", "links?finding=accepted-links", _links),
    "next": ("What is next", "moves?state=open", _next),
}
