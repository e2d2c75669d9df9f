"""Drafts on a site of which everything is known: terms that the pages above share, how much of them ours says, the brief."""

import io
from datetime import date, timedelta

import docx
import polars as pl
import pytest
from django.core.management import call_command

from tests.conftest import keep
from tests.findings.conftest import answer, rows
from zugzwang.core.facts.grains import ABOVE, CRAWL_PAGES, RESULTS, VOLUMES
from zugzwang.data.models import Page, Query, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.findings.view import Asked, settle
from zugzwang.subjects.brief import document, markdown, tell_brief

LAST, TODAY = date(2026, 11, 15), date(2026, 11, 23)
SUBJECTS = ["canoe", "rudder", "lantern", "anchor", "helmet", "kettle", "tarp", "stove", "sail", "oar", "whistle", "compass"]
# Of each subject: three phrases that all pages above say, and one that two of five do.
PHRASES = ("folding frame", "wide tyres", "steel buckle")
SAID = {0: 3, 1: 2, 2: 0}  # of the needed ones; all other pages say one


def needed(subject: str) -> list[str]:
    return [f"{subject}ish {phrase.split()[0]}{subject}" for phrase in PHRASES]


@pytest.fixture
def shop(site: Site) -> Site:
    Page.objects.bulk_create(Page(id=n + 1, site=site, text=f"https://shop.example/{one}/") for n, one in enumerate(SUBJECTS))
    Query.objects.bulk_create(Query(id=n + 1, site=site, text=f"{one} cart") for n, one in enumerate(SUBJECTS))
    facts = [
        (LAST - timedelta(days=day), number + 1, number + 1, 1, 150, 12.0 + number % 6)
        for number in range(len(SUBJECTS))
        for day in range(28)
    ]
    names = ["day", "page", "query", "clicks", "impressions", "position"]
    keep(site, pl.DataFrame(facts, schema=names, orient="row"))
    own = [_content(one, needed(one)[: SAID.get(number, 1)]) for number, one in enumerate(SUBJECTS)]
    addresses = [f"https://shop.example/{one}/" for one in SUBJECTS]
    crawled = {"address": addresses, "status": [200] * len(SUBJECTS), "title": [f"{one} cart".title() for one in SUBJECTS]}
    for grain, frame in (
        (CRAWL_PAGES, pl.DataFrame({**crawled, "content": own})),
        (RESULTS, _results()),
        (ABOVE, _above()),
        (VOLUMES, pl.DataFrame([(n + 1, 826, None, 100 * (n + 1), 0.5) for n in range(12)], VOLUMES.schema, orient="row")),
    ):
        site.refresh_from_db()
        keep(site, frame, grain=grain)
    site.refresh_from_db()
    return site


def _content(subject: str, phrases: list[str], extra: str = "") -> str:
    sentences = " ".join(f"It has a {phrase}." for phrase in phrases)
    return f"h1\t{subject.title()} cart\nh2\tHow to load it\np\tSome words of our own on boats. {sentences} {extra}"


def _others(subject: str) -> list[str]:
    return [f"https://r{place}.example/{subject}" for place in range(1, 6)]


def _results() -> pl.DataFrame:
    blocks = [
        (number + 1, 826, 1, LAST, place, "organic", None, 100, "T", address, None)
        for number, subject in enumerate(SUBJECTS)
        for place, address in enumerate([*_others(subject), f"https://shop.example/{subject}/"], start=1)
    ]
    return pl.DataFrame(blocks, RESULTS.schema, orient="row")


def _above() -> pl.DataFrame:
    """The lower a page stands, the less it says: the first three say all, the fourth and fifth lack the last phrase."""
    told = []
    for subject in SUBJECTS:
        for place, address in enumerate(_others(subject)):
            strap = f"Mind the {subject}ish strap." if place < 3 else ""
            content = _content(subject, needed(subject)[: 3 if place < 4 else 2], strap)
            told.append((address, 200, subject, content, LAST))
    return pl.DataFrame(told, schema=["address", "status", "title", "content", "fetched"], orient="row")


def test_what_is_nearly_ready_covers_most_of_the_terms_above(shop: Site) -> None:
    told = {row["query"].split()[0]: row for row in rows(shop, "nearly-ready", min_impressions=1)}
    assert set(told) == set(SUBJECTS)
    first = rows(shop, "nearly-ready", min_impressions=1)[0]
    assert first["query"] == "canoe cart"
    assert first["coverage"] == max(row["coverage"] for row in told.values())
    assert told["canoe"]["coverage"] > told["rudder"]["coverage"] > told["anchor"]["coverage"] > told["lantern"]["coverage"]
    # It says all that is needed, and not the strap that three of the five mention.
    assert 0.7 < told["canoe"]["coverage"] < told["canoe"]["coverage_above_median"] == 1.0
    assert told["canoe"]["missing"] == ["canoeish strap"]
    assert all(any(word in one for one in told["lantern"]["missing"]) for word in ("folding", "wide", "steel"))
    assert not any("folding" in one for one in told["rudder"]["missing"])
    said = answer(shop, "nearly-ready", min_impressions=1).sentences
    assert said[0].startswith("12 rows stand at 11 to 20")
    assert "On 12 captured results pages here, those that cover more stand higher" in said[1]


def test_a_brief_holds_what_a_writer_must_know(shop: Site, tmp_path) -> None:  # type: ignore[no-untyped-def]
    view = settle(Snapshot(shop), Asked(min_impressions=1), TODAY, "none", "without")
    brief = tell_brief(view, 2, 2)
    tiers = {one["text"]: (one["tier"], one["pages"], one["ours"]) for one in brief["terms"]}
    assert tiers["rudderish widerudder"][0] == "needed"
    assert {tier for tier, _, _ in tiers.values()} <= {"needed", "usual", "possible"}
    assert sum(ours == 0 for _, _, ours in tiers.values()) >= 1
    assert brief["outline"] == ["How to load it"]
    assert (brief["searches"], brief["short_answer_letters"]) == (200.0, None)
    text = markdown(brief)
    made = docx.Document(io.BytesIO(document(brief)))
    in_document = [one.text for one in made.paragraphs]
    # The document says what the text says, line by line.
    assert [line.lstrip("#- ") for line in text.splitlines() if line.strip()] == [line for line in in_document if line.strip()]
    path = tmp_path / "brief.json"
    call_command("brief", site="shop", page="/rudder/", format="json", output=path)
    assert '"query": "rudder cart"' in path.read_text()
