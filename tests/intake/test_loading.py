"""Files: good ones become blocks, the same one twice changes nothing, bad ones leave no trace and say where they are wrong."""

import csv
import gzip
import io
from datetime import date
from pathlib import Path

import polars as pl
import pytest

from tests.conftest import HEADER, WriteCsv
from zugzwang.core.facts.grains import PAGE_QUERY
from zugzwang.core.facts.periods import Period
from zugzwang.data import blocks
from zugzwang.data.dictionary import read_texts
from zugzwang.data.models import Block, Page, Query, Site
from zugzwang.errors import FileRefused, Invalid
from zugzwang.intake.fields import check_mapping, propose
from zugzwang.intake.loading import Loaded, LoadOptions, TableRequest, load_file, no_progress
from zugzwang.intake.tables import Choices

GOOD = ["2026-11-09", "https://shop.example/a", "red kayak", 3, 120, 4.2]
ALL_DAYS = Period(date(2020, 1, 1), date(2030, 1, 1))


def load(site: Site, path: Path, **options: object) -> Loaded:
    return load_file(site, path, path.name, no_progress, LoadOptions(**options))  # type: ignore[arg-type]


def stored(site: Site) -> list[tuple[object, ...]]:
    rows = blocks.read_facts(site, PAGE_QUERY, ALL_DAYS)
    for name, words in (("page", Page), ("query", Query)):
        texts = read_texts(site, words).rename({"id": name, "text": f"{name}_text"})
        rows = rows.join(texts, on=name, how="left")
    columns = ["day", "page_text", "query_text", "clicks", "impressions", "position"]
    return rows.select(columns).sort(columns).rows()


def test_what_is_loaded_is_what_stands_there(site: Site, write_csv: WriteCsv) -> None:
    report = load(site, write_csv([GOOD, ["2026-12-01", "https://shop.example/b", "kayak, blue", 0, 7, 11]])).report
    assert stored(site) == [
        (date(2026, 11, 9), "https://shop.example/a", "red kayak", 3, 120, 4.2),
        (date(2026, 12, 1), "https://shop.example/b", "kayak, blue", 0, 7, 11.0),
    ]
    assert (report.loaded, report.days, report.first_day, report.last_day) == (2, 2, "2026-11-09", "2026-12-01")
    assert [(block.month, block.rows) for block in Block.objects.order_by("month")] == [
        (date(2026, 11, 1), 1),
        (date(2026, 12, 1), 1),
    ]


def test_loading_the_same_file_again_changes_nothing(site: Site, write_csv: WriteCsv) -> None:
    path = write_csv([GOOD])
    load(site, path)
    before = list(Block.objects.values_list("id", "checksum"))
    version = site.data_version
    assert not load(site, path).report.changed
    assert list(Block.objects.values_list("id", "checksum")) == before
    assert site.data_version == version


def test_a_reload_replaces_its_days_and_says_what_is_gone(site: Site, write_csv: WriteCsv) -> None:
    other_day, other_page = ["2026-11-10", *GOOD[1:]], ["2026-11-09", "https://shop.example/b", "canoe", 1, 9, 2]
    load(site, write_csv([GOOD, other_day, other_page]))
    again = write_csv([[*GOOD[:3], 4, 120, 4.2]])
    with pytest.raises(FileRefused) as asks:
        load(site, again)
    assert asks.value.refusals.first[0].message == "1 of the 2 rows of these days are not in the file"
    assert load(site, again, dry_run=True).report.notices[-1].startswith("The load stops here: 1 of the 2 rows")
    report = load(site, again, mode="replace").report
    assert [(row[0].day, row[1][-1], row[3]) for row in stored(site)] == [(9, "a", 4), (10, "a", 3)]  # type: ignore[attr-defined,index]
    assert report.rows_lost == 1
    assert any("are removed" in notice for notice in report.notices)


def test_a_slice_keeps_the_other_rows_of_its_days(site: Site, write_csv: WriteCsv) -> None:
    load(site, write_csv([GOOD]))
    load(site, write_csv([["2026-11-09", "https://shop.example/b", "canoe", 1, 9, 2], [*GOOD[:3], 5, 120, 4.2]]), mode="add")
    assert [(row[1][-1], row[3]) for row in stored(site)] == [("a", 5), ("b", 1)]  # type: ignore[index]


