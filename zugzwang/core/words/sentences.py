"""Every sentence about a finding's numbers is made here."""

from collections import Counter
from collections.abc import Mapping, Sequence
from datetime import date

from zugzwang.core.clicks.evidence import Grade
from zugzwang.core.facts.comparison import Compared
from zugzwang.core.facts.periods import Period
from zugzwang.core.worth.outcomes import Outcome

THIN_SPACE = "\u202f"  # prevents a line break


def count(value: float) -> str:
    """A whole number with thin spaces: 4120 → "4 120"."""
    return f"{round(value):,}".replace(",", THIN_SPACE)


def rounded(parts: Sequence[float], total: int) -> list[int]:
    """The parts as whole numbers that add up to the printed total: those nearest to the next number are rounded the other way
    (largest remainder). Parts that miss the total by more than rounding are returned unchanged.

    >>> rounded([1.4, 1.4, -0.2], 3)
    [2, 1, 0]
    """
    whole = [round(part) for part in parts]
    left = total - sum(whole)
    if abs(left) > len(whole) or abs(sum(parts) - total) > 1:
        return whole
    step = 1 if left > 0 else -1
    for index in sorted(range(len(whole)), key=lambda one: step * (whole[one] - parts[one]))[: abs(left)]:
        whole[index] += step
    return whole


def times(value: float) -> str:
    return {0: "never", 1: "once", 2: "twice"}.get(round(value), f"{count(value)} times")


def many(number: float, noun: str) -> str:
    """A count with its noun: "1 click", "4 120 clicks"."""
    return f"{count(number)} {noun}{'' if round(number) == 1 else 's'}"


def day(value: date) -> str:
    return f"{value.day} {value:%b} {value.year}"


def period(value: Period, by_day: bool = True) -> str:
    """ "13 weeks to 15 Nov 2026" for whole weeks, "October 2026", otherwise "10 Aug 2026 to 15 Nov 2026"; totals are named as
    such.
    """
    if not by_day:
        return f"totals of {period(value)}"
    if value.is_month:
        return f"{value.first:%B %Y}"
    if value.first.isoweekday() == 1 and value.last.isoweekday() == 7:
        weeks = value.days // 7
        return f"{weeks} week{'s' if weeks != 1 else ''} to {day(value.last)}"
    if value.days == 1:
        return day(value.last)
    return f"{day(value.first)} to {day(value.last)}"


def counted_days(value: Period, compared: int, by_day: bool = True) -> str:
    """A period, or the part of it that can be compared."""
    whole = period(value, by_day)
    return whole if compared in (0, value.days) else f"the {compared} days of {whole} that can be compared"


def missing_days(missing: Sequence[date], what: str) -> str:
    """The missing days of a period; empty if there are none."""
    if not missing:
        return ""
    if len(missing) == 1:
        return f"{what} has no data for {day(missing[0])}."
    return f"{what} has no data for {len(missing)} of its days, from {day(missing[0])} to {day(missing[-1])}."


def compared_days(common: int, days: int, fair: Period | None) -> str:
    """How many of a period's days can be compared, and which period would allow more."""
    if not common:
        first = f"No comparison: none of the {days} days has a counterpart in the data."
    else:
        first = f"The comparison covers {common} of {days} days: those that both periods have."
    return f"{first} Longest period that can be compared: {period(fair)}." if fair else first


def sudden_days(sudden: Sequence[date]) -> str:
    """Days that look truncated; empty if there are none."""
    if not sudden:
        return ""
    if len(sudden) == 1:
        return f"{day(sudden[0])} has at most a tenth of the days around it: it may be incomplete."
    return (
        f"{len(sudden)} days, the first {day(sudden[0])}, have at most a tenth of the days around them: they may be incomplete."
    )


NEEDS_DAYS = "This needs daily data; these are totals."
QUERIES_OF_ROWS = (
    "Query totals are not loaded, so each query is the sum of its pages: a query that ranks with two pages counts twice."
)


def needs_rows(finest: str) -> str:
    """What is missing where rows have only a page or only a query."""
    current = {"query": "queries without their pages", "page": "pages without their queries"}[finest]
    return f"Only {current} are loaded for these days. Load a table with both to see which page ranks for which query."


def of_totals(lens: str) -> str:
    """What totals cannot show. Where positions moved, the true expected CTR is above that of the mean position, because the
    curve is convex.
    """
    so = "no row is called firm" if lens == "outperformers" else "some rows are missed"
    return f"These are totals. Where a position moved within the period, expected CTR is too low, so {so}."


def row(clicks: int, impressions: int, position: float, usual: tuple[int, int]) -> str:
    """The row's figures, and what is usual.

    >>> row(11, 4120, 5.4, (190, 260)).replace(THIN_SPACE, " ")
    '4 120 impressions at position 5.4, 11 clicks; your pages at these positions usually get 190 to 260 clicks.'
    """
    low, high = usual
    span = f"{count(low)} to {count(high)} clicks" if low < high else f"{count(low)} click{'s' if low != 1 else ''}"
    seen = f"{many(impressions, 'impression')} at position {position:.1f}, {many(clicks, 'click')}"
    return f"{seen}; your pages at these positions usually get {span}."


