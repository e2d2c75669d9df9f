"""What is computed from a site's facts, kept in the process until the facts change (`data_version` is part of each key)."""

from datetime import date, timedelta
from functools import lru_cache
from typing import NamedTuple

import polars as pl

from zugzwang.core.cleaning import LEFT_OUT, page_types
from zugzwang.core.cleaning import query_groups as grouped
from zugzwang.core.click_curve import own_curve
from zugzwang.core.device_curves import Curves
from zugzwang.core.facts import ROW, add_up
from zugzwang.core.fit import Says, fits, says
from zugzwang.core.grains import CRAWL_PAGES, NOT_TOLD, PAGE_QUERY, SEARCH_GRAINS, VISITS, VOLUMES, Grain
from zugzwang.core.headroom import Target
from zugzwang.core.lenses import STRIKING_DISTANCE, Appraisal, Context, Lens, appraise, look, stakes
from zugzwang.core.patterns import matches
from zugzwang.core.periods import Period
from zugzwang.core.sections import path_of
from zugzwang.core.soundness import sudden_days
from zugzwang.core.volumes import searches_in
from zugzwang.core.wording import content_stems, stem
from zugzwang.core.wording import words as words_of
from zugzwang.desk import cleaning
from zugzwang.desk.cleaning import cleaned, page_map
from zugzwang.store.blocks import read_days, read_facts
from zugzwang.store.dictionary import Words, ids_containing, read_texts, texts_of
from zugzwang.store.models import Page, Query, Site

Patterns = tuple[str, ...]
CurvePoints = tuple[tuple[float, float], ...]
SPLIT_DAYS = 90
NAMED_ONE_BY_ONE = 10_000  # so many names are asked for by id; for more, the whole dictionary is read and kept


class Part(NamedTuple):
    """The part of the facts that is looked at: devices and countries by their codes; none named: all of them."""

    devices: tuple[int, ...] = ()
    countries: tuple[int, ...] = ()


WHOLE = Part()


class Setting(NamedTuple):
    """What the numbers of a site depend on beside its facts: brand patterns, a curve set by hand, the part looked at."""

    patterns: Patterns = ()
    points: CurvePoints = ()
    part: Part = WHOLE


def _site(site_id: int) -> Site:
    return Site(id=site_id)


@lru_cache(maxsize=32)
def days(site_id: int, version: int) -> list[date]:
    """The days with search facts, in order, of the finest grain that has any."""
    for grain in SEARCH_GRAINS:
        held = read_days(_site(site_id), grain)
        if held:
            return held
    return []


@lru_cache(maxsize=6)
def facts(site_id: int, version: int, period: Period, part: Part = WHOLE) -> pl.DataFrame:
    """Page × query facts as they count under the site's rules: pages folded, those left out gone. `device` stands in them
    where the data tell any."""
    return part_of(site_id, version, PAGE_QUERY, period, part)


def part_of(
    site_id: int, version: int, grain: Grain, period: Period | None, part: Part = WHOLE, columns: tuple[str, ...] = ()
) -> pl.DataFrame:
    """Facts of any search grain as they count, for a part of them; `columns`: those wanted, all but the country by default."""
    wanted = list(columns or (name for name in grain.schema.names() if name != "country"))
    split = [name for name, chosen in (("device", part.devices), ("country", part.countries)) if chosen and name not in wanted]
    rows = read_facts(_site(site_id), grain, period, [*wanted, *split])
    if part.devices:
        rows = rows.filter(pl.col("device").is_in(list(part.devices)))
    if part.countries:
        rows = rows.filter(pl.col("country").is_in(list(part.countries)))
    rows = cleaned(rows.drop(split), page_map(site_id, version))
    return rows if "device" not in rows.columns or _tells_devices(rows) else rows.drop("device")


@lru_cache(maxsize=16)
def split_of(site_id: int, version: int) -> dict[str, list[int]]:
    """The devices and countries that the search facts of the last days tell, by their codes."""
    held = days(site_id, version)
    last = Period(held[-1] - timedelta(days=SPLIT_DAYS), held[-1])
    rows = read_facts(_site(site_id), PAGE_QUERY, last, ["device", "country"])
    return {name: [code for code in rows[name].unique().sort() if code != NOT_TOLD] for name in rows.columns}


def _tells_devices(rows: pl.DataFrame) -> bool:
    return rows.height > 0 and rows["device"].max() != NOT_TOLD


@lru_cache(maxsize=16)
def texts(site_id: int, version: int, words: Words) -> pl.DataFrame:
    return read_texts(_site(site_id), words)


def known_texts(site_id: int, version: int, words: Words, ids: pl.Series) -> pl.DataFrame:
    """The texts of some ids (distinct), and of others where there are many: id, text."""
    return texts_of(words, ids) if ids.len() <= NAMED_ONE_BY_ONE else texts(site_id, version, words)


