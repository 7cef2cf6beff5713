"""A reading on its scale: the due ranges as a bracketed block, the reading as a mark."""

from __future__ import annotations

import math

from plentar.core.expected import Expected
from plentar.core.quantity import Quantity
from plentar.words import phrase
from plentar.words.numbers import show

WIDTH, HEIGHT, LEFT, RIGHT = 360, 74, 12, 348
AXIS_Y = 40


def gauge(due: Expected, value: float | None) -> str:
    """The SVG text of one gauge; without ranges, an empty string."""
    if not due.ranges or due.quantity is Quantity.TONE:
        return ""
    top = _top(due)
    parts = [
        f'<svg class="gauge" viewBox="0 0 {WIDTH} {HEIGHT}" role="img"'
        f' aria-label="due {due.text()}{_said(due, value)}">',
        f'<path class="axis" d="M{LEFT} {AXIS_Y}H{RIGHT}"/>',
    ]
    blocks = due.good or tuple(r for r in due.ranges if r.good is None)
    for block in blocks:
        x0, x1 = _x(block.band.low, top), _x(block.band.high, top)
        x1 = max(x1, x0 + 4)
        css = "due" if block.good else "either"
        parts.append(
            f'<path class="{css}" d="M{x0:.1f} {AXIS_Y - 13}h{x1 - x0:.1f}v26h{x0 - x1:.1f}z"/>'
            f'<path class="post" d="M{x0 + 5:.1f} {AXIS_Y - 13}h-5v26h5'
            f'M{x1 - 5:.1f} {AXIS_Y - 13}h5v26h-5"/>'
        )
        parts += _ends(block.band.low, block.band.high, x0, x1)
    if due.nominal is not None and due.good:
        x = _x(due.nominal, top)
        parts.append(f'<path class="nominal" d="M{x:.1f} {AXIS_Y - 9}v18"/>')
    if value is not None:
        parts.append(_mark(value, top))
    return "".join(parts) + "</svg>"


def _top(due: Expected) -> float:
    ends = [end for r in due.ranges for end in (r.band.low, r.band.high) if math.isfinite(end)]
    good = [end for r in due.good for end in (r.band.low, r.band.high) if math.isfinite(end)]
    return 1.45 * max(good or ends) or 1.0


def _x(value: float, top: float) -> float:
    return LEFT + (RIGHT - LEFT) * min(max(value / top, 0.0), 1.0)


def _ends(low: float, high: float, x0: float, x1: float) -> list[str]:
    labels = []
    close = x1 - x0 < 70
    if low > 0:
        anchor = "end" if close else "middle"
        labels.append(_text(x0, low, anchor))
    if math.isfinite(high):
        anchor = "start" if close else "middle"
        labels.append(_text(x1, high, anchor))
    return labels


def _text(x: float, value: float, anchor: str) -> str:
    return f'<text x="{x:.1f}" y="{HEIGHT - 4}" text-anchor="{anchor}">{show(value)}</text>'


def _mark(value: float, top: float) -> str:
    x = _x(value, top)
    arrow = f'<path class="beyond" d="M{RIGHT + 2} {AXIS_Y - 30}l8 8-8 8"/>' if value > top else ""
    return (
        f'<path class="mark" d="M{x:.1f} {AXIS_Y - 15}l-9 -16h18z"/>'
        f'<path class="stem" d="M{x:.1f} {AXIS_Y - 16}v30"/>{arrow}'
    )


def _said(due: Expected, value: float | None) -> str:
    return "" if value is None else phrase("drawing.gauge.read", shown=due.quantity.shown(value))
