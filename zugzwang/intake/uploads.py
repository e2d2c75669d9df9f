"""Files dropped in the browser: stored in the data folder until they are loaded, at most a day."""

import errno
import json
import re
import time
import uuid
from collections.abc import Iterable
from pathlib import Path

from django.conf import settings

from zugzwang.data.models import Site
from zugzwang.errors import Invalid, NotFound

KEEP_SECONDS = 86_400


def keep(site: Site | None, name: str, chunks: Iterable[bytes], size: int) -> str:
    """Store an upload for a site, or for one that it will create (`give_to`); returns its key. Raises Invalid when it is too
    large.
    """
    if size > settings.UPLOAD_MAX_BYTES:
        raise Invalid(
            f"{name} is larger than {settings.UPLOAD_MAX_BYTES // 1_000_000:,} MB.", "Split it by months and load each.", "file"
        )
    _sweep()
    key = uuid.uuid4().hex
    folder = _folder(key)
    folder.mkdir(parents=True)
    try:
        with (folder / "file").open("wb") as file:
            for chunk in chunks:
                file.write(chunk)
        _write_about(key, site, name[-200:])
    except BaseException as error:
        discard(key)
        if isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT):
            raise Invalid(
                "The disk of this installation is full.", "Nothing was saved. Tell your administrator.", "file"
            ) from error
        raise
    return key


def find(site: Site, key: str) -> tuple[Path, str]:
    """The location and name of an upload. Raises NotFound when it is gone or belongs to another site."""
    folder = _folder(key)
    if re.fullmatch(r"[0-9a-f]{32}", key) and (folder / "about.json").is_file():
        about = json.loads((folder / "about.json").read_text())
        if about["site"] == site.id:
            return file_of(key), str(about["name"])
    raise NotFound("The uploaded file has expired.", "Drop it again.")


def file_of(key: str) -> Path:
    return _folder(key) / "file"


def give_to(site: Site, key: str) -> None:
    """Assign an upload to the site that was created from it."""
    _write_about(key, site, json.loads((_folder(key) / "about.json").read_text())["name"])


def _write_about(key: str, site: Site | None, name: str) -> None:
    (_folder(key) / "about.json").write_text(json.dumps({"site": site.id if site else None, "name": name}))


def discard(key: str) -> None:
    folder = _folder(key)
    for name in ("file", "about.json"):
        (folder / name).unlink(missing_ok=True)
    if folder.is_dir():
        folder.rmdir()


def _folder(key: str) -> Path:
    return Path(settings.UPLOAD_DIR) / key


def _sweep() -> None:
    """Delete abandoned uploads."""
    if settings.UPLOAD_DIR.is_dir():
        for folder in settings.UPLOAD_DIR.iterdir():
            if time.time() - folder.stat().st_mtime > KEEP_SECONDS:
                discard(folder.name)
