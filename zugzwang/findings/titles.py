"""Problems of titles and descriptions, and each page's main query."""

from typing import Any

import polars as pl

from zugzwang.core.clicks.headroom import Target
from zugzwang.core.facts.periods import Period
from zugzwang.core.facts.search import ROW
from zugzwang.core.words import sentences
from zugzwang.core.words.pixels import DESCRIPTION_PX, TITLE_PX, width
from zugzwang.core.words.titles import Problem, SnippetTexts, main_queries, problems_of, remedy
from zugzwang.core.worth.moves import Suggestion
from zugzwang.data.cache import cached
from zugzwang.data.decided import chosen_main_queries
from zugzwang.data.models import Query
from zugzwang.data.snapshot import Setting, Snapshot
from zugzwang.findings.columns import LOST_MONTH, PAGE, PAGES, PART
from zugzwang.findings.finding import Column, Finding, Found, Proposal, Proposes
from zugzwang.findings.lenses import all_stakes
from zugzwang.findings.pages import decided_pages, page_entries
from zugzwang.findings.view import View, ViewOptions

CANDIDATES = 5  # candidates for a page's main query, largest first
Chosen = tuple[tuple[int, int], ...]


@cached
def proposed_main_queries(
    snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int, target: Target
) -> dict[int, int]:
    """The suggested main query of each page."""
    rows = snapshot.facts.appraisal(period, setting).rows.filter(~pl.col("branded"), pl.col("query") > 0, pl.col("page") > 0)
    stakes = all_stakes(snapshot, period, setting, min_impressions, target).select(*ROW, "opportunity")
    missing = (pl.col("expected_clicks") - pl.col("clicks")).clip(0)
    frame = rows.join(stakes, on=ROW, how="left").with_columns(size=pl.col("clicks") + pl.coalesce("opportunity", missing))
    first = frame.sort("size", "impressions", descending=True).group_by("page", maintain_order=True).head(CANDIDATES)
    fitting = first.join(snapshot.pages.fits(first.select(ROW)).select(*ROW, "fit"), on=ROW, how="left")
    candidates: dict[int, list[tuple[int, float, str | None]]] = {}
    for page, query, size, fit in fitting.select(*ROW, "size", "fit").iter_rows():
        candidates.setdefault(page, []).append((query, size, fit))
    return main_queries(candidates)


def main_queries_of(view: View) -> dict[int, int]:
    """The main query of each page: as chosen, otherwise as suggested."""
    proposed = proposed_main_queries(view.snapshot, view.period, view.setting, view.min_impressions, view.options.target)
    return {**proposed, **chosen_main_queries(view.site)}


@cached
def _titles(
    snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int, target: Target, chosen: Chosen
) -> pl.DataFrame:
    """Every indexable page with a problem; largest loss first."""
    pages = _found_pages(snapshot)
    if pages.is_empty():
        return pl.DataFrame(schema={**_SCHEMA, "opportunity": pl.Float64})
    main = {**proposed_main_queries(snapshot, period, setting, min_impressions, target), **dict(chosen)}
    texts = dict(snapshot.names.known_texts(Query, pl.Series(sorted(set(main.values())), dtype=pl.UInt32)).iter_rows())
    shown = snapshot.serps.shown_titles()
    same = {name: _counts(pages[name]) for name in ("title", "description")}
    language = snapshot.rules.language
    rows: list[dict[str, Any]] = []
    for page in pages.iter_rows(named=True):
        query = main.get(page["page"])
        captured = shown.get(page["page"], {})
        lines = captured.get(query) if query is not None else None
        result = SnippetTexts(
            page["title"], page["description"], page["heading"], page["titles"], page["descriptions"],
            shown_title=next((title for title, _ in ([lines] if lines else captured.values()) if title), None),
            shown_description=lines[1] if lines else None,
            main_query=texts.get(query) if query is not None else None,
        )  # fmt: skip
        others = {name: counts.get(_same(page[name]), 1) - 1 for name, counts in same.items()}
        found = problems_of(result, others["title"], others["description"], language)
        if found:
            rows.append(_row(page, query, found))
    entries = page_entries(snapshot, period, setting, min_impressions, target)
    lost = entries.group_by("page").agg(pl.col("snippet").sum().alias("opportunity"))
    title_rows = (
        pl.DataFrame(rows, schema=_SCHEMA).join(lost, on="page", how="left").with_columns(pl.col("opportunity").fill_null(0.0))
    )
    return title_rows.sort("opportunity", "page", descending=[True, False])


_SCHEMA: dict[str, Any] = {
    "page": pl.UInt32, "title": pl.String, "title_characters": pl.UInt32, "title_pixels": pl.Float64, "description": pl.String,
    "description_characters": pl.UInt32, "description_pixels": pl.Float64, "heading": pl.String, "type": pl.String,
    "problems": pl.List(pl.String), "main_query": pl.UInt32, "what_to_do": pl.String,
}  # fmt: skip