def test_another_sites_pages_stop_the_load(site: Site, write_csv: WriteCsv) -> None:
    others = [["2026-11-09", f"https://blog.other.example/{number}", "canoe", 1, 9, 2] for number in range(3)]
    with pytest.raises(FileRefused) as asks:
        load(site, write_csv([GOOD, *others]))
    assert asks.value.refusals.first[0].message.startswith("3 of its 4 pages are of other hosts, such as blog.other.example")
    assert Page.objects.count() == 0
    load(site, write_csv([GOOD, *others]), tables={0: TableRequest(choices=Choices(any_host=True))})
    assert Page.objects.count() == 4


def test_a_row_given_twice_is_asked_about_and_never_silently_added(site: Site, write_csv: WriteCsv) -> None:
    """Identical in every cell, including unused columns: a difference in any makes it another row, which is added."""
    header = ["date", "page", "query", "clicks", "impressions", "position", "search type"]
    first, again, other = [*GOOD, "web"], [*GOOD, "web"], [*GOOD, "image"]
    with pytest.raises(FileRefused) as asks:
        load(site, write_csv([first, other, again], header))
    problem = asks.value.refusals.first[0]
    assert problem.message == "one row is identical to another row; the first repeats line 2"
    assert problem.line == 4
    assert stored(site) == []
    for repeats, times in (("once", 2), ("each", 3)):
        load(site, write_csv([first, other, again], header), tables={0: TableRequest(choices=Choices(repeats=repeats))})
        assert [row[3] for row in stored(site)] == [times * GOOD[3]]


def test_numbers_that_cannot_be_stop_the_load_with_their_reading(site: Site, write_csv: WriteCsv) -> None:
    header = ["date", "query", "clicks", "impressions", "ctr", "position"]
    shifted = write_csv([["2026-11-09", "canoe", 3, 100, "40 %", 4.2], ["2026-11-09", "kayak", 2, 90, "31 %", 4.2]], header)
    with pytest.raises(FileRefused) as asks:
        load(site, shifted)
    assert asks.value.refusals.first[0].message == (
        "a CTR of 40 % is read from “40 %”, and 3 clicks of 100 impressions make 3 %"
    )
    # Percent without the sign is no doubt.
    bare = write_csv([["2026-11-09", "canoe", 3, 100, 3.0, 4.2], ["2026-11-09", "kayak", 2, 90, 2.2, 4.2]], header)
    assert load(site, bare).report.loaded == 2
    beyond = write_csv([["2026-11-09", "canoe", 3, 100, "3 %", 4200]], header)
    with pytest.raises(FileRefused) as asks:
        load(site, beyond)
    assert (asks.value.refusals.first[0].line, asks.value.refusals.first[0].message) == (
        2,
        "a position of 4,200 is read from “4200”",
    )


BAD = [
    ("date", "yesterday", "day", "this is not a readable date"),
    ("date", "2026-02-30", "day", "this is not a readable date"),
    ("page", "", "page", "the page is missing"),
    ("query", "", "query", "the query is missing"),
    ("clicks", "-1", "clicks", "clicks is negative"),
    ("clicks", "121", "clicks", "more clicks than impressions"),
    ("clicks", "three", "clicks", "clicks is no whole number"),
    ("impressions", "1.5", "impressions", "impressions is no whole number"),
    ("position", "0.9", "position", "position is below 1"),
    ("position", "", "position", "position is no number"),
    ("position", "nan", "position", "position is no number"),
]


@pytest.mark.parametrize(("column", "value", "field", "message"), BAD)
def test_a_bad_row_refuses_the_file_with_line_and_column(
    site: Site, write_csv: WriteCsv, column: str, value: str, field: str, message: str
) -> None:
    bad = [value if name == column else cell for name, cell in zip(HEADER, GOOD, strict=True)]
    two_lines = ["2026-11-09", "https://shop.example/a", "over\ntwo lines", 3, 120, 4.2]
    with pytest.raises(FileRefused) as refused:
        load(site, write_csv([GOOD, bad, two_lines]))
    problem = refused.value.refusals.first[0]
    assert (problem.line, problem.column, problem.value, problem.message) == (3, column, value, message)
    assert problem.remedy
    assert refused.value.refusals.first[1].message == "the text continues on the next line"
    assert not Block.objects.exists()
    assert not Page.objects.exists()


