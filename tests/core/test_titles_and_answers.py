"""Small on-page rules by hand: widths, titles, missing queries, competing pages, featured snippets, reading ease."""

import pytest
import textstat

from zugzwang.core.pages.content import pieces_of
from zugzwang.core.results.above import facts_of, out_of_range, passage_of, strength
from zugzwang.core.results.answers import Box, advice, gain, lacking
from zugzwang.core.words.missing_queries import Context, on_page_of, what_to_do
from zugzwang.core.words.occurrences import Occurrences
from zugzwang.core.words.pixels import shown_of, width
from zugzwang.core.words.reading_ease import LANGUAGES, reading_ease
from zugzwang.core.words.titles import SnippetTexts, main_queries, problems_of, without_site_name


def test_widths_are_those_of_helvetica() -> None:
    """Adobe font metrics of Helvetica (core 14), in thousandths of an em; a Chinese character is one em wide."""
    wanted = {" ": 278, "A": 667, "i": 222, "m": 833, "W": 944, "0": 556, "é": 556, "漢": 1000}
    assert {letter: round(width(letter, 1000)) for letter in wanted} == wanted
    assert width("e\u0301", 1000) == width("e", 1000)
    long = "Paddle length: how long should a kayak paddle be for your height and boat"
    assert shown_of(long, 20, 600) == "Paddle length: how long should a kayak paddle be for your height"
    assert shown_of("short", 20, 600) == "short"


def test_problems_of_titles_by_hand() -> None:
    fine = SnippetTexts("Dry bags in all sizes | Shop", "Dry bags from us.", "Dry bags", 1, 1, main_query="dry bag")
    assert problems_of(fine, 0, 0) == []
    cut = SnippetTexts(
        "Dry bags in all sizes | " + "The Long Name of a Shop by the River and the Lake", "Dry bags.", "x", main_query="dry bag"
    )
    assert problems_of(cut, 0, 0) == ["site-name-cut-title"]
    other = SnippetTexts("Bags", "What one needs.", "Bags", 2, 0, "Bags for the …", "Rolled and clipped", "waterproof dry bag")
    assert problems_of(other, 1, 1) == [
        "several-title", "doubled-title", "same-as-heading-title", "lacks-main-query-title", "rewritten-by-engine-title",
        "doubled-description", "lacks-main-query-description", "rewritten-by-engine-description",
    ]  # fmt: skip
    # What is cut off, or leaves off the site's name, is no other title.
    assert problems_of(SnippetTexts("Dry bags in all sizes", "d", "x", shown_title="Dry bags in …"), 0, 0) == []
    assert without_site_name("No name - here") == ("No name", "here")


def test_the_main_query_is_the_largest_that_the_page_says() -> None:
    result = main_queries({1: [(7, 90.0, "off"), (8, 40.0, "loose"), (9, 50.0, "close")], 2: [(7, 3.0, None), (8, 9.0, "off")]})
    assert result == {1: 9, 2: 8}


@pytest.mark.parametrize(
    ("said", "extras", "wanted"),
    [
        (Occurrences(2, 0, 5, 400, ("text", "first 100 words")), Context("close"), "leave it"),
        (Occurrences(9, 0, 5, 400, ("text",)), Context("close", usual_high=10.0), "use it less often"),
        (Occurrences(1, 0, 300, 400, ("text",)), Context("loose"), "move it up"),
        (Occurrences(0, 1, 5, 400, ("main heading",)), Context("loose"), "leave it"),
        (Occurrences(words=400), Context("off", in_clash=True), "resolve the clash first"),
        (Occurrences(words=400), Context("off", another_says_it=True), "link to the page that covers it"),
        (Occurrences(words=400), Context("off"), "write a page for it"),
        (Occurrences(words=400), Context("loose", is_main=True), "add it to the title"),
        (Occurrences(words=400), Context("loose"), "add it as a heading, with a short answer"),
    ],
)
def test_what_to_do_about_a_query_that_is_said_too_little(said: Occurrences, extras: Context, wanted: str) -> None:
    assert what_to_do("how long is a paddle", said, extras) == wanted


def test_late_is_beyond_half_and_in_no_heading() -> None:
    assert on_page_of(Occurrences(1, 0, 201, 400, ("text",))) == "on the page"
    assert on_page_of(Occurrences(1, 0, 202, 400, ("text",))) == "low on the page"
    assert on_page_of(Occurrences(1, 0, 202, 400, ("heading",))) == "on the page"


