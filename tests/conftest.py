import csv
from collections.abc import Callable, Iterable
from pathlib import Path

import pytest

from zugzwang.desk import frames
from zugzwang.store.models import Site

HEADER = ["date", "page", "query", "clicks", "impressions", "position"]
WriteCsv = Callable[..., Path]


@pytest.fixture
def site(db: None) -> Site:
    return Site.objects.create(slug="shop", name="Shop", address="https://shop.example")


@pytest.fixture
def write_csv(tmp_path: Path) -> WriteCsv:
    """Write rows below a header and tell where they are."""

    def write(rows: Iterable[Iterable[object]], header: list[str] = HEADER, name: str = "facts.csv", **options: str) -> Path:
        path = tmp_path / name
        with path.open("w", newline="", encoding="utf-8") as file:
            csv.writer(file, **options).writerows([header, *rows])  # type: ignore[arg-type]
        return path

    return write


@pytest.fixture(autouse=True)
def a_world_of_its_own(settings, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    """Uploads in a folder of the test; nothing remembered from another test's site of the same number; fast passwords."""
    settings.UPLOAD_DIR = tmp_path / "uploads"
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
    for kept in vars(frames).values():
        if hasattr(kept, "cache_clear"):
            kept.cache_clear()
