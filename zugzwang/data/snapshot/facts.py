"""Search facts, visits and volumes, by days and spans."""

from datetime import date, timedelta
from typing import Literal

import polars as pl

from zugzwang.core.clicks.click_curve import own_curve
from zugzwang.core.clicks.device_curves import Curves
from zugzwang.core.clicks.lenses import Appraisal, ListedBy, appraise, appraise_pages
from zugzwang.core.facts.grains import (
    GRAINS,
    NOT_REPORTED,
    PAGE_QUERY,
    SEARCH_GRAINS,
    VISITS,
    VOLUMES,
    Grain,
)
from zugzwang.core.facts.patterns import matches
from zugzwang.core.facts.periods import Period, default_period
from zugzwang.core.facts.search import ROW, add_up
from zugzwang.core.facts.soundness import sudden_days
from zugzwang.core.facts.volumes import searches_in
from zugzwang.data.blocks import read_days, read_facts, read_span, read_spans
from zugzwang.data.cache import cached
from zugzwang.data.models import Query
from zugzwang.data.snapshot.part import LISTED, WHOLE, Part, PartOfSnapshot, Setting, counted

SPLIT_DAYS = 90


class Facts(PartOfSnapshot):
    @cached
    def days(self) -> list[date]:
        """The days with search facts, in order, from the finest grain that has any."""
        for grain in SEARCH_GRAINS:
            current = read_days(self.site, grain)
            if current:
                return current
        return []

    @cached
    def days_of(self, grain: str) -> list[date]:
        """The days with facts of one grain, in order."""
        return read_days(self.site, GRAINS[grain])

    @cached
    def spans_of(self, grain: str) -> list[Period]:
        """The spans with totals of one grain, latest end first."""
        return read_spans(self.site, GRAINS[grain])

    @cached
    def spans(self) -> list[Period]:
        """The spans with totals of any search grain, latest end first."""
        every = {span for grain in SEARCH_GRAINS for span in self.spans_of(grain.name)}
        return sorted(every, key=lambda span: (span.last, span.first), reverse=True)

    def usual_period(self) -> Period | None:
        """The default period: the last whole weeks of days, otherwise the newest span; None without search facts. Daily facts
        of the whole site list nothing, so totals of queries or pages come before them.
        """
        listed = next((current for grain in LISTED.values() if (current := self.days_of(grain.name))), None)
        spans = self.spans()
        if listed is None and spans:
            return spans[0]
        current = listed or self.days()
        return default_period(current[0], current[-1]) if current else None

    def by_day(self, period: Period) -> bool:
        """Whether a period's facts are known by day; otherwise they are totals of a span, or there are none."""
        if not self.days() and self.spans():
            return False  # totals of the whole site may be all there is, and they list nothing
        return not self.of_span(LISTED[self.finest(period)], period)

    def of_span(self, grain: Grain, period: Period) -> bool:
        """Whether a grain's facts of a period are totals; days that cover it take precedence."""
        return period in self.spans_of(grain.name) and bool(period.missing(self.days_of(grain.name)))

    def has(self, grain: Grain, period: Period) -> bool:
        """Whether a grain has facts of a period, by day or as totals."""
        return self.of_span(grain, period) or any(period.first <= day <= period.last for day in self.days_of(grain.name))

    def finest(self, period: Period) -> ListedBy:
        """The finest grain that can be listed for a period; rows where it has no data."""
        return next((by for by, grain in LISTED.items() if self.has(grain, period)), "row")

    @cached
    def sudden(self, period: Period) -> list[date]:
        """The days of a period that look truncated (core.soundness)."""
        if not self.by_day(period):
            return []
        facts = self.rows(PAGE_QUERY, period, columns=("day", "page", "query", "clicks"))
        clicks = facts.group_by("day").agg(pl.col("clicks").cast(pl.Int64).sum()).sort("day")
        return sudden_days(clicks.rows())

    @cached
    def visit_days(self) -> list[date]:
        return read_days(self.site, VISITS)

    @cached
    def listed(self, period: Period, part: Part = WHOLE, by: ListedBy = "row") -> pl.DataFrame:
        """Page × query facts under the site's rules: pages merged, excluded ones gone. They include `device` where the data
        have it. By query `page` is 0, by page `query` is: from the totals of queries or pages where the site has them,
        otherwise from its rows.
        """
        grain = LISTED[by] if self.has(LISTED[by], period) else PAGE_QUERY
        rows = self.rows(grain, period, part)
        whole = {"query": "page", "page": "query"}.get(by)
        return rows if whole is None else rows.with_columns(pl.lit(0, dtype=pl.UInt32).alias(whole))

    def rows(self, grain: Grain, period: Period | None, part: Part = WHOLE, columns: tuple[str, ...] = ()) -> pl.DataFrame:
        """Facts of any search grain under the site's rules, for a part of them; `columns`: all except the country by
        default."""
        wanted = list(columns or (name for name in grain.schema.names() if name != "country"))
        chosen = {"device": part.devices, "country": part.countries}
        split = [name for name, codes in chosen.items() if codes and name not in wanted]
        if period is not None and period.without and "day" not in wanted:
            split.append("day")
        if period is not None and self.of_span(grain, period):
            by: list[Literal["device", "country"]] = [name for name in ("device", "country") if chosen[name]]
            rows = read_span(self.site, grain, period, [*wanted, *split], by)
        else:
            rows = counted(read_facts(self.site, grain, period, [*wanted, *split]), period)
        for name, codes in chosen.items():
            if codes:
                rows = rows.filter(pl.col(name).is_in(list(codes)))
        rows = self.snapshot.pages.page_map().cleaned(rows.drop(split))
        tells_devices = "device" in rows.columns and rows.height > 0 and rows["device"].max() != NOT_REPORTED
        return rows if "device" not in rows.columns or tells_devices else rows.drop("device")

    @cached
    def sums(self, period: Period, part: Part = WHOLE, by: ListedBy = "row") -> pl.DataFrame:
        """Sums of the listed rows: page, query, clicks, impressions, position, ctr."""
        return add_up(self.listed(period, part, by), ROW)

    @cached
    def split(self) -> dict[str, list[int]]:
        """The devices and countries in the search facts of the last days (or the newest span), by code."""
        usual = self.usual_period()
        if usual is None:
            return {"device": [], "country": []}
        days = self.days()
        last = Period(days[-1] - timedelta(days=SPLIT_DAYS), days[-1]) if self.by_day(usual) else usual
        rows = self.rows(LISTED[self.finest(last)], last, columns=("device", "country"))
        rows = rows if "device" in rows.columns else rows.with_columns(device=pl.lit(NOT_REPORTED, dtype=pl.UInt8))
        return {name: [code for code in rows[name].unique().sort() if code != NOT_REPORTED] for name in rows.columns}

    @cached
    def visits(self, period: Period) -> pl.DataFrame:
        """Visits of a period, by merged page; for totals, `day` is the last of the span."""
        if self.of_span(VISITS, period):
            return self.snapshot.pages.page_map().cleaned(read_span(self.site, VISITS, period, VISITS.schema.names()))
        return self.snapshot.pages.page_map().cleaned(counted(read_facts(self.site, VISITS, period), period))

    @cached
    def searches(self, period: Period, part: Part = WHOLE) -> pl.DataFrame | None:
        """How often each query was searched in a period (core.volumes); None for a site without volumes."""
        volumes = read_facts(self.site, VOLUMES)
        if part.countries:
            volumes = volumes.filter(pl.col("country").is_in(list(part.countries)))
        return searches_in(volumes, period) if volumes.height else None

    @cached
    def branded(self, patterns: tuple[str, ...]) -> pl.Series:
        """Ids of the branded queries."""
        if not patterns:
            return pl.Series("id", [], dtype=pl.UInt32)
        return self.snapshot.names.texts(Query).filter(matches(pl.col("text"), patterns))["id"]

    @cached
    def appraisal(self, period: Period, setting: Setting, by: ListedBy = "row") -> Appraisal:
        """The listed rows of a period with the site's curves. A part of the facts uses the curves of all facts, and queries
        and pages use those of rows, where the site has rows.
        """
        has_rows = self.has(PAGE_QUERY, period)
        if by == "page" and has_rows:
            return appraise_pages(self.listed(period, setting.part, by), self.appraisal(period, setting))
        curves: Curves | None = None
        if setting.points:
            curves = Curves(own_curve(setting.points))
        elif by != "row" and has_rows:
            curves = self.appraisal(period, setting).curves
        elif setting.part != WHOLE:
            curves = self.appraisal(period, setting._replace(part=WHOLE), by).curves
        return appraise(self.listed(period, setting.part, by), self.branded(setting.patterns), curves)
