"""Clashes of a site: contenders, kinds, what they cost, who should lead and what to do; what was decided, and whether it held.
Pages that compete as pages (topic folds), and the groups that they make."""

from collections import Counter
from collections.abc import Collection
from dataclasses import dataclass, replace
from datetime import date, timedelta
from functools import lru_cache
from typing import Any

import polars as pl

from zugzwang.core import sentences
from zugzwang.core.clashes import Clashes, contenders_of, find_clashes, subject
from zugzwang.core.facts import ROW, sums
from zugzwang.core.grains import LINKS, PAGE_QUERY
from zugzwang.core.leads import RESOLUTIONS, Contender, propose_lead, propose_resolution, settled_since
from zugzwang.core.periods import Period
from zugzwang.core.topic_folds import SHOWN_ALIKE, groups, kind_of, say_alike, shown_alike
from zugzwang.core.visits import CHANNELS
from zugzwang.core.wording import content_stems
from zugzwang.desk import cleaning, frames
from zugzwang.desk.frames import Part, Setting
from zugzwang.desk.linking import linking_sites
from zugzwang.desk.measures import facts_beside
from zugzwang.desk.scope import Scope, Settled, settle
from zugzwang.desk.told import Told
from zugzwang.errors import NotFound
from zugzwang.plan.decisions import in_force, shown
from zugzwang.plan.marks import settled_queries
from zugzwang.store.blocks import read_facts
from zugzwang.store.models import Decision, Site

SAMPLED_PAGES = 2_000
TEXT_LETTERS = 4_000
STRETCH_DAYS = 28  # after a decision a query is looked at again every so many days
WINDOW_DAYS, WINDOWS = 14, 36  # in which it is looked back since when pages are shown alike


@dataclass(frozen=True)
class Held:
    """The clashes of a period with what is proposed: `leads`: query → (lead, reasons, resolution, why)."""

    clashes: Clashes
    leads: dict[int, tuple[int, tuple[str, ...], str, str]]


@lru_cache(maxsize=8)
def held_clashes(site_id: int, version: int, period: Period, setting: Setting, min_impressions: int) -> Held:
    """The clashes over queries without brand, with what is proposed for each."""
    of_brand = frames.branded(site_id, version, setting.patterns)
    facts = frames.facts(site_id, version, period, setting.part)
    if of_brand.len():
        facts = facts.filter(~pl.col("query").is_in(of_brand.implode()))
    contenders = _with_subjects(site_id, version, contenders_of(facts, min_impressions))
    curve = frames.appraisal(site_id, version, period, setting).curve
    found = find_clashes(facts, contenders, curve)
    return Held(found, _proposed(site_id, version, period, setting, found))


def _with_subjects(site_id: int, version: int, contenders: pl.DataFrame) -> pl.DataFrame:
    """Contenders with their fit, whether they are listings, and whether the query is their subject."""
    fitting = frames.fits_of(site_id, version, contenders.select(ROW)).select(*ROW, "fit")
    told = contenders.join(fitting, on=ROW, how="left", maintain_order="left").join(
        listings(site_id, version), on="page", how="left", maintain_order="left"
    )
    return told.with_columns(subject=subject())


def listings(site_id: int, version: int) -> pl.DataFrame:
    """Every page, and whether its type is exempt from queries: page, listing."""
    rules = cleaning.rules_of(frames.site_of(site_id, version))
    exempt = [one.name for one in rules.page_types if "queries" in one.exempt]
    return frames.page_facets(site_id, version).select("page", listing=pl.col("type").fill_null("").is_in(exempt))


