"""The exceptions of the store.

PlentarError
├── NotFound     no such row in this shop; a foreign shop's row is no row
├── Conflict     the write does not fit what is there: closed visit, reused id
└── TooMany      a limit on how often, or how many at once
"""

from __future__ import annotations

from plentar.core.errors import PlentarError


class NotFound(PlentarError):
    """No such row in this shop."""


class Conflict(PlentarError):
    """The write does not fit what is there."""


class TooMany(PlentarError):
    """Too many of these at once, or too often; ``wait_s`` says when to try again, if it is known."""

    def __init__(self, text: str, wait_s: float = 0.0) -> None:
        super().__init__(text)
        self.wait_s = wait_s
