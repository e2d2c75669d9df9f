"""Drafts without a site: allowed HTML, merges of two people's text, a live check that finds planted faults and no others."""

import html
import subprocess
from pathlib import Path

import docx
import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zugzwang.core.drafts.check import Checked, Targets, check
from zugzwang.core.drafts.formats import as_document, as_html, as_markdown
from zugzwang.core.drafts.help import LETTERS, checked
from zugzwang.core.drafts.merging import differences, merge, plain
from zugzwang.core.drafts.repeats import RUN, repeated, runs_of
from zugzwang.core.drafts.terms import Corpus, RelatedTerm, Term, separate_sentences, uses
from zugzwang.core.drafts.text import blocks_of, cleaned, content_of, of_content, pictures_of
from zugzwang.core.pages.content import marked_pieces_of
from zugzwang.core.words.occurrences import read_texts

PASTED = """<html><head><style>p {color: red}</style></head><body><p class="x" style="mso-list:l0">Wide <b>tyres</b></p>
<div><h2 onclick="run()">How to fold it</h2><div>First <i>this</i></div></div><script>alert(1)</script>
<img src="data:image/png;base64,AAAA" alt="a cart"><p><img src="https://shop.example/pictures/strap.jpg?w=20"></p>
<a href="javascript:run()">no</a><ul><li>one</li><li>two</li></ul><table><tr><td>cell</td></tr></table></body></html>"""
BLOCKS = st.lists(st.sampled_from([f"<p>paragraph {letter}</p>" for letter in "abcdefgh"]), max_size=8)


def test_what_is_pasted_is_cut_down_to_what_a_page_has() -> None:
    text = cleaned(PASTED)
    assert blocks_of(text)[:3] == [
        "<p>Wide <strong>tyres</strong></p>",
        "<h2>How to fold it</h2>",
        "<p>First <em>this</em></p>",
    ]
    assert not any(word in text for word in ("script", "style", "onclick", "javascript", "base64", "src="))
    assert pictures_of(text) == [("", "a cart"), ("strap.jpg", "")]  # named, not stored
    assert "<li>two</li>" in text
    assert "cell" in text
    assert cleaned(text) == text


@given(st.text(alphabet='<>/ap&;"= bdiv\n', max_size=60))
def test_cleaning_is_done_at_once(typed: str) -> None:
    assert cleaned(cleaned(typed)) == cleaned(typed)


def test_a_page_as_crawled_says_the_same_as_a_draft() -> None:
    content = "h1\tCarts\nimg\ta cart\np\tSee \x02our chart\x03 & more.\nol\t\nli\tone\nli\ttwo\nh3\tEnd\ntable\t\ntd\tcell"
    text = of_content(marked_pieces_of(content), {"our chart": "https://shop.example/chart/"})
    assert '<a href="https://shop.example/chart/">our chart</a> &amp; more.' in text
    assert content_of(text) == content
    assert cleaned(text) == text


@given(BLOCKS, BLOCKS)
def test_what_one_alone_changed_is_taken(base: list[str], mine: list[str]) -> None:
    for entry in (merge(base, mine, base), merge(base, base, mine), merge(base, mine, mine)):
        assert [block for piece in entry for block in piece.mine] == mine
        assert all(piece.theirs is None for piece in entry)


def test_a_merge_is_that_of_version_control(tmp_path: Path) -> None:
    """Against git merge-file, on texts in which two people changed different, non-adjacent paragraphs."""
    rng = np.random.default_rng(5)
    for _ in range(25):
        base = [f"<p>{word}</p>" for word in rng.permutation(1000)[:24].astype(str)]
        mine, theirs = list(base), list(base)
        for at in range(0, 24, 3):
            text = mine if rng.random() < 0.5 else theirs
            text[at] = ["<p>new</p>", "", f"{base[at]}\n<p>added {at}</p>"][rng.integers(3)]
        texts = ["\n".join(one for one in text if one) for text in (mine, base, theirs)]
        files = [tmp_path / name for name in ("mine", "base", "theirs")]
        for file, text in zip(files, texts, strict=True):
            file.write_text(text + "\n")
        reference = subprocess.run(["git", "merge-file", "-p", *files], capture_output=True, text=True, check=True).stdout
        result = merge(blocks_of(texts[1]), blocks_of(texts[0]), blocks_of(texts[2]))
        assert [piece.theirs for piece in result] == [None]
        assert list(result[0].mine) == reference.splitlines()


