"""The page's account: worked by hand, and nothing counted twice."""

import polars as pl
import pytest

from tests.planted import planted_site
from zugzwang.core.clicks import lenses
from zugzwang.core.clicks.evidence import GRADES
from zugzwang.core.clicks.lenses import appraise, appraise_pages, look
from zugzwang.core.pages.account import LEVERS, accounts, entries, value_per_click, with_page_verdicts

GRADE = pl.Enum(GRADES)


def stakes(*rows: tuple[int, int, float, float, float, float, str]) -> pl.DataFrame:
    """Columns page, query, lost, potential, their cautious values, evidence."""
    names = ["page", "query", "lost", "potential", "lost_cautious", "potential_cautious", "evidence"]
    frame = pl.DataFrame(rows, schema=names, orient="row").with_columns(pl.col("page", "query").cast(pl.UInt32))
    grade = pl.col("evidence").cast(GRADE)
    return frame.with_columns(
        evidence=grade,
        rank_evidence=grade,
        taken=pl.lit(0.0),
        explained=pl.lit(False),
        clicks=pl.lit(3),
        impressions=pl.lit(400),
        position=pl.lit(6.0),
    )


def contested(*rows: tuple[int, int, bool, float, float]) -> pl.DataFrame:
    kinds = {"page": pl.UInt32, "query": pl.UInt32, "lead": pl.Boolean, "loss": pl.Float64, "loss_cautious": pl.Float64}
    return pl.DataFrame(rows, schema=kinds, orient="row").with_columns(clash_evidence=pl.lit("likely").cast(GRADE))


def test_the_worked_example() -> None:
    rows = stakes((1, 1, 40.0, 20.0, 30.0, 5.0, "firm"), (1, 2, 5.0, 0.0, 0.0, 0.0, "too little data"))
    result = accounts(entries(rows, contested((1, 2, True, 12.0, 4.0), (2, 2, False, 12.0, 4.0))))
    page = result.filter(pl.col("page") == 1).to_dicts()[0]
    assert [page[lever] for lever in LEVERS] == [40.0, 12.0, 20.0]
    assert (page["lost"], page["potential"], page["opportunity"], page["gain"]) == (52.0, 20.0, 72.0, 39.0)
    assert page["evidence"] == "firm"
    assert result.filter(pl.col("page") == 2)["opportunity"].item() == 0  # the loss is at the lead alone


def test_a_query_has_the_larger_of_clash_and_row_never_their_sum() -> None:
    lead_row = (1, 1, 30.0, 60.0, 10.0, 20.0, "likely")
    for loss, expected in ((0.5, 90.0), (40.0, 90.0), (200.0, 200.0)):
        result = accounts(entries(stakes(lead_row), contested((1, 1, True, loss, loss))))
        assert result["opportunity"].item() == pytest.approx(expected)
        assert result["snippet"].item() * 2 == pytest.approx(result["rank"].item())  # in the row's own proportion


def test_a_better_place_alone_grades_no_page() -> None:
    """Potential clicks alone do not give a page a grade, however certain."""
    result = accounts(entries(stakes((1, 1, 0.0, 500.0, 0.0, 400.0, "firm")), contested())).to_dicts()[0]
    assert (result["gain"], result["evidence"]) == (400.0, "too little data")


def test_rows_above_the_curve_take_nothing_away() -> None:
    rows = stakes((1, 1, 0.0, 10.0, 0.0, 2.0, "too little data"), (1, 2, 30.0, 0.0, 12.0, 0.0, "firm"))
    result = accounts(entries(rows, contested())).to_dicts()[0]
    assert (result["snippet"], result["rank"], result["opportunity"]) == (30.0, 10.0, 40.0)


def test_many_thin_rows_do_not_lead() -> None:
    thin = [(1, query, 6.0, 0.0, 0.0, 0.0, "too little data") for query in range(50)]
    result = accounts(entries(stakes(*thin, (2, 99, 100.0, 0.0, 80.0, 0.0, "firm")), contested()))
    assert result["page"].to_list() == [2, 1]
    assert result["opportunity"].to_list() == [100.0, 300.0]
    assert result["evidence"].to_list() == ["firm", "too little data"]


def test_a_click_is_worth_what_is_known_nearest() -> None:
    kinds = {"page": pl.UInt32, "type": pl.String, "sessions": pl.UInt32, "value": pl.Float64, "price": pl.Float64}
    pages = pl.DataFrame(
        [
            (1, "product", 400, 800.0, 0.5),
            (2, "product", 20, 500.0, 0.5),
            (3, "guide", 30, 0.0, None),
            (4, None, None, None, 0.7),
        ],
        schema=kinds,
        orient="row",
    )
    result = value_per_click(pages).rows()
    assert result[0] == (1, 2.0, "visits of the page")
    assert result[1] == (2, 1300 / 420, "visits of its type")  # one lucky sale of 20 sessions is no price
    assert result[2] == (3, 1300 / 450, "visits of the site")
    without = value_per_click(pages.with_columns(value=pl.lit(None, dtype=pl.Float64)))
    assert without["worth_basis"].to_list() == ["price per click", "price per click", None, "price per click"]


def verdicts(seed: int, poor_page: float = 1.0) -> tuple[set[int], set[int]]:
    """The pages called firm or likely by their rows alone, and with the page as a whole: 120 pages of eight queries in heavy
    scatter, one query at a hundredth of its clicks, and page 5 with all its queries at `poor_page` of them.
    """
    made = planted_site(seed=seed, queries=960, poor=1, movers=0, shape=3.0).facts
    facts = made.with_columns(page=(pl.col("page") // 8).cast(pl.UInt32))
    less = (pl.col("clicks") * poor_page).round().cast(facts.schema["clicks"])
    facts = facts.with_columns(clicks=pl.when(pl.col("page") == 5).then(less).otherwise("clicks"))
    rows = appraise(facts, pl.Series([], dtype=pl.UInt32), None)
    by_page = appraise_pages(facts.with_columns(query=pl.lit(0, dtype=pl.UInt32)), rows)
    alone = accounts(entries(lenses.stakes(rows, 100), contested().clear()))
    both = with_page_verdicts(alone, look(by_page, "low-ctr", 100))
    sure = [set(entry.filter(pl.col("evidence").cast(pl.String).is_in(["firm", "likely"]))["page"]) for entry in (alone, both)]
    return sure[0], sure[1]


def test_a_page_as_a_whole_adds_few_claims_where_nothing_is_and_finds_a_loss_that_is_spread() -> None:
    """Measured: 9 pages by rows and 10 with the whole on four sites of 120 pages, one page of each planted; a page with all its
    queries at 0.4 of their clicks found by rows in 2 of 6 sites, with the whole in 5."""
    alone, both = zip(*(verdicts(seed) for seed in range(4)), strict=True)
    by_rows, by_both = sum(map(len, alone)), sum(map(len, both))
    assert all(one <= other for one, other in zip(alone, both, strict=True))
    assert (by_rows <= 10, by_both <= by_rows + 2) == (True, True)
    alone, both = zip(*(verdicts(seed, 0.4) for seed in range(6)), strict=True)
    assert sum(5 in found for found in both) >= sum(5 in found for found in alone) + 2
