"""The text of a draft: HTML with few elements, in blocks – headings, paragraphs, lists, tables – that merge one by one.

Anything typed, pasted or sent is reduced to those elements. Pictures are not stored: their name and alternative text
remain. A block is a top-level element; texts are compared and merged by blocks.
"""

import re
from collections.abc import Iterable, Iterator, Mapping
from html import escape

import nh3
from selectolax.lexbor import LexborHTMLParser, LexborNode

from zugzwang.core.pages.content import HEADINGS, LINK_CLOSES, LINK_OPENS, Kind
from zugzwang.core.pages.html import nests, read_page

TEXT_MAX = 400_000  # characters of HTML
DEPTH_MAX = 100  # nesting depth; pages written by people stay below 30
BLOCKS_MAX = 10_000
_INLINE = {"strong", "em", "a", "br", "img"}
_BLOCKS = {*HEADINGS, "p", "ul", "ol", "blockquote", "table"}
_ELEMENTS = {*_INLINE, *_BLOCKS, "li", "thead", "tbody", "tr", "th", "td"}
_SAME = (("b", "strong"), ("i", "em"))
_OF_LISTS = ("li", "td")
_EMPTY = ("", "<p></p>", "<p><br></p>")


class TooLarge(ValueError):
    """A text that is too long, too deeply nested or has too many blocks; `remedy` says what to do."""

    def __init__(self, message: str, remedy: str) -> None:
        super().__init__(message, remedy)
        self.message, self.remedy = message, remedy


def cleaned(html: str) -> str:
    """A text reduced to the elements of a draft, one block a line. Raises TooLarge beyond a limit.

    >>> cleaned('<div onclick="x()">Wide <b>tyres</b></div><script>1</script>')
    '<p>Wide <strong>tyres</strong></p>'
    """
    if len(html) > TEXT_MAX:
        raise TooLarge(f"A draft has at most {TEXT_MAX:,} characters of HTML.", "Split it into two pages.")
    if nests(html.encode()) > DEPTH_MAX:
        raise TooLarge(f"Elements of this draft nest more than {DEPTH_MAX} deep.", "Paste it as plain text.")
    kept = nh3.clean(
        html, tags={*_ELEMENTS, "b", "i", "div"}, attributes={"*": set(), "a": {"href"}, "img": {"alt", "title", "src"}},
        url_schemes={"http", "https", "mailto"}, link_rel=None, strip_comments=True,
    )  # fmt: skip
    tree = LexborHTMLParser(f"<body>{kept}</body>")
    body = tree.body
    if body is None:
        return ""
    result: list[str] = []
    line: list[str] = []  # words outside a block
    for node in _top_level(body):
        if node is not None and node.tag not in _BLOCKS:
            line.append(_described(node))
            continue
        result += _paragraph(line)
        line = []
        if node is not None:
            result.append(_described(node).strip())
    blocks = [one for one in [*result, *_paragraph(line)] if one not in _EMPTY]
    if len(blocks) > BLOCKS_MAX:
        raise TooLarge(f"A draft has at most {BLOCKS_MAX:,} paragraphs, headings and lists.", "Split it into two pages.")
    return "\n".join(blocks)


def _top_level(body: LexborNode) -> Iterator[LexborNode | None]:
    """The top-level elements and texts in one pass, with a `div` replaced by its contents; None where a div, and so a line,
    begins or ends.
    """
    waiting: list[LexborNode | None] = list(reversed(list(body.iter(include_text=True))))
    while waiting:
        node = waiting.pop()
        if node is None or node.tag != "div":
            yield node
        else:
            yield None
            waiting.append(None)
            waiting.extend(reversed(list(node.iter(include_text=True))))


def _paragraph(line: Iterable[str]) -> list[str]:
    text = "".join(line).strip()
    return [f"<p>{text}</p>"] if text else []


