"""Breaks of pages, sections and the site; cliffs and nearby events; drop-outs."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import date, timedelta
from typing import Any

import polars as pl

from zugzwang.core.clicks.evidence import GRADES
from zugzwang.core.facts.grains import DAY, PAGE, PAGE_QUERY
from zugzwang.core.facts.periods import Period
from zugzwang.core.pages.sections import section_name
from zugzwang.core.time.breaks import (
    MEASURES,
    WEEKS_NEEDED,
    Level,
    breaks,
    by_weeks,
    grade,
    half_lost_noticed,
    nearest_event,
    read_series,
    season_known,
)
from zugzwang.core.time.cliffs import Event as Dated
from zugzwang.core.time.cliffs import cliffs, spells_out
from zugzwang.core.words import sentences
from zugzwang.data.cache import cached
from zugzwang.data.models import Event
from zugzwang.data.snapshot import Part, Snapshot
from zugzwang.findings.columns import EVIDENCE, PAGES, PART
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.shapes import Cliff, SpellOut
from zugzwang.findings.view import View, ViewOptions

NOTHING: dict[str, Any] = {"out": [], "noticed": None}


def weeks_of(period: Period) -> list[date]:
    return [period.first + timedelta(days=7 * number) for number in range(period.days // 7)]


def find_breaks(view: View) -> Found:
    """The breaks over whole weeks, and the spells in which pages were out of the results."""
    level, weeks = view.options.level, weeks_of(view.period)
    if not view.by_day:
        return Found(pl.DataFrame(schema=_schema(level)), {"weeks": 0, "series": 0}, [sentences.NEEDS_DAYS], NOTHING)
    if len(weeks) < WEEKS_NEEDED:
        lacking = [f"{WEEKS_NEEDED} whole weeks of data are needed to tell a break; there are {len(weeks)}."]
        return Found(pl.DataFrame(schema=_schema(level)), {"weeks": len(weeks), "series": 0}, lacking, NOTHING)
    by_week = weekly(view, level)
    pages = weekly(view, "page") if level == "section" else None
    rows, noticed = [], dict[str, str]()
    for measure in dict.fromkeys(view.options.measure):
        count = pl.col(measure).alias("count")
        extras = None if pages is None else pages.select("name", "week", count)
        series = read_series(by_week.select("name", "week", count), weeks, extras)
        rows.append(breaks(series).with_columns(measure=pl.lit(measure)))
        noticed.setdefault("noticed", sentences.half_lost_noticed(half_lost_noticed(series), level))
    frame = pl.concat(rows).rename({"name": level})
    frame = frame.with_columns(
        evidence=pl.Series([grade(one) for one in frame["strength"]], dtype=pl.Enum(GRADES)),
        season_known=pl.Series([season_known(week, weeks[0]) for week in frame["week"]], dtype=pl.Boolean),
    )
    out = _out(view, by_week, weeks) if level == "page" else []
    return Found(frame, {"series": by_week["name"].n_unique(), "weeks": len(weeks)}, more={"out": out, **noticed})


def _schema(level: Level) -> dict[str, Any]:
    return {
        level: pl.UInt32 if level == "page" else pl.String,
        "week": pl.Date,
        "size": pl.Float64,
        "before": pl.Float64,
        "after": pl.Float64,
        "strength": pl.Float64,
        "measure": pl.String,
        "evidence": pl.Enum(GRADES),
        "season_known": pl.Boolean,
    }


def weekly(view: View, level: Level) -> pl.DataFrame:
    """Clicks and impressions of each page, section or the site by week: name, week, clicks, impressions. From the grain that
    includes anonymised queries, where the site has it and no query is filtered out.
    """
    whole_site = level == "site" and not view.some_queries_only and view.pages is None
    if whole_site and view.snapshot.facts.has(DAY, view.period):
        facts = view.snapshot.facts.rows(DAY, view.period, view.setting.part, ("day", "clicks", "impressions"))
        return _by_week(facts, []).with_columns(name=pl.lit(view.site.slug))
    if view.some_queries_only:
        facts = view.snapshot.facts.rows(
            PAGE_QUERY, view.period, view.setting.part, ("day", "page", "query", "clicks", "impressions")
        )
        by_page = _by_week(view.without_brand(view.chosen(facts)))
    else:
        by_page = view.chosen(_pages_by_week(view.snapshot, view.period, view.setting.part))
    if level == "page":
        return by_page.rename({"page": "name"})
    counts = pl.col("clicks", "impressions").sum()
    if level == "site":
        return by_page.group_by("week").agg(counts).with_columns(name=pl.lit(view.site.slug))
    sections = view.snapshot.pages.every().select("page", name=section_name(view.options.section))
    return by_page.join(sections, on="page", how="left").group_by("name", "week").agg(counts)


@cached
def _pages_by_week(snapshot: Snapshot, period: Period, part: Part) -> pl.DataFrame:
    columns = ("day", "page", "clicks", "impressions")
    facts = snapshot.facts.rows(PAGE, period, part, columns)
    return _by_week(facts if facts.height else snapshot.facts.rows(PAGE_QUERY, period, part, columns))


def _by_week(facts: pl.DataFrame, by: Sequence[str] = ("page",)) -> pl.DataFrame:
    """Clicks and impressions of each week, and page: `by`, week (its Monday), clicks, impressions."""
    counts = pl.col("clicks", "impressions").cast(pl.Int64).sum()
    # Page and week as one number: summing by it takes a quarter less. Day 0, in 1970, was a Thursday.
    number = (pl.col("day").cast(pl.Int64) + 3) // 7
    for name in by:
        number = pl.col(name).cast(pl.Int64) * 2**32 + number
    added = facts.group_by(number=number).agg(pl.col(*by, "day").first(), counts)
    return added.select(*by, "clicks", "impressions", week=pl.col("day").dt.truncate("1w"))


def events_of(view: View) -> list[Dated]:
    stored = Event.objects.filter(site=view.site).values_list("first_day", "title")
    return [Dated(day, title) for day, title in stored]


def _dress(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """The breaks with the event near each."""
    dated = [(event.day, event.title) for event in events_of(view)]
    return rows.with_columns(pl.Series("event", [nearest_event(week, dated) for week in rows["week"]], dtype=pl.String))


def _cliffs(view: View, rows: pl.DataFrame) -> list[dict[str, Any]]:
    """Breaks of the first measure near one event, or in one week."""
    found = rows.filter(pl.col("measure") == view.options.measure[0])
    if view.options.level != "page" or found.is_empty():
        return []
    named = view.snapshot.names.named(found, ("page",))
    result = []
    for cliff in cliffs(found, events_of(view), weeks_of(view.period)):
        event = cliff.event.title if cliff.event else None
        result.append(
            {
                "event": event,
                "event_day": cliff.event.day if cliff.event else None,
                "week": cliff.week,
                "fell": cliff.fell,
                "pages": [named["page"][row] for row in cliff.rows],
                "by_chance": cliff.by_chance,
                "beyond_chance": cliff.beyond_chance,
                "sentence": sentences.cliff(len(cliff.rows), cliff.fell, cliff.week, event, cliff.by_chance),
            }
        )
    return result


def _extras(view: View, found: Found, rows: pl.DataFrame) -> dict[str, Any]:
    texts = dict(
        view.snapshot.names.page_texts(pl.Series([page for page, _, _ in found.more["out"]], dtype=pl.UInt32)).iter_rows()
    )
    out = [{"page": texts[page], "page_id": page, "since": since, "back": back} for page, since, back in found.more["out"]]
    return {"cliffs": _cliffs(view, rows), "out": out}


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    if found.lacking:
        return found.lacking
    lines = sentences.breaks(rows.height, found.behind["series"], found.behind["weeks"], view.options.level)
    noticed = [] if rows.height else [found.more["noticed"]]
    return [lines, *noticed, *(one["sentence"] for one in extras["cliffs"] if one["beyond_chance"])]


def _out(view: View, by_week: pl.DataFrame, weeks: list[date]) -> list[tuple[int, date, date | None]]:
    """The pages that were out of the results, with the first and last week, latest first."""
    names, shown = by_weeks(by_week.select("name", "week", count="impressions"), weeks)
    spells = [(page, *spell) for page, series in zip(names, shown, strict=True) for spell in spells_out(series, weeks)]
    return sorted(spells, key=lambda one: (one[1], one[0]), reverse=True)


def over_all_weeks(view: View) -> View:
    """The view over all whole weeks of the site, whatever its period."""
    days = view.snapshot.facts.days()
    if not days:
        return replace(view, before=None)
    whole = Period(days[0], days[-1])
    return replace(view, period=whole.whole_weeks() or whole, before=None)


BREAKS = Finding(
    name="breaks",
    title="Breaks and cliffs",
    question="Which pages, sections, or the site as a whole changed their level, when, and near which event?",
    method="breaks",
    claims=("break", "breaks"),
    makes=(*PART, *PAGES, "text", "query_group", "topic", "branded", "level", "measure"),
    chooses=(),
    columns=(
        Column("page", "page", "page", "the page that changed", shown="list", when=("level", "page"), low=True),
        Column("section", "text", "section", "the section that changed", shown="list", when=("level", "section"), low=True),
        Column("site", "text", "site", "the site", shown="list", when=("level", "site"), low=True),
        Column("week", "day", "from the week of", "the first week of the new level", shown="list"),
        Column("measure", "word", "measure", "what changed", choices=MEASURES),
        Column("size", "share", "by", "change relative to the level before", shown="list", low=True),
        Column("before", "amount", "before", "level per week before the break", "a week", "list"),
        Column("after", "amount", "after", "level per week after the break", "a week", "list"),
        EVIDENCE,
        Column("event", "text", "near", "dated event within ten days", null=True, late=True),
        Column("season_known", "flag", "season known", "whether there is a year of data before it, to know its season"),
    ),
    find=find_breaks,
    says=_says,
    dress=_dress,
    extras=_extras,
    more={"cliffs": list[Cliff], "out": list[SpellOut], "noticed": str | None},
    branded="with",
    all_weeks=True,
    opens=(ViewOptions(), ViewOptions(measure=MEASURES)),
    key=("page", "section", "site", "measure", "week"),
)
