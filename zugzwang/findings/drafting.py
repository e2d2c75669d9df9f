"""Shared by findings and drafts: the terms of each captured query, and their coverage on competing pages and the site's own."""

from dataclasses import dataclass
from typing import Any

import polars as pl

from zugzwang.core.drafts.terms import Corpus, GoesWith, RelatedTerm, coverage, goes_with_rank, separate_sentences
from zugzwang.core.facts.periods import Period
from zugzwang.core.words.occurrences import read_texts
from zugzwang.data.cache import cached
from zugzwang.data.snapshot import Setting, Snapshot

OTHERS = 10  # competing results considered
BACKGROUND = 3_000  # the site's pages in the corpus
OF_OTHERS = 2**31  # their ids start here, so both fit in one corpus
OWN_PAGES = 5  # queries with the most impressions


@dataclass(frozen=True)
class Drafting:
    """`terms`: for each query with enough fetched competing pages, highest score first. `competing`: query, plain, place,
    coverage. `own`: page, query, coverage, said (the count of each term, in the order of `terms`).
    """

    terms: dict[int, tuple[RelatedTerm, ...]]
    competing: pl.DataFrame
    ours: pl.DataFrame
    goes: GoesWith | None


@cached
def drafting(snapshot: Snapshot, period: Period, setting: Setting) -> Drafting:
    fetched = snapshot.serps.fetched_above().filter(pl.col("content").is_not_null()).with_row_index("number")
    fetched = fetched.with_columns(other=(pl.col("number") + OF_OTHERS).cast(pl.UInt32))
    others = snapshot.serps.competing_results(OTHERS).sort("query", "rank").unique(["query", "plain"], maintain_order=True)
    standing = others.join(fetched.select("other", plain="address"), on="plain", maintain_order="left")
    rows = _most_shown(snapshot, period, setting, standing["query"].unique())
    corpus = _corpus(snapshot, fetched, rows["page"].unique())
    terms: dict[int, tuple[RelatedTerm, ...]] = {}
    covers: list[tuple[int, str, int, float]] = []
    ours: list[tuple[int, int, float, list[int]]] = []
    of_query = dict(rows.group_by("query").agg("page").iter_rows())
    by_query = standing.group_by("query", maintain_order=True).agg("plain", "rank", "other")
    for query, plains, ranks, above in by_query.iter_rows():
        related = corpus.related(above)
        if not related:
            continue
        terms[query] = tuple(RelatedTerm(corpus.form(one, above), one.tier, one.pages, one.per_thousand) for one in related)
        for plain, rank, other in zip(plains, ranks, above, strict=True):
            covers.append((query, plain, rank, coverage(related, corpus.counts(other, related))))
        for page in of_query.get(query, ()):
            if page in corpus:
                counts = corpus.counts(page, related)
                ours.append((page, query, coverage(related, counts), counts))
    kinds: dict[str, Any] = {"query": pl.UInt32, "plain": pl.String, "rank": pl.UInt32, "coverage": pl.Float64}
    frame = pl.DataFrame(covers, schema=kinds, orient="row")
    kinds = {"page": pl.UInt32, "query": pl.UInt32, "coverage": pl.Float64, "times_used": pl.List(pl.UInt32)}
    captures = frame.group_by("query", maintain_order=True).agg("coverage")["coverage"].to_list()
    return Drafting(terms, frame, pl.DataFrame(ours, schema=kinds, orient="row"), goes_with_rank(captures))


def _most_shown(snapshot: Snapshot, period: Period, setting: Setting, queries: pl.Series) -> pl.DataFrame:
    """The pages with the most impressions for some queries: page, query."""
    rows = snapshot.facts.appraisal(period, setting).rows.filter(pl.col("page") > 0, pl.col("query").is_in(queries.implode()))
    rows = rows.sort("impressions", "page", descending=[True, False])
    return rows.group_by("query", maintain_order=True).head(OWN_PAGES).select("page", "query")


def _corpus(snapshot: Snapshot, fetched: pl.DataFrame, own: pl.Series) -> Corpus:
    """Pages of other sites and the site's own together; on a large site a sample, including the pages asked about."""
    pages = snapshot.pages.every()["page"].sort()
    some = pages.gather_every(max(pages.len() // BACKGROUND, 1))
    wanted = pl.concat([some, own.cast(pages.dtype)]).unique()
    ours = snapshot.pages.contents(wanted).select(pl.col("page").cast(pl.UInt32), "title", "content")
    theirs = fetched.select("title", "content", page="other").select("page", "title", "content")
    both = pl.concat([ours, theirs])
    separate = pl.Series("content", [separate_sentences(one) for one in both["content"].to_list()], dtype=pl.String)
    return Corpus(read_texts(both.with_columns(separate), snapshot.rules.language))


def above_median(current: Drafting) -> pl.DataFrame:
    """The coverage of the median competing page: query, coverage_above_median, competing_pages (count)."""
    return current.competing.group_by("query").agg(coverage_above_median=pl.col("coverage").median(), competing_pages=pl.len())
