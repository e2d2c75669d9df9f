"""Everything that demo/README.md lists as planted is found, and what it calls harmless is not."""

import gzip
import json
import os
import subprocess
import sys
from datetime import date
from math import log
from pathlib import Path

import polars as pl
import pytest

from demo.guides import GUIDES
from demo.scenario import (
    BOXED,
    BRAND_PATTERNS,
    EVENT_DAY,
    FIRST_DAY,
    LAST_DAY,
    PRICED,
    PRICED_DAY,
    PRICED_GAIN,
    SITE_ADDRESS,
    SITE_NAME,
    guide,
    make_facts,
)
from demo.site import DEAD_LINKS, DOUBLE_TITLE, HOST, LONG_TITLE, MISSING_DESCRIPTION, NO_INDEX, NO_LINK_LEADS_HERE
from demo.sources import LEFT_AT_ONCE, NEVER_BOUGHT
from tests.demo_installation import demo_folder
from tests.installation import ROOT, migrate_in
from zugzwang.core.clicks.lenses import Appraisal, Lens, appraise, look
from zugzwang.core.facts.patterns import matches
from zugzwang.core.facts.periods import default_period
from zugzwang.core.facts.search import SCHEMA
from zugzwang.core.pages.html import read_page
from zugzwang.core.time.change import PARTS
from zugzwang.core.trials.effect import effect
from zugzwang.core.trials.units import compared_units

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
    rows = look(appraisal, lens, FLOOR).filter(pl.col("evidence").is_in(["firm", "likely"]))
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
    planted = POOR | set(BOXED)
    assert len(found - planted) <= 0.1 * len(found) + 1


def test_striking_distance_and_the_outperformer(appraised: tuple[Appraisal, pl.DataFrame]) -> None:
    assert sure(appraised, "striking-distance") >= {"reading rapids", "canoe camping checklist", "kayak storage ideas"}
    assert "kayak leaking where to look" in sure(appraised, "outperformers")


def test_what_is_harmless_is_no_finding(appraised: tuple[Appraisal, pl.DataFrame]) -> None:
    harmless = {"tide times for kayaking", "weight of a cedar canoe", "summer canoe trips", "marrowbank"}
    assert not harmless & (sure(appraised, "low-ctr") | sure(appraised, "outperformers"))


@pytest.fixture(scope="module")
def folder() -> Path:
    return demo_folder() / "standins"


def test_the_other_sources_follow_from_the_search_facts(folder: Path) -> None:
    tables = {path.stem: pl.read_parquet(path) for path in folder.glob("*.parquet")}
    assert set(tables) == {
        "search-page-query", "search-page", "search-query", "search-day", "visits", "volumes", "links", "results", "events",
        "strengths", "page-queries", "visits-so-far",
    }  # fmt: skip
    clicks = {name: table["clicks"].sum() for name, table in tables.items() if name.startswith("search")}
    assert clicks["search-page-query"] < clicks["search-query"] < clicks["search-page"] <= clicks["search-day"]
    for name in ("search-page", "search-query", "search-day"):
        assert tables[name].filter(pl.col("clicks") > pl.col("impressions")).is_empty()
    organic = tables["visits"].filter(pl.col("channel") == "organic")
    by_page = organic.group_by("page").agg(pl.col("bounces", "sessions", "conversions").sum())
    rate = by_page.with_columns(rate=pl.col("bounces") / pl.col("sessions")).filter(pl.col("sessions") > 100)
    guides = rate.filter(pl.col("page").str.contains("/guides/"), pl.col("page") != LEFT_AT_ONCE)["rate"]
    assert rate.filter(pl.col("page") == LEFT_AT_ONCE)["rate"].item() > guides.max()
    assert by_page.filter(pl.col("page") == NEVER_BOUGHT)["conversions"].item() == 0
    answer = tables["results"].filter(pl.col("query") == "what size canoe do i need").sort("rank")
    assert answer["block"][0] == "answer box"


