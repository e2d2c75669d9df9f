"""A report on a known shop: its numbers equal the lists; written from the command line."""

from datetime import timedelta
from pathlib import Path

import pytest
from django.core.management import call_command

from tests.core.test_reports import text_of
from tests.findings.conftest import LAST, TODAY, rows
from zugzwang.access import OPERATOR
from zugzwang.core.facts.addresses import path_of
from zugzwang.core.reports.blocks import Chart, Document, OwnWords, Sentence, Table
from zugzwang.core.reports.typeset import as_pdf
from zugzwang.data.models import Page, PlannedLink, Site, Trial
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import Invalid
from zugzwang.plan.moves import Planned as PlannedMove
from zugzwang.plan.moves import make
from zugzwang.subjects.report import PARTS, Planned, period_named, tell_report

FIRST = LAST - timedelta(days=27)


def report(shop: Site, parts: tuple[str, ...] = tuple(PARTS), **more: object) -> Document:
    words = {"changes": "A **good** month."}
    return tell_report(Snapshot(shop), Planned(FIRST, LAST, parts, words, **more), TODAY)  # type: ignore[arg-type]


def test_its_figures_are_those_of_the_lists(shop: Site, tmp_path: Path) -> None:
    page = Page.objects.get(id=3)
    done = {"kind": "rewrite", "effort": "hour", "note": "", "who": None, "due": None, "state": "done", "made_on": LAST}
    make(OPERATOR, "shop", PlannedMove(3, 3, "low-ctr", "Because.", 40.0, 30.0, "firm", done))
    make(
        OPERATOR,
        "shop",
        PlannedMove(3, None, "low-ctr", "Because.", 70.0, 60.0, "firm", {**done, "state": "to do", "made_on": None}),
    )
    result = report(shop)
    assert [part.title for part in result.parts] == [title for title, *_ in PARTS.values()]
    standing, _, found, made, *_, following = result.parts
    assert standing.blocks[0] == OwnWords("A **good** month.")
    pages = [one for one in rows(shop, "pages", first=FIRST, last=LAST) if one["gain_month"] >= 1]
    table = next(block for block in found.blocks if isinstance(block, Table))
    assert [row[0] for row in table.rows] == ["/" + one["page"].partition("://")[2].partition("/")[2] for one in pages[:10]]
    assert [row[3] for row in table.rows] == [f"{round(one['gain_month']):,}" for one in pages[:10]]
    assert made.blocks[0] == Sentence("1 move was made in these days.", lead=True)
    (moves,) = [block for block in following.blocks if isinstance(block, Table)]
    assert moves.rows[0][4] == "60"
    assert page.text.endswith(moves.rows[0][1])
    assert any(isinstance(block, Chart) for block in found.blocks)
    # All of it is in the PDF, as poppler reads it.
    text = text_of(as_pdf(result), tmp_path)
    for part in result.parts:
        assert part.title in text
        for block in part.blocks:
            if isinstance(block, Sentence):
                assert " ".join(block.text.split()) in text


def test_links_that_are_to_be_set_and_trials_that_run_are_told(shop: Site) -> None:
    source, target = Page.objects.get(id=3), Page.objects.get(id=4)
    PlannedLink.objects.create(site=shop, source=source, target=target, choice="accepted", anchor="blue kettles")
    Trial.objects.create(
        site=shop, name="Titles", change="The year in them", kind="rewrite", design="before-after", measure="clicks",
        changed=[[3, None]], first_day=LAST - timedelta(days=6), weeks=4,
    )  # fmt: skip
    trials, links = report(shop, ("trials", "links")).parts
    (table,) = [block for block in links.blocks if isinstance(block, Table)]
    assert table.rows == ((path_of(source.text), path_of(target.text), "blue kettles", "waiting"),)
    assert any(
        isinstance(one, Sentence) and one.text.startswith("Titles (1 changed): The year in them.") for one in trials.blocks
    )


def test_parts_periods_and_the_command_line(shop: Site, tmp_path: Path) -> None:
    assert [part.title for part in report(shop, ("next", "changes")).parts] == ["What is next", "How the site performs"]
    for wrong in ((), ("changes", "poem")):
        with pytest.raises(Invalid, match="Unknown part"):
            report(shop, wrong)
    assert period_named("2026-02", LAST).last.day == 28
    for wrong_period in ("yesterday", "2026-13", "2026-02-02..2026-01-01"):
        with pytest.raises(Invalid):
            period_named(wrong_period, LAST)
    days = f"{FIRST}..{LAST}"
    words = tmp_path / "words.md"
    words.write_text("Dear client")
    for name in ("report.pdf", "report.html"):
        fields = {"site": "shop", "period": days, "output": tmp_path / name, "words": words, "parts": "changes,next"}
        call_command("report", **fields, name="Desk", language="de")
        assert (tmp_path / name).stat().st_size > 2_000
    assert "Dear client" in (tmp_path / "report.html").read_text()
    assert "Dear client" in text_of((tmp_path / "report.pdf").read_bytes(), tmp_path)
