"""A snapshot: a site's facts and rules at one version. The only access to blocks and everything derived from them.

Everything from a snapshot is cached under its version (cache.py) and shared by all processes of the machine. People's
decisions, moves and events are not part of it: they are joined afterwards (decided.py).
"""

from datetime import date, datetime, timedelta
from functools import cached_property
from typing import Any, Literal, NamedTuple

import numpy as np
import polars as pl

from zugzwang.core.clicks.click_curve import own_curve
from zugzwang.core.clicks.device_curves import Curves
from zugzwang.core.clicks.lenses import Appraisal, ListedBy, appraise, appraise_pages
from zugzwang.core.facts.addresses import normal
from zugzwang.core.facts.cleaning import LEFT_OUT, Rules, fold, page_types
from zugzwang.core.facts.cleaning import query_groups as grouped
from zugzwang.core.facts.grains import (
    ABOVE,
    CRAWL_LINKS,
    CRAWL_PAGES,
    GRAINS,
    LINKS,
    NOT_REPORTED,
    OF_SPANS,
    PAGE,
    PAGE_LINKS,
    PAGE_QUERY,
    QUERY,
    RESULTS,
    SEARCH_GRAINS,
    STRENGTHS,
    VISITS,
    VOLUMES,
    Grain,
)
from zugzwang.core.facts.patterns import matches
from zugzwang.core.facts.periods import Period, default_period
from zugzwang.core.facts.search import ROW, add_up
from zugzwang.core.facts.soundness import sudden_days
from zugzwang.core.facts.volumes import searches_in
from zugzwang.core.pages.content import CONTENT_SIGNS, content_of_text
from zugzwang.core.pages.fit import Says, fits, says
from zugzwang.core.pages.sections import path_of
from zugzwang.core.results.above import strength
from zugzwang.core.results.block_costs import BlockCost, block_costs, factors
from zugzwang.core.results.blocks import BLOCK_KINDS, depths, latest, with_kinds
from zugzwang.core.words.occurrences import Reader, Texts, read_texts
from zugzwang.core.words.wording import content_stems, stem
from zugzwang.core.words.wording import words as words_of
from zugzwang.data.blocks import has_facts, read_days, read_facts, read_span, read_spans
from zugzwang.data.cache import cached
from zugzwang.data.dictionary import Words, ids_containing, texts_of
from zugzwang.data.dictionary import read_texts as read_names
from zugzwang.data.models import Job, Load, Page, Query, Site
from zugzwang.data.rules import host_of, hosts_of, rules_of

SPLIT_DAYS = 90
NAMED_ONE_BY_ONE = 10_000  # up to this number, names are looked up by id; for more, the whole dictionary is read and cached
HAS_SNIPPET = "featured snippet of your site"
SAMPLED_PAGES = 2_000
TEXT_LETTERS = 4_000


class Part(NamedTuple):
    """The selected part of the facts: devices and countries by code; empty means all."""

    devices: tuple[int, ...] = ()
    countries: tuple[int, ...] = ()


WHOLE = Part()


class Setting(NamedTuple):
    """What a site's numbers depend on besides its facts: brand patterns, a curve set by hand, the selected part."""

    patterns: tuple[str, ...] = ()
    points: tuple[tuple[float, float], ...] = ()
    part: Part = WHOLE


class PageMap(NamedTuple):
    """`to[id]` is the id under which a page counts, LEFT_OUT where it counts nowhere; None where no pages are merged. `texts`:
    id, text of pages whose address differs from that of their id.
    """

    to: np.ndarray[Any, np.dtype[np.uint32]] | None
    texts: pl.DataFrame

    def cleaned(self, facts: pl.DataFrame) -> pl.DataFrame:
        """Facts as they count: pages by the ids they merge into, without excluded ones. Callers sum repeated keys."""
        if self.to is None or "page" not in facts.columns:
            return facts
        counted = facts.with_columns(pl.Series("page", self.to[facts["page"].to_numpy()]))
        return counted.filter(pl.col("page") != LEFT_OUT)


# The grain for each kind of list, finest first.
LISTED: dict[ListedBy, Grain] = {"row": PAGE_QUERY, "query": QUERY, "page": PAGE}