def _row(page: dict[str, Any], query: int | None, problems: list[Problem]) -> dict[str, Any]:
    title, description = page["title"] or "", page["description"] or ""
    return {
        **{name: page[name] for name in ("page", "title", "description", "heading", "type")},
        "title_characters": len(title), "title_pixels": width(title, TITLE_PX),
        "description_characters": len(description), "description_pixels": width(description, DESCRIPTION_PX),
        "problems": list(problems), "main_query": query, "what_to_do": remedy(problems),
    }  # fmt: skip


def _same(text: str | None) -> str:
    return " ".join((text or "").lower().split())


def _counts(texts: pl.Series) -> dict[str, int]:
    counted = pl.Series("text", [_same(text) for text in texts.to_list()]).value_counts()
    return {text: count for text, count in counted.iter_rows() if text}


def _found_pages(snapshot: Snapshot) -> pl.DataFrame:
    """The indexable pages except listings: answered with 200, not noindex."""
    kept_out = pl.col("robots").fill_null("").str.to_lowercase().str.contains(r"\b(noindex|none)\b")
    facets = snapshot.pages.every().select("page", "type")
    rows = snapshot.pages.crawled_pages().join(facets, on="page", how="left").filter(pl.col("status") == 200, ~kept_out)
    return rows.filter(~pl.col("type").fill_null("").is_in(snapshot.pages.exempt_types("queries"))).sort("page")


def find_titles(view: View) -> Found:
    """The pages whose titles or descriptions have a problem."""
    chosen = tuple(sorted(chosen_main_queries(view.site).items()))
    rows = _titles(view.snapshot, view.period, view.setting, view.min_impressions, view.options.target, chosen)
    rows = rows.with_columns(lost_month=pl.col("opportunity") * view.month_share)
    pages = _found_pages(view.snapshot).height
    return Found(rows, {"pages": pages}, [] if pages else [sentences.NEEDS_CRAWL])


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    if found.lacking:
        return found.lacking
    return [sentences.titles(rows.height, found.behind["pages"], extras["by_problem"], float(rows["lost_month"].sum()))]


def _extras(view: View, found: Found, rows: pl.DataFrame) -> dict[str, Any]:
    counted = rows.select(pl.col("problems").explode()).to_series().value_counts(sort=True)
    return {"by_problem": dict(counted.drop_nulls().iter_rows())}


def _with_problem(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    wanted = pl.lit(list(view.options.problem), dtype=pl.List(pl.String))
    return rows.filter(pl.col("problems").list.set_intersection(wanted).list.len() > 0)


_MOVE = Suggestion("rewrite", "hour", "snippet")


def _propose(view: View, rows: pl.DataFrame) -> list[Proposal]:
    return [
        Proposal(_MOVE, row["lost_month"], None, "too little data", sentences.reason_title(row["problems"]))
        for row in rows.iter_rows(named=True)
    ]


TITLES = Finding(
    name="titles",
    place=("on-page", 2),
    title="Titles",
    question="Which titles and descriptions are missing, doubled, cut off, or do not say what the page is searched for?",
    method="titles-and-descriptions",
    needs=(("crawl",),),
    claims=("page", "pages"),
    order="lost_month",
    makes=(*PART, "min_impressions", "branded", "target", "curve"),
    chooses=(*PAGES, "text", "problem", "decided"),
    columns=(
        PAGE.listed("page, title", "the page and its title"),
        LOST_MONTH.listed(),
        Column("problems", "words", "problems", "what is wrong with the title or the description", shown="list"),
        Column("title", "text", "title", "the title of the page", null=True, low=True),
        Column("title_characters", "count", "characters", "characters of the title", "characters", "extra"),
        Column("title_pixels", "amount", "width", "width of the title in pixels; cut off at 600", "pixels", "list"),
        Column("description", "text", "description", "the description of the page", null=True, low=True),
        Column(
            "description_characters", "count", "description characters", "characters of the description", "characters", "extra"
        ),
        Column(
            "description_pixels",
            "amount",
            "description width",
            "width of the description in pixels; cut off at 960",
            "pixels",
            "extra",
        ),
        Column("heading", "text", "heading", "the main heading", null=True, low=True),
        Column(
            "main_query",
            "query",
            "main query",
            "query with most clicks and opportunity, or your choice",
            shown="extra",
            null=True,
        ),
        Column("opportunity", "amount", "", "what its rows lose by their snippets", "clicks in the period"),
        Column("what_to_do", "text", "what to do", "what to do first", shown="extra"),
        Column("type", "text", "page type", "the type of the page", shown="extra", null=True, low=True),
    ),
    find=find_titles,
    says=_says,
    extras=_extras,
    more={"by_problem": dict[str, int]},
    choose={"problem": _with_problem},
    decided=decided_pages,
    plan=True,
    opens=(ViewOptions(compare="year"),),
    key=("page",),
    proposes=Proposes(_MOVE, fill=_propose),
)
