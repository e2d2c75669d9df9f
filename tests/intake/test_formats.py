"""The same facts read alike from every format; archives; recognition; refusal of harmful files."""

import gzip
import io
import json
import zipfile
from collections.abc import Callable
from datetime import date
from pathlib import Path

import polars as pl
import pytest
import xlsxwriter
from django.core.management import call_command

from tests.conftest import HEADER
from zugzwang.core.facts.grains import CRAWL_PAGES, DAY, LINKS, OF_SPANS, PAGE, PAGE_QUERY, RESULTS, VISITS, VOLUMES, Grain
from zugzwang.core.facts.visits import CHANNELS
from zugzwang.data.blocks import read_facts
from zugzwang.data.models import ColumnMemory, Event, Load, Site
from zugzwang.data.snapshot import Snapshot
from zugzwang.errors import FileRefused
from zugzwang.intake import loading
from zugzwang.intake.delimited import open_delimited
from zugzwang.intake.loading import LoadOptions, TableRequest, load_file
from zugzwang.intake.tables import Choices

ROWS = [
    ("2026-11-09", "https://shop.example/a", "red kayak", 1300, 12000, 4.2),
    ("2026-11-10", "https://shop.example/b", "bateau à voile", 0, 7, 11.5),
    ("2026-11-10", "https://shop.example/b", "漕ぎ方", 1, 9, 2.0),
]
FRAME = pl.DataFrame(ROWS, schema=HEADER, orient="row")
PREAMBLE = "Report for shop.example\nMade on 2026-11-12\n\n"


def text(delimiter: str = ",", comma: bool = False) -> str:
    lines = [delimiter.join(HEADER)]
    for row in ROWS:
        numbers = [
            f"{row[3]:,}".replace(",", "." if comma else ","),
            f"{row[4]}",
            f"{row[5]}".replace(".", "," if comma else "."),
        ]
        lines.append(delimiter.join([*row[:3], *(f'"{one}"' if delimiter in one else one for one in numbers)]))
    return "\n".join(lines) + "\n"


def workbook(path: Path) -> None:
    with xlsxwriter.Workbook(path) as book:
        book.add_worksheet("About").write(0, 0, "made by hand")
        sheet = book.add_worksheet("Facts")
        day = book.add_format({"num_format": "dd.mm.yyyy"})
        sheet.write_row(2, 1, HEADER)
        for number, row in enumerate(ROWS, start=3):
            sheet.write_datetime(number, 1, pl.Series([row[0]]).str.to_datetime()[0], day)
            sheet.write_row(number, 2, row[1:])
        sheet.write_row(6, 1, ["Total", "", "", 1301, 12016])


