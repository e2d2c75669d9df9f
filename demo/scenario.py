"""The demo scenario: sixteen months of search facts of Marrowbank Paddle Supply, an invented shop for canoes and kayaks. A
seeded generator makes everything; demo/README.md lists what is planted, and the demo's tests check it. It proves nothing
about real sites.
"""

import sys
from dataclasses import dataclass, field
from datetime import date, timedelta
from pathlib import Path
from urllib.parse import urlsplit

import numpy as np
import polars as pl

from demo.queries import wordings

SITE_NAME = "Marrowbank Paddle Supply"
SITE_SLUG = "marrowbank"
SITE_ADDRESS = "https://www.marrowbank.example"
BRAND_PATTERNS = ("marrow ?bank",)
CURRENCY = "€"
PAGE_TYPES = {
    "guide": (r"/guides/",),
    "trip": (r"/trips/",),
    "place": (r"/rental/", r"/workshop/"),
    "product": (r"/(canoe|kayak|paddle|gear|clothing)/[^/]+/",),
    "category": (r"\.example/(canoe|kayak|paddle|gear|clothing)/$",),
}
QUERY_GROUPS = {
    "hire": (r"\bhire\b", r"\brental\b"),
    "questions": (r"^(how|what|when|where|which|why|is|can|do)\b",),
    "paddles": (r"\bpaddles?\b",),
    "canoes": (r"\bcanoes?\b",),
    "kayaks": (r"\bkayaks?\b",),
}
LAST_DAY = date(2026, 11, 15)
FIRST_DAY = date(2025, 7, 14)
DAYS = (LAST_DAY - FIRST_DAY).days + 1
EVENT_DAY = date(2026, 9, 8)  # a search engine's update, in the scenario
CLIFF_DAY = date(2026, 9, 21)
REWRITTEN_DAY = date(2026, 10, 5)
# Rental pages whose titles tell the price of a day since then: a trial finds what that brought.
PRICED = tuple(f"/rental/{river}/" for river in ("quill", "brindle", "fennick", "larch", "mossop", "skerrow"))
PRICED_DAY, PRICED_GAIN = date(2026, 9, 28), 0.6
CURVE_A, CURVE_B, BEYOND_PAGE_ONE = 0.29, 1.05, 0.62
SCATTER_SHAPE = 9.0
# Queries with an featured snippet of someone else above all results: its kind. It leaves a third of the clicks; the two planted rows
# under "what size canoe do i need" and "canoe size chart" have even less.
BOXED = {
    "what size canoe do i need": "paragraph", "canoe size chart": "table", "how to roll a kayak": "list",
    "how to portage a canoe": "list", "what is a spray deck for": "paragraph", "how heavy is a canoe": "table",
    "how to read a river": "paragraph", "how fast is a kayak": "paragraph", "river grades explained": "table",
    "how to steer a canoe": "paragraph", "how to pack a dry bag": "list",
}  # fmt: skip
BOX_LEAVES = 0.34
OUR_BOX, LOST_BOX = "how to varnish a paddle", "how to clean a wetsuit"

RIVERS = [
    "Ossel",
    "Tarrow",
    "Quill",
    "Brindle",
    "Fennick",
    "Larch",
    "Mossop",
    "Hadder",
    "Wend",
    "Pellow",
    "Skerrow",
    "Thrushel",
]
BOATS = {
    "canoe": "touring canoe,solo canoe,tandem canoe,inflatable canoe,wooden canoe,family canoe,whitewater canoe,fishing canoe",
    "kayak": "touring kayak,sea kayak,sit on top kayak,inflatable kayak,whitewater kayak,fishing kayak,folding kayak,child kayak",
    "paddle": "canoe paddle,kayak paddle,carbon paddle,wooden paddle,bent shaft paddle,folding paddle,greenland paddle,spare paddle",
    "clothing": "dry suit,wetsuit,spray top,paddling gloves,neoprene boots,sun hat,rash vest,buoyancy aid",
    "gear": "dry bag,spray deck,throw line,bilge pump,roof rack,trolley,thwart bag,knee pads,repair patch,deck compass",
}
GUIDES = [
    "how to paddle solo",
    "how to load a canoe on a roof rack",
    "what size canoe do i need",
    "canoe or kayak for beginners",
    "how to repair a wooden canoe",
    "how to roll a kayak",
    "how to read a river",
    "what to wear canoeing in autumn",
    "how to choose a kayak paddle length",
    "how to store a kayak in winter",
    "how to pack a dry bag",
    "canoe camping checklist",
    "how to portage a canoe",
    "river grades explained",
    "how to clean a wetsuit",
    "kayak safety rules",
    "how to varnish a paddle",
    "canoeing with a dog",
    "canoeing with children",
    "how to dry a dry suit",
    "best knots for a roof rack",
    "how to steer a canoe",
    "how to launch from a bank",
    "cold water shock",
    "how to fix a leaking kayak",
    "what is a spray deck for",
    "how heavy is a canoe",
    "how fast is a kayak",
    "tides for sea kayaking",
    "how to plan a river trip",
]


