"""The plain words for what drafts lack and for how coverage goes with place."""

from zugzwang.core.words.sentences import count

SURE = 0.05


def nearly_ready(rows: int, as_much: int) -> str:
    """How many rows on page two are nearly there.

    >>> nearly_ready(3, 1)
    '3 rows stand at 11 to 20 and can be compared; 1 covers as much as the middle page above.'
    """
    if not rows:
        return "No row at 11 to 20 has three fetched pages above it to be compared with."
    what = "1 row stands" if rows == 1 else f"{count(rows)} rows stand"
    verb = "covers" if as_much == 1 else "cover"
    return f"{what} at 11 to 20 and can be compared; {count(as_much)} {verb} as much as the middle page above."


def goes_with_place(rho: float | None, p_value: float | None, queries: int) -> str:
    """Whether saying more of the terms goes with a better place, on this site's captures.

    >>> goes_with_place(-0.3, 0.001, 40)
    'On 40 captured results pages here, those that cover more stand higher (ρ −0.30, p < 0.01).'
    """
    if rho is None or p_value is None:
        return "Whether covering more goes with a better place cannot be told: fewer than ten results pages can be compared."
    of = f"On {count(queries)} captured results pages here"
    figures = f"(ρ {rho:.2f}, p {'< 0.01' if p_value < 0.01 else f'{p_value:.2f}'})".replace("-", "−")
    if p_value > SURE:
        return f"{of}, covering more does not go with a better place {figures}: terms are hints, no law."
    return f"{of}, those that cover more stand {'higher' if rho < 0 else 'lower'} {figures}."
