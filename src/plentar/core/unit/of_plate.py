"""What follows from a unit's plate alone, worked out once for all its visits."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.unit.unit import Unit

T = TypeVar("T")
#: About what an answer takes; wrapped, since an answer may be None.
ANSWER_BYTES = 8_000
_ANSWERS: Cache[tuple[str, Unit], tuple[Any]] = Cache("of plates", 16 * MEGABYTE, lambda _: ANSWER_BYTES)


def of_plate(unit: Unit, name: str, make: Callable[[], T]) -> T:
    """The answer of this name for the unit: ``make`` asks its plate and nothing else."""
    found: T = _ANSWERS.get_or_make((name, unit), lambda: (make(),))[0]
    return found