def test_what_both_changed_is_told_from_both_and_neighbours_are_no_conflict() -> None:
    result = merge(["a", "b", "c"], ["a", "MINE", "c"], ["A", "THEIRS", "c", "d"])
    assert [(piece.mine, piece.theirs) for piece in result] == [(("A",), None), (("MINE",), ("THEIRS",)), (("c", "d"), None)]


@given(BLOCKS, BLOCKS)
def test_differences_are_all_that_differs(before: list[str], after: list[str]) -> None:
    result = differences(before, after)
    for what, text in (("removed", before), ("added", after)):
        words = " ".join("".join(part.text for part in block if part.what in ("kept", what)) for block in result).split()
        assert words == " ".join(plain(one) for one in text).split()


# --- the live check -------------------------------------------------------------------------------------------------------

QUERY = "how to fold a canoe cart"
CART = RelatedTerm("canoe cart", "essential", 5, (10.0, 30.0, 60.0))
STRAP = RelatedTerm("steel strap", "common", 3, (1.0, 1.0, 2.0))
SOUND = (
    f"<h1>Canoe carts</h1><h2>{QUERY.capitalize()}?</h2><p>Take the wheels off first, then press both arms of the canoe cart "
    "together.</p>" + "<h3>Small parts</h3><p>The axle is short. It fits a bag.</p>" * 6
)


def found(text: str, **more: object) -> Checked:
    targets = Targets(QUERY, "english", (CART, STRAP), length=(20.0, 200.0), short_answer=True, **more)  # type: ignore[arg-type]
    return check(text, "How to fold a canoe cart", "Fold a canoe cart in a minute: how, and with what.", targets)


def test_a_sound_draft_has_no_fault() -> None:
    result = found(SOUND)
    assert (result.faults, result.problems) == ([], [])
    assert [(one.text, one.times_used, one.state) for one in result.terms] == [
        ("canoe cart", 4, "used"),
        ("steel strap", 0, "missing"),
    ]
    assert result.coverage == pytest.approx(3 / 5)
    assert result.short_answer == 75


@pytest.mark.parametrize(
    ("planted", "kind", "says"),
    [
        (f"<p>{'one word after another ' * 9}stands here.</p>", "long sentence", "one word after another"),
        (f"<p>{'It rolls on sand. ' * 40}</p>", "wall of text", "It rolls on sand."),
        ("<h1>Another</h1><p>Text.</p>", "headings", "Another"),
        ("<h2>Two</h2><h5>Five</h5>", "headings", "Five"),
        ('<p><img alt="" title="strap.jpg"></p>', "picture", ""),
        (f"<p>{'Short one. ' * 200}</p>", "length", ""),
    ],
)
def test_what_reads_badly_is_found_where_it_was_planted(planted: str, kind: str, says: str) -> None:
    faults = [one for one in found(SOUND + planted).faults if one.kind == kind]
    assert len(faults) == 1
    assert faults[0].quote.startswith(says)
    # What is marked is in the text, so the screen finds it.
    assert html.escape(faults[0].quote, quote=False) in cleaned(planted)


def test_a_short_answer_is_wanted_until_it_stands() -> None:
    answer = SOUND[SOUND.index("<p>") : SOUND.index("<h3>")]
    for too in ("<p>Press.</p>", f"<p>{'Press the arms. ' * 30}</p>"):
        assert "short answer" in {one.kind for one in found(SOUND.replace(answer, too, 1)).faults}
    assert "short answer" in {one.kind for one in found(SOUND.replace(QUERY.capitalize(), "Folding")).faults}


def test_a_term_is_said_too_often_beyond_what_the_pages_above_do() -> None:
    text = SOUND + "<p>Steel strap. </p>" * 3
    assert found(text).terms[1].state == "used"  # three times are never too often
    assert found(text + "<p>Steel strap. Steel straps.</p>").terms[1].state == "too often"


