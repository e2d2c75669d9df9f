"""Links of real sites – documentation shipped with Debian – counted by an independent walk with Python's own HTML parser."""

from html.parser import HTMLParser
from pathlib import Path
from urllib.parse import urldefrag, urljoin

import networkx as nx
import numpy as np
import polars as pl
import pytest

from zugzwang.core.facts.grains import CRAWL_LINKS
from zugzwang.core.links.graph import authority, graph_of
from zugzwang.core.links.needs import link_counts
from zugzwang.core.pages.html import read_reply

SITE = "https://documentation.example/"
PACKAGES = {"libxslt1-dev": 60, "valgrind": 20}  # with the fewest pages that it has


class Walk(HTMLParser):
    """The links of one page: addresses of its `a` elements, without fragments."""

    def __init__(self, address: str) -> None:
        super().__init__()
        self.address = address
        self.found: set[str] = set()

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        result = dict(attrs).get("href")
        if tag == "a" and result is not None:
            self.found.add(urldefrag(urljoin(self.address, result.strip())).url)


@pytest.mark.parametrize("package", PACKAGES)
def test_links_of_documentation_are_those_of_an_independent_walk(package: str) -> None:
    folder = Path("/usr/share/doc") / package
    files = sorted(file for file in folder.rglob("*.html") if file.is_file())
    if len(files) < PACKAGES[package]:
        pytest.skip(f"This machine has no documentation of {package}.")
    addresses = {file: SITE + file.relative_to(folder).as_posix() for file in files}
    number = {address: page for page, address in enumerate(addresses.values(), start=1)}
    rows, walked = [], set()
    for file, address in addresses.items():
        rows += read_reply(address, 200, "text/html", "", None, file.read_bytes())[1]
        walk = Walk(address)
        walk.feed(file.read_text("utf-8", "replace"))
        walked |= {(number[address], number[to]) for to in walk.found if to in number and to != address}
    links = pl.DataFrame(rows, CRAWL_LINKS.schema, orient="row").with_columns(
        source=pl.col("from_address").replace_strict(number, default=None, return_dtype=pl.UInt32),
        target=pl.col("to_address").replace_strict(number, default=None, return_dtype=pl.UInt32),
    )
    pages = pl.Series("page", list(number.values()), dtype=pl.UInt32)
    counts = {
        page: (into, out) for page, into, out in link_counts(pages, links).select("page", "links_in", "links_out").iter_rows()
    }
    assert counts == {
        page: (sum(to == page for _, to in walked), sum(source == page for source, _ in walked)) for page in number.values()
    }
    assert len(walked) > 3 * len(files)
    graph = graph_of(pages, links)
    assert graph.edges.height == len(walked)
    # On a real graph too, authority is that of networkx.
    same = nx.DiGraph()
    same.add_nodes_from(range(pages.len()))
    same.add_weighted_edges_from(graph.edges.select("source", "target", "weight").iter_rows())
    shares = authority(graph, np.ones(pages.len()))
    assert shares == pytest.approx(list(nx.pagerank(same, tol=1e-12, max_iter=1_000).values()), rel=1e-4)
