"""Names that people give: of sites, templates, views … They end in mails, files, the log and other people's screens."""

import unicodedata

from zugzwang.errors import Invalid

NAME_MAX = 200
# Control characters, line and paragraph separators, and marks that turn the direction of what follows.
_CATEGORIES = ("Cc", "Zl", "Zp", "Cs", "Co")
_TURNS = frozenset("\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069\u200e\u200f")


def checked_name(name: str, field: str = "name", most: int = NAME_MAX, needed: bool = True) -> str:
    """The name without spaces around it. Invalid where it is empty though needed, too long, or has characters that are no part
    of a name: line breaks, control characters, marks of direction."""
    name = name.strip()
    if needed and not name:
        raise Invalid("A name is needed.", "Write one.", field)
    if len(name) > most:
        raise Invalid(f"A name has at most {most} characters; this one has {len(name):,}.", "Shorten it.", field)
    if any(unicodedata.category(sign) in _CATEGORIES or sign in _TURNS for sign in name):
        raise Invalid("A name cannot hold line breaks or control characters.", "Write it on one line.", field)
    return name