def test_terms_are_counted_as_in_the_pages_they_came_from() -> None:
    rng = np.random.default_rng(7)
    words = ["canoes", "cart", "wheel", "strap", "the", "steel", "7", "of"]
    texts = [". ".join(" ".join(rng.choice(words, 9)) for _ in range(12)) for _ in range(30)]
    rows = [(number, "Canoe wheel", separate_sentences(f"p\t{text}")) for number, text in enumerate(texts)]
    corpus = Corpus(read_texts(pl.DataFrame(rows, {"page": pl.UInt32, "title": pl.String, "content": pl.String}, orient="row")))
    some = [key for key in corpus._of[3][0].tolist() if len(corpus._key(key)) > 1][:20]
    terms = [Term(corpus._key(key), "common", 1.0, 3, (0.0, 0.0, 0.0)) for key in some]
    result = [RelatedTerm(corpus.form(one, [3]), "common", 3, (0.0, 0.0, 0.0)) for one in terms]
    for page in range(0, 30, 5):
        assert uses(f"p\t{texts[page]}", "Canoe wheel", result) == corpus.counts(page, terms)


def random_pages(number: int, seed: int, words: int = 400) -> pl.DataFrame:
    rng = np.random.default_rng(seed)
    known = np.array([f"word{one}" for one in range(900)])
    rows = [(page, "t", "p\t" + " ".join(rng.choice(known, words))) for page in range(1, number + 1)]
    return pl.DataFrame(rows, {"page": pl.UInt32, "title": pl.String, "content": pl.String}, orient="row")


@pytest.mark.parametrize("kept_most", [5_000_000, 20_000])
def test_passages_of_own_pages_are_found_and_none_where_there_are_none(kept_most: int) -> None:
    pages = random_pages(150, 1)
    runs = runs_of(read_texts(pages), kept_most)
    draft = random_pages(1, 2)["content"][0].split("\t")[1].split()
    assert repeated(" ".join(draft), runs) == []
    passage = pages["content"][40].split("\t")[1].split()[100:160]
    rows = repeated(" ".join([*draft[:200], *passage, *draft[200:]]), runs)
    assert [one.page for one in rows] == [41]
    slack = 4 * runs.every
    assert 200 <= rows[0].first <= 200 + slack
    assert 260 - slack <= rows[0].end <= 260
    assert repeated(" ".join(passage), runs, besides=[41]) == []
    if runs.every == 1:
        assert len(repeated(" ".join(passage[:RUN]), runs)) == 1
        assert repeated(" ".join(passage[: RUN - 1]), runs) == []


# --- leaving, help --------------------------------------------------------------------------------------------------------


def test_a_draft_leaves_whole() -> None:
    text = cleaned("<h1>Carts &amp; more</h1><p>A <strong>wide</strong> tyre, <a href='/x/'>here</a>.</p><ol><li>one</li></ol>")
    text += '\n<p><img alt="a cart" title="cart.jpg"></p>\n<table><tbody><tr><th>h</th><td>c</td></tr></tbody></table>'
    markdown = as_markdown('The "cart"', "What it is", text)
    assert markdown.startswith('---\ntitle: "The \\"cart\\""\ndescription: "What it is"\n---\n\n# Carts & more\n')
    assert "A **wide** tyre, [here](/x/)." in markdown
    assert "1. one" in markdown
    assert "- a cart (cart.jpg)" in markdown
    whole = as_html('The "cart"', "What it is", text, "english")
    assert '<html lang="en">' in whole
    assert content_of(whole.partition("<body>")[2].partition("</body>")[0]) == content_of(text)
    made = as_document("Title", "Description", text)
    assert isinstance(made, docx.document.Document)
    lines = [(one.style.name if one.style else "", one.text) for one in made.paragraphs if one.text]
    assert lines[0] == ("Heading 1", "Carts & more")
    assert lines[1][1].startswith("A wide tyre, here")
    assert ("List Number", "one") in lines
    assert any("a cart cart.jpg" in line for _, line in lines)
    assert [cell.text for table in made.tables for cell in table._cells] == [
        "Title",
        "Title",
        "Description",
        "Description",
        "h",
        "c",
    ]


def test_proposals_are_looked_at_before_anybody_sees_them() -> None:
    result = checked("titles", ["1. <b>Canoe carts</b>", "Canoe carts", "Wheels", "canoe cart " * 9], "canoe cart")
    assert [(one.text, one.faults) for one in result[:2]] == [("Canoe carts", []), ("Wheels", ["lacks “canoe cart”"])]
    assert result[2].faults == [f"{len('canoe cart ' * 9) - 1 - LETTERS['titles']} characters too long"]
    assert checked("short answer", ["<script>x()</script>Too short."], "canoe")[0].faults == [
        "too short for an answer", "lacks “canoe”"
    ]  # fmt: skip
    assert checked("outline", [f"Heading {number}" for number in range(40)], "canoe")[-1].text == "Heading 19"
