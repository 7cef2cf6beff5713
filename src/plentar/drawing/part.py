"""A part as it lies in the hand: its terminals in their places, what is joined inside at rest or
driven, the wires on them, and a way that is lit.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Iterator, Mapping
from html import escape

from plentar.core.terminals import PartKind, Terminal
from plentar.drawing.symbols import COIL

LEFT, TOP, COLUMN, ROW = 62, 46, 124, 92
BLADE_W, BLADE_H = 46, 34
#: A contact that is open stops so far from its terminal.
GAP = 30.0
Link = Callable[[str], str]


def part_figure(
    kind: PartKind,
    wires: Mapping[str, Collection[str]],
    *,
    driven: bool = False,
    lit: Collection[tuple[str, str]] = (),
    link: Link | None = None,
    selected: str = "",
) -> str:
    """The SVG text. ``wires`` are words for what leads to a terminal; ``lit`` pairs of terminals on
    the way that does harm; ``link`` makes each terminal a touch."""
    columns = 1 + max(t.column for t in kind.terminals)
    rows = 1 + max(t.row for t in kind.terminals)
    width, height = LEFT * 2 + COLUMN * (columns - 1), TOP * 2 + ROW * (rows - 1) + 22
    drawn = [
        f'<rect class="body" x="6" y="6" width="{width - 12}" height="{height - 12}" rx="10"/>'
    ]
    drawn += _inside(kind, driven=driven)
    drawn += (_lit(kind, pair) for pair in lit if set(pair) <= set(kind.terminal_by_name))
    for terminal in kind.terminals:
        drawn.append(_terminal(terminal, wires.get(terminal.name, ()), link, selected))
    how = "driven" if driven else "at rest"
    said = f"{kind.title}, {how}: {_told(kind, wires)}"
    return (
        f'<svg class="part wide-{columns}" viewBox="0 0 {width} {height}" role="{"group" if link else "img"}"'
        f' aria-label="{escape(said)}">{"".join(drawn)}</svg>'
    )


def _told(kind: PartKind, wires: Mapping[str, Collection[str]]) -> str:
    return "; ".join(f"{t.name} {' and '.join(wires.get(t.name, ())) or 'nothing'}" for t in kind.terminals)  # fmt: skip


def _at(terminal: Terminal) -> tuple[float, float]:
    return LEFT + COLUMN * terminal.column, TOP + ROW * terminal.row


def _inside(kind: PartKind, *, driven: bool) -> Iterator[str]:
    at = {t.name: _at(t) for t in kind.terminals}
    for a, b in kind.tied:
        yield f'<path class="tied" d="{_line(at[a], at[b])}"/>'
    for one in kind.sets:
        for end, closed in ((one.no, driven), (one.nc, not driven)):
            if end is not None:
                yield _contact(at[one.common], at[end], closed)
    (x0, y0), (x1, y1) = at[kind.coil[0]], at[kind.coil[1]]
    middle = (x0 + x1) / 2, (y0 + y1) / 2
    turn = math.degrees(math.atan2(y1 - y0, x1 - x0))
    yield f'<path class="inner" d="{_line((x0, y0), (x1, y1), middle, 22)}"/>'
    yield f'<g transform="translate({middle[0]:.1f} {middle[1]:.1f}) rotate({turn:.1f})">{COIL}</g>'


def _line(
    a: tuple[float, float],
    b: tuple[float, float],
    middle: tuple[float, float] | None = None,
    half: float = 0.0,
) -> str:
    """A line, with a gap of twice ``half`` about its middle."""
    if middle is None:
        return f"M{a[0]:.1f} {a[1]:.1f}L{b[0]:.1f} {b[1]:.1f}"
    length = math.dist(a, b)
    ux, uy = (b[0] - a[0]) / length, (b[1] - a[1]) / length
    before = (middle[0] - half * ux, middle[1] - half * uy)
    after = (middle[0] + half * ux, middle[1] + half * uy)
    return f"{_line(a, before)}{_line(after, b)}"


def _contact(a: tuple[float, float], b: tuple[float, float], closed: bool) -> str:
    """A lever from the common: on the other terminal, or held off it. One that would pass through
    the terminal between bows around it."""
    length = math.dist(a, b)
    ux, uy = (b[0] - a[0]) / length, (b[1] - a[1]) / length
    bow = 44.0 if length > 1.5 * max(ROW, COLUMN) else 14.0
    half = BLADE_H / 2 if abs(uy) > abs(ux) else BLADE_W / 2
    x0, y0 = a[0] + half * ux, a[1] + half * uy
    reach = length - half - (0 if closed else GAP)
    x1, y1 = (
        a[0] + (reach - (half if closed else 0)) * ux,
        a[1] + (reach - (half if closed else 0)) * uy,
    )
    if not closed:
        x1, y1 = x1 + 12 * uy, y1 - 12 * ux
    cx, cy = (x0 + x1) / 2 + bow * uy, (y0 + y1) / 2 - bow * ux
    word = "closed" if closed else "open"
    return (
        f'<path class="lever {word}" d="M{x0:.1f} {y0:.1f}Q{cx:.1f} {cy:.1f} {x1:.1f} {y1:.1f}"/>'
    )


def _lit(kind: PartKind, pair: tuple[str, str]) -> str:
    a, b = (_at(kind.terminal_by_name[name]) for name in pair)
    return f'<path class="lit" d="{_line(a, b)}"/>'


def _terminal(terminal: Terminal, wires: Collection[str], link: Link | None, selected: str) -> str:
    x, y = _at(terminal)
    w = BLADE_W if terminal.blade != "3/16" else 0.75 * BLADE_W
    states = ["terminal", terminal.blade.replace("/", "-")]
    states += ["dummy"] if terminal.dummy else []
    states += ["chosen"] if terminal.name == selected else []
    body = (
        f'<circle r="{BLADE_H / 2 + 2}" cx="{x}" cy="{y}"/>' if terminal.blade == "screw" else
        f'<rect x="{x - w / 2}" y="{y - BLADE_H / 2}" width="{w}" height="{BLADE_H}" rx="3"/>'
    )  # fmt: skip
    name = escape(terminal.name)
    words = escape(", ".join(wires))
    drawn = (
        f'<g class="{" ".join(states)}">{body}<text x="{x}" y="{y + 6}" class="name">{name}</text>'
        f'<text x="{x}" y="{y + BLADE_H / 2 + 18}" class="wire-to">{words}</text></g>'
    )
    if link is None:
        return drawn
    href = escape(link(terminal.name))
    said = f"Terminal {name}: {words or 'nothing on it'}"
    return (
        f'<a href="{href}" data-hx-get="{href}" data-hx-target="#device" aria-label="{said}">'
        f'<rect class="touch" x="{x - COLUMN / 2}" y="{y - ROW / 2}" width="{COLUMN}" height="{ROW}"/>{drawn}</a>'
    )
