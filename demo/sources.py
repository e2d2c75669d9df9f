"""The demo's other data: coarser grains, visits, volumes, external links, SERPs and events, derived from the search facts and
a seed; see demo/README.md.
"""

from datetime import date, timedelta
from pathlib import Path

import numpy as np
import polars as pl

from demo.guides import GUIDES as GUIDES_SAID
from demo.rivals import results_of_others
from demo.scenario import BOXED, EVENT_DAY, FIRST_DAY, LAST_DAY, LOST_BOX, OUR_BOX, SITE_ADDRESS, guide, make_facts
from demo.site import write_site

CHANNELS = ("organic", "paid", "direct", "referral", "email")
# By the first part of the path: bounce rate, seconds a session, conversions a session, value of one.
TYPES: dict[str, tuple[float, float, float, float]] = {
    "guides": (0.58, 96, 0.002, 18),
    "trips": (0.49, 120, 0.006, 40),
    "rental": (0.36, 150, 0.041, 65),
    "workshop": (0.44, 110, 0.028, 80),
    "contact": (0.81, 34, 0.0, 0),
    "tag": (0.72, 40, 0.001, 30),
    "staff": (0.7, 40, 0.0, 0),
    "": (0.33, 140, 0.012, 70),
}
PHONES, PHONES_CLICK_LESS, SPLIT_FROM = 0.6, 1.35, 6
SHOP = (0.41, 130, 0.018, 95)
# A guide whose visitors leave far more than those of other guides, and a product that no one buys.
LEFT_AT_ONCE = guide("how-to-clean-a-wetsuit")
NEVER_BOUGHT = f"{SITE_ADDRESS}/kayak/whitewater-kayak/"
EVENTS = [
    (date(2025, 9, 15), date(2025, 9, 15), "New navigation", "release", "Sections in the head of every page."),
    (date(2026, 3, 2), date(2026, 3, 15), "Spring sale", "campaign", "Newsletter and paid ads."),
    (date(2026, 7, 20), date(2026, 7, 20), "Titles of clothing rewritten", "release", "By template."),
    (
        EVENT_DAY,
        EVENT_DAY + timedelta(days=13),
        "Update of a search engine",
        "search engine",
        "Two weeks until it was everywhere.",
    ),
    (date(2026, 9, 21), date(2026, 9, 21), "Trip pages moved to a new template", "release", "Maps load by script."),
]


def totals(facts: pl.DataFrame, by: list[str], rng: np.random.Generator, anonymised: float) -> pl.DataFrame:
    """A coarser grain: the sum of the named rows plus anonymised queries."""
    weighted = (pl.col("position") * pl.col("impressions")).sum() / pl.col("impressions").sum()
    named = facts.group_by("day", *by).agg(pl.col("clicks", "impressions").sum(), weighted.round(2).alias("position"))
    named = named.sort("day", *by)
    more = named.with_columns(
        pl.col("clicks") + pl.Series(rng.binomial(named["clicks"].to_numpy() + 1, anonymised), dtype=pl.Int64),
        pl.col("impressions")
        + pl.Series(rng.binomial(2 * named["impressions"].to_numpy() + 2, anonymised) + 1, dtype=pl.Int64),
    )
    return more.with_columns(pl.min_horizontal("clicks", "impressions").alias("clicks"))


def with_devices(facts: pl.DataFrame, rng: np.random.Generator) -> pl.DataFrame:
    """The facts by device: rows with many impressions are split into mobile and desktop, others get one of them. Desktop CTR
    is a third higher. Sums stay the same.
    """
    shown, clicks = facts["impressions"].to_numpy(), facts["clicks"].to_numpy()
    split = shown >= SPLIT_FROM
    # What was clicked more is the likelier to have been shown on a desktop.
    whole_on_phone = rng.random(shown.size) < PHONES / (PHONES + (1 - PHONES) * PHONES_CLICK_LESS ** np.minimum(clicks, 50))
    on_phone = np.where(split, rng.binomial(shown, PHONES), np.where(whole_on_phone, shown, 0))
    odds = on_phone / np.maximum(on_phone + PHONES_CLICK_LESS * (shown - on_phone), 1)
    clicked_on_phone = np.clip(rng.binomial(clicks, odds), clicks - (shown - on_phone), np.minimum(clicks, on_phone))
    parts = [
        facts.with_columns(
            pl.lit(device).alias("device"), pl.Series("clicks", counted), pl.Series("impressions", seen)
        ).filter(pl.col("impressions") > 0)
        for device, counted, seen in (
            ("mobile", clicked_on_phone, on_phone), ("desktop", clicks - clicked_on_phone, shown - on_phone)
        )
    ]  # fmt: skip
    return pl.concat(parts).sort("day", "page", "query", "device")