def test_good_rows_are_kept_on_demand_and_every_refused_one_is_listed(site: Site, write_csv: WriteCsv) -> None:
    rows = [["2026-11-09", "=cmd()", f"query {number}", -1 if number % 2 else 1, 9, 2] for number in range(50)]
    loaded = load(site, write_csv(rows), keep_good_rows=True)
    assert (loaded.report.loaded, loaded.report.refused) == (25, 25)
    assert loaded.refused_csv is not None
    listed = list(csv.DictReader(io.StringIO(gzip.decompress(loaded.refused_csv).decode())))
    assert [int(row["line"]) for row in listed] == list(range(3, 52, 2))
    assert listed[0]["problem"] == "clicks is negative"
    assert listed[0]["page"] == "'=cmd()"  # no spreadsheet should run it


@pytest.mark.parametrize(
    ("content", "message", "line"),
    [
        (b"", "the file is empty", None),
        (b"PK\x03\x04 whatever", "the archive cannot be opened", None),
        (b"\x00\x01\x02\x03", "the file is binary, not plain text", None),
        (b"%PDF-1.7 whatever", "the file is a PDF, not a table", None),
        (b"date,page,query,clicks,impressions\n2026-11-09,/a,b,1,2\n", "no column for position", 1),
        (b"date,page,query,clicks,impressions,position\n", "there is no row to load", 2),
    ],
)
def test_files_that_are_no_table_of_facts(site: Site, tmp_path: Path, content: bytes, message: str, line: int | None) -> None:
    path = tmp_path / "file.csv"
    path.write_bytes(content)
    with pytest.raises(FileRefused) as refused:
        load(site, path)
    problem = refused.value.refusals.first[0]
    assert (problem.message, problem.line) == (message, line)
    assert problem.remedy


def test_a_bad_place_in_utf8_text_is_refused_where_it_stands(site: Site, tmp_path: Path) -> None:
    path = tmp_path / "facts.csv"
    good = "2026-11-09,/a,kajak für zwei,1,9,2\n"
    path.write_bytes(f"{','.join(HEADER)}\n{good}".encode() + "2026-11-09,/a,café,1,9,2\n".encode("latin-1"))
    with pytest.raises(FileRefused) as refused:
        load(site, path)
    assert [(problem.line, problem.message) for problem in refused.value.refusals.first] == [(3, "the text is not UTF-8")]
    assert load(site, path, keep_good_rows=True).report.loaded == 1


def test_a_field_too_many_is_no_silent_loss(site: Site, tmp_path: Path) -> None:
    path = tmp_path / "facts.csv"
    path.write_text("date,page,clicks,impressions,position,query\n2026-11-09,/a,1,9,2,kayak, red\n")
    with pytest.raises(FileRefused, match="refused") as refused:
        load(site, path)
    assert refused.value.refusals.first[0].message == "more fields than the header has"


def test_stray_quotes_and_an_open_one(site: Site, tmp_path: Path) -> None:
    path = tmp_path / "facts.csv"
    stray = f'{",".join(HEADER)}\n2026-11-09,/a,12" paddle,1,9,2\n2026-11-09,/a,kayak,1,9,2\n'
    path.write_text(stray)
    assert load(site, path).report.loaded == 2
    assert (date(2026, 11, 9), "https://shop.example/a", '12" paddle', 1, 9, 2.0) in stored(site)
    path.write_text(stray + '2026-11-09,/a,"open,1,9,2\n2026-11-09,/a,kayak,1,9,2\n')
    with pytest.raises(FileRefused) as refused:
        load(site, path)
    assert refused.value.refusals.first[0].line == 4


@pytest.mark.parametrize("ctr", ["2.5 %", "2.5%", "0.025"])
def test_ctr_is_only_checked(site: Site, write_csv: WriteCsv, ctr: str) -> None:
    header = [*HEADER, "CTR"]
    assert not load(site, write_csv([[*GOOD, ctr]], header)).report.notices
    notices = load(site, write_csv([[*GOOD, ctr], ["2026-11-10", "/b", "x", 9, 10, 1, ctr]], header)).report.notices
    assert "In 1 rows the CTR is not clicks over impressions (the first: line 3)" in notices[0]