@dataclass
class Pair:
    """One page that ranks for one query: its rank, mean impressions over the season, and planned changes."""

    page: str
    query: str
    daily_shown: float
    position: float
    factor: float = 1.0
    season: float = 1.0  # 0: all year alike; 1: a summer sport; -1: a winter matter
    since: date | None = None
    position_then: tuple[date, float] | None = None
    shown_then: tuple[date, float] | None = None
    factor_then: tuple[date, float] | None = None
    days: set[int] | None = field(default=None)  # shown on these days alone
    wander: float = 0.07


def slug(text: str) -> str:
    return text.replace(" ", "-")


def address(path: str) -> str:
    return f"{SITE_ADDRESS}{path}"


def ordinary_pairs(rng: np.random.Generator) -> list[Pair]:
    """A normal shop: some 400 pages and 9,000 queries without problems."""
    subjects: list[tuple[str, str, float]] = []
    for category, names in BOATS.items():
        subjects.append((f"/{category}/", category, 0.5))
        for name in names.split(","):
            subjects.append((f"/{category}/{slug(name)}/", name, 0.3))
            for model in ("classic", "expedition", "light", "junior", "pro"):
                subjects.append((f"/{category}/{slug(name)}/{model}/", f"{name} {model}", -0.9))
    subjects += [(f"/guides/{slug(subject)}/", subject, 0.4) for subject in GUIDES]
    for river in RIVERS:
        subjects.append((f"/trips/{river.lower()}/", f"river {river.lower()} canoe trip", 0.1))
        subjects += [
            (f"/trips/{river.lower()}/{part}/", f"river {river.lower()} {part}", -0.8) for part in ("map", "camping", "access")
        ]
        subjects.append((f"/rental/{river.lower()}/", f"canoe hire {river.lower()}", 0.2))
    subjects += [
        (f"/workshop/{slug(job)}/", job, -0.2) for job in ("canoe repair", "kayak repair", "paddle repair", "boat storage")
    ]
    pairs = []
    for path, subject, level in subjects:
        season, asked = (0.3 if path.startswith("/guides/") else 0.8), wordings(path)
        for number in range(rng.integers(14, 36)):
            rng.choice(20, size=min(number, 1 + number % 3), replace=False)  # skipped: later draws stay what they were
            query = asked[number].format(subject)
            shown = float(np.clip(np.exp(rng.normal(level + (1.9 if number == 0 else -0.9), 1.0)), 0.04, 260))
            home = float(np.exp(rng.uniform(np.log(1.2), np.log(14 if number == 0 else 48))))
            liked = rng.gamma(SCATTER_SHAPE, 1 / SCATTER_SHAPE) * (BOX_LEAVES if query in BOXED else 1.0)
            pairs.append(Pair(address(path), query, shown, home, liked, season))
    return pairs