@lru_cache(maxsize=6)
def sums(site_id: int, version: int, period: Period, part: Part = WHOLE) -> pl.DataFrame:
    """Sums by page × query, named for a comparison."""
    added = add_up(facts(site_id, version, period, part), ROW)
    return added.rename({name: f"{name}_before" for name in ("clicks", "impressions", "position", "ctr")})


@lru_cache(maxsize=16)
def sudden(site_id: int, version: int, period: Period) -> list[date]:
    """The days of a period that look cut short beside those around them (core.soundness)."""
    clicks = facts(site_id, version, period).group_by("day").agg(pl.col("clicks").cast(pl.Int64).sum()).sort("day")
    return sudden_days(clicks.rows())


@lru_cache(maxsize=32)
def branded(site_id: int, version: int, patterns: Patterns) -> pl.Series:
    """Ids of the branded queries."""
    if not patterns:
        return pl.Series("id", [], dtype=pl.UInt32)
    return texts(site_id, version, Query).filter(matches(pl.col("text"), patterns))["id"]


@lru_cache(maxsize=8)
def appraisal(site_id: int, version: int, period: Period, setting: Setting) -> Appraisal:
    """The rows of a period beside the site's curves. A part of the facts is held against the curves of all of them."""
    of_brand = branded(site_id, version, setting.patterns)
    if setting.points:
        curves: Curves | None = Curves(own_curve(setting.points))
    elif setting.part != WHOLE:
        curves = appraisal(site_id, version, period, setting._replace(part=WHOLE)).curves
    else:
        curves = None
    return appraise(facts(site_id, version, period, setting.part), of_brand, curves)


@lru_cache(maxsize=24)
def lens_rows(
    site_id: int,
    version: int,
    period: Period,
    setting: Setting,
    lens: Lens,
    min_impressions: int,
    target: Target,
    of_brand: bool | None,
) -> pl.DataFrame:
    """The rows of a lens (core.lenses.look)."""
    held = appraisal(site_id, version, period, setting)
    fitting = row_fits(site_id, version, period, setting, min_impressions) if lens == "off-fit" else None
    context = Context(of_brand, searches(site_id, version, period, setting.part), fitting)
    return look(held, lens, min_impressions, target, context)


@lru_cache(maxsize=8)
def all_stakes(
    site_id: int, version: int, period: Period, setting: Setting, min_impressions: int, target: Target
) -> pl.DataFrame:
    """Every row tested, with both levers (core.lenses.stakes)."""
    context = Context(searches=searches(site_id, version, period, setting.part))
    return stakes(appraisal(site_id, version, period, setting), min_impressions, target, context)


@lru_cache(maxsize=16)
def searches(site_id: int, version: int, period: Period, part: Part = WHOLE) -> pl.DataFrame | None:
    """How often each query was searched in a period, where volumes are known (core.volumes); None where the site has none."""
    del version
    volumes = read_facts(_site(site_id), VOLUMES)
    if part.countries:
        volumes = volumes.filter(pl.col("country").is_in(list(part.countries)))
    if volumes.is_empty():
        return None
    return searches_in(volumes, period)


@lru_cache(maxsize=16)
def page_facets(site_id: int, version: int) -> pl.DataFrame:
    """Every page that counts: page, address, path (core.sections), type (null: none)."""
    site = site_of(site_id, version)
    rules = cleaning.rules_of(site)
    counting = cleaning.folds(site).filter(pl.col("id") == pl.col("counts_as"), pl.col("counts_as") != LEFT_OUT)
    pages = counting.select(page="id", text="folded")
    typed = page_types(
        pages, rules.page_types, crawled(site_id, version).select(text="address", structured_data="structured_data")
    )
    return typed.select(
        "page", pl.col("text").alias("address"), path_of(pl.col("text"), cleaning.host_of(site)).alias("path"), "type"
    )


@lru_cache(maxsize=16)
def query_groups(site_id: int, version: int) -> pl.DataFrame:
    """Every query with its groups: query, groups (list of names)."""
    rules = cleaning.rules_of(site_of(site_id, version))
    return grouped(texts(site_id, version, Query), rules.query_groups).select(pl.col("id").alias("query"), "groups")


def site_of(site_id: int, version: int) -> Site:
    """The site as it stood at a version of its data: what depends on its rules is kept under that."""
    site = Site.objects.get(id=site_id)
    site.data_version = version
    return site


@lru_cache(maxsize=8)
def visits(site_id: int, version: int, period: Period) -> pl.DataFrame:
    """Visits of a period, pages as they count."""
    return cleaned(read_facts(_site(site_id), VISITS, period), page_map(site_id, version))


