"""Problems of a site's internal links and their anchor texts.

  to a redirect                    the target has moved
  to a missing page                   the target answers with an error
  from another site, to a missing page   the same for backlinks
  says nothing                     every body link to a page has an anchor like "here", or none
  one anchor, several pages        the same anchor links to several pages, so it identifies none
  another page's main query   its anchor is the main query of another page

A navigation link on many pages is one problem, because it is fixed once; so are links to one page with the same poor
anchor. Anchors without meaning are listed in six languages (common practice, no source). Anchors are compared with main
queries by stems, otherwise letter by letter, ignoring case.
"""

from collections.abc import Mapping
from typing import Literal, get_args

import polars as pl

from zugzwang.core.words.wording import stems

Fault = Literal[
    "to a redirect",
    "to a missing page",
    "from another site, to a missing page",
    "vague anchor",
    "one anchor, several pages",
    "another page's main query",
]
FAULTS: tuple[Fault, ...] = get_args(Fault)
GONE = 400
SCHEMA = pl.Schema(
    {
        "from": pl.String(),
        "to": pl.String(),
        "page": pl.UInt32(),
        "target": pl.UInt32(),
        "anchor": pl.String(),
        "fault": pl.Enum(FAULTS),
        "leads_to": pl.String(),
        "pages": pl.UInt32(),
        "in_body": pl.Boolean(),
    }
)
SAY_NOTHING = frozenset(
    """
    here|click here|more|read more|learn more|find out more|see more|this|this page|this article|link|page|article|details|
    view|view more|go|continue|continue reading|hier|mehr|mehr erfahren|weiterlesen|mehr lesen|ici|cliquez ici|en savoir plus|
    lire la suite|plus|aquí|haga clic aquí|más|leer más|más información|qui|clicca qui|di più|leggi di più|scopri di più|
    klik hier|meer|lees meer|meer lezen|verder lezen
    """.replace("\n", "")
    .replace("    ", "")
    .split("|")
)


def wrong_targets(links: pl.DataFrame, answers: pl.DataFrame) -> pl.DataFrame:
    """Links to redirects and to missing pages.

    `links`: from_address, to_address, source, target (ids, null: not a page of the site), anchor, in_body. `answers`:
    address, status, redirect_to. Returns the columns of SCHEMA.
    """
    gone = pl.col("status") >= GONE
    moved = pl.col("redirect_to").is_not_null() | pl.col("status").is_between(300, GONE - 1)
    bad = answers.filter((gone | moved).fill_null(False)).select(
        pl.col("address").alias("to_address"),
        "redirect_to",
        fault=pl.when(gone.fill_null(False)).then(pl.lit("to a missing page")).otherwise(pl.lit("to a redirect")),
    )
    return _described(links.join(bad, on="to_address").rename({"redirect_to": "leads_to"}))


def poor_anchors(links: pl.DataFrame, main_queries: Mapping[int, str], language: str = "english") -> pl.DataFrame:
    """Body links whose anchor has no meaning, links to several pages, or is another page's main query.

    `links`: as above, all between pages of the site. Returns the columns of SCHEMA.
    """
    body = links.filter(pl.col("in_body").fill_null(True), pl.col("source") != pl.col("target")).with_columns(
        anchor_text=pl.col("anchor").fill_null("").str.to_lowercase().str.strip_chars(" \t.:!?…»›→>-")
    )
    body = body.with_columns(nothing=(pl.col("anchor_text") == "") | pl.col("anchor_text").is_in(list(SAY_NOTHING)))
    bare = body.filter(pl.col("nothing").all().over("target")).with_columns(fault=pl.lit("vague anchor"))
    telling = body.filter(~pl.col("nothing"))
    twice = telling.filter(pl.col("target").n_unique().over("anchor_text") > 1).with_columns(
        fault=pl.lit("one anchor, several pages")
    )
    owners = pl.DataFrame(
        [(" ".join(sorted(stems(query, language))), page) for page, query in main_queries.items()],
        schema={"stems": pl.String, "owner": pl.UInt32},
        orient="row",
    ).unique("stems", keep="none")  # a main query of two pages belongs to neither
    different = telling["anchor_text"].unique()
    named = pl.DataFrame(
        {"anchor_text": different, "stems": [" ".join(sorted(stems(one, language))) for one in different.to_list()]},
        schema={"anchor_text": pl.String, "stems": pl.String},
    )
    of_owner = telling.join(named, on="anchor_text").join(owners, on="stems").filter(pl.col("owner") != pl.col("target"))
    others = of_owner.with_columns(fault=pl.lit("another page's main query"))
    # An anchor with several targets that is also a main query is reported as the latter, which implies what to do.
    twice = twice.join(others.select("source", "target", "anchor"), on=["source", "target", "anchor"], how="anti")
    return pl.concat([_described(one) for one in (bare, twice, others)])


def from_other_sites(links: pl.DataFrame, answers: pl.DataFrame) -> pl.DataFrame:
    """Backlinks to missing pages. `links`: from_address, page, address, anchor. Returns the columns of SCHEMA."""
    gone = answers.filter(pl.col("status") >= GONE).select("address")
    rows = links.join(gone, on="address").with_columns(fault=pl.lit("from another site, to a missing page"))
    return _filled(rows.rename({"from_address": "from", "address": "to", "page": "target"}))


def _described(found: pl.DataFrame) -> pl.DataFrame:
    """Links with a problem; navigation links on several pages, and poor anchors to one page, are united."""
    found = found.rename({"from_address": "from", "to_address": "to", "source": "page"})
    # Wrong targets are fixed link by link; an anchor is chosen once for its target.
    by_itself = pl.col("in_body").fill_null(True) & pl.col("fault").str.starts_with("to ")
    by = ["to", "anchor", "fault"]
    whole = (
        found.filter(~by_itself)
        .sort("from")
        .group_by(by, maintain_order=True)
        .agg(pl.exclude("from").first(), pl.col("from").first(), pages=pl.col("from").n_unique())
    )
    each = found.filter(by_itself).unique(["from", *by], maintain_order=True).with_columns(pages=pl.lit(1))
    return pl.concat([_filled(each), _filled(whole)])


def _filled(rows: pl.DataFrame) -> pl.DataFrame:
    lacking = {name: pl.lit(None, dtype=kind) for name, kind in SCHEMA.items() if name not in rows.columns}
    return (
        rows.with_columns(**lacking)
        .with_columns(pl.col("pages").fill_null(1))
        .select(pl.col(name).cast(kind) for name, kind in SCHEMA.items())
    )
