"""The user guide (docs/guide) for Help, with its pictures."""

import re
from functools import cache
from pathlib import Path
from typing import TypedDict

from django.conf import settings

from zugzwang.errors import NotFound

_LINK = re.compile(r"\]\(([a-z-]+)\.md\)")


class GuidePage(TypedDict):
    name: str
    title: str
    question: str
    text: str  # Markdown, without its title


def _folder() -> Path:
    return Path(settings.BASE_DIR) / "docs"


@cache
def pages() -> list[GuidePage]:
    """All pages, in the order of the guide's table of contents."""
    folder = _folder() / "guide"
    names = _LINK.findall((folder / "README.md").read_text(encoding="utf-8"))
    return [_page(name, (folder / f"{name}.md").read_text(encoding="utf-8")) for name in names]


def _page(name: str, text: str) -> GuidePage:
    head, _, body = text.partition("\n\n")
    question = re.search(r"\*\*Question: (.+?)\*\*", body, re.DOTALL)
    return {
        "name": name,
        "title": head.removeprefix("# ").strip(),
        "question": " ".join(question[1].split()) if question else "",
        "text": body.strip(),
    }


def picture(name: str) -> Path:
    """The file of a picture in the guide. Raises NotFound for any other name."""
    known = {one for page in pages() for one in re.findall(r"\.\./screenshots/([a-z-]+\.png)", page["text"])}
    if name not in known:
        raise NotFound(f"The guide has no picture “{name}”.", "Open the guide under Help.")
    return _folder() / "screenshots" / name