@lru_cache(maxsize=8)
def crawled(site_id: int, version: int) -> pl.DataFrame:
    """What the crawl says of addresses; those that fold into one page are told apart still."""
    del version
    return read_facts(_site(site_id), CRAWL_PAGES)


@lru_cache(maxsize=8)
def crawled_pages(site_id: int, version: int) -> pl.DataFrame:
    """What the crawl says of each page that counts: page, status, title, heading (the first h1), headings (as "h2 Its words"),
    description, words, main_text, robots, canonical. Of addresses that fold into a page, its own counts."""
    known = crawled(site_id, version).with_columns(
        heading=pl.col("headings").list.eval(pl.element().filter(pl.element().str.starts_with("h1 "))).list.first().str.slice(3)
    )
    columns = ["status", "title", "heading", "headings", "description", "words", "main_text", "robots", "canonical"]
    return page_facets(site_id, version).join(known, on="address", how="inner").select("page", *columns)


@lru_cache(maxsize=4)
def every_page_says(site_id: int, version: int) -> dict[int, Says]:
    """What each page says where the fit to a query is looked for."""
    return page_says(site_id, version, page_facets(site_id, version)["page"])


def page_says(site_id: int, version: int, pages: pl.Series) -> dict[int, Says]:
    """What some pages say where the fit to a query is looked for."""
    language = cleaning.rules_of(site_of(site_id, version)).language
    wanted = page_facets(site_id, version).filter(pl.col("page").is_in(pages.unique().implode()))
    known = wanted.join(crawled_pages(site_id, version), on="page", how="left")
    rows = known.select("page", "address", "title", "heading").iter_rows()
    return {page: says(address, title, heading, language) for page, address, title, heading in rows}


@lru_cache(maxsize=8)
def row_fits(site_id: int, version: int, period: Period, setting: Setting, min_impressions: int) -> pl.DataFrame:
    """The fit of the rows at striking distance: page, query, fit, held, fit_known_by, lacking."""
    rows = appraisal(site_id, version, period, setting).rows.filter(
        pl.col("impressions") >= min_impressions, pl.col("position").is_between(*STRIKING_DISTANCE)
    )
    return fits_of(site_id, version, rows.select(ROW))


def fits_of(site_id: int, version: int, rows: pl.DataFrame) -> pl.DataFrame:
    """The fit of some rows (page, query), beside them."""
    held = fits(rows, page_says(site_id, version, rows["page"]), query_stems(site_id, version, rows["query"]))
    return pl.concat([rows.select(ROW), held], how="horizontal")


def lacking_words(site_id: int, version: int, rows: pl.DataFrame) -> pl.DataFrame:
    """The rows (query, lacking) with the stems that their pages lack as the words of the queries that they come from."""
    language = cleaning.rules_of(site_of(site_id, version)).language
    text_of = dict(known_texts(site_id, version, Query, rows["query"].unique()).iter_rows())
    told = [
        [word for word in words_of(text_of[query]) if stem(word, language) in (stems or ())]
        for query, stems in rows.select("query", "lacking").iter_rows()
    ]
    return rows.with_columns(pl.Series("lacking", told, dtype=pl.List(pl.String)))


def query_stems(site_id: int, version: int, queries: pl.Series) -> dict[int, tuple[str, ...]]:
    """The stems of some queries' words, function words left out."""
    language = cleaning.rules_of(site_of(site_id, version)).language
    known = known_texts(site_id, version, Query, queries.unique())
    wanted = known.filter(pl.col("id").is_in(queries.unique().implode()))
    return {query: content_stems(text, language) for query, text in wanted.iter_rows()}


def matching(site_id: int, version: int, words: Words, text: str) -> pl.Series:
    """Ids of the pages or queries that contain a text, letters' case ignored."""
    if text.isascii():
        found_ids = ids_containing(_site(site_id), words, text)
        to = page_map(site_id, version).to if words is Page else None
        return found_ids if to is None else pl.Series("id", to[found_ids.to_numpy()])
    # Databases differ in what they hold for the small letter of É; here it is é.
    found = texts(site_id, version, words).filter(pl.col("text").str.to_lowercase().str.contains(text.lower(), literal=True))
    return found["id"]


def named(site_id: int, version: int, rows: pl.DataFrame, names: tuple[str, ...] = ("page", "query")) -> pl.DataFrame:
    """The rows with `page_text` and `query_text` beside the ids."""
    for name in names:
        words: Words = Page if name == "page" else Query
        known = known_texts(site_id, version, words, rows[name].unique())
        if words is Page:
            known = known.update(page_map(site_id, version).texts, on="id")
        rows = rows.join(known.rename({"id": name, "text": f"{name}_text"}), on=name, how="left", maintain_order="left")
    return rows