def visits(by_page: pl.DataFrame, rng: np.random.Generator) -> pl.DataFrame:
    """Sessions by day, landing page and channel: organic sessions follow clicks, other channels have their own patterns."""
    rows = by_page.filter(pl.col("clicks") > 0).select("day", "page", "clicks")
    kind = rows["page"].str.extract(r"^https?://[^/]+/([^/?]*)").fill_null("")
    habits = np.array([TYPES.get(name, SHOP) for name in kind])
    clicks = rows["clicks"].to_numpy()
    shares = {"organic": 0.93, "paid": 0.10, "direct": 0.16, "referral": 0.05, "email": 0.03}
    parts = []
    for channel, share in shares.items():
        sessions = rng.poisson(clicks * share)
        bounce = habits[:, 0] * (1.15 if channel == "paid" else 1.0)
        bounce = np.where(rows["page"].to_numpy() == LEFT_AT_ONCE, 0.88, bounce)
        buys = np.where(rows["page"].to_numpy() == NEVER_BOUGHT, 0.0, habits[:, 2] * (1.4 if channel == "email" else 1.0))
        conversions = rng.binomial(sessions, buys)
        columns: dict[str, pl.Series | pl.Expr] = {
            "channel": pl.lit(channel),
            "sessions": pl.Series(sessions),
            "users": pl.Series(rng.binomial(sessions, 0.94)),
            "bounces": pl.Series(rng.binomial(sessions, np.minimum(bounce, 0.97))),
            "seconds": pl.Series(np.round(sessions * habits[:, 1] * rng.lognormal(0, 0.2, sessions.size))),
            "conversions": pl.Series(conversions),
            "value": pl.Series(np.round(conversions * habits[:, 3] * rng.lognormal(0, 0.3, sessions.size), 2)),
        }
        parts.append(rows.select("day", "page", **columns).filter(pl.col("sessions") > 0))
    return pl.concat(parts).sort("day", "page", "channel")


def volumes(facts: pl.DataFrame, rng: np.random.Generator) -> pl.DataFrame:
    """Monthly searches of each query over a year: more than its impressions, the more so the lower it ranks."""
    month = pl.col("day").dt.truncate("1mo")
    shown = (
        facts.filter(pl.col("day") >= date(2025, 11, 1), pl.col("day") < date(2026, 11, 1))
        .group_by("query", month=month)
        .agg(pl.col("impressions").sum(), pl.col("position").mean())
        .sort("query", "month")
    )
    seen = np.clip(1.05 - shown["position"].to_numpy() / 60, 0.25, 1)
    searches = shown["impressions"].to_numpy() / seen * rng.lognormal(0.05, 0.12, shown.height)
    different = shown["query"].unique(maintain_order=True)
    price = pl.DataFrame({"query": different, "price_per_click": np.round(rng.lognormal(-0.6, 0.5, different.len()), 2)})
    rounded = pl.Series("searches", np.maximum(np.round(searches, -1), 10).astype(int))
    return shown.select("query", pl.lit("GB").alias("country"), "month", rounded).join(price, on="query", maintain_order="left")


