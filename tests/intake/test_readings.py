"""Ambiguous values are read correctly, or the file's reading is reported: nothing is read wrongly without a message."""

from datetime import date
from pathlib import Path

import polars as pl
import pytest
import xlsxwriter

from zugzwang.core.facts.grains import GRAINS, OF_SPANS, PAGE_QUERY, VISITS
from zugzwang.core.facts.periods import Period
from zugzwang.data.blocks import read_facts, read_spans
from zugzwang.data.models import Event, Query, Site
from zugzwang.errors import FileRefused
from zugzwang.intake.encoded_twice import example_of
from zugzwang.intake.loading import Loaded, LoadOptions, TableRequest, load_file, look
from zugzwang.intake.tables import Choices

HEADER = "day,page,query,clicks,impressions,position\n"
ROW = "https://shop.example/a,red kayak,3,90,4.2\n"


def load(
    site: Site, folder: Path, content: str | bytes, name: str = "upload.csv", request: LoadOptions | None = None
) -> Loaded:
    path = folder / "upload"
    path.write_bytes(content.encode() if isinstance(content, str) else content)
    return load_file(site, path, name, request=request)


# 2026-11-09 as a spreadsheet counts it (ECMA-376 part 1, 18.17.4.1, from memory: 1 is 1900-01-01), and in (milli)seconds
# since 1970.
@pytest.mark.parametrize("day", ["46335", "46335.75", "1794182400", "1794182400000", "9 Nov 2026", "2026-11-09T10:00:00Z"])
def test_days_that_are_counted(day: str, site: Site, tmp_path: Path) -> None:
    loaded = load(site, tmp_path, f"{HEADER}{day},{ROW}")
    assert read_facts(site, PAGE_QUERY)["day"].to_list() == [date(2026, 11, 9)]
    is_counted = "-" not in day and " " not in day
    assert is_counted == any("is read as 2026-11-09" in one for one in loaded.report.notices)


def test_a_number_that_is_no_day_is_refused(site: Site, tmp_path: Path) -> None:
    with pytest.raises(FileRefused):
        load(site, tmp_path, f"{HEADER}123,{ROW}")


@pytest.mark.parametrize(
    ("header", "months"),
    [
        ("Month", ["2026-08", "2026-09", "2026-10"]),
        ("Month", ["2026-08-01", "2026-09-01", "2026-10-01"]),
        ("Date", ["Aug 2026", "Sep 2026", "Oct 2026"]),
        ("Monat", ["August 2026", "September 2026", "Oktober 2026"]),
        ("Year month", ["202608", "202609", "202610"]),
        ("Mois", ["08/2026", "09/2026", "10/2026"]),
    ],
)
def test_rows_of_months_are_spans(header: str, months: list[str], site: Site, tmp_path: Path) -> None:
    rows = [f"{month},{page},{10 * number},1000,4.2" for number, month in enumerate(months, 1) for page in ("/a", "/b")]
    loaded = load(site, tmp_path, f"{header},Page,Clicks,Impressions,Position\n" + "\n".join(rows))
    spans = [Period(date(2026, month, 1), date(2026, month, last)) for month, last in ((10, 31), (9, 30), (8, 31))]
    assert read_spans(site, GRAINS["page"]) == spans
    totals = read_facts(site, OF_SPANS["page"]).group_by("first").agg(pl.col("clicks").sum()).sort("first")
    assert totals["clicks"].to_list() == [20, 40, 60]
    assert "each month is saved as a span" in " ".join(loaded.report.notices)
    assert (loaded.report.tables[0].first_day, loaded.report.tables[0].last_day) == ("2026-08-01", "2026-10-31")


def test_days_are_no_months(site: Site, tmp_path: Path) -> None:
    rows = "".join(f"2026-{month:02}-01,{ROW}" for month in (8, 9, 10))
    load(site, tmp_path, HEADER + rows)
    assert read_facts(site, PAGE_QUERY).height == 3


TWICE = "für den fluß".encode().decode("latin-1")


def test_letters_that_were_encoded_twice_are_repaired_unless_they_are_meant(site: Site, tmp_path: Path) -> None:
    content = f"{HEADER}2026-11-09,{ROW.replace('red kayak', TWICE)}"
    loaded = load(site, tmp_path, content)
    assert Query.objects.get().text == "für den fluß"
    assert f"“{TWICE.split()[0]}” is read as “für”" in " ".join(loaded.report.notices)
    load(site, tmp_path, content, request=LoadOptions({0: TableRequest(choices=Choices(encoding="utf-8"))}, mode="add"))
    assert Query.objects.filter(text=TWICE).exists()


GOOD_TEXTS = [
    ["SÃO PAULO", "NÃO", "coração"], ["À LA CARTE", "œuvre", "ÉTÉ"], ["ÜBER", "größe"], ["hà nội", "phở bò"], ["żółć", "Łódź"],
    ["αθήνα"], ["каяк"], ["漕ぎ方"], ["İSTANBUL", "çağrı"], ["AÑO", "niño"], ["Åre", "ÅÄÖ"], ["قارب"],
    ["£5", "25°", "½", "“so”"],
]  # fmt: skip


@pytest.mark.parametrize("texts", GOOD_TEXTS, ids=lambda texts: texts[0])
def test_good_text_is_left_alone_and_the_same_encoded_twice_is_noticed(texts: list[str]) -> None:
    """Thirteen kinds of text: no false alarms, and nothing missed where all of it is damaged."""
    assert example_of(texts) is None
    assert example_of([text.encode().decode("latin-1") for text in texts]) is not None