def one_in(share: float) -> str:
    """A probability as people say it.

    >>> [one_in(share) for share in (0.34, 0.09, 0.004, 0.72, 0.97)]
    ['about 1 in 3', 'about 1 in 11', 'fewer than 1 in 100', 'about 7 in 10', 'more than 9 in 10']
    """
    if share < 0.01:
        return "fewer than 1 in 100"
    if share > 0.95:
        return "more than 9 in 10"
    return f"about 1 in {round(1 / share)}" if share < 0.4 else f"about {round(10 * share)} in 10"


def evidence(lens: str, grade: Grade, q_value: float, probability: float = 0.0) -> str:
    """The evidence for a finding, in its own words."""
    rate = f"fewer than 0.01{THIN_SPACE}%" if q_value < 0.0001 else f"about {100 * q_value:.2g}{THIN_SPACE}%"
    if grade == "too little data":
        return "Too little data to tell it from chance and your site's usual scatter."
    if grade == "possible":
        what = {
            "low-ctr": "really get fewer clicks than they should",
            "outperformers": "really get more clicks than expected",
        }.get(lens, "would get more clicks at the better position")
        return f"Possible: of rows like this one, {one_in(probability)} {what}; for the others it is chance and usual scatter."
    sure = "Firm" if grade == "firm" else "Likely"
    claim = {
        "low-ctr": "it gets fewer clicks than chance and your site's usual scatter can explain",
        "outperformers": "it gets more clicks than chance and your site's usual scatter can explain",
        "striking-distance": "the better position would bring more clicks than chance could take away",
        "query-page-mismatch": "the better position would bring more clicks than chance could take away",
    }[lens]
    return f"{sure}: {claim}. Of rows as sure as this one, {rate} would be false alarms."


def explained_rows(number: int, sure: int) -> str:
    """How many rows with evidence are explained by SERP features."""
    are = "is" if number == 1 else "are"
    sentence = f"{count(number)} of the {count(sure)} {are} explained by SERP features above"
    return f"{sentence}: aim for these features, not at the title."


def explained(above: Sequence[str], factor: float, taken_a_month: float, is_explained: bool) -> str:
    """The SERP features above a row, and how much of its loss they explain.

    >>> explained(["ads"], 0.4, 31.2, True).replace(THIN_SPACE, " ")
    'Ads above it leave about 40 % of the clicks here. They take some 31 a month, which explains the low CTR.'
    """
    rows = " and ".join([", ".join(above[:-1]), above[-1]] if len(above) > 1 else above)
    one = len(above) == 1 and not above[0].endswith("s")
    takes = f"{'It takes' if one else 'They take'} some {count(taken_a_month)} a month"
    so = "which explains the low CTR." if is_explained else "which explains a part of the low CTR."
    leaves = f"leave{'s' if one else ''} about {_share(factor)} of the clicks here"
    return f"{rows.capitalize()} above it {leaves}. {takes}, {so}"


def reach(reachable_a_month: float, position: float, target: float, by_volume: bool = False, rough: bool = False) -> str:
    """What a better position would add; `by_volume`: more than its own impressions suggest."""
    if target >= position:
        return f"At {position:.1f} no better position is assumed; choose a target in the filters."
    if reachable_a_month < 0.5:
        return f"Moving from {position:.1f} to {target:.0f} would bring next to nothing."
    more = count(reachable_a_month)
    sentence = f"At {target:.0f} instead of {position:.1f} it would get about {more} more clicks a month"
    return f"{sentence} (based on search volume{', a rough range' if rough else ''})." if by_volume else f"{sentence}."


def chosen(ratio: float) -> str:
    """A warning about a file with only clicked rows, or only the top of a list."""
    return (
        f"These rows were selected by clicks: rows with one or two impressions have {ratio:.1f} times the clicks that "
        "they should have. So the curve is wrong, and nothing is called a finding. Load an export with all rows."
    )


def noticed(share: float, lens: str = "low-ctr") -> str:
    """What could have been detected, where nothing was.

    >>> noticed(0.31, "outperformers")
    'One with four times its usual clicks would be noticed 3 times in ten here.'
    """
    one = "One at a quarter of its usual clicks" if lens == "low-ctr" else "One with four times its usual clicks"
    if share >= 0.95:
        return f"{one} would nearly always be noticed here."
    if share < 0.02:
        return f"{one} would hardly ever be noticed here: there is too little data."
    return f"{one} would be noticed {max(round(10 * share), 1)} times in ten here."


def curve_basis(basis: str, clicks: int) -> str:
    if basis == "prior":
        return (
            f"Too little data for a curve of your own ({count(clicks)} non-brand clicks): a standard curve is used "
            "instead, so treat every expectation with care."
        )
    if basis == "own":
        return "This site uses its own curve, set by an analyst."
    return f"The curve is your site's own, from {count(clicks)} non-brand clicks of the period."