def test_the_site_has_what_the_readme_says(folder: Path) -> None:
    with gzip.open(folder / "site.ndjson.gz", "rt") as file:
        replies = {(reply["host"], reply["target"]): reply for reply in map(json.loads, file)}
    pages = {target: reply for (host, target), reply in replies.items() if host == HOST}
    assert not [target for target in DEAD_LINKS if target in pages]
    assert all(200 <= len(text.split()) <= 600 for _, _, text in GUIDES.values())
    assert any(f'href="{target}"' in reply["body"] for target in DEAD_LINKS for reply in pages.values())
    assert not [target for target, reply in pages.items() if f'href="{NO_LINK_LEADS_HERE}"' in reply["body"]]
    assert NO_LINK_LEADS_HERE in pages["/sitemap.xml"]["body"]
    titles = {
        target: read_page(pages[target]["body"], f"https://{HOST}{target}").title for target in (*DOUBLE_TITLE, LONG_TITLE)
    }
    assert titles[DOUBLE_TITLE[0]] == titles[DOUBLE_TITLE[1]]
    assert len(titles[LONG_TITLE] or "") > 60
    assert read_page(pages[MISSING_DESCRIPTION]["body"], HOST).description is None
    assert "noindex" in (read_page(pages[NO_INDEX]["body"], HOST).robots or "")


LOAD_AND_FIND = """
import io, json, sys
import django; django.setup()
from django.core.management import call_command
site, brand, files = json.loads(sys.argv[1]), json.loads(sys.argv[2]), sys.argv[3:]
call_command("sites", "--add", site["name"], "--address", site["address"], "--slug", "demo", stdout=io.StringIO())
for file in files:
    call_command("load", file, "--site", "demo", stdout=io.StringIO())
found = {}
for name in ("clashes", "breaks", "change", "overlapping-pages", "landing-pages", "pages"):
    out = io.StringIO()
    call_command("findings", name, "--site", "demo", "--brand", *brand, stdout=out)
    found[name] = json.loads(out.getvalue())["rows"]
print(json.dumps(found))
"""


@pytest.fixture(scope="module")
def result(folder: Path, tmp_path_factory: pytest.TempPathFactory) -> dict[str, list[dict]]:  # type: ignore[type-arg]
    """The demo's diagnoses from the command line, in a separate installation."""
    data = tmp_path_factory.mktemp("installation")
    env = {**os.environ, "ZUGZWANG_DATA_DIR": str(data), "DJANGO_SETTINGS_MODULE": "zugzwang.settings", "ZUGZWANG_DATABASE": ""}
    migrate_in(env)
    # What the site's pages say, as a crawl would tell it.
    with gzip.open(folder / "site.ndjson.gz", "rt") as file:
        replies = [json.loads(line) for line in file]
    read = [
        (f"https://{one['host']}{one['target']}", read_page(one["body"], HOST)) for one in replies if "<main>" in one["body"]
    ]
    texts = [(address, page.title, page.headings[0][3:], page.main_text, 200) for address, page in read]
    crawl = pl.DataFrame(texts, schema=["address", "title", "heading", "main_text", "status"], orient="row")
    crawl.write_parquet(data / "crawl.parquet")
    files = [str(folder / f"{name}.parquet") for name in ("search-page-query", "search-page", "visits", "events")]
    site = json.dumps({"name": SITE_NAME, "address": SITE_ADDRESS})
    command = [sys.executable, "-c", LOAD_AND_FIND, site, json.dumps(BRAND_PATTERNS), *files, str(data / "crawl.parquet")]
    found = subprocess.run(command, cwd=ROOT, env=env, check=True, capture_output=True, text=True).stdout
    return json.loads(found)  # type: ignore[no-any-return]


def test_planted_clashes_are_told_apart(result: dict[str, list[dict]]) -> None:  # type: ignore[type-arg]
    kinds = {row["query"]: row["kind"] for row in result["clashes"]}
    assert kinds["carbon kayak paddle length"] == "alternating"
    assert kinds["river ossel canoe hire"] == "double listing"
    assert kinds["canoe for a family of four"] == "split"
    understudy = next(row for row in result["clashes"] if row["query"] == "handmade wooden paddle")
    assert (understudy["kind"], understudy["lead"]) == ("wrong page ranks", f"{SITE_ADDRESS}/paddle/wooden-paddle/")
    double = next(row for row in result["clashes"] if row["query"] == "river ossel canoe hire")
    assert (double["resolution"], double["loss"]) == ("accept", 0)
    assert len(kinds) < 40  # of 7,932 queries


