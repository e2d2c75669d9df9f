"""Encrypted service tokens: the database alone, or a copy of it, reveals no token."""

import base64
import hashlib
from functools import cache

from cryptography.fernet import Fernet, InvalidToken
from django.conf import settings

MARK = "sealed:"


@cache
def _seal() -> Fernet:
    return Fernet(base64.urlsafe_b64encode(hashlib.sha256(f"tokens {settings.SECRET_KEY}".encode()).digest()))


def sealed(text: str) -> str:
    """A text that only the key next to the database can decrypt; empty stays empty."""
    return MARK + _seal().encrypt(text.encode()).decode() if text else ""


def opened(cached: str) -> str:
    """The decrypted text, or a text from before encryption; empty where the key does not match."""
    if not cached.startswith(MARK):
        return cached
    try:
        return _seal().decrypt(cached.removeprefix(MARK)).decode()
    except InvalidToken:
        return ""
