"""The data set, read with DuckDB: the same sums as the lists, with texts instead of ids."""

from datetime import date
from pathlib import Path

import duckdb
import pandas
import polars as pl
import pyarrow.dataset
import pytest
from django.core.management import CommandError, call_command

from tests.conftest import keep
from tests.planted import PlantedSite
from zugzwang.core.facts.countries import country_code
from zugzwang.core.facts.grains import VISITS, VOLUMES
from zugzwang.core.facts.visits import CHANNELS
from zugzwang.data.models import Block, LoadPart, Site


def test_duckdb_reads_the_same_sums(
    site: Site, planted: PlantedSite, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    visits = {"day": [date(2026, 11, 9)] * 2, "page": [1, 2], "channel": [0, CHANNELS.index("crawler")], "sessions": [5, 7]}
    keep(site, pl.DataFrame(visits), grain=VISITS)
    Site.objects.create(slug="empty", name="Empty", address="https://empty.example")
    call_command("dataset", str(tmp_path / "out"))
    assert "empty: no facts" in capsys.readouterr().out
    every = duckdb.connect()
    files = f"read_parquet('{tmp_path}/out/**/*.parquet', hive_partitioning = true, union_by_name = true)"
    result = every.sql(
        f"SELECT month, sum(clicks), sum(impressions), count(*), count(DISTINCT query) FROM {files} "
        "WHERE site = 'shop' AND \"table\" = 'page-query' GROUP BY month ORDER BY month"
    ).fetchall()
    rows = planted.facts.group_by(pl.col("day").dt.strftime("%Y-%m").alias("month")).agg(
        pl.col("clicks", "impressions").sum(), rows=pl.len(), queries=pl.col("query").n_unique()
    )
    assert result == rows.sort("month").rows()
    top = every.sql(
        f"SELECT query, sum(clicks) AS all_clicks FROM {files} WHERE \"table\" = 'page-query' GROUP BY query "
        "ORDER BY all_clicks DESC LIMIT 1"
    ).fetchall()
    best = planted.facts.group_by("query").agg(pl.col("clicks").sum()).sort("clicks", descending=True).row(0)
    assert top == [(f"query {best[0]}", best[1])]
    channels = every.sql(f"SELECT channel, sessions FROM {files} WHERE \"table\" = 'visits' ORDER BY 2").fetchall()
    assert channels == [("organic", 5), ("crawler", 7)]
    assert (tmp_path / "out/site=shop/site.json").is_file()


def test_four_readers_find_the_months_of_volumes(site: Site, tmp_path: Path) -> None:
    """A column with a partition's name is lost or refused: DuckDB, polars, pyarrow and pandas."""
    from zugzwang.data.models import Query

    Query.objects.create(id=1, site=site, text="canoe")
    months = [date(2026, 1, 1), date(2026, 2, 1), None]
    keep(site, pl.DataFrame({"query": [1, 1, 1], "month": months, "searches": [10, 20, 30]}), grain=VOLUMES)
    call_command("dataset", str(tmp_path))
    folder, pattern = f"{tmp_path}/site=shop", f"{tmp_path}/**/*.parquet"
    read = {
        "duckdb": duckdb.sql(f"FROM read_parquet('{pattern}', hive_partitioning = true)").pl(),
        "polars": pl.read_parquet(pattern, hive_partitioning=True),
        "pyarrow": pl.DataFrame(pl.from_arrow(pyarrow.dataset.dataset(folder, format="parquet", partitioning="hive",
                                exclude_invalid_files=True).to_table())),
        "pandas": pl.from_pandas(pandas.read_parquet(folder + "/table=volumes")),
    }  # fmt: skip
    for name, rows in read.items():
        ordered = rows.sort("searches")
        assert ordered["volume_month"].cast(pl.Date).to_list() == months, name
        assert ordered["month"].cast(pl.String).to_list() == ["all"] * 3, name


def test_devices_and_countries_are_words(site: Site, tmp_path: Path) -> None:
    from zugzwang.data.models import Page, Query

    Page.objects.create(id=1, site=site, text="https://shop.example/")
    Query.objects.create(id=1, site=site, text="canoe")
    counts = {"clicks": [1, 2], "impressions": [9, 9], "position": [1.0, 2.0]}
    split = {"day": [date(2026, 11, 9)] * 2, "device": [2, 0], "country": [country_code("GB"), 0], **counts}
    keep(site, pl.DataFrame({**split, "page": [1, 1], "query": [1, 1]}))
    call_command("dataset", str(tmp_path))
    rows = duckdb.sql(f"SELECT device, country, clicks FROM '{tmp_path}/**/*.parquet' ORDER BY clicks").fetchall()
    assert rows[0][0] == "mobile"
    assert rows[0][1] in ("GB", "GBR", "gbr")
    assert rows[1] == (None, None, 2)
    # A damaged site says so, and the others are written.
    other = Site.objects.create(slug="other", name="Other", address="https://other.example")
    Page.objects.create(id=2, site=other, text="https://other.example/")
    Query.objects.create(id=2, site=other, text="canoe")
    keep(other, pl.DataFrame({**split, "page": [2, 2], "query": [2, 2]}))
    LoadPart.objects.filter(load__site=site).update(payload=b"")
    Block.objects.filter(site=site).update(payload=b"")
    with pytest.raises(CommandError, match="1 of 2 sites"):
        call_command("dataset", str(tmp_path / "again"))
    assert not list((tmp_path / "again").glob("site=shop/**/*.parquet"))
    assert len(list((tmp_path / "again").glob("site=other/**/part.parquet"))) == 1
