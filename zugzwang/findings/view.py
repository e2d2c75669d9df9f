"""The request to a site, resolved against its data: days, comparison, part of the facts, pages and queries.

Fields have the same names in the address bar, the API, the command line and here.
"""

from collections.abc import Collection
from dataclasses import dataclass, field, fields, replace
from datetime import date, timedelta
from functools import cached_property
from typing import Annotated, Any, Literal

import polars as pl
from annotated_types import Ge, Le, MaxLen, MinLen

from zugzwang.core.clicks.click_curve import ClickCurve
from zugzwang.core.clicks.evidence import GRADES, Grade
from zugzwang.core.clicks.headroom import Target
from zugzwang.core.clicks.lenses import Appraisal, ListedBy
from zugzwang.core.facts.addresses import normal
from zugzwang.core.facts.countries import COUNTRY_UNKNOWN, country_code, country_letters
from zugzwang.core.facts.grains import DAY, DEVICES, NOT_REPORTED, PAGE_QUERY, Grain
from zugzwang.core.facts.periods import (
    DAYS_A_MONTH,
    DAYS_AHEAD,
    FAIR_SHARE,
    FIRST_DAY_POSSIBLE,
    Comparison,
    Period,
    like_for_like,
    longest_fair,
)  # fmt: skip
from zugzwang.core.links.faults import Fault
from zugzwang.core.links.mentions import Mention
from zugzwang.core.links.needs import Action
from zugzwang.core.time.breaks import Level, Measure
from zugzwang.core.time.change import By
from zugzwang.core.words import sentences
from zugzwang.core.words.missing_queries import OnPage
from zugzwang.core.words.titles import Problem
from zugzwang.core.worth.moves import State
from zugzwang.data.models import Page, Query, Site
from zugzwang.data.patterns import patterns_for
from zugzwang.data.snapshot import LISTED, Part, Setting, Snapshot
from zugzwang.data.topics import edits_version, queries_of_topics
from zugzwang.errors import Invalid, NotFound

Branded = Literal["without", "with", "only"]
Decided = Literal["any", "open", "settled"]
Explained = Literal["any", "without", "only"]
Forms = Literal["any", "exact"]


def _field(default: Any, words: str) -> Any:
    """A field with its explanation for the command line and the schema."""
    return field(default=default, metadata={"words": words})


Texts = Annotated[tuple[Annotated[str, MaxLen(200)], ...], MaxLen(250)]


@dataclass(frozen=True)
class ViewOptions:
    """The request. None or empty means the site's own setting, or everything."""

    first: date | None = _field(None, "the first day, such as 2026-08-17")
    last: date | None = _field(None, "the last day")
    compare: Comparison | None = _field(None, "what to compare with; default: as fits the finding")
    min_impressions: Annotated[int, Ge(0), Le(10**9)] | None = _field(
        None, "how often a row must have been shown; default: as kept for the site"
    )
    # Not annotated as a whole: the router would take only one value of such a union. `patterns_for` limits their number.
    brand: tuple[Annotated[str, MaxLen(200)], ...] | None = _field(
        None, "patterns of the brand, instead of those saved for the site"
    )
    branded: Branded | None = _field(None, "queries of the brand; default: as fits the finding")
    target: Target = _field("next-band", "the position to reach for in headroom")
    device: Texts = _field((), "desktop, mobile, tablet, other")
    country: Texts = _field((), "names, or codes of two or three letters")
    section: Annotated[str, MaxLen(500)] = _field("", "the beginning of a path, such as /guides/")
    page_type: Texts = _field((), "page types of the site")
    query_group: Texts = _field((), "query groups of the site")
    topic: Texts = _field((), "topics of the site, by their names")
    text: Annotated[str, MaxLen(500)] = _field("", "that the page or the query contains")
    position_from: Annotated[float, Ge(0), Le(1000)] | None = _field(None, "the best position")
    position_to: Annotated[float, Ge(0), Le(1000)] | None = _field(None, "the worst position")
    evidence: Annotated[tuple[Grade, ...], MinLen(1), MaxLen(len(GRADES))] = _field(GRADES, "how sure it must be")
    problem: Annotated[tuple[Problem, ...], MaxLen(20)] = _field((), "of titles and descriptions: which problems")
    on_page: Annotated[tuple[OnPage, ...], MaxLen(5)] = _field((), "missing queries: how they are on the page")
    page: Annotated[str, MaxLen(2_000)] = _field("", "one page, by its address or path")
    phrase: Texts = _field((), "mentions: phrases to look for, instead of the main queries")
    forms: Forms = _field("any", "mentions: in any form of their words, or exactly as written")
    action: Annotated[tuple[Action, ...], MaxLen(4)] = _field((), "links: what a page needs")
    mention: Annotated[tuple[Mention, ...], MaxLen(5)] = _field((), "mentions: of which kind")
    fault: Annotated[tuple[Fault, ...], MaxLen(6)] = _field((), "links: which faults")
    decided: Decided = _field("any", "whether something is decided about it")
    explained: Explained = _field("any", "views: rows explained by SERP features above: without them, or only those")
    by: By | ListedBy | None = _field(
        None, "lenses: row, query or page; change: what it is added up by; default: the finest that was loaded"
    )
    level: Level = _field("page", "of breaks")
    measure: Annotated[tuple[Measure, ...], MinLen(1), MaxLen(2)] = _field(("clicks",), "of breaks")
    state: Literal["", "open"] | State = _field("", "of moves: open, or a state")


