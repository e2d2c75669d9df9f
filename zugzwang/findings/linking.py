"""Shared by findings about links: the link graph with authority, the opportunity of each page, and the phrases that mean a
page.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import polars as pl
import scipy

from zugzwang.core.clicks.headroom import Target
from zugzwang.core.facts.addresses import normal
from zugzwang.core.facts.periods import DAYS_A_MONTH, Period
from zugzwang.core.links.faults import wrong_targets
from zugzwang.core.links.graph import Floats, Graph, authority, graph_of
from zugzwang.core.links.needs import link_counts, needs
from zugzwang.core.links.similarity import Vectors, vectors
from zugzwang.core.pages.account import accounts
from zugzwang.core.words.wording import content_stems
from zugzwang.data.cache import cached
from zugzwang.data.decided import chosen_main_queries
from zugzwang.data.models import Query
from zugzwang.data.snapshot import Setting, Snapshot
from zugzwang.findings.pages import page_entries
from zugzwang.findings.titles import Chosen, proposed_main_queries
from zugzwang.findings.view import View

WORDINGS = 4  # variants of a main query: other queries of its page with the same words


@dataclass(frozen=True)
class Linked:
    """The link graph, the weights of jumps, and each page's share of authority, all in the order of `graph.pages`."""

    graph: Graph
    jumps: Floats
    shares: Floats

    @cached_property
    def share_of(self) -> pl.DataFrame:
        return pl.DataFrame({"page": self.graph.pages, "authority_share": self.shares})


@cached
def linked(snapshot: Snapshot) -> Linked:
    """The pages that respond, and the links between them. Pages known only from links count too."""
    links = snapshot.links.inner_links()
    answers = _answers(snapshot)
    ends = pl.concat([links["source"], links["target"]]).drop_nulls().unique()
    gone = answers.filter(~pl.col("answered"))["page"]
    known = pl.concat([answers.filter("answered")["page"], ends.filter(~ends.is_in(gone.implode()))]).unique()
    graph = graph_of(known, links.drop_nulls(["source", "target"]))
    sites = snapshot.links.outer_links().filter(pl.col("followed").fill_null(True))
    host = pl.col("from_address").str.extract(r"^https?://(?:www\.)?([^/:?#]+)")
    of_page = sites.group_by("page").agg(host.n_unique().alias("sites"))
    jumps = graph.pages.alias("page").to_frame().join(of_page, on="page", how="left", maintain_order="left")["sites"]
    weights = 1.0 + jumps.fill_null(0).to_numpy().astype(np.float64)
    return Linked(graph, weights, authority(graph, weights))


def _answers(snapshot: Snapshot) -> pl.DataFrame:
    """Crawled pages: page, answered."""
    crawled = snapshot.pages.crawled().select("address", "status", "problem")
    ok = pl.col("status").is_null() | pl.col("status").is_between(200, 299)
    rows = snapshot.pages.every().join(crawled, on="address")
    return rows.select("page", answered=ok & pl.col("problem").is_null()).group_by("page").agg(pl.col("answered").any())


@cached
def page_vectors(snapshot: Snapshot) -> Vectors:
    return vectors(snapshot.pages.page_words())


@cached
def stakes_of_pages(snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int, target: Target) -> pl.DataFrame:
    """The opportunity of each page: page, opportunity (clicks of the period)."""
    current = accounts(page_entries(snapshot, period, setting, min_impressions, target))
    return current.select("page", "opportunity")