def _proposed(
    site_id: int, version: int, period: Period, setting: Setting, found: Clashes
) -> dict[int, tuple[int, tuple[str, ...], str, str]]:
    leads, others = {}, {}
    for query, contenders in _contenders(site_id, version, period, found).items():
        leads[query] = propose_lead(contenders)
        others[query] = next(one for one in contenders if one.page != leads[query].page)
    kinds = dict(found.queries.select("query", "kind").iter_rows())
    pairs = [(leads[query].page, others[query].page) for query in leads]
    rows = frames.appraisal(site_id, version, period, setting).rows.filter(~pl.col("branded"))
    own = _own_clicks(rows, pairs)
    say, much = say_alike(pairs, page_stems(site_id, version, frozenset(page for pair in pairs for page in pair)))
    told: dict[int, tuple[int, tuple[str, ...], str, str]] = {}
    for query, pair, likeness in zip(leads, pairs, say, strict=True):
        in_all, of_its_own = own.get(pair, (0, 0))
        other = replace(others[query], clicks_in_all=in_all, own_clicks=of_its_own)
        told[query] = (pair[0], leads[query].reasons, *propose_resolution(kinds[query], other, likeness, much))
    return told


def _contenders(site_id: int, version: int, period: Period, found: Clashes) -> dict[int, list[Contender]]:
    """What speaks for each contender of each clash, the most shown first."""
    conversions, links = _conversions(site_id, version, period), linking_sites(site_id, version)
    told: dict[int, list[Contender]] = {}
    columns = found.contenders.select("query", "page", "clicks", "position", "fit", "listing")
    for query, page, clicks, position, fit, listing in columns.iter_rows():
        converted = None if conversions is None else conversions.get(page, 0.0)
        linked = None if links is None else links.get(page, 0)
        told.setdefault(query, []).append(Contender(page, clicks, position, fit, bool(listing), converted, linked))
    return told


def _own_clicks(rows: pl.DataFrame, pairs: list[tuple[int, int]]) -> dict[tuple[int, int], tuple[int, int]]:
    """Of each pair (lead, other) the other's clicks in all, and those from queries for which the lead is not shown."""
    kinds = {"lead": pl.UInt32, "other": pl.UInt32}
    distinct = pl.DataFrame(list(dict.fromkeys(pairs)), schema=kinds, orient="row")
    clicks = rows.select("page", "query", "clicks")
    of_other = distinct.join(clicks, left_on="other", right_on="page")
    in_all = of_other.group_by("lead", "other").agg(pl.col("clicks").sum())
    own = of_other.join(clicks, left_on=["lead", "query"], right_on=["page", "query"], how="anti")
    of_its_own = own.group_by("lead", "other").agg(own_clicks=pl.col("clicks").sum())
    together = in_all.join(of_its_own, on=["lead", "other"], how="left").with_columns(pl.col("own_clicks").fill_null(0))
    return {(lead, other): (total, alone) for lead, other, total, alone in together.iter_rows()}


def _conversions(site_id: int, version: int, period: Period) -> dict[int, float] | None:
    visits = frames.visits(site_id, version, period)
    told = visits.filter(pl.col("channel") == CHANNELS.index("organic"), pl.col("conversions").is_not_null())
    return dict(told.group_by("page").agg(pl.col("conversions").sum()).iter_rows()) if told.height else None


