"""Links between the site's pages, and from other sites."""

from datetime import datetime

import polars as pl

from zugzwang.core.facts.grains import (
    CRAWL_LINKS,
    LINKS,
    PAGE_LINKS,
    Grain,
)
from zugzwang.data.blocks import has_facts, read_facts
from zugzwang.data.cache import cached
from zugzwang.data.models import Job, Load, Page
from zugzwang.data.snapshot.part import PartOfSnapshot


class Links(PartOfSnapshot):
    @cached
    def inner_links(self) -> pl.DataFrame:
        """Internal links: source and target – ids of the pages that their addresses count as, null for unknown addresses –,
        from_address, to_address, anchor, in_body, followed. From the crawl, or from a table of links that was loaded later.
        """
        own = (
            self.snapshot.pages.page_map()
            .cleaned(self.snapshot.names.texts(Page).select("text", page="id"))
            .cast({"page": pl.UInt32})
        )
        both = [one.select("text", "page") for one in (self.snapshot.pages.every().select("page", text="address"), own)]
        known = pl.concat(both).unique("text", keep="first")
        links = read_facts(self.site, self._links_grain())
        for side, name in (("from_address", "source"), ("to_address", "target")):
            found = known.select(pl.col("text").alias(side), pl.col("page").alias(name))
            links = links.join(found, on=side, how="left", maintain_order="left")
        return links.select("source", "target", "from_address", "to_address", "anchor", "in_body", "followed")

    def body_links_between(self, pairs: pl.DataFrame) -> dict[tuple[int, int], list[str]]:
        """The anchors of body links from pages to others (source, target)."""
        links = self.inner_links().filter(pl.col("in_body").fill_null(True))
        there = links.join(pairs.unique(), on=["source", "target"], how="semi")
        rows = there.group_by("source", "target").agg(pl.col("anchor").fill_null(""))
        return {(source, target): anchors for source, target, anchors in rows.iter_rows()}

    def _links_grain(self) -> Grain:
        """The table that links are read from: the later one of crawl and loaded table that has any."""
        current = [grain for grain in (CRAWL_LINKS, PAGE_LINKS) if has_facts(self.site, grain)]
        if len(current) < 2:
            return next(iter(current), CRAWL_LINKS)
        crawl, table = (self._load_of(grain) for grain in current)
        return PAGE_LINKS if table and (crawl is None or table.made_at > crawl.made_at) else CRAWL_LINKS

    def _load_of(self, grain: Grain) -> Load | None:
        """The last load that brought links. A crawl loaded as a table brings none."""
        loads = Load.objects.filter(site=self.site, taken_back_at=None, source=grain.source)
        return (loads.filter(job__kind=Job.Kind.CRAWL) if grain is CRAWL_LINKS else loads).first()

    def links_read_at(self) -> datetime | None:
        """When the links were last read from the site."""
        load = self._load_of(self._links_grain())
        return load.made_at if load else None

    @cached
    def outer_links(self) -> pl.DataFrame:
        """Backlinks: from_address, page, address (the target), anchor, followed."""
        links = read_facts(self.site, LINKS, columns=["from_address", "page", "anchor", "followed"])
        rows = links.join(self.snapshot.names.texts(Page).select(page="id", address="text"), on="page", how="left")
        return self.snapshot.pages.page_map().cleaned(rows.cast({"page": pl.UInt32}))

    @cached
    def referring_domains(self) -> dict[int, int] | None:
        """The referring domains of each page; None without loaded backlinks."""
        links = self.outer_links()
        if links.is_empty():
            return None
        host = pl.col("from_address").str.extract(r"^https?://(?:www\.)?([^/:?#]+)")
        return dict(links.group_by("page").agg(host.n_unique().alias("sites")).iter_rows())
