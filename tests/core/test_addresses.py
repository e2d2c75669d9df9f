"""Addresses against RFC 3986: every example of section 5.4, the normal forms of section 6.2.2, and what they must keep."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zugzwang.core.facts.addresses import normal, parts, resolve, without_dots

BASE = "http://a/b/c/d;p?q"
NORMAL_EXAMPLES = {  # RFC 3986, section 5.4.1
    "g:h": "g:h", "g": "http://a/b/c/g", "./g": "http://a/b/c/g", "g/": "http://a/b/c/g/", "/g": "http://a/g", "//g": "http://g",
    "?y": "http://a/b/c/d;p?y", "g?y": "http://a/b/c/g?y", "#s": "http://a/b/c/d;p?q#s", "g#s": "http://a/b/c/g#s",
    "g?y#s": "http://a/b/c/g?y#s", ";x": "http://a/b/c/;x", "g;x": "http://a/b/c/g;x", "g;x?y#s": "http://a/b/c/g;x?y#s",
    "": "http://a/b/c/d;p?q", ".": "http://a/b/c/", "./": "http://a/b/c/", "..": "http://a/b/", "../": "http://a/b/",
    "../g": "http://a/b/g", "../..": "http://a/", "../../": "http://a/", "../../g": "http://a/g",
}  # fmt: skip
ABNORMAL_EXAMPLES = {  # RFC 3986, section 5.4.2; the last as strict parsers read it
    "../../../g": "http://a/g", "../../../../g": "http://a/g", "/./g": "http://a/g", "/../g": "http://a/g",
    "g.": "http://a/b/c/g.", ".g": "http://a/b/c/.g", "g..": "http://a/b/c/g..", "..g": "http://a/b/c/..g",
    "./../g": "http://a/b/g", "./g/.": "http://a/b/c/g/", "g/./h": "http://a/b/c/g/h", "g/../h": "http://a/b/c/h",
    "g;x=1/./y": "http://a/b/c/g;x=1/y", "g;x=1/../y": "http://a/b/c/y", "g?y/./x": "http://a/b/c/g?y/./x",
    "g?y/../x": "http://a/b/c/g?y/../x", "g#s/./x": "http://a/b/c/g#s/./x", "g#s/../x": "http://a/b/c/g#s/../x",
    "http:g": "http:g",
}  # fmt: skip


@pytest.mark.parametrize(("reference", "expected"), [*NORMAL_EXAMPLES.items(), *ABNORMAL_EXAMPLES.items()])
def test_reference_resolution(reference: str, expected: str) -> None:
    assert resolve(BASE, reference) == expected


def test_all_examples_of_the_rfc_are_here() -> None:
    assert (len(NORMAL_EXAMPLES), len(ABNORMAL_EXAMPLES)) == (23, 19)


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("HTTP://www.EXAMPLE.com/", "http://www.example.com/"),  # 6.2.2.1
        ("eXAMPLE://a/./b/../b/%63/%7bfoo%7d", "example://a/b/c/%7Bfoo%7D"),  # 6.2.2
        ("http://www.example.com/%7Esmith", "http://www.example.com/~smith"),  # 6.2.2.2
        ("http://example.com", "http://example.com/"),  # 6.2.3, and the next three
        ("http://example.com/", "http://example.com/"),
        ("http://example.com:/", "http://example.com/"),
        ("http://example.com:80/", "http://example.com/"),
        ("https://example.com:8443/", "https://example.com:8443/"),
        ("http://example.com/straße 1", "http://example.com/stra%C3%9Fe%201"),  # RFC 3987, section 3.1
        ("http://example.com/a%2Fb?c%3dd", "http://example.com/a%2Fb?c%3Dd"),  # reserved signs stay as they were written
    ],
)
def test_normal_form(text: str, expected: str) -> None:
    assert normal(text) == expected


def test_dot_segments() -> None:
    """RFC 3986, section 5.2.4."""
    assert without_dots("/a/b/c/./../../g") == "/a/g"
    assert without_dots("mid/content=5/../6") == "mid/6"


@given(st.text(max_size=60))
def test_any_text_has_a_normal_form_that_stays(text: str) -> None:
    once = normal(f"https://shop.example/{text}")
    assert normal(once) == once
    assert once.isascii()
    assert str(parts(once)) == once
