"""docs/methods.md by sections, and the glossary of docs/words.md, so screens show the same text as the documents."""

import re
from functools import cache

from django.conf import settings

_HEADING = re.compile(r"^## (.+)$", re.MULTILINE)
_SUBHEADING = re.compile(r"^### (.+)$", re.MULTILINE)
_COMMENT = re.compile(r"<!--.*?-->")


@cache
def sections() -> list[dict[str, str]]:
    """Each rule: name (for addresses), title, text (Markdown), and its measured error rates ("" without any)."""
    docs = settings.BASE_DIR / "docs"
    texts = [(docs / name).read_text(encoding="utf-8") for name in ("methods.md", "words.md")]
    pieces = [piece for text in texts for piece in _HEADING.split(text)[1:]]
    # The module of a rule follows its title, for readers of the code.
    titled = [(title.partition(" (`")[0], text) for title, text in zip(pieces[::2], pieces[1::2], strict=True)]
    pieces = _SUBHEADING.split(_COMMENT.sub("", dict(titled)["How far this can be trusted"]))[1:]
    measured = dict(zip(pieces[::2], pieces[1::2], strict=True))
    return [
        {
            "name": name_of(title),
            "title": title,
            "text": _COMMENT.sub("", text).strip(),
            "measured": measured.get(title, "").strip(),
        }
        for title, text in titled
    ]


def name_of(title: str) -> str:
    """The title as used in addresses: "The click curve" → "the-click-curve"."""
    return re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")
