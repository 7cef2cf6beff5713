"""Passwords: not those that are tried first, and kept as hashes alone."""

from __future__ import annotations

import os
from base64 import b64encode
from collections.abc import Sequence

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from plentar.core.errors import BadInput
from plentar.words import phrase

LEAST_LENGTH = 8
#: Fewer guesses than these find none, in the order in which they are tried: what leaked elsewhere
#: most often, words, names, dates and rows of keys, and all of these with a sign changed.
LEAST_GUESSES = 1_000_000
#: So much of a long one is looked at: what comes after makes it no easier, and looking at signs that
#: may stand for letters takes seconds where there are many.
_LOOKED_AT = 20
_hasher = PasswordHasher()


def _random(count: int) -> str:
    return b64encode(os.urandom(count)).decode().rstrip("=")


#: Checked when the login is unknown, so that both answers take the same time: what no password is known of.
_NOBODY = (
    f"$argon2id$v=19$m={_hasher.memory_cost},t={_hasher.time_cost},p={_hasher.parallelism}"
    f"${_random(_hasher.salt_len)}${_random(_hasher.hash_len)}"
)


def hashed(password: str, about: Sequence[str]) -> str:
    """What is kept of a password. ``about`` is what others know of its owner: login, names.

    Raises BadInput on one that is short or easily guessed.
    """
    from zxcvbn import zxcvbn  # noqa: PLC0415  (its lists take 20 MB: only where one is chosen)

    if len(password) < LEAST_LENGTH:
        raise BadInput("password", phrase("store.passwords.least-characters", least_length=LEAST_LENGTH))
    if zxcvbn(password[:_LOOKED_AT], [*about, "plentar"])["guesses"] < LEAST_GUESSES:
        raise BadInput("password", phrase("store.passwords.this-would-soon-guessed"))
    return _hasher.hash(password)


def is_right(password: str, kept: str | None) -> bool:
    """The password is the one that was kept; where none was, a no takes as long."""
    try:
        return _hasher.verify(kept or _NOBODY, password) and kept is not None
    except (VerificationError, InvalidHashError):
        return False
