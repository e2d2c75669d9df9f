"""SERP captures: blocks from top to bottom, how many are above the site's result, and how many pixels from the top it is.

Blocks come under many names; `kind_of` maps them to one. Where a capture has no heights, typical ones are used (pixels on a
desktop and on a phone: our own guess, no source). A screen is 800 pixels high on a desktop, 640 on a phone.
"""

import re
from dataclasses import dataclass
from typing import Literal, get_args

import polars as pl

from zugzwang.core.facts.grains import DEVICES

BlockKind = Literal[
    "featured snippet", "generated summary", "questions", "pictures", "videos", "map", "shopping", "ads", "news",
    "knowledge panel", "site links", "organic", "other",
]  # fmt: skip
AnswerKind = Literal["paragraph", "list", "table", "video", "expandable"]
BLOCK_KINDS: tuple[BlockKind, ...] = get_args(BlockKind)
ANSWER_KINDS: tuple[AnswerKind, ...] = get_args(AnswerKind)
SCREEN = {"desktop": 800, "mobile": 640}
# The first kind with a word in the name applies.
_NAMES: dict[BlockKind, str] = {
    "generated summary": r"generat|summary|\bai\b|overview",
    "featured snippet": r"answer|featured|snippet box|definition|calculator",
    "questions": r"question|\bask\b|\bfaq\b",
    "shopping": r"shop|product|merchant",
    "ads": r"\bads?\b|advert|sponsor|paid",
    "videos": r"video|film|clip",
    "pictures": r"picture|image|photo",
    "map": r"map|local|places?\b",
    "news": r"news|stories|press",
    "knowledge panel": r"panel|knowledge|entity",
    "site links": r"site ?links?",
    "organic": r"organic|result|web|natural",
}
_ANSWERS: dict[AnswerKind, str] = {
    "list": r"list|steps|bullet|ordered",
    "table": r"table",
    "video": r"video|film|clip",
    "expandable": r"expand|accordion|fold",
    "paragraph": r"paragraph|text|definition",
}
HEIGHTS: dict[BlockKind, tuple[int, int]] = {  # desktop, phone
    "featured snippet": (260, 300), "generated summary": (340, 420), "questions": (220, 260), "pictures": (180, 200),
    "videos": (240, 260), "map": (380, 420), "shopping": (300, 280), "ads": (110, 150), "news": (250, 300),
    "knowledge panel": (0, 300), "site links": (120, 150), "organic": (110, 150), "other": (150, 180),
}  # fmt: skip
CAPTURE = ("query", "country", "device", "captured")


@dataclass(frozen=True)
class Rival:
    """A host above the site: for how many queries, and how often these were searched (or shown)."""

    host: str
    queries: int
    searches: float


def kind_of(name: str) -> BlockKind:
    """The kind of a block from its name in a capture.

    >>> kind_of("People also ask"), kind_of("Ad"), kind_of("organic result")
    ('questions', 'ads', 'organic')
    """
    text = name.strip().lower()
    if text in BLOCK_KINDS:
        return text
    return next((kind for kind, words in _NAMES.items() if re.search(words, text)), "other")


def answer_kind_of(name: str | None) -> AnswerKind | None:
    text = (name or "").strip().lower()
    return next((kind for kind, words in _ANSWERS.items() if re.search(words, text)), None)


def with_kinds(results: pl.DataFrame) -> pl.DataFrame:
    """Captured blocks with `kind` (one of BLOCK_KINDS), `answer` (of featured snippets, one of ANSWER_KINDS or null) and
    `pixels`.

    `results`: rows of the results grain (query, country, device, captured, place, block, kind, height_px …).
    """
    names = results["block"].unique()
    kinds = {name: kind_of(name) for name in names.drop_nulls().to_list()}
    subs = {name: answer_kind_of(name) for name in results["kind"].unique().drop_nulls().to_list()}
    rows = results.with_columns(
        kind=pl.col("block").replace_strict(kinds, default="other", return_dtype=pl.String),
        answer=pl.col("kind").replace_strict(subs, default=None, return_dtype=pl.String),
    ).with_columns(pl.when(pl.col("kind") == "featured snippet").then("answer").alias("answer"))
    on_phone = pl.col("device") == DEVICES.index("mobile")
    usual = [{kind: heights[number] for kind, heights in HEIGHTS.items()} for number in (0, 1)]
    height = [pl.col("kind").replace_strict(one, return_dtype=pl.UInt32) for one in usual]
    return rows.with_columns(pixels=pl.coalesce(pl.col("height_px"), pl.when(on_phone).then(height[1]).otherwise(height[0])))