def test_devices_are_kept_apart_and_what_is_told_twice_is_added_up(site: Site, write_csv: WriteCsv) -> None:
    header = [*HEADER, "device", "country", "browser"]
    phone, tablet = (
        ["2026-11-09", "/a", "x", 1, 10, 2, "phone", "France", "a"],
        ["2026-11-09", "/a", "x", 3, 30, 6, "tablet", "fr", "b"],
    )
    by_hand = {
        0: TableRequest(choices=Choices(repeats="each"))
    }  # a column of words sets the rows apart: no one adds them up unasked
    report = load(site, write_csv([phone, tablet, [*phone[:8], "c"]], header), tables=by_hand).report
    rows = blocks.read_facts(site, PAGE_QUERY).sort("device").select("device", "country", "clicks", "impressions")
    assert rows.rows() == [(2, 250, 2, 20), (3, 250, 3, 30)]  # 250 is France in ISO 3166-1
    assert report.repeats_added_up == 1
    assert report.notices[0] == "Not used: browser."
    with pytest.raises(FileRefused) as refused:
        load(site, write_csv([[*phone[:7], "Atlantis", "a"]], header))
    assert refused.value.refusals.first[0].message == "this is not a country of ISO 3166"


def test_tabs_semicolons_bom_blank_lines_and_other_dates(site: Site, tmp_path: Path) -> None:
    path = tmp_path / "facts.txt"
    for delimiter in "\t;":
        lines = [delimiter.join(HEADER), "", delimiter.join(["20261109", "/a", " x ", "1.0", "10", "2"]), "", ""]
        path.write_text("\ufeff" + "\r\n".join(lines))
        assert load(site, path).report.loaded == 1
        assert stored(site) == [(date(2026, 11, 9), "https://shop.example/a", "x", 1, 10, 2.0)]
        path.write_text(path.read_text().replace("20261109", "09.11.2026"))
        assert not load(site, path).report.changed


@pytest.mark.parametrize(
    ("header", "expected"),
    [
        (["Day", "Landing page", "Search term", "Clicks", "Impressions", "Avg. position"], [0, 1, 2, 3, 4, 5]),
        (["QUERY", "address", "date", "ctr", "impressions", "clicks", "rank"], [2, 1, 0, 5, 4, 6]),
        (["keyword", "URL", "page", "day", "position", "clicks", "impressions"], [3, 2, 0, 5, 6, 4]),
    ],
)
def test_the_usual_header_words_are_known(header: list[str], expected: list[int]) -> None:
    found = propose("search", header)
    assert [found[field] for field in ("day", "page", "query", "clicks", "impressions", "position")] == expected


def test_a_column_cannot_be_two_things() -> None:
    with pytest.raises(Invalid, match="page and query at once"):
        check_mapping("search", {"page": 1, "query": 1}, ["day", "page"])


def test_two_loads_at_once_lose_nothing(site: Site, write_csv: WriteCsv, monkeypatch: pytest.MonkeyPatch) -> None:
    """Between read and write, another load writes; without the check its rows would be overwritten."""
    other = write_csv([["2026-11-12", "/other", "x", 1, 9, 2]], name="other.csv")
    plain_write, meddled = blocks.write, []

    def write_after_another(one: Site, *what: object) -> None:
        if not meddled:
            meddled.append(True)
            load(Site.objects.get(id=one.id), other)
        plain_write(one, *what)  # type: ignore[arg-type]

    monkeypatch.setattr(blocks, "write", write_after_another)
    load(site, write_csv([GOOD]))
    assert [row[1] for row in stored(site)] == ["https://shop.example/a", "https://shop.example/other"]


def test_a_block_is_a_parquet_file_that_others_can_read(site: Site, write_csv: WriteCsv) -> None:
    load(site, write_csv([GOOD]))
    frame = pl.read_parquet(io.BytesIO(Block.objects.get().payload))
    assert frame.columns == ["day", "page", "query", "device", "country", "clicks", "impressions", "position"]
