"""Drafts on a known site: related terms, term coverage, the brief."""

import io

import docx
import pytest
from django.core.management import call_command

from tests.findings.conftest import answer, rows
from tests.findings.drafts_site import SUBJECTS, TODAY, plant
from zugzwang.data.models import Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.findings.view import ViewOptions, settle
from zugzwang.subjects.brief import document, markdown, tell_brief


@pytest.fixture
def shop(site: Site) -> Site:
    return plant(site)


def test_what_is_nearly_ready_covers_most_of_the_terms_above(shop: Site) -> None:
    result = {row["query"].split()[0]: row for row in rows(shop, "page-two-candidates", min_impressions=1)}
    assert set(result) == set(SUBJECTS)
    first = rows(shop, "page-two-candidates", min_impressions=1)[0]
    assert first["query"] == "canoe cart"
    assert first["coverage"] == max(row["coverage"] for row in result.values())
    assert (
        result["canoe"]["coverage"]
        > result["rudder"]["coverage"]
        > result["anchor"]["coverage"]
        > result["lantern"]["coverage"]
    )
    # It says all that is needed, and not the strap that three of the five mention.
    assert 0.7 < result["canoe"]["coverage"] < result["canoe"]["coverage_above_median"] == 1.0
    assert result["canoe"]["missing"] == ["canoeish strap"]
    assert all(any(word in one for one in result["lantern"]["missing"]) for word in ("folding", "wide", "steel"))
    assert not any("folding" in one for one in result["rudder"]["missing"])
    said = answer(shop, "page-two-candidates", min_impressions=1).sentences
    assert said[0].startswith("12 rows at positions 11 to 20")
    assert "On 12 captured SERPs, those that cover more rank higher" in said[1]


def test_a_brief_holds_what_a_writer_must_know(shop: Site, tmp_path) -> None:  # type: ignore[no-untyped-def]
    view = settle(Snapshot(shop), ViewOptions(min_impressions=1), TODAY, "none", "without")
    brief = tell_brief(view, 2, 2)
    tiers = {one["text"]: (one["tier"], one["pages"], one["ours"]) for one in brief["terms"]}
    assert tiers["rudderish widerudder"][0] == "essential"
    assert {tier for tier, _, _ in tiers.values()} <= {"essential", "common", "optional"}
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
