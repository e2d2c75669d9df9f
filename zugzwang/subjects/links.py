"""The links of one page: what it has, what it needs, and suggested sources; and the work list as a document."""

import io
from itertools import groupby
from typing import Any

import docx
import polars as pl
from docx.shared import Pt

from zugzwang import bounded
from zugzwang.core.words import link_sentences
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import NotFound
from zugzwang.findings.accepted_links import ACCEPTED_LINKS
from zugzwang.findings.broken_links import BROKEN_LINKS
from zugzwang.findings.linking import linked
from zugzwang.findings.needs_links import NEEDS_LINKS
from zugzwang.findings.suggested_links import SUGGESTED_LINKS, plan_rows
from zugzwang.findings.table import find, returned_rows
from zugzwang.findings.view import View

ANCHORS, SOURCES = 5, 5
LINKS_SHOWN = 50


def links_of(snapshot: Snapshot, page: int) -> dict[str, Any] | None:
    """Links in (pages, those linking from main text, anchors, source pages), links out, and referring domains (None: not
    loaded). None without crawl data on links.
    """
    links = snapshot.links.inner_links()
    if links.is_empty():
        return None
    inward, out = _inward(links, page), _outward(links, page)
    anchors = inward.filter(pl.col("anchor") != "").group_by("anchor").agg(pages=_end("source").n_unique())
    in_body = inward.filter(pl.col("in_body"))
    by_page = in_body.sort("from_address").group_by(_end("source"), maintain_order=True).agg(pl.col("from_address").first())
    named = by_page.head(SOURCES)
    others = snapshot.links.referring_domains()
    return {
        "pages_in": inward.select(_end("source")).n_unique(),
        "pages_in_body": in_body.select(_end("source")).n_unique(),
        "anchors": anchors.sort("pages", "anchor", descending=[True, False]).head(ANCHORS).to_dicts(),
        "from_body": named["from_address"].to_list(),
        "pages_out": out.select(_end("target")).n_unique(),
        "sites": None if others is None else others.get(page, 0),
    }


def _end(side: str) -> pl.Expr:
    """The other end of a link: the page that it counts as, or its address."""
    address = {"source": "from_address", "target": "to_address"}[side]
    return pl.coalesce(pl.col(side).cast(pl.String), pl.col(address))


def _inward(links: pl.DataFrame, page: int) -> pl.DataFrame:
    return links.filter((pl.col("target") == page).fill_null(False), (pl.col("source") != page).fill_null(True))


def _outward(links: pl.DataFrame, page: int) -> pl.DataFrame:
    return links.filter((pl.col("source") == page).fill_null(False), (pl.col("target") != page).fill_null(True))


def tell_links(view: View, page: int) -> dict[str, Any]:
    """A page's links: what it needs, its problems, and suggested links."""
    rows = find(view.only(NEEDS_LINKS.makes), NEEDS_LINKS).rows.filter(pl.col("page") == page)
    if rows.is_empty():
        raise NotFound("This page was not crawled.", link_sentences.NEEDS_LINKS)
    row = returned_rows(view, NEEDS_LINKS, rows).to_dicts()[0]
    links = view.snapshot.links.inner_links()
    faults = find(view.only(BROKEN_LINKS.makes), BROKEN_LINKS).rows
    faults = faults.filter(pl.any_horizontal(pl.col("page") == page, pl.col("target") == page).fill_null(False))
    plan = plan_rows(view, page).rename({"source": "from", "target": "to"})
    current = plan.filter(pl.col("choice") != "refused")
    share = linked(view.snapshot).share_of.filter(pl.col("page") == page)["authority_share"]
    before = float(share[0]) if share.len() else 0.0
    after = float(current["authority_after"][0]) if current.height else before
    return {
        "finding": row,
        "inward": _listed(_inward(links, page), "source", "from_address"),
        "outward": _listed(_outward(links, page), "target", "to_address"),
        "faults": returned_rows(view, BROKEN_LINKS, faults.head(LINKS_SHOWN)).to_dicts(),
        "plan": returned_rows(view, SUGGESTED_LINKS, plan).to_dicts(),
        "sentences": link_sentences.plan(current.height, 1, before, after),
        "authority_before": before,
        "authority_after": after,
    }


def _listed(links: pl.DataFrame, side: str, address: str) -> list[dict[str, Any]]:
    """Links by the page at their other end, body links first: address, page_id, anchors, in_body, followed."""
    by_page = links.group_by(page_id=side, address=address).agg(
        pl.col("anchor").filter(pl.col("anchor") != "").unique().sort().alias("anchors"),
        pl.col("in_body").fill_null(True).any(),
        pl.col("followed").fill_null(True).any(),
    )
    return by_page.sort("in_body", "address", descending=[True, False]).head(LINKS_SHOWN).to_dicts()


def work_document(view: View) -> bytes:
    """The work list as a document (DOCX), by page to edit: each link with its sentence, the words to link in bold."""
    work = returned_rows(view, ACCEPTED_LINKS, find(view, ACCEPTED_LINKS).rows)
    return bounded.run(bounded.EXPORT, _work_file, view.site.name, work)


def _work_file(site: str, work: pl.DataFrame) -> bytes:
    document = docx.Document()
    document.core_properties.author, document.core_properties.title = "", f"Accepted links: {site}"
    document.add_heading(f"Accepted links: {site}", level=1)
    for page, links in groupby(work.iter_rows(named=True), key=lambda row: row["from"]):
        document.add_heading(page, level=2)
        for link in links:
            _entry(document.add_paragraph(style="List Number"), link)
    if work.is_empty():
        document.add_paragraph(link_sentences.work({}, 0)[0])
    file = io.BytesIO()
    document.save(file)
    return file.getvalue()


def _entry(paragraph: Any, link: dict[str, Any]) -> None:
    sentence, anchor = link["sentence"] or "", link["anchor"]
    before, found, behind = sentence.partition(anchor) if anchor else (sentence, "", "")
    if found:
        paragraph.add_run(before)
        paragraph.add_run(found).bold = True
        paragraph.add_run(behind)
    else:
        paragraph.add_run(f"{sentence} " if sentence else "")
        paragraph.add_run(anchor).bold = True
    to = paragraph.add_run(f"\n→ {link['to']} ({link['state']})")
    to.font.size = Pt(9)
