"""Sentences of diagnoses: singular and plural, rises and falls, little and nothing."""

from datetime import date

import pytest

from zugzwang.core.clicks.lenses import LENSES
from zugzwang.core.time.change import PARTS
from zugzwang.core.words import sentences

NOTHING = dict.fromkeys(PARTS, 0.0)


@pytest.mark.parametrize(
    ("said", "expected"),
    [
        (
            sentences.change({"clicks_before": 100, "clicks_after": 60, **NOTHING, "rank": -35, "shown": -5})[1],
            "Of that, −35 comes from ranking changes, −5 from impressions.",
        ),
        (sentences.change({"clicks_before": 60, "clicks_after": 100, **NOTHING})[0], "Clicks rose from 60 to 100 (+40)."),
        (sentences.change({"clicks_before": 60, "clicks_after": 60.2, **NOTHING})[0], "Clicks stayed at 60."),
        (sentences.signed(0.2), "0"),
        (
            sentences.breaks(0, 1, 70, "site"),
            "The site was checked over 70 weeks: no change of level beyond the shared trend and chance.",
        ),
        (
            sentences.cliff(5, True, date(2026, 9, 21), "New template", 0.31),
            "5 pages fell near “New template” (from the week of 21 Sep 2026); about 0.3 would have done so by chance.",
        ),
        (
            sentences.cliff(1, False, date(2026, 9, 21), None, 0.0),
            "1 page rose in the week of 21 Sep 2026, with no dated event near; hardly one would have done so by chance.",
        ),
        (
            sentences.clashes({}, 0.0, 0, 31, 214),
            "No clashes found. 31 of 214 queries have enough impressions to notice a clash.",
        ),
        (
            sentences.clashes({"double listing": 1}, 0.0, 0, 1, 1),
            "No unresolved clashes; 1 double listing on page one is a strength. "
            "1 of 1 query has enough impressions to notice a clash.",
        ),
        (
            sentences.clashes({"alternating": 1}, 12.4, 1, 31, 214),
            "1 query has clashing pages, costing about 12 clicks a month.",
        ),
        (
            sentences.clashes({"alternating": 2}, 12.4, 0, 31, 214),
            "2 queries have clashing pages, costing about 12 clicks a month (too little data to be sure of any).",
        ),
        (sentences.standing("settled", date(2026, 10, 12), 28), "Settled since 12 Oct 2026."),
        (sentences.standing("too early", None, 28), "Too early to tell: 28 days of data after the decision are needed."),
        (
            sentences.fold("texts unknown", 0.6, None, None),
            "They share 60\u202f% of their queries; they have not been crawled: "
            "one subject twice, or two topics treated as one.",
        ),
        (sentences.folds([], 0), "No two pages share enough queries to compare them."),
        (
            sentences.folds(["same subject"], 1),
            "1 pair of pages in 1 group: 1 with one subject twice, 0 with two topics treated as one.",
        ),
        (
            sentences.fit("loose", [], "title and heading"),
            "The page covers the query loosely: its words are apart or in another order.",
        ),
        (sentences.accounts(0, 0, 0.0, 0.0), "No page had impressions or visits in the period."),
        (
            sentences.accounts(3, 0, 0.1, 20),
            "None of 3 pages loses clicks beyond chance. Better positions could bring about 20 more in total.",
        ),
        (sentences.reason("unite", "kayak", 0.3, None, 1.0), "Several pages clash over “kayak”, which costs 1 click a month."),
        (sentences.landing(90, None, 0, 0, {}), ["90 clicks, and no visit data to compare with."]),
        (
            sentences.landing(90, 80, 1, 0, {"earns": 1, "informs": 2})[1:],
            [
                "1 page bounces more than others of their type, 0 less.",
                "1 page earns, 2 inform; 0 have too few visits to judge.",
            ],
        ),
        (sentences.sections(1, 4), "4 pages in 1 directory."),
        (
            sentences.sudden_days([date(2026, 11, 9)]),
            "9 Nov 2026 has at most a tenth of the days around it: it may be incomplete.",
        ),
        (sentences.sudden_days([]), ""),
    ],
)
def test_words(said: str | list[str], expected: str | list[str]) -> None:
    assert said == expected


@pytest.mark.parametrize("lens", LENSES)
def test_a_lens_never_claims_what_is_thin(lens: str) -> None:
    assert "rows were tested; none " in sentences.lens(lens, {"firm": 0, "likely": 0, "too little data": 900}, 1000)
    assert "rows were tested; 2 " in sentences.lens(lens, {"firm": 1, "likely": 1, "too little data": 900}, 1000)


def test_how_far_down_the_results_page_ones_own_result_is() -> None:
    above = [("ad", False), ("ad", False), ("featured snippet", False)]
    said = sentences.results_page([*above, ("organic", True)])
    assert said == "Your result is the 4th block on the page; above it: 2 × ad, 1 × featured snippet."
    assert sentences.results_page([("organic", True)]) == "Your result is the first block on it."
    assert sentences.results_page(above) == "None of your pages is on it."
    many = [("organic", False)] * 11
    assert "12th block" in sentences.results_page([*many, ("organic", True)])
    assert "22nd block" in sentences.results_page([("organic", False)] * 21 + [("organic", True)])
