"""Countries from ISO 3166-1 (pycountry), stored by number; 0 is "not reported"."""

from functools import lru_cache

import pycountry
from babel import Locale

from zugzwang.core.facts.grains import NOT_REPORTED

LANGUAGES = ("en", "de", "fr", "es", "it", "nl")
COUNTRY_UNKNOWN = 1000  # a country outside ISO 3166-1
_NOT_SAID = ("", "zz", "zzz", "unknown", "unknown region")


@lru_cache(maxsize=1024)
def country_code(name: str) -> int:
    """The number of a country by its name or its two- or three-letter code; NOT_REPORTED, COUNTRY_UNKNOWN.

    >>> country_code("Iceland"), country_code("IS"), country_code("isl")
    (352, 352, 352)
    >>> country_code("Deutschland"), country_code("Pays-Bas")
    (276, 528)
    """
    text = name.strip()
    if text.lower() in _NOT_SAID:
        return NOT_REPORTED
    try:
        return int(pycountry.countries.lookup(text).numeric)
    except LookupError:
        return _by_language().get(text.casefold(), COUNTRY_UNKNOWN)


@lru_cache(maxsize=1)
def _by_language() -> dict[str, int]:
    """The numbers of countries by their names in the languages of common exports, from the Unicode CLDR (babel)."""
    codes = {one.alpha_2: int(one.numeric) for one in pycountry.countries}
    return {
        name.casefold(): codes[letters]
        for language in LANGUAGES
        for letters, name in Locale(language).territories.items()
        if letters in codes
    }


def country_letters(code: int) -> str:
    """The two-letter code of a country by its number; empty where none is reported."""
    found = pycountry.countries.get(numeric=f"{code:03d}") if code != NOT_REPORTED else None
    return str(found.alpha_2) if found else ""
