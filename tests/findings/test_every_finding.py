"""What every finding must do: export completely in each format, describe its filters, sort as declared."""

import csv
import io
import json
from datetime import timedelta
from pathlib import Path
from typing import Any, get_args

import pytest
from django.core.management import call_command
from django.test import Client
from django.utils import timezone
from python_calamine import CalamineWorkbook

from tests.findings.conftest import TODAY, answer, rows
from zugzwang.access import OPERATOR
from zugzwang.cli.management.commands.findings import option
from zugzwang.core.clicks.evidence import GRADES
from zugzwang.core.contest.clashes import KINDS
from zugzwang.core.contest.leads import RESOLUTIONS
from zugzwang.core.words.examples import EXAMPLES
from zugzwang.core.worth.moves import KINDS as MOVES
from zugzwang.core.worth.moves import STATES
from zugzwang.data.decided import Subject
from zugzwang.data.models import Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.findings import methods
from zugzwang.findings.finding import PYTHON, Kind
from zugzwang.findings.registry import FINDINGS
from zugzwang.findings.view import NOTHING, ViewOptions
from zugzwang.plan.decisions import Decided, decide
from zugzwang.plan.moves import Planned, make
from zugzwang.plan.proposals import propose

EVERY = pytest.mark.parametrize("finding", FINDINGS)
FORMATS = ("csv", "xlsx", "json")


@pytest.fixture
def busy_shop(shop: Site) -> Site:
    """The shop with decisions on a clash, a row and a page, so every list has something to show."""
    clash = rows(shop, "clashes")[0]
    on = TODAY - timedelta(days=60)
    decide(OPERATOR, "shop", Decided([Subject(query=clash["query_id"])], "unite", clash["lead_id"], "one guide", decided_on=on))
    decide(OPERATOR, "shop", Decided([Subject(2, 2)], "snooze", until=TODAY + timedelta(days=9)))
    fields = {"kind": "rewrite", "effort": "hour", "note": "=now", "who": None, "due": timezone.localdate()}
    make(OPERATOR, "shop", Planned(3, None, "pages", "Because.", 4.0, 2.0, "firm", fields))
    return shop


def _read(content: bytes, form: str) -> list[dict[str, Any]]:
    """The rows of a file, read by that format's reader; other than plain cells as JSON."""
    if form == "json":
        result = json.loads(content)["rows"]
        return [
            {name: json.dumps(cell) if isinstance(cell, list | dict) else cell for name, cell in row.items()} for row in result
        ]
    if form == "csv":
        return [dict(row) for row in csv.DictReader(io.StringIO(content.decode("utf-8-sig")))]
    header, *lines = CalamineWorkbook.from_filelike(io.BytesIO(content)).get_sheet_by_name("Rows").to_python()
    return [dict(zip(header, line, strict=True)) for line in lines]


def _same(cell: Any, result: Any) -> bool:
    """Whether a file's cell equals the API's value."""
    if result in (None, ""):
        return cell in (None, "")
    if isinstance(result, bool):
        return str(cell).lower() == str(result).lower()
    if isinstance(result, int | float):
        return abs(float(cell) - result) <= 1e-9 * max(1.0, abs(result))
    if isinstance(result, list | dict):
        return bool(json.loads(cell) == result)
    return str(cell).lstrip("'")[:10] == str(result).lstrip("'")[:10]


@EVERY
def test_every_finding_leaves_whole_from_the_screen_and_the_command_line(
    busy_shop: Site, signed_in: Client, finding: str, tmp_path: Path
) -> None:
    url = f"/api/sites/shop/findings/{finding}"
    asked = {"compare": "year", "min_impressions": 1}
    result = signed_in.get(url, {**asked, "limit": 500}).json()
    assert result["total"] == len(result["rows"])
    for form in FORMATS:
        from_screen = signed_in.get(f"{url}/file", {**asked, "format": form})
        assert from_screen.status_code == 200
        path = tmp_path / f"rows.{form}"
        values = ["--compare", "year", "--min-impressions", "1", "--format", form, "--output", str(path)]
        call_command("findings", finding, "--site", "shop", *values)
        for content in (from_screen.getvalue(), path.read_bytes()):
            _tells(_read(content, form), result["rows"])


def _tells(read: list[dict[str, Any]], rows: list[dict[str, Any]]) -> None:
    """A file's rows equal the API's rows."""
    assert len(read) == len(rows)
    for line, row in zip(read, rows, strict=True):
        assert all(_same(line[name], cell) for name, cell in row.items() if name in line), (line, row)
        missing = {name for name, cell in row.items() if name not in line and cell is not None} - {"key"}
        assert not missing


