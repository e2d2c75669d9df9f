"""Secrets in addresses and headers: created once, stored as a digest, found by it."""

import hashlib
import secrets


def new_secret() -> str:
    """256 random bits, as characters allowed in addresses."""
    return secrets.token_urlsafe(32)


def digest_of(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()