FIELDS = tuple(one.name for one in fields(ViewOptions))
NOTHING = ViewOptions()
# Fields of every view, whatever the finding uses.
ALWAYS = ("first", "last", "brand")
# Filters on facts, pages and queries; described in files and, where ignored, in sentences.
FILTERS = (
    "min_impressions", "branded", "target", "device", "country", "section", "page_type", "query_group", "topic", "text",
    "position_from", "position_to", "evidence", "decided", "explained", "problem", "on_page",
    "page", "phrase", "forms", "action", "mention", "fault",
    "by", "level", "measure", "state",
)  # fmt: skip


# Fields of sums over a part of the site, which judge no rows.
SUMS = ("first", "last", "compare", "device", "country", "section", "page_type", "query_group", "topic")


@dataclass(frozen=True)
class View:
    """The request, resolved against a site."""

    snapshot: Snapshot
    options: ViewOptions
    today: date
    period: Period
    before: Period | None  # None, too, where no day can be compared
    min_impressions: int
    setting: Setting
    branded: Branded
    requested_before: Period | None = None

    def __getstate__(self) -> dict[str, Any]:
        """Its inputs, for another process, without cached properties."""
        return {one.name: getattr(self, one.name) for one in fields(self)}

    @property
    def site(self) -> Site:
        return self.snapshot.site

    @property
    def key(self) -> tuple[int, int]:
        """The cache key of results from the site's facts."""
        return self.snapshot.key

    @property
    def month_share(self) -> float:
        """The factor from clicks over the period to clicks a month."""
        return DAYS_A_MONTH / self.period.days

    @cached_property
    def by(self) -> ListedBy:
        """What is listed: as requested, otherwise the finest that the period has."""
        options = self.options.by
        return options if options in ("row", "query", "page") else self.snapshot.facts.finest(self.period)

    @property
    def by_day(self) -> bool:
        """Whether the period's facts are known by day."""
        return self.snapshot.facts.by_day(self.period)

    def like(self, *grains: Grain) -> tuple[Period, Period] | None:
        """The period and the comparison period, over the days that some grains have in both; None without a comparison, or
        without comparable days.
        """
        if self.before is None:
            return None
        if any(self.snapshot.facts.of_span(grain, period) for grain in grains for period in (self.period, self.before)):
            return self.period, self.before
        return like_for_like(self.period, self.before, [self.snapshot.facts.days_of(grain.name) for grain in grains])

    def grain_of(self, by: ListedBy) -> Grain:
        """The grain of the period's facts by row, query or page (data.snapshot.facts)."""
        return LISTED[by] if self.snapshot.facts.has(LISTED[by], self.period) else PAGE_QUERY

    @cached_property
    def appraisal(self) -> Appraisal:
        """The rows of the period, at its finest, with the site's curves."""
        return self.snapshot.facts.appraisal(self.period, self.setting, self.snapshot.facts.finest(self.period))

    @property
    def curve(self) -> ClickCurve:
        return self.appraisal.curve

    @cached_property
    def pages(self) -> pl.Series | None:
        """The pages of the requested section and types; None: all."""
        options = self.options
        if not options.section and not options.page_type:
            return None
        current = self.snapshot.pages.every()
        if options.section:
            below = options.section if options.section.endswith("/") else options.section + "/"
            current = current.filter(pl.col("path").str.starts_with(below) | (pl.col("path") == below.rstrip("/")))
        if options.page_type:
            current = current.filter(pl.col("type").fill_null("").is_in(list(options.page_type)))
        return current["page"]

    @cached_property
    def one_page(self) -> int | None:
        """The page with the requested address or path; None: no request. Raises Invalid where the site has no such page."""
        wanted = self.options.page.strip()
        if not wanted:
            return None
        current = self.snapshot.pages.every()
        found = current.filter((pl.col("address") == wanted) | (pl.col("path") == wanted))
        if found.is_empty():
            known = self.snapshot.pages.folds_of(pl.Series("text", [normal(wanted) if "://" in wanted else wanted]))
            found = current.filter(pl.col("page").is_in(known["counts_as"].implode()))
        if found.is_empty():
            raise Invalid(f"The site has no page “{wanted}”.", "Write its address, or its path such as /guides/.", "page")
        return int(found["page"][0])

    @cached_property
    def queries(self) -> pl.Series | None:
        """The queries of the requested groups and topics; None: all."""
        of_topics = queries_of_topics(self.snapshot, self.options.topic) if self.options.topic else None
        if not self.options.query_group:
            return of_topics
        wanted = pl.lit(list(self.options.query_group), dtype=pl.List(pl.String))
        rows = self.snapshot.pages.query_groups().filter(pl.col("groups").list.set_intersection(wanted).list.len() > 0)["query"]
        return rows if of_topics is None else rows.filter(rows.is_in(of_topics.implode()))

    @property
    def words(self) -> str:
        return self.options.text.strip()

    @property
    def some_queries_only(self) -> bool:
        """Whether queries are filtered, so totals of pages do not apply."""
        return self.branded != "with" or self.queries is not None or bool(self.words)

    @cached_property
    def of_brand(self) -> pl.Series:
        return self.snapshot.facts.branded(self.setting.patterns)

    def chosen(self, rows: pl.DataFrame) -> pl.DataFrame:
        """The rows whose page and query match the filters on section, type, group and text."""
        if "page" in rows.columns and self.pages is not None:
            rows = rows.filter(pl.col("page").is_in(self.pages.implode()))
        if "query" in rows.columns and self.queries is not None:
            rows = rows.filter(pl.col("query").is_in(self.queries.implode()))
        if self.words:
            holds = [
                pl.col(name).is_in(self.snapshot.names.matching(words, self.words).implode())
                for name, words in (("page", Page), ("query", Query))
                if name in rows.columns
            ]
            rows = rows.filter(pl.any_horizontal(*holds))
        return rows

    def at_positions(self, rows: pl.DataFrame, column: str = "position") -> pl.DataFrame:
        """The rows in the requested range of positions."""
        if self.options.position_from is not None:
            rows = rows.filter(pl.col(column) >= self.options.position_from)
        return rows if self.options.position_to is None else rows.filter(pl.col(column) <= self.options.position_to)

    def without_brand(self, rows: pl.DataFrame) -> pl.DataFrame:
        """The rows filtered by brand: without branded queries, with them, or only those."""
        if self.branded == "with" or "query" not in rows.columns:
            return rows
        is_branded = pl.col("query").is_in(self.of_brand.implode())
        return rows.filter(is_branded if self.branded == "only" else ~is_branded)

    def only(self, names: Collection[str]) -> "View":
        """The view reduced to some of its fields; the others are at their default."""
        usual = {name: getattr(NOTHING, name) for name in FIELDS if name not in names and name not in ALWAYS}
        result = replace(self, options=replace(self.options, **usual))
        if "compare" not in names:
            result = replace(result, before=None, requested_before=None)
        return result if "min_impressions" in names else replace(result, min_impressions=0)

    @property
    def question(self) -> tuple[object, ...]:
        """Everything that an answer from the site's facts can depend on, whoever asks and when."""
        options = replace(self.options, first=None, last=None, compare=None, brand=None, min_impressions=None, branded=None)
        topics = edits_version(self.site) if options.topic else 0
        compared = self.before, self.requested_before
        return self.period, compared, self.min_impressions, self.setting, self.branded, options, topics

    def missing(self) -> list[str]:
        """Missing days of the periods, and days that look truncated, in sentences."""
        result = [self.comparison["sentence"]] if self.comparison else []
        return [*result, *([lines] if (lines := incomplete(self.snapshot, self.period, "The period")) else [])]

    def filters(self, used: Collection[str]) -> dict[str, Any]:
        """A description of a list for its file; `used`: the fields that it depends on, and "curve"."""
        settled = {"min_impressions": self.min_impressions, "branded": self.branded}
        result: dict[str, Any] = {
            name: list(value) if isinstance(value := settled.get(name, getattr(self.options, name)), tuple) else value
            for name in FILTERS
            if name in used
        }
        result["compared_with"] = span_of(self.before)
        if "branded" in used:
            result["brand_patterns"] = list(self.setting.patterns)
        if "curve" in used:
            result |= {"curve_basis": self.curve.basis, "scatter_shape": self.curve.shape}
        return result

    def periods(self) -> dict[str, Any]:
        """Both periods as they are above a list."""
        return {
            "period": _shown(self.snapshot, self.period, "The period"),
            "before": _shown(self.snapshot, self.before, "The period compared with"),
            "comparison": self.comparison,
        }

    @property
    def days_compared(self) -> int:
        """The comparable days of the period; 0 without a comparison, or for totals."""
        if self.before is None or not self.by_day:
            return 0
        return int(self.comparison["days"]) if self.comparison else self.period.days

    @cached_property
    def comparison(self) -> dict[str, Any] | None:
        """How fair the comparison is: how many days of the period can be compared, in a sentence, and the longest comparable
        period where those are too few; None where all can.
        """
        wanted = self.requested_before
        if wanted is None or not self.by_day:
            return None
        current = _compared_days(self.snapshot, self.period, wanted)
        pair = like_for_like(self.period, wanted, [current])
        days = self.period.days - len(pair[0].without) if pair else 0
        if days == self.period.days:
            return None
        few = days < FAIR_SHARE * self.period.days
        fair = longest_fair(current, (self.period.first - wanted.first).days) if few else None
        sentence = sentences.compared_days(days, self.period.days, fair)
        return {"sentence": sentence, "days": days, "fair": {"first": fair.first, "last": fair.last} if fair else None}

    def not_used(self, used: Collection[str]) -> list[str]:
        """Requested fields that this finding ignores, in sentences."""
        unused = [name for name in FILTERS if name not in used and getattr(self.options, name) != getattr(NOTHING, name)]
        return [f"Not looked at here: {', '.join(name.replace('_', ' ') for name in unused)}."] if unused else []


