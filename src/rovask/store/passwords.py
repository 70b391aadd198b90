"""Passwords: hashed with argon2id, held against the common ones and what is easily guessed."""

from __future__ import annotations

import secrets
from functools import lru_cache

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError

SHORTEST, LONGEST = 10, 200
LEAST_SCORE = 2  # of 0 to 4, by the package zxcvbn: some 10^6 guesses and more
LOOKED_AT = 72  # signs of it: longer ones are long enough
_HASHER = PasswordHasher()


@lru_cache(maxsize=1)
def _nobodys() -> str:
    """A hash to verify when there is no such account, so that an answer takes as long either way."""
    return _HASHER.hash(secrets.token_urlsafe(16))


def matches(kept: str | None, password: str) -> bool:
    """Whether a password is the one that is kept; as slow where none is."""
    try:
        _HASHER.verify(kept or _nobodys(), password[:LONGEST])
    except (VerifyMismatchError, InvalidHashError):
        return False
    return kept is not None


def hashed(password: str, name: str) -> str:
    """The hash of a new password. Raises ValueError, saying what is asked of one.

    It is held against the package's shipped lists of common passwords, words and names, and against one's own name.
    """
    if not SHORTEST <= len(password) <= LONGEST:
        raise ValueError(f"A password has {SHORTEST} to {LONGEST} signs; a short sentence is good.")
    from zxcvbn import zxcvbn

    found = zxcvbn(password[:LOOKED_AT], user_inputs=[name, *name.split(), "rovask"])
    if found["score"] < LEAST_SCORE:
        raise ValueError("That is one of the passwords that are tried first; take a short sentence of your own.")
    return _HASHER.hash(password)
