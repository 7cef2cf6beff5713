"""One series of a unit's history as a small plot: values over the years, what is due, repairs."""

from __future__ import annotations

import math
from collections.abc import Callable
from datetime import date
from html import escape

from plentar.core.history.drift import Shape
from plentar.core.history.series import History, in_years
from plentar.words.numbers import show

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 340, 120, 8, 332, 14, 96
DOT = 5.0
LABEL_Y = HEIGHT - 8


def history_plot(history: History, link: Callable[[str], str], today: date) -> str:
    """The SVG text; a value leads to its visit by ``link``."""
    forecast = history.trend.forecast
    shown = [in_years(v.day) for v in history.values] + [in_years(d) for d in history.repairs]
    last = max([in_years(today), *shown])
    if forecast is not None and math.isfinite(forecast.late):
        last = max(last, forecast.late)
    first = min(shown)
    across = _scale(first, max(last, first + 1.0), LEFT + DOT, RIGHT - DOT)
    values = [v.added.value for v in history.values]
    due = history.values[-1].added.due
    bounds = [b for b in (due.low, due.high) if math.isfinite(b)]
    up = _scale(*_span([*values, *bounds]), BOTTOM, TOP)
    drawn = [
        _due(due.low, due.high, up),
        *(_repair(across(in_years(day)), day) for day in history.repairs),
        _line(history, across, up),
        *(
            _value(
                across(in_years(v.day)),
                up(v.added.value),
                v.day,
                shown_value(history, v.added.value),
                link(v.key),
            )
            for v in history.values
        ),
        _years(first, last, across),
    ]
    said = f"{history.part}, {history.said.title}: {', '.join(shown_value(history, v) for v in values)}"
    return (
        f'<svg class="series" viewBox="0 0 {WIDTH} {HEIGHT}" role="group"'
        f' aria-label="{escape(said)}">{"".join(drawn)}</svg>'
    )


def shown_value(history: History, value: float) -> str:
    """A value of a series with its unit; of one in powers of ten the power."""
    return show(10**value if history.said.log else value, history.said.sign)


def _span(values: list[float]) -> tuple[float, float]:
    low, high = min(values), max(values)
    room = 0.12 * (high - low) or max(abs(high) * 0.1, 0.1)
    return low - room, high + room


def _scale(low: float, high: float, start: float, end: float) -> Callable[[float], float]:
    return lambda value: start + (end - start) * (value - low) / (high - low)


def _due(low: float, high: float, up: Callable[[float], float]) -> str:
    """The band that is due; where one side is open, up to the frame."""
    if not math.isfinite(low) and not math.isfinite(high):
        return ""
    top = up(high) if math.isfinite(high) else TOP - 8
    bottom = up(low) if math.isfinite(low) else BOTTOM + 4
    return f'<rect class="due" x="{LEFT}" y="{top:.1f}" width="{RIGHT - LEFT}" height="{max(bottom - top, 1):.1f}"/>'


def _repair(x: float, day: date) -> str:
    return (
        f'<path class="repair" d="M{x:.1f} {TOP - 6}V{BOTTOM + 4}m-5 0h10"/>'
        f'<text class="repair" x="{x:.1f}" y="{TOP - 4}" text-anchor="middle">new {day:%Y}</text>'
    )


def _line(history: History, across: Callable[[float], float], up: Callable[[float], float]) -> str:
    """Of a drift its way to the limit, and when it will be there."""
    forecast, slope = history.trend.forecast, history.trend.per_year
    if history.trend.shape is not Shape.DRIFT or slope is None:
        return ""
    last = history.values[-1]
    x, y = across(in_years(last.day)), up(last.added.value)
    if forecast is None or not math.isfinite(forecast.middle):
        ahead = in_years(last.day) + 1.0
        return f'<path class="ahead" d="M{x:.1f} {y:.1f}L{across(ahead):.1f} {up(last.added.value + slope):.1f}"/>'
    if forecast.middle <= in_years(last.day):
        return ""  # it is past its limit already
    limit = up(forecast.limit)
    late = min(across(forecast.late), RIGHT) if math.isfinite(forecast.late) else RIGHT
    early = max(across(forecast.early), LEFT)
    return (
        f'<path class="ahead" d="M{x:.1f} {y:.1f}L{across(forecast.middle):.1f} {limit:.1f}"/>'
        f'<path class="between" d="M{early:.1f} {limit:.1f}H{late:.1f}m0 -5v10M{early:.1f} {limit - 5:.1f}v10"/>'
    )


def _value(x: float, y: float, day: date, said: str, href: str) -> str:
    return (
        f'<a href="{escape(href)}" aria-label="{escape(f"{day:%B %Y}: {said}")}">'
        f'<circle class="touch" cx="{x:.1f}" cy="{y:.1f}" r="14"/>'
        f'<circle class="value" cx="{x:.1f}" cy="{y:.1f}" r="{DOT}"/></a>'
    )


def _years(first: float, last: float, across: Callable[[float], float]) -> str:
    every = range(math.ceil(first), math.floor(last) + 1)
    step = max(1, len(every) // 6)
    return "".join(
        f'<text class="year" x="{across(year):.1f}" y="{LABEL_Y}" text-anchor="middle">{year}</text>'
        for year in list(every)[::step]
    )
