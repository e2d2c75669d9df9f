"""The dictionaries: ids for the texts of pages and queries.

Texts come by the ten thousand, and creating model instances takes ten times as long as the database does; so only this
module uses SQL, in the subset that SQLite and PostgreSQL share.
"""

import time

import polars as pl
from django.db import connection, transaction

from zugzwang.data.models import Page, Query, Site

Words = type[Page] | type[Query]
# Texts added in one transaction, 0.1 s: others write between two of them. Texts without references do no harm.
SLICE_ROWS, BETWEEN_SECONDS = 10_000, 0.05


def read_texts(site: Site, words: Words) -> pl.DataFrame:
    """All pages or queries of a site: id (UInt32), text."""
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT id, text FROM {words._meta.db_table} WHERE site_id = %s", [site.id])
        ids, texts = zip(*rows, strict=True) if (rows := cursor.fetchall()) else ((), ())
    return pl.DataFrame({"id": pl.Series(ids, dtype=pl.UInt32), "text": pl.Series(texts, dtype=pl.String)})


def some(*ids: int) -> pl.Series:
    """Given ids as a column; impossible ids are left out."""
    return pl.Series([one for one in ids if 0 <= one < 2**32], dtype=pl.UInt32)


def texts_of(words: Words, ids: pl.Series) -> pl.DataFrame:
    """The texts of some ids: id (UInt32), text."""
    found = list(words.objects.filter(id__in=ids.to_list()).values_list("id", "text"))
    return pl.DataFrame(found, schema={"id": pl.UInt32, "text": pl.String}, orient="row")


def ids_containing(site: Site, words: Words, text: str) -> pl.Series:
    """The ids of texts that contain an ASCII text, ignoring case."""
    return pl.Series(
        "id", list(words.objects.filter(site=site, text__icontains=text).values_list("id", flat=True)), dtype=pl.UInt32
    )


def ids_for(site: Site, words: Words, texts: pl.Series, keep: bool = True) -> tuple[pl.Series, int]:
    """The ids of distinct `texts`, in order, and the number of new texts; new ones are added, or with `keep` false numbered
    beyond all existing ids.
    """
    wanted = pl.DataFrame({"text": texts})
    known = read_texts(site, words)
    missing = wanted.join(known, on="text", how="anti", maintain_order="left")
    if missing.height and keep:
        insert = f"INSERT INTO {words._meta.db_table} (site_id, text) VALUES (%s, %s) ON CONFLICT DO NOTHING"
        for part in missing.iter_slices(SLICE_ROWS):
            with transaction.atomic(), connection.cursor() as cursor:
                cursor.executemany(insert, [(site.id, text) for text in part["text"]])
            if missing.height > SLICE_ROWS:
                time.sleep(BETWEEN_SECONDS)
        known = read_texts(site, words)
    elif missing.height:
        beyond = int(known["id"].max() or 0) + 1  # type: ignore[arg-type]
        numbered = missing.with_row_index("id", offset=beyond).with_columns(pl.col("id").cast(pl.UInt32))
        known = pl.concat([known, numbered.select("id", "text")])
    return wanted.join(known, on="text", how="left", maintain_order="left")["id"], missing.height
