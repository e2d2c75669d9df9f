"""Words that readers meet: the trade's, and plain. docs/voice.md has the rules and the glossary."""

import ast
import re
from pathlib import Path

import pytest
import textstat

from zugzwang.findings.registry import FINDINGS

ROOT = Path(__file__).parents[1]
WORDS = ROOT / "zugzwang" / "core" / "words"
SENTENCES = [WORDS / "sentences.py", *sorted(WORDS.glob("*_sentences.py"))]
REFUSED = re.compile(
    r"\b(nobody|somebody|shall|stands?|wants?|of ours|of theirs|is told|are told|held against|put back|far down|unsaid|"
    r"linking sites|results? pages?|if it got there|at stake|fought over)\b",
    re.IGNORECASE,
)
# Labels that the glossary has another word for.
RETIRED = {
    "shown", "pos.", "usual", "usual clicks", "to gain", "at stake", "stake", "potential", "lost", "clicks then", "wants",
    "problems", "ours", "holder", "answer box", "pages above", "wanted",
}  # fmt: skip
# Values of a column, which files and addresses carry too: they follow with the names of the API.
VALUES = {"needs links", "unsaid"}


def texts_of(path: Path) -> list[tuple[int, str]]:
    """The strings of a module that are no docstrings, with their lines."""
    tree = ast.parse(path.read_text())
    with_docstring = (ast.Module, ast.ClassDef, ast.FunctionDef)
    documented = [node for node in ast.walk(tree) if isinstance(node, with_docstring) and ast.get_docstring(node)]
    docstrings = {id(node.body[0].value) for node in documented}  # type: ignore[attr-defined]
    return [
        (node.lineno, node.value)
        for node in ast.walk(tree)
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in docstrings
    ]


@pytest.mark.parametrize("path", SENTENCES, ids=lambda path: path.stem)
def test_sentences_about_results_are_plain(path: Path) -> None:
    found = texts_of(path)
    assert found
    assert [(line, text) for line, text in found if text not in VALUES and REFUSED.search(text)] == []


def test_labels_are_the_trades() -> None:
    labels = {(finding.name, column.label) for finding in FINDINGS.values() for column in finding.columns if column.label}
    assert len(labels) > 150
    assert sorted(one for one in labels if one[1] in RETIRED) == []


def test_lists_are_described_in_plain_words() -> None:
    found = [
        (finding.name, text)
        for finding in FINDINGS.values()
        for text in (finding.title, finding.question, *(column.explains for column in finding.columns))
        if REFUSED.search(text) and text not in VALUES
    ]
    assert found == []


def test_a_word_that_is_refused_is_found() -> None:
    assert REFUSED.search("It stands in no list")
    assert not REFUSED.search("It is understandable, and wanting nothing")


GUIDE = sorted((ROOT / "docs" / "guide").glob("*.md"))


@pytest.mark.parametrize("path", GUIDE, ids=lambda path: path.stem)
def test_the_guide_is_easy_to_read_and_leads_on(path: Path) -> None:
    """Flesch's reading ease (1948), by textstat: 60 and more is plain English."""
    text = path.read_text()
    prose = re.sub(r"```.*?```|!\[.*?\)|\]\([^)]*\)|[#*`\[]", "", text, flags=re.DOTALL)
    assert textstat.flesch_reading_ease(prose) >= 60
    assert not REFUSED.search(prose)
    if path.stem != "README":
        assert "**Question:" in text.split("\n\n")[1]
        assert "**Next:**" in text.split("\n\n")[-1]
    for link in re.findall(r"\]\(([^)#]+)", text):
        assert (path.parent / link).exists(), link
