"""Reports as documents: every block is in the PDF (read with poppler) and on the page, and user text never becomes markup."""

import re
import subprocess
from datetime import date
from pathlib import Path
from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zugzwang.core.reports.blocks import Block, Chart, Document, Numbers, OwnWords, Part, Sentence, table
from zugzwang.core.reports.charts import WIDTH, bars, lines
from zugzwang.core.reports.reading import as_page
from zugzwang.core.reports.typeset import as_pdf, source_of

EVIL = 'A "quoted" \\ #read("/etc/passwd") *x* $y$ @z <b>bold</b> </text> 95 %'


def document(*blocks: Block) -> Document:
    return Document(
        "Search in October", "https://shop.example, October", "Desk", "desk@desk.example", (Part("Part one", blocks),)
    )


def text_of(pdf: bytes, folder: Path) -> str:
    """The text of a PDF, from poppler's pdftotext."""
    file = folder / "report.pdf"
    file.write_bytes(pdf)
    result = subprocess.run(["pdftotext", "-layout", str(file), "-"], capture_output=True, text=True, check=True).stdout
    return " ".join(result.split())


def test_all_that_is_said_stands_in_the_pdf(tmp_path: Path) -> None:
    result = table(("page", "clicks"), [("/guides/", "1,234"), ("/kayak/", "−5")])
    chart = Chart(bars([("ranking", -3.0, "−3"), ("demand", 8.0, "+8")]), "The parts of the change.")
    own = OwnWords(
        "# Dear all\n\nThis was a **good** month:\n\n- one *thing*\n- [another](https://shop.example/)\n\n```\ncode\n```"
    )
    pdf = as_pdf(document(Sentence(EVIL, lead=True), own, result, chart))
    text = text_of(pdf, tmp_path)
    for wanted in (EVIL, "Dear all", "This was a good month:", "one thing", "another", "code", "/guides/", "1,234", "−5",
                   "The parts of the change.", "ranking", "+8", "Search in October", "1/1", "Part one"):  # fmt: skip
        assert wanted in text, wanted
    assert pdf.startswith(b"%PDF")


def test_lists_within_lists_keep_all_their_words(tmp_path: Path) -> None:
    own = OwnWords("- one\n  - within **one**\n\n    more of it\n- two\n\n1. first")
    text = text_of(as_pdf(document(own)), tmp_path)
    for wanted in ("one", "within one", "more of it", "two", "first"):
        assert wanted in text, wanted


def test_a_title_that_looks_like_a_place_is_a_title(tmp_path: Path) -> None:
    whole = Document('{name} {accent} "#x', "{title}", "{contact_text}", "{name_text}", (Part("{title}", ()),))
    text = text_of(as_pdf(whole), tmp_path)
    for wanted in ('{name} {accent} "#x', "{title}", "{name_text}"):
        assert wanted in text, wanted


@given(st.text(max_size=80))
def test_no_text_becomes_a_command(text: str) -> None:
    source = source_of(document(Sentence(text)))
    assert source.count("#par(text(") == 1
    # The string that holds it ends where it should: what is between its quotes has none that is not escaped.
    inside = re.search(r'#par\(text\("((?:[^"\\]|\\.)*)"\)\)$', source, re.DOTALL)
    assert inside
    assert inside[1].replace('\\"', '"').replace("\\n", "\n").replace("\\\\", "\\") == text.replace("\r", "")


def test_the_page_says_the_same_and_runs_nothing() -> None:
    page = as_page(
        document(Sentence(EVIL), OwnWords("**Well** <script>x()</script> [a](javascript:x())"), table(("a",), [("<i>",)]))
    )
    assert "<script" not in page
    assert 'href="javascript' not in page
    assert "&lt;b&gt;bold&lt;/b&gt;" in page
    assert "<strong>Well</strong>" in page
    assert '<td class=l>&lt;i&gt;</td>' in page  # fmt: skip
    assert 'href="#part-0"' in page


def test_pictures_are_to_scale() -> None:
    drawn = ElementTree.fromstring(bars([("<a>", 10.0, "+10"), ("b", -5.0, "−5")]))
    wide = [float(one.attrib["width"]) for one in drawn.iter() if one.tag.endswith("rect")]
    assert wide[0] == pytest.approx(2 * wide[1], abs=0.1)
    assert all(0 <= float(one.attrib["x"]) <= WIDTH for one in drawn.iter() if one.tag.endswith("rect"))
    weeks = ElementTree.fromstring(lines([10.0, None, 20.0], [5.0, 5.0, 5.0], ("a", "b"), "20"))
    now = next(one.attrib["d"] for one in weeks.iter() if one.attrib.get("stroke-width") == "1.6")
    places = [float(one) for one in re.findall(r" (\d+\.\d)", now)]
    assert now.count("M") == 2  # a week that is not known is a hole
    assert places == [57.0, 14.0]  # half of the height, and all of it
    assert "NaN" not in lines([], [], ("", ""), "")


@pytest.mark.parametrize(
    ("language", "count", "share", "day"),
    [
        ("en_GB", "1,234", "12.3%", "3 Nov 2026"),
        ("de", "1.234", "12,3%", "03.11.2026"),
        ("fr", "1\u202f234", "12,3%", "3 nov. 2026"),
    ],
)
def test_numbers_and_days_are_those_of_the_language(language: str, count: str, share: str, day: str) -> None:
    write = Numbers(language)
    assert (write.count(1234.4), write.share(0.123), write.day(date(2026, 11, 3))) == (count, share, day)
    assert (write.count(None), write.change(-5), write.change(5), write.position(None)) == ("–", "−5", "+5", "–")
    assert Numbers("klingon").count(1234) == "1,234"
