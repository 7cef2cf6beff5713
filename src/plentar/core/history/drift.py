"""Whether a series drifts, by a stated rule, and when it will have left its band.

Readings of one part over the years are each off by some of their meter's accuracy: evenly within
``WITHIN`` of it, nothing else. Then the lines (level, slope) that fit a series are those of a convex
polygon, each as likely as any other, and every question is an area. (A uniform posterior over a feasible
set; the polygon is clipped edge by edge after Sutherland and Hodgman, 1974, the slope that is shown is that of
Theil and Sen: the median of all pairs' slopes.)

The rule: since the last repair there are three readings or more, over a year and a half or more; no one value
fits them all though each be off by ``DRIFT_WITHIN`` of its accuracy, nor all but any one of them where
there are four or more; and one jump does not fit them clearly better than a line. A jump is said to be one.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from statistics import median

import numpy as np

#: How much of a meter's accuracy a reading is off by at most; and for the rule, with room left.
WITHIN, DRIFT_WITHIN = 0.4, 0.45
LEAST_READINGS, LEAST_YEARS = 3, 1.5
#: So much better than a line a jump must fit: three readings tell the two apart badly.
JUMP_FITS = {3: 6.0}
JUMP_FITS_OTHERWISE = 1.5
#: What a forecast holds: from the twentieth to the last twentieth, nine times of ten.
LOW, HIGH = 0.05, 0.95
#: A forecast looks so far ahead, years.
MOST_YEARS = 15.0
#: Where the readings scatter more than their meters should: by which step errors are widened.
WIDER = 1.15
Polygon = list[tuple[float, float]]


@dataclass(frozen=True, slots=True)
class Seen:
    """One reading of a series: when, in years from any day; its value; its meter's accuracy there."""

    years: float
    value: float
    accuracy: float


class Shape(StrEnum):
    TOO_FEW = "too few"
    STEADY = "steady"
    JUMP = "jump"
    DRIFT = "drift"


@dataclass(frozen=True, slots=True)
class Forecast:
    """When a drift will have left its band, in the series' years: nine times of ten between ``early``
    and ``late``, as often before ``middle`` as after. Infinite: not within fifteen years."""

    limit: float
    early: float
    middle: float
    late: float


@dataclass(frozen=True, slots=True)
class Trend:
    """What a series does; ``per_year`` is its robust slope (the median of all pairs'), None where there
    are too few readings."""

    shape: Shape
    per_year: float | None = None
    forecast: Forecast | None = None


def trend_of(series: Sequence[Seen], low: float = -math.inf, high: float = math.inf) -> Trend:
    """The trend of readings in order of time since the last repair; ``low`` and ``high`` bound what is
    due."""
    if len(series) < LEAST_READINGS or series[-1].years - series[0].years < LEAST_YEARS:
        return Trend(Shape.TOO_FEW)
    slope = robust_slope(series)
    if not _moves(series):
        return Trend(Shape.STEADY, slope)
    better = JUMP_FITS.get(len(series), JUMP_FITS_OTHERWISE)
    if better * _jump_error(series) < _line_error(series):
        return Trend(Shape.JUMP, slope)
    limit = high if slope > 0 else low
    return Trend(Shape.DRIFT, slope, forecast(series, limit) if math.isfinite(limit) else None)


def robust_slope(series: Sequence[Seen]) -> float:
    return median(
        (b.value - a.value) / (b.years - a.years)
        for a, b in itertools.combinations(series, 2)
        if b.years > a.years
    )


def _moves(series: Sequence[Seen]) -> bool:
    """No one value fits; of four or more not even with any one reading left out."""
    if _one_value(series):
        return False
    if len(series) == LEAST_READINGS:
        return True
    return not any(_one_value([*series[:n], *series[n + 1 :]]) for n in range(len(series)))


def _one_value(series: Sequence[Seen]) -> bool:
    lows = [s.value - DRIFT_WITHIN * s.accuracy for s in series]
    highs = [s.value + DRIFT_WITHIN * s.accuracy for s in series]
    return max(lows) <= min(highs)


def _line_error(series: Sequence[Seen]) -> float:
    """What a line by least squares leaves."""
    t = np.array([s.years for s in series])
    y = np.array([s.value for s in series])
    left = y - np.polyval(np.polyfit(t - t.mean(), y, 1), t - t.mean())
    return float(left @ left)


def _jump_error(series: Sequence[Seen]) -> float:
    """What two levels leave, parted at the best place."""
    y = np.array([s.value for s in series])
    return min(
        float(((y[:n] - y[:n].mean()) ** 2).sum() + ((y[n:] - y[n:].mean()) ** 2).sum())
        for n in range(1, len(y))
    )


def forecast(series: Sequence[Seen], limit: float) -> Forecast:
    """When lines that fit will have passed a limit, by how many of them have."""
    last = series[-1]
    rising = robust_slope(series) > 0
    lines = _fitting(series)

    def passed(years: float) -> float:
        """The share of the lines that are past the limit by then."""
        sign = 1.0 if rising else -1.0
        past = _cut(lines, (sign, sign * years), sign * limit)
        return _area(past) / _area(lines)

    early, middle, late = (_when(passed, share, last.years) for share in (LOW, 0.5, HIGH))
    return Forecast(limit, early, middle, late)


def _when(passed: Callable[[float], float], share: float, from_years: float) -> float:
    """The time at which a share of the lines has passed; from the last reading on."""
    low, high = from_years - MOST_YEARS, from_years + MOST_YEARS
    if passed(high) < share:
        return math.inf
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (low, middle) if passed(middle) >= share else (middle, high)
    return high


def _fitting(series: Sequence[Seen]) -> Polygon:
    """The lines (level at year nought, slope) that fit, errors widened where none does."""
    within = WITHIN
    while True:
        lines = _lines_within(series, within)
        if _area(lines) > 0.0:
            return lines
        within *= WIDER


def _lines_within(series: Sequence[Seen], within: float) -> Polygon:
    widest = max(s.accuracy for s in series) * within
    span = max(abs(s.value) for s in series) + 2 * widest + 1.0
    span_years = series[-1].years - series[0].years
    steepest = 2 * span / span_years + 1.0
    far = span + steepest * max(abs(s.years) for s in series)
    lines: Polygon = [(-far, -steepest), (far, -steepest), (far, steepest), (-far, steepest)]
    for s in series:
        lines = _cut(lines, (1.0, s.years), s.value - within * s.accuracy)
        lines = _cut(lines, (-1.0, -s.years), -(s.value + within * s.accuracy))
    return lines


def _cut(polygon: Polygon, normal: tuple[float, float], least: float) -> Polygon:
    """What of a convex polygon lies where normal · point ≥ least."""
    found: Polygon = []
    for (ax, ay), (bx, by) in zip(polygon, [*polygon[1:], *polygon[:1]], strict=True):
        a = normal[0] * ax + normal[1] * ay - least
        b = normal[0] * bx + normal[1] * by - least
        if a >= 0:
            found.append((ax, ay))
        if (a >= 0) != (b >= 0):
            share = a / (a - b)
            found.append((ax + share * (bx - ax), ay + share * (by - ay)))
    return found


def _area(polygon: Polygon) -> float:
    """By the shoelace, around its first corner so that far away costs no digits."""
    if len(polygon) < 3:
        return 0.0
    ox, oy = polygon[0]
    return (
        abs(
            sum(
                (ax - ox) * (by - oy) - (bx - ox) * (ay - oy)
                for (ax, ay), (bx, by) in itertools.pairwise(polygon[1:])
            )
        )
        / 2
    )
