"""The competing pages: which positions are within reach, and where the site's page lies outside their range."""

from typing import Any

import polars as pl

from zugzwang.core.facts.search import ROW
from zugzwang.core.results.above import facts_of, out_of_range
from zugzwang.core.words import sentences
from zugzwang.data.cache import cached
from zugzwang.data.models import Query
from zugzwang.data.snapshot import Snapshot
from zugzwang.findings.columns import CLICKS, IMPRESSIONS, PAGE, PAGES, PART, POSITION, POSITIONS, QUERY
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.view import View, ViewOptions

Facts = dict[str, float | bool | None]


@cached
def facts_above(snapshot: Snapshot) -> dict[int, list[tuple[str, Facts]]]:
    """The values of each page above the site's result, for captured queries: query → (address, facts), topmost first."""
    current = {row["address"]: row for row in snapshot.serps.fetched_above().iter_rows(named=True)}
    strengths, language = snapshot.serps.strengths(), snapshot.rules.language
    above = snapshot.serps.results_above()
    texts = dict(snapshot.names.known_texts(Query, above["query"].unique()).iter_rows())
    result: dict[int, list[tuple[str, Facts]]] = {}
    for query, plain in above.sort("query", "rank").select("query", "plain").iter_rows():
        page = current.get(plain, {})
        facts = facts_of(
            texts[query], page.get("title"), page.get("description"), page.get("content"), page.get("images"), language,
            strengths.get(plain),
        )  # fmt: skip
        result.setdefault(query, []).append((plain, facts))
    return result


def own_facts(snapshot: Snapshot, rows: pl.DataFrame) -> dict[int, Facts]:
    """The values of the site's page of each row; `rows`: page, query, one row for each query."""
    contents = {page: content for page, _, content in snapshot.pages.contents(rows["page"].unique()).iter_rows()}
    crawled = {row["page"]: row for row in snapshot.pages.crawled_pages().iter_rows(named=True)}
    texts = dict(snapshot.names.known_texts(Query, rows["query"].unique()).iter_rows())
    linking = snapshot.links.referring_domains() or {}
    strengths = snapshot.serps.strengths()
    address = dict(snapshot.pages.every().select("page", "address").iter_rows())
    result = {}
    for page, query in rows.select("page", "query").iter_rows():
        of_page = crawled.get(page, {})
        sites = strengths.get(address.get(page, ""), linking.get(page))
        result[query] = facts_of(
            texts[query], of_page.get("title"), of_page.get("description"), contents.get(page), of_page.get("images"),
            snapshot.rules.language, sites,
        )  # fmt: skip
    return result


def find_pages_above(view: View) -> Found:
    """Each captured query with an organic result of the site, compared with the competing pages; most impressions first."""
    reach = view.snapshot.serps.within_strength().rename({"rank": "rank_within_reach", "organic_rank": "rank"})
    rows = view.appraisal.rows.sort("impressions", "page", descending=[True, False]).unique("query", keep="first")
    rows = rows.filter(pl.col("query") > 0, pl.col("page") > 0).select(*ROW, "clicks", "impressions", "position")
    frame = reach.join(rows, on="query", how="inner").rename({"stronger": "stronger_above"})
    frame = view.without_brand(frame)
    above, ours = facts_above(view.snapshot), own_facts(view.snapshot, frame)
    outside = [out_of_range(ours[query], [facts for _, facts in above.get(query, [])]) for query in frame["query"]]
    fetched = [sum(facts["words"] is not None for _, facts in above.get(query, [])) for query in frame["query"]]
    frame = frame.with_columns(
        pl.Series(
            "out_of_range", [[f"{name} {side}" for name, side in one.items()] for one in outside], dtype=pl.List(pl.String)
        ),
        pl.Series("fetched", fetched, dtype=pl.UInt32),
        above=pl.col("rank") - 1,
    )
    frame = frame.sort("impressions", "query", descending=[True, False])
    lacking = [] if view.snapshot.serps.results().height else [sentences.NO_RESULTS]
    if frame.height and not view.snapshot.serps.fetched_above().height:
        lacking.append(sentences.NOT_FETCHED)
    if frame.height and frame["rank_within_reach"].null_count() == frame.height:
        lacking.append(sentences.NO_STRENGTHS)
    return Found(frame, {"captures": reach.height}, lacking)


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    if not rows.height:
        return found.lacking or [sentences.competing_pages(0, 0)]
    better = rows.filter(pl.col("rank_within_reach") < pl.col("rank")).height
    return [sentences.competing_pages(rows.height, better)]


COMPETING_PAGES = Finding(
    name="competing-pages",
    place=("on-page", 5),
    title="Competing pages",
    question="Which pages rank above yours, are they stronger, and what do they have that yours lacks?",
    method="competing-pages",
    needs=(("results",),),
    claims=("query", "queries"),
    order="impressions",
    makes=(*PART, "branded", "curve"),
    chooses=(*PAGES, "query_group", "topic", "text", *POSITIONS),
    columns=(
        QUERY.listed("query, page", "query, and your page with most impressions for it"),
        PAGE,
        Column("rank", "count", "rank", "your rank among the organic results", shown="list", low=True),
        Column(
            "rank_within_reach", "count", "within reach", "best position with no stronger page above",
            shown="list", null=True, low=True,
        ),
        Column("stronger_above", "count", "stronger", "pages with as many referring domains or more", shown="list", null=True),
        Column("above", "count", "above", "organic results above yours", shown="extra"),
        Column("fetched", "count", "read", "competing pages that were fetched and read", shown="extra"),
        Column("out_of_range", "words", "out of range", "measures of your page outside their range", shown="list"),
        IMPRESSIONS.listed(),
        CLICKS.listed(shown="extra"),
        POSITION.listed(),
    ),
    find=find_pages_above,
    says=_says,
    opens=(ViewOptions(),),
)  # fmt: skip
