"""A draft as a file: Markdown, HTML, and a document (DOCX)."""

import re
from html import escape

import docx
import markdownify
import pycountry
from docx.document import Document
from html4docx import HtmlToDocx

from zugzwang.core.drafts.text import pictures_of


def as_markdown(title: str, description: str, text: str) -> str:
    """Title and description come first, as YAML front matter, which most site builders read."""
    head = f"---\ntitle: {_quoted(title)}\ndescription: {_quoted(description)}\n---\n\n"
    return (
        head + markdownify.markdownify(text, heading_style="ATX", bullets="-", strip=["img"]).strip() + _pictures(text) + "\n"
    )


def _quoted(text: str) -> str:
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"') + '"'


def _pictures(text: str) -> str:
    """Pictures are listed at the end, because they are not stored and links to them would be broken."""
    named = [f"- {alt or 'no text'} ({name or 'no name'})" for name, alt in pictures_of(text)]
    return "\n\nPictures:\n\n" + "\n".join(named) if named else ""


def as_html(title: str, description: str, text: str, language: str) -> str:
    """`language`: its English name in lower case."""
    known = pycountry.languages.get(name=language.capitalize())
    lang = f' lang="{known.alpha_2}"' if known else ""
    head = f'<meta charset="utf-8">\n<title>{escape(title)}</title>\n<meta name="description" content="{escape(description)}">'
    return f"<!doctype html>\n<html{lang}>\n<head>\n{head}\n</head>\n<body>\n{text}\n</body>\n</html>\n"


def as_document(title: str, description: str, text: str) -> Document:
    """Title and description first, as a table; pictures by their alternative text."""
    made = docx.Document()
    made.core_properties.author, made.core_properties.title = "", title
    table = made.add_table(rows=0, cols=2, style="Table Grid")
    for name, value in (("Title", title), ("Description", description)):
        cells = table.add_row().cells
        cells[0].text, cells[1].text = name, value
    made.add_paragraph()
    HtmlToDocx().add_html_to_document(_with_named_pictures(text), made)
    return made


def _with_named_pictures(text: str) -> str:

    return re.sub(r'<img alt="([^"]*)" title="([^"]*)">', r"<em>[Picture: \1 \2]</em>", text)
