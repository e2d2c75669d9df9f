"""Occurrences of phrases on pages: count, place and depth, by hand and against a naive search in Python's documentation."""

import re
from pydoc_data.topics import topics

import numpy as np
import polars as pl
import pytest

from zugzwang.core.words.occurrences import Occurrences, Reader, read_texts
from zugzwang.core.words.wording import words


def reader(*pages: tuple[str, str]) -> Reader:
    rows = [(number, title, content) for number, (title, content) in enumerate(pages)]
    return Reader(
        read_texts(pl.DataFrame(rows, schema={"page": pl.UInt32, "title": pl.String, "content": pl.String}, orient="row"))
    )


def test_exactly_and_in_other_forms_by_hand() -> None:
    """10 words; "canoe paddle size" at words 3 to 5, "paddle … canoe" in another order."""
    asked = reader(("Sizes", "p\tSizes. A canoe paddle's size; the paddle for a canoe"))
    assert asked.occurrences(0, "canoe paddle size") == Occurrences(1, 0, 3, 10, ("first 100 words", "text"))
    assert asked.occurrences(0, "canoe paddle size").first_at == pytest.approx(0.2)
    # Size and paddle in order, within six words: "Sizes. A canoe paddle's" and "size; the paddle".
    assert asked.occurrences(0, "sizes of paddles").in_other_forms == 2
    assert asked.occurrences(0, "canoes with paddles").in_other_forms == 1
    assert asked.occurrences(0, "paddle canoe").in_other_forms == 1  # "paddle for a canoe"
    assert asked.occurrences(0, "nothing of it") == Occurrences(words=10)


def test_a_phrase_runs_over_no_border_of_pieces_but_over_links_and_signs() -> None:
    asked = reader(("", "h2\tSea\np\tkayak\np\tA \x02sea\x03 – kayak, and the \x02Sea kayak\x03 page"))
    said = asked.occurrences(0, "sea kayak")
    assert (said.exactly, said.first, said.where) == (2, 4, ("first 100 words", "text", "link"))


def test_where_it_stands() -> None:
    filler = " ".join(["word"] * 99)
    asked = reader(
        ("Dry bag sizes", f"h1\tDry bag\np\t{filler}\nh3\tWhich dry bag?\nimg\tA dry bag\nli\tdry bag"),
        ("Bags", f"p\t{filler} a dry bag"),
    )
    assert asked.occurrences(0, "dry bag").where == (
        "title",
        "main heading",
        "heading",
        "first 100 words",
        "text",
        "picture text",
    )
    below = asked.occurrences(1, "dry bag")
    assert (below.where, below.first, below.words) == (("text",), 101, 102)
    assert below.first_at == pytest.approx(100 / 102)
    assert below.per_thousand == pytest.approx(1000 / 102)


def test_counts_are_those_of_a_naive_search_in_real_documentation() -> None:
    """1,000 phrases of one to four words from Python's documentation, which comes with Python."""
    texts = [" ".join(re.sub(r"[^\w'’]+", " ", topic).replace("_", " ").split()) for topic in topics.values()]
    asked = reader(*(("", f"p\t{text}") for text in texts))
    result = [words(text) for text in texts]
    rng = np.random.default_rng(1)
    found = 0
    for _ in range(1_000):
        page = int(rng.integers(len(result)))
        length = int(rng.integers(1, 5))
        at = int(rng.integers(max(len(result[page]) - length, 1)))
        phrase = " ".join(result[page][at : at + length])
        other = int(rng.integers(len(result)))
        for one in (page, other):
            naive = len(re.findall(rf"(?<!\S){re.escape(phrase)}(?!\S)", "  ".join(result[one]).replace("  ", " ")))
            found += naive
            assert asked.occurrences(one, phrase).exactly == naive, (phrase, one)
    assert found > 1_000
