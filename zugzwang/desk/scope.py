"""What every question of the desk has in common: days, comparison, the part of the facts, which pages and queries; settled
against a site."""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date
from functools import cached_property
from typing import Any, Literal

import polars as pl

from zugzwang.core import sentences
from zugzwang.core.click_curve import ClickCurve
from zugzwang.core.countries import COUNTRY_UNKNOWN, country_code, country_letters
from zugzwang.core.evidence import GRADES, Grade
from zugzwang.core.grains import DEVICES, NOT_TOLD
from zugzwang.core.headroom import Target
from zugzwang.core.periods import DAYS_A_MONTH, Comparison, Period
from zugzwang.desk import cleaning, frames
from zugzwang.desk.frames import Part, Setting
from zugzwang.desk.sites import patterns_for, period_for
from zugzwang.errors import Invalid, NotFound
from zugzwang.store.models import Page, Query, Site

Branded = Literal["without", "with", "only"]
FILTERS = (
    "min_impressions", "branded", "target", "device", "country", "section", "page_type", "query_group", "text", "position_from",
    "position_to", "evidence", "decided",
)  # fmt: skip


@dataclass(frozen=True)
class Scope:
    """What is looked at. None, or nothing named, stands for the site's own setting, or for all."""

    first: date | None = None
    last: date | None = None
    compare: Comparison | None = None
    min_impressions: int | None = None
    brand: tuple[str, ...] | None = None
    branded: Branded | None = None
    target: Target = "next-band"
    device: tuple[str, ...] = ()
    country: tuple[str, ...] = ()
    section: str = ""
    page_type: tuple[str, ...] = ()
    query_group: tuple[str, ...] = ()
    text: str = ""
    position_from: float | None = None
    position_to: float | None = None
    evidence: tuple[Grade, ...] = GRADES
    decided: Literal["any", "open", "settled"] = "any"


@dataclass(frozen=True)
class Settled:
    """A scope settled against a site."""

    site: Site
    scope: Scope
    period: Period
    before: Period | None
    min_impressions: int
    setting: Setting
    branded: Branded

    @property
    def key(self) -> tuple[int, int]:
        """What caches of the site's facts are kept under."""
        return self.site.id, self.site.data_version

    @property
    def month_share(self) -> float:
        """What turns clicks over the period into clicks a month."""
        return DAYS_A_MONTH / self.period.days

    @cached_property
    def curve(self) -> ClickCurve:
        return frames.appraisal(*self.key, self.period, self.setting).curve

    @cached_property
    def pages(self) -> pl.Series | None:
        """The pages of the section and types asked for; None: all."""
        scope = self.scope
        if not scope.section and not scope.page_type:
            return None
        held = frames.page_facets(*self.key)
        if scope.section:
            below = scope.section if scope.section.endswith("/") else scope.section + "/"
            held = held.filter(pl.col("path").str.starts_with(below) | (pl.col("path") == below.rstrip("/")))
        if scope.page_type:
            held = held.filter(pl.col("type").fill_null("").is_in(list(scope.page_type)))
        return held["page"]

    @cached_property
    def queries(self) -> pl.Series | None:
        """The queries of the groups asked for; None: all."""
        if not self.scope.query_group:
            return None
        held = frames.query_groups(*self.key)
        wanted = pl.lit(list(self.scope.query_group), dtype=pl.List(pl.String))
        return held.filter(pl.col("groups").list.set_intersection(wanted).list.len() > 0)["query"]

    @property
    def some_queries_only(self) -> bool:
        """Whether the scope leaves queries out, so that totals of pages say more than its rows do."""
        return self.branded != "with" or self.queries is not None or bool(self.scope.text.strip())

    @cached_property
    def of_brand(self) -> pl.Series:
        return frames.branded(*self.key, self.setting.patterns)

    def chosen(self, rows: pl.DataFrame) -> pl.DataFrame:
        """The rows whose page or query (where they have one) the scope asks for, by section, type, group and text."""
        if "page" in rows.columns and self.pages is not None:
            rows = rows.filter(pl.col("page").is_in(self.pages.implode()))
        if "query" in rows.columns and self.queries is not None:
            rows = rows.filter(pl.col("query").is_in(self.queries.implode()))
        if self.scope.text.strip():
            holds = [
                pl.col(name).is_in(frames.matching(*self.key, words, self.scope.text.strip()).implode())
                for name, words in (("page", Page), ("query", Query))
                if name in rows.columns
            ]
            rows = rows.filter(pl.any_horizontal(*holds))
        return rows

    def without_brand(self, rows: pl.DataFrame) -> pl.DataFrame:
        """The rows of queries as the scope wants them: without branded ones, with them, or those alone."""
        if self.branded == "with" or "query" not in rows.columns:
            return rows
        is_branded = pl.col("query").is_in(self.of_brand.implode())
        return rows.filter(is_branded if self.branded == "only" else ~is_branded)

    def named(self, rows: pl.DataFrame, names: tuple[str, ...] = ("page", "query")) -> pl.DataFrame:
        return frames.named(*self.key, rows, names)

    def missing(self) -> list[str]:
        """The days that the periods lack, and those that look cut short, in sentences."""
        periods = [(self.period, "The period"), *([(self.before, "The period compared with")] if self.before else [])]
        return [said for one, what in periods if (said := incomplete(self.site, one, what))]

    def filters(self, used: Collection[str]) -> dict[str, Any]:
        """What made a list, in words that a file can carry; `used`: which fields of a scope it looks at, and "curve"."""
        told: dict[str, Any] = {
            name: list(value) if isinstance(value := getattr(self.scope, name), tuple) else value
            for name in FILTERS
            if name in used
        }
        told["compared_with"] = _as_words(self.before)
        if "min_impressions" in used:
            told["min_impressions"] = self.min_impressions
        if "branded" in used:
            told |= {"branded": self.branded, "brand_patterns": list(self.setting.patterns)}
        if "curve" in used:
            told |= {"curve_basis": self.curve.basis, "scatter_shape": self.curve.shape}
        return told

    def not_used(self, used: Collection[str]) -> list[str]:
        """What was asked for and is not looked at, in sentences."""
        usual = Scope()
        unused = [name for name in FILTERS if name not in used and getattr(self.scope, name) != getattr(usual, name)]
        return [f"Not looked at here: {', '.join(name.replace('_', ' ') for name in unused)}."] if unused else []


