"""The exceptions of the core.

PlentarError
└── BadInput          a value breaks a rule; carries where (a JSON path) and why
"""

from __future__ import annotations

from plentar.core.said import Said


class PlentarError(Exception):
    """Anything that Plentar raises on purpose."""


class BadInput(PlentarError):
    """A value that breaks a rule of the unit, the visit or the reading.

    ``path`` is the JSON path below the thing that was being checked, such as
    ``elements[0].rung[2]``; ``reason`` says what is wrong and what would be right.
    """

    def __init__(self, path: str, reason: Said | str) -> None:
        super().__init__(f"{path}: {reason}" if path else reason)
        self.path = path
        self.reason = reason

    def under(self, prefix: str) -> BadInput:
        """The same complaint seen from one level further out."""
        if not self.path:
            return BadInput(prefix, self.reason)
        joint = "" if self.path.startswith("[") else "."
        return BadInput(f"{prefix}{joint}{self.path}", self.reason)
