"""The bytes of blocks outside the database, in a folder and in an object store (moto, which speaks the S3 protocol)."""

from collections.abc import Iterator
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

import boto3
import polars as pl
import pytest
from django.core.files.storage import Storage
from django.db import connection
from django.test import Client
from moto.server import ThreadedMotoServer

from tests.conftest import keep
from tests.installation import PATIENCE, Installation
from zugzwang.access import OPERATOR
from zugzwang.core.facts.grains import PAGE_QUERY
from zugzwang.data import block_store
from zugzwang.data.blocks import Damaged, read_facts
from zugzwang.data.models import Block, Load, LoadPart, Site
from zugzwang.data.sweeping import sweep
from zugzwang.data.verifying import verify
from zugzwang.intake.loading import undo
from zugzwang.settings import store_at

ROWS = pl.DataFrame({"day": [date(2026, 11, day) for day in (1, 2, 3)], "page": [1, 1, 2], "query": [1, 2, 1]}).with_columns(
    clicks=pl.lit(1), impressions=pl.lit(9), position=pl.lit(2.5)
)


@pytest.fixture(scope="module")
def bucket() -> Iterator[str]:
    """The address of a bucket on a local server."""
    server = ThreadedMotoServer(ip_address="127.0.0.1", port=0)
    server.start()
    host, port = server.get_host_and_port()
    endpoint = f"http://{host}:{port}"
    with pytest.MonkeyPatch.context() as environment:
        environment.setenv("AWS_ACCESS_KEY_ID", "key")
        environment.setenv("AWS_SECRET_ACCESS_KEY", "secret")
        boto3.client("s3", endpoint_url=endpoint, region_name="us-east-1").create_bucket(Bucket="facts")
        yield f"s3://facts/FOLDER?endpoint={endpoint}&region=us-east-1"
    server.stop()


@pytest.fixture(params=["folder", "bucket"])
def store(request: pytest.FixtureRequest, settings: Any, tmp_path: Path) -> Storage:
    address = (
        request.getfixturevalue("bucket").replace("FOLDER", tmp_path.name)
        if request.param == "bucket"
        else str(tmp_path / "blocks")
    )
    settings.STORAGES = {**settings.STORAGES, "blocks": store_at(address)}
    current = block_store.store()
    assert current is not None
    return current


def in_rows() -> list[bytes]:
    with connection.cursor() as cursor:
        cursor.execute("SELECT payload FROM store_block UNION ALL SELECT payload FROM store_loadpart")
        return [bytes(payload) for (payload,) in cursor.fetchall()]


def load(site: Site, clicks: int) -> None:
    keep(Site.objects.get(id=site.id), ROWS.with_columns(clicks=pl.lit(clicks)))


def clicks(site: Site) -> list[int]:
    return read_facts(Site.objects.get(id=site.id), PAGE_QUERY)["clicks"].to_list()


def name_of(table: type[Block] | type[LoadPart]) -> str:
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT payload FROM {table._meta.db_table} ORDER BY id DESC LIMIT 1")
        digest = bytes(cursor.fetchone()[0]).removeprefix(block_store.MARK).decode()
    return f"{digest[:2]}/{digest}"


def test_rows_name_what_the_store_holds_and_what_is_gone_is_made_again(site: Site, store: Storage) -> None:
    load(site, 1)
    load(site, 5)
    assert all(row.startswith(block_store.MARK) and len(row) == 71 for row in in_rows())
    assert clicks(site) == [5, 5, 5]
    undo(OPERATOR, site.slug, Load.objects.latest("id").id)
    assert clicks(site) == [1, 1, 1]
    assert [fault for fault in verify([site]).faults if "no text" not in fault.what] == []
    # Of another load on top, a block is bytes of its own: what is gone of it is made again of the loads' rows, and stored.
    keep(Site.objects.get(id=site.id), ROWS.head(1).with_columns(clicks=pl.lit(3)))
    gone = name_of(Block)
    store.delete(gone)
    assert clicks(site) == [3, 1, 1]
    assert store.exists(gone)
    store.delete(gone)
    LoadPart.objects.all().delete()
    with pytest.raises(Damaged):
        clicks(site)


