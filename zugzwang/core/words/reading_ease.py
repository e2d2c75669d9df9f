"""Reading ease, 0 (hard) to 100 (easy) and beyond, by the Flesch formula of the language.

English 206.835 − 1.015·w − 84.6·s (Flesch 1948, Journal of Applied Psychology 32:221–233), w words a sentence, s syllables
a word; German 180 − w − 58.5·s (Amstad 1978); French 207 − 1.015·w − 73.6·s (Kandel & Moles 1958); Spanish 206.84 − 1.02·w
− 60·s (Fernández Huerta 1959: syllables and sentences in 100 words); Italian 217 − 1.3·w − 60·s (Franchina & Vacca 1972);
Dutch 206.835 − 0.93·w − 77·s (Douma 1960). Other languages: not reported.

Syllables are counted as groups of vowels, in English and French without a silent final e: an approximation, a few per cent
off a dictionary's count.

Example: "The cat sat on the mat." has 6 words, 1 sentence, 6 syllables: 206.835 − 1.015 · 6 − 84.6 = 116.1.
"""

import re

from zugzwang.core.words.wording import words

_FORMULAS: dict[str, tuple[float, float, float]] = {
    "english": (206.835, 1.015, 84.6),
    "german": (180.0, 1.0, 58.5),
    "french": (207.0, 1.015, 73.6),
    "spanish": (206.84, 1.02, 60.0),
    "italian": (217.0, 1.3, 60.0),
    "dutch": (206.835, 0.93, 77.0),
}
LANGUAGES = tuple(_FORMULAS)
WORDS_ENOUGH = 30
_SENTENCE_END = re.compile(r"[.!?…]+(?=\s|$)")
_VOWELS = re.compile(r"[aeiouyäöüàâáéèêëíìîïóòôúùûœæ]+")
_SILENT = re.compile(r"(?<=[^aeiouyl])(?:e|es|ed)$")


def reading_ease(text: str, language: str = "english") -> float | None:
    """The reading ease; None for other languages, and for texts of fewer than thirty words."""
    formula = _FORMULAS.get(language)
    result = words(text)
    if formula is None or len(result) < WORDS_ENOUGH:
        return None
    sentences = max(len(_SENTENCE_END.findall(text)), 1)
    syllables = sum(syllables_of(word, language) for word in result)
    constant, a_sentence, a_word = formula
    return constant - a_sentence * len(result) / sentences - a_word * syllables / len(result)


def syllables_of(word: str, language: str = "english") -> int:
    """The approximate number of syllables of a lower-case word.

    >>> [syllables_of(word) for word in ("cat", "paddle", "canoe", "stored", "length")]
    [1, 2, 2, 1, 1]
    """
    if language in ("english", "french") and len(word) > 3:
        word = _SILENT.sub("", word)
    return max(len(_VOWELS.findall(word)), 1)
