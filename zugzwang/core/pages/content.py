"""The content of a page in order, as pieces: headings, paragraphs, list items, table cells, picture texts.

It is stored as one text, one line a piece: its kind, a tab, its words; link texts are enclosed in two control characters.
Lists, tables and films are pieces without words before their contents; a picture or film within a line comes before that
line.
"""

import re
from collections.abc import Iterable
from typing import Literal, get_args

Kind = Literal["h1", "h2", "h3", "h4", "h5", "h6", "p", "li", "td", "img", "ul", "ol", "table", "video"]
KINDS: tuple[Kind, ...] = get_args(Kind)
HEADINGS = ("h1", "h2", "h3", "h4", "h5", "h6")
RUNNING = (*HEADINGS, "p", "li", "td")
LINK_OPENS, LINK_CLOSES = "\x02", "\x03"
CONTENT_SIGNS = f"(?m)^[a-z0-9]+\t|[{LINK_OPENS}{LINK_CLOSES}]"  # everything in a content except words
_MARKS = re.compile(f"[{LINK_OPENS}{LINK_CLOSES}]")


def written(pieces: Iterable[tuple[Kind, str]]) -> str:
    """Pieces as one text."""
    return "\n".join(f"{kind}\t{text}" for kind, text in pieces)


def pieces_of(content: str) -> list[tuple[Kind, str]]:
    r"""The pieces of a content, without link marks; invalid lines are skipped.

    >>> pieces_of("h2\tHow long?\np\tSee \x02our chart\x03.")
    [('h2', 'How long?'), ('p', 'See our chart.')]
    """
    return [(kind, _MARKS.sub("", text)) for kind, text in marked_pieces_of(content)]


def marked_pieces_of(content: str) -> list[tuple[Kind, str]]:
    """The pieces of a content, with link marks."""
    result: list[tuple[Kind, str]] = []
    for line in content.split("\n"):
        kind, tab, text = line.partition("\t")
        if tab and kind in KINDS:
            result.append((kind, text))
    return result


def running_text(content: str) -> str:
    """The words of a content as one text, without picture texts."""
    return running_of(pieces_of(content))


def running_of(pieces: Iterable[tuple[Kind, str]]) -> str:
    """The words of pieces as one text, without picture texts."""
    return " ".join(text for kind, text in pieces if text and kind in RUNNING)


def content_of_text(heading: str | None, text: str | None) -> str | None:
    """Content made from the main heading and text in a crawl table."""
    pieces: list[tuple[Kind, str]] = [("h1", heading)] if heading else []
    pieces += [("p", " ".join(part.split())) for part in (text or "").split("\n") if part.strip()]
    return written(pieces) or None


def without_marks(text: str) -> str:
    """A text without link marks."""
    return _MARKS.sub(" ", text)
