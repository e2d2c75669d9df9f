import csv
import shutil
from collections.abc import Callable, Iterable
from pathlib import Path

import polars as pl
import pytest
from django.conf import settings
from django.contrib.auth.models import User
from django.core.management.color import no_style
from django.db import connection
from django.db.models import Model
from django.test import Client

from tests.facts import filled
from tests.installation import migrated_file
from tests.planted import PlantedSite, planted_site
from zugzwang.core.facts.grains import PAGE_QUERY, Grain
from zugzwang.data import blocks
from zugzwang.data.models import Load, Membership, Page, Query, Site

HEADER = ["date", "page", "query", "clicks", "impressions", "position"]
WriteCsv = Callable[..., Path]


@pytest.fixture(scope="session")
def django_db_modify_db_settings(django_db_modify_db_settings_parallel_suffix: None) -> None:
    """Start from the migrated file: applying nothing takes two seconds, applying everything ten."""
    if settings.DATABASES["default"] is not settings.SQLITE:
        return
    name = Path(settings.DATABASES["default"]["TEST"]["NAME"])
    for end in ("-wal", "-shm"):  # a killed run leaves them, and they make a new database look damaged
        name.with_name(name.name + end).unlink(missing_ok=True)
    name.parent.mkdir(exist_ok=True)
    shutil.copyfile(migrated_file(), name)


@pytest.fixture(scope="session")
def django_db_keepdb() -> bool:
    """Take the copied file as it is."""
    return settings.DATABASES["default"] is settings.SQLITE


@pytest.fixture
def site(db: None) -> Site:
    return Site.objects.create(slug="shop", name="Shop", address="https://shop.example")


@pytest.fixture
def analyst(site: Site) -> User:
    user = User.objects.create_user("analyst", password="a long password")
    Membership.objects.create(site=site, user=user)
    return user


@pytest.fixture
def signed_in(client: Client, analyst: User) -> Client:
    client.force_login(analyst)
    return client


@pytest.fixture
def write_csv(tmp_path: Path) -> WriteCsv:
    """Write rows below a header. Returns the path."""

    def write(rows: Iterable[Iterable[object]], header: list[str] = HEADER, name: str = "facts.csv", **options: str) -> Path:
        path = tmp_path / name
        with path.open("w", newline="", encoding="utf-8") as file:
            csv.writer(file, **options).writerows([header, *rows])  # type: ignore[arg-type]
        return path

    return write


def keep(site: Site, rows: pl.DataFrame, mode: blocks.Mode = "replace", grain: Grain = PAGE_QUERY) -> blocks.Rewrite:
    """Write facts into the site's blocks as a separate load."""
    rewrite = blocks.prepare(site, [(grain, filled(rows, grain))], mode)
    if not rewrite.blocks:
        return rewrite  # as loading does: what changes nothing leaves nothing to undoes
    blocks.write(site, rewrite, {grain.source: Load(site=site, source=grain.source, name="a test's")})
    return rewrite


@pytest.fixture(autouse=True)
def a_world_of_its_own(settings, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    """Uploads and cache in the test's folder; fast password hashing."""
    settings.UPLOAD_DIR = tmp_path / "uploads"
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
    settings.CACHE_DIR = tmp_path / "cache"
    settings.BOUNDED_WORK = False


def _count_on(*models: type[Model]) -> None:
    """Continue the numbering after inserted ids: PostgreSQL counts separately."""
    with connection.cursor() as cursor:
        for statement in connection.ops.sequence_reset_sql(no_style(), list(models)):
            cursor.execute(statement)


@pytest.fixture
def planted(site: Site) -> PlantedSite:
    """The site with a planted site's facts; page and query ids are 1 more than the planted ones."""
    planted = planted_site(queries=400, poor=6, movers=5, seed=4)
    count = 400
    Page.objects.bulk_create(Page(id=n + 1, site=site, text=f"https://shop.example/p{n}") for n in range(count))
    Query.objects.bulk_create(Query(id=n + 1, site=site, text=f"query {n}") for n in range(count))
    _count_on(Page, Query)
    facts = planted.facts.with_columns(page=planted.facts["page"] + 1, query=planted.facts["query"] + 1)
    keep(site, facts)
    return planted