def _as_words(period: Period | None) -> dict[str, str] | None:
    return {"from": str(period.first), "to": str(period.last)} if period else None


def incomplete(site: Site, period: Period, what: str) -> str:
    """What a period lacks: days without data, and days that look cut short; or nothing."""
    key = (site.id, site.data_version)
    lacking = sentences.missing_days(period.missing(frames.days(*key)), what)
    return " ".join(said for said in (lacking, sentences.sudden_days(frames.sudden(*key, period))) if said)


def settle(site: Site, scope: Scope, compare: Comparison = "none", branded: Branded = "without") -> Settled:
    """Settle a scope; `compare` and `branded` hold where nothing is asked for. NotFound when the site has no data yet,
    Invalid where something is asked for that there is not."""
    patterns = patterns_for(site.brand_patterns if scope.brand is None else scope.brand)
    period = period_for(site, scope.first, scope.last)
    if period is None:
        raise NotFound(f"{site.name} has no data yet.", "Load a file of search facts first.")
    floor = site.min_impressions if scope.min_impressions is None else scope.min_impressions
    if floor < 0:
        raise Invalid("The floor is below 0.", "Write how often a row must have been shown.", "min_impressions")
    points = tuple((position, ctr) for position, ctr in site.own_curve or ())
    part = Part(_devices(scope.device), _countries(scope.country))
    _check_names(site, scope)
    before = period.compared(scope.compare or compare)
    return Settled(site, scope, period, before, floor, Setting(patterns, points, part), scope.branded or branded)


def _devices(names: tuple[str, ...]) -> tuple[int, ...]:
    unknown = set(names) - set(DEVICES[1:])
    if unknown:
        raise Invalid(f"There is no device “{unknown.pop()}”.", f"Devices: {', '.join(DEVICES[1:])}.", "device")
    return tuple(sorted({DEVICES.index(name) for name in names}))


def _countries(names: tuple[str, ...]) -> tuple[int, ...]:
    codes = {name: country_code(name) for name in names}
    for name, code in codes.items():
        if code in (COUNTRY_UNKNOWN, NOT_TOLD):
            raise Invalid(f"There is no country “{name}”.", "Write its name, or its code of two or three letters.", "country")
    return tuple(sorted(set(codes.values())))


def _check_names(site: Site, scope: Scope) -> None:
    rules = cleaning.rules_of(site)
    for given, known, what, field in (
        (scope.page_type, [one.name for one in rules.page_types] + [""], "page type", "page_type"),
        (scope.query_group, [one.name for one in rules.query_groups], "query group", "query_group"),
    ):
        unknown = [name for name in given if name not in known]
        if unknown:
            remedy = f"There are: {', '.join(name for name in known if name) or 'none yet'}."
            raise Invalid(f"The site has no {what} “{unknown[0]}”.", remedy, field)


def facets(site: Site) -> dict[str, Any]:
    """What one can ask for: devices, countries, sections, page types and query groups that the site has."""
    days = frames.days(site.id, site.data_version)
    rules = cleaning.rules_of(site)
    held = frames.split_of(site.id, site.data_version) if days else {"device": [], "country": []}
    return {
        "devices": [DEVICES[code] for code in held["device"]],
        "countries": [country_letters(code) for code in held["country"]],
        "page_types": [one.name for one in rules.page_types],
        "query_groups": [one.name for one in rules.query_groups],
    }
