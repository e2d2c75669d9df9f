"""Words, stems and the fit of a page to a query."""

from typing import Any

import polars as pl
import pytest

from zugzwang.core.pages.fit import Says, advice, closest_pages, common_in_order, fits, says
from zugzwang.core.words.wording import address_words, content_stems, stem, stems, words

# From the sample vocabulary of the English (Porter 2) stemmer that the Snowball project publishes with it; from memory.
SNOWBALL_SAMPLE = {
    "consign": "consign", "consigned": "consign", "consigning": "consign", "consignment": "consign",
    "consist": "consist", "consisted": "consist", "consistency": "consist", "consistent": "consist",
    "consistently": "consist", "consisting": "consist", "consists": "consist",
    "consolation": "consol", "consolations": "consol", "consolatory": "consolatori", "console": "consol",
    "consoled": "consol", "consoles": "consol", "consolidate": "consolid", "consolidated": "consolid",
    "consolidating": "consolid", "consoling": "consol", "consolingly": "consol", "consols": "consol",
    "knack": "knack", "knackeries": "knackeri", "knacks": "knack", "knag": "knag", "knave": "knave", "knaves": "knave",
    "knavish": "knavish", "kneaded": "knead", "kneading": "knead", "knee": "knee", "kneel": "kneel", "kneeled": "kneel",
    "kneeling": "kneel", "kneels": "kneel", "knees": "knee", "knell": "knell", "knelt": "knelt", "knew": "knew",
}  # fmt: skip


@pytest.mark.parametrize("word", SNOWBALL_SAMPLE)
def test_stems_of_the_published_sample(word: str) -> None:
    assert stem(word) == SNOWBALL_SAMPLE[word]


def test_words_of_other_languages_have_stems_of_their_own() -> None:
    assert stems("Häuser Hauses", "german") == ("haus", "haus")
    assert stems("Häuser", "english") == ("häuser",)


def test_words_and_addresses() -> None:
    assert words("The Paddler’s guide: 3-day trips") == ["the", "paddler", "guide", "3", "day", "trips"]
    assert content_stems("how to store a canoe") == ("store", "cano")
    assert content_stems("how to") == ("how", "to")  # where there is nothing else, they are what was asked
    assert address_words("https://shop.example/guides/canoe-paddle_sizes.html?a=1#b") == "guides canoe paddle sizes"
    assert address_words("https://shop.example/caf%C3%A9/index.php") == "café"


PAGE = says("https://shop.example/guides/sizes/", "Paddle sizes for canoes | Shop", "Which paddle size?")


@pytest.mark.parametrize(
    ("query", "expected", "current"),
    [
        ("paddle size", "close", 1.0),
        ("canoe paddle sizes", "close", 1.0),  # two of three in the title's order
        ("canoe size paddle", "loose", 1.0),  # all there, but one in order
        ("canoe paddle size chart", "loose", 3 / 4),
        ("size of a kayak", "loose", 1 / 2),
        ("kayak spray deck sizes", "off", 1 / 4),
        ("dry suit", "off", 0.0),
    ],
)
def test_fit(query: str, expected: str, current: float) -> None:
    found = _fit(content_stems(query), PAGE)
    assert (found["fit"], found["covered"]) == (expected, pytest.approx(current))


def _fit(query: tuple[str, ...], page: Says) -> dict[str, Any]:
    return fits(pl.DataFrame({"page": [1], "query": [7]}), {1: page}, {7: query}).row(0, named=True)


def test_what_is_not_known_is_not_judged() -> None:
    not_judged = {"fit": None, "covered": None, "fit_known_by": None, "lacking": []}
    assert _fit(content_stems("paddle"), says("https://shop.example/", None, None)) == not_judged
    assert _fit((), PAGE) == not_judged
    by_address = _fit(content_stems("paddle size"), says("https://shop.example/paddle-size/", None, None))
    assert (by_address["fit"], by_address["fit_known_by"]) == ("close", "address")


def test_words_that_lack_are_named() -> None:
    assert _fit(content_stems("paddle size chart"), PAGE)["lacking"] == ["chart"]
    assert common_in_order("ABCBDAB", "BDCABA") == 4  # Cormen et al., Introduction to Algorithms, 15.4: BCBA


def test_fits_stand_in_the_order_of_their_rows() -> None:
    rows = pl.DataFrame({"page": [2, 1, 9, 1], "query": [7, 8, 7, 7]}, {"page": pl.UInt32, "query": pl.UInt32})
    pages = {1: PAGE, 2: says("https://shop.example/dry-suits/", None, None)}
    found = fits(rows, pages, {7: content_stems("paddle size"), 8: content_stems("paddle chart paddle chart dry")})
    assert found["fit"].to_list() == ["off", "off", None, "close"]
    assert found["lacking"].to_list() == [["paddl", "size"], ["chart", "chart", "dri"], [], []]
    assert found["fit_known_by"].to_list() == ["address", "title and heading", None, "title and heading"]


def test_the_closest_page_and_what_a_query_wants() -> None:
    """A new page must not become a new clash, so clashes come first, then a page that covers the query."""
    pages = {1: PAGE, 2: says("https://shop.example/paddle-size-chart/", "Paddle size chart", None), 3: says("/", None, None)}
    queries = {7: content_stems("paddle size chart"), 8: content_stems("dry suit"), 9: ()}
    assert closest_pages(queries, pages) == {7: 2}
    assert advice("loose", ["chart"], 1, 2, in_clash=True).startswith("Resolve the clash first")
    assert advice("loose", ["chart"], 1, 2, in_clash=False).startswith("Another page of yours")
    assert advice("loose", ["chart"], 1, None, in_clash=False) == "Add the missing words to the page."
    assert advice("off", ["dry", "suit"], 1, None, in_clash=False).startswith("Write a new page")
