"""What was captured of SERPs: results, features and competing pages."""

from typing import Any

import numpy as np
import polars as pl

from zugzwang.core.facts.addresses import normal
from zugzwang.core.facts.grains import (
    ABOVE,
    RESULTS,
    STRENGTHS,
)
from zugzwang.core.facts.periods import Period
from zugzwang.core.pages.sections import path_of
from zugzwang.core.results.above import strength
from zugzwang.core.results.block_costs import BlockCost, block_costs, factors
from zugzwang.core.results.blocks import BLOCK_KINDS, depths, latest, with_kinds
from zugzwang.core.words.occurrences import Reader, read_texts
from zugzwang.data.blocks import read_facts
from zugzwang.data.cache import cached
from zugzwang.data.models import Query
from zugzwang.data.rules import hosts_of
from zugzwang.data.snapshot.part import WHOLE, PartOfSnapshot, Setting

HAS_SNIPPET = "featured snippet of your site"


class Serps(PartOfSnapshot):
    @cached
    def results(self) -> pl.DataFrame:
        """The newest SERP capture of each query: blocks with kind, answer, pixels (core.results.blocks) and `own`."""
        return self.with_own(with_kinds(latest(read_facts(self.site, RESULTS)))).sort("query", "rank")

    def with_own(self, blocks: pl.DataFrame) -> pl.DataFrame:
        """Captured blocks, with whether each is the site's own by its address."""
        paths = [path_of(pl.col("address"), host) for host in hosts_of(self.site)]
        own = pl.any_horizontal(path.str.starts_with("/") & ~path.str.starts_with("//") for path in paths)
        return blocks.with_columns(own=own.fill_null(False))

    @cached
    def result_ranks(self) -> pl.DataFrame:
        """Where the site ranks in each capture (core.results.blocks.places)."""
        return depths(self.results())

    @cached
    def shown_titles(self) -> dict[int, dict[int, tuple[str | None, str | None]]]:
        """The site's titles and snippets in the newest captures: page → query → (title, snippet)."""
        own = self.results().filter(pl.col("own"), pl.col("kind") == "organic").select("query", "address", "title", "snippet")
        result: dict[int, dict[int, tuple[str | None, str | None]]] = {}
        for query, page, title, snippet in self._with_pages(own).select("query", "page", "title", "snippet").iter_rows():
            result.setdefault(page, {})[query] = (title, snippet)
        return result

    def _with_pages(self, rows: pl.DataFrame) -> pl.DataFrame:
        """Rows with an address of the site, with the page that it counts as; rows without a known page are left out."""
        known = self.snapshot.pages.every().select("page", plain="address")
        return self._with_plain(rows.drop_nulls("address")).join(known, on="plain", how="inner", maintain_order="left")

    @cached
    def block_costs(self, period: Period, setting: Setting) -> list[BlockCost]:
        """The effect of each kind of SERP feature above the site's result, from the site's own rows: for each query the row
        with the most impressions.
        """
        rows, above, kinds = self._captured_rows(period, setting)
        current = self.snapshot.facts.appraisal(period, setting)
        clicks, expected, position = (rows[name].to_numpy() for name in ("clicks", "expected_clicks", "position"))
        return block_costs(clicks, expected, current.scatter.shape(position), above, kinds)

    @cached
    def above(self, period: Period, setting: Setting) -> pl.DataFrame | None:
        """The share of a query's clicks that features above the site's result leave: query, factor. None where no SERP is
        captured, or only a part of the facts is selected, because a SERP is captured for everyone.
        """
        if setting.part != WHOLE or self.results().is_empty():
            return None
        rows, above, _ = self._captured_rows(period, setting)
        return rows.select("query", factor=pl.Series(factors(self.block_costs(period, setting), above)))

    @cached
    def results_above(self) -> pl.DataFrame:
        """Other sites' organic results above the site's in the newest captures, or all where the site has none: query, place,
        address, plain (the normalised address), title, snippet.
        """
        results = self.results()
        first = pl.col("rank").filter(pl.col("own") & (pl.col("kind") == "organic")).min().over("query")
        above = (pl.col("rank") < first) | first.is_null()
        rows = results.filter(pl.col("kind") == "organic", ~pl.col("own"), above, pl.col("address").is_not_null())
        return self._with_plain(rows).select("query", "rank", "address", "plain", "title", "snippet")

    def competing_results(self, places_most: int) -> pl.DataFrame:
        """Other sites' organic results in the newest captures, and the holders of featured snippets: query, place, plain."""
        others = self.results().filter(~pl.col("own"), pl.col("address").is_not_null())
        organic = others.filter(pl.col("kind") == "organic").group_by("query", maintain_order=True).head(places_most)
        boxes = others.filter(pl.col("kind") == "featured snippet")
        return self._with_plain(pl.concat([organic, boxes])).select("query", "rank", "plain")

    @cached
    def fetched_above(self) -> pl.DataFrame:
        """The fetched pages of other sites, in the columns of their grain, with normalised addresses."""
        return read_facts(self.site, ABOVE).sort("address")

    @cached
    def strengths(self) -> dict[str, int]:
        """The referring domains of an address, of any site: the larger of the reported number and, for the site's own, the
        count of loaded backlinks.
        """
        rows = read_facts(self.site, STRENGTHS, columns=["address", "referring_domains"])
        known = dict(rows.iter_rows())
        own = self.snapshot.links.referring_domains() or {}
        address = dict(self.snapshot.pages.every().select("page", "address").iter_rows())
        for page, sites in own.items():
            if page in address:
                known[address[page]] = max(sites, known.get(address[page], 0))
        return known

    @cached
    def within_strength(self) -> pl.DataFrame:
        """The reachable position for each captured query with an organic result of the site: query, organic_rank, place
        (reachable), stronger (how many pages above are stronger).
        """
        known, above = self.strengths(), self.results_above()
        of_query: dict[int, list[int | None]] = {}
        for query, plain in above.select("query", "plain").iter_rows():
            of_query.setdefault(query, []).append(known.get(plain))
        own = self.results().filter(pl.col("own"), pl.col("kind") == "organic").unique("query", keep="first")
        mine = dict(self._with_plain(own).select("query", "plain").iter_rows()) if own.height else {}
        rows = []
        for query, place in self.result_ranks().drop_nulls("organic_rank").select("query", "organic_rank").iter_rows():
            result = strength(place, known.get(mine[query]), of_query.get(query, []))
            rows.append((query, place, *(result or (None, None))))
        names = {"query": pl.UInt32, "organic_rank": pl.UInt32, "rank": pl.UInt32, "stronger": pl.UInt32}
        return pl.DataFrame(rows, schema=names, orient="row").sort("query")

    def _with_plain(self, rows: pl.DataFrame) -> pl.DataFrame:
        different = rows["address"].unique()
        plain = pl.Series([normal(one).partition("#")[0] for one in different.to_list()], dtype=pl.String)
        return rows.with_columns(plain=pl.col("address").replace_strict(different, plain, return_dtype=pl.String))

    def _captured_rows(self, period: Period, setting: Setting) -> tuple[pl.DataFrame, Any, list[str]]:
        """The row with the most impressions of each query with a result of the site, and the kinds of feature above it."""
        rows = self.snapshot.facts.appraisal(period, setting).rows.filter(~pl.col("branded"), pl.col("expected_clicks") > 0)
        most = rows.sort("impressions", "page", descending=[True, False]).unique("query", keep="first")
        shown = self.result_ranks().filter(pl.col("own_rank").is_not_null()).select("query", "above", "has_snippet")
        frame = most.join(shown, on="query").sort("query")
        kinds = [kind for kind in BLOCK_KINDS if kind != "organic"]
        current = [pl.col("above").list.contains(kind).alias(kind) for kind in kinds]
        above = frame.select(*current, pl.col("has_snippet").alias(HAS_SNIPPET)).to_numpy()
        return frame, above, [*kinds, HAS_SNIPPET]

    @cached
    def competing_usage(self) -> dict[int, tuple[float, float]]:
        """How often the competing pages mention each query exactly, in 1,000 words: query → (median, upper quartile)."""
        above = self.fetched_above()
        pages = above.with_row_index("page").select("page", "title", "content").drop_nulls("content")
        if pages.is_empty():
            return {}
        number = dict(zip(above["address"].to_list(), range(above.height), strict=True))
        reader = Reader(read_texts(pages.with_columns(pl.col("page").cast(pl.UInt32)), self.snapshot.rules.language))
        result: dict[int, tuple[float, float]] = {}
        texts = dict(self.snapshot.names.known_texts(Query, self.results()["query"].unique()).iter_rows())
        for (query,), rows in self.results_above().group_by("query", maintain_order=True):
            known = [number[one] for one in rows["plain"] if one in number and number[one] in reader]
            rates = [reader.occurrences(one, texts[int(str(query))]).per_thousand for one in known]
            if rates:
                result[int(str(query))] = (float(np.median(rates)), float(np.quantile(rates, 0.75)))
        return result
