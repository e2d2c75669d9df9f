"""Sentences about what drafts lack, and how coverage goes with rank."""

from zugzwang.core.drafts.check import FaultKind
from zugzwang.core.words.sentences import count

SURE = 0.05


def page_two_candidates(rows: int, as_much: int) -> str:
    """How many rows on page two are close to page one.

    >>> page_two_candidates(3, 1)
    '3 rows at positions 11 to 20 can be compared; 1 covers as much as the median competing page.'
    """
    if not rows:
        return "No row at positions 11 to 20 has three fetched competing pages to compare with."
    what = "1 row" if rows == 1 else f"{count(rows)} rows"
    verb = "covers" if as_much == 1 else "cover"
    return f"{what} at positions 11 to 20 can be compared; {count(as_much)} {verb} as much as the median competing page."


def goes_with_rank(rho: float | None, p_value: float | None, queries: int) -> str:
    """Whether higher term coverage goes with a better position, on this site's captures.

    >>> goes_with_rank(-0.3, 0.001, 40)
    'On 40 captured SERPs, those that cover more rank higher (ρ −0.30, p < 0.01).'
    """
    if rho is None or p_value is None:
        return "Whether higher coverage goes with better rankings is unknown: fewer than ten SERPs can be compared."
    of = f"On {count(queries)} captured SERPs"
    figures = f"(ρ {rho:.2f}, p {'< 0.01' if p_value < 0.01 else f'{p_value:.2f}'})".replace("-", "−")
    if p_value > SURE:
        return f"{of}, higher coverage does not go with better rankings {figures}: treat terms as hints."
    return f"{of}, those that cover more rank {'higher' if rho < 0 else 'lower'} {figures}."


def fault(kind: FaultKind, number: int, other: str, wanted: tuple[float, float] | None = None) -> str:
    """What is wrong with a passage of a draft, and what to do. `wanted`: the quartiles of the competing pages (length).

    >>> fault("long sentence", 41, "")
    'A sentence of 41 words. Cut it in two.'
    """
    if kind == "length" and wanted is not None:
        low, high = count(wanted[0]), count(wanted[1])
        return f"{count(number)} words; half of the competing pages have {low} to {high}."
    if kind == "headings" and number:
        return f"A heading of level {number} is missing above this one."
    if kind == "short answer":
        current = f"The current text has {count(number)}." if number else "There is no text yet."
        return f"Answer the query in 40 to 300 characters right below a heading with the question. {current}"
    result = {
        "long sentence": f"A sentence of {number} words. Cut it in two.",
        "wall of text": f"A paragraph of {number} words. Split it.",
        "headings": f"The text has {other}.",
        "picture": f"The picture {other or 'without a name'} has no alt text. Describe what it shows.",
        "repeated": f"{number} words that {other or 'another page'} also has. Rephrase it, or link to that page.",
    }
    return result.get(kind, "")


def draft(words: int, said: int, terms: int, above: float | None, covers: float | None) -> str:
    """How a draft compares with the competing pages.

    >>> draft(640, 14, 22, 0.71, 0.68)
    '640 words. It uses 14 of 22 related terms: term coverage 68 %; the median competing page covers 71 %.'
    """
    result = f"{count(words)} word{'' if words == 1 else 's'}."
    if not terms or covers is None:
        return f"{result} No related terms yet: capture and fetch three competing pages first."
    extras = "" if above is None else f"; the median competing page covers {100 * above:.0f} %"
    return f"{result} It uses {said} of {terms} related terms: term coverage {100 * covers:.0f} %{extras}."


def drafts(open_ones: int, all_of_them: int) -> str:
    """How many drafts there are.

    >>> drafts(2, 3)
    '2 drafts are open, 1 is done.'
    """
    if not all_of_them:
        return "No draft yet. Start one from a content gap (Topics), a page file, or a page-two candidate."
    done = all_of_them - open_ones
    result = f"{count(open_ones)} draft{' is' if open_ones == 1 else 's are'} open"
    return f"{result}, {count(done)} {'is' if done == 1 else 'are'} done." if done else f"{result}."