@lru_cache(maxsize=4)
def page_stems(site_id: int, version: int, pages: frozenset[int]) -> dict[int, tuple[str, ...]]:
    """The stems of what some pages say – title, heading, the beginning of the main text – and of a sample of the others, which
    tells what all pages of the site say. Pages that were not crawled lack."""
    language = cleaning.rules_of(frames.site_of(site_id, version)).language
    known = frames.crawled_pages(site_id, version).sort("page")
    sampled = pl.int_range(pl.len()) % max(known.height // SAMPLED_PAGES, 1) == 0
    known = known.filter(sampled | pl.col("page").is_in(list(pages)))
    main_text = pl.col("main_text").str.slice(0, TEXT_LETTERS)
    texts = known.select("page", pl.concat_str("title", "heading", main_text, separator=" ", ignore_nulls=True))
    return {page: content_stems(text, language) for page, text in texts.iter_rows() if text}


def tell_clashes(site: Site, scope: Scope, today: date) -> Told:
    """The clashes of a period, the costliest first, with their contenders, proposals and decisions."""
    settled = settle(site, scope)
    held = held_clashes(*settled.key, settled.period, settled.setting, settled.min_impressions)
    queries = held.clashes.queries.filter(pl.col("evidence").is_in(list(scope.evidence)) | (pl.col("kind") == "double"))
    queries = _of_scope(settled, queries, held.clashes.contenders)
    decided = _decided(site)
    if scope.decided != "any":
        is_decided = pl.col("query").is_in(list(settled_queries(site, today)))
        queries = queries.filter(is_decided if scope.decided == "settled" else ~is_decided)
    rows = _clash_rows(settled, held, queries, decided)
    gone = [query for query in decided if query not in set(held.clashes.queries["query"])]
    more = {"no_longer": _no_longer(settled, {query: decided[query] for query in gone})}
    behind = {"queries": frames.appraisal(*settled.key, settled.period, settled.setting).rows["query"].n_unique()}
    by_kind = dict(queries.group_by("kind").len().sort("kind").iter_rows())
    loss = float(queries["loss"].sum()) * settled.month_share
    sure = queries.filter(pl.col("kind") != "double", pl.col("evidence") != "thin").height
    return Told(settled, rows, [sentences.clashes(by_kind, loss, sure)], behind, _lacking(settled), {**more, "kinds": by_kind})


def _decided(site: Site) -> dict[int, Decision]:
    """How the clash over each query was resolved."""
    resolved = [one for one in in_force(site) if one.page_id is None and one.choice in RESOLUTIONS]
    return {one.query_id: one for one in resolved if one.query_id is not None}


def _of_scope(settled: Settled, queries: pl.DataFrame, contenders: pl.DataFrame) -> pl.DataFrame:
    """The clashes of which a contender lies in the pages, or whose query is among those, that the scope asks for."""
    kept = settled.chosen(contenders.select("query", "page"))
    scope = settled.scope
    queries = queries.filter(pl.col("query").is_in(kept["query"].unique().implode()))
    if scope.position_from is not None:
        queries = queries.filter(pl.col("best_position") >= scope.position_from)
    return queries if scope.position_to is None else queries.filter(pl.col("best_position") <= scope.position_to)


def _lacking(settled: Settled) -> list[str]:
    wanted = {
        "a crawl (what pages say)": frames.crawled(*settled.key).is_empty(),
        "visits (what converts)": frames.visits(*settled.key, settled.period).is_empty(),
        "links from other sites": read_facts(settled.site, LINKS, columns=["page"]).is_empty(),
    }
    absent = [what for what, lacks in wanted.items() if lacks]
    return [f"To propose a lead with more certainty, load {', '.join(absent)}."] if absent else []


def _clash_rows(settled: Settled, held: Held, queries: pl.DataFrame, decided: dict[int, Decision]) -> list[dict[str, Any]]:
    wanted = held.clashes.contenders.filter(pl.col("query").is_in(queries["query"].implode()))
    contenders: dict[int, list[dict[str, Any]]] = {}
    names: dict[int, str] = {}
    for row in settled.named(wanted, ("page",)).iter_rows(named=True):
        names[row["page"]] = row["page_text"]
        told = {name: row[name] for name in ("share", "clicks", "impressions", "position", "days", "fit")}
        contenders.setdefault(row["query"], []).append({"page": row["page_text"], "page_id": row["page"], **told})
    rows = []
    for row in settled.named(queries, ("query",)).iter_rows(named=True):
        query = row["query"]
        lead, reasons, resolution, why = held.leads[query]
        numbers = {name: row[name] for name in queries.columns if name not in ("query", "contenders")}
        rows.append(
            {
                "query": row["query_text"],
                "query_id": query,
                **numbers,
                "loss_month": row["loss"] * settled.month_share,
                "lead": names[lead],
                "lead_id": lead,
                "lead_reasons": list(reasons),
                "resolution": resolution,
                "resolution_reason": why,
                "sentence": sentences.clash(row["kind"], row["contenders"], row["hand_offs"], row["overlap"], row["spread"]),
                "contenders": contenders[query],
                "decision": _decision(settled, decided.get(query)),
            }
        )
    return rows


def _no_longer(settled: Settled, decided: dict[int, Decision]) -> list[dict[str, Any]]:
    """The queries over which something was decided and that do not clash in the period."""
    names = dict(settled.named(pl.DataFrame({"query": pl.Series(list(decided), dtype=pl.UInt32)}), ("query",)).iter_rows())
    return [{"query": names[query], "query_id": query, "decision": _decision(settled, one)} for query, one in decided.items()]


def _decision(settled: Settled, decision: Decision | None) -> dict[str, Any] | None:
    if decision is None:
        return None
    status, since = standing(settled, decision)
    return {
        **shown(decision),
        "status": status,
        "settled_since": str(since) if since else None,
        "sentence": sentences.standing(status, since, STRETCH_DAYS),
    }


def standing(settled: Settled, decision: Decision) -> tuple[str, date | None]:
    """Whether the clash over a query is still contested after what was decided: "contested", "settled" (and since when),
    "too early" (no whole stretch of four weeks has passed), or "accepted"."""
    if decision.choice == "accept":
        return "accepted", None
    held = frames.days(*settled.key)
    last = held[-1] if held else decision.decided_on
    contested, begins = [], []
    first = decision.decided_on + timedelta(days=1)
    while first + timedelta(days=STRETCH_DAYS - 1) <= last:
        stretch = Period(first, first + timedelta(days=STRETCH_DAYS - 1))
        facts = frames.part_of(*settled.key, PAGE_QUERY, stretch).filter(pl.col("query") == decision.query_id)
        found = find_clashes(facts, _with_subjects(*settled.key, contenders_of(facts, 0)), settled.curve)
        contested.append(bool(found.queries.filter(pl.col("kind") != "double").height))
        begins.append(first)
        first += timedelta(days=STRETCH_DAYS)
    if not contested:
        return "too early", None
    since = settled_since(contested)
    return ("contested", None) if since is None else ("settled", begins[since])


def days_of_pages(settled: Settled, query: int, pages: pl.Series) -> dict[int, list[dict[str, Any]]]:
    """The days of some pages that are shown for a query: day, clicks, impressions, position, best (the best placed of the day
    among them)."""
    facts = frames.facts(*settled.key, settled.period, settled.setting.part).filter(
        pl.col("query") == query, pl.col("page").is_in(pages.implode())
    )
    by_day = facts.group_by("page", "day").agg(*sums()).sort("day")
    best = by_day.sort("position", "page").group_by("day", maintain_order=True).first().select("day", "page", best=pl.lit(True))
    lanes = by_day.join(best, on=["day", "page"], how="left").with_columns(pl.col("best").fill_null(False))
    return {page: rows.drop("page").sort("day").to_dicts() for (page,), rows in lanes.group_by("page")}


def _between_the_same(settled: Settled, held: Held, query: int) -> list[dict[str, Any]]:
    """The other clashes in which the same pages meet, so that one decision settles them all: query, query_id, clicks lost a
    month."""
    pages = held.clashes.contenders.group_by("query").agg(pl.col("page").sort().alias("pages"))
    own = pages.filter(pl.col("query") == query)["pages"]
    same = pages.filter(pl.col("query") != query).join(pl.DataFrame({"pages": own}), on="pages", how="semi")
    rows = held.clashes.queries.join(same, on="query", how="semi").sort("loss", "query", descending=[True, False])
    return [
        {"query": row["query_text"], "query_id": row["query"], "loss_month": row["loss"] * settled.month_share}
        for row in settled.named(rows, ("query",)).iter_rows(named=True)
    ]


def tell_clash(site: Site, scope: Scope, query: int) -> dict[str, Any]:
    """One query that is fought over: a lane a contender, day by day, and what each page says, earns and is linked by."""
    settled = settle(site, scope, compare="year")
    held = held_clashes(*settled.key, settled.period, settled.setting, settled.min_impressions)
    contenders = held.clashes.contenders.filter(pl.col("query") == query)
    if contenders.is_empty():
        raise NotFound("No pages fight over this query in the period.", "Choose other days, or another query.")
    days = days_of_pages(settled, query, contenders["page"])
    said = {row["page"]: row for row in frames.crawled_pages(*settled.key).iter_rows(named=True)}
    conversions, links = _conversions(*settled.key, settled.period), linking_sites(*settled.key)
    in_all = dict(
        frames.appraisal(*settled.key, settled.period, settled.setting)
        .rows.group_by("page")
        .agg(pl.col("clicks").sum())
        .iter_rows()
    )
    names = settled.named(contenders, ("page",))
    clash = _clash_rows(settled, held, held.clashes.queries.filter(pl.col("query") == query), _decided(site))[0]
    return {
        "clash": clash,
        "beside": [vars(one) for one in facts_beside(settled, pl.col("query") == query)],
        "alike": _between_the_same(settled, held, query),
        "lanes": [
            {
                "page": row["page_text"],
                "page_id": row["page"],
                "days": days.get(row["page"], []),
                "title": (said.get(row["page"]) or {}).get("title"),
                "heading": (said.get(row["page"]) or {}).get("heading"),
                "words": (said.get(row["page"]) or {}).get("words"),
                "listing": bool(row["listing"]),
                "clicks_in_all": in_all.get(row["page"], 0),
                "conversions": None if conversions is None else conversions.get(row["page"], 0.0),
                "links": None if links is None else links.get(row["page"], 0),
            }
            for row in names.iter_rows(named=True)
        ],
    }


def tell_topic_folds(site: Site, scope: Scope) -> Told:
    """Pairs of pages shown for the same queries, with what they say, since when, and the groups that they make."""
    settled = settle(site, scope)
    rows = frames.appraisal(*settled.key, settled.period, settled.setting).rows.filter(~pl.col("branded"))
    pairs = alike(*settled.key, settled.period, settled.setting, settled.min_impressions)
    if settled.pages is not None or scope.text.strip():
        wanted = settled.chosen(pl.DataFrame({"page": pl.concat([pairs["page"], pairs["other"]]).unique()}))["page"]
        pairs = pairs.filter(pl.col("page").is_in(wanted.implode()) | pl.col("other").is_in(wanted.implode()))
    found = groups(pairs.select("page", "other", "shown_for").iter_rows())
    group_of = {page: number for number, group in enumerate(found, start=1) for page in group}
    clicks = dict(rows.group_by("page").agg(pl.col("clicks").sum()).iter_rows())
    named = settled.named(pairs, ("page",)).rename({"page_text": "page_name"})
    named = settled.named(named.rename({"page": "one", "other": "page"}), ("page",)).rename({"page": "other", "one": "page"})
    texts = {**dict(named.select("page", "page_name").iter_rows()), **dict(named.select("other", "page_text").iter_rows())}
    told = [
        {
            "page": row["page_name"],
            "page_id": row["page"],
            "other": row["page_text"],
            "other_id": row["other"],
            "kind": row["kind"],
            "shown_for": row["shown_for"],
            "say": row["say"],
            "queries": row["queries"],
            "impressions": row["impressions"],
            "clicks": clicks.get(row["page"], 0),
            "other_clicks": clicks.get(row["other"], 0),
            "since": str(row["since"]) if row["since"] else None,
            "group": group_of[row["page"]],
            "sentence": sentences.fold(row["kind"], row["shown_for"], row["say"], row["since"]),
        }
        for row in named.iter_rows(named=True)
    ]
    shown = [
        {
            "group": number,
            "pages": [{"page": texts[page], "page_id": page} for page in group],
            "lead": texts[lead := max(group, key=lambda page: (clicks.get(page, 0), -page))],
            "lead_id": lead,
            **_clashes_among(settled, group),
        }
        for number, group in enumerate(found, start=1)
    ]
    said = [sentences.folds([row["kind"] for row in told], len(shown))]
    lacking = ["Crawl the site: without what its pages say, two topics folded into one cannot be told from one subject twice."]
    return Told(
        settled,
        told,
        said,
        {"pages": rows["page"].n_unique()},
        lacking if frames.crawled(*settled.key).is_empty() else [],
        {"groups": shown},
    )


def _clashes_among(settled: Settled, pages: Collection[int]) -> dict[str, Any]:
    """The clashes (no doubles) in which two pages of a group or more meet, the costliest first, so that one decision settles
    the group; and what is proposed for most of them."""
    held = held_clashes(*settled.key, settled.period, settled.setting, settled.min_impressions)
    meeting = (
        held.clashes.contenders.filter(pl.col("page").is_in(list(pages))).group_by("query").len().filter(pl.col("len") > 1)
    )
    rows = held.clashes.queries.filter(pl.col("kind") != "double").join(meeting, on="query", how="semi")
    rows = settled.named(rows.sort("loss", "query", descending=[True, False]), ("query",))
    decided = _decided(settled.site)
    proposed = Counter(held.leads[query][2] for query in rows["query"])
    return {
        "resolution": proposed.most_common(1)[0][0] if proposed else None,
        "clashes": [
            {
                "query": row["query_text"],
                "query_id": row["query"],
                "loss_month": row["loss"] * settled.month_share,
                "decided": decided[row["query"]].choice if row["query"] in decided else None,
            }
            for row in rows.iter_rows(named=True)
        ],
    }


@lru_cache(maxsize=8)
def alike(site_id: int, version: int, period: Period, setting: Setting, min_impressions: int) -> pl.DataFrame:
    """Pairs of pages shown for the same queries: the columns of shown_alike, say, kind, since (a day; null: as long as both
    have been shown)."""
    rows = frames.appraisal(site_id, version, period, setting).rows.filter(~pl.col("branded"))
    pairs = shown_alike(rows, min_impressions)
    pages = pl.concat([pairs["page"], pairs["other"]]).unique().sort()
    say, much = say_alike(pairs.select("page", "other").iter_rows(), page_stems(site_id, version, frozenset(pages.to_list())))
    kinds = pl.Series("kind", [kind_of(one, much) for one in say], dtype=pl.String)
    told = pairs.with_columns(pl.Series("say", say, dtype=pl.Float64), kinds)
    since = _since(site_id, version, period, setting.part, pairs, pages)
    return told.join(since, on=["page", "other"], how="left", maintain_order="left")


def _since(site_id: int, version: int, period: Period, part: Part, pairs: pl.DataFrame, pages: pl.Series) -> pl.DataFrame:
    """The first day from which pairs have been shown alike without a break, looking back by two weeks."""
    kinds = {"page": pl.UInt32, "other": pl.UInt32, "since": pl.Date}
    days = frames.days(site_id, version)
    if pairs.is_empty() or not days:
        return pl.DataFrame(schema=kinds)
    first = max(days[0], period.last - timedelta(days=WINDOWS * WINDOW_DAYS - 1))
    columns = ("day", "page", "query", "impressions")
    facts = frames.part_of(site_id, version, PAGE_QUERY, Period(first, period.last), part, columns)
    held = facts.filter(pl.col("page").is_in(pages.implode()))
    number = (pl.lit(period.last) - pl.col("day")).dt.total_days() // WINDOW_DAYS
    by_window = held.group_by("page", "query", window=number).agg(pl.col("impressions").cast(pl.Int64).sum())
    apart: dict[tuple[int, int], int] = {}
    for window in range((period.last - first).days // WINDOW_DAYS + 1):
        here = by_window.filter(pl.col("window") == window)
        shown = set(here["page"].unique())
        now = {
            (page, other): value
            for page, other, value in shown_alike(here, 0, 0.0).select("page", "other", "shown_for").iter_rows()
        }
        for pair in pairs.select("page", "other").iter_rows():
            both = pair[0] in shown and pair[1] in shown
            if pair not in apart and both and now.get(pair, 0.0) < SHOWN_ALIKE / 2:
                apart[pair] = window
    told = [(*pair, period.last - timedelta(days=window * WINDOW_DAYS - 1)) for pair, window in apart.items() if window > 0]
    return pl.DataFrame(told, schema=kinds, orient="row")
