"""The words of a text as stems, so "paddles" and "paddle" count as one word.

Words are runs of letters and digits, ignoring case and the composition of accents. Stems: the Snowball project's stemmers
(Porter 2 for English; https://snowballstem.org). Function words carry little meaning; they are left out where words are
weighted, but not where their order counts.

Limits: function words are listed for English only; languages written without spaces are one long word each.
"""

import re
import threading
import unicodedata
from functools import lru_cache
from typing import Any

import snowballstemmer

from zugzwang.core.facts.addresses import decoded, parts

LANGUAGES = tuple(sorted(name for name in snowballstemmer.algorithms() if name != "porter"))
# English function words: articles, pronouns, prepositions, auxiliaries, question words (common practice, no source).
FUNCTION_WORDS = frozenset(
    """
    a an the and or but if of to in on at by for from with without into onto over under about as is are was were
    be been being am do does did can could will would shall should may might must have has had i you he she it we
    they me my your his her its our their this that these those what which who whom whose when where why how there
    here not no vs versus than then so
    """.split()  # noqa: SIM905 – a list of 90 strings reads worse
)
WORD = re.compile(r"[^\W_]+(?:['’][^\W_]+)*")
_POSSESSIVE = re.compile(r"['’]s?$")
_FILE_ENDING = re.compile(r"\.(html?|php|aspx?|jsp)$", re.IGNORECASE)
_of_thread = threading.local()
_INDEX_NAMES = {"index", "default", "home"}


def words(text: str) -> list[str]:
    """The words of a text in order, in lower case.

    >>> words("The Paddler’s guide: 3-day trips")
    ['the', 'paddler', 'guide', '3', 'day', 'trips']
    """
    composed = unicodedata.normalize("NFKC", text).lower()
    found = WORD.findall(composed)
    return [_POSSESSIVE.sub("", word) for word in found] if "'" in composed or "’" in composed else found


def stems(text: str, language: str = "english") -> tuple[str, ...]:
    """The stems of a text's words in order, including function words."""
    return tuple(stem(word, language) for word in words(text))


@lru_cache(maxsize=100_000)
def content_stems(text: str, language: str = "english") -> tuple[str, ...]:
    """The stems of a text's content words, in order; of its function words where it has no others.

    >>> content_stems("how to store a canoe")
    ('store', 'cano')
    """
    result = words(text)
    content = [word for word in result if word not in FUNCTION_WORDS or language != "english"]
    return tuple(stem(word, language) for word in content or result)


def stem(word: str, language: str = "english") -> str:
    """The stem of a lower-case word. Raises KeyError for a language without a stemmer."""
    return str(_stemmer(language).stemWord(word))


def _stemmer(language: str) -> Any:
    """This thread's own stemmer: the compiled ones (PyStemmer, which snowballstemmer uses if installed) are not thread-safe."""
    current: dict[str, Any] = _of_thread.__dict__
    if language not in current:
        current[language] = snowballstemmer.stemmer(language)
    return current[language]


def address_words(address: str) -> str:
    """The words in an address: its path without file endings and index names, with punctuation as spaces.

    >>> address_words("https://shop.example/guides/canoe-paddle_sizes.html")
    'guides canoe paddle sizes'
    """
    path = decoded(parts(address).path)
    pieces = [_FILE_ENDING.sub("", piece) for piece in path.split("/") if piece]
    if pieces and pieces[-1].lower() in _INDEX_NAMES:
        pieces.pop()
    return " ".join(re.sub(r"[-_+.,]+", " ", piece) for piece in pieces)