@EVERY
def test_every_finding_says_what_made_it(busy_shop: Site, finding: str) -> None:
    found = answer(busy_shop, finding, position_from=1.5, text="e", section="/guides/")
    looks_at = FINDINGS[finding].looks_at
    filters = found.view.filters(looks_at)
    assert found.sentences
    assert all(count >= 0 for count in found.found.behind.values())
    for name in ("section", "position_from", "text"):
        assert (name in filters) == (name in looks_at)
        passed_over = any(said.startswith("Not looked at") and name.replace("_", " ") in said for said in found.lacking)
        assert passed_over == (name not in looks_at)


@EVERY
def test_every_finding_sorts_by_what_it_declares_and_nothing_else(busy_shop: Site, signed_in: Client, finding: str) -> None:
    url = f"/api/sites/shop/findings/{finding}"
    for column in FINDINGS[finding].columns:
        if not column.included(NOTHING, compared=True):
            continue
        asked = {"sort": column.name, "compare": "year", "min_impressions": 1, "descending": False}
        response = signed_in.get(url, asked)
        assert response.status_code == (200 if column.sortable else 422), column.name
        cells = [row[column.name] for row in response.json().get("rows", []) if row[column.name] is not None]
        if column.kind == "grade":
            cells = [GRADES.index(cell) for cell in cells]
        if column.sortable and not column.choices:
            assert cells == sorted(cells, key=lambda cell: cell.lower() if isinstance(cell, str) else cell), column.name


@EVERY
def test_every_row_has_a_key_of_its_own_by_which_it_is_found_wherever_it_stands(
    busy_shop: Site, signed_in: Client, finding: str
) -> None:
    url = f"/api/sites/shop/findings/{finding}"
    asked = {"compare": "year", "min_impressions": 1}
    rows = signed_in.get(url, {**asked, "limit": 500}).json()["rows"]
    keys = [row["key"] for row in rows]
    assert len(set(keys)) == len(keys)
    for place, row in [*enumerate(rows)][-3:]:
        result = signed_in.get(url, {**asked, "limit": 1, "row": row["key"]}).json()
        picked = result["picked"]
        assert (picked["place"], picked["row"]) == (place, row)
        assert picked["example"] or finding not in EXAMPLES
    assert signed_in.get(url, {**asked, "row": "99999-0"}).json()["picked"] is None


@EVERY
def test_a_move_can_be_proposed_for_each_row_about_a_page_or_a_query(busy_shop: Site, finding: str) -> None:
    if not {*FINDINGS[finding].key} <= {"page", "query"}:
        return
    options = ViewOptions(min_impressions=1)
    listed = rows(busy_shop, finding, options)[:3]
    subjects = [Subject(one.get("page_id") or None, one.get("query_id") or None) for one in listed]
    proposed = propose(Snapshot(busy_shop), options, subjects, finding, TODAY)
    assert len(proposed) == len(subjects)
    for one in proposed:
        assert (one["kind"] in MOVES, one["evidence"] in GRADES, bool(one["reason"])) == (True, True, True)


def test_pages_and_queries_are_found_by_a_part_of_their_text(shop: Site, signed_in: Client) -> None:
    def found(text: str) -> tuple[list[str], list[str]]:
        result = signed_in.get("/api/sites/shop/names", {"text": text}).json()
        return [one["text"] for one in result["pages"]], [one["text"] for one in result["queries"]]

    pages, queries = found("kayak")
    assert pages == ["https://shop.example/kayak/sea/"]
    assert set(queries) == {"sea kayak", "kayak for the sea"}
    assert found("sea kayak")[1] == ["sea kayak"]
    assert found("PADDLE")[1] == ["paddle size"]
    assert found("no such thing") == ([], [])


@EVERY
def test_every_finding_is_explained(finding: str) -> None:
    """Its rule is in docs/methods.md, and the list of findings names it."""
    current = FINDINGS[finding]
    sections = {one["name"]: one["text"] for one in methods.sections()}
    assert current.method in sections
    assert f"`{finding}`" in sections["all-lists"]
    for column in current.columns:
        assert column.shown == "data" or (column.label and column.explains), column.name


def test_the_glossary_names_every_word_that_a_reader_meets() -> None:
    text = next(one["text"] for one in methods.sections() if one["name"] == "words").lower()
    words = [*GRADES, *KINDS, *RESOLUTIONS, *STATES, "opportunity", "striking distance", "outperformer", "query–page mismatch"]
    assert [word for word in words if f"**{word}" not in text] == []


def test_every_kind_of_column_has_a_type() -> None:
    assert set(get_args(Kind)) == {*PYTHON, "shape"}


def test_every_field_of_a_view_has_an_option(capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit):
        call_command("findings", "--help")
    result = capsys.readouterr().out
    assert all(option(name) in result for name in ViewOptions.__dataclass_fields__)
