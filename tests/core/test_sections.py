"""The directory tree: sums of a section without its own page."""

import polars as pl

from zugzwang.core.pages.sections import path_of, sections_of, tree

ADDRESSES = {
    1: "https://www.shop.example/guides/",
    2: "https://shop.example/guides/size",
    3: "https://shop.example/guides/care/",
    4: "https://shop.example/guides/care/wood?x=1",
    5: "https://shop.example/",
    6: "https://old.shop.example/guides/size",
    7: "https://shop.example/trips/index.html",
    8: "https://shop.example/trips/north",
}


def paths() -> pl.DataFrame:
    pages = pl.DataFrame({"page": list(ADDRESSES), "address": list(ADDRESSES.values())})
    return pages.select("page", path=path_of(pl.col("address"), "www.shop.example"))


def test_paths() -> None:
    result = dict(paths().iter_rows())
    assert result[1] == "/guides/"
    assert result[4] == "/guides/care/wood"
    assert result[6] == "//old.shop.example/guides/size"


def test_a_page_lies_in_every_directory_of_its_path() -> None:
    rows = sections_of(paths()).filter(pl.col("page") == 4).sort("depth")
    assert rows["section"].to_list() == ["/", "/guides/", "/guides/care/", "/guides/care/wood/"]
    assert rows["itself"].to_list() == [False, False, False, True]


def test_sums_below_and_the_page_itself() -> None:
    clicks = pl.DataFrame({"page": list(ADDRESSES), "clicks": [50, 30, 20, 5, 7, 1000, 9, 4]})
    nodes = {row["section"]: row for row in tree(paths(), clicks, ["clicks"]).iter_rows(named=True)}
    guides = nodes["/guides/"]
    assert (guides["clicks"], guides["clicks_itself"], guides["pages"], guides["page"]) == (105, 50, 4, 1)
    assert (guides["parent"], guides["depth"]) == ("/", 1)
    assert (nodes["/"]["clicks"], nodes["/"]["clicks_itself"]) == (125, 7)
    assert (nodes["/trips/"]["page"], nodes["/trips/"]["clicks_itself"]) == (7, 9)  # its index file is the directory's page
    assert "/guides/size/" not in nodes  # a page without others below is no section
    assert "//old.shop.example/" not in nodes
