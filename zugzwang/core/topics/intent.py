"""Search intent: to know, to go to a site, to do something (Broder 2002); the trade adds comparing, and finding something
nearby.

Words decide first, because they are the searcher's own: "how", "what" mean informational, "buy", "hire" transactional,
"best", "versus" comparing, "near me" local, a site's name navigational. Otherwise the blocks of a captured SERP decide,
because a search engine shows what searchers click: shopping and ads, a map, featured snippets and questions, site links.
Word lists are common practice, no source, in six languages; a query with none of either has no intent.

A topic's intent is that of most of its searches with a known intent.
"""

import re
from collections import Counter, defaultdict
from collections.abc import Collection, Iterable, Sequence
from itertools import pairwise
from typing import Literal, get_args

Intent = Literal["informational", "navigational", "transactional", "local", "comparing"]
INTENTS: tuple[Intent, ...] = get_args(Intent)
# In this order: "best kayak shop near me" is local.
_WORDS: dict[Intent, str] = {
    "local": r"near me|nearby|near|opening (?:hours|times)|in der nähe|öffnungszeiten|près de|à proximité|cerca de|vicino a"
    r"|in de buurt|openingstijden",
    "navigational": r"log ?in|sign in|home ?page|website|official site|www|\w+\.(?:com|org|net|example)|anmelden|connexion",
    "comparing": r"best|top|vs|versus|reviews?|compar\w+|alternatives?|better|or|beste[rn]?|test|vergleich|meilleurs?|avis"
    r"|mejor(?:es)?|opinion\w*|migliori?|recensioni|vergelijk\w*",
    "transactional": r"buy|prices?|cheap|sale|order|hire|rent(?:al)?|deals?|discount|shop|cost|used|second hand|download|book"
    r"|kaufen|preise?|günstig|mieten|bestellen|acheter|prix|louer|comprar|precios?|alquiler|comprare|prezz[oi]|kopen|prijs|huren",
    "informational": r"how|what|why|when|which|who|where|can|does|do|is|are|guide|tutorials?|tips|ideas|meaning|learn|checklist"
    r"|wie|was|warum|wann|welche\w*|anleitung|comment|pourquoi|quoi|quel\w*|cómo|qué|por qué|come|cosa|perché|hoe|wat|waarom",
}  # fmt: skip
IntentFound = tuple[Intent, str] | None  # the intent, and the word or block that indicates it
_SAYS = {intent: re.compile(rf"(?:^|\s)({words})(?=\s|$)") for intent, words in _WORDS.items()}
_BLOCKS: dict[str, Intent] = {
    "shopping": "transactional", "ads": "transactional", "map": "local", "featured snippet": "informational",
    "generated summary": "informational", "questions": "informational", "site links": "navigational",
    "knowledge panel": "navigational",
}  # fmt: skip
_WANTS: dict[Intent, str] = {
    "informational": "to know", "navigational": "a certain site", "transactional": "to buy or do", "local": "something near",
    "comparing": "to compare",
}  # fmt: skip


def by_words(query: str, names: Collection[str] = ()) -> IntentFound:
    """The intent from a query's words, and the word; `names`: names of sites, without spaces.

    >>> by_words("how to pack a dry bag"), by_words("river club kayaks", ["riverclub"]), by_words("dry bag")
    (('informational', 'how'), ('navigational', 'riverclub'), None)
    """
    text = query.lower()
    words = text.split()
    bare = {*words, *(one + two for one, two in pairwise(words))}
    named = next((name for name in names if len(name) > 3 and name in bare), None)
    if named:
        return "navigational", named
    for intent, pattern in _SAYS.items():
        if found := pattern.search(text):
            return intent, found[1]
    return None


def by_blocks(blocks: Iterable[str]) -> IntentFound:
    """The intent that most blocks of a SERP suggest, and the first such block."""
    result = [block for block in blocks if block in _BLOCKS]
    if not result:
        return None
    most = Counter(_BLOCKS[block] for block in result).most_common(1)[0][0]
    return most, next(block for block in result if _BLOCKS[block] == most)


def of_topic(
    result: Sequence[tuple[float, tuple[Intent, str] | None, tuple[Intent, str] | None]],
) -> tuple[Intent | None, list[str]]:
    """The intent of a topic with its reasons. `reported`: searches of each query, and its intent by words and by blocks."""
    weight: dict[Intent, float] = defaultdict(float)
    text: dict[str, float] = defaultdict(float)
    shown: Counter[str] = Counter()
    for searches, words, blocks in result:
        found = words or blocks
        if found:
            weight[found[0]] += searches or 1.0
    if not weight:
        return None, []
    intent = max(weight, key=lambda one: weight[one])
    for searches, words, blocks in result:
        if words and words[0] == intent:
            text[words[1]] += searches or 1.0
        if blocks and blocks[0] == intent:
            shown[blocks[1]] += 1
    share = weight[intent] / sum(weight.values())
    reasons = [f"{100 * share:.0f} % of the searches have this intent: {_WANTS[intent]}"]
    if text:
        reasons.append(f"words: {', '.join(sorted(text, key=lambda one: -text[one])[:4])}")
    captured = sum(blocks is not None for _, _, blocks in result)
    reasons += [f"{number} of {captured} SERPs: {block}" for block, number in shown.most_common(2)]
    return intent, reasons
