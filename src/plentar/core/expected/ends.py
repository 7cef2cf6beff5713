"""A partition of readings by its edges and labels, up to infinity."""

from __future__ import annotations

import math
from collections.abc import Sequence

from plentar.core.expected import Range, Word
from plentar.core.quantity import Band
from plentar.core.said import Said

#: What a range is called, whether a good part gives it, and what it means.
Label = tuple[Word, bool | None, Said]


def partition(edges: Sequence[float], *labels: Label, least: float = 0.0) -> tuple[Range, ...]:
    """The ranges between edges that rise, from the least reading on. An edge belongs to the range that ends there, ``below`` leaves it
    to the next; what would hold nothing is left out."""
    lows = (least, *(max(least, math.nextafter(edge, math.inf)) for edge in edges))
    found = zip(lows, (*edges, math.inf), labels, strict=True)
    return tuple(Range(Band(low, high), *label) for low, high, label in found if low <= high)


def below(value: float) -> float:
    """The largest number under a bound."""
    return math.nextafter(value, -math.inf)
