"""Suggested links: which page should link to which, in which sentence, and the effect."""

from typing import Any

import polars as pl

from zugzwang.core.clicks.headroom import Target
from zugzwang.core.contest.overlapping_pages import shown_alike
from zugzwang.core.facts.periods import Period
from zugzwang.core.links.faults import SAY_NOTHING
from zugzwang.core.links.mentions import sentence_near, sentence_with
from zugzwang.core.links.plan import SCHEMA, after, suggestions
from zugzwang.core.links.similarity import ABOUT_LEAST, alike, most_alike
from zugzwang.core.words import link_sentences
from zugzwang.data.cache import cached
from zugzwang.data.decided import chosen_main_queries, planned_links
from zugzwang.data.dictionary import some
from zugzwang.data.snapshot import Setting, Snapshot
from zugzwang.findings.columns import PAGES, PART
from zugzwang.findings.finding import Column, Finding, Found
from zugzwang.findings.linking import linked, needs_of, page_needs, page_vectors, phrases_of
from zugzwang.findings.mentions import main_mentions
from zugzwang.findings.titles import Chosen
from zugzwang.findings.view import View, ViewOptions

ALIKE_MOST = 60  # candidate sources for each page that needs links
Phrases = tuple[tuple[str, int | None], ...]


@cached
def _shown_alike(snapshot: Snapshot, period: Period, setting: Setting, min_impressions: int) -> pl.DataFrame:
    """Pairs of pages that rank for the same queries, in both directions: target, source, shared_queries."""
    rows = snapshot.facts.appraisal(period, setting).rows.filter(~pl.col("branded"))
    pairs = shown_alike(rows, min_impressions)
    one = pairs.select(target="page", source="other", shared_queries="shared_queries")
    return pl.concat([one, pairs.select(target="other", source="page", shared_queries="shared_queries")])


@cached
def _plan(
    snapshot: Snapshot,
    period: Period,
    setting: Setting,
    min_impressions: int,
    target: Target,
    chosen: Chosen,
    phrases: Phrases,
    page: int | None,
) -> pl.DataFrame:
    """The suggestions (core.links.plan) for one page, or for all that need links; phrase: as text."""
    needs = page_needs(snapshot, period, setting, min_impressions, target)
    wants = needs.filter(pl.col("action") == "needs links")["page"]
    targets = wants if page is None else some(page).alias("page")
    current, words = linked(snapshot), page_vectors(snapshot)
    lines = main_mentions(snapshot, period, setting, min_impressions, target, chosen, phrases, False)
    lines = lines.filter(pl.col("kind") == "not linked", pl.col("target").is_in(targets.implode()))
    lines = lines.select("target", pl.col("page").alias("source"), text="phrase")
    lines = lines.unique(["target", "source"], keep="first", maintain_order=True)
    shown = _shown_alike(snapshot, period, setting, min_impressions).filter(pl.col("target").is_in(targets.implode()))
    speak = most_alike(words, targets, ALIKE_MOST)
    about = speak.group_by("target").agg(pl.col("about").first())
    numbers = {text: number for number, (text, _) in enumerate(phrases)}
    pairs = pl.concat([lines, speak.select("target", "source"), shown.select("target", "source")], how="diagonal")
    pairs = pairs.unique(["target", "source"], keep="first", maintain_order=True).join(
        shown, on=["target", "source"], how="left", maintain_order="left"
    )
    pairs = pairs.with_columns(alike(words, pairs)).join(about, on="target", how="left", maintain_order="left")
    # Pages that rank for the same queries are on one subject, whatever their text.
    candidates = pairs.with_columns(
        similarity=pl.max_horizontal("similarity", "shared_queries"),
        about=pl.min_horizontal(pl.col("about").fill_null(ABOUT_LEAST), "shared_queries"),
        phrase=pl.col("text").replace_strict(numbers, default=None).cast(pl.UInt32),
    )
    may_give = needs.filter(pl.col("action") != "needs links", pl.col("status").fill_null(200) == 200)["page"]
    found = suggestions(current.graph, current.shares, candidates, may_give)
    text = pl.col("phrase").replace_strict(dict(enumerate(numbers)), default=None, return_dtype=pl.String)
    return found.with_columns(phrase=text)


