"""Where one range stops and the next begins: the neighbouring number."""

from __future__ import annotations

import math


def below(value: float) -> float:
    """The largest number under a bound, so that ranges meet without sharing it."""
    return math.nextafter(value, -math.inf) if value > 0 else 0.0


def above(value: float) -> float:
    return math.nextafter(value, math.inf)
