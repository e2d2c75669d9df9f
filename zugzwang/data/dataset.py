"""All facts as a Parquet data set for other tools: OUT/site=SLUG/table=NAME/month=2026-11/part.parquet, Hive-partitioned, with
texts instead of ids; a volume's own month is its `volume_month`. A site.json has the site's settings.
"""

import io
import json
import os
import re
from collections.abc import Iterator
from datetime import date
from pathlib import Path

import polars as pl

from zugzwang.core.facts.countries import COUNTRY_UNKNOWN, country_letters
from zugzwang.core.facts.grains import DEVICES, GRAINS
from zugzwang.core.facts.visits import CHANNELS
from zugzwang.data.blocks import UNDATED, sound
from zugzwang.data.dictionary import read_texts
from zugzwang.data.models import Block, Page, Query, Site

TEXTS: dict[str, type[Page] | type[Query]] = {"page": Page, "query": Query}


def write_dataset(site: Site, out: Path) -> Iterator[tuple[str, int]]:
    """Write the facts of a site, one file for each table and month, each entirely or not at all; returns the tables and their
    rows.
    """
    texts = {name: read_texts(site, words).rename({"text": "told"}) for name, words in TEXTS.items()}
    of_site = out / f"site={site.slug}"
    for block in Block.objects.filter(site=site).select_related("site").order_by("grain", "month").iterator(chunk_size=1):
        grain = GRAINS[block.grain]
        rows = _described(pl.read_parquet(io.BytesIO(bytes(sound(block, grain)))), texts)
        # A volume's month is not the partition's: readers would take the partition's instead, or refuse both.
        rows = rows.rename({"month": "volume_month"}) if "month" in rows.columns else rows
        name = table_of(block.grain)
        folder = of_site / f"table={name}" / f"month={month_of(block.month)}"
        folder.mkdir(parents=True, exist_ok=True)
        rows.write_parquet(folder / ".part.parquet", compression="zstd")
        os.replace(folder / ".part.parquet", folder / "part.parquet")
        yield name, rows.height
    of_site.mkdir(parents=True, exist_ok=True)
    result = {name: getattr(site, name) for name in ("slug", "name", "address", "brand_patterns", "rules", "currency")}
    (of_site / "site.json").write_text(json.dumps(result, indent=1, ensure_ascii=False))


def table_of(grain: str) -> str:
    """The table name of a grain in files."""
    return re.sub(r"[^a-z]+", "-", grain.replace("×", "").lower())


def month_of(month: date) -> str:
    """The name of a block's month in files."""
    return "all" if month == UNDATED else f"{month:%Y-%m}"


def _described(rows: pl.DataFrame, texts: dict[str, pl.DataFrame]) -> pl.DataFrame:
    """Rows with the texts of their pages and queries, and devices, countries and channels by name; null: not reported."""
    for name, known in texts.items():
        if rows.schema.get(name) == pl.UInt32:
            rows = rows.join(known, left_on=name, right_on="id", how="left", maintain_order="left")
            rows = rows.with_columns(pl.col("told").alias(name)).drop("told")
    named: dict[str, dict[int, str]] = {"device": dict(enumerate(DEVICES)), "channel": dict(enumerate(CHANNELS))}
    if "country" in rows.columns:
        codes = rows["country"].unique().drop_nulls().to_list()
        named["country"] = {code: country_letters(code) if code not in (0, COUNTRY_UNKNOWN) else "" for code in codes}
    for name, words in named.items():
        if name in rows.columns and rows.schema[name].is_integer():
            frame = pl.col(name).replace_strict(list(words), list(words.values()), default=None, return_dtype=pl.String)
            rows = rows.with_columns(pl.when(frame != "").then(frame).alias(name))
    return rows