def span_of(period: Period | None) -> dict[str, str] | None:
    return {"from": str(period.first), "to": str(period.last)} if period else None


def incomplete(snapshot: Snapshot, period: Period, what: str) -> str:
    """What a period lacks: days without data, and days that look truncated; empty if complete."""
    if not snapshot.facts.by_day(period):
        return ""
    lacking = sentences.missing_days(period.missing(snapshot.facts.days()), what)
    return " ".join(lines for lines in (lacking, sentences.sudden_days(snapshot.facts.sudden(period))) if lines)


def _shown(snapshot: Snapshot, period: Period | None, what: str) -> dict[str, Any] | None:
    """A period as shown above a list, with what it lacks."""
    if period is None:
        return None
    by_day = snapshot.facts.by_day(period)
    lines = {"sentence": sentences.period(period, by_day), "missing": incomplete(snapshot, period, what)}
    return {"first": period.first, "last": period.last, "days": period.days, "by_day": by_day, **lines}


def settle(
    snapshot: Snapshot,
    options: ViewOptions,
    today: date,
    compare: Comparison = "none",
    branded: Branded = "without",
    all_weeks: bool = False,
) -> View:
    """Resolve a request; `compare` and `branded` are defaults, and with `all_weeks` the default period is all whole weeks of
    the site. Raises NotFound for a site without data, Invalid for something that does not exist.
    """
    site = snapshot.site
    patterns = tuple(site.brand_patterns) if options.brand is None else patterns_for(options.brand, "brand")
    period = period_for(snapshot, options.first, options.last)
    if all_weeks and snapshot.facts.days():
        current = snapshot.facts.days()
        period = period if options.first or options.last else Period(current[0], current[-1])
        period = period.whole_weeks() or period
    floor = site.min_impressions if options.min_impressions is None else options.min_impressions
    if floor < 0:
        raise Invalid("The minimum is below 0.", "Enter the impressions a row needs.", "min_impressions")
    points = tuple((position, ctr) for position, ctr in site.own_curve or ())
    part = Part(_devices(options.device), _countries(options.country))
    _check_names(snapshot, options)
    if options.topic:
        _check_topics(snapshot, options)
    wanted = compared_with(snapshot, period, options.compare or compare)
    setting = Setting(patterns, points, part)
    before = wanted
    if (
        wanted
        and snapshot.facts.by_day(period)
        and not like_for_like(period, wanted, [_compared_days(snapshot, period, wanted)])
    ):
        before = None
    return View(snapshot, options, today, period, before, floor, setting, options.branded or branded, wanted)


