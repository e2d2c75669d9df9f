"""A rule applied to one row: how the row's own numbers lead to its result."""

from collections.abc import Callable, Mapping
from typing import Any

from zugzwang.core.words.sentences import THIN_SPACE, count, day

Row = Mapping[str, Any]


def _several(number: float, one: str, several: str) -> str:
    return f"{count(number)} {one if round(number) == 1 else several}"


def _share(value: float) -> str:
    return f"{100 * value:.1f}{THIN_SPACE}%"


def _expected(row: Row) -> str:
    seen = f"{count(row['impressions'])} impressions at position {row['position']:.1f}"
    return (
        f"{seen}, with an expected CTR of {_share(row['expected_ctr'])}, make {count(row['expected_clicks'])} expected clicks."
    )


def _low_ctr(row: Row) -> str:
    less = (
        f"It got {count(row['clicks'])}, so {count(row['lost'])} are missing in the period: {count(row['lost_month'])} a month."
    )
    return f"{_expected(row)} {less}"


def _outperformers(row: Row) -> str:
    times = row["clicks"] / row["expected_clicks"] if row["expected_clicks"] else 0
    return f"{_expected(row)} It got {count(row['clicks'])}: {times:.1f} times as many."


def _reach(row: Row) -> str:
    more = f"At its target position it could get about {count(row['potential_month'])} more a month."
    return f"At position {row['position']:.1f} it gets {count(row['clicks'])} clicks in the period. {more}"


def _mismatch(row: Row) -> str:
    lacking = ", ".join(row["lacking"] or ())
    words = f"The page lacks: {lacking}." if lacking else "The page has all its words, but far apart."
    return f"{words} {_reach(row)}"


def _opportunity(row: Row) -> str:
    sums = f"{count(row['lost'])} lost + {count(row['potential'])} potential clicks"
    return f"{sums} = an opportunity of {count(row['opportunity'])} clicks in the period."


def _page(row: Row) -> str:
    parts = f"snippet {count(row['snippet'])} + clashes {count(row['unite'])} = {count(row['lost'])} lost clicks"
    potential = f"position {count(row['rank'])} = {count(row['potential'])} potential clicks"
    return f"In the period: {parts}; {potential}. {_opportunity(row)}"


def _clash(row: Row) -> str:
    days = f"{_share(row['overlap'])} of {count(row['days'])} days show two or more of your pages"
    changes = f"the best page changes {row['hand_offs']:.1f} times in 100 days"
    return f"{days}; {changes}. The clash costs about {count(row['loss_month'])} clicks a month."


def _break(row: Row) -> str:
    levels = f"{count(row['before'])} {row['measure']} a week before, {count(row['after'])} after"
    return f"Around the week of {day(row['week'])}: {levels}. That is {100 * row['size']:+.0f}{THIN_SPACE}%."


PARTS = {
    "shown": "impressions", "rank_or_demand": "ranking or demand", "device_mix": "devices", "rank": "ranking",
    "snippet": "snippet", "new_queries": "new queries", "lost_queries": "lost queries", "anonymised": "anonymised queries",
}  # fmt: skip


def _change(row: Row) -> str:
    parts = [f"{word} {row[name]:+.0f}" for name, word in PARTS.items() if round(row.get(name) or 0)]
    before, after = count(row["clicks_before"]), count(row["clicks_after"])
    return f"{before} clicks before; {', '.join(parts) or 'no change'}; {after} clicks now."


def _country(row: Row) -> str:
    here, elsewhere = row["position"], row["elsewhere"]
    return f"Position {here:.1f} in {row['country']}, {elsewhere:.1f} elsewhere: {row['gap']:.1f} positions worse."


def _visits(row: Row) -> str:
    if not row["sessions"] or not row["clicks"]:
        return "Without both visits and clicks there is no ratio to show."
    ratio = row["sessions"] / row["clicks"]
    return f"{count(row['sessions'])} visits / {count(row['clicks'])} clicks = {ratio:.2f} visits per click."


def _needs_links(row: Row) -> str:
    own, share = row["authority_share"], row["opportunity_share"]
    if own is None or not share:
        return f"{count(row['links_in'])} pages link to it, {count(row['links_in_body'])} of them in their body."
    return (
        f"{_share(share)} of the site's opportunity and {_share(own)} of its authority: {share / own:.1f} to 1." if own else ""
    )


def _missing(row: Row) -> str:
    uses = f"{_several(row['exact_uses'], 'exact use', 'exact uses')} and {count(row['other_form_uses'])} in other forms"
    seen = f"{count(row['impressions'])} impressions at position {row['position']:.1f}"
    return f"The page has {_several(row['words'], 'word', 'words')}: {uses}. It gets {seen}."


