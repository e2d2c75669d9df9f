"""Delimited text against the files of the npm package csv-spectrum (its JSON says what each holds) and RFC 4180."""

import json
from pathlib import Path

import pytest

from zugzwang.intake.delimited import Delimited, open_delimited
from zugzwang.intake.tables import Choices, column

SPECTRUM = Path(__file__).parents[2] / "web" / "node_modules" / "csv-spectrum"
# Left out, one of twelve: its JSON holds another telephone number than its CSV, so no reader can agree with both.
LEFT_OUT = {"location_coordinates"}
FILES = [path for path in sorted((SPECTRUM / "csvs").glob("*.csv")) if path.stem not in LEFT_OUT]


def opened(path: Path) -> Delimited:
    return open_delimited(path, path.name, Choices(), path.parent)


def test_the_outside_files_are_here() -> None:
    assert len(FILES) == 11, "run make setup: csv-spectrum comes with the front end's packages"


@pytest.mark.parametrize("path", FILES, ids=lambda path: path.stem)
@pytest.mark.parametrize("reader", ["fast", "patient"])
def test_every_file_reads_as_its_json_says(path: Path, reader: str) -> None:
    expected = json.loads((SPECTRUM / "json" / f"{path.stem}.json").read_text())
    table = opened(path)
    read = table.batches() if reader == "fast" else table.patient(skip=0)
    rows = [
        {name: row[column(index)] or "" for index, name in enumerate(table.header)}
        for batch in read
        for row in batch.iter_rows(named=True)
        if any(row[column(index)] for index in range(len(table.header)))
    ]
    assert rows == expected


def test_line_numbers_count_lines_inside_quotes_and_blank_ones(tmp_path: Path) -> None:
    path = tmp_path / "lines.csv"
    path.write_text('a,b\n1,"x\ny\nz"\n\n2,w\n')
    assert opened(path).lines_of([0, 2]) == {0: 2, 2: 6}
