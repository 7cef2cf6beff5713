"""A part as it lies in the hand: its terminals in their places, what is joined inside at rest or
driven, the wires on them, and a way that is lit.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Iterator, Mapping
from html import escape
from types import MappingProxyType

from plentar.core.said import listed
from plentar.core.unit.terminals import PartKind, Terminal
from plentar.drawing.symbols import COIL
from plentar.words import phrase, text

LEFT, TOP, COLUMN, ROW = 72, 46, 128, 92
BLADE_W, BLADE_H = 54, 34
#: How far a contact stands out from its blades; how far one that is open is held off.
OUT, GAP, LIFT = 14.0, 22.0, 16.0
Link = Callable[[str], str]


def part_figure(
    kind: PartKind,
    wires: Mapping[str, Collection[str]],
    *,
    driven: bool = False,
    lit: Collection[tuple[str, str]] = (),
    link: Link | None = None,
    selected: str = "",
    prints: Mapping[str, str] = MappingProxyType({}),
) -> str:
    """The SVG text. ``wires`` are words for what leads to a terminal; ``lit`` pairs of terminals on
    the way that does harm; ``link`` makes each terminal a touch; ``prints`` what is printed at one."""
    columns = 1 + max(t.column for t in kind.terminals)
    rows = 1 + max(t.row for t in kind.terminals)
    width, height = LEFT * 2 + COLUMN * (columns - 1), TOP * 2 + ROW * (rows - 1) + 22
    drawn = [f'<rect class="body" x="6" y="6" width="{width - 12}" height="{height - 12}" rx="10"/>']
    drawn += _inside(kind, driven=driven)
    drawn += (_lit(kind, pair) for pair in lit if set(pair) <= set(kind.terminal_by_name))
    for terminal in kind.terminals:
        drawn.append(_terminal(terminal, wires.get(terminal.name, ()), link, selected))
        drawn += _print(terminal, prints)
    how = phrase("drawing.part.driven" if driven else "drawing.part.rest")
    said = f"{kind.title}, {how}: {_told(kind, wires)}"
    return (
        f'<svg class="housing wide-{columns}" viewBox="0 0 {width} {height}" role="{"group" if link else "img"}"'
        f' aria-label="{escape(said)}">{"".join(drawn)}</svg>'
    )


def _told(kind: PartKind, wires: Mapping[str, Collection[str]]) -> str:
    return "; ".join(
        f"{t.name} {text(listed(wires.get(t.name, ()))) or phrase('nothing')}" for t in kind.terminals
    )


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
    """A lever from the common to the other terminal, or held off it: beside the blades of a column,
    between those of a row."""
    word = "closed" if closed else "open"
    return f'<path class="lever {word}" d="{_lever(a, b, closed=closed)}"/>'


def _lever(a: tuple[float, float], b: tuple[float, float], *, closed: bool) -> str:
    if a[0] == b[0]:
        edge, down = a[0] + BLADE_W / 2, 1 if b[1] > a[1] else -1
        start = f"M{edge} {a[1] + 6 * down}h{OUT}"
        stub = f"M{edge} {b[1]}h{OUT}"
        tip = f"L{edge + OUT} {b[1]}" if closed else f"L{edge + OUT + LIFT} {b[1] - GAP * down}"
    else:
        right = 1 if b[0] > a[0] else -1
        start = f"M{a[0] + right * BLADE_W / 2} {a[1]}h{right * OUT}"
        stub = f"M{b[0] - right * BLADE_W / 2} {b[1]}h{-right * OUT}"
        x = b[0] - right * (BLADE_W / 2 + OUT)
        tip = f"L{x} {b[1]}" if closed else f"L{x - right * 6} {b[1] - LIFT}"
    return start + tip + stub


def _lit(kind: PartKind, pair: tuple[str, str]) -> str:
    a, b = (_at(kind.terminal_by_name[name]) for name in pair)
    inside = any(set(pair) <= set(one.ends) for one in kind.sets)
    return f'<path class="lit" d="{_lever(a, b, closed=True) if inside else _line(a, b)}"/>'


def _print(terminal: Terminal, prints: Mapping[str, str]) -> Iterator[str]:
    """What is printed beside a terminal."""
    if terminal.name in prints:
        x, y = _at(terminal)
        said = escape(prints[terminal.name])
        yield f'<text x="{x - BLADE_W / 2 - 6}" y="{y + 5}" class="print">{said}</text>'


def _terminal(terminal: Terminal, wires: Collection[str], link: Link | None, selected: str) -> str:
    x, y = _at(terminal)
    w = BLADE_W if terminal.blade != "3/16" else 0.75 * BLADE_W
    states = ["terminal", terminal.blade.replace("/", "-")]
    states += ["dummy"] if terminal.dummy else []
    states += ["chosen"] if terminal.name == selected else []
    body = (
        f'<circle r="{BLADE_H / 2 + 2}" cx="{x}" cy="{y}"/>'
        if terminal.blade == "screw"
        else f'<rect x="{x - w / 2}" y="{y - BLADE_H / 2}" width="{w}" height="{BLADE_H}" rx="3"/>'
    )
    name = escape(terminal.name)
    words = escape(", ".join(wires))
    drawn = (
        f'<g class="{" ".join(states)}">{body}<text x="{x}" y="{y + 6}" class="name">{name}</text>'
        f'<text x="{x}" y="{y + BLADE_H / 2 + 18}" class="wire-to">{words}</text></g>'
    )
    if link is None:
        return drawn
    href = escape(link(terminal.name))
    said = phrase("drawing.part.terminal", name=name, value=words or phrase("nothing-on-it"))
    return (
        f'<a href="{href}" data-hx-get="{href}" data-hx-target="#device" aria-label="{said}">'
        f'<rect class="touch" x="{x - COLUMN / 2}" y="{y - ROW / 2}" width="{COLUMN}" height="{ROW}"/>{drawn}</a>'
    )
