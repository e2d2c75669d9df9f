"""What a page says, in order: pieces – headings, paragraphs, items of lists, cells of tables, texts of pictures.

It is kept as one text, a line a piece: its kind, a tab, its words; what links say is between two signs that no text has. Lists,
tables and films are pieces without words before what they hold; a picture or film within a line is before it."""

import re
from collections.abc import Iterable
from typing import Literal, get_args

Kind = Literal["h1", "h2", "h3", "h4", "h5", "h6", "p", "li", "td", "img", "ul", "ol", "table", "video"]
KINDS: tuple[Kind, ...] = get_args(Kind)
HEADINGS = ("h1", "h2", "h3", "h4", "h5", "h6")
RUNNING = (*HEADINGS, "p", "li", "td")
LINK_OPENS, LINK_CLOSES = "\x02", "\x03"
CONTENT_SIGNS = f"(?m)^[a-z0-9]+\t|[{LINK_OPENS}{LINK_CLOSES}]"  # all of a content that is no word
_MARKS = re.compile(f"[{LINK_OPENS}{LINK_CLOSES}]")


def written(pieces: Iterable[tuple[Kind, str]]) -> str:
    """Pieces as one text."""
    return "\n".join(f"{kind}\t{text}" for kind, text in pieces)


def pieces_of(content: str) -> list[tuple[Kind, str]]:
    """The pieces of a content, link marks left out; a line that is none is skipped.

    >>> pieces_of("h2\\tHow long?\\np\\tSee \\x02our chart\\x03.")
    [('h2', 'How long?'), ('p', 'See our chart.')]
    """
    return [(kind, _MARKS.sub("", text)) for kind, text in marked_pieces_of(content)]


def marked_pieces_of(content: str) -> list[tuple[Kind, str]]:
    """The pieces of a content with the signs that mark links."""
    result: list[tuple[Kind, str]] = []
    for line in content.split("\n"):
        kind, tab, text = line.partition("\t")
        if tab and kind in KINDS:
            result.append((kind, text))
    return result


def running_text(content: str) -> str:
    """The words of a content as one text, without the texts of pictures."""
    return running_of(pieces_of(content))


def running_of(pieces: Iterable[tuple[Kind, str]]) -> str:
    """The words of pieces as one text, without the texts of pictures."""
    return " ".join(text for kind, text in pieces if text and kind in RUNNING)


def content_of_text(heading: str | None, text: str | None) -> str | None:
    """A content made of what a table of a crawl tells: main heading and text."""
    pieces: list[tuple[Kind, str]] = [("h1", heading)] if heading else []
    pieces += [("p", " ".join(part.split())) for part in (text or "").split("\n") if part.strip()]
    return written(pieces) or None


def without_marks(text: str) -> str:
    """A text without the signs that mark links."""
    return _MARKS.sub(" ", text)