def links(pages: list[str], rng: np.random.Generator) -> pl.DataFrame:
    """External links, most of them to few pages."""
    hosts = [
        f"{word}-{kind}.example"
        for word in ("river", "paddle", "lake", "camp", "tour")
        for kind in ("club", "news", "blog", "guide")
    ]
    weights = rng.pareto(1.2, len(pages)) + 0.02
    chosen = rng.choice(len(pages), size=900, p=weights / weights.sum())
    rows = []
    for number, page in enumerate(chosen):
        host = hosts[int(rng.integers(len(hosts)))]
        words = pages[page].rstrip("/").rpartition("/")[2].replace("-", " ") or "Marrowbank"
        first = FIRST_DAY + timedelta(days=int(rng.integers(0, 400)))
        anchor = words if rng.random() < 0.6 else str(rng.choice(["here", "Marrowbank", "this page", "read more"]))
        rows.append((f"https://www.{host}/post-{number}", pages[page], anchor, bool(rng.random() < 0.8), first, LAST_DAY))
    return pl.DataFrame(rows, schema=["from_address", "page", "anchor", "followed", "first_seen", "last_seen"], orient="row")


def results(facts: pl.DataFrame, rng: np.random.Generator) -> pl.DataFrame:
    """Captured SERPs of the queries with most impressions, blocks from top to bottom. Those with a featured snippet have an
    earlier capture, four weeks before.
    """
    recent = facts.filter(pl.col("day") > LAST_DAY - timedelta(days=28))
    top = (
        recent.group_by("query", "page")
        .agg(pl.col("impressions").sum(), pl.col("position").mean())
        .sort("impressions", "query", descending=[True, False])
    )
    top = top.unique("query", keep="first", maintain_order=True)
    asked = (
        facts.group_by("page", "query").agg(pl.col("impressions").sum()).sort("impressions", "query", descending=[True, False])
    )
    subject = dict(asked.unique("page", keep="first", maintain_order=True).select("page", "query").iter_rows())
    boxed = [*BOXED, OUR_BOX, LOST_BOX]
    top = pl.concat([top.head(120), top.slice(120).filter(pl.col("query").is_in(boxed))])
    rows: list[tuple[object, ...]] = []
    for query, page, _, position in top.iter_rows():
        title = "Dry suits: advice and sizes" if query == RETITLED else _title(page, subject[page])
        blocks = _blocks(query, page, title, position, rng)
        for captured in [LAST_DAY - timedelta(days=28), LAST_DAY] if query in boxed else [LAST_DAY]:
            result = blocks
            if query == OUR_BOX or (query == LOST_BOX and captured < LAST_DAY):
                result = [("answer box", "paragraph", title, page, "As we do it in the workshop."), *blocks]
            elif query == LOST_BOX:
                result = [_box(query, "list"), *blocks]
            rows += [(query, "GB", "desktop", captured, place, *block) for place, block in enumerate(result, start=1)]
    names = ["query", "country", "device", "captured", "rank", "block", "kind", "title", "address", "snippet"]
    return pl.DataFrame(rows, schema=names, orient="row")


RETITLED = "dry suit for kayaking"  # shown under a title that the page does not have
Block = tuple[str, str | None, str | None, str | None, str | None]  # block, kind, title, address, snippet


def _box(query: str, kind: str) -> Block:
    said = f"Most sources agree on a rule of thumb for “{query}”, and on two exceptions."
    holder, title, _ = results_of_others(query, 9)[0]
    return "answer box", kind, title, holder, said


def _title(page: str, subject: str) -> str:
    """The title of a page of the shop, as demo/site.py makes it."""
    guide = GUIDES_SAID.get(page.strip("/").rpartition("/")[2])
    return f"{guide[0] if guide else subject.capitalize()} | Marrowbank"


def _blocks(query: str, page: str, title: str, position: float, rng: np.random.Generator) -> list[Block]:
    """Blocks of a SERP, except a featured snippet of the shop itself."""
    above: list[Block] = [_box(query, BOXED[query])] if query in BOXED else []
    if query.startswith(("best", "cheap")) or rng.random() < 0.25:
        above += [
            ("ad", None, f"{query.capitalize()} – order today", f"https://www.{host}.example/", "Pay after 30 days.")
            for host in ("hullhouse", "ferrymansupplies")
        ]
    if rng.random() < 0.4:
        above.append(("questions", None, f"People also ask about {query}", None, None))
    if rng.random() < 0.3:
        above.append(("pictures", None, None, None, None))
    own = max(1, min(10, round(position)))
    listed = [(title, address, snippet) for address, title, snippet in results_of_others(query, 9)]
    guide = GUIDES_SAID.get(page.strip("/").rpartition("/")[2])
    listed.insert(own - 1, (title, page, guide[1] if guide else ""))
    return [*above, *(("organic", None, entry, address, snippet or None) for entry, address, snippet in listed)]


