"""Secrets that a person or script shows once: made at random, kept as a hash."""

import hashlib
import secrets

TOKEN_PREFIX = "dosis_"  # by which a token that lies about is known


def new_secret(prefix: str = "") -> str:
    """256 random bits in 43 characters."""
    return prefix + secrets.token_urlsafe(32)


def hash_of(secret: str) -> bytes:
    """What is kept: of 256 random bits a fast hash cannot be turned back."""
    return hashlib.sha256(secret.encode()).digest()
