"""What the steps of the judge keep for the next look: each in an object of a type of its own."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol, TypeVar, cast


class Shelf(Protocol):
    """What one step keeps. The workspace that it stands in bounds all of them together."""

    @property
    def held_bytes(self) -> int:
        """About what it takes, B."""

    def clear(self) -> None:
        """Forget what is worked out again."""


S = TypeVar("S", bound=Shelf)


class Shelves:
    """One shelf of each type."""

    def __init__(self) -> None:
        self._shelves: dict[type, Shelf] = {}

    def of(self, kind: type[S], make: Callable[[], S] | None = None) -> S:
        """The shelf of this type, made at the first ask."""
        found = self._shelves.get(kind)
        if found is None:
            found = self._shelves[kind] = make() if make is not None else kind()
        return cast(S, found)

    @property
    def held_bytes(self) -> int:
        return sum(shelf.held_bytes for shelf in self._shelves.values())

    def clear(self) -> None:
        """Forget what is worked out again."""
        for shelf in self._shelves.values():
            shelf.clear()
