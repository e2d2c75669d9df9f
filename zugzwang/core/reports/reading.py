"""A report as one self-contained HTML page, without scripts and with its pictures embedded."""

import base64
from html import escape

import nh3
from markdown_it import MarkdownIt

from zugzwang.core.reports.blocks import Block, Chart, Document, OwnWords, Sentence, Table

_MARKDOWN = MarkdownIt("commonmark", {"html": False})
_STYLE = """
body{font:16px/1.5 Georgia,serif;color:#211d18;background:#f5f1e8;margin:0}
main{max-width:46rem;margin:0 auto;padding:2rem 1.2rem}
h1{font-size:1.9rem;line-height:1.2;margin:.2em 0}
h2{font-size:1.25rem;border-bottom:2px solid ACCENT;padding-bottom:.15em;margin-top:2em}
p.lead{font-size:1.15rem} .faint{color:#655c4f} small{color:#655c4f}
table{width:100%;border-collapse:collapse;font-variant-numeric:tabular-nums;font-size:.92rem;margin:.6em 0}
th{font-weight:normal;color:#655c4f;text-align:right;padding:.2em .3em}
td{text-align:right;border-top:1px solid #d8d0bf;padding:.2em .3em}
.logo{float:right;max-width:12rem;max-height:4rem;margin:0 0 1rem 1rem}
.l{text-align:left;overflow-wrap:anywhere} figure{margin:1em 0} svg{width:100%;height:auto} nav a{display:block;color:inherit}
"""


def as_page(document: Document) -> str:
    parts = "".join(
        f'<h2 id="part-{at}">{escape(part.title)}</h2>{"".join(_block(one) for one in part.blocks)}'
        for at, part in enumerate(document.parts)
    )
    contents = "".join(f'<a href="#part-{at}">{escape(part.title)}</a>' for at, part in enumerate(document.parts))
    head = f"<title>{escape(document.title)}</title><style>{_STYLE.replace('ACCENT', document.accent)}</style>"
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="robots" content="noindex">'
        f'<meta name="viewport" content="width=device-width">{head}</head><body><main>'
        f"{_logo(document)}<h1>{escape(document.title)}</h1><p class=faint>{escape(document.subtitle)}</p>"
        f"<nav>{contents}</nav>{parts}"
        f"<p><small>{escape(document.name)}. {escape(document.contact)}</small></p></main></body></html>"
    )


def _logo(document: Document) -> str:
    if document.logo is None:
        return ""
    # As an image, whatever an SVG contains: browsers neither run scripts nor fetch anything in it.
    kind = "image/png" if document.logo.kind == "png" else "image/svg+xml"
    return f'<img class=logo alt="" src="data:{kind};base64,{base64.b64encode(document.logo.data).decode()}">'


def _block(block: Block) -> str:
    if isinstance(block, Sentence):
        return f"<p{' class=lead' if block.lead else ''}>{escape(block.text)}</p>"
    if isinstance(block, OwnWords):
        return nh3.clean(_MARKDOWN.render(block.markdown))
    if isinstance(block, Chart):
        text = escape(block.text)
        return f'<figure><div role="img" aria-label="{text}">{block.svg}</div><small>{text}</small></figure>'
    return _table(block)


def _table(table: Table) -> str:
    def row(cells: tuple[str, ...], tag: str) -> str:
        return "".join(
            f"<{tag}{' class=l' if at in table.left else ''}>{escape(cell)}</{tag}>" for at, cell in enumerate(cells)
        )

    body = "".join(f"<tr>{row(one, 'td')}</tr>" for one in table.rows)
    return f"<table><thead><tr>{row(table.head, 'th')}</tr></thead><tbody>{body}</tbody></table>"
