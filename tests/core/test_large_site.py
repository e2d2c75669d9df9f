"""All rules together on a planted site of 520 pages and 65 weeks, and on one of eight pages with very little data."""

from datetime import date, timedelta

import numpy as np
import polars as pl
import pytest

from tests.planted_large import BEFORE, CLIFF, CLIFF_WEEK, FALLS, FIRST_DAY, PAGES, PERIOD, WEEKS, LargeSite, large_site
from zugzwang.core.clicks.evidence import GRADES
from zugzwang.core.clicks.lenses import LENSES, Appraisal, appraise, look, stakes
from zugzwang.core.contest.clashes import contenders_of, find_clashes
from zugzwang.core.facts.search import ROW, SCHEMA
from zugzwang.core.pages.account import LEVERS, accounts, entries
from zugzwang.core.time.breaks import breaks, read_series
from zugzwang.core.time.change import PARTS, change, rolled_up

NO_BRAND = pl.Series([], dtype=pl.UInt32)
FLOOR = 100
Site = tuple[LargeSite, Appraisal]


@pytest.fixture(scope="module", params=range(2))
def site(request: pytest.FixtureRequest) -> Site:
    made = large_site(request.param)
    return made, appraise(made.of(PERIOD), NO_BRAND)


def test_low_click_through_is_found_and_little_else(site: Site) -> None:
    """95 % of the strong plants, at most one in ten false. Snippets that got worse have a low CTR, too."""
    made, appraisal = site
    rows = look(appraisal, "low-ctr", FLOOR).filter(pl.col("evidence").is_in(["firm", "likely"]))
    fallen = rows.filter(pl.col("page").is_in(list(FALLS["snippet"])))
    found = set(rows.filter(~pl.col("page").is_in(list(FALLS["snippet"])))["query"])
    assert len(found & made.poor) >= 0.95 * len(made.poor)
    assert len(found - made.poor) <= 0.1 * (len(found) + fallen.height)


def test_kinds_of_clashes_are_told_apart_and_shadows_are_none(site: Site) -> None:
    made, appraisal = site
    facts = made.of(PERIOD)
    rows = dict(find_clashes(facts, contenders_of(facts, 200), appraisal.curve).queries.select("query", "kind").iter_rows())
    for kind in ("alternating", "split", "double listing"):
        planted = [query for query, one in made.kinds.items() if one == kind]
        assert np.mean([rows.get(query) == kind for query in planted]) >= 0.9, kind
    assert not [query for query in rows if made.kinds.get(query) == "hardly shown"]
    assert not [query for query in rows if query not in made.kinds]


def test_the_cliff_is_found_to_the_week_and_few_untouched_pages(site: Site) -> None:
    made, _ = site
    weeks = [FIRST_DAY + timedelta(days=7 * number) for number in range(WEEKS)]
    by_page = made.facts.group_by(name="page", week=pl.col("day").dt.truncate("1w")).agg(pl.col("clicks").sum().alias("count"))
    found = breaks(read_series(by_page, weeks))
    cliff = found.filter(pl.col("week") == weeks[CLIFF_WEEK], pl.col("size") < 0)
    assert set(CLIFF) <= set(cliff["name"])
    touched = {*CLIFF, *(page for pages in FALLS.values() for page in pages)}
    reported = set(found["name"]) - touched
    assert len(reported) <= 0.05 * (PAGES - len(touched))


def test_falls_are_put_down_to_the_right_part_and_sum_to_the_click(site: Site) -> None:
    made, appraisal = site
    then = appraise(made.of(BEFORE), NO_BRAND, appraisal.curves).rows
    by_page = rolled_up(change(then, appraisal.rows, appraisal.curve.shape), ["page"])
    whole = by_page.select(pl.sum_horizontal(PARTS) - (pl.col("clicks_after") - pl.col("clicks_before"))).to_series()
    assert whole.abs().max() < 1e-6
    largest = pl.concat_list(*FALLS).list.arg_min()
    rows = dict(by_page.select("page", largest).iter_rows())
    right = [list(FALLS)[rows[page]] == part for part, pages in FALLS.items() for page in pages]
    assert np.mean(right) >= 0.9


def test_nothing_is_at_stake_twice(site: Site) -> None:
    """A query in a clash counts the larger of the clash's loss and the lead's own row; all others count their rows."""
    made, appraisal = site
    facts = made.of(PERIOD)
    clashes = find_clashes(facts, contenders_of(facts, 200), appraisal.curve)
    costly = clashes.queries.filter(pl.col("loss") > 0).select(
        "query", "loss", "loss_cautious", clash_evidence=pl.col("evidence")
    )
    lead = pl.col("page") == pl.col("page").first().over("query")
    contested = clashes.contenders.join(costly, on="query").with_columns(lead=lead)
    rows = stakes(appraisal, FLOOR)
    frame = entries(rows, contested.select(*ROW, "lead", "loss", "loss_cautious", "clash_evidence"))
    opportunity = frame.group_by("query").agg(pl.sum_horizontal(LEVERS).sum().alias("told"))
    own = rows.join(contested.filter("lead").select(ROW), on=ROW, how="semi").select("query", "opportunity")
    in_clash = costly.join(own, on="query", how="left").with_columns(pl.col("opportunity").fill_null(0.0))
    larger = in_clash.select("query", largest=pl.max_horizontal("loss", "opportunity")).join(opportunity, on="query")
    assert larger.height >= 10
    assert np.allclose(larger["told"], larger["largest"])
    alone = (
        rows.join(costly, on="query", how="anti")
        .group_by("query")
        .agg(pl.col("opportunity").sum())
        .join(opportunity, on="query")
    )
    assert np.allclose(alone["opportunity"], alone["told"])
    ranked = accounts(frame)
    assert ranked["gain"].is_sorted(descending=True)
    assert (ranked["gain"] <= ranked["opportunity"] + 1e-9).all()


def test_a_small_site_is_told_little_and_no_nonsense() -> None:
    """Eight pages, sixty queries, about two hundred clicks: few claims, none of them due to chance."""
    claims = 0
    for seed in range(5):
        rng = np.random.default_rng(seed)
        rows = []
        for query in range(60):
            at, shown = np.exp(rng.uniform(0, np.log(40))), rng.uniform(0.2, 4)
            for day in range(91):
                seen = int(rng.poisson(shown))
                if seen:
                    clicks = int(rng.binomial(seen, 0.28 * at**-1.1))
                    rows.append((date(2026, 8, 17) + timedelta(days=day), query % 8, query, clicks, seen, max(at, 1.0)))
        facts = pl.DataFrame(rows, schema=SCHEMA, orient="row")
        assert 80 < facts["clicks"].sum() < 900
        appraisal = appraise(facts, NO_BRAND)
        found = [look(appraisal, lens, 20).filter(pl.col("evidence").is_in(["firm", "likely"])) for lens in LENSES]
        claims += sum(rows.height for rows in (found[0], found[2]))
        assert find_clashes(facts, contenders_of(facts, 20), appraisal.curve).queries.is_empty()
        result = accounts(entries(stakes(appraisal, 20), _no_clash()))
        assert result["opportunity"].is_finite().all()
        assert result["gain"].sum() <= facts["clicks"].sum()
    assert claims <= 2


def _no_clash() -> pl.DataFrame:
    kinds = {"page": pl.UInt32, "query": pl.UInt32, "lead": pl.Boolean, "loss": pl.Float64, "loss_cautious": pl.Float64}
    return pl.DataFrame(schema={**kinds, "clash_evidence": pl.Enum(GRADES)})