def test_the_cliff_is_found_to_the_week_beside_its_event_and_the_season_is_none(result: dict[str, list[dict]]) -> None:  # type: ignore[type-arg]
    fell = {row["page"].split("/")[-2]: row for row in result["breaks"] if row["size"] < 0 and row["week"] == "2026-09-21"}
    assert {"quill", "brindle", "fennick", "larch", "mossop"} <= set(fell)
    assert fell["quill"]["event"] == "Trip pages moved to a new template"
    assert not [row for row in result["breaks"] if row["page"].endswith("/trips/tarrow/") and row["week"] > "2026-07-01"]


@pytest.mark.parametrize(
    ("page", "part"), [("kayak/sea-kayak", "rank"), ("kayak/folding-kayak", "shown"), ("clothing/wetsuit", "snippet")]
)
def test_each_planted_fall_is_put_down_to_its_part(result: dict[str, list[dict]], page: str, part: str) -> None:  # type: ignore[type-arg]
    row = next(row for row in result["change"] if row["page"] == f"{SITE_ADDRESS}/{page}/")
    parts = {name: row[name] for name in ("shown", "rank_or_demand", "rank", "snippet")}
    assert min(parts, key=lambda name: parts[name]) == part
    whole = sum(row[name] for name in PARTS)
    assert whole == pytest.approx(row["clicks_after"] - row["clicks_before"], abs=1e-6)


def test_two_topics_folded_after_the_event_are_told_from_one_subject_twice(result: dict[str, list[dict]]) -> None:  # type: ignore[type-arg]
    kinds = {frozenset({row["page"], row["other"]}): row for row in result["overlapping-pages"]}
    fold = kinds[frozenset({f"{SITE_ADDRESS}/gear/spray-deck/", guide("what-is-a-spray-deck-for")})]
    assert fold["kind"] == "mixed topics"
    assert abs((date.fromisoformat(fold["since"]) - EVENT_DAY).days) <= 14
    relay = kinds[frozenset({f"{SITE_ADDRESS}/paddle/carbon-paddle/", guide("how-to-choose-a-kayak-paddle-length")})]
    assert relay["kind"] == "same subject"


def test_pages_that_bounce_and_the_page_with_most_to_gain(result: dict[str, list[dict]]) -> None:  # type: ignore[type-arg]
    more = [row["page"] for row in result["landing-pages"] if row["bounces_more"]]
    assert LEFT_AT_ONCE in more
    assert len(more) <= 4
    assert next(row for row in result["landing-pages"] if row["page"] == NEVER_BOUGHT)["role"] == "informs"
    first = result["pages"][0]
    assert first["page"] == guide("what-size-canoe-do-i-need")  # under an featured snippet
    assert any("gets fewer clicks than expected at its position" in reason for reason in first["reasons"])


def test_the_priced_titles_helped(facts: pl.DataFrame) -> None:
    """The test's interval, from the facts alone, contains the planted effect; other rental pages show none."""
    spans = {
        "usual": (-112, -28),
        "before": (-28, 0),
        "after": (1, 29),
        "year_before": (-392, -364),
        "year_after": (-363, -335),
    }
    pages = facts.select("page").unique(maintain_order=True).with_row_index("unit")
    rows = facts.join(pages, on="page").with_columns(day=(pl.col("date") - PRICED_DAY).dt.total_days())
    sides = pages
    for side, (first, last) in spans.items():
        of = rows.filter(pl.col("day").is_between(first, last, closed="left")).group_by("unit")
        counted = of.agg(pl.col("clicks").sum(), pl.col("impressions").sum(), pl.col("position").mean())
        sides = sides.join(counted.rename({name: f"{name}_{side}" for name in counted.columns[1:]}), on="unit", how="left")
    units = compared_units(sides.with_columns(expected_before=pl.lit(None, dtype=pl.Float64)), "clicks", 1 / 3)
    of_rental = {
        page.partition("/rental/")[2]: unit for unit, page in pages.iter_rows() if "www" in page and "/rental/" in page
    }
    priced = [of_rental[path.removeprefix("/rental/")] for path in PRICED]
    found = effect(units, priced)
    assert found is not None
    assert found.p_value <= 0.05
    assert found.low <= log(1 + PRICED_GAIN) <= found.high
    others = effect(units, sorted(set(of_rental.values()) - set(priced)), priced)
    assert others is not None
    assert others.p_value > 0.05
