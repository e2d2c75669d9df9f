"""Secrets that are in an address or a header: made once, kept as a digest, looked up by it."""

import hashlib
import secrets


def new_secret() -> str:
    """256 random bits, as letters that are in addresses."""
    return secrets.token_urlsafe(32)


def digest_of(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()
