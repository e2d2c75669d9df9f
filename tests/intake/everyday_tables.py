"""Thirty tables as found in an analyst's downloads folder, each with its expected result. Their headers are common practice,
no source; hosts and words are invented.
"""
# ruff: noqa: E501 – one table a line

import csv
import gzip
import io
import json
import zipfile
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta

import polars as pl
import xlsxwriter

from zugzwang.core.facts.periods import Period

SPAN = Period(date(2026, 8, 16), date(2026, 11, 15))
BEFORE = Period(date(2026, 5, 16), date(2026, 8, 15))
SITE = "https://shop.example"
QUERIES = ["canoe paddle", "sea kayak", "dry bag", "spray deck size"]
PAGES = [f"{SITE}/paddle/", f"{SITE}/kayak/", f"{SITE}/bag/"]
MEASURES = ["Clicks", "Impressions", "CTR", "Position"]
Rows = Sequence[Sequence[object]]


@dataclass(frozen=True)
class Everyday:
    """`becomes`: rows by grain; `span`: days that a person must enter because the file has none; `reads`: the final span of
    its totals; `says`: what the report must say.
    """

    name: str
    bytes: bytes
    becomes: Mapping[str, int]
    span: Period | None = None
    reads: Sequence[Period] = ()
    says: str = ""
    holds: Mapping[str, object] = field(default_factory=dict)


def text(header: Sequence[str], rows: Rows, sign: str = ",", above: Sequence[str] = (), encoding: str = "utf-8") -> bytes:
    result = io.StringIO(newline="")
    result.writelines(f"{line}\n" for line in above)
    csv.writer(result, delimiter=sign).writerows([header, *rows])
    return result.getvalue().encode(encoding)


def totals(things: Sequence[str], ctr: Callable[[int, int], str] = lambda k, n: f"{100 * k / n:.2f}%") -> list[list[object]]:
    counts = [(40 - 9 * place, 1_000 - 130 * place) for place in range(len(things))]
    return [[thing, k, n, ctr(k, n), 4.2 + place] for place, (thing, (k, n)) in enumerate(zip(things, counts, strict=True))]


def of_language(words: Sequence[str]) -> bytes:
    """Semicolons, decimal commas, and the header in one language."""
    rows = [
        [a, b, c, f"{100 * b / c:.2f} %".replace(".", ","), f"{p:.2f}".replace(".", ",")] for a, b, c, _, p in totals(QUERIES)
    ]  # type: ignore[operator]
    return text(words, rows, ";")


def workbook(sheets: Mapping[str, tuple[Sequence[str], Rows]]) -> bytes:
    result = io.BytesIO()
    with xlsxwriter.Workbook(result) as book:
        for name, (header, rows) in sheets.items():
            sheet = book.add_worksheet(name)
            for number, row in enumerate([header, *rows]):
                sheet.write_row(number, 0, row)
    return result.getvalue()


