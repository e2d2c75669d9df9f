"""The product's language (docs/voice.md): trade terms and plain sentences on screens, in messages, docs and code. The list of
refused words grows whenever a reader finds another. Exceptions are listed with a reason.
"""

import ast
import io
import re
import statistics
import tokenize
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

import pytest
import textstat

from zugzwang.core.words.terms import TERMS
from zugzwang.findings import guide, methods
from zugzwang.findings.registry import FINDINGS

ROOT = Path(__file__).parents[1]
LONGEST, MEDIAN = 30, 14  # words of a sentence
CODE = ("zugzwang", "tests", "bench", "worlds", "demo", "tools")
REFUSED = re.compile(
    r"\b(nobody|somebody|shall|stands?|stood|wants?|told|of ours|of theirs|ours|theirs|held against|put back|far down|unsaid|"
    r"beside|"
    r"foretold|foretells?|whence|linking sites|results? pages?|answer box(es)?|if it got there|at stake|set aside|left alone|"
    r"taken back|by lot|fought over|fight over|up to date with|bring up to date|who did what|nearly ready|off fit|topic folds?|"
    r"pages to write|queries they win|Intake|Standing|Wording)\b"
)
# Text in which a refused word is right, with the reason.
KEPT = (
    "could will would shall should",  # function words of English
    "linking sites",  # a header of tables that people have
    "stand-in",  # the simulated services
)
# Labels that the glossary has another word for.
RETIRED = {
    "shown", "pos.", "usual", "usual clicks", "to gain", "at stake", "stake", "reachable", "lost", "clicks then", "wants",
    "troubles", "ours", "holder page", "answer box", "pages above", "wanted", "said", "untouched", "thin",
}  # fmt: skip
# English in names of other things: patterns, SQL, formats, tests of words.
NO_PROSE = re.compile(
    r"\\|\(\?|SELECT |UPDATE |PRAGMA |INSERT |\^|%\(|<!doctype|<style>|<line|body\{|'none'|=None|; charset|"
    r"\{title\}|here\|click|a an the and"
)
DOCS = sorted(path for path in (ROOT / "docs").rglob("*.md") if "decisions" not in path.parts)  # those are notes of their day


class Text(NamedTuple):
    where: str
    text: str


def _python(*folders: str) -> list[Path]:
    every = (path for folder in folders or ("zugzwang",) for path in (ROOT / folder).rglob("*.py"))
    return sorted(path for path in every if "migrations" not in path.parts and path.name != "test_voice.py")


def _front_end() -> list[Path]:
    return sorted(
        path for path in (ROOT / "web" / "src").rglob("*.ts*") if "generated" not in path.name and ".test." not in path.name
    )


def _where(path: Path, line: int) -> str:
    return f"{path.relative_to(ROOT)}:{line}"


def _documented(tree: ast.Module) -> list[ast.Expr]:
    with_docstring = (ast.Module, ast.ClassDef, ast.FunctionDef, ast.AsyncFunctionDef)
    return [node.body[0] for node in ast.walk(tree) if isinstance(node, with_docstring) and ast.get_docstring(node)]  # type: ignore[misc]


def docstrings() -> Iterator[Text]:
    for path in _python(*CODE):
        for node in _documented(ast.parse(path.read_text())):
            text = str(node.value.value)  # type: ignore[attr-defined]
            yield Text(_where(path, node.lineno), re.sub(r"`[^`]*`|^ *>>>(?:.*\n?.+)*", "", text, flags=re.MULTILINE))


def comments() -> Iterator[Text]:
    for path in _python(*CODE):
        for token in tokenize.generate_tokens(io.StringIO(path.read_text()).readline):
            if token.type == tokenize.COMMENT:
                yield Text(_where(path, token.start[0]), token.string)
    for path in _front_end():
        for number, line in enumerate(path.read_text().splitlines(), 1):
            found = re.search(r"(?:^|\s)(?://|/\*\*?|\*) (.*)$", line)
            if found and "biome-ignore" not in line:
                yield Text(_where(path, number), re.sub("`[^`]*`", "", found[1]))


def messages() -> Iterator[Text]:
    """Messages of the program: every string with a space that is not a docstring; inserted values as "X"."""
    for path in _python():
        tree = ast.parse(path.read_text())
        passed = {id(node.value) for node in _documented(tree)}
        parts = {id(part) for node in ast.walk(tree) if isinstance(node, ast.JoinedStr) for part in node.values}
        for node in ast.walk(tree):
            text = _text_of(node)
            if text is None or id(node) in passed | parts or NO_PROSE.search(text):
                continue
            if " " in text.strip() and re.search("[a-z]{3}", text):
                yield Text(_where(path, node.lineno), text)  # type: ignore[attr-defined]


def _text_of(node: ast.AST) -> str | None:
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        return node.value
    if isinstance(node, ast.JoinedStr):
        return "".join(str(part.value) if isinstance(part, ast.Constant) else "X" for part in node.values)
    return None


_STRINGS = re.compile(r'"([^"\n]*[a-z]{2,} [^"\n]*)"|[>}]\s*([A-Za-z“,.;:][^<>{}=;()[]*[a-z]{2}[^<>{}=;()[]*?)\s*(?=[<{])')
_ATTRIBUTES = re.compile(
    r"^import [\s\S]*?;$|^\s*//.*$|"
    r'\b(?:className|look|width|d|viewBox|points|style|transform|fill|stroke)=(?:"[^"]*"|\{`[^`]*`\})',
    re.MULTILINE,
)