def utility_pairs(rng: np.random.Generator) -> list[Pair]:
    """Brand, staff, tags, a staging copy and tracking parameters: noise until it is marked or merged."""
    home, contact = address("/"), address("/contact/")
    pairs = [Pair(home, "marrowbank", 95, 1.0, 1.7, 0.5), Pair(home, "marrowbank paddle supply", 40, 1.0, 2.0, 0.5)]
    for extra in ("rental", "opening hours", "discount code", "workshop", "kayaks", "canoes", "reviews", "phone", "jobs"):
        pairs.append(Pair(contact if extra in ("phone", "opening hours") else home, f"marrowbank {extra}", 5, 1.1, 1.8, 0.5))
    pairs.append(Pair(home, "marrow bank paddles", 6, 1.2, 1.6, 0.5))
    for tag in ("summer", "beginner", "river", "sea", "family", "winter", "wood", "carbon"):
        for word in ("canoe", "kayak", "paddle"):
            pairs.append(Pair(address(f"/tag/{tag}/"), f"{tag} {word}", 2.0, float(rng.uniform(18, 60)), 0.9))
    pairs += [Pair(address(f"/staff/{role}/"), f"canoe shop {role}", 0.6, 9, 1.0) for role in ("workshop", "rental", "office")]
    staging = "https://staging.marrowbank.example/kayak/sea-kayak/"
    pairs.append(Pair(staging, "sea kayak", 3, 44, 0.5))
    for source in ("newsletter", "flyer"):
        tracked = address(f"/kayak/touring-kayak/?utm_source={source}")
        pairs.append(Pair(tracked, "touring kayak", 2.5, 7.5, 0.8))
    return pairs


def guide(name: str) -> str:
    return address(f"/guides/{name}/")


def trip(name: str) -> str:
    return address(f"/trips/{name}/")


def planted_pairs() -> list[Pair]:
    """Planted problems and opportunities, listed in demo/README.md."""
    pairs = [
        # Low click-through under an featured snippet.
        Pair(guide("what-size-canoe-do-i-need"), "what size canoe do i need", 175, 2.3, 0.07, 0.4),
        Pair(guide("what-size-canoe-do-i-need"), "canoe size chart", 62, 3.1, 0.09, 0.4),
        # Low click-through by a poor title.
        Pair(address("/kayak/inflatable-kayak/"), "inflatable kayak for two", 150, 4.6, 0.12, 0.8),
        Pair(address("/clothing/dry-suit/"), "dry suit for kayaking", 70, 5.2, 0.14, -0.3),
        # Low click-through, each less plain than the one before.
        Pair(guide("cold-water-shock"), "cold water shock symptoms", 60, 3.4, 0.1, -0.4),
        Pair(guide("kayak-safety-rules"), "kayak safety rules for beginners", 44, 6.1, 0.12, 0.6),
        Pair(trip("skerrow"), "skerrow river map", 34, 2.7, 0.15, 0.8),
        Pair(address("/gear/dry-bag/"), "waterproof dry bag", 75, 8.8, 0.1, 0.6),
        Pair(address("/workshop/canoe-repair/"), "canoe repair cost", 30, 4.9, 0.16, 0.2),
        Pair(address("/rental/pellow/"), "pellow canoe hire prices", 26, 3.7, 0.15, 0.9),
        Pair(address("/canoe/fishing-canoe/"), "canoe for fishing", 48, 7.2, 0.17, 0.6),
        # Guides in striking distance.
        Pair(guide("how-to-read-a-river"), "reading rapids", 120, 11.4, 1.1, 0.3),
        Pair(guide("canoe-camping-checklist"), "canoe camping checklist", 140, 8.2, 1.15, 0.6),
        Pair(guide("how-to-store-a-kayak-in-winter"), "kayak storage ideas", 110, 12.3, 1.0, -0.6),
        # An outperformer.
        Pair(guide("how-to-fix-a-leaking-kayak"), "kayak leaking where to look", 90, 5.6, 4.5, 0.4),
        # Clashes: relay, double, split, understudy.
        *_relay(address("/paddle/carbon-paddle/"), guide("how-to-choose-a-kayak-paddle-length"), "carbon kayak paddle length"),
        Pair(address("/rental/ossel/"), "river ossel canoe hire", 45, 1.4, 1.0),
        Pair(trip("ossel"), "river ossel canoe hire", 43, 3.2, 1.0),
        Pair(address("/canoe/family-canoe/"), "canoe for a family of four", 80, 7.4, 1.0),
        Pair(guide("canoeing-with-children"), "canoe for a family of four", 76, 8.3, 1.0),
        Pair(address("/tag/wood/"), "handmade wooden paddle", 60, 6.5, 0.8),
        Pair(address("/paddle/wooden-paddle/"), "handmade wooden paddle", 9, 15.0, 1.0),
        # A overlapping pages after the event: two subjects answered by the same pages from then on.
        *_fold(address("/gear/spray-deck/"), guide("what-is-a-spray-deck-for"), ("spray deck sizes", "spray skirt fitting")),
        # Lost rank, lost demand, a snippet that got worse.
        Pair(address("/kayak/sea-kayak/"), "sea kayak", 110, 3.2, 1.0, 0.5, position_then=(date(2026, 7, 6), 8.4)),
        Pair(address("/kayak/folding-kayak/"), "folding kayak", 130, 2.6, 1.0, 0.5, shown_then=(date(2026, 6, 1), 0.4)),
        Pair(address("/clothing/wetsuit/"), "paddling wetsuit", 120, 2.4, 1.1, 0.2, factor_then=(date(2026, 7, 20), 0.4)),
        # A harmless seasonal fall.
        Pair(trip("tarrow"), "summer canoe trips", 120, 2.2, 1.0, 1.6),
        # Two that look alike and are not: a row that moved, and a row that few have seen.
        Pair(
            guide("tides-for-sea-kayaking"),
            "tide times for kayaking",
            130,
            4.0,
            1.0,
            0.2,
            position_then=(date(2026, 9, 14), 27.0),
        ),
        Pair(guide("how-heavy-is-a-canoe"), "weight of a cedar canoe", 0.75, 4.2, 0.3, 0.0),
    ]
    for name, query in (
        ("quill", "quill river canoe route"),
        ("brindle", "brindle river kayak route"),
        ("fennick", "fennick river paddling"),
        ("larch", "larch river canoe weekend"),
        ("mossop", "mossop river easy canoe"),
    ):
        pairs.append(Pair(trip(name), query, 70, 2.8, 1.0, 0.9, position_then=(CLIFF_DAY, 13.5)))
    return pairs