@cached
def _after(snapshot: Snapshot, planned: tuple[tuple[int, int], ...]) -> pl.DataFrame:
    """Authority after setting some links: page, authority_after."""
    current = linked(snapshot)
    links = pl.DataFrame(list(planned), schema={"source": pl.UInt32, "target": pl.UInt32}, orient="row")
    shares = after(current.graph, current.jumps, current.shares, links)
    return pl.DataFrame({"page": current.graph.pages, "authority_after": shares})


def plan_rows(view: View, page: int | None) -> pl.DataFrame:
    """Suggestions with their decisions, and authority now and with all that were not dismissed."""
    chosen = tuple(sorted(chosen_main_queries(view.site).items()))
    phrases = tuple(phrases_of(view).select("phrase", "target").iter_rows())
    found = _plan(view.snapshot, view.period, view.setting, view.min_impressions, view.options.target, chosen, phrases, page)
    decided = pl.DataFrame(
        [(one.source_id, one.target_id, one.choice, one.note) for one in planned_links(view.site)],
        schema={"source": pl.UInt32, "target": pl.UInt32, "choice": pl.String, "note": pl.String},
        orient="row",
    )
    stakes = needs_of(view).select(target="page", stake="opportunity")
    # Pages with the most opportunity come first, each with its best links.
    found = (
        found.join(decided, on=["source", "target"], how="left", maintain_order="left")
        .join(stakes, on="target", how="left", maintain_order="left")
        .sort(pl.col("stake").fill_null(0.0), descending=True, maintain_order=True)
        .drop("stake")
    )
    found = found.with_columns(pl.col("choice").fill_null("open"), pl.col("note").fill_null(""))
    both = linked(view.snapshot).share_of.join(_with_all(view, found), on="page")
    return found.join(both, left_on="target", right_on="page", how="left", maintain_order="left")


def _with_all(view: View, found: pl.DataFrame) -> pl.DataFrame:
    """Authority with all suggested links that were not dismissed: page, authority_after."""
    current = found.filter(pl.col("choice") != "refused").select("source", "target")
    return _after(view.snapshot, tuple(sorted(current.iter_rows())))


def with_whole_plan(view: View) -> pl.DataFrame:
    """Authority of all pages with the links to all pages that need some: page, authority_after."""
    return _with_all(view, plan_rows(view, None))


def find_plan(view: View) -> Found:
    snapshot = view.snapshot
    links = snapshot.links.inner_links().height
    if not links:
        return Found(_EMPTY.to_frame(), {"links": 0, "suggestions": 0}, [link_sentences.NEEDS_LINKS])
    lacking = [] if snapshot.pages.page_words().pages.height else [link_sentences.NEEDS_TEXTS]
    rows = plan_rows(view, view.one_page).rename({"source": "from", "target": "to"})
    return Found(rows.drop("mentioned"), {"links": links, "suggestions": rows.height}, lacking)


_EMPTY = pl.Schema(
    {
        **{{"source": "from", "target": "to"}.get(name, name): kind for name, kind in SCHEMA.items()}, "phrase": pl.String(),
        "choice": pl.String(), "note": pl.String(), "authority_share": pl.Float64(), "authority_after": pl.Float64(),
    }
)  # fmt: skip