def test_what_no_row_names_is_thrown_away_a_month_after_that_was_noticed(site: Site, store: Storage) -> None:
    load(site, 1)
    left = name_of(Block)
    Block.objects.all().delete()
    LoadPart.objects.all().delete()
    load(site, 5)
    now = datetime.now(UTC) + timedelta(days=2)
    assert "stored bytes" not in sweep(now)
    assert "stored bytes" not in sweep(now + timedelta(days=29))
    assert sweep(now + timedelta(days=31))["stored bytes"] == 1
    assert not store.exists(left)
    assert clicks(site) == [5, 5, 5]


def test_what_is_named_again_meanwhile_stays(site: Site, store: Storage) -> None:
    load(site, 1)
    Block.objects.all().delete()
    LoadPart.objects.all().delete()
    now = datetime.now(UTC) + timedelta(days=2)
    sweep(now)
    load(site, 1)
    sweep(now + timedelta(days=20))
    assert "stored bytes" not in sweep(now + timedelta(days=40))
    assert clicks(site) == [1, 1, 1]


def test_a_store_that_cannot_be_reached_is_told_and_nothing_is_changed(
    site: Site, settings: Any, tmp_path: Path, signed_in: Client, monkeypatch: pytest.MonkeyPatch
) -> None:
    settings.STORAGES = {**settings.STORAGES, "blocks": store_at(str(tmp_path / "blocks"))}
    load(site, 1)

    def away(*_: object) -> None:
        raise RuntimeError("some library's own")

    with monkeypatch.context() as broken:
        broken.setattr(block_store.Folder, "open", away)
        broken.setattr(block_store.Folder, "exists", away)
        answer = signed_in.get(f"/api/sites/{site.slug}/changes")
        assert (answer.status_code, answer.json()["detail"]) == (503, "The object store cannot be reached.")
        assert signed_in.get("/readyz").json() == {
            "ready": False,
            "wrong": ["the store of blocks cannot be reached"],
            "silent": [],
        }
    assert signed_in.get(f"/api/sites/{site.slug}/changes").status_code == 200


MAKE = """
import django; django.setup()
import sys
from pathlib import Path
from zugzwang.access import OPERATOR
from zugzwang.intake.loading import load_file
from zugzwang.subjects.sites import add_site
load_file(add_site(OPERATOR, "Shop", "http://www.shop.example", "shop"), Path(sys.argv[1]), "facts.csv")
"""


def test_bytes_move_into_a_store_leave_with_backups_and_move_back(tmp_path: Path) -> None:
    facts = tmp_path / "facts.csv"
    facts.write_text("date,page,query,clicks,impressions,position\n2026-11-01,http://www.shop.example/a,words,1,20,3.5\n")
    old = Installation(tmp_path / "old")

    def does(installation: Installation, *command: str) -> bool:
        return installation.run(*command).wait(PATIENCE) == 0

    def bytes_of(installation: Installation) -> list[bytes]:
        return [bytes(row) for (row,) in installation.asked("SELECT payload FROM store_block")]

    old.migrated()
    assert does(old, "-c", MAKE, str(facts))
    assert all(row.startswith(b"PAR1") for row in bytes_of(old))
    before = old.held()
    old.env["ZUGZWANG_BLOCKS"] = str(tmp_path / "old-blocks")
    assert does(old, "manage.py", "move_blocks")
    assert all(row.startswith(block_store.MARK) for row in bytes_of(old))
    assert does(old, "manage.py", "verify")
    assert does(old, "manage.py", "backup", "--to", str(tmp_path / "backups"))
    (backup,) = (tmp_path / "backups").glob("*.tar")
    new = Installation(tmp_path / "new")
    assert not does(new, "manage.py", "restore", str(backup)), "without a store it is refused, and nothing is touched"
    new.env["ZUGZWANG_BLOCKS"] = str(tmp_path / "new-blocks")
    assert does(new, "manage.py", "restore", str(backup))
    gone = next(path for path in (tmp_path / "old-blocks").rglob("*") if path.is_file())
    gone.unlink()
    named = bytes_of(old)
    assert not does(old, "manage.py", "move_blocks"), "what is gone is never taken for nothing"
    assert bytes_of(old) == named
    assert does(new, "manage.py", "verify")
    assert does(new, "manage.py", "move_blocks", "--into-database")
    after = new.held()
    assert after.keys() == before.keys()
    assert all(rows.equals(before[grain]) for grain, rows in after.items())
