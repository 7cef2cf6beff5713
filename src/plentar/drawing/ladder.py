"""Blocks of rungs → SVG, in two forms: ``wide`` for a bench, ``narrow`` for a phone.

Sizes are CSS pixels at scale one, so that text keeps its size. Every part is a link that opens it.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Iterator, Sequence
from html import escape

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.unit.unit import Unit
from plentar.drawing.blocks import Block, Rung, control_block, line_blocks
from plentar.drawing.parts import FORMS, Form, Placed, Scene, Spot, handle, touch
from plentar.drawing.surroundings import surrounding_blocks
from plentar.drawing.symbols import HALF
from plentar.words import chosen, language, phrase
from plentar.words.measures import Measures, used

BLOCK_GAP = 16
WIRE_Y = 44
#: Breaker and thermostat handles on the drawing.
HANDLE_WIDTH, HANDLE_HEIGHT = 96.0, 44.0
CALL_WIDTH, CALL_HEIGHT = 58.0, 40.0
#: About what the places of a point take, its pictures included.
PLACE_BYTES = 2_500


def draw_line_side(unit: Unit, form: Form, scene: Scene) -> str:
    """The SVG text of the supply circuits with their rungs, the blower's among them."""
    title = phrase("drawing.ladder.drawing", value=unit.label or unit.id)
    return _draw(tuple(line_blocks(unit, scene)), form, scene, title)


def draw_control_side(unit: Unit, form: Form, scene: Scene) -> str:
    """The SVG text of the 24 V side."""
    title = phrase("drawing.ladder.24-volt-side", value=unit.label or unit.id)
    return _draw((control_block(unit, scene),), form, scene, title)


def draw_surroundings(unit: Unit, form: Form, scene: Scene) -> str:
    """The SVG text of the supplies from panel to kit, and of the air path."""
    title = phrase("drawing.ladder.supply-air", value=unit.label or unit.id)
    return _draw(tuple(surrounding_blocks(unit, scene)), form, scene, title)


def redraw(unit: Unit, scene: Scene, changed: Iterable[str]) -> str:
    """The parts at some points alone, in every form, to be put in the place of those on a page."""
    places = _PLACES.get_or_make((language(), used(), unit, scene.stand), lambda: _places(unit, scene))
    return "".join(
        touch(form, scene, part, ' data-hx-swap-oob="true"')
        for point in changed
        for form, part in places.get(point, ())
    )


_Places = dict[str, list[tuple[Form, Placed]]]
#: By language, unit and stand. What is read changes no part's place: only what is written on it.
_PLACES: Cache[tuple[str, Measures, Unit, Hashable], _Places] = Cache(
    "places", 8 * MEGABYTE, lambda places: PLACE_BYTES * len(places)
)


def _places(unit: Unit, scene: Scene) -> _Places:
    """Every touchable part of a unit as its switches stand, by its point."""
    found: _Places = {}
    for blocks in (
        tuple(line_blocks(unit, scene)),
        (control_block(unit, scene),),
        tuple(surrounding_blocks(unit, scene)),
    ):
        for form in FORMS:
            for part in _placed(blocks, form):
                found.setdefault(part.point, []).append((form, part))
    return found


def _draw(blocks: Sequence[Block], form: Form, scene: Scene, title: str) -> str:
    wires: list[str] = []
    handles: list[str] = []
    y = 0.0
    for block in blocks:
        wires += _rails(block, form, y)
        for index, rung in enumerate(block.rungs):
            wires += _wires(rung, form, scene, y + form.head + form.rung * index)
        handles += _handles(block, form, scene, y)
        y += _height(block, form) + BLOCK_GAP
    parts = "".join(touch(form, scene, part) for part in _placed(blocks, form))
    return (
        f'<svg class="unit {form.name}" viewBox="0 0 {form.width} {y:.0f}" role="group"'
        f' aria-label="{escape(title)}">{"".join(wires)}{parts}{"".join(handles)}</svg>'
    )


def _height(block: Block, form: Form) -> float:
    return form.head + form.rung * len(block.rungs)


