"""Mentions: where pages use a phrase in running text, and whether it is linked.

A phrase is mentioned where its words follow each other within one piece of a page (core.pages.content), by stems or exactly
as written; case and possessives are ignored, and words are whole. Running text is paragraphs, list items and table cells.
Mentions in headings and in links (any word) are counted separately; navigation, titles and picture texts do not count.

All phrases are searched at once: a trie of their stems is walked from every word of every page together, one step for each
word, as arrays. It finds what Aho & Corasick's automaton (1975) finds, including phrases inside others.

Example: "he", "she", "his", "hers" as letters in "ushers": she at 2 to 4, he at 3 to 4, hers at 3 to 6.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
import numpy.typing as npt
import polars as pl

from zugzwang.core.pages.content import HEADINGS, KINDS, LINK_CLOSES, LINK_OPENS
from zugzwang.core.words.occurrences import KIND_NAMES, Texts
from zugzwang.core.words.wording import stem, words

# How a page mentions a phrase: in running text without a link to its page; on a page that links there; only in a heading;
# only in another link; or on no page but its own (a gap).
Mention = Literal["not linked", "linked", "heading only", "in another link", "no internal mention"]
MENTIONS: tuple[Mention, ...] = get_args(Mention)
Ints = npt.NDArray[np.int64]
_SENTENCE = re.compile(r"(?<=[.!?…])[\s\x02\x03]+")
_MARK = f"[{LINK_OPENS}{LINK_CLOSES}]"
_TOKEN = re.compile(rf"{_MARK}|[^\W_]+(?:['’][^\W_]+)*")
RUNNING = ("p", "li", "td")
SENTENCE_MAX = 400
SLOTS = 2**20


@dataclass(frozen=True)
class Hits:
    """Where phrases occur: which phrase, the index of its first word in the texts, and its number of words."""

    phrase: Ints
    at: Ints
    length: Ints


def look_for(sequence: npt.NDArray[np.uint32], phrases: Sequence[Sequence[int]]) -> Hits:
    """Every occurrence of a phrase (ids, none 0) in a sequence of ids, including overlapping ones."""
    last = int(sequence.max()) if sequence.size else 0
    step = last + 1
    first, keys, to, ends = _trie([(number, ids) for number, ids in enumerate(phrases) if ids and max(ids) <= last], step)
    leads_on = np.zeros(SLOTS, bool)
    leads_on[keys & (SLOTS - 1)] = True
    begins = first[sequence] if sequence.size else np.zeros(0, np.int64)
    at = np.flatnonzero(begins)
    state = begins[at]
    found: list[tuple[Ints, Ints, int]] = []
    depth = 1
    while at.size:
        ending = ends[state]
        here = np.flatnonzero(ending >= 0)
        if here.size:
            found.append((ending[here], at[here], depth))
        inside = at + depth < sequence.size
        at, state = at[inside], state[inside]
        wanted = state * step + sequence[at + depth]
        # Most pairs lead nowhere: a small table excludes most of them before keys are looked up.
        may = leads_on[wanted & (SLOTS - 1)]
        at, wanted = at[may], wanted[may]
        index = np.searchsorted(keys, wanted)
        index[index == keys.size] = 0
        goes_on = keys[index] == wanted if keys.size else np.zeros(at.size, bool)
        at, state = at[goes_on], to[index[goes_on]]
        depth += 1
    if not found:
        empty = np.zeros(0, np.int64)
        return Hits(empty, empty, empty)
    lengths = np.concatenate([np.full(one.size, depth, np.int64) for one, _, depth in found])
    return Hits(np.concatenate([one for one, _, _ in found]), np.concatenate([one for _, one, _ in found]), lengths)


def _trie(phrases: Sequence[tuple[int, Sequence[int]]], step: int) -> tuple[Ints, Ints, Ints, Ints]:
    """First state by id; keys (state × step + id, sorted) and the states that they lead to; the phrase that ends at each
    state.
    """
    first, children, ends = np.zeros(step, np.int64), {}, [-1]
    for number, ids in phrases:
        state = int(first[ids[0]])
        if not state:
            first[ids[0]] = state = len(ends)
            ends.append(-1)
        for one in ids[1:]:
            key = state * step + int(one)
            if key not in children:
                children[key] = len(ends)
                ends.append(-1)
            state = children[key]
        ends[state] = number
    keys = np.fromiter(children.keys(), np.int64, len(children))
    to = np.fromiter(children.values(), np.int64, len(children))
    order = np.argsort(keys)
    return first, keys[order], to[order], np.array(ends, np.int64)


def mentions(texts: Texts, phrases: Sequence[str], exact: bool = False) -> pl.DataFrame:
    """Mentions of phrases: phrase (its number), page, times (in running text, unlinked), exactly (of those), in_links,
    in_headings, word (the index of the page's word where the first unlinked mention begins; null without one). Pages
    without a phrase are left out.
    """
    language = texts.language
    of_text = {text: (word, one) for text, word, one in texts.words.iter_rows() if text}
    result = [words(phrase) for phrase in phrases]
    of_stem = {stem(text, language): one for text, (_, one) in of_text.items()}
    as_stems = [tuple(of_stem.get(stem(word, language), 0) for word in one) for one in result]
    as_words = [tuple(of_text.get(word, (0, 0))[0] for word in one) for one in result]
    # Phrases with the same stems are searched once.
    groups: dict[tuple[int, ...], list[int]] = {}
    for number, ids in enumerate(as_stems):
        if ids and 0 not in ids:
            groups.setdefault(ids, []).append(number)
    hits = look_for(texts.stem.to_numpy(), list(groups))
    if not hits.at.size:
        return _SCHEMA.to_frame()
    members = pl.DataFrame(
        [(group, number) for group, numbers in enumerate(groups.values()) for number in numbers],
        schema={"group": pl.Int64, "phrase": pl.UInt32}, orient="row",
    )  # fmt: skip
    found = pl.DataFrame({"group": hits.phrase, "at": hits.at, "length": hits.length}).join(members, on="group")
    found = found.with_columns(exact=_exact(texts, found, as_words))
    if exact:
        found = found.filter("exact")
    found = _once(found.sort("phrase", "at"))
    found = found.with_columns(
        kind=texts.kind.gather(found["at"]),
        nth=texts.nth.gather(found["at"]),
        linked=_any_linked(texts, found),
        page=_pages_at(texts, found["at"].to_numpy()),
    )
    numbers = {name: number for number, name in enumerate(KIND_NAMES)}
    heading, running = (pl.col("kind").is_in([numbers[name] for name in names]) for names in (HEADINGS, RUNNING))
    free = running & ~pl.col("linked")
    # Sorted this way, mentions of one phrase on one page are adjacent.
    run = pl.struct("phrase", "page").rle_id().set_sorted()
    counted = (
        found.with_columns(run=run)
        .group_by("run", maintain_order=True)
        .agg(
            pl.col("phrase", "page").first(),
            free.sum().alias("times"),
            (free & pl.col("exact")).sum().alias("exactly"),
            (running & pl.col("linked")).sum().alias("in_links"),
            heading.sum().alias("in_headings"),
            pl.col("nth").filter(free).min().alias("word"),
        )
    )
    said = pl.sum_horizontal("times", "in_links", "in_headings") > 0
    return counted.filter(said).select(pl.col(name).cast(kind) for name, kind in _SCHEMA.items())


def _once(found: pl.DataFrame) -> pl.DataFrame:
    """The first of each phrase's overlapping hits; `found`: phrase, at, length, sorted."""
    phrase, at, length = (found[name].to_numpy().astype(np.int64) for name in ("phrase", "at", "length"))
    reaches_on = np.concatenate([(at[:-1] + length[:-1] > at[1:]) & (phrase[:-1] == phrase[1:]), [False]])
    after = np.concatenate([[False], reaches_on[:-1]])
    current, free_from = np.ones(at.size, bool), 0
    for number in np.flatnonzero(reaches_on | after).tolist():
        current[number] = not after[number] or at[number] >= free_from
        if current[number]:
            free_from = at[number] + length[number]
    return found.filter(pl.Series(current))


_SCHEMA = pl.Schema(
    {
        "phrase": pl.UInt32(), "page": pl.UInt32(), "times": pl.UInt32(), "exactly": pl.UInt32(), "in_links": pl.UInt32(),
        "in_headings": pl.UInt32(), "word": pl.UInt32(),
    }
)  # fmt: skip


def _any_linked(texts: Texts, found: pl.DataFrame) -> pl.Series:
    """Whether any word of each hit is in a link."""
    so_far = np.concatenate([[0], np.cumsum(texts.linked.to_numpy(), dtype=np.int64)])
    at, length = found["at"].to_numpy(), found["length"].to_numpy()
    return pl.Series(so_far[at + length] > so_far[at])


def _pages_at(texts: Texts, at: Ints) -> pl.Series:
    rows = texts.pages.filter(pl.col("length") > 0).sort("begins")
    return rows["page"].gather(np.searchsorted(rows["begins"].to_numpy(), at, side="right") - 1)


def _exact(texts: Texts, found: pl.DataFrame, as_words: Sequence[tuple[int, ...]]) -> pl.Series:
    """Whether each hit matches its phrase exactly."""
    sequence = texts.word.to_numpy()
    at, phrase, length = (found[name].to_numpy() for name in ("at", "phrase", "length"))
    table = np.zeros((len(as_words), max(map(len, as_words))), np.uint32)
    for number, ids in enumerate(as_words):
        table[number, : len(ids)] = ids
    same = np.ones(at.size, bool)
    for index in range(table.shape[1]):
        reaches = np.flatnonzero(same & (length > index))
        same[reaches] = sequence[at[reaches] + index] == table[phrase[reaches], index]
    return pl.Series(same)


def sentence_with(content: str, phrase: str, language: str = "english", exact: bool = False) -> tuple[str, str] | None:
    r"""The first sentence of the running text that mentions a phrase without linking it, and the phrase as written there; None
    where there is none.

    >>> sentence_with("p\tRead this. Our canoe carts fold.", "canoe cart")
    ('Our canoe carts fold.', 'canoe carts')
    """
    wanted = [word if exact else stem(word, language) for word in words(phrase)]
    for sentence in _sentences(content):
        tokens = _tokens(sentence, language, exact)
        for start in range(len(tokens) - len(wanted) + 1):
            here = tokens[start : start + len(wanted)]
            if [entry for entry, *_ in here] == wanted and not any(linked for *_, linked in here):
                return _plain(sentence), sentence[here[0][1] : here[-1][2]]
    return None


def sentence_near(content: str, phrase: str, language: str = "english") -> str | None:
    """The sentence of the running text with the most words of a phrase, where a link would fit; None where no sentence has
    any.
    """
    wanted = {stem(word, language) for word in words(phrase)}
    best, most = None, 0
    for sentence in _sentences(content):
        current = len(wanted & {entry for entry, _, _, linked in _tokens(sentence, language, False) if not linked})
        if current > most:
            best, most = sentence, current
    return None if best is None else _plain(best)


def _sentences(content: str) -> list[str]:
    result: list[str] = []
    linked = False
    for line in content.split("\n"):
        kind, tab, text = line.partition("\t")
        if tab and kind in KINDS and kind in RUNNING:
            for sentence in _SENTENCE.split(text):
                # A link that spans the end of a sentence is marked in both.
                whole = LINK_OPENS + sentence if linked else sentence
                linked = whole.rfind(LINK_OPENS) > whole.rfind(LINK_CLOSES)
                result.append(whole)
        linked = False
    return result


def _tokens(sentence: str, language: str, exact: bool) -> list[tuple[str, int, int, bool]]:
    """Each word of a sentence in comparable form, its start and end, and whether it is part of a link."""
    result: list[tuple[str, int, int, bool]] = []
    linked = False
    for match in _TOKEN.finditer(sentence):
        if match[0] in (LINK_OPENS, LINK_CLOSES):
            linked = match[0] == LINK_OPENS
            continue
        word = next(iter(words(match[0])), "")
        result.append((word if exact else stem(word, language), match.start(), match.end(), linked))
    return result


def _plain(sentence: str) -> str:
    text = " ".join(re.sub(_MARK, "", sentence).split())
    return text if len(text) <= SENTENCE_MAX else text[:SENTENCE_MAX].rsplit(" ", 1)[0] + " …"