def few(number: int, one: str, more: str) -> str:
    """A number with its noun: "1 page", "3 pages"."""
    return f"{count(number)} {one if number == 1 else more}"


def signed(value: float) -> str:
    """ "+1 204" or "−350", whole numbers."""
    return f"{'+' if value > 0 else '−' if value < 0 else ''}{count(abs(value))}" if round(value) else "0"


def country_gap(country: str, position: float, elsewhere: float, gap: float, weeks: int) -> str:
    """Where a query ranks worse, and what to check.

    >>> country_gap("FRA", 9.5, 3.2, 6.3, 11)[:74]
    'In FRA it ranks at position 9.5, elsewhere at 3.2: 6.3 positions worse, ov'
    """
    where = f"In {country} it ranks at position {position:.1f}, elsewhere at {elsewhere:.1f}"
    check = "Check whether another page or language fits better there."
    return f"{where}: {gap:.1f} positions worse, over {weeks} weeks. SERPs differ by country. {check}"


def where_the_site_stands(measures: Sequence[Compared], days: str) -> list[str]:
    """The measures in words, with their changes.

    >>> where_the_site_stands([Compared("clicks", 900, 1000, -100, -0.1)], "4 weeks to 15 Nov 2026")[0].replace(THIN_SPACE, " ")
    '900 clicks in 4 weeks to 15 Nov 2026, 100 fewer (−10 %).'
    """
    result = {one.name: one for one in measures}
    clicks, shown, sessions = (result.get(name) for name in ("clicks", "impressions", "sessions"))
    if clicks is None or clicks.now is None:
        return [f"No clicks in {days}."]
    at = "from" if " to " in days and "week" not in days else "in"
    sentence = [f"{count(clicks.now)} clicks {at} {days}{_more_or_fewer(clicks)}."]
    if shown and shown.now is not None and shown.change_share is not None:
        sentence.append(f"{count(shown.now)} impressions ({_percent(shown.change_share)}).")
    if sessions and sessions.now is not None and sessions.change_share is not None:
        sentence.append(f"{count(sessions.now)} organic visits ({_percent(sessions.change_share)}).")
    return sentence


def _more_or_fewer(one: Compared) -> str:
    if one.change is None or one.change_share is None:
        return ""
    if not round(one.change):
        return ", as many as before"
    return f", {count(abs(one.change))} {'more' if one.change > 0 else 'fewer'} ({_percent(one.change_share)})"


def _percent(value: float) -> str:
    """ "+3 %" or "−10 %", whole."""
    return f"{signed(100 * value)}{THIN_SPACE}%"


_PART_WORDS = {
    "shown": "impressions",
    "rank_or_demand": "impressions of those that crossed position 10 (ranking or demand)",
    "device_mix": "the mix of devices",
    "rank": "ranking changes",
    "snippet": "click-through",
    "new_queries": "new queries",
    "lost_queries": "lost queries",
    "anonymised": "anonymised queries",
}


def change(whole: Mapping[str, float]) -> list[str]:
    """The parts of a change, largest first.

    >>> said = change({"clicks_before": 100, "clicks_after": 60, "shown": -5, "rank": -35, "snippet": 0, "new_queries": 0,
    ...     "lost_queries": 0, "anonymised": 0, "rank_or_demand": 0, "device_mix": 0})
    >>> said[0], said[1]
    ('Clicks fell from 100 to 60 (−40).', 'Of that, −35 comes from ranking changes, −5 from impressions.')
    """
    before, after = whole["clicks_before"], whole["clicks_after"]
    if round(before) == round(after):
        sentence = f"Clicks stayed at {count(after)}."
    else:
        sentence = (
            f"Clicks {'rose' if after > before else 'fell'} from {count(before)} to {count(after)} ({signed(after - before)})."
        )
    shown = rounded([whole[name] for name in _PART_WORDS], round(after) - round(before))
    parts = sorted(
        ((value, words) for value, words in zip(shown, _PART_WORDS.values(), strict=True) if value),
        key=lambda one: -abs(one[0]),
    )
    if not parts:
        return [sentence]
    first, *rest = (
        f"{signed(value)}{' comes' if number == 0 else ''} from {words}" for number, (value, words) in enumerate(parts)
    )
    return [sentence, f"Of that, {', '.join([first, *rest])}."]


def breaks(found: int, series: int, weeks: int, level: str) -> str:
    """How much data was searched for breaks, and the result."""
    one = level == "site" or series == 1
    what = "The site" if level == "site" else f"{count(series)} {level}{'' if one else 's'}"
    sentence = f"{what} {'was' if one else 'were'} checked over {weeks} weeks"
    if not found:
        return f"{sentence}: no change of level beyond the shared trend and chance."
    return f"{sentence}: {count(found)} change{'s' if found != 1 else ''} of level beyond the shared trend and chance."


