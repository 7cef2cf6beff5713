"""A current over time: the curve in as many steps as a screen can show, windows behind it,
what acted before it. Shapes lie at shares of the width; only the curve itself is stretched."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from plentar.core.circuit.network import Real
from plentar.words import phrase
from plentar.words.numbers import clock

HEIGHT, TOP, BOTTOM = 300, 34, 26
INSIDE = HEIGHT - TOP - BOTTOM
#: The height of a line of text.
LINE = 14
BUCKETS, WIDE, TALL = 700, 1000, 1000
#: The share of a phone's width that a letter of a flag takes.
LETTER = 0.022
NICE_AMPS = (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000)
NICE_S = (1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 14400)


@dataclass(frozen=True, slots=True)
class Curve:
    """One column's samples; a gap of more than ``gap_s`` is not bridged."""

    name: str
    t_s: Real
    amps: Real
    gap_s: float


@dataclass(frozen=True, slots=True)
class Stretch:
    low_s: float
    high_s: float
    kind: str
    said: str


@dataclass(frozen=True, slots=True)
class Flag:
    """Something that acted: where, and what it is called."""

    t_s: float
    text: str
    word: str


def plot(
    curves: Sequence[Curve],
    from_s: float,
    to_s: float,
    stretches: Iterable[Stretch] = (),
    flags: Iterable[Flag] = (),
    zero_s: float = 0.0,
) -> str:
    """The SVG of a stretch of time; times are written from ``zero_s`` on."""
    inside = [_within(curve, from_s, to_s) for curve in curves]
    tops = [float(np.nanmax(c.amps)) for c in inside if len(c.amps) and not np.isnan(c.amps).all()]
    top = 1.12 * max([*tops, 1.0])
    said = phrase(
        "drawing.plot.amps-from",
        curves=", ".join(c.name for c in curves),
        from_s=clock(from_s - zero_s),
        to_s=clock(to_s - zero_s),
    )
    parts = [
        f'<svg class="plot" height="{HEIGHT}" role="img" aria-label="{said}" data-plot=""'
        f' data-from="{from_s:.3f}" data-to="{to_s:.3f}">'
    ]
    span = to_s - from_s
    for stretch in stretches:
        x0 = min(max((stretch.low_s - from_s) / span, 0.0), 1.0)
        x1 = min(max((stretch.high_s - from_s) / span, 0.0), 1.0)
        if x1 > x0 or 0 < x0 < 1:
            parts.append(
                f'<rect class="{stretch.kind}" x="{_at(x0)}" y="{TOP}" width="{_at(max(x1 - x0, 0.002))}"'
                f' height="{INSIDE}"><title>{stretch.said}</title></rect>'
            )
    parts += _lines(top)
    paths = "".join(
        f'<path class="curve c{number % 4}" vector-effect="non-scaling-stroke" d="{_path(c, from_s, span, top)}"/>'
        for number, c in enumerate(inside)
    )
    parts.append(
        f'<svg x="0" y="{TOP}" width="100%" height="{INSIDE}" viewBox="0 0 {WIDE} {TALL}"'
        f' preserveAspectRatio="none">{paths}</svg>'
    )
    parts += _labels(from_s, to_s, top, zero_s)
    parts += _flags(flags, from_s, to_s)
    return "".join(parts) + "</svg>"


def _within(curve: Curve, from_s: float, to_s: float) -> Curve:
    a = max(int(np.searchsorted(curve.t_s, from_s)) - 1, 0)
    b = int(np.searchsorted(curve.t_s, to_s, side="right")) + 1
    return Curve(curve.name, curve.t_s[a:b], curve.amps[a:b], curve.gap_s)


def _path(curve: Curve, from_s: float, span: float, top: float) -> str:
    t, amps = curve.t_s, curve.amps
    known = np.isfinite(amps)
    t, amps = t[known], amps[known]
    if len(t) > 2 * BUCKETS:
        t, amps = _thinned(t, amps)
    broken = np.concatenate([[True], np.diff(t) > curve.gap_s]) if len(t) else np.zeros(0, bool)
    x = np.clip((t - from_s) / span, -0.01, 1.01) * WIDE
    y = TALL * (1 - amps / top)
    return "".join(
        f"{'M' if new else 'L'}{px:.1f} {py:.1f}" for px, py, new in zip(x, y, broken, strict=True)
    )


def _thinned(t: Real, amps: Real) -> tuple[Real, Real]:
    """Least and most of every bucket, in the order in which they came."""
    size = len(t) // BUCKETS
    whole = len(t) // size * size
    rows_t, rows = t[:whole].reshape(-1, size), amps[:whole].reshape(-1, size)
    low, high = rows.argmin(axis=1), rows.argmax(axis=1)
    first, second = np.minimum(low, high), np.maximum(low, high)
    row = np.arange(len(rows))
    picked = np.stack([first, second], axis=1)
    return rows_t[row[:, None], picked].ravel(), rows[row[:, None], picked].ravel()


def _levels(top: float) -> Iterable[tuple[float, float]]:
    """Amps at which a line is drawn, and how high it lies."""
    every_amps = next(n for n in NICE_AMPS if top / n <= 6)
    for n in range(int(top / every_amps) + 1):
        yield n * every_amps, TOP + INSIDE * (1 - n * every_amps / top)


def _lines(top: float) -> Iterable[str]:
    for _, y in _levels(top):
        yield f'<line class="grid" x1="0" x2="100%" y1="{y:.1f}" y2="{y:.1f}"/>'


def _labels(from_s: float, to_s: float, top: float, zero_s: float) -> Iterable[str]:
    for amps, y in _levels(top):
        under = y < TOP + LINE  # above it lie the words of what acted
        yield f'<text x="4" y="{y + LINE - 2 if under else y - 3:.1f}">{amps:g} A</text>'
    span = to_s - from_s
    every_s = next((n for n in NICE_S if span / n <= 6), NICE_S[-1])
    first = -(-(from_s - zero_s) // every_s)
    for n in range(int(first), int((to_s - zero_s) / every_s) + 1):
        x = (n * every_s + zero_s - from_s) / span
        anchor = "start" if x < 0.04 else "end" if x > 0.96 else "middle"
        yield (
            f'<line class="tick" x1="{_at(x)}" x2="{_at(x)}" y1="{HEIGHT - BOTTOM}"'
            f' y2="{HEIGHT - BOTTOM + 6}"/>'
            f'<text x="{_at(x)}" y="{HEIGHT - 5}" text-anchor="{anchor}">{clock(n * every_s)}</text>'
        )


def _flags(flags: Iterable[Flag], from_s: float, to_s: float) -> Iterable[str]:
    """Posts with their words above; words that would lie on each other on a phone go on two rows,
    and are left to the list where both are taken."""
    last = {0: -1.0, 1: -1.0}
    for flag in sorted(flags, key=lambda flag: flag.t_s):
        x = (flag.t_s - from_s) / (to_s - from_s)
        if not 0 <= x <= 1:
            continue
        room = max(0.09, LETTER * (len(flag.text) + 1))
        row = 0 if x - last[0] > room else 1
        yield f'<line class="flag {flag.word}" x1="{_at(x)}" x2="{_at(x)}" y1="{TOP - 4}" y2="{HEIGHT - BOTTOM}"/>'
        if x - last[row] > room:
            last[row] = x
            anchor = "start" if x < 0.05 else "end" if x > 0.95 else "middle"
            yield f'<text class="flag {flag.word}" x="{_at(x)}" y="{LINE - 1 + LINE * row}" text-anchor="{anchor}">{flag.text}</text>'


def _at(share: float) -> str:
    return f"{100 * share:.3f}%"
