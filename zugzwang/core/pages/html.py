"""A page's content, links and directives from its HTML (selectolax); and its click depth.

Body and navigation: a link is in navigation where an ancestor is nav, header, footer or aside, or has the role navigation;
all other links are in the body. The page's content, in pieces (core.pages.content), is taken from `main`, otherwise from
`body`, without navigation, footers and asides, page headers, scripts and styles.
"""

import json
import re
from collections import Counter, deque
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from selectolax.lexbor import LexborHTMLParser, LexborNode

from zugzwang.core.facts.addresses import normal, parts, resolve
from zugzwang.core.pages.content import LINK_CLOSES, LINK_OPENS, Kind, running_text, without_marks, written

CONTENT_MAX = 200_000  # characters that are stored; words are counted over the whole text
MAIN_TEXT_MAX = 20_000
ANCHOR_MAX = 300
HTML_TYPES = ("text/html", "application/xhtml+xml")
DEPTH_MAX = 400  # pages made by people stay below a hundred
_TAG = re.compile(rb"<(/?)([a-zA-Z][a-zA-Z0-9]{0,20})")
_ENDLESS = frozenset(
    b"area base br col embed hr img input link meta param source track wbr p li dt dd tr td th thead tbody tfoot option path "
    b"html head body".split()
)
LinkRow = tuple[str, str, str, bool, bool]  # from, to, anchor, in body, followed
_NOT_FOLLOWED = {"nofollow", "sponsored", "ugc"}
_NAVIGATION = "nav, header, footer, aside, [role=navigation]"
_BESIDE = "nav, footer, aside, [role=navigation]"
_SECTIONS = frozenset(("main", "article", "section"))
_SILENT = "script, style, noscript, template, svg"
_WORD = re.compile(r"[^\W_]+(?:['’-][^\W_]+)*")
_PARTS = (
    "p", "div", "section", "article", "main", "header", "blockquote", "pre", "dl", "dt", "dd", "figure", "figcaption", "form",
    "fieldset", "address", "details", "summary", "hr", "body", "tr", "thead", "tbody", "tfoot", "caption",
)  # fmt: skip
# Elements that start a new piece; all others belong to the current line.
_BLOCKS: dict[str, Kind] = {
    **dict.fromkeys(_PARTS, "p"),
    **{name: name for name in ("h1", "h2", "h3", "h4", "h5", "h6", "li", "td", "ul", "ol", "table")},
    "th": "td",
}  # fmt: skip
_EMPTY_LINK = re.compile(rf"{LINK_OPENS}\s*{LINK_CLOSES}")
_PLAYERS = re.compile(r"video|player|embed", re.IGNORECASE)


@dataclass(frozen=True)
class Link:
    """A link on a page; `address` is absolute, without fragment."""

    address: str
    anchor: str
    in_body: bool
    followed: bool


@dataclass
class PageSays:
    """The values read from a page; texts are null where the page has none."""

    title: str | None = None
    description: str | None = None
    canonical: str | None = None
    robots: str | None = None
    titles: int = 0
    descriptions: int = 0
    headings: list[str] = field(default_factory=list)
    content: str | None = None
    words: int = 0
    images: int = 0
    images_without_text: int = 0
    structured_data: list[str] = field(default_factory=list)
    links: list[Link] = field(default_factory=list)

    @property
    def main_text(self) -> str | None:
        """The beginning of the running text."""
        return running_text(self.content or "")[:MAIN_TEXT_MAX] or None


def read_page(html: str | bytes, address: str) -> PageSays:
    """Read the page at `address`. No input is rejected: HTML is parsed as browsers parse it."""
    tree = LexborHTMLParser(html)
    page = PageSays()
    base_node = tree.css_first("base[href]")
    base = resolve(address, (base_node.attributes.get("href") or "").strip()) if base_node else address
    titles = [text for node in tree.css("head title, body > title") if (text := _text(node))]
    page.title, page.titles = (titles[0] if titles else None), len(titles)
    page.robots = ", ".join(_metas(tree, "robots")) or None
    descriptions = _metas(tree, "description")
    page.description, page.descriptions = (", ".join(descriptions) or None), len(descriptions)
    canonical = tree.css_first("link[rel~=canonical][href]")
    if canonical is not None:
        page.canonical = _absolute(base, canonical.attributes.get("href"))
    page.headings = [f"{node.tag} {text}" for node in tree.css("h1, h2, h3, h4, h5, h6") if (text := _text(node))]
    page.images = len(tree.css("img"))
    page.images_without_text = sum(1 for node in tree.css("img:not([alt])"))
    page.structured_data = _structured_data(tree)
    page.links = list(_links(tree, base, page.robots))
    _content(tree, page)  # last, because it removes parts of the tree
    return page


