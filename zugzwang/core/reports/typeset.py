"""A report as a PDF, by typst, which ships in a package. Every text is passed as a string, never as markup, so people's text
cannot become commands. Logos are sanitised before (plan/logo.py).
"""

import base64
import re
from typing import Any

import typst
from markdown_it import MarkdownIt
from markdown_it.token import Token

from zugzwang.core.reports.blocks import Block, Chart, Document, Logo, OwnWords, Part, Sentence, Table, pixels_of

PAGES_MAX, LINK_MAX = 60, 2_000
_MARKDOWN = MarkdownIt("commonmark", {"html": False})
_HEAD = """
#set document(title: {title}, author: {name})
#set page(paper: "a4", margin: (x: 2.2cm, top: 2.4cm, bottom: 2.2cm),
  header: context if counter(page).get().first() > 1 [#set text(9pt, fill: luma(90)); #{name_text} #h(1fr) #{title_text}],
  footer: context [#set text(9pt, fill: luma(90)); #{contact_text} #h(1fr) #counter(page).display("1 / 1", both: true)])
#set text(font: "Libertinus Serif", size: 10.5pt, number-width: "tabular", lang: "en")
#set par(justify: false, leading: 0.62em)
#show heading.where(level: 1): it => block(above: 1.6em, below: 0.8em, width: 100%, stroke: (bottom: 0.8pt + rgb({accent})),
  inset: (bottom: 3pt), text(15pt, it.body))
#context if counter(page).final().first() > {pages_max} { panic("{too_long}") }
#show table.cell.where(y: 0): set text(9pt, fill: luma(90))
#set table(stroke: (x, y) => (bottom: 0.4pt + luma(200)), inset: (x: 3pt, y: 3.5pt))
"""

_PLACES = re.compile(r"\{(title|name|name_text|title_text|contact_text|accent|pages_max|too_long)\}")
_TOO_LONG = "more pages than the limit"
SHORT_TEXT = 14  # characters of a text that a table never breaks
_LINKS = ("https://", "http://", "mailto:")


class TypesettingError(ValueError):
    """A report that cannot be typeset; the message says why."""


def as_pdf(document: Document) -> bytes:
    """The report as PDF. Raises TypesettingError beyond PAGES_MAX pages. Its cost depends on people's texts, so run it
    bounded.
    """
    return bytes(_compiled(document))


def as_pictures(document: Document, dots_an_inch: float = 80.0) -> list[bytes]:
    """Each page of the PDF as PNG."""
    made = _compiled(document, format="png", ppi=dots_an_inch)
    return [bytes(one) for one in made] if isinstance(made, list) else [bytes(made)]


def _compiled(document: Document, **how: Any) -> Any:
    try:
        return typst.compile(source_of(document).encode(), **how)
    except RuntimeError as error:
        if _TOO_LONG in str(error):
            raise TypesettingError(f"The report has more than {PAGES_MAX} pages.") from None
        raise TypesettingError(f"The report cannot be typeset: {str(error)[:200]}") from None


def source_of(document: Document) -> str:
    """The document in typst's language."""
    values = {
        "title": _string(document.title), "name": _string(document.name), "name_text": _text(document.name),
        "title_text": _text(document.title), "contact_text": _text(document.contact), "accent": _string(document.accent),
        "pages_max": str(PAGES_MAX), "too_long": _TOO_LONG,
    }  # fmt: skip
    # In one pass: braces within a value are not placeholders.
    head = _PLACES.sub(lambda found: values[found[1]], _HEAD)
    front = (
        f'{_logo(document)}#v(0.6cm)\n#block(text(22pt, weight: "bold", {_string(document.title)}))\n'
        f"#block(text(12pt, fill: luma(90), {_string(document.subtitle)}))\n#v(0.4cm)\n#outline(title: none, depth: 1)\n"
    )
    return head + front + "\n".join(_part(one) for one in document.parts)


def _logo(document: Document) -> str:
    if document.logo is None:
        return ""
    # Typst takes only text, so the PNG is embedded in an SVG. At most 1.6 cm high and 6 cm wide.
    drawing = f"bytes({_string(_as_drawing(document.logo))})"
    return f'#align(right, image({drawing}, format: "svg", height: 1.6cm, width: 6cm, fit: "contain"))\n'