def _title(row: Row) -> str:
    return f"{count(row['title_characters'])} characters, {count(row['title_pixels'])} pixels wide; titles are cut off at 600."


def _snippet(row: Row) -> str:
    where = f"organic result {row['rank']}" if row["rank"] else "no organic result"
    return f"Your page is {where}. In the featured snippet it could get {count(row['gain'])} more clicks a month."


def _capture(row: Row) -> str:
    if row["expected_with_features"] is None or row["expected_clicks"] is None:
        return "Your pages are not on this SERP, so nothing is expected."
    change = f"{count(row['expected_clicks'])} expected clicks become {count(row['expected_with_features'])}"
    return f"{count(row['blocks_above'])} blocks are above your result. With them, {change}; it got {count(row['clicks'])}."


def _competing(row: Row) -> str:
    if row["stronger_above"] is None:
        return f"Your page is organic result {row['rank']}: {count(row['above'])} results are above it."
    stronger = f"{count(row['stronger_above'])} of them have as many referring domains or more"
    return f"{count(row['above'])} results are above yours; {stronger}."


def _won(row: Row) -> str:
    return f"It brings {count(row['visits'])} visits to the competing page; your page has it {count(row['exact_uses'])} times."


def _gap(row: Row) -> str:
    ranking = count(row["ranking_queries"])
    queries = _several(row["number"], "query", "queries")
    return f"{queries} with {count(row['searches'])} searches a month; you rank for {ranking}."


def _candidate(row: Row) -> str:
    own, median = _share(row["coverage"]), _share(row["coverage_above_median"])
    return (
        f"The page covers {own} of the related terms, the median of {count(row['competing_pages'])} competing pages {median}."
    )


def _topic(row: Row) -> str:
    if row["searches"] and row["share_won"] is not None:
        return f"{count(row['clicks'])} clicks of {count(row['searches'])} searches = {_share(row['share_won'])} won."
    return f"Queries: {count(row['queries'])}. Clicks in the period: {count(row['clicks'])}."


def _overlap(row: Row) -> str:
    return f"The two pages rank for {_share(row['shared_queries'])} of the same queries."


def _trial(row: Row) -> str:
    if row["effect"] is None:
        return f"The test runs for {row['weeks']} weeks with {count(row['changed'])} changed pages or rows. No result yet."
    span = f"between {100 * row['low']:+.0f} and {100 * row['high']:+.0f}{THIN_SPACE}%" if row["low"] is not None else ""
    chance = f"chance alone goes as far in {_share(row['p_value'])} of cases"
    return f"Effect {100 * row['effect']:+.0f}{THIN_SPACE}%, {span}; {chance}."


def _mention(row: Row) -> str:
    return f"The page has the phrase {count(row['times'])} times in running text, {count(row['exactly'])} exactly as written."


def _suggestion(row: Row) -> str:
    before, after = row["authority_share"], row["authority_after"]
    similar = f"The two pages are {_share(row['similarity'])} alike."
    return (
        f"{similar} The target's share of authority goes from {before:.2%} to {after:.2%} with the whole plan."
        if after
        else similar
    )


def _move(row: Row) -> str:
    if row["gain_cautious"] is None:
        return "Its gain cannot be estimated from the data."
    return f"At least {count(row['gain_cautious'])} clicks a month for one {row['effort']} of work."


EXAMPLES: dict[str, Callable[[Row], str]] = {
    "low-ctr": _low_ctr, "outperformers": _outperformers, "striking-distance": _reach, "query-page-mismatch": _mismatch,
    "pages": _page, "query-groups": _opportunity, "sections": _opportunity, "clashes": _clash, "breaks": _break,
    "change": _change, "country-gaps": _country, "landing-pages": _visits, "needs-links": _needs_links,
    "missing-queries": _missing, "titles": _title, "featured-snippets": _snippet, "serp-captures": _capture,
    "competing-pages": _competing, "competitor-queries": _won, "content-gaps": _gap, "page-two-candidates": _candidate,
    "topics": _topic, "overlapping-pages": _overlap, "trials": _trial, "mentions": _mention, "suggested-links": _suggestion,
    "moves": _move,
}  # fmt: skip


def example(finding: str, row: Row) -> str:
    """The rule of a finding applied to one of its rows (name → value, as returned over HTTP). Empty where there is nothing to
    calculate.

    >>> example("titles", {"title_characters": 72, "title_pixels": 640.2})
    '72 characters, 640 pixels wide; titles are cut off at 600.'
    """
    make = EXAMPLES.get(finding)
    return make(row) if make else ""
