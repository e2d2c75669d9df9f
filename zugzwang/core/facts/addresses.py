"""Addresses after RFC 3986: the five components, resolution of references, and the normal form of section 6.2.2.

Text outside RFC 3986 (spaces, letters beyond ASCII) is percent-encoded, as in RFC 3987; nothing is rejected here.
"""

import re
from dataclasses import dataclass, replace

_PARTS = re.compile(r"^(?:([^:/?#]+):)?(?://([^/?#]*))?([^?#]*)(?:\?([^#]*))?(?:#(.*))?$", re.DOTALL)  # RFC 3986, appendix B
_SCHEME = re.compile(r"[A-Za-z][A-Za-z0-9+.\-]*\Z")
_ENCODED = re.compile(r"%([0-9A-Fa-f]{2})")
_ENCODED_RUN = re.compile(r"(?:%[0-9A-Fa-f]{2})+")
_TO_ENCODE = re.compile(r"[^A-Za-z0-9\-._~!$&'()*+,;=:@/?%\[\]]|%(?![0-9A-Fa-f]{2})")
_UNRESERVED = frozenset("ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-._~")
_USUAL_PORTS = {"http": "80", "https": "443"}


@dataclass(frozen=True)
class Address:
    """The components of an address; None where one is absent, which differs from empty."""

    scheme: str | None
    authority: str | None
    path: str
    query: str | None
    fragment: str | None

    def __str__(self) -> str:
        """RFC 3986, section 5.3."""
        text = f"{self.scheme}:" if self.scheme is not None else ""
        text += f"//{self.authority}" if self.authority is not None else ""
        text += self.path
        text += f"?{self.query}" if self.query is not None else ""
        return text + (f"#{self.fragment}" if self.fragment is not None else "")

    @property
    def host(self) -> str:
        """The host in lower case, without user and port; empty where there is none."""
        return (self.authority or "").rpartition("@")[2].partition(":")[0].lower()


def parts(text: str) -> Address:
    """The components of an address or reference (RFC 3986, appendix B)."""
    found = _PARTS.match(text)
    if found is None:
        raise ValueError(f"no address: {text!r}")
    scheme, authority, path, query, fragment = found.groups()
    if scheme is not None and not _SCHEME.match(scheme):
        scheme, path = None, f"{scheme}:{path}"
    return Address(scheme, authority, path, query, fragment)


def path_of(address: str) -> str:
    """An address without its host, which identifies a page within its site.

    >>> path_of("https://shop.example/a/?b=1"), path_of("https://shop.example")
    ('/a/?b=1', '/')
    """
    return "/" + address.partition("://")[2].partition("/")[2]


def decoded(text: str) -> str:
    """The text with percent-encoded bytes read as UTF-8, for display and words; never use it as an address."""
    return _ENCODED_RUN.sub(lambda run: bytes.fromhex(run[0].replace("%", "")).decode("utf-8", "replace"), text)


def resolve(base: str, reference: str) -> str:
    """The address that a reference on a page at `base` resolves to (RFC 3986, section 5.2.2, strict)."""
    values, there = parts(reference), parts(base)
    if values.scheme is not None:
        return str(replace(values, path=without_dots(values.path)))
    if values.authority is not None:
        return str(replace(values, scheme=there.scheme, path=without_dots(values.path)))
    if values.path == "":
        query = values.query if values.query is not None else there.query
        return str(replace(there, query=query, fragment=values.fragment))
    path = values.path if values.path.startswith("/") else _merged(there, values.path)
    return str(replace(there, path=without_dots(path), query=values.query, fragment=values.fragment))


def _merged(base: Address, path: str) -> str:
    """RFC 3986, section 5.2.3."""
    if base.authority is not None and base.path == "":
        return f"/{path}"
    return base.path[: base.path.rfind("/") + 1] + path


def without_dots(path: str) -> str:
    """The path without dot segments (RFC 3986, section 5.2.4): /a/b/c/./../../g → /a/g."""
    if "/." not in path and not path.startswith("."):
        return path
    result: list[str] = []
    segments = path.split("/")
    for number, segment in enumerate(segments):
        last = number == len(segments) - 1
        if segment == "..":
            if len(result) > 1 or (result and result[0] != ""):
                result.pop()
            if last:
                result.append("")
        elif segment == ".":
            if last:
                result.append("")
        else:
            result.append(segment)
    # An absolute path stays absolute, however many steps up it goes.
    if path.startswith("/") and (not result or result[0] != ""):
        result.insert(0, "")
    return "/".join(result) if result != [""] or not path.startswith("/") else "/"


def normal(text: str) -> str:
    """The normal form of RFC 3986, sections 6.2.2 (case, percent-encoding, dots) and 6.2.3 (default port, empty path).

    >>> normal("HTTP://www.EXAMPLE.com:80/%7esmith/./a")
    'http://www.example.com/~smith/a'
    """
    values = parts(text.strip())
    scheme = values.scheme.lower() if values.scheme is not None else None
    authority = values.authority
    if authority is not None:
        user, at, host = authority.rpartition("@")
        name, colon, port = host.partition(":") if not host.startswith("[") else (host, "", "")
        if port in ("", _USUAL_PORTS.get(scheme or "")):
            colon = port = ""
        authority = _encoded(user) + at + _encoded(name).lower() + colon + port
    path = without_dots(_encoded(values.path))
    if authority is not None and path == "":
        path = "/"
    query = None if values.query is None else _encoded(values.query)
    fragment = None if values.fragment is None else _encoded(values.fragment)
    return str(Address(scheme, authority, path, query, fragment))


def _encoded(text: str) -> str:
    """Percent-encoding in normal form: upper-case digits, unreserved characters decoded, everything else encoded."""
    if text.isascii() and "%" not in text and not _TO_ENCODE.search(text):
        return text
    text = _TO_ENCODE.sub(lambda found: "".join(f"%{byte:02X}" for byte in found[0].encode("utf-8", "replace")), text)

    def put_right(found: re.Match[str]) -> str:
        character = chr(int(found[1], 16))
        return character if character in _UNRESERVED else found[0].upper()

    return _ENCODED.sub(put_right, text)