def _described(node: LexborNode) -> str:
    html = node.html or ""
    for one, other in _SAME:
        html = re.sub(rf"<(/?){one}>", rf"<\1{other}>", html)
    html = re.sub(r"</?div>", "", html)
    return re.sub(r"<img\b[^>]*>", _picture, html).replace("\n", " ")


def _picture(found: re.Match[str]) -> str:
    node = LexborHTMLParser(found[0]).css_first("img")
    result = node.attributes if node else {}
    source = (result.get("src") or "").partition("?")[0]
    name = result.get("title") or ("" if source.startswith("data:") else source.rstrip("/").rpartition("/")[2])
    return f'<img alt="{escape(result.get("alt") or "")}" title="{escape(name[:200])}">'


def fitting(html: str) -> str:
    """A text of blocks shortened to what a draft may hold."""
    blocks, length = blocks_of(html)[:BLOCKS_MAX], 0
    for number, block in enumerate(blocks):
        length += len(block) + 1
        if length > TEXT_MAX:
            return "\n".join(blocks[:number])
    return "\n".join(blocks)


def blocks_of(html: str) -> list[str]:
    """The blocks of a sanitised text."""
    return [line for line in html.split("\n") if line]


def content_of(html: str) -> str:
    """A text in the format of crawled pages (core.pages.content), so both are read the same way."""
    return read_page(f"<main>{html}</main>", "https://draft.example/").content or ""


def pictures_of(html: str) -> list[tuple[str, str]]:
    """Name and alternative text of each picture."""
    return [
        (node.attributes.get("title") or "", node.attributes.get("alt") or "") for node in LexborHTMLParser(html).css("img")
    ]


def links_of(html: str) -> list[tuple[str, str]]:
    """Address and anchor text of each link."""
    found = [(node.attributes.get("href") or "", " ".join(node.text().split())) for node in LexborHTMLParser(html).css("a")]
    return [one for one in found if one[0]]


def of_content(pieces: Iterable[tuple[Kind, str]], links: Mapping[str, str]) -> str:
    r"""A crawled page's content as a draft. `pieces` include link marks; `links`: anchor texts and their targets.

    >>> of_content([("h1", "Carts"), ("ul", ""), ("li", "See \x02ours\x03"), ("img", "a cart")], {"ours": "/carts/"})
    '<h1>Carts</h1>\n<ul><li>See <a href="/carts/">ours</a></li></ul>\n<p><img alt="a cart" title=""></p>'
    """
    result: list[str] = []
    current: list[str] = []  # of the current list or table
    within: Kind | None = None
    for kind, text in [*pieces, ("p", "")]:
        if kind in _OF_LISTS and within is not None:
            current.append(_linked(text, links))
            continue
        if current and within is not None:
            result.append(_together(within, current))
        within, current = (kind if kind in ("ul", "ol", "table") else None), []
        if kind == "img":
            result.append(f'<p><img alt="{escape(text)}" title=""></p>')
        elif text:
            name = kind if kind in HEADINGS else "p"
            result.append(f"<{name}>{_linked(text, links)}</{name}>")
    return "\n".join(result)


def _together(kind: Kind, current: list[str]) -> str:
    """Items as a list; for a table only cells are known, so each becomes a row."""
    if kind == "table":
        return f"<table><tbody>{''.join(f'<tr><td>{one}</td></tr>' for one in current)}</tbody></table>"
    return f"<{kind}>{''.join(f'<li>{one}</li>' for one in current)}</{kind}>"


def _linked(text: str, links: Mapping[str, str]) -> str:
    result = []
    for number, part in enumerate(re.split(f"{LINK_OPENS}([^{LINK_CLOSES}]*){LINK_CLOSES}?", text)):
        address = links.get(" ".join(part.split())) if number % 2 else None
        words = escape(part, quote=False)
        result.append(f'<a href="{escape(address)}">{words}</a>' if address else words)
    return "".join(result)