def test_one_searcher_who_types_such_letters_changes_nothing(site: Site, tmp_path: Path) -> None:
    queries = [TWICE, "über den fluß", "café", "naïve kunst"]
    load(site, tmp_path, HEADER + "".join(f"2026-11-09,{ROW.replace('red kayak', query)}" for query in queries))
    assert {*Query.objects.values_list("text", flat=True)} == {*queries}


def test_positions_alone_are_not_taken_for_search_volumes(site: Site, tmp_path: Path) -> None:
    with pytest.raises(FileRefused) as refused:
        load(site, tmp_path, "Keyword,Date,Position,Search volume,URL\nred kayak,2026-11-09,4,900,https://shop.example/a\n")
    problem = refused.value.refusals.first[0]
    assert "(rank tracking)" in problem.message
    assert "choose “volumes”" in problem.remedy
    with pytest.raises(FileRefused) as refused:
        load(site, tmp_path, "Keyword,Rank,Date\nred kayak,4,2026-11-09\nblue kayak,7,2026-11-09\n")
    assert "(rank tracking)" in refused.value.refusals.first[0].message
    request = LoadOptions({0: TableRequest(source="volumes")})
    content = "Keyword,Position,Search volume\nred kayak,4,900\n"
    assert load(site, tmp_path, content, request=request).report.tables[0].loaded == 1


def workbook(path: Path, hidden: tuple[str, ...]) -> None:
    with xlsxwriter.Workbook(path) as book:
        for number, name in enumerate(("Shown", "Draft")):
            sheet = book.add_worksheet(name)
            sheet.write_row(0, 0, HEADER.strip().split(","))
            sheet.write_row(1, 0, ["2026-11-09", f"https://shop.example/{number}", "red kayak", 3, 90, 4.2])
            if name in hidden:
                sheet.hide()


def test_a_hidden_sheet_is_loaded_only_by_its_name(site: Site, tmp_path: Path) -> None:
    path = tmp_path / "book.xlsx"
    workbook(path, ("Draft",))
    loaded = load_file(site, path, "book.xlsx")
    assert "The hidden sheet “Draft” is not loaded" in " ".join(loaded.report.notices)
    assert read_facts(site, PAGE_QUERY).height == 1
    chosen = LoadOptions({0: TableRequest(choices=Choices(sheet="Draft"))}, mode="add")
    load_file(site, path, "book.xlsx", request=chosen)
    assert read_facts(site, PAGE_QUERY)["page"].n_unique() == 2
    workbook(path, ())
    assert len(look(site, path, "book.xlsx", tmp_path)) == 2


def log_line(visitor: str, minute: int, site: str = "") -> str:
    return f'{site}{visitor} - - [09/Nov/2026:10:{minute:02}:00 +0000] "GET /a HTTP/1.1" 200 9 "-" "Browser/1.0"\n'


def test_a_log_of_several_sites_gives_each_visitor_of_this_one(site: Site, tmp_path: Path) -> None:
    own = [log_line(f"198.51.100.{number}", number, "www.shop.example:443 ") for number in range(20)]
    others = [log_line(f"198.51.100.{number}", number, "other.example:80 ") for number in range(5)]
    loaded = load(site, tmp_path, "".join([*own, *others]), "access.log")
    assert read_facts(site, VISITS)["sessions"].sum() == 20
    assert "5 lines of other sites are skipped" in " ".join(loaded.report.notices)


def test_keys_within_objects_are_columns(site: Site, tmp_path: Path) -> None:
    keys = [{"day": f"2026-11-{day:02}", "page": f"https://shop.example/{page}", "query": query}
            for day in (9, 10) for page in "abc" for query in ("red", "blue", "green")]  # fmt: skip
    frame = pl.DataFrame({"keys": keys, "clicks": 1, "impressions": 10, "position": 3.0})
    path = tmp_path / "facts.parquet"
    frame.write_parquet(path)
    load_file(site, path, "facts.parquet")
    assert read_facts(site, PAGE_QUERY).height == 18
    listed = frame.with_columns(keys=pl.concat_list(pl.col("keys").struct.field("day", "page", "query")))
    listed.write_parquet(path)
    assert not load_file(site, path, "facts.parquet").report.changed


def calendar(rule: str) -> str:
    lines = ("BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:test", "BEGIN:VEVENT", "UID:1", "DTSTART;VALUE=DATE:20260105",
             "DTEND;VALUE=DATE:20260107", "SUMMARY:Sale", f"RRULE:{rule}", "EXDATE;VALUE=DATE:20260205", "END:VEVENT",
             "END:VCALENDAR")  # fmt: skip
    return "\r\n".join(lines) + "\r\n"


def test_events_that_recur_are_told_each_time(site: Site, tmp_path: Path) -> None:
    load(site, tmp_path, calendar("FREQ=MONTHLY;COUNT=4"), "events.ics")
    stored = [(event.first_day.isoformat(), event.last_day.isoformat()) for event in Event.objects.order_by("first_day")]
    assert stored == [("2026-01-05", "2026-01-06"), ("2026-03-05", "2026-03-06"), ("2026-04-05", "2026-04-06")]


@pytest.mark.parametrize("rule", ["FREQ=SECONDLY", "FREQ=HOURLY;COUNT=5", "FREQ=DAILY;INTERVAL=0"])
def test_a_rule_that_never_ends_is_refused(rule: str, site: Site, tmp_path: Path) -> None:
    with pytest.raises(FileRefused):
        load(site, tmp_path, calendar(rule), "events.ics")