def nests(html: bytes) -> int:
    """The maximum nesting depth of elements, because tree readers slow down disproportionately with depth. Elements without
    end tags are not counted, and an end tag closes only an open element of its name.
    """
    depth = deepest = 0
    is_open: Counter[bytes] = Counter()
    for end, name in _TAG.findall(html):
        name = name.lower()
        if name in _ENDLESS or (end and not is_open[name]):
            continue
        step = -1 if end else 1
        is_open[name] += step
        depth += step
        deepest = max(deepest, depth)
    return deepest


def _text(node: LexborNode | None) -> str | None:
    if node is None:
        return None
    return " ".join(node.text(deep=True, separator=" ").split()) or None


def _metas(tree: LexborHTMLParser, name: str) -> list[str]:
    """The contents of meta elements with a name, ignoring case."""
    found = [
        node.attributes.get("content") or ""
        for node in tree.css("meta[name]")
        if (node.attributes["name"] or "").lower() == name
    ]
    return [" ".join(content.split()) for content in found if content.strip()]


def _links(tree: LexborHTMLParser, base: str, robots: str | None) -> Iterable[Link]:
    page_follows = "nofollow" not in (robots or "").lower() and "none" not in (robots or "").lower().split(",")
    in_navigation = {node.mem_id for part in tree.css(_NAVIGATION) for node in part.css("a[href]")}
    known: dict[str | None, str | None] = {}  # pages repeat their links, and resolving takes longest
    for node in tree.css("a[href]"):
        result = node.attributes
        reference = result["href"]
        address = known[reference] if reference in known else known.setdefault(reference, _absolute(base, reference))
        if address is None:
            continue
        followed = page_follows and not ("rel" in result and _NOT_FOLLOWED & set((result["rel"] or "").lower().split()))
        yield Link(address, (_text(node) or _image_text(node))[:ANCHOR_MAX], node.mem_id not in in_navigation, followed)


def _image_text(node: LexborNode) -> str:
    image = node.css_first("img[alt]")
    return " ".join((image.attributes["alt"] or "").split()) if image else ""


def _absolute(base: str, reference: str | None) -> str | None:
    """The normalised absolute address of a reference, without fragment; None for anything but a web address."""
    values = (reference or "").strip()
    if not values or values.startswith(("#", "javascript:", "mailto:", "tel:", "data:")):
        return None
    try:
        address = normal(resolve(base, values.replace("\\", "/") if values.startswith(("http:\\", "https:\\")) else values))
    except ValueError:
        return None
    if not address.startswith(("http://", "https://")):
        return None
    bare = address.partition("#")[0]
    return bare if parts(bare).host else None


def _structured_data(tree: LexborHTMLParser) -> list[str]:
    """The types named by the page's JSON-LD and microdata, in order, without duplicates: Product, BreadcrumbList …"""
    found: list[str] = []
    for node in tree.css("script[type='application/ld+json']"):
        try:
            _types(json.loads(node.text() or "null"), found, depth=0)
        except (ValueError, RecursionError):
            continue
    for node in tree.css("[itemtype]"):
        found += [kind.rstrip("/").rpartition("/")[2] for kind in (node.attributes["itemtype"] or "").split()]
    return list(dict.fromkeys(kind for kind in found if kind))


def _types(current: object, found: list[str], depth: int) -> None:
    if depth > 20:
        return
    if isinstance(current, Mapping):
        kinds = current.get("@type")
        found += [str(kind).rpartition("/")[2] for kind in (kinds if isinstance(kinds, list) else [kinds]) if kind]
        for value in current.values():
            _types(value, found, depth + 1)
    elif isinstance(current, list):
        for value in current:
            _types(value, found, depth + 1)


def _content(tree: LexborHTMLParser, page: PageSays) -> None:
    main = tree.css_first("main") or tree.css_first("[role=main]") or tree.body
    if main is None:
        return
    for node in main.css(f"{_BESIDE}, {_SILENT}"):
        node.decompose()
    for node in main.css("header"):
        if not _within_section(node):
            node.decompose()
    pieces = _Pieces()
    _walk(main, pieces)
    page.words = sum(len(_WORD.findall(text)) for kind, text in pieces.held if kind != "img")
    page.content = written(pieces.held)[:CONTENT_MAX] or None


