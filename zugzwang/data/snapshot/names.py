"""The texts of pages and queries."""

import polars as pl

from zugzwang.data.cache import cached
from zugzwang.data.dictionary import Words, ids_containing, texts_of
from zugzwang.data.dictionary import read_texts as read_names
from zugzwang.data.models import Page, Query
from zugzwang.data.snapshot.part import PartOfSnapshot

NAMED_ONE_BY_ONE = 10_000  # up to this number, names are looked up by id; for more, the whole dictionary is read and cached


class Names(PartOfSnapshot):
    @cached
    def texts(self, words: Words) -> pl.DataFrame:
        """All pages or queries of the site: id, text."""
        return read_names(self.site, words)

    def known_texts(self, words: Words, ids: pl.Series) -> pl.DataFrame:
        """The texts of some distinct ids, and possibly of others: id, text."""
        return texts_of(words, ids) if ids.len() <= NAMED_ONE_BY_ONE else self.texts(words)

    def matching(self, words: Words, text: str) -> pl.Series:
        """Ids of the pages or queries that contain a text, ignoring case."""
        if text.isascii():
            found_ids = ids_containing(self.site, words, text)
            to = self.snapshot.pages.page_map().to if words is Page else None
            return found_ids if to is None else pl.Series("id", to[found_ids.to_numpy()])
        # Databases disagree on the lower case of É; here it is é.
        found = self.texts(words).filter(pl.col("text").str.to_lowercase().str.contains(text.lower(), literal=True))
        return found["id"]

    def page_texts(self, pages: pl.Series) -> pl.DataFrame:
        """The addresses of pages as they count: id, text."""
        return self.known_texts(Page, pages.unique()).update(self.snapshot.pages.page_map().texts, on="id")

    def page_text(self, page: int) -> str:
        return str(dict(self.page_texts(pl.Series([page], dtype=pl.UInt32)).iter_rows())[page])

    def named(self, rows: pl.DataFrame, names: tuple[str, ...] = ("page", "query")) -> pl.DataFrame:
        """The rows with the texts of pages and queries as `page` and `query`, and their ids as `page_id` and `query_id`."""
        for name in names:
            ids = rows[name].unique()
            known = self.page_texts(ids) if name == "page" else self.known_texts(Query, ids)
            known = known.rename({"id": f"{name}_id", "text": name})
            rows = rows.rename({name: f"{name}_id"}).join(known, on=f"{name}_id", how="left", maintain_order="left")
        return rows