def test_what_is_within_our_strength() -> None:
    assert strength(4, 15, [4, 40, 12]) == (2, 1)
    assert strength(4, 15, [4, None, 15]) == (3, 2)  # unknown and equal ones cannot be counted on
    assert strength(2, 15, [40]) == (2, 1)
    assert strength(4, None, [4]) is None


PAGE = """h1\tHow long is a paddle?
p\tA paddle is as long as you are tall, less a hand.
ul\t
li\tone
li\ttwo
li\tthree
table\t
td\t1"""


def test_a_passage_is_what_stands_right_below_its_heading() -> None:
    result = passage_of(pieces_of(PAGE), "how long is a paddle", "english")
    assert result is not None
    assert (result.characters, result.words, result.items, result.cells, result.is_short_answer) == (49, 12, 3, 1, True)
    defined = passage_of(pieces_of("p\tA portage is a way round.\nh2\tOther"), "portage", "english")
    assert defined is not None
    assert defined.text == "A portage is a way round."
    assert passage_of(pieces_of(PAGE), "sea kayak", "english") is None


def test_side_by_side_by_hand() -> None:
    ours = facts_of("paddle length", "Paddle length", None, PAGE, 2, "english", 7)
    assert [ours[name] for name in ("headings", "questions", "lists", "tables", "pictures", "referring_domains")] == [
        1,
        1,
        1,
        1,
        2,
        7,
    ]
    assert (ours["in_title"], ours["in_heading"], ours["in_description"]) == (True, False, False)
    above = [{"words": count, "in_description": True} for count in (100.0, 120.0, 140.0, 160.0)]
    assert out_of_range({"words": 114.0, "in_description": False}, above) == {"words": "low", "in_description": "low"}
    assert out_of_range({"words": 155.5}, above) == {"words": "high"}
    assert out_of_range({"words": 130.0}, above) == {}
    assert out_of_range({"words": 1.0}, above[:2]) == {}  # two have no range


def test_answer_boxes_by_hand() -> None:
    others = [Box(False, "list", place) for place in (1, 2, 10, 11, None)]
    assert [one.is_opening for one in others] == [False, True, True, False, False]
    assert [advice(one) for one in others] == [*["take it"] * 3, *["rank on page one first"] * 2]
    assert advice(Box(True, None, 3)) == "yours: watch it"
    ours = passage_of(pieces_of(PAGE), "how long is a paddle", "english")
    assert lacking("list", ours, None) == []
    assert lacking("paragraph", ours, None) == []
    assert lacking("table", None, None) == ["a heading with the question", "a table below it"]
    assert gain(100, 35, 1.2, 0.4, 300) == pytest.approx(80)
    assert gain(100, 35, None, 0.4, 300) == pytest.approx(60)
    assert gain(100, 35, None, None, 300) == pytest.approx(200)


TEXTS = (
    "A canoe goes where you point it after an afternoon of practice. Most people learn it on a lake. The wind is the teacher. "
    "Take a map, and tell somebody when you will be back on land.",
    "The municipal administration deliberated extensively regarding infrastructural modernisation. Considerable disagreement "
    "characterised subsequent negotiations, notwithstanding preliminary recommendations by independent consultants and "
    "representatives of neighbouring communities throughout the entire territory and its many surrounding islands.",
)


def test_reading_ease_beside_textstat() -> None:
    """Flesch 1948, as in textstat with a dictionary of syllables; our count of vowel groups agrees within a few points."""
    easy, hard = (reading_ease(text) for text in TEXTS)
    assert easy is not None
    assert hard is not None
    textstat.set_lang("en")
    assert easy == pytest.approx(textstat.flesch_reading_ease(TEXTS[0]), abs=8)
    assert hard == pytest.approx(textstat.flesch_reading_ease(TEXTS[1]), abs=15)
    assert easy > hard + 60


def test_every_language_has_its_formula() -> None:
    """Thirty one-syllable words in three sentences: ten words a sentence, one syllable a word, in each formula by hand."""
    text = "bat cat dot fan got hat kit lot map nut. " * 3
    wanted = {
        "english": 206.835 - 10.15 - 84.6, "german": 180 - 10 - 58.5, "french": 207 - 10.15 - 73.6,
        "spanish": 206.84 - 10.2 - 60, "italian": 217 - 13 - 60, "dutch": 206.835 - 9.3 - 77,
    }  # fmt: skip
    assert {language: reading_ease(text, language) for language in LANGUAGES} == pytest.approx(wanted)
    assert reading_ease(text, "finnish") is None
    assert reading_ease("Too short.") is None
