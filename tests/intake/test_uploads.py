"""Uploads: stored for their site, invisible to others, deleted after a day."""

import os
import time
from pathlib import Path

import pytest

from zugzwang.data.models import Site
from zugzwang.errors import Invalid, NotFound
from zugzwang.intake import uploads


def kept(site: Site, content: bytes = b"a,b\n1,2\n") -> str:
    return uploads.keep(site, "facts.csv", [content[:3], content[3:]], len(content))


def test_an_upload_is_kept_whole_and_discarded(site: Site) -> None:
    key = kept(site)
    path, name = uploads.find(site, key)
    assert (path.read_bytes(), name) == (b"a,b\n1,2\n", "facts.csv")
    uploads.discard(key)
    with pytest.raises(NotFound, match="expired"):
        uploads.find(site, key)
    uploads.discard(key)  # twice does no harm


@pytest.mark.parametrize("key", ["", "../secret_key", "0" * 32, "ABC", "." * 32])
def test_no_key_leads_elsewhere(site: Site, key: str) -> None:
    kept(site)
    with pytest.raises(NotFound):
        uploads.find(site, key)


def test_what_nobody_came_back_for_is_swept(site: Site) -> None:
    old, fresh = kept(site), kept(site)
    folder: Path = uploads.find(site, old)[0].parent
    long_ago = time.time() - uploads.KEEP_SECONDS - 60
    os.utime(folder, (long_ago, long_ago))
    kept(site)
    assert not folder.exists()
    assert uploads.find(site, fresh)


def test_too_large_is_refused_before_it_is_kept(site: Site, settings) -> None:  # type: ignore[no-untyped-def]
    settings.UPLOAD_MAX_BYTES = 5
    with pytest.raises(Invalid, match="larger than"):
        kept(site)
    assert not settings.UPLOAD_DIR.exists()