def _compared_days(snapshot: Snapshot, period: Period, before: Period) -> list[date]:
    """The days of the grain that decides a comparison: the finest with comparable days."""
    every = [snapshot.facts.days_of(grain.name) for grain in (*LISTED.values(), DAY)]
    return next((entry for entry in every if like_for_like(period, before, [entry])), [])


def compared_with(snapshot: Snapshot, period: Period, comparison: Comparison) -> Period | None:
    """The comparison period. Totals compare only with totals: with the span a year earlier, otherwise the last one that ended
    before; None where there is none.
    """
    if snapshot.facts.by_day(period) or comparison == "none":
        return period.compared(comparison)
    earlier = [span for span in snapshot.facts.spans() if span.last < period.first]
    wanted = period.compared("year")
    of_last_year = [span for span in earlier if wanted and _nearly(span, wanted)] if comparison == "year" else []
    return next(iter([*of_last_year, *earlier]), None)


def _nearly(span: Period, wanted: Period) -> bool:
    """Whether both ends are within a week: months and leap years shift them by some days."""
    return all(abs((one - other).days) <= 7 for one, other in ((span.first, wanted.first), (span.last, wanted.last)))


def period_for(snapshot: Snapshot, first: date | None, last: date | None) -> Period:
    """The requested period, with open ends filled from the site's default. Raises NotFound for a site without data."""
    usual = snapshot.facts.usual_period()
    if usual is None:
        raise NotFound(f"{snapshot.site.name} has no data yet.", "Load a file of search facts first.")
    if first and last and last < first:
        raise Invalid(f"The period ends ({last}) before it begins ({first}).", "Swap the two.", "last")
    for name, day in (("first", first), ("last", last)):
        if day and not FIRST_DAY_POSSIBLE <= day <= usual.last + timedelta(days=DAYS_AHEAD):
            lines = f"Write a day from {FIRST_DAY_POSSIBLE} on, no later than a year after the last of the data."
            raise Invalid(f"There can be no data of {day}.", lines, name)
    current = snapshot.facts.days()
    if not current:
        return _span_for(snapshot, first, last)
    if first and last:
        return Period(first, last)
    chosen_first, chosen_last = first or usual.first, last or usual.last
    if chosen_last < chosen_first:
        chosen_first, chosen_last = (first, current[-1]) if first else (current[0], chosen_last)
    if chosen_last < chosen_first:
        raise Invalid("There is no data on those days.", f"Data reach from {current[0]} to {current[-1]}.", "first")
    return Period(chosen_first, chosen_last)