def half_lost_noticed(share: float, level: str) -> str:
    """What could have been detected, where no break was.

    >>> half_lost_noticed(0.31, "page")
    'Had each page lost half of its clicks for six weeks, that would be noticed on 3 of ten.'
    """
    if level == "site":
        return f"Had it lost half of its clicks for six weeks, that would {'have been' if share else 'not have been'} noticed."
    result = "on nearly all" if share >= 0.95 else "on hardly any" if share < 0.05 else f"on {round(10 * share) or 1} of ten"
    return f"Had each {level} lost half of its clicks for six weeks, that would be noticed {result}."


def cliff(pages: int, fell: bool, week: date, event: str | None, by_chance: float) -> str:
    """Pages that broke together.

    >>> cliff(5, True, date(2026, 9, 21), "New template", 0.31)
    '5 pages fell near “New template” (from the week of 21 Sep 2026); about 0.3 would have done so by chance.'
    """
    moved = f"{count(pages)} page{'s' if pages != 1 else ''} {'fell' if fell else 'rose'}"
    near = (
        f"near “{event}” (from the week of {day(week)})" if event else f"in the week of {day(week)}, with no dated event near"
    )
    chance = f"about {by_chance:.1f}" if by_chance >= 0.05 else "hardly one"
    return f"{moved} {near}; {chance} would have done so by chance."


def could_clash(able: int, queries: int) -> str:
    """What could have been detected, where no clash was.

    >>> could_clash(1, 204)
    '1 of 204 queries has enough impressions to notice a clash.'
    """
    have = "has" if able == 1 else "have"
    of_all = f"{count(able)} of {count(queries)} quer{'ies' if queries != 1 else 'y'}"
    return f"{of_all} {have} enough impressions to notice a clash."


def clashes(by_kind: Mapping[str, int], loss_a_month: float, sure: int, able: int, queries: int) -> str:
    """How many clashes there are, their cost, how many have evidence (`sure`), and for how many `queries` one could have been
    detected (`able`).
    """
    costly = sum(number for kind, number in by_kind.items() if kind != "double listing")
    doubles = by_kind.get("double listing", 0)
    if not costly and not doubles:
        return f"No clashes found. {could_clash(able, queries)}"
    plural = ("s", "are") if doubles != 1 else ("", "is")
    doubled = f"; {count(doubles)} double listing{plural[0]} on page one {plural[1]} a strength" if doubles else ""
    if not costly:
        return f"No unresolved clashes{doubled}. {could_clash(able, queries)}"
    fought = f"{count(costly)} quer{'ies have' if costly != 1 else 'y has'} clashing pages"
    thin = "" if sure or loss_a_month < 0.5 else " (too little data to be sure of any)"
    return f"{fought}, costing about {count(loss_a_month)} clicks a month{thin}{doubled}."


def _share(value: float) -> str:
    """ "48 %", whole."""
    return f"{100 * value:.0f}{THIN_SPACE}%"


NO_HAND_OFFS = "These are totals: whether pages take turns from day to day is not known, so all are only possible."


def clash(kind: str, contenders: int, hand_offs: float, overlap: float, spread: float, by_day: bool = True) -> str:
    """The numbers that make a clash one of its kind."""
    if not by_day:
        return f"{contenders} pages rank for it; totals do not show whether on the same days."
    shared = _share(overlap)
    reasons = {
        "double listing": "rank together on page one, one of them steadily in the top three",
        "alternating": f"take turns: the best page changes {hand_offs:.0f} times in 100 days, {shared} of days show two",
        "split": f"rank together on {shared} of days, none in the top three, with similar shares",
        "wrong page ranks": "rank, and the one with most impressions is not about this query",
    }
    return f"{contenders} pages {reasons[kind]}; the day's best position varies by {spread:.1f}."


def standing(status: str, since: date | None, stretch_days: int) -> str:
    if since is not None:
        return f"Settled since {day(since)}."
    return {
        "contested": "Still contested.",
        "too early": f"Too early to tell: {stretch_days} days of data after the decision are needed.",
        "accepted": "Accepted as it is.",
    }[status]


def fold(kind: str, shared_queries: float, say: float | None, since: date | None) -> str:
    known = f"have {_share(say)} similar text" if say is not None else "have not been crawled"
    from_when = f" since about {day(since)}" if since is not None else ""
    what = {
        "same subject": "one subject twice",
        "mixed topics": "two topics treated as one",
        "texts unknown": "one subject twice, or two topics treated as one",
    }[kind]
    return f"They share {_share(shared_queries)} of their queries{from_when}; they {known}: {what}."


def folds(kinds: Sequence[str], found_groups: int) -> str:
    if not kinds:
        return "No two pages share enough queries to compare them."
    same, folded = kinds.count("same subject"), kinds.count("mixed topics")
    parts = [f"{count(same)} with one subject twice", f"{count(folded)} with two topics treated as one"]
    if len(kinds) > same + folded:
        parts.append(f"{count(len(kinds) - same - folded)} whose texts are not known")
    groups_said = f"{count(found_groups)} group{'s' if found_groups != 1 else ''}"
    return f"{count(len(kinds))} pair{'s' if len(kinds) != 1 else ''} of pages in {groups_said}: {', '.join(parts)}."


