"""Sentences about links and what they lack."""

from collections.abc import Mapping

from zugzwang.core.words.sentences import count, few

NEEDS_LINKS = "Internal links are unknown. Crawl the site in Data, or load a table of its internal links."
NEEDS_TEXTS = "Crawl the site: without the text of its pages, mentions and similar pages cannot be found."


def needs(pages: int, links: int, actions: Mapping[str, int]) -> list[str]:
    """Which internal links the pages of a site need.

    >>> needs(10, 40, {"needs links": 1, "fine": 9})[1]
    '1 page needs more internal links: much to gain and little link authority.'
    """
    sentence = [f"{few(links, 'link', 'links')} between {few(pages, 'page', 'pages')}."]
    wants, gives, broken = (actions.get(name, 0) for name in ("needs links", "can link out", "fix"))
    if wants:
        verb = "needs" if wants == 1 else "need"
        sentence.append(f"{few(wants, 'page', 'pages')} {verb} more internal links: much to gain and little link authority.")
    else:
        sentence.append(
            "No page needs more internal links: link authority matches the opportunity, or the page is well linked."
        )
    if gives:
        sentence.append(f"{few(gives, 'page has', 'pages have')} link authority to spare.")
    if broken:
        sentence.append(f"{few(broken, 'page leads', 'pages lead')} nowhere, or to a redirect or a missing page.")
    return sentence


def mentions(phrases: int, by_kind: Mapping[str, int], typed: bool) -> str:
    """What was found for some phrases."""
    what = few(phrases, "phrase", "phrases") + ("" if typed else " (main queries and their variants)")
    open_ones, gaps = by_kind.get("not linked", 0), by_kind.get("no internal mention", 0)
    verb = "has" if open_ones == 1 else "have"
    sentence = f"{what} searched: {few(open_ones, 'mention', 'mentions')} in running text {verb} no link"
    return f"{sentence}; {few(gaps, 'phrase is', 'phrases are')} have no internal mention." if gaps else f"{sentence}."


def plan(links: int, targets: int, before: float, after: float) -> list[str]:
    """The effect of suggested links; `before` and `after`: the authority of their targets, 0…1 of the site.

    >>> plan(2, 1, 0.01, 0.015)
    ['2 links to 1 page. Together they would carry its authority from 1 % to 1.5 % of the site.']
    """
    if not links:
        return ["No links to suggest: no page with link authority to spare covers the same subject without linking already."]
    whose = "its" if targets == 1 else "their"
    sentence = f"{few(links, 'link', 'links')} to {few(targets, 'page', 'pages')}."
    return [f"{sentence} Together they would carry {whose} authority from {_share(before)} to {_share(after)} of the site."]


def _share(value: float) -> str:
    percent = f"{100 * value:.2g}" if value < 0.1 else f"{100 * value:.0f}"
    return f"{percent} %"


def faults(by_fault: Mapping[str, int]) -> list[str]:
    if not by_fault:
        return ["No broken links and no misleading anchor texts."]
    rows = ", ".join(f"{count(number)} × {fault}" for fault, number in by_fault.items())
    return [f"{few(sum(by_fault.values()), 'link has', 'links have')} a problem: {rows}."]


def work(by_state: Mapping[str, int], pages: int) -> list[str]:
    """The progress of accepted links."""
    total = sum(by_state.values())
    if not total:
        return ["No accepted links yet. Accept suggestions under “Suggested links”; they appear here by page to edit."]
    rows = ", ".join(f"{count(by_state[state])} {state}" for state in by_state)
    return [f"{few(total, 'accepted link', 'accepted links')} on {few(pages, 'page', 'pages')}: {rows}."]


def move_reason(anchors: list[tuple[str, str]]) -> str:
    """Why a page is to be edited: the links to set, as (anchor, path of the target)."""
    rows = "; ".join(f"“{anchor}” to {path}" for anchor, path in anchors)
    return f"{few(len(anchors), 'link', 'links')} to set: {rows}."