def rewritten_pair() -> Pair:
    """A poor title that was rewritten, so a move has a result. Generated last, so it does not change the random numbers of
    other pairs.
    """
    better = (REWRITTEN_DAY, 1.1)
    return Pair(guide("how-to-plan-a-river-trip"), "river trip planner", 80, 4.2, 0.35, 0.3, factor_then=better)


def _relay(first: str, second: str, query: str) -> list[Pair]:
    """Two pages that alternate every nine days, with a gap of one day."""
    turns = np.arange(DAYS) // 9 % 2
    gap = np.arange(DAYS) % 9 == 8
    lanes = [set(np.flatnonzero((turns == turn) & ~gap).tolist()) for turn in (0, 1)]
    return [Pair(first, query, 95, 6.2, 1.0, 0.5, days=lanes[0]), Pair(second, query, 95, 7.6, 1.0, 0.5, days=lanes[1])]


def _fold(first: str, second: str, queries: tuple[str, str]) -> list[Pair]:
    own = [Pair(first, queries[0], 50, 3.4, 1.0), Pair(second, queries[1], 48, 3.8, 1.0)]
    after = [Pair(second, queries[0], 46, 6.4, 1.0, since=EVENT_DAY), Pair(first, queries[1], 44, 6.9, 1.0, since=EVENT_DAY)]
    return own + after


def curve(position: np.ndarray) -> np.ndarray:
    return CURVE_A * position**-CURVE_B * np.where(position < 10.5, 1.0, BEYOND_PAGE_ONE)