NOT_JUDGED = "Not judged: whether pages lose clicks needs search data by page and query."


def accounts(pages: int, sure: int, lost_a_month: float, reachable_a_month: float, by_query: bool = True) -> str:
    """How many pages lose clicks beyond chance, how many at least, and what better positions could bring all of them.
    `by_query`: whether the data have the queries of pages; without them, no page is called healthy.

    >>> accounts(40, 3, 120.4, 300)
    '3 of 40 pages lose clicks beyond chance, at least 120 a month. Better positions could bring about 300 more in total.'
    """
    if not pages:
        return "No page had impressions or visits in the period."
    of = f"{count(pages)} page{'s' if pages != 1 else ''}"
    if sure:
        verb = "lose" if sure != 1 else "loses"
        sentence = f"{count(sure)} of {of} {verb} clicks beyond chance, at least {count(lost_a_month)} a month."
    elif by_query:
        sentence = f"None of {of} loses clicks beyond chance."
    else:
        sentence = NOT_JUDGED
    if reachable_a_month < 0.5:
        return sentence
    return f"{sentence} Better positions could bring about {count(reachable_a_month)} more in total."


def reason(lever: str, query: str, clicks_a_month: float, position: float | None, target: float) -> str:
    """Why a row is in its page's account."""
    amount = f"{count(max(clicks_a_month, 1))} click{'s' if round(max(clicks_a_month, 1)) != 1 else ''} a month"
    if lever == "unite":
        return f"Several pages clash over “{query}”, which costs {amount}."
    if lever == "rank":
        return f"“{query}” ranks at {position:.1f}; at {target:.0f} it could bring {amount} more."
    return f"“{query}” at {position:.1f} gets fewer clicks than expected at its position: {amount}."


def reason_title(problems: Sequence[str]) -> str:
    """Why a page needs another title or description.

    >>> reason_title(["missing-description", "doubled-title"])
    'Its title and description: missing description, doubled title.'
    """
    result = [f"{name.rpartition('-')[0].replace('-', ' ')} {name.rpartition('-')[2]}" for name in problems]
    return f"Its title and description: {', '.join(result)}."


def reason_missing(on_page: str, what_to_do: str) -> str:
    """Why a page should mention a query differently."""
    sentence = {
        "missing": "It is not on the page", "other forms": "It is on the page in other word forms only",
        "low on the page": "It is low on the page", "on the page": "It is on the page",
    }[on_page]  # fmt: skip
    return f"{sentence}: {what_to_do}."


def reason_box(holder: str | None, lacking: Sequence[str]) -> str:
    """Why a featured snippet could be won."""
    whose = f"{holder} holds the featured snippet" if holder else "Another site holds the featured snippet"
    return f"{whose}; your page lacks {', '.join(lacking)}." if lacking else f"{whose}; your page already has such an answer."


def reason_above(query: str, taken_a_month: float) -> str:
    """Why a row needs an answer rather than another title."""
    return f"SERP features above “{query}” take about {count(taken_a_month)} clicks a month; the title is not the cause."


def query(pages: int, clicks: int, impressions: int, searches_a_month: float | None) -> list[str]:
    """A summary of one query."""
    rank = "page ranks" if pages == 1 else "pages rank"
    sentence = f"{count(pages)} {rank} for it: {many(impressions, 'impression')}, {many(clicks, 'click')}."
    if searches_a_month is None:
        return [sentence]
    return [sentence, f"It is searched about {times(searches_a_month)} a month."]


def needs_texts(known: int, crawled: int) -> list[str]:
    """What is missing for judging mentions: without a page's text nothing can be missing on it."""
    if not crawled:
        return [NEEDS_CRAWL]
    if known == crawled:
        return []
    lacking = f"The crawl has no text of {count(crawled - known)} of {count(crawled)} pages, so their text is unknown."
    return [f"{lacking} Crawl the site in Data, or load a crawl table with the text of each page."]


NEEDS_CRAWL = "The site has not been crawled, so the text of its pages is unknown. Crawl it in Data."
_PROBLEMS = {
    "missing-title": "have no title", "several-title": "have several titles", "doubled-title": "share a title with another",
    "too-long-title": "have a title that is cut off", "site-name-cut-title": "have a title whose site name is cut off",
    "same-as-heading-title": "repeat their heading in the title",
    "lacks-main-query-title": "lack their main query in the title",
    "rewritten-by-engine-title": "have another title on the SERP", "missing-description": "have no description",
    "several-description": "have several descriptions", "doubled-description": "share a description with another",
    "too-long-description": "have a description that is cut off",
    "lacks-main-query-description": "lack their main query in the description",
    "rewritten-by-engine-description": "have another description on the SERP",
}  # fmt: skip


