"""Internal links: which pages need links, which can link out, and their broken links."""

from typing import Any

import polars as pl

from zugzwang.core.links.needs import ACTIONS
from zugzwang.core.words import link_sentences
from zugzwang.core.worth.moves import Suggestion
from zugzwang.data.topics import topic_names, topics_of
from zugzwang.findings.columns import OPPORTUNITY_MONTH, PAGE, PAGES, PART
from zugzwang.findings.finding import Column, Finding, Found, Proposes
from zugzwang.findings.linking import needs_of
from zugzwang.findings.pages import decided_pages
from zugzwang.findings.shapes import Exchanged, GroupOfLinks
from zugzwang.findings.suggested_links import with_whole_plan
from zugzwang.findings.view import View, ViewOptions

SQUARES = 600  # pages in the chart, those with the most opportunity or authority first
DIRECTORY = r"^(/[^/]*/)"


def find_needs(view: View) -> Found:
    rows = needs_of(view)
    if view.snapshot.links.inner_links().is_empty():
        return Found(rows.clear(), {"pages": 0, "links": 0}, [link_sentences.NEEDS_LINKS])
    return Found(rows, {"pages": rows.height, "links": int(rows["links_out"].sum())})


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    if found.lacking:
        return found.lacking
    actions = dict(rows.group_by(pl.col("action").cast(pl.String)).len().iter_rows())
    return link_sentences.needs(found.behind["pages"], found.behind["links"], actions)


def _extras(view: View, found: Found, rows: pl.DataFrame) -> dict[str, Any]:
    actions = dict(found.rows.group_by(pl.col("action").cast(pl.String)).len().iter_rows())
    size = pl.max_horizontal("authority_share", "opportunity_share")
    names = ("page", "authority_share", "opportunity_share", "action")
    drawn = found.rows.sort(size, descending=True).head(SQUARES).select(names)
    drawn = drawn.join(with_whole_plan(view), on="page", how="left", maintain_order="left") if drawn.height else drawn
    drawn = view.snapshot.names.named(drawn, ("page",))
    directory = pl.col("path").str.extract(DIRECTORY).fill_null("/")
    return {
        "by_action": actions,
        "squares": drawn.with_columns(pl.col("action").cast(pl.String)).to_dicts(),
        "sections": _groups(rows, directory),
        "types": _groups(rows, pl.col("type").fill_null("no type")),
        "topics": _groups(_with_topic(view, rows), pl.col("topic")),
    }


def _with_topic(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """The pages that rank, each with its main topic."""
    if rows.is_empty():  # topics take seconds on a large site
        return rows.with_columns(topic=pl.lit(None, dtype=pl.String))
    shown = view.appraisal.rows.filter(pl.col("page") > 0).join(topics_of(view.snapshot).queries, on="query")
    by_topic = shown.group_by("page", "topic").agg(pl.col("impressions").sum()).sort("impressions", "topic", descending=True)
    most = by_topic.unique("page", keep="first", maintain_order=True).select("page", "topic")
    name = pl.col("topic").replace_strict(topic_names(view.snapshot), default=None, return_dtype=pl.String)
    return rows.join(most, on="page").with_columns(topic=name)


def _groups(rows: pl.DataFrame, by: pl.Expr) -> list[dict[str, Any]]:
    """Pages by section, type or topic: name, pages, how many need links, and their shares; largest opportunity first."""
    sums = rows.group_by(name=by).agg(
        pl.len().alias("pages"),
        (pl.col("action") == "needs links").sum().alias("wants_links"),
        pl.col("authority_share", "opportunity_share").sum(),
    )
    return sums.sort("opportunity_share", "name", descending=[True, False]).to_dicts()


def _with_action(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    return rows.filter(pl.col("action").cast(pl.String).is_in(list(view.options.action)))


NEEDS_LINKS = Finding(
    name="needs-links",
    place=("links", 1),
    title="Pages that need links",
    question="Which pages need internal links, which can link out, and which have broken links?",
    method="links-between-pages",
    needs=(("crawl", "page-links"),),
    claims=("page", "pages"),
    order="action",
    makes=(*PART, "min_impressions", "target", "curve"),
    chooses=(*PAGES, "text", "action", "decided"),
    columns=(
        PAGE.listed(),
        Column("action", "word", "needs", "what its links need", shown="list", choices=ACTIONS, low=True),
        Column("authority_share", "share", "authority", "share of the site's link authority", shown="list"),
        Column("opportunity_share", "share", "opportunity", "share of the site's opportunity", shown="list"),
        Column("links_in", "count", "links in", "internal pages that link to it", "pages", "list", low=True),
        Column("links_in_body", "count", "in bodies", "of these, with the link in the body", "pages", "list", low=True),
        Column("links_out", "count", "links out", "internal pages it links to", "pages", "list", low=True),
        Column("depth", "count", "crawl depth", "clicks from the start of the crawl", "clicks", "list", null=True),
        Column("problems", "words", "problems", "what is wrong with its links", shown="extra"),
        Column("links_out_body", "count", "out, in body", "internal pages it links to in the body", "pages", "extra"),
        Column("anchors", "count", "anchors", "different anchor texts of links to it", "", "extra"),
        Column("referring_domains", "count", "referring domains", "other sites that link to it", "sites", "extra", null=True),
        Column("wrong", "count", "broken links", "body links to redirects and missing pages", "links", "extra"),
        OPPORTUNITY_MONTH.listed("opportunity", shown="extra"),
        Column("type", "text", "page type", "the type of the page", shown="extra", null=True, low=True),
    ),
    find=find_needs,
    says=_says,
    extras=_extras,
    more={
        "by_action": dict[str, int], "squares": list[Exchanged], "sections": list[GroupOfLinks], "types": list[GroupOfLinks],
        "topics": list[GroupOfLinks],
    },
    choose={"action": _with_action},
    decided=decided_pages,
    opens=(ViewOptions(),),
    key=("page",),
    proposes=Proposes(Suggestion("links", "hour", "rank")),
)  # fmt: skip