def counted(rows: pl.DataFrame, period: Period | None) -> pl.DataFrame:
    """The rows of the days that count in a period."""
    return rows.filter(~pl.col("day").is_in(list(period.without))) if period and period.without else rows


class Snapshot:
    def __init__(self, site: Site) -> None:
        self.site = site

    def __reduce__(self) -> tuple[type["Snapshot"], tuple[Site]]:
        return Snapshot, (self.site,)

    @property
    def key(self) -> tuple[int, int]:
        return self.site.id, self.site.data_version

    @cached_property
    def rules(self) -> Rules:
        return rules_of(self.site)

    # --- days ---------------------------------------------------------------------------------------------------------

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

    # --- facts --------------------------------------------------------------------------------------------------------

    @cached
    def facts(self, period: Period, part: Part = WHOLE, by: ListedBy = "row") -> pl.DataFrame:
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
        rows = self.page_map().cleaned(rows.drop(split))
        tells_devices = "device" in rows.columns and rows.height > 0 and rows["device"].max() != NOT_REPORTED
        return rows if "device" not in rows.columns or tells_devices else rows.drop("device")

    @cached
    def sums(self, period: Period, part: Part = WHOLE, by: ListedBy = "row") -> pl.DataFrame:
        """Sums of the listed rows: page, query, clicks, impressions, position, ctr."""
        return add_up(self.facts(period, part, by), ROW)

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
            return self.page_map().cleaned(read_span(self.site, VISITS, period, VISITS.schema.names()))
        return self.page_map().cleaned(counted(read_facts(self.site, VISITS, period), period))

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
        return self.texts(Query).filter(matches(pl.col("text"), patterns))["id"]

    @cached
    def appraisal(self, period: Period, setting: Setting, by: ListedBy = "row") -> Appraisal:
        """The listed rows of a period with the site's curves. A part of the facts uses the curves of all facts, and queries
        and pages use those of rows, where the site has rows.
        """
        has_rows = self.has(PAGE_QUERY, period)
        if by == "page" and has_rows:
            return appraise_pages(self.facts(period, setting.part, by), self.appraisal(period, setting))
        curves: Curves | None = None
        if setting.points:
            curves = Curves(own_curve(setting.points))
        elif by != "row" and has_rows:
            curves = self.appraisal(period, setting).curves
        elif setting.part != WHOLE:
            curves = self.appraisal(period, setting._replace(part=WHOLE), by).curves
        return appraise(self.facts(period, setting.part, by), self.branded(setting.patterns), curves)

    # --- SERPs ------------------------------------------------------------------------------------------------

    @cached
    def results(self) -> pl.DataFrame:
        """The newest SERP capture of each query: blocks with kind, answer, pixels (core.results.blocks) and `own`."""
        return self.with_own(with_kinds(latest(read_facts(self.site, RESULTS)))).sort("query", "rank")

    def with_own(self, blocks: pl.DataFrame) -> pl.DataFrame:
        """Captured blocks, with whether each is the site's own by its address."""
        paths = [path_of(pl.col("address"), host) for host in hosts_of(self.site)]
        own = pl.any_horizontal(path.str.starts_with("/") & ~path.str.starts_with("//") for path in paths)
        return blocks.with_columns(own=own.fill_null(False))

    @cached
    def result_ranks(self) -> pl.DataFrame:
        """Where the site ranks in each capture (core.results.blocks.places)."""
        return depths(self.results())

    @cached
    def shown_titles(self) -> dict[int, dict[int, tuple[str | None, str | None]]]:
        """The site's titles and snippets in the newest captures: page → query → (title, snippet)."""
        own = self.results().filter(pl.col("own"), pl.col("kind") == "organic").select("query", "address", "title", "snippet")
        result: dict[int, dict[int, tuple[str | None, str | None]]] = {}
        for query, page, title, snippet in self._with_pages(own).select("query", "page", "title", "snippet").iter_rows():
            result.setdefault(page, {})[query] = (title, snippet)
        return result

    def _with_pages(self, rows: pl.DataFrame) -> pl.DataFrame:
        """Rows with an address of the site, with the page that it counts as; rows without a known page are left out."""
        known = self.pages().select("page", plain="address")
        return self._with_plain(rows.drop_nulls("address")).join(known, on="plain", how="inner", maintain_order="left")

    @cached
    def block_costs(self, period: Period, setting: Setting) -> list[BlockCost]:
        """The effect of each kind of SERP feature above the site's result, from the site's own rows: for each query the row
        with the most impressions.
        """
        rows, above, kinds = self._captured_rows(period, setting)
        current = self.appraisal(period, setting)
        clicks, expected, position = (rows[name].to_numpy() for name in ("clicks", "expected_clicks", "position"))
        return block_costs(clicks, expected, current.scatter.shape(position), above, kinds)

    @cached
    def above(self, period: Period, setting: Setting) -> pl.DataFrame | None:
        """The share of a query's clicks that features above the site's result leave: query, factor. None where no SERP is
        captured, or only a part of the facts is selected, because a SERP is captured for everyone.
        """
        if setting.part != WHOLE or self.results().is_empty():
            return None
        rows, above, _ = self._captured_rows(period, setting)
        return rows.select("query", factor=pl.Series(factors(self.block_costs(period, setting), above)))

    @cached
    def results_above(self) -> pl.DataFrame:
        """Other sites' organic results above the site's in the newest captures, or all where the site has none: query, place,
        address, plain (the normalised address), title, snippet.
        """
        results = self.results()
        first = pl.col("rank").filter(pl.col("own") & (pl.col("kind") == "organic")).min().over("query")
        above = (pl.col("rank") < first) | first.is_null()
        rows = results.filter(pl.col("kind") == "organic", ~pl.col("own"), above, pl.col("address").is_not_null())
        return self._with_plain(rows).select("query", "rank", "address", "plain", "title", "snippet")

    def competing_results(self, places_most: int) -> pl.DataFrame:
        """Other sites' organic results in the newest captures, and the holders of featured snippets: query, place, plain."""
        others = self.results().filter(~pl.col("own"), pl.col("address").is_not_null())
        organic = others.filter(pl.col("kind") == "organic").group_by("query", maintain_order=True).head(places_most)
        boxes = others.filter(pl.col("kind") == "featured snippet")
        return self._with_plain(pl.concat([organic, boxes])).select("query", "rank", "plain")

    @cached
    def fetched_above(self) -> pl.DataFrame:
        """The fetched pages of other sites, in the columns of their grain, with normalised addresses."""
        return read_facts(self.site, ABOVE).sort("address")

    @cached
    def strengths(self) -> dict[str, int]:
        """The referring domains of an address, of any site: the larger of the reported number and, for the site's own, the
        count of loaded backlinks.
        """
        rows = read_facts(self.site, STRENGTHS, columns=["address", "referring_domains"])
        known = dict(rows.iter_rows())
        own = self.referring_domains() or {}
        address = dict(self.pages().select("page", "address").iter_rows())
        for page, sites in own.items():
            if page in address:
                known[address[page]] = max(sites, known.get(address[page], 0))
        return known

    @cached
    def within_strength(self) -> pl.DataFrame:
        """The reachable position for each captured query with an organic result of the site: query, organic_rank, place
        (reachable), stronger (how many pages above are stronger).
        """
        known, above = self.strengths(), self.results_above()
        of_query: dict[int, list[int | None]] = {}
        for query, plain in above.select("query", "plain").iter_rows():
            of_query.setdefault(query, []).append(known.get(plain))
        own = self.results().filter(pl.col("own"), pl.col("kind") == "organic").unique("query", keep="first")
        mine = dict(self._with_plain(own).select("query", "plain").iter_rows()) if own.height else {}
        rows = []
        for query, place in self.result_ranks().drop_nulls("organic_rank").select("query", "organic_rank").iter_rows():
            result = strength(place, known.get(mine[query]), of_query.get(query, []))
            rows.append((query, place, *(result or (None, None))))
        names = {"query": pl.UInt32, "organic_rank": pl.UInt32, "rank": pl.UInt32, "stronger": pl.UInt32}
        return pl.DataFrame(rows, schema=names, orient="row").sort("query")

    def _with_plain(self, rows: pl.DataFrame) -> pl.DataFrame:
        different = rows["address"].unique()
        plain = pl.Series([normal(one).partition("#")[0] for one in different.to_list()], dtype=pl.String)
        return rows.with_columns(plain=pl.col("address").replace_strict(different, plain, return_dtype=pl.String))

    def _captured_rows(self, period: Period, setting: Setting) -> tuple[pl.DataFrame, Any, list[str]]:
        """The row with the most impressions of each query with a result of the site, and the kinds of feature above it."""
        rows = self.appraisal(period, setting).rows.filter(~pl.col("branded"), pl.col("expected_clicks") > 0)
        most = rows.sort("impressions", "page", descending=[True, False]).unique("query", keep="first")
        shown = self.result_ranks().filter(pl.col("own_rank").is_not_null()).select("query", "above", "has_snippet")
        frame = most.join(shown, on="query").sort("query")
        kinds = [kind for kind in BLOCK_KINDS if kind != "organic"]
        current = [pl.col("above").list.contains(kind).alias(kind) for kind in kinds]
        above = frame.select(*current, pl.col("has_snippet").alias(HAS_SNIPPET)).to_numpy()
        return frame, above, [*kinds, HAS_SNIPPET]

    # --- texts --------------------------------------------------------------------------------------------------------

    @cached
    def texts(self, words: Words) -> pl.DataFrame:
        """All pages or queries of the site: id, text."""
        return read_names(self.site, words)

    def known_texts(self, words: Words, ids: pl.Series) -> pl.DataFrame:
        """The texts of some distinct ids, and possibly of others: id, text."""
        return texts_of(words, ids) if ids.len() <= NAMED_ONE_BY_ONE else self.texts(words)

    def matching(self, words: Words, text: str) -> pl.Series:
        """Ids of the pages or queries that contain a text, ignoring case."""
        if text.isascii():
            found_ids = ids_containing(self.site, words, text)
            to = self.page_map().to if words is Page else None
            return found_ids if to is None else pl.Series("id", to[found_ids.to_numpy()])
        # Databases disagree on the lower case of É; here it is é.
        found = self.texts(words).filter(pl.col("text").str.to_lowercase().str.contains(text.lower(), literal=True))
        return found["id"]

    def page_texts(self, pages: pl.Series) -> pl.DataFrame:
        """The addresses of pages as they count: id, text."""
        return self.known_texts(Page, pages.unique()).update(self.page_map().texts, on="id")

    def page_text(self, page: int) -> str:
        return str(dict(self.page_texts(pl.Series([page], dtype=pl.UInt32)).iter_rows())[page])

    def named(self, rows: pl.DataFrame, names: tuple[str, ...] = ("page", "query")) -> pl.DataFrame:
        """The rows with the texts of pages and queries as `page` and `query`, and their ids as `page_id` and `query_id`."""
        for name in names:
            ids = rows[name].unique()
            known = self.page_texts(ids) if name == "page" else self.known_texts(Query, ids)
            known = known.rename({"id": f"{name}_id", "text": name})
            rows = rows.rename({name: f"{name}_id"}).join(known, on=f"{name}_id", how="left", maintain_order="left")
        return rows

    # --- pages --------------------------------------------------------------------------------------------------------

    def folds(self, rules: Rules | None = None) -> pl.DataFrame:
        """Where each page's facts count, under the stored rules or given ones: id, counts_as, folded, reasons
        (core.cleaning)."""
        return self._folds(rules or self.rules)

    @cached
    def _folds(self, rules: Rules) -> pl.DataFrame:
        return fold(self.texts(Page), self.site.address, rules, self._points_to())

    def folds_of(self, texts: pl.Series) -> pl.DataFrame:
        """Where some addresses count, including unknown ones; columns as `folds`."""
        known = self.texts(Page)
        fresh = texts.filter(~texts.is_in(known["text"].implode()))
        numbers = pl.int_range(pl.len(), dtype=pl.UInt32) + int(known["id"].max() or 0) + 1  # type: ignore[arg-type]
        pages = pl.concat([known, fresh.to_frame("text").select(id=numbers, text="text")])
        current = fold(pages, self.site.address, self.rules, self._points_to())
        return current.filter(pages["text"].is_in(texts.implode()))

    def _points_to(self) -> pl.DataFrame:
        return self.crawled().select("address", points_to=pl.coalesce("redirect_to", "canonical"))

    @cached
    def page_map(self) -> PageMap:
        current, texts = self.folds(), self.texts(Page)
        of_its_own = current.filter(pl.col("id") == pl.col("counts_as"))
        renamed = of_its_own.join(texts, on="id").filter(pl.col("folded") != pl.col("text")).select("id", text="folded")
        if current.is_empty() or current.select((pl.col("id") == pl.col("counts_as")).all()).item():
            return PageMap(None, renamed)
        to = np.arange(int(current["id"].max()) + 1, dtype=np.uint32)  # type: ignore[arg-type]
        to[current["id"].to_numpy()] = current["counts_as"].to_numpy()
        return PageMap(to, renamed)

    @cached
    def pages(self) -> pl.DataFrame:
        """Every page that counts: page, address, path (core.sections), type (null: none)."""
        counting = self.folds().filter(pl.col("id") == pl.col("counts_as"), pl.col("counts_as") != LEFT_OUT)
        structured = self.crawled().select(text="address", structured_data="structured_data")
        typed = page_types(counting.select(page="id", text="folded"), self.rules.page_types, structured)
        return typed.select(
            "page", pl.col("text").alias("address"), path_of(pl.col("text"), host_of(self.site)).alias("path"), "type"
        )

    @cached
    def shown_pages(self) -> pl.Series:
        """The merged addresses of all pages with search data, sorted."""
        counting = self.folds().filter(pl.col("counts_as") != LEFT_OUT)
        of_pages = [one for grain in (PAGE, PAGE_QUERY) for one in (grain, OF_SPANS[grain.name])]
        shown = pl.concat([read_facts(self.site, grain, columns=["page"])["page"].unique() for grain in of_pages]).unique()
        return counting.filter(pl.col("id").is_in(shown.implode()))["folded"].unique().sort()

    def exempt_types(self, what: str) -> list[str]:
        """The page types exempt from judgement by bounces ("bounce") or by queries ("queries")."""
        return [one.name for one in self.rules.page_types if what in one.exempt]

    @cached
    def query_groups(self) -> pl.DataFrame:
        """Every query with its groups: query, groups (list of names)."""
        current = grouped(self.texts(Query), self.rules.query_groups)
        return current.select(pl.col("id").alias("query"), "groups")

    # --- what the crawl saw -------------------------------------------------------------------------------------------

    @cached
    def crawled(self) -> pl.DataFrame:
        """Crawl data by address, without texts; addresses that merge into one page are still separate."""
        columns = [name for name in CRAWL_PAGES.schema.names() if name not in ("main_text", "content")]
        return read_facts(self.site, CRAWL_PAGES, columns=columns)

    @cached
    def crawled_pages(self) -> pl.DataFrame:
        """Crawl data of each page: page, status, title, heading (the first h1), headings (as "h2 Its words"), description, how
        many of each (titles, descriptions), words, robots, canonical. Of merged addresses, the page's own counts.
        """
        of_h1 = pl.element().filter(pl.element().str.starts_with("h1 "))
        known = self.crawled().with_columns(heading=pl.col("headings").list.eval(of_h1).list.first().str.slice(3))
        columns = [
            "status", "title", "titles", "heading", "headings", "description", "descriptions", "words", "robots", "canonical",
        ]  # fmt: skip
        return self.pages().join(known, on="address", how="inner").select("page", *columns)

    def main_texts(self) -> pl.DataFrame:
        """The beginning of the main text of each page: page, main_text."""
        rows = read_facts(self.site, CRAWL_PAGES, columns=["address", "main_text", "content"])
        plain = pl.col("content").str.slice(0, TEXT_LETTERS).str.replace_all(CONTENT_SIGNS, " ")
        text = pl.coalesce(plain, pl.col("main_text").str.slice(0, TEXT_LETTERS)).alias("main_text")
        return self.pages().join(rows, on="address").select("page", text)

    def contents(self, pages: pl.Series | None = None) -> pl.DataFrame:
        """The content of each page in pieces (core.pages.content): page, title, content. From a loaded crawl table: its main
        heading and text; a page without text in that table has none.
        """
        columns = ["address", "title", "headings", "main_text", "content"]
        wanted = self.pages() if pages is None else self.pages().filter(pl.col("page").is_in(pages.implode()))
        rows = wanted.join(read_facts(self.site, CRAWL_PAGES, columns=columns), on="address").sort("page")
        rows = rows.filter(pl.col("content").is_not_null() | (pl.col("main_text").str.strip_chars() != ""))
        lacks = pl.col("content").is_null()
        made = [
            content_of_text(next((one[3:] for one in headings or [] if one.startswith("h1 ")), None), text)
            for headings, text in rows.filter(lacks).select("headings", "main_text").iter_rows()
        ]
        frame = pl.concat([rows.filter(~lacks), rows.filter(lacks).with_columns(content=pl.Series(made, dtype=pl.String))])
        return frame.filter(pl.col("content").is_not_null()).select("page", "title", "content").sort("page")

    @cached
    def page_words(self) -> Texts:
        """The words of all pages with known text, for searching phrases."""
        return read_texts(self.contents(), self.rules.language)

    @cached
    def competing_usage(self) -> dict[int, tuple[float, float]]:
        """How often the competing pages mention each query exactly, in 1,000 words: query → (median, upper quartile)."""
        above = self.fetched_above()
        pages = above.with_row_index("page").select("page", "title", "content").drop_nulls("content")
        if pages.is_empty():
            return {}
        number = dict(zip(above["address"].to_list(), range(above.height), strict=True))
        reader = Reader(read_texts(pages.with_columns(pl.col("page").cast(pl.UInt32)), self.rules.language))
        result: dict[int, tuple[float, float]] = {}
        texts = dict(self.known_texts(Query, self.results()["query"].unique()).iter_rows())
        for (query,), rows in self.results_above().group_by("query", maintain_order=True):
            known = [number[one] for one in rows["plain"] if one in number and number[one] in reader]
            rates = [reader.occurrences(one, texts[int(str(query))]).per_thousand for one in known]
            if rates:
                result[int(str(query))] = (float(np.median(rates)), float(np.quantile(rates, 0.75)))
        return result

    @cached
    def page_stems(self, pages: tuple[int, ...]) -> dict[int, tuple[str, ...]]:
        """The stems of some pages' title, heading and beginning of text, and of a sample of the others, which shows what is
        common on the site. Pages without a crawl are left out.
        """
        known = self.crawled_pages().select("page", "title", "heading").sort("page")
        sampled = pl.int_range(pl.len()) % max(known.height // SAMPLED_PAGES, 1) == 0
        known = known.filter(sampled | pl.col("page").is_in(list(pages))).join(self.main_texts(), on="page", how="left")
        texts = known.select("page", pl.concat_str("title", "heading", "main_text", separator=" ", ignore_nulls=True))
        return {page: content_stems(text, self.rules.language) for page, text in texts.iter_rows() if text}

    @cached
    def every_page_says(self) -> dict[int, Says]:
        """Each page's texts that the fit to a query is judged by."""
        return self.page_says(self.pages()["page"])

    def page_says(self, pages: pl.Series) -> dict[int, Says]:
        """Some pages' texts that the fit to a query is judged by."""
        wanted = self.pages().filter(pl.col("page").is_in(pages.unique().implode()))
        known = wanted.join(self.crawled_pages(), on="page", how="left")
        rows = known.select("page", "address", "title", "heading").iter_rows()
        return {page: says(address, title, heading, self.rules.language) for page, address, title, heading in rows}

    def query_stems(self, queries: pl.Series) -> dict[int, tuple[str, ...]]:
        """The stems of some queries, without function words."""
        known = self.known_texts(Query, queries.unique())
        wanted = known.filter(pl.col("id").is_in(queries.unique().implode()))
        return {query: content_stems(text, self.rules.language) for query, text in wanted.iter_rows()}

    def fits(self, rows: pl.DataFrame) -> pl.DataFrame:
        """The fit of some rows (page, query): page, query, fit, kept, fit_known_by, lacking (stems)."""
        current = fits(rows, self.page_says(rows["page"]), self.query_stems(rows["query"]))
        return pl.concat([rows.select(ROW), current], how="horizontal")

    def lacking_words(self, rows: pl.DataFrame) -> pl.DataFrame:
        """The rows (query, lacking) with missing stems written as the words of their queries."""
        text_of = dict(self.known_texts(Query, rows["query"].unique()).iter_rows())
        frame = [
            [word for word in words_of(text_of.get(query, "")) if stem(word, self.rules.language) in (stems or ())]
            for query, stems in rows.select("query", "lacking").iter_rows()
        ]
        return rows.with_columns(pl.Series("lacking", frame, dtype=pl.List(pl.String)))

    # --- links --------------------------------------------------------------------------------------------------------

    @cached
    def inner_links(self) -> pl.DataFrame:
        """Internal links: source and target – ids of the pages that their addresses count as, null for unknown addresses –,
        from_address, to_address, anchor, in_body, followed. From the crawl, or from a table of links that was loaded later.
        """
        own = self.page_map().cleaned(self.texts(Page).select("text", page="id")).cast({"page": pl.UInt32})
        both = [one.select("text", "page") for one in (self.pages().select("page", text="address"), own)]
        known = pl.concat(both).unique("text", keep="first")
        links = read_facts(self.site, self._links_grain())
        for side, name in (("from_address", "source"), ("to_address", "target")):
            found = known.select(pl.col("text").alias(side), pl.col("page").alias(name))
            links = links.join(found, on=side, how="left", maintain_order="left")
        return links.select("source", "target", "from_address", "to_address", "anchor", "in_body", "followed")

    def body_links_between(self, pairs: pl.DataFrame) -> dict[tuple[int, int], list[str]]:
        """The anchors of body links from pages to others (source, target)."""
        links = self.inner_links().filter(pl.col("in_body").fill_null(True))
        there = links.join(pairs.unique(), on=["source", "target"], how="semi")
        rows = there.group_by("source", "target").agg(pl.col("anchor").fill_null(""))
        return {(source, target): anchors for source, target, anchors in rows.iter_rows()}

    def _links_grain(self) -> Grain:
        """The table that links are read from: the later one of crawl and loaded table that has any."""
        current = [grain for grain in (CRAWL_LINKS, PAGE_LINKS) if has_facts(self.site, grain)]
        if len(current) < 2:
            return next(iter(current), CRAWL_LINKS)
        crawl, table = (self._load_of(grain) for grain in current)
        return PAGE_LINKS if table and (crawl is None or table.made_at > crawl.made_at) else CRAWL_LINKS

    def _load_of(self, grain: Grain) -> Load | None:
        """The last load that brought links. A crawl loaded as a table brings none."""
        loads = Load.objects.filter(site=self.site, taken_back_at=None, source=grain.source)
        return (loads.filter(job__kind=Job.Kind.CRAWL) if grain is CRAWL_LINKS else loads).first()

    def links_read_at(self) -> datetime | None:
        """When the links were last read from the site."""
        load = self._load_of(self._links_grain())
        return load.made_at if load else None

    def crawl_read_at(self) -> datetime | None:
        """When the site's pages were last read, by a crawl or a crawl table."""
        load = Load.objects.filter(site=self.site, taken_back_at=None, source=CRAWL_PAGES.source).first()
        return load.made_at if load else None

    @cached
    def outer_links(self) -> pl.DataFrame:
        """Backlinks: from_address, page, address (the target), anchor, followed."""
        links = read_facts(self.site, LINKS, columns=["from_address", "page", "anchor", "followed"])
        rows = links.join(self.texts(Page).select(page="id", address="text"), on="page", how="left")
        return self.page_map().cleaned(rows.cast({"page": pl.UInt32}))

    @cached
    def referring_domains(self) -> dict[int, int] | None:
        """The referring domains of each page; None without loaded backlinks."""
        links = self.outer_links()
        if links.is_empty():
            return None
        host = pl.col("from_address").str.extract(r"^https?://(?:www\.)?([^/:?#]+)")
        return dict(links.group_by("page").agg(host.n_unique().alias("sites")).iter_rows())