def titles(pages: int, of: int, by_problem: Mapping[str, int], lost_a_month: float) -> str:
    """How many pages have a problem with title or description, and which are the most common.

    >>> titles(12, 400, {"missing-description": 9, "doubled-title": 3}, 0)
    '12 of 400 pages have a problem: 9 have no description, 3 share a title with another.'
    """
    if not pages:
        return f"Titles and descriptions of {count(of)} pages were checked: no problem."
    first = sorted(by_problem.items(), key=lambda one: -one[1])[:3]
    most = ", ".join(f"{count(number)} {_PROBLEMS[name]}" for name, number in first)
    lose = f" Their snippets lose {count(lost_a_month)} clicks a month." if lost_a_month >= 0.5 else ""
    return f"{count(pages)} of {count(of)} pages have a problem: {most}.{lose}"


def missing_queries(rows: int, missing_queries: int, late: int, gain_a_month: float) -> str:
    """How many queries their pages never mention, or mention late."""
    if not rows:
        return "No query with enough impressions has a page whose text is known."
    far = f", {count(late)} low on it" if late else ""
    worth = f" Opportunity: about {count(gain_a_month)} clicks a month." if gain_a_month >= 0.5 else ""
    return f"Of {count(rows)} queries × pages, {count(missing_queries)} are not on the page{far}.{worth}"


def mentions(phrase: str, exactly: int, others: int, first: int | None, words: int, where: Sequence[str]) -> str:
    """How a page mentions a phrase.

    >>> mentions("dry bag", 2, 1, 41, 400, ["main heading", "text"])
    '“dry bag” appears twice, first at word 41 of 400 (main heading, text), and once in other forms.'
    """
    if not exactly and not others:
        return f"“{phrase}” is not on this page ({count(words)} words)."
    current = f" ({', '.join(where)})" if where else ""
    at = f", first at word {count(first)} of {count(words)}{current}" if first else current
    if not exactly:
        return f"“{phrase}” appears in other forms only, {times(others)}{at}."
    also = f", and {times(others)} in other forms" if others else ""
    return f"“{phrase}” appears {times(exactly)}{at}{also}."


NO_RESULTS = "No SERP captures yet. Load a file of SERP captures, or connect a service, in Data."


def results(captured: int, ours: int, explained: int, taken_a_month: float) -> str:
    """How many SERPs are captured, and the effect of SERP features there.

    >>> results(40, 38, 0, 210.4)
    '40 SERPs captured, 38 with a result of yours. SERP features above take about 210 clicks a month.'
    """
    known = f"{count(captured)} SERP{'s' if captured != 1 else ''} captured, {count(ours)} with a result of yours."
    if taken_a_month < 0.5:
        return f"{known} SERP features above take next to nothing."
    low = f"; it explains {count(explained)} low row{'s' if explained != 1 else ''}" if explained else ""
    return f"{known} SERP features above take about {count(taken_a_month)} clicks a month{low}."


NOT_FETCHED = "The competing pages have not been fetched, so only their positions are known. Fetch them to compare their text."
NO_STRENGTHS = "Referring domains of your pages and competing pages are unknown. Load a table of them (strengths) in Data."
NO_PAGE_QUERIES = (
    "The queries that bring competing pages their visits are unknown. Load a table of them (page-queries) in Data."
)


def competing_pages(queries: int, within_reach: int) -> str:
    """For how many queries a better position is within reach."""
    one = f"{count(queries)} quer{'ies' if queries != 1 else 'y'} with a SERP capture that shows your page"
    better = f"For {count(within_reach)} of them a better position is within reach, going by referring domains."
    return f"{one}. {better}" if within_reach else f"{one}."


def competitor_queries(queries: int, not_shown: int, missing_queries: int) -> str:
    """How many queries the competing pages win."""
    if not queries:
        return "No competing page is known to win a query."
    won = f"{count(queries)} quer{'ies bring' if queries != 1 else 'y brings'} visits to competing pages."
    return f"{won} Your page does not rank for {count(not_shown)} of them and lacks {count(missing_queries)}."


def featured_snippets(boxes: int, openings: int, ours: int, lost: int, gain_a_month: float) -> str:
    """How many featured snippets are known, and how many could be taken.

    >>> featured_snippets(12, 5, 2, 1, 210)
    '12 featured snippets captured: 5 could be won, 2 are yours, 1 was lost. They would bring about 210 clicks a month.'
    """
    if not boxes:
        return "No SERP capture has a featured snippet."
    are = f"{count(ours)} {'is' if ours == 1 else 'are'} yours"
    gone = f", {count(lost)} {'was' if lost == 1 else 'were'} lost" if lost else ""
    worth = f" They would bring about {count(gain_a_month)} clicks a month." if gain_a_month >= 0.5 else ""
    captured = f"{count(boxes)} featured snippet{'s' if boxes != 1 else ''} captured"
    return f"{captured}: {count(openings)} could be won, {are}{gone}.{worth}"


