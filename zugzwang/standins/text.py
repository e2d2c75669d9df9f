"""The bundled text service, without a language model. It selects sentences from its input and arranges them.

It answers POST /text/propose as docs/services.md says. Its suggestions quote the input: it invents nothing, and may still
miss the point.
"""

import re
from collections.abc import Iterable
from typing import Any

BY = "Extracts: sentences and headings of the pages given, arranged; no language model"
PROPOSALS, OUTLINE = 3, 10
_ENDS = re.compile(r"(?<=[.!?…])\s+")
_WORD = re.compile(r"[^\W_]+")
_SMALL = frozenset(
    "a an the and or of to in on at by for from with is are do does how what which when where why who can i my".split()  # noqa: SIM905
)


def propose(asked: dict[str, Any]) -> dict[str, Any]:
    """Suggestions for a task."""
    made = {
        "outline": _outline, "titles": _titles, "descriptions": _descriptions, "short answer": _answers,
        "paragraph": _paragraph,
    }  # fmt: skip
    task = made.get(str(asked.get("task")))
    return {"by": BY, "proposals": task(asked) if task else []}


def _words(text: str) -> set[str]:
    """The content words of a text, plural and singular alike."""
    return {one.removesuffix("s") for one in _WORD.findall(text.lower()) if one not in _SMALL}


def _sentences(asked: dict[str, Any]) -> list[str]:
    result = [one.strip() for passage in asked.get("passages", ()) for one in _ENDS.split(str(passage.get("text", "")))]
    return list(dict.fromkeys(one for one in result if one.endswith((".", "!", "?"))))


def _ranked(sentences: Iterable[str], wanted: set[str]) -> list[str]:
    """Sentences with the most wanted words in the fewest words first; those with none are left out."""
    scored = [(len(_words(one) & wanted), -len(one), one) for one in sentences if not one.endswith("?")]
    return [one for score, _, one in sorted(scored, reverse=True) if score]


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def _outline(asked: dict[str, Any]) -> list[str]:
    current = [*asked.get("questions", ()), *asked.get("terms", ())]
    return [_capital(str(one)) for one in dict.fromkeys(current)][:OUTLINE]


def _titles(asked: dict[str, Any]) -> list[str]:
    query, terms = _capital(str(asked.get("query", ""))), [str(one) for one in asked.get("terms", ())]
    extras = [one for one in terms if not _words(one) & _words(query)]
    rows = [f"{query}: {one}" for one in (", ".join(extras[:2]), ", ".join(extras[2:4]), *extras[4:5]) if one]
    return [one for one in rows if len(one) <= int(asked.get("letters", 60))][:PROPOSALS] or [query]


def _within(sentences: Iterable[str], letters: int) -> str:
    result = ""
    for one in sentences:
        longer = f"{result} {one}".strip()
        if len(longer) <= letters:
            result = longer
    return result


def _descriptions(asked: dict[str, Any]) -> list[str]:
    ranked = _ranked(_sentences(asked), _words(str(asked.get("query", ""))))
    letters = int(asked.get("letters", 160))
    return [one for start in range(PROPOSALS) if (one := _within(ranked[start : start + 2], letters))]


def _answers(asked: dict[str, Any]) -> list[str]:
    ranked = _ranked(_sentences(asked), _words(str(asked.get("query", ""))))
    return [one for one in ranked if 40 <= len(one) <= int(asked.get("letters", 290))][:PROPOSALS]


def _paragraph(asked: dict[str, Any]) -> list[str]:
    wanted = _words(str(asked.get("term", "")))
    on_page = [one for one in _sentences(asked) if wanted <= _words(one)]
    ranked = _ranked(on_page, wanted | _words(str(asked.get("query", ""))))
    result = _within(ranked[:4], int(asked.get("letters", 800)))
    return [result] if result else []