def _within_section(node: LexborNode) -> bool:
    above = node.parent
    while above is not None:
        if above.tag in _SECTIONS:
            return True
        above = above.parent
    return False


class _Pieces:
    """The pieces found so far, and the line being read."""

    def __init__(self) -> None:
        self.held: list[tuple[Kind, str]] = []
        self.line: list[str] = []
        self.kind: Kind = "p"
        self.linked = False

    def link(self, opens: bool) -> None:
        self.linked = opens
        self.line.append(LINK_OPENS if opens else LINK_CLOSES)

    def end(self, kind: Kind) -> None:
        """End the current line and start one of the given kind. A link that spans both is marked in both."""
        if self.linked:
            self.line.append(LINK_CLOSES)
        text = " ".join(_EMPTY_LINK.sub("", "".join(self.line)).split())
        if text:
            self.held.append((self.kind, text))
        self.line, self.kind = [LINK_OPENS] if self.linked else [], kind


def _walk(main: LexborNode, pieces: _Pieces) -> None:
    """Walk a tree from top to bottom without recursion: pages nest deeper than Python's stack allows."""
    # What remains to do, the next item last: a node, or the end of one – the kind that continues after a block, or a link.
    waiting: list[LexborNode | Kind | None] = [main]
    while waiting:
        node = waiting.pop()
        if node is None:
            pieces.link(opens=False)
        elif isinstance(node, str):
            pieces.end(node)
        elif node.tag == "-text":
            pieces.line.append(without_marks(node.text_content or ""))
        else:
            _open(node, pieces, waiting)
            waiting.extend(reversed(list(node.iter(include_text=True))))
    pieces.end("p")


def _open(node: LexborNode, pieces: _Pieces, waiting: list[LexborNode | Kind | None]) -> None:
    tag = node.tag
    kind = _BLOCKS.get(tag or "")
    if kind is not None:
        within = pieces.kind
        # A paragraph within a heading, an item or a cell is part of it.
        pieces.end(within if kind == "p" and within != "p" and tag in ("p", "div", "section") else kind)
        if kind in ("ul", "ol", "table"):
            pieces.held.append((kind, ""))
            pieces.kind = "p"
        waiting.append(within)
    elif tag == "a" and "href" in node.attributes:
        pieces.link(opens=True)
        waiting.append(None)
    elif tag == "img" and (text := " ".join((node.attributes.get("alt") or "").split())):
        pieces.held.append(("img", text))
    elif tag == "video" or (tag == "iframe" and _PLAYERS.search(node.attributes.get("src") or "")):
        pieces.held.append(("video", ""))
    elif tag == "br":
        pieces.line.append(" ")


def read_reply(
    address: str, status: int, content_type: str, robots_header: str, location: str | None, body: bytes
) -> tuple[dict[str, Any], list[LinkRow]]:
    """A response as a row of CRAWL_PAGES and rows of CRAWL_LINKS (grains.py). Plain values, so it can run in a separate
    process.
    """
    row: dict[str, Any] = {"address": address, "status": status, "redirect_to": location}
    if not 200 <= status < 300 or not content_type.startswith(HTML_TYPES):
        if 200 <= status < 300:
            row["problem"] = f"no page: {content_type or 'no type'}"
        return row, []
    if nests(body) > DEPTH_MAX:
        return {**row, "problem": "its HTML nests too deep to be read"}, []
    page = read_page(body, address)
    robots = ", ".join(part for part in (page.robots, robots_header) if part) or None
    current = {name: value for name, value in vars(page).items() if name != "links"}
    links = [(address, link.address, link.anchor, link.in_body, link.followed) for link in page.links]
    return {**row, **current, "robots": robots}, links


def depths(starts: Iterable[str], leads_to: Mapping[str, Iterable[str]]) -> dict[str, int]:
    """The number of clicks from the nearest start to each address; a redirect is one step.

    `leads_to`: the addresses that each page links or redirects to. Unreachable addresses are left out.
    """
    found = dict.fromkeys(starts, 0)
    waiting = deque(found)
    while waiting:
        address = waiting.popleft()
        for target in leads_to.get(address, ()):
            if target not in found:
                found[target] = found[address] + 1
                waiting.append(target)
    return found