def with_sentences(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    """Rows (from, to, phrase) with the sentence for a link, and its anchor: the phrase as written there, otherwise a variant
    of the page's main query that is not yet another page's anchor.
    """
    frame = dict(view.snapshot.pages.contents(rows["from"].unique()).select("page", "content").iter_rows())
    language = view.snapshot.rules.language
    wordings: dict[int, list[str]] = {}
    for phrase, page in (
        phrases_of(view).filter(pl.col("target").is_in(rows["to"].unique().implode())).select("phrase", "target").iter_rows()
    ):
        wordings.setdefault(page, []).append(phrase)
    used = _anchors(view.snapshot)
    result: list[tuple[str | None, str]] = []
    for source, page, phrase in rows.select("from", "to", "phrase").iter_rows():
        content = frame.get(source, "")
        here = sentence_with(content, phrase, language) if phrase else None
        names = wordings.get(page, [])
        free = [name for name in names if used.get(name.lower(), {page}) <= {page}]
        anchor = next(iter([*free, *names]), "")
        result.append(here or (sentence_near(content, anchor, language) if anchor else None, anchor))
    return rows.with_columns(
        pl.Series("sentence", [one for one, _ in result], dtype=pl.String),
        pl.Series("anchor", [one for _, one in result], dtype=pl.String),
    )


@cached
def _anchors(snapshot: Snapshot) -> dict[str, set[int]]:
    """The target pages of each anchor that has a meaning."""
    links = snapshot.links.inner_links().drop_nulls("target").filter(pl.col("in_body").fill_null(True))
    lines = links.with_columns(pl.col("anchor").fill_null("").str.to_lowercase()).filter(
        ~pl.col("anchor").is_in(["", *SAY_NOTHING])
    )
    return {anchor: set(pages) for anchor, pages in lines.group_by("anchor").agg(pl.col("target").unique()).iter_rows()}


def _of_targets(view: View, rows: pl.DataFrame) -> pl.DataFrame:
    wanted = view.chosen(rows.select(page="to").unique())["page"]
    return rows.filter(pl.col("to").is_in(wanted.implode()))


def _says(view: View, found: Found, rows: pl.DataFrame, extras: dict[str, Any]) -> list[str]:
    if rows.is_empty() and found.lacking:
        return found.lacking
    return link_sentences.plan(extras["suggested"], extras["targets"], extras["authority_before"], extras["authority_after"])


def _extras(view: View, found: Found, rows: pl.DataFrame) -> dict[str, Any]:
    current = rows.filter(pl.col("choice") != "refused")
    targets = current.unique("to")
    return {
        "suggested": current.height,
        "targets": targets.height,
        "authority_before": float(targets["authority_share"].sum()),
        "authority_after": float(targets["authority_after"].sum()),
        "by_choice": dict(found.rows.group_by("choice").len().iter_rows()),
    }


def _decided(view: View, rows: pl.DataFrame) -> pl.Series:
    return rows["choice"] != "open"


CHOICES = ("open", "accepted", "refused")
SUGGESTED_LINKS = Finding(
    name="suggested-links",
    place=("links", 2),
    title="Suggested links",
    question="From which pages should a page be linked to, in which sentence, and what would it do?",
    method="suggested-links",
    needs=(("crawl", "page-links"),),
    claims=("link is suggested", "links are suggested"),
    makes=(*PART, "min_impressions", "target", "curve", "page"),
    chooses=(*PAGES, "text", "decided"),
    columns=(
        Column("from", "page", "link from, to", "page to edit, and the link target", shown="list"),
        Column("to", "page", "to", "link target"),
        Column("anchor", "text", "anchor", "anchor text", shown="list", late=True),
        Column("sentence", "text", "sentence", "where the link can go", shown="extra", null=True, late=True),
        Column("phrase", "text", "mentions", "phrase about the target that the page already has", shown="extra", null=True),
        Column("similarity", "share", "alike", "similarity of the two pages", shown="list"),
        Column("authority_passed", "share", "passes on", "share of authority that the link would pass on", shown="list"),
        Column("authority_share", "share", "authority", "link authority of the target", shown="extra"),
        Column("authority_after", "share", "after", "link authority of the target after the whole plan", shown="list"),
        Column("choice", "word", "decided", "whether it was accepted or refused", shown="list", choices=CHOICES, low=True),
        Column("note", "text", "why", "why it was refused", shown="extra"),
    ),
    find=find_plan,
    says=_says,
    dress=with_sentences,
    extras=_extras,
    more={
        "suggested": int, "targets": int, "authority_before": float, "authority_after": float, "by_choice": dict[str, int],
    },
    choose=dict.fromkeys((*PAGES, "text"), _of_targets),
    decided=_decided,
    plan=True,
    opens=(ViewOptions(),),
    key=("from", "to"),
)  # fmt: skip
