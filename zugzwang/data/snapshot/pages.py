"""Pages as they count, and what the crawl read on them."""

from datetime import datetime

import numpy as np
import polars as pl

from zugzwang.core.facts.cleaning import LEFT_OUT, Rules, fold, page_types
from zugzwang.core.facts.cleaning import query_groups as grouped
from zugzwang.core.facts.grains import (
    CRAWL_PAGES,
    OF_SPANS,
    PAGE,
    PAGE_QUERY,
)
from zugzwang.core.facts.search import ROW
from zugzwang.core.pages.content import CONTENT_SIGNS, content_of_text
from zugzwang.core.pages.fit import Says, fits, says
from zugzwang.core.pages.sections import path_of
from zugzwang.core.words.occurrences import Texts, read_texts
from zugzwang.core.words.wording import content_stems, stem
from zugzwang.core.words.wording import words as words_of
from zugzwang.data.blocks import read_facts
from zugzwang.data.cache import cached
from zugzwang.data.models import Load, Page, Query
from zugzwang.data.rules import host_of
from zugzwang.data.snapshot.part import PageMap, PartOfSnapshot

SAMPLED_PAGES = 2_000
TEXT_LETTERS = 4_000


class Pages(PartOfSnapshot):
    def folds(self, rules: Rules | None = None) -> pl.DataFrame:
        """Where each page's facts count, under the stored rules or given ones: id, counts_as, folded, reasons
        (core.cleaning)."""
        return self._folds(rules or self.snapshot.rules)

    @cached
    def _folds(self, rules: Rules) -> pl.DataFrame:
        return fold(self.snapshot.names.texts(Page), self.site.address, rules, self._points_to())

    def folds_of(self, texts: pl.Series) -> pl.DataFrame:
        """Where some addresses count, including unknown ones; columns as `folds`."""
        known = self.snapshot.names.texts(Page)
        fresh = texts.filter(~texts.is_in(known["text"].implode()))
        numbers = pl.int_range(pl.len(), dtype=pl.UInt32) + int(known["id"].max() or 0) + 1  # type: ignore[arg-type]
        pages = pl.concat([known, fresh.to_frame("text").select(id=numbers, text="text")])
        current = fold(pages, self.site.address, self.snapshot.rules, self._points_to())
        return current.filter(pages["text"].is_in(texts.implode()))

    def _points_to(self) -> pl.DataFrame:
        return self.crawled().select("address", points_to=pl.coalesce("redirect_to", "canonical"))

    @cached
    def page_map(self) -> PageMap:
        current, texts = self.folds(), self.snapshot.names.texts(Page)
        of_its_own = current.filter(pl.col("id") == pl.col("counts_as"))
        renamed = of_its_own.join(texts, on="id").filter(pl.col("folded") != pl.col("text")).select("id", text="folded")
        if current.is_empty() or current.select((pl.col("id") == pl.col("counts_as")).all()).item():
            return PageMap(None, renamed)
        to = np.arange(int(current["id"].max()) + 1, dtype=np.uint32)  # type: ignore[arg-type]
        to[current["id"].to_numpy()] = current["counts_as"].to_numpy()
        return PageMap(to, renamed)

    @cached
    def every(self) -> pl.DataFrame:
        """Every page that counts: page, address, path (core.sections), type (null: none)."""
        counting = self.folds().filter(pl.col("id") == pl.col("counts_as"), pl.col("counts_as") != LEFT_OUT)
        structured = self.crawled().select(text="address", structured_data="structured_data")
        typed = page_types(counting.select(page="id", text="folded"), self.snapshot.rules.page_types, structured)
        return typed.select(
            "page", pl.col("text").alias("address"), path_of(pl.col("text"), host_of(self.site)).alias("path"), "type"
        )

    @cached
    def shown_pages(self) -> pl.Series:
        """The merged addresses of all pages with search data, sorted."""
        counting = self.folds().filter(pl.col("counts_as") != LEFT_OUT)
        of_pages = [one for grain in (PAGE, PAGE_QUERY) for one in (grain, OF_SPANS[grain.name])]
        shown = pl.concat([read_facts(self.site, grain, columns=["page"])["page"].unique() for grain in of_pages]).unique()
        return counting.filter(pl.col("id").is_in(shown.implode()))["folded"].unique().sort()

    def exempt_types(self, what: str) -> list[str]:
        """The page types exempt from judgement by bounces ("bounce") or by queries ("queries")."""
        return [one.name for one in self.snapshot.rules.page_types if what in one.exempt]

    @cached
    def query_groups(self) -> pl.DataFrame:
        """Every query with its groups: query, groups (list of names)."""
        current = grouped(self.snapshot.names.texts(Query), self.snapshot.rules.query_groups)
        return current.select(pl.col("id").alias("query"), "groups")

    @cached
    def crawled(self) -> pl.DataFrame:
        """Crawl data by address, without texts; addresses that merge into one page are still separate."""
        columns = [name for name in CRAWL_PAGES.schema.names() if name not in ("main_text", "content")]
        return read_facts(self.site, CRAWL_PAGES, columns=columns)

    @cached
    def crawled_pages(self) -> pl.DataFrame:
        """Crawl data of each page: page, status, title, heading (the first h1), headings (as "h2 Its words"), description, how
        many of each (titles, descriptions), words, robots, canonical. Of merged addresses, the page's own counts.
        """
        of_h1 = pl.element().filter(pl.element().str.starts_with("h1 "))
        known = self.crawled().with_columns(heading=pl.col("headings").list.eval(of_h1).list.first().str.slice(3))
        columns = [
            "status", "title", "titles", "heading", "headings", "description", "descriptions", "words", "robots", "canonical",
        ]  # fmt: skip
        return self.every().join(known, on="address", how="inner").select("page", *columns)

    def main_texts(self) -> pl.DataFrame:
        """The beginning of the main text of each page: page, main_text."""
        rows = read_facts(self.site, CRAWL_PAGES, columns=["address", "main_text", "content"])
        plain = pl.col("content").str.slice(0, TEXT_LETTERS).str.replace_all(CONTENT_SIGNS, " ")
        text = pl.coalesce(plain, pl.col("main_text").str.slice(0, TEXT_LETTERS)).alias("main_text")
        return self.every().join(rows, on="address").select("page", text)

    def contents(self, pages: pl.Series | None = None) -> pl.DataFrame:
        """The content of each page in pieces (core.pages.content): page, title, content. From a loaded crawl table: its main
        heading and text; a page without text in that table has none.
        """
        columns = ["address", "title", "headings", "main_text", "content"]
        wanted = self.every() if pages is None else self.every().filter(pl.col("page").is_in(pages.implode()))
        rows = wanted.join(read_facts(self.site, CRAWL_PAGES, columns=columns), on="address").sort("page")
        rows = rows.filter(pl.col("content").is_not_null() | (pl.col("main_text").str.strip_chars() != ""))
        lacks = pl.col("content").is_null()
        made = [
            content_of_text(next((one[3:] for one in headings or [] if one.startswith("h1 ")), None), text)
            for headings, text in rows.filter(lacks).select("headings", "main_text").iter_rows()
        ]
        frame = pl.concat([rows.filter(~lacks), rows.filter(lacks).with_columns(content=pl.Series(made, dtype=pl.String))])
        return frame.filter(pl.col("content").is_not_null()).select("page", "title", "content").sort("page")

    @cached
    def page_words(self) -> Texts:
        """The words of all pages with known text, for searching phrases."""
        return read_texts(self.contents(), self.snapshot.rules.language)

    @cached
    def page_stems(self, pages: tuple[int, ...]) -> dict[int, tuple[str, ...]]:
        """The stems of some pages' title, heading and beginning of text, and of a sample of the others, which shows what is
        common on the site. Pages without a crawl are left out.
        """
        known = self.crawled_pages().select("page", "title", "heading").sort("page")
        sampled = pl.int_range(pl.len()) % max(known.height // SAMPLED_PAGES, 1) == 0
        known = known.filter(sampled | pl.col("page").is_in(list(pages))).join(self.main_texts(), on="page", how="left")
        texts = known.select("page", pl.concat_str("title", "heading", "main_text", separator=" ", ignore_nulls=True))
        return {page: content_stems(text, self.snapshot.rules.language) for page, text in texts.iter_rows() if text}

    @cached
    def every_page_says(self) -> dict[int, Says]:
        """Each page's texts that the fit to a query is judged by."""
        return self.page_says(self.every()["page"])

    def page_says(self, pages: pl.Series) -> dict[int, Says]:
        """Some pages' texts that the fit to a query is judged by."""
        wanted = self.every().filter(pl.col("page").is_in(pages.unique().implode()))
        known = wanted.join(self.crawled_pages(), on="page", how="left")
        rows = known.select("page", "address", "title", "heading").iter_rows()
        return {page: says(address, title, heading, self.snapshot.rules.language) for page, address, title, heading in rows}

    def query_stems(self, queries: pl.Series) -> dict[int, tuple[str, ...]]:
        """The stems of some queries, without function words."""
        known = self.snapshot.names.known_texts(Query, queries.unique())
        wanted = known.filter(pl.col("id").is_in(queries.unique().implode()))
        return {query: content_stems(text, self.snapshot.rules.language) for query, text in wanted.iter_rows()}

    def fits(self, rows: pl.DataFrame) -> pl.DataFrame:
        """The fit of some rows (page, query): page, query, fit, kept, fit_known_by, lacking (stems)."""
        current = fits(rows, self.page_says(rows["page"]), self.query_stems(rows["query"]))
        return pl.concat([rows.select(ROW), current], how="horizontal")

    def lacking_words(self, rows: pl.DataFrame) -> pl.DataFrame:
        """The rows (query, lacking) with missing stems written as the words of their queries."""
        text_of = dict(self.snapshot.names.known_texts(Query, rows["query"].unique()).iter_rows())
        frame = [
            [word for word in words_of(text_of.get(query, "")) if stem(word, self.snapshot.rules.language) in (stems or ())]
            for query, stems in rows.select("query", "lacking").iter_rows()
        ]
        return rows.with_columns(pl.Series("lacking", frame, dtype=pl.List(pl.String)))

    def crawl_read_at(self) -> datetime | None:
        """When the site's pages were last read, by a crawl or a crawl table."""
        load = Load.objects.filter(site=self.site, taken_back_at=None, source=CRAWL_PAGES.source).first()
        return load.made_at if load else None