def latest(results: pl.DataFrame) -> pl.DataFrame:
    """The newest capture of each query; of several on that day, the one of the device that is reported most."""
    newest = results.filter(pl.col("captured") == pl.col("captured").max().over("query"))
    one = newest.select(*CAPTURE).unique().sort(*CAPTURE).group_by("query", maintain_order=True).first()
    return newest.join(one, on=CAPTURE, how="semi", maintain_order="left")


def depths(blocks: pl.DataFrame) -> pl.DataFrame:
    """Where the site's first result is in each capture.

    `blocks`: see with_kinds, and `own`. Returns CAPTURE, blocks (kinds from the top), own_rank (null: no result of the
    site), blocks_above (number of blocks above it), screens_down (pixels above it in screens), above (the kinds above it
    except organic, without duplicates), organic_rank (its rank among organic results; null without one), has_snippet.
    """
    ordered = blocks.sort(*CAPTURE, "rank")
    first = pl.col("rank").filter(pl.col("own")).min()
    is_above = pl.col("rank") < first
    organic = pl.col("kind") == "organic"
    first_organic = pl.col("rank").filter(pl.col("own") & organic).min()
    screen = pl.when(pl.col("device") == DEVICES.index("mobile")).then(SCREEN["mobile"]).otherwise(SCREEN["desktop"])
    box = pl.col("kind") == "featured snippet"
    rows = ordered.group_by(*CAPTURE, maintain_order=True).agg(
        pl.col("kind").alias("blocks"),
        first.alias("own_rank"),
        is_above.sum().alias("blocks_above"),
        pl.col("pixels").filter(is_above).sum().alias("pixels_above"),
        pl.col("kind").filter(is_above & ~organic & ~pl.col("own")).unique(maintain_order=True).alias("above"),
        (organic & (pl.col("rank") <= first_organic)).sum().alias("organic_rank"),
        (box & pl.col("own")).any().alias("has_snippet"),
    )
    known = pl.col("own_rank").is_not_null()
    return rows.with_columns(
        pl.when(known).then(pl.col("blocks_above")).alias("blocks_above"),
        pl.when(known).then(pl.col("pixels_above") / screen).alias("screens_down"),
        pl.when(pl.col("organic_rank") > 0).then("organic_rank").alias("organic_rank"),
        pl.when(known).then("above").otherwise([]).alias("above"),
    ).drop("pixels_above")


def changes(before: pl.DataFrame, now: pl.DataFrame) -> tuple[list[str], list[str], list[str], list[str]]:
    """The differences between two captures of a query: hosts among the organic results, and other kinds of block, that
    appeared or left.
    """
    result = []
    for name, organic in (("host", True), ("kind", False)):
        sides = []
        for blocks in (before, now):
            chosen = blocks.filter((pl.col("kind") == "organic") == organic).with_columns(host=_host())
            sides.append(chosen[name].drop_nulls().unique(maintain_order=True).to_list())
        result.append(([one for one in sides[1] if one not in sides[0]], [one for one in sides[0] if one not in sides[1]]))
    return result[0][0], result[0][1], result[1][0], result[1][1]


def _host() -> pl.Expr:
    return pl.col("address").str.extract(r"^https?://(?:www\.)?([^/:?#]+)")


def rivals(blocks: pl.DataFrame, weights: pl.DataFrame) -> list[Rival]:
    """The hosts with organic results above the site's – or anywhere, where the site has none –, most searched first.

    `blocks`: see places, one capture for each query. `weights`: query, searches.
    """
    first = pl.col("rank").filter(pl.col("own")).min().over("query")
    over = blocks.filter(pl.col("kind") == "organic", ~pl.col("own"), (pl.col("rank") < first) | first.is_null())
    hosts = over.with_columns(host=_host()).drop_nulls("host")
    rows = hosts.select("query", "host").unique().join(weights, on="query", how="left").group_by("host").agg(
        pl.len().alias("queries"), pl.col("searches").fill_null(0).sum()
    )  # fmt: skip
    return [Rival(*row) for row in rows.sort("searches", "queries", "host", descending=[True, True, False]).iter_rows()]
