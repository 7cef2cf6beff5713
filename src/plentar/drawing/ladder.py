"""The drawing of a unit: two rails a circuit, a rung an element, and the 24 V side below.

One drawing in two forms: ``wide`` for a bench, ``narrow`` for a phone. Sizes are CSS pixels at
scale one, so that text keeps its size. Every part is a link that opens it.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import dataclass, field
from html import escape

from plentar.core.due import Word
from plentar.core.points import points
from plentar.core.unit import Element, Limit, Part, Switch, Unit
from plentar.drawing.glyphs import in_words, shape, tone
from plentar.drawing.symbols import (
    BLOWER,
    CAPACITOR,
    COIL,
    HALF,
    TERMINAL,
    symbol,
    title,
)


@dataclass(frozen=True, slots=True)
class Form:
    """Measures of one form of the drawing, CSS pixels."""

    name: str
    width: int
    rail: int
    head: int
    rung: int
    side: int
    side_slots: int


WIDE = Form("wide", 880, 40, 96, 128, 112, 7)
NARROW = Form("narrow", 366, 12, 96, 124, 108, 3)
FORMS = (WIDE, NARROW)
CIRCUIT_GAP = 18
POWER_WORDS = {"on": "", "off": " · OFF", "proved-dead": " · PROVED DEAD"}


@dataclass(frozen=True, slots=True)
class Badge:
    """The newest reading at a point, as the drawing shows it."""

    text: str
    word: Word
    good: bool | None
    provisional: bool = False


@dataclass(frozen=True, slots=True)
class Scene:
    """What the drawing shows besides the unit."""

    link: Callable[[str], str]
    badges: Mapping[str, Badge] = field(default_factory=dict)
    power: Mapping[str, str] = field(default_factory=dict)
    selected: str = ""
    htmx_target: str = ""


@dataclass(frozen=True, slots=True)
class _Spot:
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True, slots=True)
class _Placed:
    """A touchable part in its place. ``owner`` is the element of the rung that it stands in: a
    part that two rungs share is drawn in both."""

    point: str
    label: str
    note: str
    picture: str
    spot: _Spot
    kind: str = ""
    owner: str = ""


def draw(unit: Unit, form: Form, scene: Scene) -> str:
    """The SVG text of a unit in one form."""
    wires: list[str] = []
    y = 0.0
    for circuit in unit.circuits:
        power = scene.power.get(circuit.id, "on")
        rungs = list(unit.elements_on(circuit.id))
        wires.append(_rails(form, power, y, _circuit_height(form, len(rungs))))
        for index, element in enumerate(rungs):
            wires += _rung_wires(form, element, y + form.head + form.rung * index)
        y += _circuit_height(form, len(rungs)) + CIRCUIT_GAP
    placed = list(_placed(unit, form, scene))
    height = placed[-1].spot.y + placed[-1].spot.height
    parts = "".join(_touch(form, scene, part) for part in placed)
    return (
        f'<svg class="unit {form.name}" viewBox="0 0 {form.width} {height:.0f}" role="group"'
        f' aria-label="Drawing of {escape(unit.label or unit.id)}">{"".join(wires)}{parts}</svg>'
    )


def redraw(unit: Unit, form: Form, scene: Scene, changed: Collection[str]) -> str:
    """The parts at some points alone, to be put in the place of those that a page shows."""
    return "".join(
        _touch(form, scene, part, ' data-hx-swap-oob="true"')
        for part in _placed(unit, form, scene)
        if part.point in changed
    )


def _circuit_height(form: Form, rungs: int) -> float:
    return form.head + form.rung * rungs


def _placed(unit: Unit, form: Form, scene: Scene) -> Iterator[_Placed]:
    """Every touchable part, from the lugs down."""
    y = 0.0
    for circuit in unit.circuits:
        inset = form.rail + 22
        spot = _Spot(inset, y + 4, form.width - 2 * inset, form.head - 12)
        state = POWER_WORDS[scene.power.get(circuit.id, "on")]
        breaker = f"{circuit.breaker_amps:g} A breaker" if circuit.breaker_amps else "breaker ?"
        note = f"{circuit.rated_volts:g} V · {breaker}{state}"
        yield _Placed(circuit.id, f"Lugs {circuit.id}", note, "", spot)
        rungs = list(unit.elements_on(circuit.id))
        for index, element in enumerate(rungs):
            top = y + form.head + form.rung * index
            for part_id, left, slot in _slots(form, element):
                part = unit.part_by_id[part_id]
                spot = _Spot(left, top, slot, form.rung)
                yield _Placed(
                    part_id, part_id, _plate(part), symbol(part), spot, title(part), element.id
                )
        y += _circuit_height(form, len(rungs)) + CIRCUIT_GAP
    slot = form.width / form.side_slots
    for index, (point, label, note, picture) in enumerate(_side_points(unit)):
        row, column = divmod(index, form.side_slots)
        spot = _Spot(column * slot, y + row * form.side, slot, form.side)
        yield _Placed(point, label, note, picture, spot)


def _slots(form: Form, element: Element) -> Iterator[tuple[str, float, float]]:
    """Each part of a rung with its left edge and width."""
    slot = (form.width - 2 * form.rail) / len(element.rung)
    for index, part_id in enumerate(element.rung):
        yield part_id, form.rail + index * slot, slot


def _rails(form: Form, power: str, y: float, height: float) -> str:
    left, right, inset = form.rail, form.width - form.rail, form.rail + 22
    return (
        f'<path class="rail {power}" d="M{left} {y + 26:.0f}V{y + height - 40:.0f}"/>'
        f'<path class="rail {power}" d="M{right} {y + 26:.0f}V{y + height - 40:.0f}"/>'
        f'<text class="leg" x="{left}" y="{y + 18:.0f}" text-anchor="middle">L1</text>'
        f'<text class="leg" x="{right}" y="{y + 18:.0f}" text-anchor="middle">L2</text>'
        f'<path class="feed {power}" d="M{left} {y + 34:.0f}H{inset}'
        f'M{right} {y + 34:.0f}H{form.width - inset}"/>'
    )


def _rung_wires(form: Form, element: Element, y: float) -> Iterator[str]:
    wire_y = y + 44
    for _, left, slot in _slots(form, element):
        centre = left + slot / 2
        yield (
            f'<path class="wire" d="M{left:.1f} {wire_y:.0f}H{centre - HALF:.1f}'
            f'M{centre + HALF:.1f} {wire_y:.0f}H{left + slot:.1f}"/>'
        )


def _plate(part: Part) -> str:
    match part:
        case Element():
            return f"{part.rated_watts / 1000:g} kW · {part.rated_volts:g} V"
        case Switch():
            return f"{part.on_s.low:g}–{part.on_s.high:g} s"
        case Limit():
            return f"{part.opens_f:g} °F" if part.opens_f else ""
        case _:
            return ""


def _side_points(unit: Unit) -> Iterator[tuple[str, str, str, str]]:
    """Points off the rungs, with label, note and picture: control side, blower."""
    yield "R", "R–C", f"{unit.control_power.volts:g} V", TERMINAL
    for control in unit.controls:
        call = control.call or f"by {control.through}"
        yield f"{control.id}.coil", f"{control.id} coil", call, COIL
    if unit.blower is not None:
        if unit.blower.relay is not None:
            relay = unit.blower.relay
            yield f"{relay.id}.coil", f"{relay.id} coil", relay.call, COIL
        fla = unit.blower.fla
        yield "blower", "blower", f"{fla:g} A FLA" if fla else "", BLOWER
        if unit.blower.motor == "psc":
            mark = unit.blower.capacitor_uf
            yield "capacitor", "capacitor", f"{mark:g} µF" if mark else "", CAPACITOR


def _touch(form: Form, scene: Scene, part: _Placed, extra: str = "") -> str:
    """One touchable part: symbol on the wire, its id above, plate and reading below."""
    badge, spot = scene.badges.get(part.point), part.spot
    centre = spot.x + spot.width / 2
    chosen = " chosen" if part.point == scene.selected else ""
    href = escape(scene.link(part.point))
    # What is written on the part comes first and in the same order: people say it to select it.
    written = " ".join(filter(None, [part.label, part.note, badge.text if badge else ""]))
    spoken = ", ".join(filter(None, [written, part.kind, _spoken(badge)]))
    if scene.htmx_target:
        extra += f' data-hx-get="{href}" data-hx-target="{scene.htmx_target}"'
    id_y, note_y, read_y = (16, 76, 102) if part.picture else (22, 42, 70)
    return (
        f'<a class="part{chosen}" id="{form.name}-{part.owner}-{part.point}" href="{href}"{extra}'
        f' aria-label="{escape(spoken)}">'
        f'<rect class="touch" x="{spot.x + 2:.1f}" y="{spot.y:.1f}" width="{spot.width - 4:.1f}"'
        f' height="{spot.height - 4:.1f}" rx="10"/>'
        f'<g transform="translate({centre:.1f} {spot.y + 44:.1f})">{part.picture}</g>'
        f'<text class="id" x="{centre:.1f}" y="{spot.y + id_y:.1f}">{escape(part.label)}</text> '
        f'<text class="plate" x="{centre:.1f}" y="{spot.y + note_y:.1f}">{escape(part.note)}</text> '
        f"{_badge(badge, centre, spot.y + read_y)}</a>"
    )


def _badge(badge: Badge | None, x: float, y: float) -> str:
    if badge is None:
        return ""
    dashed = " provisional" if badge.provisional else ""
    half = 6.1 * len(badge.text)
    return (
        f'<g class="badge tone-{tone(badge.word, badge.good)}{dashed}">'
        f'<g class="glyph" transform="translate({x - half - 15:.1f} {y - 16:.1f})">'
        f"{shape(badge.word)}</g>"
        f'<text class="read" x="{x + 9:.1f}" y="{y:.1f}">{escape(badge.text)}</text></g>'
    )


def _spoken(badge: Badge | None) -> str:
    if badge is None:
        return "not read"
    return in_words(badge.word, badge.provisional)


def drawn_points(unit: Unit) -> list[str]:
    """The points that the drawing shows; the others are reached through the list of points."""
    shown = {c.id for c in unit.circuits} | {p for e in unit.elements for p in e.rung}
    shown |= {point for point, *_ in _side_points(unit)}
    return [p.name for p in points(unit) if p.name in shown]
