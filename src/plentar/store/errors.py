"""The exceptions of the store.

PlentarError
├── NotFound     no such row in this shop; a foreign shop's row is no row
├── Conflict     the write does not fit what is there: closed visit, reused id
└── TooMany      the sign-in rate limit
"""

from __future__ import annotations

from plentar.core.errors import PlentarError


class NotFound(PlentarError):
    """No such row in this shop."""


class Conflict(PlentarError):
    """The write does not fit what is there."""


class TooMany(PlentarError):
    """Too many wrong passwords; try again later."""
