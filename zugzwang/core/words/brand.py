"""Branded queries: they get far more clicks than others and would hide the rest. The analyst defines them by patterns
(patterns.py); suggestions come from the site's name and from clicks.

A word is suggested as a brand when queries with it nearly always rank first and have a far higher CTR than the site's other
queries at first position (common practice, no source: people who search for a name click that name).
"""

import re
from dataclasses import dataclass

import polars as pl

FIRST_PLACE = 1.5
FIRST_SHARE = 0.8  # share of a brand word's impressions at first position
CLICKED_MORE = 1.5  # times the CTR of other queries at first position
ENOUGH_SHOWN = 200
ENOUGH_QUERIES = 3
SUGGESTIONS = 8


@dataclass(frozen=True)
class Suggestion:
    """A pattern that may match the brand, and why: `queries` that it matches, `ctr` at first position compared with
    `ctr_of_other_queries`.
    """

    pattern: str
    reason: str
    queries: int
    ctr: float | None = None
    ctr_of_other_queries: float | None = None


def suggest(rows: pl.DataFrame, host: str, known: pl.Series) -> list[Suggestion]:
    """Brand patterns suggested by the site's name and its queries.

    `rows`: query (text), clicks, impressions, position (sums by query). `known`: texts already marked as branded.
    """
    fresh = rows.filter(~pl.col("query").is_in(known.implode()))
    by_name = _from_name(fresh, host)
    if by_name:
        fresh = fresh.filter(~pl.col("query").str.contains(f"(?i){by_name.pattern}"))
    return [*([by_name] if by_name else []), *_from_clicks(fresh)][:SUGGESTIONS]


def _from_name(rows: pl.DataFrame, host: str) -> Suggestion | None:
    """The name in the host, with its letters as they are or separated by spaces: marrowbank.example → marrow ?bank."""
    labels = host.lower().removeprefix("www.").split(".")
    name = re.sub(r"[^a-z0-9]", "", labels[-2] if len(labels) > 1 else labels[0])
    if len(name) < 3:
        return None
    bare = pl.col("query").str.to_lowercase().str.replace_all(r"[^\p{L}\d]+", "")
    found = rows.filter(bare.str.contains(name, literal=True))
    if found.is_empty():
        return None
    gaps = "".join(f"{letter}[ -]?" for letter in name[:-1]) + name[-1]
    written = found["query"].str.to_lowercase().str.extract(f"({gaps})").drop_nulls().unique()
    pattern = name if all(text == name for text in written) else _with_gaps(name, written)
    return Suggestion(pattern, "the name of the site", found.height)


def _with_gaps(name: str, written: pl.Series) -> str:
    """The name with an optional space wherever a query has one."""
    gaps = set()
    for text in written:
        letters = 0
        for sign in text:
            if sign in " -":
                gaps.add(letters)
            else:
                letters += 1
    return "".join(("[ -]?" if index in gaps else "") + letter for index, letter in enumerate(name))


def _from_clicks(rows: pl.DataFrame) -> list[Suggestion]:
    words = rows.with_columns(word=pl.col("query").str.to_lowercase().str.extract_all(r"[\p{L}\d]{3,}").list.unique())
    long = words.explode("word", empty_as_null=True).drop_nulls("word")
    first = pl.col("position") < FIRST_PLACE
    by_word = long.group_by("word").agg(
        pl.len().alias("queries"),
        pl.col("impressions").sum().alias("shown"),
        pl.col("impressions").filter(first).sum().alias("shown_first"),
        pl.col("clicks").filter(first).sum().alias("clicks_first"),
    )
    candidates = by_word.filter(
        pl.col("shown") >= ENOUGH_SHOWN,
        pl.col("queries") >= ENOUGH_QUERIES,
        pl.col("shown_first") >= FIRST_SHARE * pl.col("shown"),
    )
    standing_first = rows.filter(first)
    # Queries with none of the candidates' words: brands must not be compared with brands.
    others = standing_first.filter(
        ~pl.col("query").str.to_lowercase().str.contains_any(candidates["word"].implode())
        if candidates.height
        else pl.lit(True)
    )
    if candidates.is_empty() or int(others["impressions"].sum()) < ENOUGH_SHOWN:
        return []
    usual = int(others["clicks"].sum()) / int(others["impressions"].sum())
    found = candidates.with_columns(ctr=pl.col("clicks_first") / pl.col("shown_first")).filter(
        pl.col("ctr") >= CLICKED_MORE * usual
    )
    return [
        Suggestion(rf"\b{row['word']}\b", "clicks as only brands get", row["queries"], row["ctr"], usual)
        for row in found.sort("clicks_first", "word", descending=[True, False]).iter_rows(named=True)
    ]