def archive(tables: Mapping[str, tuple[Sequence[str], Rows]]) -> bytes:
    result = io.BytesIO()
    with zipfile.ZipFile(result, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, (header, rows) in tables.items():
            packed.writestr(f"{name}.csv", text(header, rows))
    return result.getvalue()


DAYS = [SPAN.first + timedelta(days=number) for number in range(SPAN.days)]
SEVEN: dict[str, tuple[Sequence[str], Rows]] = {
    "Chart": (["Date", *MEASURES], [[str(day), 4, 100, "4%", 5.1] for day in DAYS]),
    "Queries": (["Top queries", *MEASURES], totals(QUERIES)),
    "Pages": (["Top pages", *MEASURES], totals(PAGES)),
    "Countries": (["Country", *MEASURES], totals(["Germany", "France"])),
    "Devices": (["Device", *MEASURES], totals(["Desktop", "Mobile", "Tablet"])),
    "Kinds of result": (["Kinds of result", *MEASURES], totals(["Product snippets"])),
    "Filters": (["Filter", "Value"], [["Search type", "Web"], ["Date", "Last 3 months"]]),
}
OF_SEVEN = {"day": 92, "query, span": 4, "page, span": 3, "day, span": 5}
BOTH = [name for measure in MEASURES for name in (f"8/16/26 - 11/15/26 {measure}", f"5/16/26 - 8/15/26 {measure}")]
TWO_PERIODS = [
    [query, k, k + 5, n, n + 50, f"{100 * k / n:.1f}%", f"{100 * (k + 5) / (n + 50):.1f}%", p, p + 1]  # type: ignore[operator]
    for query, k, n, _, p in totals(QUERIES)
]
KEYED = [
    {"keys": [str(day), PAGES[0], QUERIES[0]], "clicks": 3, "impressions": 90, "ctr": 0.0333, "position": 4.5} for day in DAYS
]
VISITS = ["Landing page + query string", "Session default channel group", "Sessions", "Total users", "Engaged sessions",
          "Average engagement time per session", "Key events", "Total revenue"]  # fmt: skip
OF_VISITS = [["/paddle/?a=1", "Organic Search", 120, 100, 80, 42.5, 3, 118.2], ["(not set)", "Direct", 9, 9, 0, 1, 0, 0],
             ["/kayak/", "Paid Search", 30, 28, 12, 12, 1, 60]]  # fmt: skip
CRAWL = ["Address", "Content Type", "Status Code", "Status", "Indexability", "Indexability Status", "Title 1", "Title 1 Length",
         "Meta Description 1", "H1-1", "H1-1 Length", "Canonical Link Element 1", "Word Count", "Redirect URL"]  # fmt: skip
OF_CRAWL = [
    [PAGES[0], "text/html", 200, "OK", "Indexable", "", "Paddles", 7, "All paddles", "Paddles", 7, PAGES[0], 310, ""],
    [f"{SITE}/old/", "text/html", 301, "Moved Permanently", "Non-Indexable", "Redirected", "", 0, "", "", 0, "", 0, PAGES[1]],
    [f"{SITE}/hidden/", "text/html", 200, "OK", "Non-Indexable", "noindex", "Hidden", 6, "", "", 0, "", 12, ""],
]  # fmt: skip
RANGES = [
    ["canoe paddle", "EUR", "1K – 10K", "0,30 €"],
    ["sea kayak", "EUR", "100 – 1K", "0,45 €"],
    ["dry bag", "EUR", "10", ""],
]


def parquet(frame: pl.DataFrame) -> bytes:
    result = io.BytesIO()
    frame.write_parquet(result)
    return result.getvalue()


TABLES = [
    Everyday("Queries.csv", text(["Top queries", *MEASURES], totals(QUERIES)), {"query, span": 4}, SPAN, [SPAN]),
    Everyday("Pages.csv", text(["Top pages", *MEASURES], totals(PAGES)), {"page, span": 3}, SPAN, [SPAN]),
    Everyday(
        "both.csv", text(["Landing page", "Query", *MEASURES], [[PAGES[0], *row] for row in totals(QUERIES)]),
        {"page × query, span": 4}, SPAN, [SPAN],
    ),
    Everyday("shop 2026-08-16 to 2026-11-15.csv", text(["Query", *MEASURES], totals(QUERIES)), {"query, span": 4}, reads=[SPAN],
             says="the file name"),
    Everyday("with lines above.csv", text(["Query", *MEASURES], totals(QUERIES), above=["Search results", "16 Aug 2026 – 15 Nov 2026"]),
             {"query, span": 4}, reads=[SPAN], says="a line above its header"),
    Everyday("seven.zip", archive(SEVEN), OF_SEVEN, reads=[SPAN], says="which cannot be loaded"),
    Everyday("seven.xlsx", workbook(SEVEN), OF_SEVEN, reads=[SPAN], says="Search type: Web"),
    Everyday("filtered.zip", archive({"Queries": SEVEN["Queries"], "Filters": (["Filter", "Value"], [["Date", "2026-08-16 - 2026-11-15"], ["Country", "Germany"], ["Device", "Mobile"]])}),
             {"query, span": 4}, reads=[SPAN], says="kept as those of that country and device", holds={"country": 276, "device": 2}),
    Everyday("compared.csv", text(["Top queries", *BOTH], TWO_PERIODS), {"query, span": 8}, reads=[SPAN, BEFORE]),
    Everyday(
        "compared in words.csv",
        text(["Top queries", *(f"{when} {one}" for one in MEASURES for when in ("Last 3 months", "Previous 3 months"))], TWO_PERIODS),
        {"query, span": 8}, SPAN, [SPAN, SPAN.compared("previous") or SPAN],
    ),
    Everyday("deutsch.csv", of_language(["Häufigste Suchanfragen", "Klicks", "Impressionen", "CTR", "Position"]), {"query, span": 4},
             SPAN, [SPAN]),
    Everyday("français.csv", of_language(["Requêtes les plus fréquentes", "Clics", "Impressions", "CTR", "Position"]),
             {"query, span": 4}, SPAN, [SPAN]),
    Everyday("español.csv", of_language(["Consultas principales", "Clics", "Impresiones", "CTR", "Posición"]), {"query, span": 4},
             SPAN, [SPAN]),
    Everyday("italiano.csv", of_language(["Query più frequenti", "Clic", "Impressioni", "CTR", "Posizione"]), {"query, span": 4},
             SPAN, [SPAN]),
    Everyday("nederlands.csv", of_language(["Populairste zoekopdrachten", "Klikken", "Vertoningen", "CTR", "Positie"]),
             {"query, span": 4}, SPAN, [SPAN]),
    Everyday("Länder.csv", text(["Land", "Klicks", "Impressionen", "CTR", "Position"], totals(["Deutschland", "Frankreich"])),
             {"day, span": 2}, SPAN, [SPAN]),
    Everyday("devices.csv", text(["Page", "Device", *MEASURES], [[PAGES[0], *row] for row in totals(["Desktop", "Mobile"])]),
             {"page, span": 2}, SPAN, [SPAN]),
    Everyday("visits.csv", text(VISITS, OF_VISITS, above=["# Landing pages", "# Start date: 20260816", "# End date: 20261115"]),
             {"visits, span": 2}, reads=[SPAN], says="without a page"),
    Everyday("visits by day.csv",
             text(["Date", "Landing page", "Session source / medium", "Sessions", "Bounce rate"],
                  [["20261110", "/paddle/", "search / organic", 20, "41%"], ["20261111", "/paddle/", "(direct) / (none)", 8, "50%"]]),
             {"visits": 2}),
    Everyday("crawl.csv", text(CRAWL, OF_CRAWL), {"crawl pages": 3}),
    Everyday("links.csv",
             text(["Referring page URL", "Target URL", "Anchor", "Nofollow", "First seen"],
                  [["https://a.example/post", PAGES[0], "paddles", "false", "2026-03-02"],
                   ["https://b.example/", PAGES[1], "kayaks", "true", "2026-04-02"]]),
             {"links": 2}),
    Everyday("links with its own.csv",
             text(["Source", "Destination", "Anchor", "Link position"],
                  [["https://a.example/post", PAGES[0], "paddles", ""], [PAGES[1], PAGES[0], "Paddles", "Navigation"]]),
             {"links": 1}, says="internal links are skipped"),
    Everyday("all inlinks.csv",
             text(["Type", "Source", "Destination", "Anchor", "Status Code", "Follow", "Link Position"],
                  [["Hyperlink", PAGES[0], PAGES[1], "kayaks", 200, "true", "Content"],
                   ["Hyperlink", PAGES[1], PAGES[0], "Paddles", 200, "false", "Navigation"],
                   ["Hyperlink", PAGES[1], "https://elsewhere.example/", "a friend", 200, "true", "Footer"]]),
             {"page links": 3}, holds={"in_body": False, "followed": True}),
    Everyday("links by path.csv", text(["From", "To", "Anchor"], [["/paddle/", "/kayak/", "kayaks"], ["/kayak/", "/bag/", "bags"]]),
             {"page links": 2}),
    Everyday("volumes.csv", text(["Keyword", "Currency", "Avg. monthly searches", "CPC"], RANGES, "\t", encoding="utf-16"),
             {"volumes": 3}, says="geometric mean"),
    Everyday("volumes dollars.csv", text(["Keyword", "Search volume", "CPC"], [["canoe paddle", "1,900", "$1.20"], ["sea kayak", "880", "US$0.45"]]),
             {"volumes": 2}),
    Everyday("keyed.json", json.dumps({"rows": KEYED}).encode(), {"page × query": 92}),
    Everyday("keyed.ndjson", "\n".join(json.dumps({**one, "keys": [one["keys"][1], QUERIES[number % 4]]}) for number, one in enumerate(KEYED[:4])).encode(),  # type: ignore[index]
             {"page × query, span": 4}, SPAN, [SPAN]),
    Everyday("sums.csv", text(["date", "url", "query", "clicks", "impressions", "sum_position"], [["2026-11-10", PAGES[0], QUERIES[0], 4, 100, 320]]),
             {"page × query": 1}, holds={"position": 4.2}),
    Everyday("thousands.csv", text(["Query", *MEASURES], [[query, k, n, f"{100 * k / n:.1f}%".replace(".", ","), f"{4 + place}.118"] for place, (query, k, n, _, _) in enumerate(totals(QUERIES))]),  # type: ignore[operator]
             {"query, span": 4}, SPAN, [SPAN], says="read as the decimal sign", holds={"position": 4.118}),
    Everyday("days late.csv", text(["Day", "Query", "Clicks", "Impressions", "Position"],
                                   [[f"{1 + number % 9:02}/{10 if number < 700 else 28}/2026" if number < 700 else "28/10/2026", f"query {number}", 1, 40, 5.0] for number in range(720)]),
             {"query": 720}),
    Everyday("table.parquet", parquet(pl.DataFrame({"page": PAGES, "clicks": [4, 3, 2], "impressions": [90, 80, 70], "position": [3.5, 4.0, 9.1]})),
             {"page, span": 3}, SPAN, [SPAN]),
    Everyday("packed.csv.gz", gzip.compress(text(["Query", *MEASURES], [*totals(QUERIES), ["Total", 100, 3_000, "3%", 5.0]])), {"query, span": 5},
             SPAN, [SPAN]),
    Everyday("a thousand.csv", text(["Query", "Clicks", "Impressions", "Position"], [[f"query {number}", 1, 40, 5.0] for number in range(1_000)]),
             {"query, span": 1_000}, SPAN, [SPAN], says="cut it off"),
    Everyday("events.csv", text(["Date", "Event"], [["2026-09-21", "New template"]]), {"events": 1}),
]  # fmt: skip