def _placed(blocks: Sequence[Block], form: Form) -> Iterator[Placed]:
    """Every touchable part, from the lugs down."""
    y = 0.0
    inset = form.rail + 22
    for block in blocks:
        room: float = form.width - 2 * inset
        shift = 0.0
        if form.width < 500:  # leaves the handle its place beside the head
            room -= HANDLE_WIDTH
            shift = HANDLE_WIDTH
        point, label, note = block.head
        yield Placed(point, label, note, "", Spot(inset + shift, y + 4, room, form.head - 12))
        for index, rung in enumerate(block.rungs):
            top = y + form.head + form.rung * index
            standing = list(zip(rung.items, _slots(rung, form), strict=True))
            if rung.aside is not None:
                third = form.width / 3
                standing.append((rung.aside, (form.width - form.rail - third, third)))
            for item, (left, slot) in standing:
                spot = Spot(left, top, slot, form.rung)
                yield Placed(item.point, item.label, item.note, item.picture, spot, item.kind, rung.owner)
        y += _height(block, form) + BLOCK_GAP


def _slots(rung: Rung, form: Form) -> list[tuple[float, float]]:
    """Left edge and width of each part's slot. A rung that joins or ends takes the left half; one that
    begins at a named place leaves room for the name."""
    left, right = float(form.rail), float(form.width - form.rail)
    if rung.joins or rung.ends:
        right = (left + right) / 2
    if rung.start:
        left += 0.24 * (form.width - 2 * form.rail)
    slot = (right - left) / max(1, len(rung.items))
    return [(left + index * slot, slot) for index in range(len(rung.items))]


def _rails(block: Block, form: Form, y: float) -> Iterator[str]:
    bottom = y + form.head + form.rung * (len(block.rungs) - 1) + WIRE_Y
    yield from (
        f'<path class="rail {block.power}" d="M{x} {y + 26:.0f}V{bottom:.0f}"/>'
        f'<text class="leg" x="{_beside(form, x, name)}" y="{y + 18:.0f}">{chosen(name)}</text>'
        for x, name in ((form.rail, block.left), (form.width - form.rail, block.right))
    )


def _beside(form: Form, x: int, name: str) -> int:
    """The middle of a rail's name: over the rail, and never past the edge."""
    half = 2 + 4 * len(name) if len(name) > len("L1") else 0
    return min(max(x, 14, half), form.width - max(half, 2))


def _wires(rung: Rung, form: Form, scene: Scene, y: float) -> Iterator[str]:
    wire_y = y + WIRE_Y
    slots = _slots(rung, form)
    if not slots:
        return
    first, last = slots[0][0], slots[-1][0] + slots[-1][1]
    if rung.start:
        css = scene.wire_class(rung.items[0].a, rung.items[0].branch)
        yield (
            f'<circle class="node" cx="{form.rail + 18}" cy="{wire_y:.0f}" r="4"/>'
            f'<path class="{css}" d="M{form.rail + 22} {wire_y:.0f}H{first:.1f}"/>'
            f'<text class="from" x="{form.rail + 12}" y="{wire_y - 10:.0f}">{escape(rung.start)}</text>'
        )
    for item, (left, slot) in zip(rung.items, slots, strict=True):
        centre = left + slot / 2
        for node, start, end in ((item.a, left, centre - HALF), (item.b, centre + HALF, left + slot)):
            if node or not rung.ends:
                css = scene.wire_class(node, item.branch)
                yield f'<path class="{css}" d="M{start:.1f} {wire_y:.0f}H{end:.1f}"/>'
        if item.point in scene.bridged:
            yield (
                f'<path class="jumper" d="M{centre - 40:.1f} {wire_y:.0f}v13h80v-13"/>'
                f'<text class="from" x="{centre + 46:.1f}" y="{wire_y + 18:.0f}">jumper</text>'
            )
    if rung.joins:  # up to the wire between relay and blower
        css = scene.wire_class(rung.items[-1].b, rung.items[-1].branch)
        up = wire_y - form.rung
        yield (
            f'<path class="{css}" d="M{last:.1f} {wire_y:.0f}V{up:.0f}"/>'
            f'<circle class="node" cx="{last:.1f}" cy="{up:.0f}" r="4"/>'
        )


def _handles(block: Block, form: Form, scene: Scene, y: float) -> Iterator[str]:
    """The breaker beside the lugs; the wires' handle beside R."""
    name = "lifted" if block.name == "24V" else block.name
    if name in scene.handles:
        x = form.rail + 14
        spot = Spot(x, y + 30, HANDLE_WIDTH, HANDLE_HEIGHT)
        yield handle(form, name, scene.handles[name], spot)
    if block.name != "24V":
        return
    for index, rung in enumerate(block.rungs):
        if rung.owner in scene.handles:
            top = y + form.head + form.rung * index
            left, _ = _slots(rung, form)[0]
            spot = Spot(left + 6, top - 2, CALL_WIDTH, CALL_HEIGHT)
            yield handle(form, rung.owner, scene.handles[rung.owner], spot)
