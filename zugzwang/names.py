"""Names that people enter: of sites, templates, views … They appear in mails, files, the log and on other people's screens."""

import unicodedata

from zugzwang.errors import Invalid

NAME_MAX = 200
# Control characters, line and paragraph separators, and direction marks.
_CATEGORIES = ("Cc", "Zl", "Zp", "Cs", "Co")
_TURNS = frozenset("\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069\u200e\u200f")


def checked_name(name: str, field: str = "name", most: int = NAME_MAX, needed: bool = True) -> str:
    """The name without spaces around it. Raises Invalid where it is empty but required, too long, or contains line breaks,
    control characters or direction marks.
    """
    name = name.strip()
    if needed and not name:
        raise Invalid("A name is needed.", "Write one.", field)
    if len(name) > most:
        raise Invalid(f"A name has at most {most} characters; this one has {len(name):,}.", "Shorten it.", field)
    if any(unicodedata.category(sign) in _CATEGORIES or sign in _TURNS for sign in name):
        raise Invalid("A name cannot hold line breaks or control characters.", "Write it on one line.", field)
    return name