def block_cost(kind: str, rows: int, factor: float | None, low: float | None, high: float | None, counts: bool) -> str:
    """The effect of a kind of SERP feature on this site; `counts`: whether it is beyond chance.

    >>> block_cost("featured snippet", 12, 0.36, 0.28, 0.47, True).replace(THIN_SPACE, " ")
    'Featured snippet above: 36 % of the clicks are left (28 to 47 %, from 12 rows).'
    """
    if factor is None or low is None or high is None:
        return f"{kind.capitalize()} above: too few rows to say ({rows})."
    if not counts:
        return f"{kind.capitalize()} above: nothing is taken away beyond chance, from {rows} rows."
    reach = f"{100 * low:.0f} to {_share(high)}, from {rows} rows"
    return f"{kind.capitalize()} above: {_share(factor)} of the clicks are left ({reach})."


def results_page(blocks: Sequence[tuple[str, bool]]) -> str:
    """The rank of your result among the blocks of a SERP. `blocks`: from the top, the kind of each and whether it is yours.

    >>> results_page([("ad", False), ("ad", False), ("featured snippet", False), ("organic", False), ("organic", True)])
    'Your result is the 5th block on the page; above it: 2 × ad, 1 × featured snippet, 1 × organic.'
    """
    at = next((number for number, (_, own) in enumerate(blocks) if own), None)
    if at is None:
        return "None of your pages is on it."
    if at == 0:
        return "Your result is the first block on it."
    above = Counter(kind for kind, _ in blocks[:at])
    ending = "th" if 10 <= (at + 1) % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get((at + 1) % 10, "th")
    over = ", ".join(f"{number} × {kind}" for kind, number in above.items())
    return f"Your result is the {at + 1}{ending} block on the page; above it: {over}."


def results_changed(since: date, came: Sequence[str], went: Sequence[str], blocks: Sequence[str], gone: Sequence[str]) -> str:
    """What changed on a SERP since an earlier capture.

    >>> results_changed(date(2026, 10, 18), ["a.example"], [], ["featured snippet"], [])
    'Since 18 Oct 2026 a.example came; featured snippet appeared.'
    """
    hosts = [f"{', '.join(names)} {word}" for names, word in ((came, "came"), (went, "went")) if names]
    kinds = [f"{', '.join(names)} {word}" for names, word in ((blocks, "appeared"), (gone, "disappeared")) if names]
    rows = "; ".join([" and ".join(part) for part in (hosts, kinds) if part])
    return f"Since {day(since)} {rows}." if rows else f"Since {day(since)} the same sites and SERP features are there."


def sections(found: int, pages: int) -> str:
    if not found:
        return "No section of the site has two pages or more."
    return f"{count(pages)} pages in {count(found)} director{'ies' if found != 1 else 'y'}."


def query_groups(groups: int, queries: int, of: int) -> str:
    """How many of the period's queries are in how many groups."""
    if not groups:
        return "The site has no query groups yet. Add some in Cleaning, each with the words that its queries contain."
    plural = "s" if groups != 1 else ""
    grouped = f"{count(queries)} of {count(of)} queries are in {count(groups)} group{plural}"
    return f"{grouped}; queries in several groups count in each."


def landing(clicks: float, sessions: float | None, more: int, less: int, by_role: Mapping[str, int]) -> list[str]:
    """How visits compare with search."""
    if sessions is None:
        return [f"{count(clicks)} clicks, and no visit data to compare with."]
    sentence = [f"{count(clicks)} clicks and {count(sessions)} organic sessions."]
    if more or less:
        sentence.append(
            f"{count(more)} page{'s bounce' if more != 1 else ' bounces'} more than others of their type, {count(less)} less."
        )
    else:
        sentence.append("No page's bounce rate is beyond what pages of its type usually have.")
    if by_role:
        earning, informing, unknown = (by_role.get(role, 0) for role in ("earns", "informs", "unknown"))
        earn = f"{count(earning)} page{'s earn' if earning != 1 else ' earns'}"
        inform = f"{count(informing)} inform{'s' if informing == 1 else ''}"
        sentence.append(f"{earn}, {inform}; {count(unknown)} have too few visits to judge.")
    return sentence


def lens(name: str, in_lens: Mapping[str, int], tested: int, listed: str = "row") -> str:
    """What a finding found among the rows (or queries, or pages) that it tested.

    >>> lens("low-ctr", {"firm": 1}, 40)
    "40 rows were tested; 1 gets fewer clicks than its positions should bring, beyond chance and the site's usual scatter."
    """
    sure = in_lens.get("firm", 0) + in_lens.get("likely", 0)
    get, are, their = ("get", "are", "their") if sure > 1 else ("gets", "is", "its")
    what = {
        "low-ctr": f"{get} fewer clicks than {their} positions should bring",
        "striking-distance": f"{are} within reach of a better position",
        "outperformers": f"{get} more clicks than {their} positions should bring",
        "query-page-mismatch": f"{are} within reach of a better position on a page that covers the query loosely or not at all",
    }[name]
    several = "queries" if listed == "query" else f"{listed}s"
    rows = f"{count(tested)} {several} were tested" if tested != 1 else f"1 {listed} was tested"
    return f"{rows}; {count(sure) if sure else 'none'} {what}, beyond chance and the site's usual scatter."


