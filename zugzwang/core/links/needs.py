"""What each page needs: more internal links, to link out, fixes, or nothing.

Authority (graph.py) is compared with opportunity: a page's share of the site's opportunity (core.pages.account). A page is

  short   its share of opportunity is at least twice its share of authority, and fewer pages link to it from their body
          than to the median page of its type
  rich    its share of authority is at least twice its share of opportunity, and above that of the median page

and may have problems: orphan (no page links to it), deep (more than four clicks from the crawl's start), dead end (it has
no links), broken links (its body links to redirects or missing pages), gives nothing on (backlinks arrive, but it has no
links). All bounds are our own choice, no source. The action is the first that applies: needs links (short; or an orphan or
deep page with some opportunity), fix (broken links, or a dead end), can give (rich), fine. Pages with less than one click a
month of opportunity are never short, which is too little to act on; nor are listings, which answer no query.

Example: a page with 4 % of the opportunity, 1 % of the authority and 2 links in bodies, where pages of its type have 6:
short.
"""

from typing import Literal, get_args

import polars as pl

Action = Literal["needs links", "fix", "can link out", "fine"]
ACTIONS: tuple[Action, ...] = get_args(Action)
Trouble = Literal["too few links", "orphan", "deep", "dead end", "broken links", "gives nothing on"]
TROUBLES: tuple[Trouble, ...] = get_args(Trouble)
DEEP_CLICKS = 4
TIMES = 2.0
STAKE_LEAST = 1.0  # clicks a month
TYPE_PAGES = 5  # pages for a type's own median; with fewer, the site's is used


def link_counts(pages: pl.Series, links: pl.DataFrame) -> pl.DataFrame:
    """How many pages link to each page, and how many it links to. `links`: source, target (ids, null: not a page of the site),
    in_body, followed. Returns page, links_in, links_in_body, links_out, links_out_body, anchors (distinct texts, ignoring
    case).
    """
    separate = links.filter(pl.col("source") != pl.col("target"), pl.col("followed").fill_null(True))
    body = pl.col("in_body").fill_null(True)
    inward = separate.group_by(page="target").agg(
        pl.col("source").n_unique().alias("links_in"),
        pl.col("source").filter(body).n_unique().alias("links_in_body"),
        pl.col("anchor").filter(pl.col("anchor") != "").str.to_lowercase().n_unique().alias("anchors"),
    )
    outward = separate.group_by(page="source").agg(
        pl.col("target").n_unique().alias("links_out"), pl.col("target").filter(body).n_unique().alias("links_out_body")
    )
    result = pages.alias("page").to_frame()
    for counted in (inward, outward):
        result = result.join(counted, on="page", how="left", maintain_order="left")
    return result.with_columns(pl.exclude("page").fill_null(0))


def needs(pages: pl.DataFrame) -> pl.DataFrame:
    """What each page needs. `pages`: page, type, depth (null: unknown), start (whether the crawl began there), links_in,
    links_in_body, links_out, wrong (body links to redirects and missing pages), referring_domains (null: unknown),
    authority_share, opportunity_share, opportunity_month, exempt (whether pages of its type answer no query). Returns them
    with short, problems (list), action.
    """
    of_type = pl.when(pl.len().over("type") >= TYPE_PAGES).then(pl.col("links_in_body").median().over("type"))
    usual = pl.coalesce(of_type, pl.col("links_in_body").median())
    matters = (pl.col("opportunity_month") >= STAKE_LEAST) & ~pl.col("exempt")
    short = (
        matters & (pl.col("opportunity_share") >= TIMES * pl.col("authority_share")) & (pl.col("links_in_body") < usual)
    ).fill_null(False)
    dead_end = pl.col("links_out") == 0
    holds: dict[Trouble, pl.Expr] = {
        "too few links": short,
        "orphan": (pl.col("links_in") == 0) & ~pl.col("start"),
        "deep": (pl.col("depth") > DEEP_CLICKS).fill_null(False),
        "dead end": dead_end,
        "broken links": pl.col("wrong") > 0,
        "gives nothing on": dead_end & (pl.col("referring_domains").fill_null(0) > 0),
    }
    problems = pl.concat_list(pl.when(entry).then(pl.lit(name)) for name, entry in holds.items()).list.drop_nulls()
    middle = pl.col("authority_share").median()
    rich = (pl.col("authority_share") >= TIMES * pl.col("opportunity_share")) & (pl.col("authority_share") > middle)
    action = (
        pl.when(short | (matters & (holds["orphan"] | holds["deep"])))
        .then(pl.lit("needs links"))
        .when(holds["broken links"] | dead_end)
        .then(pl.lit("fix"))
        .when(rich)
        .then(pl.lit("can link out"))
        .otherwise(pl.lit("fine"))
    )
    return pages.with_columns(short=short, problems=problems, action=action.cast(pl.Enum(ACTIONS)))
