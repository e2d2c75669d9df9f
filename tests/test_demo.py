"""What demo/README.md says is planted is there to be found, and what is said to be harmless is not called a finding."""

import polars as pl
import pytest

from demo.scenario import BRAND_PATTERNS, FIRST_DAY, LAST_DAY, make_facts
from zugzwang.core.facts import SCHEMA
from zugzwang.core.lenses import Appraisal, Lens, appraise, look
from zugzwang.core.patterns import matches
from zugzwang.core.periods import default_period

FLOOR = 100
POOR = {
    *("what size canoe do i need", "canoe size chart", "inflatable kayak for two", "dry suit for kayaking"),
    *("cold water shock symptoms", "kayak safety rules for beginners", "waterproof dry bag", "canoe for fishing"),
    *("skerrow river map", "canoe repair cost", "pellow canoe hire prices"),
}


@pytest.fixture(scope="module")
def facts() -> pl.DataFrame:
    return make_facts()


@pytest.fixture(scope="module")
def appraised(facts: pl.DataFrame) -> tuple[Appraisal, pl.DataFrame]:
    period = default_period(FIRST_DAY, LAST_DAY)
    queries = facts.select("query").unique(maintain_order=True).with_row_index("id")
    pages = facts.select("page").unique(maintain_order=True).with_row_index("page_id")
    numbered = (
        facts.join(queries, on="query").join(pages, on="page").filter(pl.col("date").is_between(period.first, period.last))
    )
    frame = numbered.select(
        pl.col("date").alias("day"), pl.col("page_id").alias("page"), pl.col("id").alias("query"), *SCHEMA.names()[3:]
    )
    branded = queries.filter(matches(pl.col("query"), BRAND_PATTERNS))["id"]
    return appraise(frame.cast(SCHEMA), branded), queries.rename({"query": "text", "id": "query"})


def sure(appraised: tuple[Appraisal, pl.DataFrame], lens: Lens) -> set[str]:
    appraisal, names = appraised
    rows = look(appraisal, lens, FLOOR).filter(pl.col("evidence") != "thin")
    return set(rows.join(names, on="query")["text"])


def test_size_of_the_scenario(facts: pl.DataFrame) -> None:
    assert 350 <= facts["page"].n_unique() <= 450
    assert 7_000 <= facts["query"].n_unique() <= 10_000
    assert facts["date"].n_unique() == (LAST_DAY - FIRST_DAY).days + 1
    hosts = facts["page"].str.extract(r"^https://([^/]+)/").unique().to_list()
    assert all(host.endswith("marrowbank.example") for host in hosts)


def test_low_click_through_is_found(appraised: tuple[Appraisal, pl.DataFrame]) -> None:
    found = sure(appraised, "low-ctr")
    assert found >= POOR
    assert len(found - POOR) <= 0.1 * len(found) + 1


def test_striking_distance_and_the_outperformer(appraised: tuple[Appraisal, pl.DataFrame]) -> None:
    assert sure(appraised, "striking-distance") >= {"reading rapids", "canoe camping checklist", "kayak storage ideas"}
    assert "kayak leaking where to look" in sure(appraised, "outperformers")


def test_what_is_harmless_is_no_finding(appraised: tuple[Appraisal, pl.DataFrame]) -> None:
    harmless = {"tide times for kayaking", "weight of a cedar canoe", "summer canoe trips", "marrowbank"}
    assert not harmless & (sure(appraised, "low-ctr") | sure(appraised, "outperformers"))