def fit(kind: str, lacking: Sequence[str], known_by: str) -> str:
    """How well the page covers the query.

    >>> fit("loose", ["chart"], "title and heading")
    'The page covers the query loosely: “chart” is missing from its title, heading and address.'
    """
    how = "covers the query loosely" if kind == "loose" else "hardly covers the query"
    where = "its address (it has not been crawled)" if known_by == "address" else "its title, heading and address"
    if not lacking:
        return f"The page {how}: its words are apart or in another order."
    missing = ", ".join(f"“{word}”" for word in lacking)
    return f"The page {how}: {missing} {'is' if len(lacking) == 1 else 'are'} missing from {where}."


NO_GAIN = "Its gain cannot be estimated: it is branded, has too few impressions, or already ranks where it should."


def proposals(moves: int, unknown: int) -> str:
    """The basis of moves made for several rows at once."""
    sentence = f"{count(moves)} moves, each filled in from its own row."
    return f"{sentence} For {count(unknown)} of them the gain cannot be estimated." if unknown else sentence


def moves(still_open: int, gain_a_month: float, late: int, ready: int) -> str:
    """What is planned, and what waits for review."""
    if not still_open and not ready:
        return "No open moves. Press m on any row to make one."
    sentence = f"{count(still_open)} move{'s' if still_open != 1 else ''} to make"
    if gain_a_month >= 0.5:
        sentence += f", together about {count(gain_a_month)} clicks a month by a cautious estimate"
    if late:
        sentence += f"; {count(late)} {'are' if late != 1 else 'is'} late"
    if ready:
        sentence += f". {count(ready)} finished move{'s' if ready != 1 else ''} can be measured now"
    return f"{sentence}."


def crawled(made_on: date, first: date | None, last: date) -> str:
    """When a crawler first fetched a page after a change.

    >>> crawled(date(2026, 11, 1), date(2026, 11, 4), date(2026, 11, 15))
    'A search engine’s crawler first fetched the page on 4 Nov 2026, 3 days after the change.'
    """
    if first is None:
        return f"No search engine’s crawler is known to have fetched the page after the change (access logs to {day(last)})."
    later = (first - made_on).days
    days = f"{later} day{'s' if later != 1 else ''}"
    return f"A search engine’s crawler first fetched the page on {day(first)}, {days} after the change."


def outcome_waits(made_on: date, ready: date, last_day: date | None) -> str:
    """Why a move has no result yet."""
    until = f"data reach to {day(last_day)}" if last_day else "there are no data"
    return f"Done on {day(made_on)}: its result can be measured with data to {day(ready)}; {until}."


def _signed(value: float) -> str:
    return f"{value:+.1f}".replace("-", "−")


def outcome(result: Outcome, level: str) -> list[str]:
    """The result of a move, its evidence, and the control pages."""
    rose = "rose" if result.after.clicks_a_day > result.before.clicks_a_day else "fell"
    if f"{result.after.clicks_a_day:.1f}" == f"{result.before.clicks_a_day:.1f}":
        first = f"Clicks stayed at {result.after.clicks_a_day:.1f} a day"
    else:
        first = f"Clicks {rose} from {result.before.clicks_a_day:.1f} to {result.after.clicks_a_day:.1f} a day"
    more = "more" if result.result_clicks >= 0 else "fewer"
    sentence = [
        f"{first} in the {result.days // 7} weeks after it; control {level} suggest "
        f"{result.expected_a_day:.1f} without it: {abs(result.result_clicks):.1f} a day {more}."
    ]
    if result.low is None or result.high is None:
        chance = f"less than 0.1{THIN_SPACE}%" if result.chance < 0.001 else f"{100 * result.chance:.2g}{THIN_SPACE}%"
        sentence.append(
            f"Only {count(result.controls)} control {level} had clicks: too few to know what changes by itself. Counts alone "
            f"would differ so in {chance} of cases."
        )
        return sentence
    sentence.append(
        f"In 95 of 100 such cases the true figure lies between {_signed(result.low)} and {_signed(result.high)} a day."
    )
    went = "rose" if result.result_clicks >= 0 else "fell"
    as_far = {0: "none", 1: "one"}.get(result.as_far, count(result.as_far))
    verdict = {
        "firm": f"Firm: the {level} that were not changed do not do that",
        "likely": "Likely the move",
        "too little data": "This cannot be distinguished from what happens by itself",
    }[result.evidence]
    sentence.append(f"Of the {count(result.controls)} control {level} nearest in size {as_far} {went} as far. {verdict}.")
    return sentence
