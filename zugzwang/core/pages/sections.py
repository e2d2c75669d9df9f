"""Sections: the folder tree of a site, with sums over all pages in a folder and the figures of the folder's own page.

A page belongs to every folder on its path. A folder's own page is the one whose address is the folder (with or without its
slash, or its index file). A folder with two or more pages in or below it is a section.

Hosts other than the site's own (a shop's subdomain, a staging copy) are separate trees, named by their host.

Example: `/guides/` with 50 clicks, `/guides/size` with 30 and `/guides/care/` with 20: the section `/guides/` has 100, and
its own page 50.
"""

import re
from collections.abc import Sequence

import polars as pl

SECTION_PAGES = 2
DEEPEST = 12
_INDEX = r"/(index|default|home)\.[a-z]+$"


def path_of(address: pl.Expr, own_host: str) -> pl.Expr:
    """The path of an address, preceded by the host where it is not the site's own: "/guides/size", "//old.shop.example/a"."""
    bare = re.escape(own_host.removeprefix("www."))
    without_scheme = address.str.replace(r"^[a-z]+:", "").str.replace(r"[?#].*$", "")
    return without_scheme.str.replace(rf"^//(?:www\.)?{bare}(:\d+)?(/|$)", "/")


def sections_of(paths: pl.DataFrame) -> pl.DataFrame:
    """Each page with every folder that contains it, topmost first. `paths`: page, path (see path_of).

    Returns page, section (a path that ends with "/"), depth (0: topmost), itself (whether the page is the folder's own).
    """
    directory = pl.col("path").str.replace(f"(?i){_INDEX}", "/")
    whole = paths.select("page", whole=pl.when(directory.str.ends_with("/")).then(directory).otherwise(directory + "/"))
    levels = []
    for depth in range(DEEPEST + 1):
        section = pl.col("whole").str.extract(rf"^((?://[^/]+)?/(?:[^/]+/){{{depth}}})")
        level = whole.select("page", section=section, itself=section == pl.col("whole")).filter(pl.col("section").is_not_null())
        if level.is_empty():
            break
        levels.append(level.with_columns(depth=pl.lit(depth, dtype=pl.UInt8)))
    kinds = {"page": paths.schema["page"], "section": pl.String(), "itself": pl.Boolean(), "depth": pl.UInt8()}
    return pl.concat(levels) if levels else pl.DataFrame(schema=pl.Schema(kinds))


def tree(paths: pl.DataFrame, measures: pl.DataFrame, sums: Sequence[str]) -> pl.DataFrame:
    """The sections of a site, with sums over their pages and the figures of their own page.

    `measures`: page and the columns of `sums`. Returns section, parent (null for the topmost), depth, pages, page (its own
    page; null without one), each sum, and each as `<sum>_itself`; parents before children, otherwise by section.
    """
    rows = sections_of(paths).join(measures.select("page", *sums), on="page", how="inner")
    own = pl.col("itself")
    nodes = rows.group_by("section").agg(
        pl.col("depth").first(),
        pl.col("page").n_unique().alias("pages"),
        pl.col("page").filter(own).min().alias("page"),
        *(pl.col(name).sum() for name in sums),
        *(pl.col(name).filter(own).sum().alias(f"{name}_itself") for name in sums),
    )
    parent = pl.when(pl.col("depth") > 0).then(pl.col("section").str.extract(r"^(.*/)[^/]+/$"))
    return (
        nodes.filter(pl.col("pages") >= SECTION_PAGES)
        .select("section", parent.alias("parent"), pl.exclude("section"))
        .sort("depth", "section")
    )


def section_name(inside: str) -> pl.Expr:
    """The section of a page (its `path`) one level below `inside`: the site's top folders by default; pages in none of them
    belong to `inside` itself.
    """
    above = inside if inside.endswith("/") else inside + "/"
    below = rf"^((?://[^/]+)?{_escaped(above)}[^/]+/)" if inside else r"^((?://[^/]+)?/[^/]+/)"
    return pl.coalesce(pl.col("path").str.extract(below), pl.lit(above if inside else "/"))


def _escaped(text: str) -> str:
    return "".join(f"\\{sign}" if sign in r".^$*+?()[]{}|\-" else sign for sign in text)