def make_facts(seed: int = 20261115) -> pl.DataFrame:
    """All facts of the scenario: date, page, query, clicks, impressions, ctr, position."""
    rng = np.random.default_rng(seed)
    planted = planted_pairs()
    named = {(pair.page, pair.query) for pair in planted}
    pairs = planted + [pair for pair in ordinary_pairs(rng) + utility_pairs(rng) if (pair.page, pair.query) not in named]
    pairs.append(rewritten_pair())
    day = np.arange(DAYS)
    weekday = np.where((day + FIRST_DAY.weekday()) % 7 >= 5, 1.25, 0.9)
    of_year = np.array([(FIRST_DAY + timedelta(days=int(d))).timetuple().tm_yday for d in day])
    summer = np.cos(2 * np.pi * (of_year - 196) / 365.25)  # 1 in mid-July, -1 in mid-January
    trend = 1.0 + 0.12 * day / DAYS
    parts = [_days_of(pair, number, rng, weekday * trend, summer) for number, pair in enumerate(pairs)]
    parts += _gained([part for part, pair in zip(parts, pairs, strict=True) if urlsplit(pair.page).path in PRICED])
    names = pl.DataFrame({"pair": range(len(pairs)), "page": [p.page for p in pairs], "query": [p.query for p in pairs]})
    return (
        pl.concat(parts)
        .join(names, on="pair", how="left")
        .group_by("day", "page", "query")  # ordinary wordings can meet
        .agg(
            pl.col("clicks").sum(),
            pl.col("impressions").sum(),
            ((pl.col("position") * pl.col("impressions")).sum() / pl.col("impressions").sum()).round(1).alias("position"),
        )
        .sort("day", "page", "query")
        .select(
            (pl.lit(FIRST_DAY) + pl.duration(days=pl.col("day"))).alias("date"),
            "page",
            "query",
            "clicks",
            "impressions",
            (pl.col("clicks") / pl.col("impressions")).round(4).alias("ctr"),
            "position",
        )
    )


def _gained(parts: list[pl.DataFrame]) -> list[pl.DataFrame]:
    """Additional clicks of the titles with prices, from a separate generator, so other random numbers do not change."""
    rng = np.random.default_rng(9)
    result = []
    for part in parts:
        after = part.filter(pl.col("day") >= (PRICED_DAY - FIRST_DAY).days)
        left = (after["impressions"] - after["clicks"]).to_numpy()
        more = np.minimum(rng.poisson(after["clicks"].to_numpy() * PRICED_GAIN), left)
        kinds = part.schema
        result.append(
            after.with_columns(clicks=pl.Series(more, dtype=kinds["clicks"]), impressions=pl.lit(0, kinds["impressions"]))
        )
    return result


def _days_of(pair: Pair, number: int, rng: np.random.Generator, level: np.ndarray, summer: np.ndarray) -> pl.DataFrame:
    day = np.arange(DAYS)
    shown = pair.daily_shown * level * np.exp(0.75 * pair.season * summer) * rng.lognormal(0, 0.15, DAYS)
    home, factor = np.full(DAYS, pair.position), np.full(DAYS, pair.factor)
    for change, target in ((pair.position_then, home), (pair.factor_then, factor)):
        if change:
            target[day >= (change[0] - FIRST_DAY).days] = change[1]
    if pair.shown_then:
        shown[day >= (pair.shown_then[0] - FIRST_DAY).days] *= pair.shown_then[1]
    if pair.since:
        shown[day < (pair.since - FIRST_DAY).days] = 0
    if pair.days is not None:
        shown[~np.isin(day, list(pair.days))] = 0
    position = np.maximum(home * rng.lognormal(0, pair.wander, DAYS), 1.0).round(1)
    impressions = rng.poisson(shown)
    clicks = rng.binomial(impressions, np.minimum(curve(position) * factor, 0.9))
    kept = impressions > 0
    return pl.DataFrame(
        {
            "pair": np.full(int(kept.sum()), number),
            "day": day[kept],
            "clicks": clicks[kept],
            "impressions": impressions[kept],
            "position": position[kept],
        }
    )


if __name__ == "__main__":
    facts = make_facts()
    facts.write_csv(Path(sys.argv[1]))
    print(f"{facts.height:,} facts, {facts['page'].n_unique():,} pages, {facts['query'].n_unique():,} queries")