def ods(path: Path) -> None:
    """A minimal spreadsheet of OpenDocument 1.3, part 3."""
    names = ["office", "text", "table"]
    spaces = " ".join(f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"' for name in names)

    def cell(value: object) -> str:
        kind = (
            f'office:value-type="float" office:value="{value}"'
            if isinstance(value, int | float)
            else 'office:value-type="string"'
        )
        return f"<table:table-cell {kind}><text:p>{value}</text:p></table:table-cell>"

    rows = "".join(f"<table:table-row>{''.join(map(cell, row))}</table:table-row>" for row in [HEADER, *ROWS])
    table = f'<table:table table:name="Facts">{rows}</table:table>'
    body = f"<office:body><office:spreadsheet>{table}</office:spreadsheet></office:body>"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr(
            "content.xml", f'<office:document-content {spaces} office:version="1.3">{body}</office:document-content>'
        )
        manifest = 'xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"'
        archive.writestr("META-INF/manifest.xml", f"<manifest:manifest {manifest}></manifest:manifest>")


def parquet(path: Path) -> None:
    FRAME.with_columns(pl.col("date").str.to_date()).write_parquet(path)


def zipped(path: Path) -> None:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        lines = text().splitlines()
        archive.writestr("export/first.csv", "\n".join(lines[:3]))
        archive.writestr("../../second.csv", "\n".join([lines[0], *lines[2:]]))  # overlaps; its name leads nowhere
        archive.writestr("__MACOSX/._first.csv", b"\0\0")
        archive.writestr("notes.txt", "nothing to load here\n")


MADE: dict[str, Callable[[Path], object]] = {
    "csv": lambda path: path.write_text(text()),
    "csv with a mark": lambda path: path.write_text("\ufeff" + text()),
    "tsv in UTF-16": lambda path: path.write_bytes(text("\t").encode("utf-16")),
    "UTF-16 without a mark": lambda path: path.write_bytes(text("\t").encode("utf-16-le")),
    "UTF-32": lambda path: path.write_bytes(text().encode("utf-32")),
    "semicolons and decimal commas": lambda path: path.write_text(text(";", comma=True)),
    "bars": lambda path: path.write_text(text("|")),
    "a preamble and a total": lambda path: path.write_text(PREAMBLE + text() + "Total,,,1301,12016,\n"),
    "gzip": lambda path: path.write_bytes(gzip.compress(text().encode())),
    "zip": zipped,
    "xlsx": workbook,
    "ods": ods,
    "parquet": parquet,
    "ndjson": lambda path: FRAME.write_ndjson(path),
    "json": lambda path: FRAME.write_json(path),
    "json inside an object": lambda path: path.write_text(json.dumps({"done": 1, "rows": FRAME.to_dicts()}, indent=1)),
}


def held(site: Site, grain: Grain = PAGE_QUERY) -> list[tuple[object, ...]]:
    rows = read_facts(site, grain)
    for name in ("page", "query"):
        if name in rows.columns:
            words = {"page": "pages", "query": "queries"}[name]
            texts = dict(getattr(site, words).values_list("id", "text"))
            rows = rows.with_columns(pl.col(name).cast(pl.Int64).replace_strict(texts, return_dtype=pl.String))
    return sorted(rows.rows(), key=str)


def load(site: Site, path: Path, **asked: object) -> loading.Loaded:
    return load_file(site, path, path.name, request=LoadOptions(**asked))  # type: ignore[arg-type]


@pytest.mark.parametrize("form", MADE)
def test_every_format_holds_the_same_facts(form: str, site: Site, tmp_path: Path) -> None:
    path = tmp_path / "facts"
    MADE[form](path)
    report = load(site, path).report
    expected = [(date.fromisoformat(row[0]), row[1], row[2], 0, 0, *row[3:]) for row in ROWS]
    assert held(site) == sorted(expected, key=str)
    assert report.rows_new == 3
    if "total" in form or form == "xlsx":
        assert any("totals of the others" in notice for notice in report.notices)


@pytest.mark.parametrize("encoding", ["cp1252", "iso8859-15"])
def test_letters_beyond_ascii_in_older_encodings(encoding: str, site: Site, tmp_path: Path) -> None:
    path = tmp_path / "facts.csv"
    words = "bateau à voile près de la rivière, très léger, déjà monté"
    lines = [",".join(HEADER), *(f'2026-11-09,/a,"{words} {n}",1,9,2' for n in range(40))]
    path.write_bytes("\n".join(lines).encode(encoding))
    report = load(site, path).report
    assert any(notice.startswith("Read as ") for notice in report.notices)
    assert str(held(site)[0][2]).startswith(words)


def test_the_encoding_can_be_chosen(site: Site, tmp_path: Path) -> None:
    path = tmp_path / "facts.csv"
    path.write_bytes(f"{','.join(HEADER)}\n2026-11-09,/a,каяк,1,9,2\n".encode("cp1251"))
    load(site, path, tables={0: TableRequest(choices=Choices(encoding="cp1251"))})
    assert held(site)[0][2] == "каяк"


def test_days_that_can_be_read_two_ways_are_asked_for(site: Site, tmp_path: Path) -> None:
    path = tmp_path / "facts.csv"
    path.write_text(f"{','.join(HEADER)}\n03/04/2026,/a,kayak,1,9,2\n")
    with pytest.raises(FileRefused) as refused:
        load(site, path)
    assert refused.value.refusals.first[0].message == "the days can be read with the day or the month first"
    load(site, path, tables={0: TableRequest(choices=Choices(day_order="month first"))})
    assert held(site)[0][0] == date(2026, 3, 4)


def test_a_dry_run_tells_everything_and_changes_nothing(site: Site, tmp_path: Path) -> None:
    path = tmp_path / "facts.csv"
    path.write_text(text())
    load(site, path)
    site.rules = {"left_out": ["/c$"]}
    site.save()
    more = ["2026-11-10,https://shop.example/b,漕ぎ方,5,9,2", "2026-11-10,https://shop.example/a?utm_x=1,new,1,9,2"]
    path.write_text("\n".join([",".join(HEADER), *more, "2026-11-10,https://shop.example/c,new,1,9,2"]))
    before, version, pages = held(site), site.data_version, site.pages.count()
    report = load(site, path, dry_run=True).report
    assert (report.rows_new, report.rows_replaced, report.rows_lost) == (2, 1, 1)
    assert (report.pages_folded, report.pages_left_out, report.dry_run) == (1, 1, True)
    site.refresh_from_db()
    assert (held(site), site.data_version, site.pages.count(), Load.objects.count()) == (before, version, pages, 1)


def test_columns_that_were_chosen_are_remembered_for_the_site(site: Site, tmp_path: Path) -> None:
    path = tmp_path / "odd.csv"
    path.write_text("when,where,what,clicks,impressions,position\n2026-11-09,/a,kayak,1,9,2\n")
    chosen = {"day": 0, "page": 1, "query": 2, "clicks": 3, "impressions": 4, "position": 5}
    load(site, path, tables={0: TableRequest(source="search", mapping=chosen)})
    assert ColumnMemory.objects.get().mapping == chosen
    path.write_text("When,Where,What,Clicks,Impressions,Position\n2026-11-10,/a,kayak,2,9,2\n")
    assert [seen.remembered for seen in loading.look(site, path, "odd.csv", tmp_path)] == [True]
    load(site, path)
    assert len(held(site)) == 2


def test_columns_are_proposed_from_their_values_too(site: Site, tmp_path: Path) -> None:
    path = tmp_path / "facts.csv"
    path.write_text("a,b,query,clicks,impressions,position\n2026-11-09,/a,x,1,9,2\n2026-11-10,/b,y,1,9,2\n")
    assert [seen.missing for seen in loading.look(site, path, "facts.csv", tmp_path)] == [[]]
    load(site, path)
    assert {row[1] for row in held(site)} == {"https://shop.example/a", "https://shop.example/b"}


# --- other sources -----------------------------------------------------------------------------------------------------


def given(tmp_path: Path, content: str, name: str = "file.csv") -> Path:
    path = tmp_path / name
    path.write_text(content)
    return path


def test_search_facts_by_page_alone(site: Site, tmp_path: Path) -> None:
    load(site, given(tmp_path, "date,page,clicks,impressions,position\n2026-11-09,/a,5,50,3\n"))
    assert held(site, PAGE) == [(date(2026, 11, 9), "https://shop.example/a", 0, 0, 5, 50, 3.0)]


def test_visits_from_rates_means_and_engaged_sessions(site: Site, tmp_path: Path) -> None:
    header = "Date,Landing page,Channel,Sessions,Bounce rate,Average session duration,Revenue"
    load(site, given(tmp_path, f"{header}\n2026-11-09,/a,Organic Search,200,41 %,0:01:30,12.5\n"))
    row = read_facts(site, VISITS).to_dicts()[0]
    assert (CHANNELS[row["channel"]], row["sessions"], row["bounces"], row["seconds"], row["value"]) == (
        "organic",
        200,
        82,
        18_000,
        12.5,
    )
    assert (row["conversions"], row["users"]) == (None, None)  # not reported is not 0
    load(
        site,
        given(tmp_path, "day,page,sessions,engaged sessions\n2026-11-10,/a,10,7\n"),
        tables={0: TableRequest(choices=Choices(channel="organic"))},
    )
    assert read_facts(site, VISITS).filter(pl.col("day") == date(2026, 11, 10))["bounces"].to_list() == [3]
    with pytest.raises(FileRefused) as refused:
        load(site, given(tmp_path, "day,page,sessions,bounces\n2026-11-10,/a,10,17\n"))
    assert refused.value.refusals.first[0].message == "more bounces than sessions"


def test_own_visits_are_left_out_by_network(site: Site, tmp_path: Path) -> None:
    site.rules = {"own_networks": ["192.0.2.0/24", "2001:db8::/32"]}
    rows = ["192.0.2.7", "198.51.100.9", "2001:db8::1", "nonsense"]
    lines = [f"2026-11-09,/a,1,0,{address}" for address in rows]
    report = load(site, given(tmp_path, "day,page,sessions,bounces,ip\n" + "\n".join(lines))).report
    assert read_facts(site, VISITS)["sessions"].sum() == 2
    assert report.tables[0].own_visits == 2


LOG = """198.51.100.9 - - [09/Nov/2026:10:00:00 +0100] "GET /a HTTP/1.1" 200 512 "https://search.example/" "Browser/1.0"
198.51.100.9 - - [09/Nov/2026:10:02:00 +0100] "GET /b HTTP/1.1" 200 512 "https://shop.example/a" "Browser/1.0"
198.51.100.9 - - [09/Nov/2026:10:02:01 +0100] "GET /b.css HTTP/1.1" 200 512 "https://shop.example/b" "Browser/1.0"
198.51.100.8 - ann [09/Nov/2026:11:00:00 +0100] "GET /a HTTP/1.1" 200 512 "-" "Browser \\"two\\""
198.51.100.7 - - [09/Nov/2026:11:00:00 +0100] "GET /a HTTP/1.1" 200 512 "-" "ExampleBot/1.0"
192.0.2.7 - - [09/Nov/2026:11:00:00 +0100] "GET /a HTTP/1.1" 200 512 "-" "Browser/1.0"
198.51.100.6 - - [09/Nov/2026:11:00:00 +0100] "\\x16\\x03\\x01" 400 0 "-" "-"
"""


def test_an_access_log_becomes_visits(site: Site, tmp_path: Path) -> None:
    """The Combined Log Format, as in the documentation of Apache's mod_log_config."""
    site.rules = {"own_networks": ["192.0.2.0/24"]}
    report = load(site, given(tmp_path, LOG, "access.log")).report
    rows = read_facts(site, VISITS).sort("channel").to_dicts()
    result = [(CHANNELS[row["channel"]], row["sessions"], row["bounces"], row["seconds"]) for row in rows]
    assert result == [("organic", 1, 0, 120.0), ("direct", 1, 1, 0.0)]
    assert "5 page views; 1 by programs and 1 from your own networks" in report.notices[0]
    assert "1 lines are not log lines" in report.notices[1]


def test_crawlers_of_search_engines_are_a_channel_of_their_own(site: Site, tmp_path: Path) -> None:
    """By their user agents, as in the site's rules; without a rule none is counted, and names are reported."""
    agents = ("FindBot/2.1", "mozilla compatible; findbot/2.1", "OtherBot/1", "curl/8")
    lines = [
        f'192.0.2.{n} - - [{10 + n}/Nov/2026:10:00:00 +0000] "GET /a HTTP/1.1" 200 9 "-" "{agent}"\n'
        for n, agent in enumerate(agents)
    ]
    log = given(tmp_path, LOG + "".join(lines), "access.log")
    report = load(site, log).report
    assert "crawler" not in {CHANNELS[row["channel"]] for row in read_facts(site, VISITS).to_dicts()}
    assert any("OtherBot (1)" in one and "FindBot (1)" in one for one in report.notices), report.notices
    site.rules = {"crawlers": ["^findbot", r"\bfindbot/"]}
    site.save()
    load(site, log)
    crawled = [row for row in read_facts(site, VISITS).to_dicts() if CHANNELS[row["channel"]] == "crawler"]
    assert [(row["day"], row["sessions"], row["bounces"]) for row in crawled] == [
        (date(2026, 11, 10), 1, None),
        (date(2026, 11, 11), 1, None),
    ]


def test_links_volumes_crawl_and_results(site: Site, tmp_path: Path) -> None:
    load(site, given(tmp_path, "Source URL,Target URL,Anchor text,Follow\nhttps://club.example/x,/a,here,nofollow\n"))
    assert held(site, LINKS) == [("https://club.example/x", "https://shop.example/a", "here", False, None, None)]
    load(
        site, given(tmp_path, 'Keyword,Country,Month,Search volume,CPC\nkayak,GB,2026-10,1.900,"0,45"\ncanoe,GB,2026-10,70,\n')
    )
    assert held(site, VOLUMES) == [
        ("canoe", 826, date(2026, 10, 1), 70, None, False),
        ("kayak", 826, date(2026, 10, 1), 1900, 0.45, False),
    ]
    load(site, given(tmp_path, "Address,Status code,Title,Meta description,H1\n/a,200,Red kayak,About it,Kayak\n"))
    row = read_facts(site, CRAWL_PAGES).to_dicts()[0]
    assert (row["address"], row["status"], row["headings"]) == ("https://shop.example/a", 200, ["h1 Kayak"])
    captured = {"query": "kayak", "country": "GB", "device": "mobile", "captured": "2026-11-09"}
    blocks = [
        {"block": "answer box", "kind": "list", "title": "In short"},
        {"block": "organic", "title": "Kayaks", "address": "https://a.example/"},
    ]
    load(site, given(tmp_path, json.dumps({**captured, "blocks": blocks}) + "\n", "results.ndjson"))
    rows = read_facts(site, RESULTS).select("rank", "block", "kind", "title", "address").rows()
    assert rows == [(1, "answer box", "list", "In short", None), (2, "organic", None, "Kayaks", "https://a.example/")]


def test_a_volume_file_adds_to_what_is_known(site: Site, tmp_path: Path) -> None:
    load(site, given(tmp_path, "keyword,volume\nkayak,100\ncanoe,50\n"))
    load(site, given(tmp_path, "keyword,volume\nkayak,120\n"))
    assert [(row[0], row[3]) for row in held(site, VOLUMES)] == [("canoe", 50), ("kayak", 120)]


CALENDAR = """BEGIN:VCALENDAR
VERSION:2.0
BEGIN:VEVENT
DTSTART;VALUE=DATE:20261102
DTEND;VALUE=DATE:20261105
SUMMARY:Spring sale
CATEGORIES:campaign
END:VEVENT
BEGIN:VEVENT
DTSTART:20261109T230000Z
SUMMARY:Release
END:VEVENT
END:VCALENDAR
"""


def test_events_from_a_table_and_from_a_calendar(site: Site, tmp_path: Path) -> None:
    """RFC 5545, section 3.6.1: an all-day event ends on the day after its last."""
    load(site, given(tmp_path, CALENDAR.replace("\n", "\r\n"), "events.ics"))
    load(site, given(tmp_path, "date,event\n2026-11-09,Release\n2026-12-01,Update\n"))
    stored = [(event.first_day, event.last_day, event.title, event.kind) for event in Event.objects.all()]
    assert stored == [
        (date(2026, 11, 2), date(2026, 11, 4), "Spring sale", "campaign"),
        (date(2026, 11, 9), date(2026, 11, 9), "Release", ""),  # reported twice, kept once
        (date(2026, 12, 1), date(2026, 12, 1), "Update", ""),
    ]


# --- what must not harm ------------------------------------------------------------------------------------------------


def bomb() -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("facts.csv", b"0" * 60_000_000)
    return buffer.getvalue()


@pytest.mark.parametrize(
    ("content", "message"),
    [
        (bomb(), "the archive unpacks to far too much"),
        (gzip.compress(b"0" * 60_000_000), "the archive unpacks to far too much"),
        (b"a,b\n" + b"x" * 3_000_000, "the line is longer than 1 MB"),
        (b"[" * 5_000 + b"]" * 5_000, "the text nests deeper than 60 levels"),
        (b'{"a": 1, "b": 2}\n{"a": ' + b"[" * 100 + b"\n", "the text nests deeper than 60 levels"),
        (b'{"a": 1, "b": 2}\n{"a": 1, "b":\n', "the line is not a JSON object"),
        (b'[{"a": 1}, ', "the text is not JSON (Expecting value, column 12)"),
        (b"PAR1 and then nothing", "the Parquet file cannot be read"),
        (b"BEGIN:VCALENDAR\r\nEND:VCALENDAR\r\n", "the calendar has no events"),
        (b"\x1f\x8b\x08broken", "the gzip file cannot be unpacked"),
    ],
    ids=range(10),
)
def test_refused_before_it_harms(content: bytes, message: str, site: Site, tmp_path: Path) -> None:
    path = tmp_path / "file"
    path.write_bytes(content)
    with pytest.raises(FileRefused) as refused:
        load(site, path)
    problem = refused.value.refusals.first[0]
    assert problem.message == message
    assert problem.remedy
    assert not Load.objects.exists()


def test_an_open_quote_over_a_megabyte_is_left_to_the_patient_reader(site: Site, tmp_path: Path) -> None:
    """The fast reader used 7 GB for a gigabyte of it; a pair of stray quotes far apart must still be read."""
    lines = [f"2026-11-09,/a,query {number},1,9,2" for number in range(60_000)]
    table = open_delimited(given(tmp_path, "\n".join([",".join(HEADER), *lines])), "facts.csv", Choices(), tmp_path)
    assert table.fast
    lines[5] = '2026-11-09,/a,"open,1,9,2'
    path = given(tmp_path, "\n".join([",".join(HEADER), *lines]))
    assert not open_delimited(path, "facts.csv", Choices(), tmp_path).fast
    with pytest.raises(FileRefused) as refused:
        load(site, path)
    assert (refused.value.refusals.first[0].line, refused.value.refusals.first[0].remedy) == (
        7,
        "Look for a quote that is never closed.",
    )
    lines[5], lines[-1] = '2026-11-09,/a,12" paddle,1,9,2', '2026-11-09,/a,14" paddle,1,9,2'
    load(site, given(tmp_path, "\n".join([",".join(HEADER), *lines])))
    assert read_facts(site, PAGE_QUERY).height == 60_000


def test_pages_fold_as_the_rules_say_when_facts_are_read(site: Site, tmp_path: Path) -> None:
    load(
        site,
        given(
            tmp_path,
            f"{','.join(HEADER)}\n2026-11-09,/a/,x,1,9,2\n2026-11-09,/a/?utm_source=y,x,2,9,4\n2026-11-09,/tag/b/,x,1,9,2\n",
        ),
    )
    site.rules = {"left_out": ["/tag/"]}
    site.save()
    pages = Snapshot(site).pages.page_map()
    counted = pages.cleaned(read_facts(site, PAGE_QUERY))
    assert counted["clicks"].sum() == 3
    assert counted["page"].n_unique() == 1


def test_rows_that_an_unused_column_of_words_sets_apart_are_not_added_up(site: Site, tmp_path: Path) -> None:
    """Before, 999 of 1,000 rows were merged into one without a message."""
    lines = [f"2026-11-01,phrase {n},{n % 7},{n % 50 + 10},4.2" for n in range(1_000)]
    path = given(tmp_path, "\n".join(["Date,Was man fragte,Clicks,Impressions,Position", *lines]))
    with pytest.raises(FileRefused) as refused:
        load(site, path)
    problem = refused.value.refusals.first[0]
    assert "the column “Was man fragte” is not used" in problem.message
    assert "--map query" in problem.remedy
    load_file(site, path, "rows.csv", request=LoadOptions(tables={0: TableRequest(choices=Choices(repeats="each"))}))
    assert len(held(site, DAY)) == 1


def test_a_column_that_is_empty_is_not_chosen_for_its_name(site: Site, tmp_path: Path) -> None:
    """Before, an empty "Target URL" was used although "Destination" had the addresses."""
    rows = "".join(f"https://club.example/{n},,/page-{n},here\n" for n in range(3))
    load(site, given(tmp_path, f"Source URL,Target URL,Destination,Anchor text\n{rows}"))
    assert {row[1] for row in held(site, LINKS)} == {f"https://shop.example/page-{n}" for n in range(3)}


@pytest.mark.parametrize(
    ("last", "is_total"),
    [
        ("Total,,,1301", True), (",,,1301", True), (",Grand total,,1301", True), ("Summe,,,1301", True),
        ("Totals for 3 rows:,,,1301", True), (",,Gesamtsumme,1301", True), ("Average,,,433", True),
        (",,total war,1301", False), ("soon,https://shop.example/a,canoe,1301", False),
    ],
)  # fmt: skip
def test_a_row_of_sums_under_a_table_is_left_out_and_no_other(last: str, is_total: bool, site: Site, tmp_path: Path) -> None:
    path = given(tmp_path, f"{text()}{last},12016,4.1\n")
    if not is_total:
        with pytest.raises(FileRefused):
            load(site, path)
        return
    load(site, path)
    assert len(held(site)) == 3


def test_one_span_for_a_table_of_two_periods_is_that_of_the_later(site: Site, tmp_path: Path) -> None:
    """Before, both periods were loaded for the given days, which doubled the clicks."""
    path = given(
        tmp_path,
        "Page,Clicks last 28 days,Clicks previous 28 days,Impressions last 28 days,Impressions previous 28 days,"
        "Position last 28 days,Position previous 28 days\nhttps://shop.example/a,10,7,100,90,4.2,4.4\n",
    )
    call_command("load", str(path), "--site", "shop", "--span", "2026-10-19..2026-11-15")
    rows = read_facts(site, OF_SPANS[PAGE.name]).sort("first").select("first", "last", "clicks").rows()
    assert rows == [(date(2026, 9, 21), date(2026, 10, 18), 7), (date(2026, 10, 19), date(2026, 11, 15), 10)]
