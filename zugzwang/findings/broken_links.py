"""Links with wrong targets, and anchors without meaning or about another page."""

from typing import Any

import polars as pl

from zugzwang.core.clicks.headroom import Target
from zugzwang.core.facts.periods import Period
from zugzwang.core.links.faults import FAULTS, SCHEMA, from_other_sites, poor_anchors, wrong_targets
from zugzwang.core.words import link_sentences
from zugzwang.data.cache import cached
from zugzwang.data.decided import chosen_main_queries
from zugzwang.data.models import Query
from zugzwang.data.snapshot import Setting, Snapshot
from zugzwang.findings.columns import PAGES, PART
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.titles import Chosen, proposed_main_queries
from zugzwang.findings.view import View, ViewOptions


@cached
def _faults(
    snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int, target: Target, chosen: Chosen
) -> pl.DataFrame:
    """Every problem, wrong targets first."""
    links, crawled = snapshot.links.inner_links(), snapshot.pages.crawled()
    main = {**proposed_main_queries(snapshot, period, setting, min_impressions, target), **dict(chosen)}
    texts = dict(snapshot.names.known_texts(Query, pl.Series(sorted(set(main.values())), dtype=pl.UInt32)).iter_rows())
    words = {page: texts[query] for page, query in main.items()}
    between = links.drop_nulls(["source", "target"])
    found = pl.concat(
        [
            wrong_targets(links.drop_nulls("source"), crawled),
            from_other_sites(snapshot.links.outer_links(), crawled),
            poor_anchors(between, words, snapshot.rules.language),
        ]
    )
    return found.sort(pl.col("fault").to_physical(), pl.col("pages"), "to", "from", descending=[False, True, False, False])


def find_faults(view: View) -> Found:
    if view.snapshot.links.inner_links().is_empty():
        return Found(SCHEMA.to_frame(), {"links": 0}, [link_sentences.NEEDS_LINKS])
    chosen = tuple(sorted(chosen_main_queries(view.site).items()))
    rows = _faults(view.snapshot, view.period, view.setting, view.min_impressions, view.options.target, chosen)
    return Found(rows, {"links": view.snapshot.links.inner_links().height})


def _by_fault(rows: pl.DataFrame) -> dict[str, int]:
    return {fault: number for fault in FAULTS if (number := rows.filter(pl.col("fault") == fault).height)}


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    return found.lacking or link_sentences.faults(_by_fault(rows))


def _extras(view: View, found: Found, rows: pl.DataFrame) -> dict[str, Any]:
    return {"by_fault": _by_fault(found.rows)}


def _with_fault(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    return rows.filter(pl.col("fault").cast(pl.String).is_in(list(view.options.fault)))


def _with_text(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    holds = [
        pl.col(name).str.to_lowercase().str.contains(view.words.lower(), literal=True) for name in ("from", "to", "anchor")
    ]
    return rows.filter(pl.any_horizontal(*holds).fill_null(False))


BROKEN_LINKS = Finding(
    name="broken-links",
    place=("links", 5),
    title="Broken links",
    question="Which links lead to redirects or gone pages, and which anchors say nothing or mean another page?",
    method="links-between-pages",
    needs=(("crawl", "page-links"),),
    claims=("link", "links"),
    order="fault",
    makes=(*PART, "min_impressions", "target", "curve"),
    chooses=(*PAGES, "text", "fault"),
    columns=(
        Column("from", "text", "link on, to", "page with the link, and its target", shown="list", low=True),
        Column("to", "text", "to", "link target", low=True),
        Column("anchor", "text", "anchor", "its words", shown="list", null=True, low=True),
        Column("fault", "word", "problem", "what is wrong with the link", shown="list", choices=FAULTS, low=True),
        Column("pages", "count", "on pages", "number of pages with it, if it is in the navigation", "pages", "list"),
        Column("leads_to", "text", "moved to", "target of the redirect", shown="extra", null=True, low=True),
        Column("in_body", "flag", "in body", "whether it is in the body of the page", shown="extra", null=True),
        Column("page", "page", "", "the page with the link", null=True),
        Column("target", "page", "", "the page that it leads to", null=True),
    ),
    find=find_faults,
    says=_says,
    extras=_extras,
    more={"by_fault": dict[str, int]},
    choose={"fault": _with_fault, "text": _with_text},
    plan=True,
    opens=(ViewOptions(),),
    key=("page", "from", "to", "anchor", "fault"),
)  # fmt: skip