def _span_for(snapshot: Snapshot, first: date | None, last: date | None) -> Period:
    """The requested span of a site that has only totals."""
    fits = [span for span in snapshot.facts.spans() if first in (None, span.first) and last in (None, span.last)]
    if not fits:
        known = ", ".join(f"{span.first} to {span.last}" for span in snapshot.facts.spans())
        raise Invalid("There are no facts by day, and no totals of those days.", f"Totals: {known}.", "first")
    return fits[0]


def _devices(names: tuple[str, ...]) -> tuple[int, ...]:
    unknown = set(names) - set(DEVICES[1:])
    if unknown:
        raise Invalid(f"There is no device “{unknown.pop()}”.", f"Devices: {', '.join(DEVICES[1:])}.", "device")
    return tuple(sorted({DEVICES.index(name) for name in names}))


def _countries(names: tuple[str, ...]) -> tuple[int, ...]:
    codes = {name: country_code(name) for name in names}
    for name, code in codes.items():
        if code in (COUNTRY_UNKNOWN, NOT_REPORTED):
            raise Invalid(f"There is no country “{name}”.", "Write its name, or its code of two or three letters.", "country")
    return tuple(sorted(set(codes.values())))


def _check_names(snapshot: Snapshot, options: ViewOptions) -> None:
    for entry, known, what, name in (
        (options.page_type, [one.name for one in snapshot.rules.page_types] + [""], "page type", "page_type"),
        (options.query_group, [one.name for one in snapshot.rules.query_groups], "query group", "query_group"),
    ):
        unknown = [one for one in entry if one not in known]
        if unknown:
            remedy = f"There are: {', '.join(one for one in known if one) or 'none yet'}."
            raise Invalid(f"The site has no {what} “{unknown[0]}”.", remedy, name)


def _check_topics(snapshot: Snapshot, options: ViewOptions) -> None:
    try:
        queries_of_topics(snapshot, options.topic)
    except KeyError as error:
        raise Invalid(f"The site has no topic “{error.args[0]}”.", "Choose one under Topics.", "topic") from error


def facets(snapshot: Snapshot) -> dict[str, Any]:
    """The available choices: the site's devices, countries, page types and query groups."""
    current = snapshot.facts.split()
    return {
        "devices": [DEVICES[code] for code in current["device"]],
        "countries": [country_letters(code) for code in current["country"]],
        "page_types": [one.name for one in snapshot.rules.page_types],
        "query_groups": [one.name for one in snapshot.rules.query_groups],
    }