def _as_drawing(logo: Logo) -> str:
    if logo.kind == "svg":
        return logo.data.decode()
    wide, high = pixels_of(logo.data)
    current = base64.b64encode(logo.data).decode()
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide} {high}">'
        f'<image width="{wide}" height="{high}" href="data:image/png;base64,{current}"/></svg>'
    )


def _part(part: Part) -> str:
    return f"#heading(level: 1, {_string(part.title)})\n" + "\n".join(_block(one) for one in part.blocks)


def _block(block: Block) -> str:
    if isinstance(block, Sentence):
        return f"#par(text({'12pt, ' if block.lead else ''}{_string(block.text)}))"
    if isinstance(block, OwnWords):
        return own_words(block.markdown)
    if isinstance(block, Chart):
        picture = f"image(bytes({_string(block.svg)}), width: 100%, alt: {_string(block.text)})"
        return f"#block(breakable: false, {{{picture}; text(9pt, fill: luma(90), {_string(block.text)})}})"
    return _table(block)


def _table(table: Table) -> str:
    # Short texts and numbers take what they need; longer texts share the rest in proportion to their longest words.
    longest = [max(len(one) for one in (head, *(row[at] for row in table.rows))) for at, head in enumerate(table.head)]
    shared = [at for at in table.left if longest[at] > SHORT_TEXT] or [min(table.left, default=0)]
    share = [f"{min(longest[at], 4 * SHORT_TEXT)}fr" if at in shared else "auto" for at in range(len(table.head))]
    columns = ", ".join(share)
    align = ", ".join("left" if at in table.left else "right" for at in range(len(table.head)))
    header = f"table.header({', '.join(f'[{_text_call(one)}]' for one in table.head)})"
    body = ", ".join(f"[{_text_call(one)}]" for row in table.rows for one in row)
    return f"#table(columns: ({columns},), align: ({align},), {header}{', ' if body else ''}{body})"


def own_words(markdown: str) -> str:
    """Markdown as typst: paragraphs, lists, strong and emphasised words, links, headings as strong lines."""
    result: list[str] = []
    lists: list[list[str]] = []  # the items of each open list, the innermost last
    heading = False
    for token in _MARKDOWN.parse(markdown):
        if token.type in ("bullet_list_open", "ordered_list_open"):
            lists.append([])
        elif token.type == "list_item_open":
            lists[-1].append("")
        elif token.type in ("bullet_list_close", "ordered_list_close"):
            made = f"#{'list' if token.type.startswith('bullet') else 'enum'}({', '.join(f'[{one}]' for one in lists.pop())})"
            if lists:
                lists[-1][-1] += f" {made}"
            else:
                result.append(made)
        elif token.type in ("heading_open", "heading_close"):
            heading = token.type == "heading_open"
        elif token.type in ("inline", "fence", "code_block"):
            inside = _inline(token.children or []) if token.type == "inline" else _text_call(token.content)
            if lists:
                lists[-1][-1] += f" {inside}"
            else:
                result.append(f"#par(strong[{inside}])" if heading else f"#par[{inside}]")
    return "\n".join(result)


def _inline(tokens: list[Token]) -> str:
    opens = {"strong_open": "#strong[", "em_open": "#emph["}
    result = []
    for token in tokens:
        if token.type in opens:
            result.append(opens[token.type])
        elif token.type == "link_open":
            # Anything but a web or mail address, or one that is too long, becomes plain text.
            address = str(token.attrGet("href") or "")
            is_link = address.lower().startswith(_LINKS) and len(address) <= LINK_MAX
            result.append(f"#link({_string(address)})[" if is_link else "#[")
        elif token.type in ("strong_close", "em_close", "link_close"):
            result.append("]")
        elif token.type in ("softbreak", "hardbreak"):
            result.append(" ")
        elif token.content:
            result.append(_text_call(token.content))
    return "".join(result)


def _string(text: str) -> str:
    r"""A text as a typst string.

    >>> _string('a "b" \\\n#c')
    '"a \\"b\\" \\\\\\n#c"'
    """
    current = text.replace("\\", "\\\\").replace('"', '\\"').replace("\n", "\\n").replace("\r", "")
    return f'"{current}"'


def _text(text: str) -> str:
    return f"text({_string(text)})"


def _text_call(text: str) -> str:
    return f"#text({_string(text)})"