@cached
def page_needs(snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int, target: Target) -> pl.DataFrame:
    """Every page with its links, shares, problems and action (core.links.needs); pages that need links first, by
    opportunity."""
    current = linked(snapshot)
    facets = snapshot.pages.every().select("page", "address", "type", "path")
    crawled = snapshot.pages.crawled().select("address", "status", "depth")
    pages = current.share_of.join(facets, on="page", how="left").join(crawled, on="address", how="left")
    links = snapshot.links.inner_links().drop_nulls("source")
    within = links.filter(
        pl.col("source").is_in(current.graph.pages.implode()), pl.col("target").is_in(current.graph.pages.implode())
    )
    wrong = wrong_targets(links, snapshot.pages.crawled()).filter(pl.col("in_body").fill_null(True))
    stakes = stakes_of_pages(snapshot, period, setting, min_impressions, target)
    sites = snapshot.links.referring_domains()
    pages = (
        pages.join(link_counts(current.graph.pages, within), on="page", how="left")
        .join(wrong.group_by("page").agg(wrong=pl.struct("to", "anchor").n_unique()), on="page", how="left")
        .join(stakes, on="page", how="left")
        .with_columns(pl.col("wrong", "opportunity").fill_null(0))
    )
    month = DAYS_A_MONTH / period.days
    whole = float(pages["opportunity"].sum()) or 1.0
    home = normal(snapshot.site.address)
    depth = pl.col("depth") if pages["depth"].null_count() < pages.height else pl.Series(_clicks_from(current, pages, home))
    pages = pages.with_columns(
        opportunity_share=pl.col("opportunity") / whole,
        opportunity_month=pl.col("opportunity") * month,
        depth=depth.cast(pl.UInt16),
        start=pl.col("address") == home,
        exempt=pl.col("type").fill_null("").is_in(snapshot.pages.exempt_types("queries")),
        referring_domains=pl.col("page").replace_strict(
            sites or {}, default=None if sites is None else 0, return_dtype=pl.UInt32
        ),
    )
    result = needs(pages)
    return result.sort(
        pl.col("action").to_physical(), "opportunity", "authority_share", "page", descending=[False, True, True, False]
    )


def _clicks_from(current: Linked, pages: pl.DataFrame, home: str) -> list[int | None]:
    """Click depth from the home page, where no crawl reports it."""
    start = pages.filter(pl.col("address") == home)["page"]
    if start.is_empty():
        return [None] * pages.height
    steps = scipy.sparse.csgraph.dijkstra(
        current.graph.into.T.tocsr(), unweighted=True, indices=int(current.graph.indices(start)[0])
    )
    of_page = dict(zip(current.graph.pages.to_list(), steps.tolist(), strict=True))
    return [None if np.isinf(of_page[page]) else int(of_page[page]) for page in pages["page"].to_list()]


@cached
def _phrases(
    snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int, target: Target, chosen: Chosen
) -> pl.DataFrame:
    """The phrases that mean a page – its main query and queries with the same words –, main query first: phrase, target, main
    (whether it is the main query). A phrase of two pages means neither.
    """
    main = {**proposed_main_queries(snapshot, period, setting, min_impressions, target), **dict(chosen)}
    language = snapshot.rules.language
    rows = snapshot.facts.appraisal(period, setting).rows.filter(pl.col("page").is_in(list(main)), pl.col("query") > 0)
    of_page = rows.select("page", "query", "impressions").sort("impressions", "query", descending=[True, False])
    texts = dict(
        snapshot.names.known_texts(
            Query, pl.concat([rows["query"], pl.Series(list(main.values()), dtype=pl.UInt32)])
        ).iter_rows()
    )
    words = {query: frozenset(content_stems(text, language)) for query, text in texts.items()}
    result: list[tuple[str, int, bool]] = [(texts[query], page, True) for page, query in sorted(main.items())]
    count: dict[int, int] = {}
    for page, query, _ in of_page.iter_rows():
        same = query != main[page] and words[query] == words[main[page]]
        if same and count.get(page, 0) < WORDINGS:
            count[page] = count.get(page, 0) + 1
            result.append((texts[query], page, False))
    found = pl.DataFrame(result, schema={"phrase": pl.String, "target": pl.UInt32, "main": pl.Boolean}, orient="row")
    # A variant that is another page's main query belongs to that page.
    found = found.sort("main", descending=True, maintain_order=True)
    mains = found.filter(pl.col("main")).unique("phrase", keep="none", maintain_order=True)
    others = found.filter(~pl.col("main")).join(found.filter(pl.col("main")).select("phrase"), on="phrase", how="anti")
    return pl.concat([mains, others.unique("phrase", keep="none", maintain_order=True)])


def phrases_of(view: View) -> pl.DataFrame:
    chosen = tuple(sorted(chosen_main_queries(view.site).items()))
    return _phrases(view.snapshot, view.period, view.setting, view.min_impressions, view.options.target, chosen)


def needs_of(view: View) -> pl.DataFrame:
    return page_needs(view.snapshot, view.period, view.setting, view.min_impressions, view.options.target)