def strengths(results: pl.DataFrame, links: pl.DataFrame, rng: np.random.Generator) -> pl.DataFrame:
    """Referring domains and links of competing pages and the site's own."""
    others = results["address"].drop_nulls().unique(maintain_order=True)
    others = others.filter(~others.str.contains("marrowbank", literal=True))
    sites = np.round(rng.lognormal(1.6, 1.1, others.len())).astype(int)
    own = links.group_by("page", maintain_order=True).agg(
        pl.col("from_address").str.extract(r"//([^/]+)").n_unique().alias("referring_domains"), pl.len().alias("links")
    )
    rows = pl.DataFrame(
        {"address": others, "referring_domains": sites, "links": (sites * rng.uniform(1, 4, others.len())).astype(int)}
    )
    return pl.concat([rows, own.rename({"page": "address"}).select(rows.columns)], how="vertical_relaxed")


def page_queries(results: pl.DataFrame, facts: pl.DataFrame, rng: np.random.Generator) -> pl.DataFrame:
    """Queries that bring competing pages their visits: the captured one, and others of its subject."""
    asked = facts.group_by("page", "query").agg(pl.col("impressions").sum()).sort("impressions", "query", descending=True)
    of_page = dict(asked.group_by("page", maintain_order=True).agg(pl.col("query").head(8)).iter_rows())
    page_of = dict(asked.unique("query", keep="first", maintain_order=True).select("query", "page").iter_rows())
    rows = []
    organic = results.filter(pl.col("block") == "organic", ~pl.col("address").str.contains("marrowbank", literal=True))
    for query, address, place in (
        organic.unique("address", keep="first", maintain_order=True).select("query", "address", "rank").iter_rows()
    ):
        also = [one for one in of_page.get(page_of.get(query, ""), []) if one != query]
        picked = [query, *(str(one) for one in rng.choice(also, min(len(also), 3), replace=False))] if also else [query]
        picked += [f"{query} {word}" for word in rng.choice(["calculator", "diy", "uk law", "chart pdf", "course near me"], 1)]
        visits = np.sort(rng.lognormal(3.5, 0.9, len(picked)))[::-1]
        for number, (one, brought) in enumerate(zip(picked, visits, strict=True)):
            rows.append(
                (
                    address,
                    one,
                    float(place + number),
                    int(brought * rng.uniform(4, 20)),
                    round(float(brought / visits.sum()), 3),
                    round(float(brought), 1),
                )
            )
    return pl.DataFrame(rows, schema=["address", "query", "position", "searches", "share", "visits"], orient="row")


def events() -> pl.DataFrame:
    return pl.DataFrame(EVENTS, schema=["first_day", "last_day", "title", "kind", "note"], orient="row")


def write_sources(folder: Path, seed: int = 20261116) -> None:
    """Write what the stand-ins serve: one Parquet file for each table, and the site's pages."""
    folder.mkdir(parents=True, exist_ok=True)
    rng = np.random.default_rng(seed)
    facts = make_facts().drop("ctr").rename({"date": "day"})
    by_page = totals(facts, ["page"], rng, 0.16)
    tables = {
        "search-page-query": with_devices(facts, np.random.default_rng(seed + 1)),
        "search-page": by_page,
        "search-query": totals(facts, ["query"], rng, 0.01),
        "search-day": totals(by_page, [], rng, 0.004),
        "visits": visits(by_page, rng),
        "volumes": volumes(facts, rng),
        "links": links(sorted(set(facts["page"].to_list())), rng),
        "results": results(facts, rng),
        "events": events(),
    }
    tables["strengths"] = strengths(tables["results"], tables["links"], np.random.default_rng(seed + 2))
    tables["page-queries"] = page_queries(tables["results"], facts, np.random.default_rng(seed + 3))
    for name, table in tables.items():
        table.write_parquet(folder / f"{name}.parquet")
    # The last of them appears when it is whole: where it is, all are.
    part = folder / "site.part"
    write_site(part, facts, tables["results"])
    part.replace(folder / "site.ndjson.gz")
