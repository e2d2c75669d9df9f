"""Lists as files. Cells that a spreadsheet would take for a formula are written as text."""

FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


def safe_cell(text: str) -> str:
    """The text, with an apostrophe before a sign that would make it a formula."""
    return f"'{text}" if text.startswith(FORMULA_STARTS) else text