def screens() -> Iterator[Text]:
    """Texts of the front end: text between tags, and strings with a space that are not styles."""
    for path in _front_end():
        source = _ATTRIBUTES.sub("", path.read_text())
        for found in _STRINGS.finditer(source):
            text = " ".join((found[1] or found[2]).split())
            if not re.search(r"(?:^| )(?:text-|bg-|border-|px-|mt-|pl-|flex|grid|items-|size-|min-|hover:)", text):
                yield Text(str(path.relative_to(ROOT)), text)


def prose(path: Path) -> Iterator[Text]:
    """The paragraphs of a document without code, addresses and tables of measurements."""
    text = re.sub(r"```.*?```|<!--.*?-->|`[^`]*`|!\[.*?\]\(.*?\)|\]\([^)]*\)", "", path.read_text(), flags=re.DOTALL)
    for paragraph in text.split("\n\n"):
        if not paragraph.lstrip().startswith("|"):
            yield Text(str(path.relative_to(ROOT)), " ".join(paragraph.split()))


def refused(texts: Iterator[Text]) -> list[str]:
    texts = (Text(one.where, _without_kept(one.text)) for one in texts)
    return [f"{one.where}: {found[0]} in “{one.text[:120]}”" for one in texts if (found := REFUSED.search(one.text))]


def _without_kept(text: str) -> str:
    for kept in KEPT:
        text = text.replace(kept, "")
    return text


def sentences(texts: Iterator[Text]) -> list[Text]:
    return [Text(one.where, part) for one in texts for part in re.split(r"(?<=[.?!:])\s+", one.text) if " " in part]


def test_screens_and_messages_use_no_refused_word() -> None:
    assert refused(screens()) + refused(messages()) == []


def test_docs_use_no_refused_word() -> None:
    paths = [one for one in [*DOCS, ROOT / "README.md", ROOT / "CHANGELOG.md"] if one.name != "voice.md"]  # which lists them
    assert refused(text for path in paths for text in prose(path)) == []


def test_docstrings_and_comments_use_no_refused_word() -> None:
    assert refused(docstrings()) + refused(comments()) == []


def test_sentences_are_short() -> None:
    every = sentences(screens()) + sentences(messages())
    lengths = [len(one.text.split()) for one in every]
    assert len(lengths) > 3_000
    assert [one for one in every if len(one.text.split()) > LONGEST] == []
    assert statistics.median(length for length in lengths if length > 4) <= MEDIAN  # labels are no sentences


def test_labels_are_the_trades() -> None:
    labels = {(finding.name, column.label) for finding in FINDINGS.values() for column in finding.columns if column.label}
    assert len(labels) > 150
    assert sorted(one for one in labels if one[1] in RETIRED) == []


def test_every_word_of_a_list_is_explained() -> None:
    """A column has a sentence, and so has each value that is a term of our own."""
    columns = [(finding.name, one) for finding in FINDINGS.values() for one in finding.columns if one.label]
    assert [(name, one.name) for name, one in columns if not one.explains] == []
    own = {
        "firm",
        "likely",
        "possible",
        "too little data",
        "alternating",
        "wrong page ranks",
        "double listing",
        "unite",
        "refocus",
        "feed",
    }
    assert own <= TERMS.keys()
    assert [
        name for name, text in TERMS.items() if not re.fullmatch(r"[A-Z][^?!]*\.", text) or len(text.split()) > LONGEST
    ] == []


def test_a_refused_word_is_found() -> None:
    assert REFUSED.search("It stands in no list")
    assert not REFUSED.search("It is understandable, and wanting nothing")
    assert refused(iter([Text("here", "No SERP is told of it")])) == ["here: told in “No SERP is told of it”"]
    assert len(list(screens())) > 1_000


@pytest.mark.parametrize("method", methods.sections(), ids=lambda method: str(method["name"]))
def test_each_rule_begins_with_a_plain_answer(method: dict[str, str]) -> None:
    """At most four short sentences without a formula; then examples, formulas and sources."""
    if method["name"] in ("all-lists", "how-far-this-can-be-trusted", "words"):
        return
    answer = " ".join(method["text"].split("\n\n")[0].split())
    parts = re.split(r"(?<=[.?!])\s+(?=[A-Z*])", answer)
    assert len(parts) <= 4
    assert max(len(part.split()) for part in parts) <= LONGEST
    assert not re.search(r"[ΣμΔ√²]| = ", answer)


@pytest.mark.parametrize("path", sorted((ROOT / "docs" / "guide").glob("*.md")), ids=lambda path: path.stem)
def test_the_guide_is_easy_to_read_and_leads_on(path: Path) -> None:
    """Flesch's reading ease (1948), by textstat: 60 and more is plain English."""
    text = path.read_text()
    plain = re.sub(r"```.*?```|!\[.*?\)|\]\([^)]*\)|[#*`\[]", "", text, flags=re.DOTALL)
    assert textstat.flesch_reading_ease(plain) >= 60
    if path.stem != "README":
        assert "**Question:" in text.split("\n\n")[1]
        assert "**Next:**" in text.split("\n\n")[-1]
    for link in re.findall(r"\]\(([^)#]+)", text):
        assert (path.parent / link).exists(), link


def test_help_serves_the_whole_guide() -> None:
    pages = guide.pages()
    assert {page["name"] for page in pages} == {path.stem for path in (ROOT / "docs" / "guide").glob("*.md")} - {"README"}
    assert all(page["question"] for page in pages)
    places = (ROOT / "web" / "src" / "frame" / "places.ts").read_text()
    assert set(re.findall(r'guide: "([a-z-]+)"', places)) <= {page["name"] for page in pages}
