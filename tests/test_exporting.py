"""Exported CSV can be read back, and spreadsheets do not run it."""

import csv
import io
import json
from datetime import date

import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from python_calamine import CalamineWorkbook

from zugzwang.exporting import FORMULA_STARTS, csv_lines, safe_cell, xlsx_file

texts = st.text(st.characters(exclude_categories=("Cs", "Cc")), max_size=20)


def read(lines: list[str]) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO("".join(lines), newline="")))


@settings(max_examples=80, deadline=None, database=None)
@given(st.lists(st.tuples(texts, st.none() | st.floats(0, 1)), min_size=1, max_size=20))
def test_every_row_comes_back(rows: list[tuple[str, float | None]]) -> None:
    frame = pl.DataFrame(rows, schema={"query": pl.String, "ctr": pl.Float64}, orient="row")
    back = read(list(csv_lines(frame)))
    assert [row["query"].removeprefix("'") for row in back] == [text.removeprefix("'") for text, _ in rows]
    for row, (_, ctr) in zip(back, rows, strict=True):
        # What does not exist is empty, never 0.
        assert row["ctr"] == "" if ctr is None else float(row["ctr"]) == ctr


@pytest.mark.parametrize("start", FORMULA_STARTS)
def test_no_cell_is_a_formula(start: str) -> None:
    text = f"{start}cmd|' /C calc'!A0"
    assert safe_cell(text) == f"'{text}"
    assert read(list(csv_lines(pl.DataFrame({"page": [text]}))))[0]["page"] == f"'{text}"
    assert safe_cell("kayak = canoe") == "kayak = canoe"


def test_what_made_the_list_stands_once_and_a_list_without_rows_keeps_its_header() -> None:
    frame = pl.DataFrame({"page": ["/a", "/b"], "clicks": [1, 2]})
    back = read(list(csv_lines(frame, {"lens": "low-ctr", "brand": ["é"]})))
    assert json.loads(back[0]["filters"]) == {"lens": "low-ctr", "brand": ["é"]}
    assert back[1]["filters"] == ""
    assert "".join(csv_lines(frame.clear())) == "page,clicks\r\n"


def test_a_workbook_holds_texts_as_texts_and_says_what_made_it() -> None:
    rows = pl.DataFrame(
        {
            "query": ["=1+1", "kayak", None],
            "clicks": [1, 2, None],
            "share": [0.5, float("nan"), None],
            "sure": [True, False, None],
            "day": [date(2026, 11, 9), None, None],
            "long": ["x" * 40_000, "", "y"],
        }
    )
    book = CalamineWorkbook.from_filelike(io.BytesIO(xlsx_file(rows, {"lens": "low-ctr", "evidence": ["firm"]})))
    header, first, second, third = book.get_sheet_by_name("Rows").to_python()
    assert header == rows.columns
    assert first[:5] == ["=1+1", 1.0, 0.5, True, date(2026, 11, 9)]  # a text, not the 2 that a formula would be
    assert len(str(first[5])) == 32_767  # as much as a cell holds
    assert second[:5] == ["kayak", 2.0, "", False, ""]
    assert third[:5] == ["", "", "", "", ""]
    assert book.get_sheet_by_name("About").to_python() == [["lens", "low-ctr"], ["evidence", '["firm"]']]
